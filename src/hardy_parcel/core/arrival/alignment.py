"""Where the pictures of a file that a platform served lie in the file that it was sent: in time and in the frame.

    packed time    = speed · returned time + offset                                                  (1)
    packed x       = scale_x · returned x + left,  packed y = scale_y · returned y + top             (2)

Speed and offset are fitted to moments that were found again in both (the median of what is left over tells how well); of the speeds
that platforms and broadcasters use the one that fits is taken before any other.
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..errors import BadInput
from ..values import Model, rate_text

USUAL_SPEEDS = (
    Fraction(1), Fraction(1001, 1000), Fraction(1000, 1001), Fraction(25, 24), Fraction(24, 25), Fraction(25025, 24000),
    Fraction(24000, 25025), Fraction(30, 25), Fraction(25, 30), Fraction(5, 4), Fraction(4, 5), Fraction(3, 2), Fraction(2, 3), Fraction(2),
    Fraction(1, 2),
)
"""Packed over returned time: as it is, 24/1.001 for 24, film at 25, and what viewers' players and cuts for other platforms do."""
LEAST_SPEED, MOST_SPEED = 0.45, 2.2
FITS_FRAMES = 0.75
"""Median of what is left over up to which a speed fits, in packed pictures."""
EDGE_PX = 1.5
"""An edge so near (returned px, or packed px where those are larger) to the packed frame's own is that edge."""
NOTICED_SPEED = 0.0003
LEAST_SHOWN = 0.1
"""A part of the packed picture that is smaller than this share of it cannot be judged for the whole."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Pair:
    """One moment found in both files (s); `sharp` says how much better its place fits than those around it, 0 where any fits as well."""

    returned_s: float
    packed_s: float
    sharp: float


class Placing(Model):
    """Equation 2: packed px for each returned px, and the packed place of the returned frame's upper left corner."""

    scale_x: float
    scale_y: float
    left: float
    top: float

    def rect(self, width: int, height: int) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of a returned frame of this size, in packed px."""
        return self.left, self.top, self.left + self.scale_x * width, self.top + self.scale_y * height


class Timing(Model):
    """Equation 1. `off_frames` is the median of what is left over, in packed pictures; `told` says whether the picture moved enough for
    the place to be told to the picture."""

    speed: float
    offset_s: float
    off_frames: float
    told: bool

    def packed_s(self, returned_s: float) -> float:
        return self.speed * returned_s + self.offset_s


class Alignment(Model):
    """How a returned file lies on the packed one, and how alike the two are there (correlation, 0 to 1). Sizes in px, lengths in s, rates
    in 1/s."""

    timing: Timing
    placing: Placing
    alike: float
    packed_width: int
    packed_height: int
    packed_s: float
    packed_rate: float
    returned_width: int
    returned_height: int
    returned_s: float
    returned_rate: float

    @property
    def shown(self) -> tuple[float, float, float, float]:
        """Left, top, right and bottom of the part of the packed frame that came back, in packed px."""
        left, top, right, bottom = self.placing.rect(self.returned_width, self.returned_height)
        return max(0.0, left), max(0.0, top), min(float(self.packed_width), right), min(float(self.packed_height), bottom)

    @property
    def whole_frame(self) -> bool:
        """Whether the returned frame is the packed frame, scaled and no more."""
        left, top, right, bottom = self.placing.rect(self.returned_width, self.returned_height)
        near = EDGE_PX * max(1.0, self.placing.scale_x, self.placing.scale_y)
        return max(abs(left), abs(top), abs(right - self.packed_width), abs(bottom - self.packed_height)) <= near

    @property
    def kept_every(self) -> float:
        """How many packed pictures pass for each returned one: 1 where all came back, 2 where every second was left out."""
        return self.packed_rate * self.timing.speed / self.returned_rate

    @property
    def trimmed_s(self) -> tuple[float, float]:
        """What is missing of the packed film before the first returned picture and after the last; negative where something was added."""
        return self.timing.offset_s, self.packed_s - self.timing.packed_s(self.returned_s)

    @property
    def sure(self) -> str:
        """How far this can be trusted, in words."""
        if self.alike >= 0.97 and self.timing.told:
            return "surely"
        if self.alike >= 0.9:
            return "very likely" if self.timing.told else "very likely, though the picture moves too little to tell its place in time"
        return "likely"

    def words(self) -> tuple[str, ...]:
        """What was done to the picture on the way beyond being encoded, a sentence each; empty where nothing was."""
        found = [*self._in_time(), *self._in_space()]
        return tuple(found)

    def _in_time(self) -> list[str]:
        said, speed, frame_s = [], self.timing.speed, 1 / self.packed_rate
        if abs(speed - 1) > NOTICED_SPEED:
            said.append(f"It runs {abs(speed - 1) * 100:.1f} % {'quicker' if speed > 1 else 'slower'} than it was packed.")
        for seconds, where in zip(self.trimmed_s, ("beginning", "end"), strict=True):
            if self.timing.told and seconds > 1.5 * frame_s:
                said.append(f"{seconds:.2f} s are missing at its {where}.")
            elif self.timing.told and seconds < -1.5 * frame_s:
                said.append(f"{-seconds:.2f} s that were not packed stand at its {where}.")
        every, rates = self.kept_every, f"{_rate(self.returned_rate)} a second for {_rate(self.packed_rate)}"
        if every > 1.02:
            whole = {2: "second", 3: "third", 4: "fourth"}.get(round(every)) if abs(every - round(every)) < 0.02 else None
            said.append(f"Only every {whole} picture came back." if whole else f"Pictures were left out: {rates}.")
        elif every < 0.98:
            said.append(f"Pictures are shown more than once: {rates}.")
        return said

    def _in_space(self) -> list[str]:
        if self.whole_frame:
            return []
        left, top, right, bottom = self.placing.rect(self.returned_width, self.returned_height)
        sides = {
            "left": (left, self.packed_width), "top": (top, self.packed_height), "right": (self.packed_width - right, self.packed_width),
            "bottom": (self.packed_height - bottom, self.packed_height),
        }
        cut = [f"{lost / length * 100:.0f} % at the {name}" for name, (lost, length) in sides.items() if lost > EDGE_PX * 2]
        added = [name for name, (lost, _) in sides.items() if lost < -EDGE_PX * 2]
        said = [f"It was cut: {', '.join(cut)}."] if cut else []
        if added:
            said.append(f"A border was added at the {' and '.join(added)}.")
        stretch = self.placing.scale_x / self.placing.scale_y
        if abs(stretch - 1) > 0.02:
            said.append(f"It was {'stretched' if stretch < 1 else 'squeezed'} by {abs(1 / stretch - 1) * 100:.0f} % across.")
        return said


def fit_time(pairs: Sequence[Pair], *, packed_rate: float, sharp_from: float, fallback_offset_s: float = 0.0) -> Timing:
    """Speed and offset from moments that were found in both. Moments that are not sharp count only where none is; then the place cannot
    be told. Raises BadInput where there are none at all."""
    if not pairs:
        raise BadInput("No picture of it was found in the packed film.", "Name another parcel.", code="another_film")
    sharp = [pair for pair in pairs if pair.sharp >= sharp_from]
    if not sharp:
        return Timing(speed=1.0, offset_s=fallback_offset_s, off_frames=0.0, told=False)
    best: tuple[float, float, float] | None = None
    for speed in map(float, USUAL_SPEEDS):
        off, offset = _left_over(sharp, speed)
        if best is None or off < best[0] - 0.1 / packed_rate:
            best = off, speed, offset
    if best and (best[0] * packed_rate <= FITS_FRAMES or len(sharp) < 3):
        return Timing(speed=best[1], offset_s=best[2], off_frames=best[0] * packed_rate, told=True)
    speed = _slope(sharp)
    off, offset = _left_over(sharp, speed)
    return Timing(speed=speed, offset_s=offset, off_frames=off * packed_rate, told=True)


def _left_over(pairs: Sequence[Pair], speed: float) -> tuple[float, float]:
    """The median distance (s) of the moments from a line of this slope, and that line's offset (s)."""
    offset = statistics.median(pair.packed_s - speed * pair.returned_s for pair in pairs)
    return statistics.median(abs(pair.packed_s - speed * pair.returned_s - offset) for pair in pairs), offset


