"""How right the time is that a packing says is left.  python -m benchmarks.foretelling [seconds of film] [lines]

A film that begins easy and ends hard, since that is what a steady pace gets wrong, packed in one pass and in two by a real child. Of the
times that were told once a tenth was over, prints how many were within a fifth of what then came, and from when on one was told.
"""

from __future__ import annotations

import itertools
import sys
import tempfile
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.survey import survey
from hardy_parcel.processes.client import in_child
from hardy_parcel.processes.messages import PackTask, ProgressMade

WITHIN = 0.2
LINES = 20
"""So many of the times that were told are printed beside what came."""


def pictures(count: int, height: int) -> Iterator[tuple[np.ndarray, np.ndarray, np.ndarray]]:
    """A slope that turns into moving noise halfway."""
    width = height * 16 // 9
    dice = np.random.default_rng(3)
    slope = np.linspace(40, 200, width, dtype=np.float32)[None, :].repeat(height, 0)
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    noise = dice.normal(0, 22, (height * 2, width * 2)).astype(np.float32)
    for number in range(count):
        y, x = (number * 7) % height, (number * 13) % width
        rough = noise[y : y + height, x : x + width] if number > count // 2 else 0
        yield np.clip(slope + rough + 3 * np.sin(number / 9), 16, 235).astype(np.uint8), chroma, chroma


def main(*, small: bool = False) -> None:
    asked = [int(word) for word in sys.argv[1:] if word.isdigit()]
    seconds, height = (2, 90) if small else (*asked, *(60, 720)[len(asked) :])
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        film = folder / "film.mp4"
        made = itertools.islice(pictures(seconds * 25, height), seconds * 25)
        write_film(film, width=height * 16 // 9, height=height, frame_rate=Fraction(25), pictures=made, sound=None, quality=22)
        facts, place = inspect(film), destination("orrery-wide")
        checked = survey(film, facts.video, facts.duration_s)
        for control in (RateControl.ONE_PASS, RateControl.TWO_PASSES):
            plan = make_plan(facts, place, Choices(method="encoded", rate_control=control))
            told: list[tuple[float, float, str]] = []

            def hear(message: object, told: list[tuple[float, float, str]] = told) -> None:
                if isinstance(message, ProgressMade) and message.progress.left_s is not None:
                    told.append((time.monotonic(), message.progress.left_s, message.progress.doing))

            began = time.monotonic()
            task = PackTask(
                path=film, facts=facts, plan=plan, destination=place, folder=folder, file_name=f"{control}.mp4", job_id="timed",
                difficulty=checked.difficulty,
            )
            in_child(task, hear=hear)
            ended = time.monotonic()
            whole = ended - began
            late = [(left, ended - at, stage) for at, left, stage in told if at - began > whole / 10 and ended - at > 2]
            right = sum(abs(left - real) <= WITHIN * real for left, real, _ in late)
            first = (told[0][0] - began) / whole if told else 1.0
            share = right / max(1, len(late))
            said = f"{control}: {whole:.0f} s; told from {first:.0%} on; {share:.0%} of {len(late)} after the first tenth within a fifth"
            print(said, flush=True)
            for left, real, stage in late[:: max(1, len(late) // LINES)]:
                print(f"  {1 - real / whole:4.0%}  {stage}: told {left:.0f} s, {real:.0f} s came ({left / real - 1:+.0%})", flush=True)


if __name__ == "__main__":
    main(small="--small" in sys.argv)
