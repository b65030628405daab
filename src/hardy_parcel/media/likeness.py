"""How like the master a picture is: detail kept (D), information kept (V), and the master's own movement (M), on luma.

D after Li, Zhang, Ma, Ngan: Image Quality Assessment by Separately Evaluating Detail Losses and Additive Impairments, IEEE Trans.
Multimedia 13(5), 2011; V after Sheikh & Bovik, IEEE Trans. Image Processing 15(2), 2006, in the pixel domain at one scale.
Arrays are luma as float32 less 128, rows × columns, both of the same raster; borders are reflected without repeating the edge.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cache
from types import ModuleType

import cv2
import numpy as np

from ..core.arrival.condition import MOST_MOVEMENT

cv2.setNumThreads(1)  # comparisons of several screens run side by side already

ROOT3 = np.sqrt(3.0)
LOW = (np.array([1 + ROOT3, 3 + ROOT3, 3 - ROOT3, 1 - ROOT3]) / (4 * np.sqrt(2))).astype(np.float32)
HIGH = np.array([LOW[3], -LOW[2], LOW[1], -LOW[0]], np.float32)
"""Daubechies' wavelet of two vanishing moments: four taps for what is coarse and four for what is fine."""
WEIGHTS = ((0.017382, 0.005891), (0.031985, 0.014299), (0.043373, 0.024397), (0.045673, 0.031313))
"""Contrast sensitivity by level (Watson et al. 1997, at 56.5 px per degree): horizontal and vertical bands, diagonal band."""
CENTRE_SHARE = 0.8
WINDOW = cv2.getGaussianKernel(9, 1.8, cv2.CV_32F).ravel()
"""Nine taps with a standard deviation of 1.8."""
NOISE, FLAT = 2.0, 2.0
Bands = tuple[tuple[np.ndarray, np.ndarray, np.ndarray], ...]
"""Horizontal, vertical and diagonal detail at each level, finest first."""
MOVED_SIGMA, MOVED_TAPS = 1.0, 5


def levels(luma: np.ndarray) -> np.ndarray:
    """8-bit luma as the functions below want it."""
    return np.subtract(luma, np.float32(128), dtype=np.float32)


@dataclass(frozen=True, slots=True, kw_only=True)
class ReferencePicture:
    """What is computed once of a reference picture, however many are judged against it."""

    bands: Bands
    detail: float
    half: np.ndarray
    mean: np.ndarray
    variance: np.ndarray
    information: float


def seen(luma: np.ndarray) -> ReferencePicture:
    """Prepare a reference picture (`levels`)."""
    half, bands = _half_blurred(luma), _bands(luma)
    mean = _half_blurred(half)
    variance = np.maximum(_half_blurred(half * half) - mean * mean, 0)
    information = compiled_loops().whole_information(variance, NOISE, FLAT)
    return ReferencePicture(
        bands=bands,
        detail=_real_detail(bands, bands),
        half=half,
        mean=mean,
        variance=variance,
        information=information,
    )


def detail_kept(reference: ReferencePicture, picture: np.ndarray) -> float:
    """D: 1 for the same picture, less the more of its detail is gone or covered by what was added.

    Per band, what is really there is the judged value clipped to lie between nothing and the reference; the rest was added, and
    masks its surroundings by a threshold over all three bands.
    """
    return _real_detail(reference.bands, _bands(picture)) / reference.detail


def _real_detail(reference: Bands, picture: Bands) -> float:
    """What of the reference's detail is seen in a judged picture: pooled by cubes in each band, with a little to spare for none."""
    seen_cubes, spare = compiled_loops().cubes_above_mask, 1 / 32
    total = 0.0
    for (side, diagonal), original, picture_bands in zip(WEIGHTS, reference, picture, strict=True):
        for cubes in seen_cubes(*original, *picture_bands, side, diagonal):
            total += cubes ** (1 / 3) + (original[0].size * spare) ** (1 / 3)
    return total


def _bands(luma: np.ndarray) -> Bands:
    """Horizontal, vertical and diagonal detail of the picture's central part at four levels, finest first."""
    (top, bottom), (left, right) = (_cut(side) for side in luma.shape)
    coarse, (high, wide), (up, aside) = luma[top:bottom, left:right], luma.shape, (top, left)
    levels_of_bands = []
    for _ in WEIGHTS:
        size = (coarse.shape[0] + 1) // 2, (coarse.shape[1] + 1) // 2
        smaller, vertical, horizontal, diagonal = (np.empty(size, np.float32) for _ in range(4))
        compiled_loops().split_into_bands(
            np.ascontiguousarray(coarse), LOW, HIGH, smaller, vertical, horizontal, diagonal
        )
        coarse, (high, wide), up, aside = smaller, ((high + 1) // 2, (wide + 1) // 2), up // 2, aside // 2
        rows, columns = _centre(high, up), _centre(wide, aside)
        wide_band, high_band, cross = (
            np.ascontiguousarray(band[rows, columns]) for band in (horizontal, vertical, diagonal)
        )
        levels_of_bands.append((wide_band, high_band, cross))
    return tuple(levels_of_bands)


def _cut(side: int) -> tuple[int, int]:
    """What of a side is looked at: the centre and so much around it that the coarsest level meets the picture's own, in whole 16s."""
    margin = round(side * (1 - CENTRE_SHARE) / 2) - 48
    return (0, side) if margin < 16 else (margin // 16 * 16, side - margin // 16 * 16)


def _centre(side: int, cut: int) -> slice:
    """The central part of a band of `side` positions of which `cut` are cut off before it."""
    margin = max(0, int(side * (1 - CENTRE_SHARE) / 2 - 0.5))
    return slice(margin - cut, side - margin - cut)


def _half_blurred(values: np.ndarray) -> np.ndarray:
    """Blurred by the window of V, every second position each way."""
    halved = np.empty(((values.shape[0] + 1) // 2, (values.shape[1] + 1) // 2), np.float32)
    compiled_loops().halve(values, WINDOW, halved)
    return halved


def information_kept(reference: ReferencePicture, picture: np.ndarray) -> float:
    """V: the information about the reference that the judged picture still gives, 1 for the same picture.

    Where the reference is flat (variance below 2) there is none to keep, and structure that was added counts against it. Contrast
    that was added earns nothing.
    """
    over = compiled_loops().information(
        reference.half, reference.mean, reference.variance, _half_blurred(picture), WINDOW, NOISE, FLAT
    )
    return float(over / reference.information)


@cache
def compiled_loops() -> ModuleType:
    """The compiled loops, loaded with the first comparison, since most processes make none.

    A confined child cannot read what is kept of their compilation: whoever starts one that compares calls this before.
    """
    from . import kernels

    return kernels


def stilled(luma: np.ndarray) -> np.ndarray:
    """Luma as movement is measured on: blurred so that grain alone does not move."""
    kernel = cv2.getGaussianKernel(MOVED_TAPS, MOVED_SIGMA, cv2.CV_32F)
    return cv2.sepFilter2D(luma, -1, kernel, kernel, borderType=cv2.BORDER_REFLECT_101)


def moved(before: np.ndarray, after: np.ndarray) -> float:
    """Mean absolute change between two `stilled` pictures, in code values."""
    return cv2.norm(after, before, cv2.NORM_L1) / before.size


def movement(into: float | None, out_of: float | None) -> float:
    """M of a picture from the changes into it and out of it, the smaller so that a cut is no movement; 0 with neither."""
    changes = [change for change in (into, out_of) if change is not None]
    return min(*changes, MOST_MOVEMENT) if changes else 0.0
