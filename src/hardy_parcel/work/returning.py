"""A file that a platform served, laid over the packed one and measured; and the very upload tried at several qualities beside it."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from fractions import Fraction
from functools import partial
from pathlib import Path
from tempfile import TemporaryDirectory

from ..core.arrival.alignment import Alignment
from ..core.arrival.condition import Likeness, mean_likeness
from ..core.arrival.learning import TRIED, Observation, ReturnedFound, WindowSeen, buffer_room, next_tried, rule_of
from ..core.arrival.returned import ReturnedSound
from ..core.arrival.screens import Raster, Screen, frame_raster
from ..core.arrival.ticks import Tick
from ..core.errors import BadInput
from ..core.master.facts import MasterFacts
from ..core.plan.cadence import source_time_s
from ..core.plan.encoder_settings import rendition_settings
from ..core.sheets.ladder import Rendition
from ..media.aligning import align
from ..media.handling import upload_pictures
from ..media.inspect import read_file
from ..media.measure import Stream, compare
from ..media.pictures import Picture, pictures_at, treated
from ..media.placed import Box, as_returned, cut_out, picture_bits
from ..media.rates import stream_rates
from ..media.windowed import encode_windows
from ..processes.messages import ReturnTask
from .probing import within
from .rehearse import Say

WINDOWS, LONGEST, SHORTEST = 6, 24, 8
"""Windows of a returned file, evenly over it, and pictures in each."""
LEAD_IN, MEASURED, AFTER = 4, 4, 1
"""In the middle of a window so many pictures are measured, with their neighbours, since the measures look back and ahead."""
HELD_BYTES = 600_000_000
"""What may be held in memory of pictures that are tried at several qualities."""
NO_CEILING_BPS = 2_000_000_000
LOOKING = "looking for it in the packed film"


def returned_found(task: ReturnTask, say: Say) -> ReturnedFound:
    """Everything that is to be known of a returned file. Raises BadInput where it is no such file, and what reading raises."""
    packed, returned = read_file(task.packed), read_file(task.path_returned)
    if not isinstance(packed, MasterFacts) or not isinstance(returned, MasterFacts) or task.plan.video is None:
        raise BadInput("There is no picture to compare.", "Bring back a file with a picture.", code="no_picture")
    alignment = align(task.packed, packed, task.path_returned, returned, partial(within(say, 0.0, 0.3), LOOKING))
    windows = _windows(alignment, returned)
    if not windows:
        raise BadInput(
            "Too little of the packed film came back to be measured.", "Bring back a longer piece.", code="too_short"
        )
    cost = picture_bits(task.path_returned, returned.video.frame_rate, returned.video.start_s)
    served = [cost.of_others(first, count) for first, count in windows]
    about = Observation(
        upload_side_px=min(packed.video.display_width, packed.video.display_height),
        short_side_px=_step_px(alignment),
        codec=returned.video.codec,
        frame_rate=returned.video.frame_rate,
        video_bps=0,
        best=task.best and alignment.whole_frame,
        over_other=round(cost.over_other, 4),
        room=round(buffer_room(task.destination.placement.handling.buffer_s, float(returned.duration_s)), 4),
    )
    rule = rule_of(task.destination.placement.handling, about)
    with TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        tried, bits = _tried(
            task,
            alignment,
            returned,
            windows,
            served,
            rule.quality if rule and rule.codec == about.codec else None,
            Path(scratch),
            within(say, 0.3, 0.3),
        )
        seen = _seen(task, alignment, returned, windows, tried, within(say, 0.6, 0.4))
    qualities = tuple(sorted(tried))
    rates = stream_rates(task.path_returned, float(returned.duration_s))
    sent_rates = stream_rates(task.packed, float(packed.duration_s))
    found = tuple(
        WindowSeen(
            master_s=_master_s(task, alignment, (first + count / 2) / returned.video.frame_rate),
            bits=served[number],
            tried_bits=tuple(bits[quality][number] for quality in qualities),
            seen={screen: round(seen[screen]["it"][number].condition, 2) for screen in Screen},
            tried={
                screen: tuple(round(seen[screen][str(q)][number].condition, 2) for q in qualities) for screen in Screen
            },
        )
        for number, (first, count) in enumerate(windows)
    )
    observation = about.model_copy(
        update={
            "video_bps": rates.get("video", 0),
            "qualities": qualities,
            "windows": found,
            "sound": ReturnedSound.of(returned.audio, rates.get("audio", 0)),
            "sent_sound": ReturnedSound.of(packed.audio, sent_rates.get("audio", 0)),
        }
    )
    conditions = {screen: round(value, 1) for screen in Screen if (value := observation.condition(screen)) is not None}
    return ReturnedFound(
        file_name=task.file_name,
        alignment=alignment,
        words=alignment.words(),
        conditions=conditions,
        observation=observation,
    )


def _step_px(alignment: Alignment) -> int:
    """Which step of a ladder it is: its short side in px, of the whole frame where only a part came back or a border was added."""
    if alignment.whole_frame:
        return min(alignment.returned_width, alignment.returned_height)
    wide, high = alignment.packed_width / alignment.placing.scale_x, alignment.packed_height / alignment.placing.scale_y
    return round(min(wide, high))


def _windows(alignment: Alignment, returned: MasterFacts) -> list[tuple[int, int]]:
    """First picture and count of each window, within what both films have."""
    rate, timing = returned.video.frame_rate, alignment.timing
    first = max(0, math.ceil(-timing.offset_s / timing.speed * rate))
    last = min(int(returned.duration_s * rate), int((alignment.packed_s - timing.offset_s) / timing.speed * rate)) - 1
    held = HELD_BYTES // max(1, alignment.returned_width * alignment.returned_height * 3 // 2 * WINDOWS)
    length = min(LONGEST, max(SHORTEST, held), last - first)
    if length < SHORTEST:
        return []
    count = min(WINDOWS, max(1, (last - first) // length))
    starts = [first + round((number + 0.5) / count * (last - first) - length / 2) for number in range(count)]
    return [(max(first, start), length) for start in starts]


def _packed_number(task: ReturnTask, alignment: Alignment, returned_s: Fraction | float) -> int:
    """Which packed picture is shown at a time of the returned film."""
    number = round(alignment.timing.packed_s(float(returned_s)) * alignment.packed_rate)
    return min(max(0, number), task.plan.picture.frames - 1)


def _master_s(task: ReturnTask, alignment: Alignment, returned_s: Fraction | float) -> Fraction:
    video = task.plan.picture
    return source_time_s(
        index=_packed_number(task, alignment, returned_s),
        in_s=task.plan.excerpt.in_s,
        frame_rate=video.frame_rate.value,
        keep_every=video.keep_every,
    )


def _tried(
    task: ReturnTask,
    alignment: Alignment,
    returned: MasterFacts,
    windows: Sequence[tuple[int, int]],
    served: Sequence[float],
    rule: int | None,
    folder: Path,
    say: Say,
) -> tuple[dict[int, Path], dict[int, list[float]]]:
    """The upload as it was packed, encoded here at several qualities without a ceiling, until what was `served` (bits a picture by window)
    and the sheet's own `rule` lie between them: files by quality, and bits a picture by window. Nothing of a codec that no ladder has."""
    codec, rate = returned.video.codec, returned.video.frame_rate
    if codec not in TRIED:
        return {}, {}
    numbers = [first + place for first, count in windows for place in range(count)]
    packed_rate = task.plan.picture.frame_rate.value
    times = [(_packed_number(task, alignment, number / rate) + Fraction(1, 4)) / packed_rate for number in numbers]
    pictures = [as_returned(picture, alignment) for picture in pictures_at(task.packed, times, start_s=Fraction(0))]
    belongs = [number for number, (_, count) in enumerate(windows) for _ in range(count)]
    files, bits = dict[int, Path](), dict[int, list[float]]()
    while (quality := next_tried(codec, bits, served, rule)) is not None:
        rendition = Rendition(
            name=str(quality),
            width=pictures[0].width,
            height=pictures[0].height,
            short_side_px=min(pictures[0].width, pictures[0].height),
            frame_rate=rate,
            keep_every=1,
            codec=codec,
            quality=quality,
            ceiling_bps=NO_CEILING_BPS,
            buffer_bits=NO_CEILING_BPS,
            keyframe_interval_frames=10_000,
        )
        target = folder / f"{quality}.mkv"
        part = partial(
            within(say, len(bits) / len(TRIED[codec]), 1 / len(TRIED[codec])), "trying what it may have been made with"
        )
        found = encode_windows(rendition_settings(rendition), iter(pictures), belongs, target, part)
        files[quality] = target
        bits[quality] = [round(window.other_bits / max(1, window.others), 1) for _, window in sorted(found.items())]
    return files, bits


