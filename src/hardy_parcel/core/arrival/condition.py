"""The condition scale: how much of the master is left in a picture, 0 to 100, and the words of ITU-R BT.500 (rules §5).

A picture's likeness to the master is measured in `media.likeness` as three parts on one raster: detail kept D, information kept V,
and the movement M of the master, which hides loss. Averaged over the pictures they give

    z(D, V) = a + b·D^p + c·V + d·M                                                            (1)
    S(z) = s·[ln(1 + e^(z/s)) − ln(1 + e^((z−100)/s))]                                         (2)
    condition = min(100, 100·S(z(D, V)) ÷ S(z(1, 1)))                                          (3)

fitted to a published full-reference perceptual score (0–100, for 1080 lines seen from three picture heights); `make condition`
prints how well. The scale is blind to brightness and colour, which are guarded beside it, and untested for chroma, HDR, more than
30 pictures a second, dropped pictures and banding.
"""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence

import numpy as np

from ..values import Model

PERFECT_DB = 70.0
"""XPSNR given to identical pictures, whose distortion is nothing; no encode here measures above it."""
NOTICEABLE_STEP = 6.0
OFFSET, DETAIL, DETAIL_POWER, INFORMATION, MOVEMENT, SOFTNESS = -32.7, 82.8, 3.49, 51.4, 1.2, 3.24
"""a, b, p, c, d and s of equations 1 and 2, fitted on 14 clips and tried on 8 others: 1.8 points RMSE on clips left out."""
MOST_MOVEMENT = 20.0
SHIFTED_LUMA, SHIFTED_CHROMA = 2.0, 2.5
"""Mean levels by which a picture may differ from the master before its brightness or colour is said to be changed. Scaling and
coding alone stay below 0.6 on the demo masters."""


class Likeness(Model):
    """One stream's pictures against the master's on one raster (px): the parts of condition, XPSNR in dB, and shifts of mean levels.

    `luma_shift` and `chroma_shift` are in 8-bit code values, the latter the larger of Cb's and Cr's.
    """

    raster: tuple[int, int]
    detail: float
    information: float
    movement: float
    xpsnr_db: float
    luma_shift: float = 0.0
    chroma_shift: float = 0.0

    @property
    def condition(self) -> float:
        """Condition 0–100 by equations 1 to 3."""
        return condition(self.detail, self.information, self.movement)

    @property
    def changed(self) -> str | None:
        """What was changed that condition does not see, in words; None where nothing was."""
        if abs(self.luma_shift) > SHIFTED_LUMA:
            return "brightness was changed"
        return "colour was changed" if self.chroma_shift > SHIFTED_CHROMA else None


def condition(detail: float, information: float, movement: float) -> float:
    """Condition 0–100 of the mean parts D, V (0 to 1, a little more where something was added) and M (code values)."""
    def soft(d: float, v: float) -> float:
        z = OFFSET + DETAIL * max(0.0, d) ** DETAIL_POWER + INFORMATION * v + MOVEMENT * min(movement, MOST_MOVEMENT)
        return SOFTNESS * (_log1p_exp(z / SOFTNESS) - _log1p_exp((z - 100) / SOFTNESS))

    return min(100.0, 100 * soft(detail, information) / soft(1.0, 1.0))


def conditions(detail: np.ndarray, information: np.ndarray, movement: np.ndarray) -> np.ndarray:
    """The same for many at once; the three are broadcast against each other."""
    moved = MOVEMENT * np.minimum(movement, MOST_MOVEMENT)

    def soft(d: np.ndarray, v: np.ndarray) -> np.ndarray:
        z = OFFSET + DETAIL * np.maximum(0.0, d) ** DETAIL_POWER + INFORMATION * v + moved
        return SOFTNESS * (np.logaddexp(0, z / SOFTNESS) - np.logaddexp(0, (z - 100) / SOFTNESS))

    return np.minimum(100.0, 100 * soft(detail, information) / soft(np.ones(1), np.ones(1)))


def _log1p_exp(x: float) -> float:
    return x + math.log1p(math.exp(-x)) if x > 0 else math.log1p(math.exp(x))


class PictureParts(Model):
    """One measured picture: D, V and M, XPSNR in dB, and how far its mean levels are from the master's."""

    detail: float
    information: float
    movement: float
    xpsnr_db: float
    luma_shift: float = 0.0
    chroma_shift: float = 0.0


def mean_likeness(raster: tuple[int, int], pictures: Sequence[PictureParts]) -> Likeness:
    """The likeness of a stream from its pictures: parts averaged, XPSNR in the distortion domain; none raises ValueError."""
    def mean(values: Iterable[float]) -> float:
        return sum(values) / len(pictures)

    return Likeness(
        raster=raster, xpsnr_db=round(mean_xpsnr_db([p.xpsnr_db for p in pictures]), 3),
        detail=round(mean(p.detail for p in pictures), 5), information=round(mean(p.information for p in pictures), 5),
        movement=round(mean(p.movement for p in pictures), 4), luma_shift=round(mean(p.luma_shift for p in pictures), 3),
        chroma_shift=round(mean(p.chroma_shift for p in pictures), 3),
    )


def mean_xpsnr_db(values_db: Sequence[float]) -> float:
    """Mean of per-picture XPSNR in dB, averaged in the distortion domain; an empty list raises ValueError."""
    if not values_db:
        raise ValueError("no pictures were compared")
    distortion = sum(10 ** (-min(value, PERFECT_DB) / 10) for value in values_db) / len(values_db)
    return min(PERFECT_DB, -10 * math.log10(distortion))


def impairment_words(condition: float) -> str:
    """The impairment scale of ITU-R BT.500-15, table 3, laid over condition (rules §5)."""
    if condition >= 90:
        return "imperceptible"
    if condition >= 75:
        return "perceptible, not annoying"
    if condition >= 60:
        return "slightly annoying"
    if condition >= 40:
        return "annoying"
    return "very annoying"
