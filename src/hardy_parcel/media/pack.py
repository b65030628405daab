"""Packs a parcel: decode, treat, encode, mux, without the film in memory."""

from __future__ import annotations

import math
import tempfile
import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from itertools import islice
from pathlib import Path
from typing import Any, cast

import av

from ..core.arrival.ticks import every_tick
from ..core.errors import PlanHeld
from ..core.master.facts import MasterFacts
from ..core.plan.as_it_is import ends_early
from ..core.plan.choices import Method
from ..core.plan.encoder_settings import packing_settings, searches_quality
from ..core.plan.plan import Plan, duration_s
from ..core.plan.stages import TRIAL_PICTURES, trial_places
from ..core.trade.rate_control import RateControl
from .boxes import end_presentation_at
from .captions import CueTracks, add_captions
from .encode import add_video, encoded, encoder
from .inspect import picture_stream
from .kept_pictures import KeptPictures
from .pictures import treated
from .quality_finding import Pictures, quality_that_has_the_size
from .sound import add_sound, sound_blocks
from .trouble import open_film, reading, writing


@dataclass(frozen=True, slots=True, kw_only=True)
class Tried:
    """What a first pass, and reading the file back, take beside the last pass."""

    first_pass: float | None
    reading_back: float


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Pictures that came out of the encoder in all passes, of how many, and bytes of picture written.

    `again` counts tries that came out too large. With `reading_back` it counts pictures that were decoded of the packed file, with
    `judging` those that were judged. `tried` comes once, before the first picture, of films that are long enough, and before that
    `judging_s`: how long judging takes, without finding the pictures in the packed file.
    """

    done: int
    total: int
    bytes: int
    again: int = 0
    reading_back: bool = False
    judging: bool = False
    tried: Tried | None = None
    judging_s: float | None = None


Report = Callable[[Progress], None]
"""Called after every picture; it may raise Cancelled."""

SOUND_AHEAD_S = Fraction(1, 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What packing took: pictures in the file, seconds of encoding, bytes of picture, and the quality value that was found for its size."""

    pictures: int
    seconds: float
    video_bytes: int
    quality: float | None = None


FORMATS: dict[str, str] = {"mkv": "matroska", "m4a": "ipod"}
"""Containers whose muxer has another name."""
COPY_BLOCK = 4 << 20
HELD_BYTES = 600_000_000
"""What is held in memory of pictures that are tried."""


def pack(
    master: Path, facts: MasterFacts, plan: Plan, target: Path, *, report: Report = lambda progress: None, captions: CueTracks = (),
) -> Packed:
    """Write the parcel to `target` (a partial name; the caller verifies and renames), with `captions` where they go inside it.

    Raises PlanHeld for a held plan, UnreadableMaster, DiskFull, EncoderTrouble, or whatever `report` raises.
    """
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    began, quality = time.monotonic(), None
    with writing(target):
        if plan.method.value is Method.UNTOUCHED:
            pictures, written = _copy(master, plan, target, report)
        elif plan.copied:
            pictures, written = _rewrap(master, facts, plan, target, report, captions)
        elif plan.video is None:
            pictures, written = _encode_sound(master, facts, plan, target, report)
        else:
            def some_pictures(first: int = 0, count: int | None = None) -> Iterator[av.VideoFrame]:
                end = None if count is None else first + count
                return treated(master, facts.video, plan, islice(every_tick(plan), first, end))

            beside, count = (master, facts), plan.picture.frames
            quality = _searched(plan, some_pictures, count, report)
            pictures, written = _encode(plan, some_pictures, count, target, report, quality, beside=beside, captions=captions)
    return Packed(pictures=pictures, seconds=time.monotonic() - began, video_bytes=written, quality=quality)


def pack_reel(plan: Plan, pictures: KeptPictures, count: int, target: Path, *, report: Report = lambda progress: None) -> Packed:
    """Write `count` treated pictures with the plan's settings, without sound; they are gone through once for each pass."""
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    began = time.monotonic()
    with writing(target):
        def some_pictures(first: int = 0, length: int | None = None) -> Iterator[av.VideoFrame]:
            return iter(pictures.part(first, count - first if length is None else length))

        quality = _searched(plan, some_pictures, count, report)
        sent, written = _encode(plan, some_pictures, count, target, report, quality)
    return Packed(pictures=sent, seconds=time.monotonic() - began, video_bytes=written, quality=quality)