def _slope(pairs: Sequence[Pair]) -> float:
    """The median slope between any two moments, which a few wrong ones do not move (Theil 1950, Sen 1968)."""
    slopes = [
        (other.packed_s - one.packed_s) / (other.returned_s - one.returned_s)
        for place, one in enumerate(pairs) for other in pairs[place + 1 :] if abs(other.returned_s - one.returned_s) > 0.2
    ]
    fitting = [slope for slope in slopes if LEAST_SPEED <= slope <= MOST_SPEED]
    return statistics.median(fitting) if fitting else 1.0


def placing_of(found: Sequence[Placing], *, packed: tuple[int, int], returned: tuple[int, int]) -> Placing:
    """The middle of what several pictures said; edges that come to lie on the packed frame's own are those."""
    left, top, right, bottom = (
        statistics.median(values) for values in zip(*(one.rect(*returned) for one in found), strict=True)
    )
    near = [EDGE_PX * max(1.0, (right - left) / returned[0]), EDGE_PX * max(1.0, (bottom - top) / returned[1])]
    left, right = _snapped(left, 0.0, near[0]), _snapped(right, float(packed[0]), near[0])
    top, bottom = _snapped(top, 0.0, near[1]), _snapped(bottom, float(packed[1]), near[1])
    shown = (min(right, packed[0]) - max(0.0, left)) * (min(bottom, packed[1]) - max(0.0, top)) / math.prod(packed)
    if shown < LEAST_SHOWN:
        raise BadInput("Too little of the packed picture came back to be judged.", "Give a file that shows more of it.", code="too_little")
    return Placing(scale_x=(right - left) / returned[0], scale_y=(bottom - top) / returned[1], left=left, top=top)


def _rate(rate: float) -> str:
    return rate_text(Fraction(rate).limit_denominator(1001))


def _snapped(value: float, edge: float, near: float) -> float:
    return edge if abs(value - edge) <= near else value
