"""Viewer screens: the raster on which a picture is compared, and the rendition a viewer gets (rules §5)."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

from .framing import Framing, even
from .ladder import Rendition

PIXELS_PER_DEGREE = 60
"""What the eye resolves; a screen is an angle, so its comparison raster is angle × 60."""
SLOW_LINE_BPS = 1_500_000


class Screen(StrEnum):
    PHONE = "phone"
    LAPTOP = "laptop"
    TV = "tv"


class ViewerLine(StrEnum):
    GOOD = "good"
    SLOW = "slow"


@dataclass(frozen=True, slots=True, kw_only=True)
class ScreenGeometry:
    """Angle across the long side of a screen-filling 16:9 picture, and the panel's short side in px."""

    angle_deg: float
    panel_short_side_px: int
    turns: bool


GEOMETRY = {
    Screen.PHONE: ScreenGeometry(angle_deg=16, panel_short_side_px=1080, turns=True),
    Screen.LAPTOP: ScreenGeometry(angle_deg=80 / 3, panel_short_side_px=1080, turns=False),
    Screen.TV: ScreenGeometry(angle_deg=32, panel_short_side_px=2160, turns=False),
}
"""80/3° is the 27° laptop at exactly 1600 px across."""


def _filling(shape: Fraction, long_side: Fraction, turns: bool) -> tuple[Fraction, Fraction]:
    """Size of a picture of `shape` that fills a 16:9 screen; a phone is turned to suit an upright one."""
    wide, high = long_side, long_side * 9 / 16
    if turns and shape < 1:
        wide, high = high, wide
    width = min(wide, high * shape)
    return width, width / shape


def frame_raster(screen: Screen, width: int, height: int) -> tuple[int, int]:
    """Comparison raster in px, even, of a whole frame of this size on the screen."""
    geometry = GEOMETRY[screen]
    wide, high = _filling(
        Fraction(width, height), Fraction(round(geometry.angle_deg * PIXELS_PER_DEGREE)), geometry.turns
    )
    return even(wide), even(high)


def picture_raster(screen: Screen, framing: Framing) -> tuple[int, int]:
    """Comparison raster in px of the picture inside the frame: bars are left out, since they are always perfect."""
    width, height = frame_raster(screen, framing.width, framing.height)
    return (
        even(Fraction(width * framing.picture.width, framing.width)),
        even(Fraction(height * framing.picture.height, framing.height)),
    )


def rendition_for(screen: Screen, line: ViewerLine, renditions: list[Rendition]) -> Rendition:
    """The rendition a viewer gets. `renditions` must not be empty.

    Good line: the smallest whose short side reaches the physical picture, else the largest. Slow line: the largest
    whose ceiling is at or under 1.5 Mbit/s, else the smallest.
    """
    by_size = sorted(renditions, key=lambda r: r.short_side_px)
    if line is ViewerLine.SLOW:
        light = [r for r in by_size if r.ceiling_bps <= SLOW_LINE_BPS]
        return light[-1] if light else by_size[0]
    geometry = GEOMETRY[screen]
    panel_long = Fraction(geometry.panel_short_side_px * 16, 9)
    first = by_size[0]
    wide, high = _filling(Fraction(first.width, first.height), panel_long, geometry.turns)
    needed = round(min(wide, high))
    return next((r for r in by_size if r.short_side_px >= needed), by_size[-1])
