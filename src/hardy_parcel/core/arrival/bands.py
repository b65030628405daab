"""How far conditions may be off, in points: a single one, and the difference of two. Fitted to whole films; see docs/accuracy.md."""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from .condition import NOTICEABLE_STEP
from .rehearsal import Evidence


@dataclass(frozen=True, slots=True, kw_only=True)
class BandFit:
    """Half width of a condition from probes: at least so much, and more for each point per octave of bit rate by which its curve rises
    there, since rates are off too, and for each point of the standard error between the windows."""

    least: float
    per_steepness: float
    per_spread: float

    def half_widths(self, steepness: np.ndarray, spread: np.ndarray | float) -> np.ndarray:
        """In points, for the steepness of a curve (points per octave) and the standard error of its windows (points)."""
        result: np.ndarray = self.least + self.per_steepness * np.maximum(0, steepness) + self.per_spread * spread
        return result


PROBED_FIT = BandFit(least=2.4, per_steepness=0.2, per_spread=0.1)
QUICK_FIT = BandFit(least=3.2, per_steepness=0.5, per_spread=0.3)
"""Nothing is surer than 2.4: the scale itself may be off by that."""
PAIR_SHARE, PAIR_PER_POINT = 0.45, 0.1
"""Half width of a difference, as a share of the wider band, and what comes with each point of it: what is wrong with both alike falls
out, the more the more alike they are."""

Sure = tuple[Evidence, float]
"""How a condition is known, and how sure that is: its band in points."""


def apart_bands(bands: np.ndarray, points: np.ndarray) -> np.ndarray:
    """Half widths in points of differences of so many points between conditions with these bands that are known alike; none where both
    are sure."""
    result: np.ndarray = np.where(bands > 0, PAIR_SHARE * bands + PAIR_PER_POINT * np.abs(points), 0.0)
    return result


def paired_band(one: Sure, other: Sure, points: float) -> float:
    """Half width in points of the difference of two conditions of one master on one screen and line that lie `points` apart.

    Where they are known in different ways nothing falls out, and errors add up in power.
    """
    together = math.hypot(one[1], other[1])
    if one[0] is not other[0]:
        return together
    return min(together, float(apart_bands(np.array(max(one[1], other[1])), np.array(points))))


def is_told(points: float, band: float) -> bool:
    """Whether a difference of so many points lies outside its band."""
    return abs(points) > band


def difference_words(points: float, band: float) -> str:
    """A difference in words, which claims none inside its band."""
    if not is_told(points, band):
        return "no difference that can be told"
    size = f"{abs(points):.0f} points {'better' if points > 0 else 'worse'}"
    return size if abs(points) >= NOTICEABLE_STEP else f"{size}, less than anyone notices"
