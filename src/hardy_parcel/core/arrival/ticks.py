"""Which pictures are packed, of a whole excerpt or of a reel of it, and the time in the master that each shows."""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction

from ..plan.cadence import source_time_s
from ..plan.plan import Plan
from .windows import Reel, spread, whole_reel


@dataclass(frozen=True, slots=True, kw_only=True)
class Tick:
    """One packed picture: its index, the master time it shows (s), whether it is measured, and its segment of the reel."""

    index: int
    master_s: Fraction
    measured: bool
    segment: int = 0


def ticks(plan: Plan, reel: Reel | None = None) -> list[Tick]:
    """Every packed picture of a plan, of the whole excerpt or of a reel of it."""
    video = plan.picture
    rate, start = video.frame_rate.value, plan.excerpt.in_s
    reel = reel or whole_reel(start, plan.excerpt.out_s, measure_all=True)
    shown: list[tuple[int, bool, int]] = []
    for number, segment in enumerate(reel.segments):
        first = math.ceil((segment.start_s - start) * rate)
        last = video.frames if reel.whole else first + math.floor((segment.end_s - segment.start_s) * rate)
        shown += [(i, start + i / rate >= segment.measure_from_s, number) for i in range(first, min(last, video.frames))]
    eligible = [flag for _, flag, _ in shown]
    measured = eligible if reel.measure_all else spread(eligible, most=reel.most_measured, run_length=reel.run_pictures)
    return [
        Tick(
            index=place, measured=flag, segment=number,
            master_s=source_time_s(index=i, in_s=start, frame_rate=rate, keep_every=video.keep_every),
        )
        for place, ((i, _, number), flag) in enumerate(zip(shown, measured, strict=True))
    ]


def every_tick(plan: Plan) -> Iterator[Tick]:
    """Every packed picture of the whole excerpt, one after the other, so that a long film needs no long list."""
    video = plan.picture
    rate, start, keep = video.frame_rate.value, plan.excerpt.in_s, video.keep_every
    for i in range(video.frames):
        yield Tick(index=i, measured=True, master_s=source_time_s(index=i, in_s=start, frame_rate=rate, keep_every=keep))
