"""How sure the difference of two forecasts of one master is: what is wrong with both alike falls out of it."""

from __future__ import annotations

import math

from .condition import NOTICEABLE_STEP
from .rehearsal import Evidence

PAIRED_BANDS: dict[Evidence, float] = {Evidence.SHEET: 25.0, Evidence.PROBED: 5.0, Evidence.REHEARSED: 3.0, Evidence.RETURNED: 3.0}
"""Half widths in points of a difference between two that are known in the same way; see docs/accuracy.md. What came back
is taken to be no surer than what was rehearsed."""
Sure = tuple[Evidence, float]
"""How a condition is known, and how sure that is: its band in points."""


def paired_band(one: Sure, other: Sure) -> float:
    """Half width in points of the difference of two conditions of one master on one screen and line.

    Where they are known in different ways nothing falls out, and errors add up in power.
    """
    if one[0] is other[0] and one[0] in PAIRED_BANDS:
        return PAIRED_BANDS[one[0]]
    return math.hypot(one[1], other[1])


def is_told(points: float, band: float) -> bool:
    """Whether a difference of so many points lies outside its band."""
    return abs(points) > band


def difference_words(points: float, band: float) -> str:
    """A difference in words, which claims none inside its band."""
    if not is_told(points, band):
        return "no difference that can be told"
    size = f"{abs(points):.0f} points {'better' if points > 0 else 'worse'}"
    return size if abs(points) >= NOTICEABLE_STEP else f"{size}, less than anyone notices"