def _searched(plan: Plan, pictures: Pictures, count: int, report: Report) -> float | None:
    """The quality that has the size, from a first pass, where the plan's encoder needs one to be found."""
    if not searches_quality(plan.picture):
        return None
    return quality_that_has_the_size(plan, pictures, count, lambda done: report(Progress(done=done, total=2 * count, bytes=0)))


def _encode(
    plan: Plan, pictures: Pictures, count: int, target: Path, report: Report, quality: float | None,
    *, beside: tuple[Path, MasterFacts] | None = None, captions: CueTracks = (),
) -> tuple[int, int]:
    """Encode `count` pictures in as many passes as planned, or at a `quality` that was found; with `beside` the master's sound, chapters
    and captions too."""
    video = plan.picture
    two = video.rate_control.value is RateControl.TWO_PASSES
    total = count * (2 if two else 1)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        stats = str(Path(scratch) / "passes.log")
        if beside and quality is None and (places := trial_places(count)):
            report(Progress(done=0, total=total, bytes=0, tried=_tried(
                plan, pictures, count, places, Path(scratch), lambda: report(Progress(done=0, total=total, bytes=0)),
            )))
        if two and quality is None:
            settings = packing_settings(plan, encode_pass=1, stats_path=stats)
            out = 0
            for _, packets in encoded(encoder(settings), pictures()):
                out += len(packets)
                report(Progress(done=min(count, out), total=total, bytes=0))
        settings = packing_settings(plan, encode_pass=2 if two else 0, stats_path=stats if two else None, quality=quality)
        offset, out, written = (count if two else 0), 0, 0
        with _written(target, plan, whole=beside is not None) as container:
            stream = add_video(container, settings, entry=video.sample_entry.value)
            sound = add_sound(container, plan.audio) if plan.audio and beside else None
            if beside:
                _add_chapters(container, beside[0], plan)
            add_captions(container, plan, captions)
            blocks = sound_blocks(*beside, plan) if sound and beside else iter(())
            feed = _sound_feed(container, sound, blocks)
            for sent, packets in encoded(stream, pictures()):
                for packet in packets:
                    written += packet.size
                    container.mux(packet)
                out += len(packets)
                feed(sent / settings.frame_rate + SOUND_AHEAD_S)
                report(Progress(done=offset + min(count, out), total=total, bytes=written))
            feed(None)
    return count, written


