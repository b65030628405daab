"""How a packed file looks beside its master: measured on a few pictures of it, so that a receipt can say it."""

from __future__ import annotations

import time
from bisect import bisect_right
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ..core.arrival.condition import PictureParts, condition, mean_likeness
from ..core.arrival.judged import Judged, judged
from ..core.arrival.screens import Raster, Screen, picture_raster
from ..core.arrival.ticks import Tick
from ..core.master.facts import MasterFacts
from ..core.plan.cadence import source_time_s
from ..core.plan.plan import Plan
from ..core.plan.stages import RUN_READS, USUAL_GROUP, judged_runs
from ..media.measure import Stream, compare
from ..media.pictures import own_picture, pictures_at, treated
from ..media.stills import encoded

SCREEN = Screen.LAPTOP
RUN_PICTURES, LEAD_IN = 2, 3
"""Neighbours that are measured in each run, which are spread over the film, and how many are read before, since the measures look back;
the one that is read after them makes up `RUN_READS`."""
STILL_WIDTH = 560


@dataclass(frozen=True, slots=True, kw_only=True)
class Judgement:
    """The condition of a packed file on a laptop, on how many pictures, and where it is poorest: the place in the master (s), and the
    same picture as JPEG of the master and of the file."""

    judged: Judged
    pictures: int
    poorest_s: float
    before: bytes
    after: bytes


def judge_packed(master: Path, facts: MasterFacts, plan: Plan, packed: Path, say: Callable[[float], None]) -> Judgement | None:
    """Judge a packed file; None where its picture is the master's own, or there is none. Raises what reading raises."""
    if plan.video is None or plan.copied:
        return None
    video, framing = plan.video, plan.video.framing.value
    rate, numbers, measured = video.frame_rate.value, *_places(video.frames)
    wanted = _ticks(plan, numbers, measured)
    raster = picture_raster(SCREEN, framing)
    shown = pictures_at(packed, ((number * 4 + 1) / (4 * rate) for number in numbers), start_s=Fraction(0))
    found = compare(
        rasters=[raster], reference_size=(framing.crop.width, framing.crop.height),
        references=treated(master, facts.video, plan, wanted, frame=False),
        streams={"packed": Stream(pictures=shown, size=(framing.width, framing.height), rasters=frozenset({0}))},
        measured=measured, rate=rate, progress=lambda done: say(done / len(numbers)),
    )["packed", 0]
    place = min(found, key=lambda row: _seen(row[1]))[0]
    before = next(treated(master, facts.video, plan, [wanted[place]], frame=False))
    width = min(STILL_WIDTH, framing.picture.width)
    return Judgement(
        judged=judged(SCREEN, mean_likeness(raster.size, [parts for _, parts in found])),
        pictures=len(found), poorest_s=float(wanted[place].master_s),
        before=encoded(before, "jpg", Raster.whole(width, round(width * framing.crop.height / framing.crop.width))),
        after=encoded(
            own_picture(packed, numbers[place], rate), "jpg", Raster.whole(width, round(width * framing.height / framing.width)),
        ),
    )


def judging_s(master: Path, facts: MasterFacts, plan: Plan) -> float | None:
    """How long judging will take (s), without finding the pictures in the packed file, by one run in the middle of the master; None where
    nothing is judged. Raises what reading raises."""
    if plan.video is None or plan.copied:
        return None
    framing, runs = plan.video.framing.value, judged_runs(plan.video.frames)
    numbers, measured = _places(plan.video.frames)
    middle = slice(runs // 2 * RUN_READS, (runs // 2 + 1) * RUN_READS)
    ticks, size = _ticks(plan, numbers[middle], measured[middle]), (framing.crop.width, framing.crop.height)
    began = time.monotonic()
    pictures = list(treated(master, facts.video, plan, ticks, frame=False))
    picture_s = (time.monotonic() - began) / _to_decode(facts, ticks)
    for times in (1, 2):  # what is done for the first time takes longer, and of two runs one is compared while the other is sent
        began = time.monotonic()
        compare(
            rasters=[picture_raster(SCREEN, framing)], reference_size=size, references=iter(pictures * times),
            streams={"itself": Stream(pictures=iter(pictures * times), size=size, rasters=frozenset({0}))},
            measured=measured[middle] * times, rate=plan.video.frame_rate.value,
        )
        compared_s = (time.monotonic() - began) / times
    return (runs + 1) / runs * _to_decode(facts, _ticks(plan, numbers, measured)) * picture_s + runs * compared_s


def _to_decode(facts: MasterFacts, ticks: Sequence[Tick]) -> int:
    """How many pictures of a master are decoded for these, each from the keyframe before it on where that is sooner."""
    keys, total, position = facts.video.keyframes, 0, -1
    for tick in ticks:
        number = int(tick.master_s * facts.video.frame_rate)
        before = keys[bisect_right(keys, number) - 1] if keys else number - number % USUAL_GROUP
        key = number if facts.video.intra else before
        total += max(0, number + 1 - max(key, position + 1))
        position = max(position, number)
    return max(1, total)


def _ticks(plan: Plan, numbers: Sequence[int], measured: Sequence[bool]) -> list[Tick]:
    """What is read of the master for packed pictures of these numbers."""
    rate, every = plan.picture.frame_rate.value, plan.picture.keep_every
    return [
        Tick(
            index=place, measured=flag, master_s=source_time_s(index=number, in_s=plan.excerpt.in_s, frame_rate=rate, keep_every=every),
        )
        for place, (number, flag) in enumerate(zip(numbers, measured, strict=True))
    ]


def _seen(parts: PictureParts) -> float:
    return condition(parts.detail, parts.information, parts.movement)


def _places(frames: int) -> tuple[list[int], list[bool]]:
    """Numbers of the packed pictures that are read, in order, and which of them are measured."""
    runs = judged_runs(frames)
    if frames <= runs * RUN_READS:
        numbers = list(range(frames))
        return numbers, [number % max(1, frames // (runs * RUN_PICTURES)) == 0 for number in numbers]
    numbers, measured = list[int](), list[bool]()
    for run in range(runs):
        first = int((run + 0.5) * frames / runs) - LEAD_IN
        numbers += range(first, first + RUN_READS)
        measured += [LEAD_IN <= place < LEAD_IN + RUN_PICTURES for place in range(RUN_READS)]
    return numbers, measured
