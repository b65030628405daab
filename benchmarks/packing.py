"""Packing against a bare decode → encode chain with the same settings, in pairs: prints ratios, judges nothing."""

from __future__ import annotations

import itertools
import statistics
import sys
import tempfile
import time
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import av
import numpy as np
from tests.films import shimmer

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import packing_settings
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.demo import gale
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import Planes, write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack

from .films import SIZE, scene, there_and_back

PAIRS, FEW = 3, 20


def bare(master: Path, plan: Plan, folder: Path) -> float:
    """Decode, scale where the size differs, and encode, with the sound where it is packed too; nothing else: no treatment, no level, no
    progress. Seconds."""
    began = time.perf_counter()
    two = plan.picture.rate_control.value is RateControl.TWO_PASSES
    for number in (1, 2) if two else (0,):
        settings = packing_settings(plan, encode_pass=number, stats_path=str(folder / "stats") if two else None)
        with av.open(str(master)) as source, av.open(str(folder / "bare.mp4"), "w") as target:
            pictures: Any = source.streams.video[0]
            pictures.thread_type = "AUTO"
            out: Any = target.add_stream(settings.library, rate=settings.frame_rate, options=settings.all_options())
            out.width, out.height, out.pix_fmt = settings.width, settings.height, settings.pixel_format
            sound: Any = source.streams.audio[0] if plan.audio and number != 1 else None
            talk: Any = target.add_stream("aac", rate=48_000) if sound else None
            if talk:
                talk.bit_rate, talk.layout = plan.sound.bitrate_bps.value, "stereo"
            for packet in source.demux([stream for stream in (pictures, sound) if stream]):
                for frame in packet.decode():
                    if isinstance(frame, av.VideoFrame):
                        if (frame.width, frame.height) != (settings.width, settings.height):
                            frame = frame.reformat(width=settings.width, height=settings.height, interpolation="LANCZOS")
                        frame.pict_type = 0
                        target.mux(out.encode(frame))
                    else:
                        target.mux(talk.encode(frame))
            for stream in (out, talk):
                target.mux(stream.encode(None) if stream else [])
    return time.perf_counter() - began


def film_of(path: Path, size: tuple[int, int], count: int) -> Path:
    """The gale, enlarged where it has to be."""
    width, height = size
    if size == (gale.WIDTH, gale.HEIGHT):
        pictures: Iterator[Planes] = itertools.islice(gale.pictures(), count)
    elif size == SIZE:
        pictures = there_and_back(scene(gale) if count > FEW else list(shimmer(*SIZE, count)), count)
    else:
        pictures = (tuple(np.kron(plane, np.ones((2, 2), np.uint8)) for plane in one) for one in itertools.islice(gale.pictures(), count))
    rate = gale.RATE / 2 if size == SIZE else gale.RATE
    write_film(path, width=width, height=height, frame_rate=rate, pictures=pictures, quality=17,
               sound=gale.sound()[:, : round(count / rate * 48_000)])
    return path


TRIED: tuple[tuple[tuple[int, int], int, dict[str, Any]], ...] = (
    (SIZE, 400, {"effort": "medium", "rate_control": "two passes", "sound": False}),
    (SIZE, 400, {"effort": "quick", "rate_control": "one pass", "sound": False}),
    ((1920, 1080), 60, {"effort": "medium", "rate_control": "two passes", "sound": False}),
    ((1920, 1080), 60, {"effort": "quick", "rate_control": "one pass", "sound": False}),
    ((1920, 1080), 60, {"effort": "quick", "rate_control": "one pass", "short_side_px": 720}),
    ((3840, 2160), 24, {"effort": "quick", "rate_control": "one pass", "sound": False}),
)
"""Size of the master, how many pictures, and what is chosen: the picture alone, and once scaled with its sound."""


def main(*, small: bool = False) -> None:
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder, place = Path(scratch), destination("orrery-wide")
        for size, count, choices in ((SIZE, 10, TRIED[1][2]),) if small else TRIED:
            path = folder / f"{size[1]}.mp4"
            facts = inspect(path if path.exists() else film_of(path, size, count))
            plan = make_plan(facts, place, Choices(method="encoded", **choices))
            ratios, fps = [], []
            for pair in range(2 if small else PAIRS + 1):
                alone = bare(path, plan, folder)
                began = time.perf_counter()
                done = pack(path, facts, plan, folder / "packed.mp4")
                ours = time.perf_counter() - began
                if pair:  # the first pair warms the caches
                    ratios.append(alone / ours)
                    fps.append(done.pictures / ours)
            scaled = f", scaled to {choices['short_side_px']} lines, with sound" if "short_side_px" in choices else ""
            print(
                f"{size[0]}×{size[1]}, {choices['effort']}, {choices['rate_control']}{scaled}: packing runs at "
                f"{statistics.median(ratios):.2f} of the bare chain's speed (min {min(ratios):.2f}, max {max(ratios):.2f}, "
                f"{len(ratios)} pairs), "
                f"{statistics.median(fps):.1f} frames/s", flush=True,
            )


if __name__ == "__main__":
    main(small="--small" in sys.argv)