def _tried(plan: Plan, pictures: Pictures, count: int, places: int, scratch: Path, alive: Callable[[], None]) -> Tried:
    """What the stages take beside one another on these very pictures, tried at so many `places`; `alive` may raise.

    The pictures are read once, and what that takes is added to each pass: finding a place in the film belongs to none.
    """
    video = plan.picture
    two = video.rate_control.value is RateControl.TWO_PASSES
    length = max(2, min(TRIAL_PICTURES, HELD_BYTES // (video.framing.value.width * video.framing.value.height * 3 * places)))
    held, reading_s = list[av.VideoFrame](), 0.0
    for number in range(places):
        shown = pictures(round((number + 0.5) / places * count), length)
        held.append(next(shown))
        began = time.monotonic()
        held += shown
        reading_s += (time.monotonic() - began) * length / (length - 1)
        alive()
    stats, target, first_s = str(scratch / "tried.log"), scratch / "tried", None
    if two:
        began = time.monotonic()
        for _ in encoded(encoder(packing_settings(plan, encode_pass=1, stats_path=stats)), _numbered(held)):
            alive()
        first_s = reading_s + time.monotonic() - began
    settings = packing_settings(plan, encode_pass=2 if two else 0, stats_path=stats if two else None)
    began = time.monotonic()
    with _written(target, plan, whole=False) as container:
        for _, packets in encoded(add_video(container, settings, entry=video.sample_entry.value), _numbered(held)):
            container.mux(packets)
            alive()
    last_s = reading_s + time.monotonic() - began
    began = time.monotonic()
    with open_film(target) as film:
        film.streams.video[0].thread_type = "AUTO"
        for _ in film.decode(video=0):
            pass
    back_s = time.monotonic() - began
    return Tried(first_pass=first_s / last_s if first_s else None, reading_back=back_s / last_s)


def _numbered(pictures: Iterable[av.VideoFrame]) -> Iterator[av.VideoFrame]:
    for number, picture in enumerate(pictures):
        picture.pts = number
        yield picture


def _encode_sound(master: Path, facts: MasterFacts, plan: Plan, target: Path, report: Report) -> tuple[int, int]:
    """Sound alone; progress is whole seconds of sound."""
    seconds = max(1, math.ceil(duration_s(plan)))
    with _written(target, plan, whole=True) as container:
        stream = add_sound(container, plan.sound)
        _add_chapters(container, master, plan)
        feed = _sound_feed(container, stream, sound_blocks(master, facts, plan))
        for second in range(1, seconds + 1):
            feed(Fraction(second))
            report(Progress(done=second, total=seconds, bytes=0))
        feed(None)
    return 0, 0


def make_sound_again(packed: Path, master: Path, facts: MasterFacts, plan: Plan, target: Path, captions: CueTracks = ()) -> None:
    """The packed file once more with its pictures as they are and the sound as the plan now has it."""
    with writing(target):
        if plan.video is None:
            _encode_sound(master, facts, plan, target, lambda progress: None)
            return
        with reading(packed), open_film(packed) as source, _written(target, plan, whole=True) as container:
            pictures = source.streams.video[0]
            copy = container.add_stream_from_template(pictures)
            _name_entry(copy, plan)
            sound = add_sound(container, plan.sound)
            _add_chapters(container, master, plan)
            add_captions(container, plan, captions)
            feed = _sound_feed(container, sound, sound_blocks(master, facts, plan))
            for packet in _with_decode_times(source.demux(pictures), pictures):
                until = max(cast(int, packet.dts), 0) * packet.time_base + SOUND_AHEAD_S
                packet.stream = copy
                container.mux(packet)
                feed(until)
            feed(None)


def _written(target: Path, plan: Plan, *, whole: bool) -> av.container.OutputContainer:
    container = plan.container.value
    options = {"movflags": "+faststart"} if plan.fast_start.value and whole else {}
    return av.open(str(target), "w", format=FORMATS.get(container, container), options=options)


def _name_entry(stream: Any, plan: Plan) -> None:
    if entry := plan.picture.sample_entry.value:
        stream.codec_context.codec_tag = entry


def _add_chapters(container: av.container.OutputContainer, master: Path, plan: Plan) -> None:
    """The master's chapters, moved and cut to the excerpt."""
    if not plan.chapters.value:
        return
    with reading(master), open_film(master) as source:
        found = source.chapters()
    moved: list[Any] = []
    for chapter in found:
        base = cast(Fraction, chapter["time_base"])
        start = max(Fraction(0), chapter["start"] * base - plan.excerpt.in_s)
        end = min(plan.excerpt.duration_s, chapter["end"] * base - plan.excerpt.in_s)
        if end > start:
            moved.append({
                **chapter, "id": len(moved), "start": round(start * 1000), "end": round(end * 1000), "time_base": Fraction(1, 1000),
            })
    container.set_chapters(moved)


def _copy(master: Path, plan: Plan, target: Path, report: Report) -> tuple[int, int]:
    """The master's bytes as they are; progress is of bytes."""
    size, done = max(1, master.stat().st_size), 0
    with reading(master), open(master, "rb") as source, open(target, "wb") as copy:
        while block := source.read(COPY_BLOCK):
            copy.write(block)
            done += len(block)
            report(Progress(done=done, total=max(size, done), bytes=done))
    return plan.picture.frames, done


def _rewrap(master: Path, facts: MasterFacts, plan: Plan, target: Path, report: Report, captions: CueTracks) -> tuple[int, int]:
    """The master's packets in another container, cut to the excerpt, with its sound, another or none.

    Pictures after the out point that earlier ones are made from stay in; the file says that they are not shown.
    """
    frames, done, written, beyond = plan.picture.frames, 0, 0, 0
    anew = plan.audio is not None and not plan.audio.copied
    half = 1 / (2 * plan.picture.frame_rate.value)
    with reading(master), open_film(master) as source, _written(target, plan, whole=True) as container:
        pictures = picture_stream(source, master)
        streams = [pictures, *(source.streams.audio[:1] if plan.audio and not anew else ())]
        copies = {stream.index: container.add_stream_from_template(stream) for stream in streams}
        _name_entry(copies[pictures.index], plan)
        sound = add_sound(container, plan.sound) if anew else None
        _add_chapters(container, master, plan)
        add_captions(container, plan, captions)
        feed = _sound_feed(container, sound, sound_blocks(master, facts, plan) if sound else iter(()))
        start = facts.video.start_s + plan.excerpt.in_s
        end = start + plan.excerpt.duration_s - half if ends_early(facts, plan.excerpt) else None
        for packet in _between(source, streams, start - half if plan.excerpt.in_s else None, end):
            at = cast(int, packet.pts) * packet.time_base - start
            shift = round(plan.excerpt.in_s / packet.time_base)
            packet.pts, packet.dts = cast(int, packet.pts) - shift, cast(int, packet.dts) - shift
            if packet.stream.index == pictures.index:
                beyond += end is not None and at + start >= end
                done, written = done + 1, written + packet.size
                report(Progress(done=min(done, frames), total=max(frames, 1), bytes=written))
                feed(max(at, Fraction(0)) + SOUND_AHEAD_S)
            packet.stream = copies[packet.stream.index]
            container.mux(packet)
        feed(None)
    if beyond:
        end_presentation_at(target, plan.excerpt.duration_s)
    return done - beyond, written


def _with_decode_times(packets: Iterator[av.Packet[Any]], pictures: Any) -> Iterator[av.Packet[Any]]:
    """Packets that carry something, each with a decode time; Matroska states none for the first pictures where some are reordered."""
    waiting: list[av.Packet[Any]] = []
    step = round(1 / ((pictures.average_rate or 25) * pictures.time_base))

    def known(before: int) -> Iterator[av.Packet[Any]]:
        for place, early in enumerate(waiting):
            early.dts = before - step * (len(waiting) - place)
            yield early
        waiting.clear()

    for packet in packets:
        if packet.pts is None or not packet.size:
            continue
        if packet.stream.index != pictures.index:
            yield packet
        elif packet.dts is None:
            waiting.append(packet)
        else:
            yield from known(packet.dts)
            yield packet
    yield from known(step * len(waiting))


def _between(
    source: Any, streams: list[Any], start_s: Fraction | None, end_s: Fraction | None
) -> Iterator[av.Packet[Any]]:
    """Packets from a keyframe on up to the last that a picture before `end_s` needs (s by the file's own clock); None cuts nothing.

    A head that is not cut keeps what comes before the first picture, such as the priming of the sound.
    """
    pictures, begun, ended = streams[0], start_s is None, set[int]()
    if start_s is not None:
        source.seek(int(start_s / cast(Fraction, pictures.time_base)), stream=pictures, backward=False)
    waiting: list[av.Packet[Any]] = []
    for packet in _with_decode_times(source.demux(streams), pictures):
        at, index = cast(int, packet.pts) * packet.time_base, packet.stream.index
        if (start_s is not None and at < start_s) or index in ended:
            continue  # before the in point, or shown before the keyframe that it follows in the file
        if index == pictures.index:
            begun = begun or packet.is_keyframe
            if not begun:
                continue
        if end_s is not None and index != pictures.index and at >= end_s:
            ended.add(index)
            continue
        if end_s is None or index != pictures.index:
            yield packet
            continue
        waiting.append(packet)
        if at < end_s:
            yield from waiting
            waiting.clear()
        elif cast(int, packet.dts) * packet.time_base >= end_s:
            ended.add(index)
        if len(ended) == len(streams):
            return


def _sound_feed(container: Any, stream: Any, blocks: Iterator[av.AudioFrame]) -> Callable[[Fraction | None], None]:
    """A function that encodes and muxes sound up to a time in s (None: to the end), so neither stream waits long."""
    ended = stream is None

    def feed(until_s: Fraction | None) -> None:
        nonlocal ended
        while not ended:
            block = next(blocks, None)
            for packet in stream.encode(block):
                container.mux(packet)
            if block is None:
                ended = True
            elif until_s is not None and (block.pts or 0) * cast(Fraction, block.time_base) >= until_s:
                return

    return feed

