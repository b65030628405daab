"""Packs a parcel: decode, treat, encode, mux, without the film in memory."""

from __future__ import annotations

import math
import tempfile
import time
from collections.abc import Callable, Iterable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av

from ..core.errors import PlanHeld
from ..core.master.facts import MasterFacts
from ..core.plan.choices import Method
from ..core.plan.encoder_settings import packing_settings
from ..core.plan.plan import Plan, duration_s
from ..core.trade.rate_control import RateControl
from .encode import add_video, encoded, encoder
from .pictures import every_tick, treated
from .sound import add_sound, sound_blocks
from .trouble import open_film, reading, writing


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Pictures done of all passes, of how many, and bytes of picture written; `again` counts tries that came out too large."""

    done: int
    total: int
    bytes: int
    again: int = 0


Report = Callable[[Progress], None]
"""Called after every picture; it may raise Cancelled."""

SOUND_AHEAD_S = Fraction(1, 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What packing took: pictures in the file, seconds of encoding, bytes of picture."""

    pictures: int
    seconds: float
    video_bytes: int


FORMATS: dict[str, str] = {"mkv": "matroska", "m4a": "ipod"}
"""Containers whose muxer has another name."""
COPY_BLOCK = 4 << 20


def pack(master: Path, facts: MasterFacts, plan: Plan, target: Path, *, report: Report = lambda progress: None) -> Packed:
    """Write the parcel to `target` (a partial name; the caller verifies and renames).

    Raises PlanHeld for a held plan, UnreadableMaster, DiskFull, EncoderTrouble, or whatever `report` raises.
    """
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    began = time.monotonic()
    with writing(target):
        if plan.method.value is Method.UNTOUCHED:
            pictures, written = _copy(master, plan, target, report)
        elif plan.method.value is Method.REWRAP:
            pictures, written = _rewrap(master, plan, target, report)
        elif plan.video is None:
            pictures, written = _encode_sound(master, facts, plan, target, report)
        else:
            def every_picture() -> Iterator[av.VideoFrame]:
                return treated(master, facts.video, plan, every_tick(plan))

            pictures, written = _encode(plan, every_picture, plan.picture.frames, target, report, beside=(master, facts))
    return Packed(pictures=pictures, seconds=time.monotonic() - began, video_bytes=written)


def pack_reel(plan: Plan, pictures: Iterable[av.VideoFrame], count: int, target: Path, *, report: Report = lambda progress: None) -> Packed:
    """Write `count` treated pictures with the plan's settings, without sound; they are gone through once for each pass."""
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    began = time.monotonic()
    with writing(target):
        sent, written = _encode(plan, lambda: iter(pictures), count, target, report)
    return Packed(pictures=sent, seconds=time.monotonic() - began, video_bytes=written)


def _encode(
    plan: Plan, pictures: Callable[[], Iterator[av.VideoFrame]], count: int, target: Path, report: Report,
    *, beside: tuple[Path, MasterFacts] | None = None,
) -> tuple[int, int]:
    """Encode `count` pictures in as many passes as planned; with `beside`, the master's sound and chapters too."""
    video = plan.picture
    two = video.rate_control.value is RateControl.TWO_PASSES
    total = count * (2 if two else 1)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        stats = str(Path(scratch) / "passes.log")
        if two:
            settings = packing_settings(plan, encode_pass=1, stats_path=stats)
            for sent, _ in encoded(encoder(settings), pictures()):
                report(Progress(done=sent, total=total, bytes=0))
        settings = packing_settings(plan, encode_pass=2 if two else 0, stats_path=stats if two else None)
        offset, written = (count if two else 0), 0
        with _written(target, plan, whole=beside is not None) as container:
            stream = add_video(container, settings)
            sound = add_sound(container, plan.audio) if plan.audio and beside else None
            if beside:
                _add_chapters(container, beside[0], plan)
            blocks = sound_blocks(*beside, plan) if sound and beside else iter(())
            feed = _sound_feed(container, sound, blocks)
            for sent, packets in encoded(stream, pictures()):
                for packet in packets:
                    written += packet.size
                    container.mux(packet)
                feed(sent / settings.frame_rate + SOUND_AHEAD_S)
                report(Progress(done=offset + sent, total=total, bytes=written))
            feed(None)
    return count, written


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


def make_sound_again(packed: Path, master: Path, facts: MasterFacts, plan: Plan, target: Path) -> None:
    """The packed file once more with its pictures as they are and the sound as the plan now has it."""
    with writing(target):
        if plan.video is None:
            _encode_sound(master, facts, plan, target, lambda progress: None)
            return
        with reading(packed), open_film(packed) as source, _written(target, plan, whole=True) as container:
            pictures = source.streams.video[0]
            copy = container.add_stream_from_template(pictures)
            sound = add_sound(container, plan.sound)
            _add_chapters(container, master, plan)
            feed = _sound_feed(container, sound, sound_blocks(master, facts, plan))
            for packet in source.demux(pictures):
                if packet.dts is None:
                    continue
                until = max(packet.dts, 0) * packet.time_base + SOUND_AHEAD_S
                packet.stream = copy
                container.mux(packet)
                feed(until)
            feed(None)


def _written(target: Path, plan: Plan, *, whole: bool) -> av.container.OutputContainer:
    container = plan.container.value
    options = {"movflags": "+faststart"} if plan.fast_start.value and whole else {}
    return av.open(str(target), "w", format=FORMATS.get(container, container), options=options)


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


def _rewrap(master: Path, plan: Plan, target: Path, report: Report) -> tuple[int, int]:
    """The master's packets in another container."""
    frames, done, written = plan.picture.frames, 0, 0
    with reading(master), open_film(master) as source, _written(target, plan, whole=True) as container:
        streams = [source.streams.video[0], *source.streams.audio[:1]]
        copies = {stream.index: container.add_stream_from_template(stream) for stream in streams}
        _add_chapters(container, master, plan)
        for packet in source.demux(streams):
            if packet.dts is None:
                continue
            if packet.stream.index == streams[0].index:
                done, written = done + 1, written + packet.size
                report(Progress(done=done, total=max(frames, done), bytes=written))
            packet.stream = copies[packet.stream.index]
            container.mux(packet)
    return done, written


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

