"""What a dock serves of a parcel, as it comes: each file is fetched and measured whole against the master."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

from ..core.arrival.condition import Likeness, condition, mean_likeness
from ..core.arrival.docked import OfferedFile
from ..core.arrival.journey import Journey
from ..core.arrival.rehearsal import MomentMeasure
from ..core.arrival.returned import MOST_MEASURED, PackedMeasure, ReturnedFile, ReturnedSound
from ..core.arrival.screens import Screen
from ..core.arrival.ticks import Tick, ticks
from ..core.arrival.windows import Reel, whole_reel
from ..core.errors import HardyParcelError
from ..core.master.facts import FileFacts, VideoFacts
from ..core.values import rate_text, shape_text
from ..media.handling import upload_pictures
from ..media.inspect import read_file
from ..media.measure import Stream, compare
from ..media.pictures import Picture, treated
from ..media.rates import stream_rates
from ..processes.messages import ArriveTask
from .rehearse import Say

RUN = 5
SHAPES_APART = Fraction(2, 100)


def packed_measure(task: ArriveTask, say: Say) -> PackedMeasure:
    """The packed file beside the master, on the pictures on which everything that comes back is measured."""
    video = task.plan.picture
    framing = video.framing.value
    likenesses, moments, count = _measured(
        task, upload_pictures(task.packed), (framing.width, framing.height), 1, lambda share: say("measuring the packed file", share),
    )
    return PackedMeasure(pictures=count, likenesses=likenesses, moments=moments)


def returned_file(task: ArriveTask, offered: OfferedFile, path: Path, say: Say) -> ReturnedFile:
    """What is to be known of a file that came back. One whose picture cannot be laid over the master's says why it is not measured."""
    facts = read_file(path)
    found = _told(offered, path, facts)
    if facts.video is None or task.plan.video is None:
        return found
    if reason := _apart(task, facts.video):
        return found.model_copy(update={"unmeasured": reason})
    repeats = round(task.plan.picture.frame_rate.value / facts.video.frame_rate)
    try:
        likenesses, moments, _ = _measured(
            task, upload_pictures(path), (facts.video.coded_width, facts.video.coded_height), repeats,
            lambda share: say(f"measuring {offered.name}", share),
        )
    except HardyParcelError as error:
        if error.code != "encoder_trouble":
            raise
        return found.model_copy(update={"unmeasured": "It has fewer pictures than the packed file."})
    return found.model_copy(update={"likenesses": likenesses, "moments": moments})


def _told(offered: OfferedFile, path: Path, facts: FileFacts) -> ReturnedFile:
    video = facts.video
    rates = stream_rates(path, float(facts.duration_s))
    return ReturnedFile(
        name=offered.name, file=path.name, size_bytes=facts.size_bytes, duration_s=facts.duration_s,
        width=video.display_width if video else 0, height=video.display_height if video else 0, codec=video.codec if video else "",
        frame_rate=video.frame_rate if video else Fraction(0), video_bps=rates.get("video", 0),
        sound=ReturnedSound.of(facts.audio, rates.get("audio", 0)),
    )


def _apart(task: ArriveTask, video: VideoFacts) -> str:
    """Why a picture cannot be laid over the master's as it was packed; empty where it can."""
    framing, rate = task.plan.picture.framing.value, task.plan.picture.frame_rate.value
    shape, was = Fraction(video.display_width, video.display_height), Fraction(framing.width, framing.height)
    if abs(shape / was - 1) > SHAPES_APART:
        return f"It came back as {shape_text(shape)}, and was packed as {shape_text(was)}."
    times = rate / video.frame_rate
    if abs(times / max(1, round(times)) - 1) > Fraction(1, 200):
        return f"It came back at {rate_text(video.frame_rate)} frames/s, and was packed at {rate_text(rate)}."
    return ""


def _reel(task: ArriveTask) -> Reel:
    excerpt = task.plan.excerpt
    few = task.plan.picture.frames <= MOST_MEASURED
    reel = whole_reel(excerpt.in_s, excerpt.out_s, measure_all=few)
    return reel if few else reel.model_copy(update={"most_measured": MOST_MEASURED, "run_pictures": RUN})


def _measured(
    task: ArriveTask, pictures: Iterator[Picture], size: tuple[int, int], repeats: int, say: Callable[[float], None]
) -> tuple[tuple[Likeness, ...], tuple[MomentMeasure, ...], int]:
    """Likenesses on every raster, moments on a laptop, and how many pictures were measured."""
    journey = Journey(task.plan, task.destination)
    rasters = list({raster.size: raster for raster in journey.rasters().values()}.values())
    wanted: list[Tick] = ticks(task.plan, _reel(task))
    crop = task.plan.picture.framing.value.crop
    found = compare(
        rasters=rasters, reference_size=(crop.width, crop.height),
        references=treated(task.path, task.facts.video, task.plan, wanted, frame=False),
        streams={"it": Stream(pictures=pictures, size=size, rasters=frozenset(range(len(rasters))), repeats=repeats)},
        measured=[tick.measured for tick in wanted], rate=journey.rate, progress=lambda done: say(done / max(1, len(wanted))),
    )
    laptop = journey.rasters()[Screen.LAPTOP].size
    on = {raster.size: found["it", number] for number, raster in enumerate(rasters)}
    moments = tuple(
        MomentMeasure(
            reel_index=index, master_s=wanted[index].master_s,
            condition=round(condition(parts.detail, parts.information, parts.movement), 2),
        )
        for index, parts in on[laptop]
    )
    return tuple(mean_likeness(size, [parts for _, parts in rows]) for size, rows in on.items()), moments, len(moments)
