"""Where a crop would lose least: what stands out in a few frames of a film.

What stands out differs from its surroundings in luma or colour, and more so the fewer such places a frame has: centre and surround, and
maps with few peaks promoted, after L. Itti, C. Koch and E. Niebur, A Model of Saliency-Based Visual Attention for Rapid Scene Analysis
(IEEE PAMI, 1998), without their orientations.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from .facts import Focus

SIDE = 64
"""Rows and columns of the planes that are looked at."""
CENTRE_AND_SURROUND = ((1.0, 5.0), (2.0, 10.0))
"""Spreads (standard deviation, in cells) of the blurs whose difference is taken, fine and coarse."""
LEAST_DIFFERENCE = 8.0
"""Code values below which nothing of a plane stands out."""
PROMOTION = 4
"""How strongly a map with few peaks counts against one with many."""
WINDOW = 0.32
"""Share of the width, or of the height, that is kept at least: an upright 9:16 of a wide 16:9."""
WORTH_MOVING = 1.1
"""The focus leaves the middle only where its window holds this many times what the middle one holds."""


def saliency(planes: np.ndarray) -> np.ndarray:
    """How much each cell of a frame stands out, of sum 1; all zero where nothing does. `planes` are luma and both chromas, 3 × SIDE × SIDE,
    in 8-bit code values."""
    result = np.zeros((SIDE, SIDE))
    for plane in planes.astype(float):
        for centre, surround in CENTRE_AND_SURROUND:
            difference = np.abs(_blurred(plane, centre) - _blurred(plane, surround))
            if (most := difference.max()) >= LEAST_DIFFERENCE:
                share = difference / most
                result += share**2 * (1 - share.mean()) ** PROMOTION
    return result / result.sum() if result.any() else result


def suggested_focus(frames: Sequence[np.ndarray]) -> Focus | None:
    """Where the window of a narrow crop holds most of what stands out, as shares of width and height; None where the middle is as good.

    `frames` are planes as `saliency` takes them, spread over the film.
    """
    total = sum((saliency(frame) for frame in frames), np.zeros((SIDE, SIDE)))
    x, y = _best(total.sum(axis=0)), _best(total.sum(axis=1))
    return None if x is None and y is None else Focus(x=0.5 if x is None else x, y=0.5 if y is None else y)


def _best(profile: np.ndarray) -> float | None:
    """The middle of the window with the most, as a share; None where the one in the middle holds hardly less."""
    length = round(WINDOW * SIDE)
    held = np.convolve(profile, np.ones(length), "valid")
    best = int(np.argmax(held))
    if held[best] <= WORTH_MOVING * held[(len(held) - 1) // 2]:
        return None
    return round((best + length / 2) / SIDE, 3)


def _blurred(plane: np.ndarray, spread: float) -> np.ndarray:
    """A Gaussian blur; beyond the edges they are repeated."""
    reach = round(3 * spread)
    kernel = np.exp(-0.5 * (np.arange(-reach, reach + 1) / spread) ** 2)
    kernel /= kernel.sum()
    for axis in (0, 1):
        padded = np.pad(plane, [(reach, reach) if axis == other else (0, 0) for other in (0, 1)], mode="edge")
        plane = np.apply_along_axis(np.convolve, axis, padded, kernel, "valid")
    return plane