def _seen(
    task: ReturnTask,
    alignment: Alignment,
    returned: MasterFacts,
    windows: Sequence[tuple[int, int]],
    tried: dict[int, Path],
    say: Say,
) -> dict[Screen, dict[str, list[Likeness]]]:
    """Likenesses to the master by screen and window, of the returned file (“it”) and of every quality that was tried; all is read once."""
    screens = list(Screen)
    rasters, boxes = zip(*(_raster(task, alignment, screen) for screen in screens), strict=True)
    rate = returned.video.frame_rate
    wanted, measured, owner, places = list[int](), list[bool](), list[int](), list[int]()
    before = 0
    for number, (first, count) in enumerate(windows):
        middle = max(0, count // 2 - MEASURED // 2 - LEAD_IN)
        for place in range(middle, min(count, middle + LEAD_IN + MEASURED + AFTER)):
            wanted.append(first + place)
            places.append(before + place)
            measured.append(LEAD_IN <= place - middle < LEAD_IN + MEASURED)
            owner.append(number)
        before += count
    ticks = [
        Tick(index=index, measured=flag, master_s=_master_s(task, alignment, number / rate))
        for index, (number, flag) in enumerate(zip(wanted, measured, strict=True))
    ]
    size, every = (returned.video.coded_width, returned.video.coded_height), frozenset(range(len(screens)))
    own = pictures_at(
        task.path_returned, ((number + Fraction(1, 4)) / rate for number in wanted), start_s=returned.video.start_s
    )
    streams = {"it": Stream(pictures=own, size=size, rasters=every)}
    for quality, path in tried.items():
        even = alignment.returned_width // 2 * 2, alignment.returned_height // 2 * 2
        streams[str(quality)] = Stream(pictures=_only(upload_pictures(path), places), size=even, rasters=every)
    found = compare(
        rasters=rasters,
        reference_size=rasters[0].size,
        references=treated(task.path, task.facts.video, task.plan, ticks, frame=False),
        own_reference=lambda picture, number: cut_out(picture, boxes[number], rasters[number].size),
        streams=streams,
        measured=measured,
        rate=rate,
        progress=lambda done: say("measuring it", done / len(wanted)),
    )
    return {
        screen: {
            name: [
                mean_likeness(
                    rasters[place].size, [parts for index, parts in found[name, place] if owner[index] == number]
                )
                for number in range(len(windows))
            ]
            for name in streams
        }
        for place, screen in enumerate(screens)
    }


def _only(pictures: Iterator[Picture], numbers: Sequence[int]) -> Iterator[Picture]:
    wanted = set(numbers)
    for number, picture in enumerate(pictures):
        if number in wanted:
            yield picture


def _raster(task: ReturnTask, alignment: Alignment, screen: Screen) -> tuple[Raster, Box]:
    """A screen's raster for the returned frame, with the master's part that lies there (px of its kept picture).

    The part is chosen so that its edges fall between pixels of the raster; the master is cut there to fractions of a pixel.
    """
    framing, place = task.plan.picture.framing.value, alignment.placing
    wide, high = frame_raster(screen, alignment.returned_width, alignment.returned_height)
    left, top, right, bottom = alignment.shown
    picture = framing.picture
    left, top = max(left, picture.x), max(top, picture.y)
    right, bottom = min(right, picture.x + picture.width), min(bottom, picture.y + picture.height)
    across, down = wide / alignment.returned_width, high / alignment.returned_height
    x0, x1 = _inside((left - place.left) / place.scale_x * across, (right - place.left) / place.scale_x * across, wide)
    y0, y1 = _inside((top - place.top) / place.scale_y * down, (bottom - place.top) / place.scale_y * down, high)

    def master(x: float, y: float) -> tuple[float, float]:
        px, py = x / across * place.scale_x + place.left, y / down * place.scale_y + place.top
        return (px - picture.x) / picture.width * framing.crop.width, (
            py - picture.y
        ) / picture.height * framing.crop.height

    (a, b), (c, d) = master(x0, y0), master(x1, y1)
    return Raster(frame_width=wide, frame_height=high, x=x0, y=y0, width=x1 - x0, height=y1 - y0), (a, b, c, d)


def _inside(low: float, high: float, length: int) -> tuple[int, int]:
    """Even places within a stretch of the raster."""
    first, last = math.ceil((low - 0.01) / 2) * 2, math.floor((high + 0.01) / 2) * 2
    return max(0, first), min(length, last)
