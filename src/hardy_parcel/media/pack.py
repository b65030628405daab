"""Packs a parcel: decode, treat, encode, mux, without the film in memory."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av

from ..core.encoder_settings import packing_settings
from ..core.errors import PlanHeld
from ..core.facts import MasterFacts
from ..core.plan import Plan, RateControl
from ..core.windows import Reel
from .encode import add_video, encoded, encoder
from .pictures import every_tick, ticks, treated
from .sound import add_sound, sound_blocks
from .trouble import writing


@dataclass(frozen=True, slots=True, kw_only=True)
class Progress:
    """Pictures done of all passes, of how many, and bytes of picture written."""

    done: int
    total: int
    bytes: int


Report = Callable[[Progress], None]
"""Called after every picture; it may raise Cancelled."""

SOUND_AHEAD_S = Fraction(1, 2)


@dataclass(frozen=True, slots=True, kw_only=True)
class Packed:
    """What packing took: pictures in the file, seconds of encoding, bytes of picture."""

    pictures: int
    seconds: float
    video_bytes: int


def pack(
    master: Path,
    facts: MasterFacts,
    plan: Plan,
    target: Path,
    *,
    report: Report = lambda progress: None,
    reel: Reel | None = None,
) -> Packed:
    """Write the parcel to `target` (a partial name; the caller verifies and renames).

    With a `reel` only its pictures are packed, without sound. Raises PlanHeld for a held plan, UnreadableMaster,
    DiskFull, EncoderTrouble, or whatever `report` raises.
    """
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    chosen = ticks(plan, reel) if reel else None
    count = len(chosen) if chosen is not None else plan.video.frames

    def pictures() -> Iterator[av.VideoFrame]:
        return treated(master, facts.video, plan, every_tick(plan) if chosen is None else chosen)

    two = plan.video.rate_control.value is RateControl.TWO_PASSES
    total = count * (2 if two else 1)
    began = time.monotonic()
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch, writing(target):
        stats = str(Path(scratch) / "passes.log")
        if two:
            settings = packing_settings(plan, encode_pass=1, stats_path=stats)
            for sent, _ in encoded(encoder(settings), pictures()):
                report(Progress(done=sent, total=total, bytes=0))
        settings = packing_settings(plan, encode_pass=2 if two else 0, stats_path=stats if two else None)
        offset, written = (count if two else 0), 0
        options = {"movflags": "+faststart"} if plan.fast_start.value and reel is None else {}
        with av.open(str(target), "w", format=plan.container.value, options=options) as container:
            video = add_video(container, settings)
            sound = add_sound(container, plan.audio) if plan.audio and reel is None else None
            blocks = sound_blocks(master, facts, plan) if sound else iter(())
            feed = _sound_feed(container, sound, blocks)
            for sent, packets in encoded(video, pictures()):
                for packet in packets:
                    written += packet.size
                    container.mux(packet)
                feed(sent / settings.frame_rate + SOUND_AHEAD_S)
                report(Progress(done=offset + sent, total=total, bytes=written))
            feed(None)
    return Packed(pictures=count, seconds=time.monotonic() - began, video_bytes=written)


def _sound_feed(container, stream, blocks: Iterator[av.AudioFrame]) -> Callable[[Fraction | None], None]:
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
            elif until_s is not None and block.pts * block.time_base >= until_s:
                return

    return feed

