"""Two ways of one master on the same pictures."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..values import Model, Ratio
from .windows import MEASURED_PICTURES, spread


@dataclass(frozen=True, slots=True, kw_only=True)
class ReelLookedAt:
    """The time in the master (s) of every picture of a reel, and what was measured: condition on arrival by place in the reel."""

    times_s: Sequence[Fraction]
    measured: Mapping[int, float]


class PairedPicture(Model):
    """One picture of the master (its time in s) and its places in two reels, with its condition there where it was measured."""

    master_s: Ratio
    left_index: int
    right_index: int
    left: float | None
    right: float | None


def paired_pictures(left: ReelLookedAt, right: ReelLookedAt) -> tuple[PairedPicture, ...]:
    """Pictures that both reels have, in film order: those that were measured in either, evenly spread ones where none was.

    Two places are of one picture when their times differ by less than half of the shorter distance between two pictures; of a
    picture that a reel has twice the later place counts, where an encoder has settled. Reels without a common picture give none.
    """
    ours, theirs = _by_time(left), _by_time(right)
    times = sorted(theirs)
    near = min(_apart(ours), _apart(theirs)) / 2
    common = []
    for at, place in sorted(ours.items()):
        beside = bisect_left(times, at)
        around = [(abs(other - at), other) for other in times[max(0, beside - 1) : beside + 1]]
        if around and min(around)[0] < near:
            common.append((at, place, theirs[min(around)[1]]))
    told = [a in left.measured or b in right.measured for _, a, b in common]
    shown = told if any(told) else spread([True] * len(common), most=MEASURED_PICTURES, run_length=1)
    return tuple(
        PairedPicture(master_s=at, left_index=a, right_index=b, left=left.measured.get(a), right=right.measured.get(b))
        for (at, a, b), flag in zip(common, shown, strict=True) if flag
    )


def most_telling(pictures: Sequence[PairedPicture]) -> int:
    """The place of the picture on which two ways differ most; without one measured in both, of the worst; 0 of none."""
    def told(one: PairedPicture) -> tuple[bool, float]:
        if one.left is not None and one.right is not None:
            return True, abs(one.left - one.right)
        return False, -min((value for value in (one.left, one.right) if value is not None), default=100.0)

    return max(range(len(pictures)), key=lambda place: told(pictures[place]), default=0)


def same_shape(one: tuple[int, int], other: tuple[int, int]) -> bool:
    """Whether pictures on two rasters (px) can lie over each other: their shapes differ by less than 1 %, as even sizes make them."""
    return abs(one[0] * other[1] / (one[1] * other[0]) - 1) < 0.01


def _by_time(reel: ReelLookedAt) -> dict[Fraction, int]:
    return {at: place for place, at in enumerate(reel.times_s)}


def _apart(times: Mapping[Fraction, int]) -> Fraction:
    """The shortest distance between two pictures (s); a second where there are no two."""
    order = sorted(times)
    return min((b - a for a, b in zip(order, order[1:], strict=False)), default=Fraction(1))
