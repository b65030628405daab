"""Packing against a bare decode → encode loop with the same settings, in pairs: prints ratios, judges nothing."""

from __future__ import annotations

import itertools
import statistics
import tempfile
import time
from pathlib import Path

import av

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import packing_settings
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import Effort, RateControl
from hardy_parcel.demo import gale
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack

from .films import SIZE, scene, there_and_back

PAIRS = 3


def bare(master: Path, plan, folder: Path) -> float:
    """Decode and encode, nothing else: no treatment, no sound, no progress. Seconds."""
    began = time.perf_counter()
    two = plan.video.rate_control.value is RateControl.TWO_PASSES
    for number in (1, 2) if two else (0,):
        settings = packing_settings(plan, encode_pass=number, stats_path=str(folder / "stats") if two else None)
        with av.open(str(master)) as source, av.open(str(folder / "bare.mp4"), "w") as target:
            stream = source.streams.video[0]
            stream.thread_type = "AUTO"
            out = target.add_stream(settings.library, rate=settings.frame_rate, options=settings.all_options())
            out.width, out.height, out.pix_fmt = settings.width, settings.height, settings.pixel_format
            for picture in source.decode(stream):
                picture.pict_type = 0
                target.mux(out.encode(picture))
            target.mux(out.encode(None))
    return time.perf_counter() - began


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        large = folder / "large.mp4"
        write_film(large, width=gale.WIDTH, height=gale.HEIGHT, frame_rate=gale.RATE,
                   pictures=itertools.islice(gale.pictures(), 60), sound=gale.sound(), quality=17)
        small = folder / "small.mp4"
        write_film(small, width=SIZE[0], height=SIZE[1], frame_rate=gale.RATE / 2,
                   pictures=there_and_back(scene(gale), 400), sound=gale.sound(), quality=14)
        place = destination("orrery-wide")
        for path, effort, control in (
            (small, Effort.MEDIUM, RateControl.TWO_PASSES), (small, Effort.QUICK, RateControl.ONE_PASS),
            (large, Effort.MEDIUM, RateControl.TWO_PASSES), (large, Effort.QUICK, RateControl.ONE_PASS),
        ):
            facts = inspect(path)
            plan = make_plan(facts, place, Choices(effort=effort, rate_control=control))
            ratios, fps = [], []
            for pair in range(PAIRS + 1):
                alone = bare(path, plan, folder)
                began = time.perf_counter()
                done = pack(path, facts, plan, folder / "packed.mp4")
                ours = time.perf_counter() - began
                if pair:  # the first pair warms the caches
                    ratios.append(alone / ours)
                    fps.append(done.pictures / ours)
            size = f"{facts.video.display_width}×{facts.video.display_height}"
            print(
                f"{size:10} {effort:7} {control:10} packing runs at {statistics.median(ratios):.2f} of the bare loop's speed "
                f"(min {min(ratios):.2f}, max {max(ratios):.2f}, {PAIRS} pairs), {statistics.median(fps):.1f} frames/s",
                flush=True,
            )


if __name__ == "__main__":
    main()
