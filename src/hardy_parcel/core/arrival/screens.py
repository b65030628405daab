"""Viewer screens: the raster on which a picture is compared, and the rendition a viewer gets (rules §5)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache

from ..plan.framing import Framing
from ..sheets.ladder import Rendition
from ..values import even

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


def filling_frame(screen: Screen, *, upright: bool = False) -> tuple[int, int]:
    """A whole screen in eye pixels, even; a phone is turned where the frame is upright."""
    geometry = GEOMETRY[screen]
    wide = Fraction(round(geometry.angle_deg * PIXELS_PER_DEGREE))
    high = wide * 9 / 16
    return (even(high), even(wide)) if geometry.turns and upright else (even(wide), even(high))


def frame_raster(screen: Screen, width: int, height: int, *, smaller: int = 1) -> tuple[int, int]:
    """Comparison raster in px, even, of a whole frame of this size on the screen; so many times `smaller` for a stand-in."""
    geometry = GEOMETRY[screen]
    return _even_filling(width, height, Fraction(round(geometry.angle_deg * PIXELS_PER_DEGREE), smaller), geometry.turns)


@lru_cache(maxsize=1024)
def _even_filling(width: int, height: int, long_side: Fraction, turns: bool) -> tuple[int, int]:
    wide, high = _filling(Fraction(width, height), long_side, turns)
    return even(wide), even(high)


BESIDE_BARS_PX = 4
"""Reach of a bicubic scaler, two pixels, through the largest enlargement of a rendition on a screen, about two."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Raster:
    """A screen's comparison raster: every frame is scaled to `frame_*` px, then cut to the picture at `x`, `y`."""

    frame_width: int
    frame_height: int
    x: int
    y: int
    width: int
    height: int

    @classmethod
    def whole(cls, width: int, height: int) -> Raster:
        """A raster without bars."""
        return cls(frame_width=width, frame_height=height, x=0, y=0, width=width, height=height)

    @property
    def size(self) -> tuple[int, int]:
        """Width and height of the picture in px."""
        return self.width, self.height

    @property
    def margin(self) -> tuple[int, int]:
        """Columns and rows beside bars, in px, that a comparison leaves out: there scaling mixes picture and bar."""
        return (
            min(BESIDE_BARS_PX, self.width // 8) if self.width < self.frame_width else 0,
            min(BESIDE_BARS_PX, self.height // 8) if self.height < self.frame_height else 0,
        )


RASTER_SPAN = Fraction(3, 100)
"""How far a raster may differ from the screen's own so that the picture's edges fall between pixels."""


def picture_raster(screen: Screen, framing: Framing, *, smaller: int = 1) -> Raster:
    """The raster of a framing on a screen. Bars are left out of a comparison, since they are always perfect.

    The edges of the picture must fall between pixels of the raster, or what arrives would be compared a fraction of
    a pixel off its place and seem worse than it is. So the raster nearest to the screen's own is taken, within 3 %,
    on which they do so best; renditions of any size then meet the reference exactly.
    """
    width, height = frame_raster(screen, framing.width, framing.height, smaller=smaller)
    if not framing.bars:
        return Raster.whole(width, height)
    left, wide = _without_bars(width, Fraction(framing.picture.x, framing.width), Fraction(framing.picture.width, framing.width))
    top, high = _without_bars(height, Fraction(framing.picture.y, framing.height), Fraction(framing.picture.height, framing.height))
    return Raster(frame_width=wide[0], frame_height=high[0], x=left, y=top, width=wide[1], height=high[1])


@lru_cache(maxsize=1024)
def _without_bars(length: int, offset: Fraction, share: Fraction) -> tuple[int, tuple[int, int]]:
    """Along one side: where the picture starts, and the lengths of frame and picture. `offset` and `share` are of the frame."""
    if share == 1:
        return 0, (length, length)
    span = int(length * RASTER_SPAN) // 2 * 2

    one = math.lcm(offset.denominator, share.denominator)  # counted in parts of a pixel, since fractions are slow
    edges = int(offset * one), int((offset + share) * one)

    def misfit(candidate: int) -> tuple[int, int]:
        off = max(min(candidate * edge % one, -candidate * edge % one) for edge in edges)
        return off if off * 20 > one else 0, abs(candidate - length)

    best = min(range(length - span, length + span + 1, 2), key=misfit)
    start = round(best * offset)
    return start, (best, round(best * (offset + share)) - start)


@lru_cache(maxsize=1024)
def _panel_lines(screen: Screen, width: int, height: int) -> int:
    """The short side in px of a screen's own picture of this shape."""
    geometry = GEOMETRY[screen]
    return round(min(_filling(Fraction(width, height), Fraction(geometry.panel_short_side_px * 16, 9), geometry.turns)))


def rendition_for(screen: Screen, line: ViewerLine, renditions: list[Rendition]) -> Rendition:
    """The rendition a viewer gets. `renditions` must not be empty.

    Good line: the smallest whose short side reaches the physical picture, else the largest. Slow line: the largest
    whose ceiling is at or under 1.5 Mbit/s, else the smallest. Of several of one size the first listed is served.
    """
    if line is ViewerLine.SLOW:
        light = [r for r in renditions if r.ceiling_bps <= SLOW_LINE_BPS]
        return max(light, key=lambda r: r.short_side_px) if light else min(renditions, key=lambda r: r.short_side_px)
    first_of_size: dict[int, Rendition] = {}
    for rendition in renditions:
        first_of_size.setdefault(rendition.short_side_px, rendition)
    by_size = sorted(first_of_size.values(), key=lambda r: r.short_side_px)
    needed = _panel_lines(screen, by_size[0].width, by_size[0].height)
    return next((r for r in by_size if r.short_side_px >= needed), by_size[-1])
