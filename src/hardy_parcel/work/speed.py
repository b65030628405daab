"""How fast this machine encodes: a moving picture of the program's own, packed in every codec as a parcel would be."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory

import numpy as np

from ..core.plan.choices import Choices
from ..core.plan.planning import make_plan
from ..core.trade.codecs import name_of
from ..core.trade.names import Codec
from ..core.trade.rate_control import Effort, RateControl
from ..docks.catalogue import destination
from ..media.film import Planes, write_film
from ..media.inspect import inspect
from ..media.pack import pack
from .rehearse import Say

TRIED: tuple[Codec, ...] = ("h264", "hevc", "vp9", "av1")
RATE = Fraction(25)
GRAIN, SEED = 2.0, 7


def encoding_speeds(width: int, height: int, pictures: int, say: Say) -> Iterator[tuple[Codec, float]]:
    """Each codec with its pixels/s in one pass at effort medium, reading included."""
    with TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        path, steps = Path(scratch) / "benchmark.mp4", 1 + len(TRIED)
        say("making a moving picture", 0.0)
        shown = moving(width, height, pictures)
        write_film(path, width=width, height=height, frame_rate=RATE, pictures=shown, sound=None, quality=18)
        facts, place = inspect(path), destination("orrery-wide")
        for number, codec in enumerate(TRIED, 1):
            say(f"encoding it as {name_of(codec)}", number / steps)
            plan = make_plan(facts, place, Choices(codec=codec, effort=Effort.MEDIUM, rate_control=RateControl.ONE_PASS))
            done = pack(path, facts, plan, Path(scratch) / "packed")
            yield codec, done.pictures * width * height / done.seconds


def moving(width: int, height: int, pictures: int) -> Iterator[Planes]:
    """Waves of all sizes that drift over one another under a little grain: neither flat nor as hard as pictures get."""
    random = np.random.default_rng(SEED)
    x, y = np.meshgrid(np.arange(width), np.arange(height))
    grains = random.normal(0, GRAIN, (4, height, width))
    for i in range(pictures):
        luma = 118 + 32 * np.sin(x / 61 + i / 9) + 22 * np.sin(y / 23 - i / 5) + 14 * np.sin((x + 2 * y) / 7 + i / 3)
        chroma = [128 + 20 * np.sin(plane[::2, ::2] / 140 + i / 25) for plane in (x, y)]
        yield np.clip(luma + grains[i % 4], 16, 235).astype(np.uint8), chroma[0].astype(np.uint8), chroma[1].astype(np.uint8)
