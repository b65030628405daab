"""One pass, two passes and a constant quality at the same average rate: what arrives, and how long packing takes.
python -m benchmarks.rate_controls [--films FOLDER]

Each made film is packed whole for Orrery at the top of its guidance with two passes; one pass aims at what that came to, and the constant
quality is the one whose file comes nearest to it. Each goes through the stand-in's handling and 100 pictures of what arrives are measured
on a laptop, a phone and a TV. The bar: the default is not visibly worse (6 points) than the best on any screen of any film.
"""

from __future__ import annotations

import argparse
import statistics
import tempfile
from dataclasses import replace
from pathlib import Path

from hardy_parcel.core.arrival.condition import NOTICEABLE_STEP
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import Rehearsal, Station, find, rehearsal_of
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.processes.messages import UPLOAD_NAME
from hardy_parcel.work.rehearse import PlannedFilm, TreatedReel, handled_upload, plan_reel, scaled_picture, treated_reel, trial_encode

from .films import make
from .truth import planned, quiet

MEASURED = 100
NEAR, MOST_TRIES = 0.04, 7


class Packer:
    """One film, packed in several ways on the same pictures."""

    def __init__(self, path: Path, folder: Path) -> None:
        self._film, self._folder = planned(path, "orrery-wide", "h264"), folder
        reel = plan_reel(self._film, whole=True).model_copy(update={"measure_all": False, "most_measured": MEASURED})
        self._reel: TreatedReel = treated_reel(self._film, reel, folder / "treated", quiet)
        self._scaled = scaled_picture(self._film, self._reel, quiet)

    def _planned(self, **choices: object) -> PlannedFilm:
        place = self._film.journey.destination
        plan = make_plan(self._film.facts, place, Choices(method="encoded", codec="h264", **choices))
        return replace(self._film, journey=Journey(plan, place, self._film.journey.smaller))

    def packed(self, **choices: object) -> Rehearsal:
        """What arrives of the film packed with these choices."""
        film, upload = self._planned(**choices), self._folder / UPLOAD_NAME
        encode = trial_encode(film, self._reel, upload, quiet)
        handled = handled_upload(film, self._reel, upload, self._folder, film.journey.handled_key, quiet)
        target = film.journey.plan.picture.target_bps.value
        return rehearsal_of(film.journey, self._scaled, encode, handled, target_bps=target, whole=True)

    def at_quality(self, wanted_bps: int) -> Rehearsal:
        """The same at the constant quality whose rate comes nearest to the wanted one, below a ceiling."""
        low, high, best = 10, 40, None
        for _ in range(MOST_TRIES):
            quality = (low + high) // 2
            tried = self._planned(rate_control=RateControl.QUALITY, quality=quality)
            size = trial_encode(tried, self._reel, self._folder / UPLOAD_NAME, quiet).achieved_bps
            if best is None or abs(size - wanted_bps) < abs(best[1] - wanted_bps):
                best = quality, size
            if abs(size / wanted_bps - 1) < NEAR or low >= high:
                break
            low, high = (quality + 1, high) if size > wanted_bps else (low, quality - 1)
        return self.packed(rate_control=RateControl.QUALITY, quality=best[0])


def conditions(rehearsal: Rehearsal) -> dict[Screen, float]:
    return {screen: find(rehearsal.arrivals, Station.ARRIVED, screen, ViewerLine.GOOD).condition for screen in Screen}


def main() -> None:
    words = argparse.ArgumentParser()
    words.add_argument("--films", type=Path)
    words.add_argument("--share", type=float, default=1.0, help="share of the top of the guidance")
    asked = words.parse_args()
    worst: dict[str, list[float]] = {}
    times: dict[str, list[float]] = {}
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        films = sorted(asked.films.iterdir()) if asked.films else make(Path(scratch) / "films")
        for path in films:
            packer = Packer(path, Path(scratch) / path.stem)
            top = planned(path, "orrery-wide", "h264").journey.plan.guidance.high_bps
            two = packer.packed(rate_control=RateControl.TWO_PASSES, video_bitrate_bps=round(top * asked.share))
            one = packer.packed(rate_control=RateControl.ONE_PASS, video_bitrate_bps=two.achieved_bps)
            every = {"two passes": two, "one pass": one, "constant quality": packer.at_quality(two.achieved_bps)}
            best = {screen: max(conditions(each)[screen] for each in every.values()) for screen in Screen}
            print(path.stem)
            for name, each in every.items():
                below = max(best[screen] - value for screen, value in conditions(each).items())
                worst.setdefault(name, []).append(below)
                times.setdefault(name, []).append(two.pack_pictures_per_s / each.pack_pictures_per_s)
                rate = each.achieved_bps / two.achieved_bps
                seen = ", ".join(f"{screen} {value:.1f}" for screen, value in conditions(each).items())
                print(f"  {name:16} rate {rate:.2f}, time {times[name][-1]:.2f}: {seen}; {below:.1f} below the best", flush=True)
    for name in worst:
        mean, most = statistics.mean(worst[name]), max(worst[name])
        share, time = most / NOTICEABLE_STEP, statistics.mean(times[name])
        print(f"{name}: {mean:.1f} below the best, {most:.1f} at most ({share:.2f} of a noticeable step), {time:.2f} of the time")


if __name__ == "__main__":
    main()
