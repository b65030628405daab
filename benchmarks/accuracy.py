"""Forecasts against what really happens.  python -m benchmarks.accuracy [--kept FOLDER] [--films FOLDER]
[--ways N] [--after N] [--rehearse N] [--own-reel]

For each film and way (destination and codec) the film is packed whole at five rates, handled whole and measured; that is the truth,
kept in FOLDER since it takes minutes a way. Beside it stand what is supposed from sheet and checks, by a prior of all other films, the
forecast from probes and, for the first N ways of --rehearse N, rehearsals of exactly those rates, and what probes say of them once
other rates, the usual ones, were rehearsed. All are made on as few pictures as for 1080p. With --after N the first N ways are left out,
with --own-reel probes and rehearsals have as many pictures as the program takes of films as small as these.
The tables in docs/accuracy.md are rewritten when the made films are used on all ways from the first on.
"""

from __future__ import annotations

import argparse
import itertools
import math
import statistics
import subprocess
import tempfile
import time
from collections.abc import Callable, Sequence
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

import numpy as np

from hardy_parcel.core.arrival.bands import paired_band
from hardy_parcel.core.arrival.curve import condition_at, curve_rates, rates_to_rehearse, survival_curve
from hardy_parcel.core.arrival.forecast import Forecast, Probes, probed_forecast
from hardy_parcel.core.arrival.marks import rate_marks
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.prior import sheet_forecast
from hardy_parcel.core.arrival.rehearsal import Evidence, PerfectUpload, Rehearsal, perfect_upload, rehearsal_of
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.media.survey import survey
from hardy_parcel.processes.messages import UPLOAD_NAME
from hardy_parcel.work.rehearse import (
    PlannedFilm,
    handled_upload,
    plan_reel,
    scaled_picture,
    treated_reel,
    trial_encode,
)

from .films import FITTED_ON, make
from .prior import gathered, without
from .truth import Truth, as_it_is, planned, probes_of, quiet, truth

TABLE = Path(__file__).parents[1] / "docs" / "accuracy.md"
MARKS = ("<!-- forecasts: begin -->", "<!-- forecasts: end -->")
PROBED, BETWEEN, REHEARSED = str(Evidence.PROBED), "probed, other rates rehearsed", str(Evidence.REHEARSED)
GEARS = (str(Evidence.SHEET), PROBED, BETWEEN, REHEARSED)
WAYS = (
    ("orrery-wide", "h264"),
    ("fernpost-reel", "av1"),
    ("orrery-wide", "hevc"),
    ("handover-client", "h264"),
    ("orrery-wide", "vp9"),
    ("fernpost-reel", "h264"),
    ("sprigg-upright", "h264"),
    ("kitewall-wide", "h264"),
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Error:
    """One forecast less the truth: condition in points, what was told and its band, XPSNR in dB; `rate` of what was achieved."""

    film: str
    way: str
    at: int
    screen: Screen
    told: float
    points: float
    band: float
    db: float
    rate: float


@dataclass(frozen=True, slots=True, kw_only=True)
class MarkHeld:
    """One mark of one curve: whether that of the whole measurement lies inside its interval, and the interval itself (bit/s)."""

    film: str
    option: str
    screen: Screen
    mark: str
    inside: bool
    low_bps: float
    high_bps: float


def rehearsed(
    path: Path, destination_id: str, codec: str, rates: Sequence[int], *, own_reel: bool
) -> tuple[list[Rehearsal], PerfectUpload]:
    """Rehearsals on windows at some rates (bit/s), and what arrives there of a perfect upload."""
    film = planned(path, destination_id, codec)
    found: list[Rehearsal] = []
    chosen = plan_reel(as_it_is(film) if own_reel else film, whole=False)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        reel = treated_reel(film, chosen, folder / "treated", quiet)
        scaled = scaled_picture(film, reel, quiet)
        handles = bool(film.journey.renditions)
        perfect = handled_upload(film, reel, None, folder, film.journey.perfect_key, quiet) if handles else None
        for bps in rates:
            here = planned(path, destination_id, codec, bps)
            encode = trial_encode(here, reel, folder / UPLOAD_NAME, quiet)
            handled = (
                handled_upload(here, reel, folder / UPLOAD_NAME, folder, here.journey.handled_key, quiet)
                if handles
                else None
            )
            found.append(rehearsal_of(here.journey, scaled, encode, handled, target_bps=bps, whole=False))
    return found, perfect_upload(film.journey, scaled, perfect, whole=False)


def with_rehearsals(
    film: PlannedFilm, path: Path, true: Truth, probes: Probes, *, own_reel: bool
) -> dict[str, Forecast]:
    """What is told of the truth's rates when exactly they were rehearsed, and when only the usual ones were."""
    destination_id, codec = true.destination_id, true.codec
    there = [one.target_bps for one in true.rehearsals]
    usual = [bps for bps in rates_to_rehearse(film.journey.plan.guidance.high_bps) if bps not in there]
    found, perfect = rehearsed(path, destination_id, codec, [*there, *usual], own_reel=own_reel)
    probed = probed_forecast(film.journey, probes, curve_rates(film.journey.plan, [*there, *usual]))
    return {
        BETWEEN: outlook([one for one in found if one.target_bps in usual], perfect, probed),
        REHEARSED: outlook([one for one in found if one.target_bps in there], perfect, probed),
    }


def errors(told: Forecast, true: Truth) -> list[Error]:
    """At every rate of the truth that the forecast speaks of, on every screen with a good line."""
    whole, found = outlook(true.rehearsals, true.perfect), []
    for bps in whole.rates:
        for screen in Screen:
            seen, real = (condition_at(bps, one, screen=screen, line=ViewerLine.GOOD) for one in (told, whole))
            if seen is None or real is None:
                continue
            view, there = told.view(screen, ViewerLine.GOOD), whole.view(screen, ViewerLine.GOOD)
            db = (
                float(np.interp(np.log(bps), np.log(told.rates), view.arrived_db))
                - there.arrived_db[whole.rates.index(bps)]
            )
            got = (
                float(np.interp(np.log(bps), np.log(told.rates), np.array(told.achieved) / np.array(told.rates))) * bps
            )
            found.append(
                Error(
                    film=true.film,
                    way=f"{true.destination_id} {true.codec}",
                    at=bps,
                    screen=screen,
                    band=seen.band,
                    db=db,
                    told=seen.condition,
                    points=seen.condition - real.condition,
                    rate=got / whole.achieved[whole.rates.index(bps)] - 1,
                )
            )
    return found


def marks_held(told: Forecast, true: Truth) -> list[MarkHeld]:
    """Both marks of a forecast against those of the whole measurement, which are sure."""
    whole, held = outlook(true.rehearsals, true.perfect), []
    for screen in Screen:
        curve = survival_curve(told, screen=screen, line=ViewerLine.GOOD)
        row, ceiling = whole.place(screen, ViewerLine.GOOD), whole.ceiling(screen, ViewerLine.GOOD)
        if row is None or ceiling is None:
            continue
        grid, drawn, _ = whole.drawn
        sure = rate_marks(grid, np.maximum(0, ceiling - drawn[row][0]), np.zeros(len(grid)))
        for name in ("noticeable_step", "cannot_be_told"):
            mark, real = getattr(curve, name), getattr(sure, name)
            if mark is None:
                continue
            low, high = mark.low_bps or 0.0, mark.high_bps or math.inf
            held.append(
                MarkHeld(
                    film=true.film,
                    option=f"{true.destination_id} {true.codec}",
                    screen=screen,
                    mark=name,
                    low_bps=low,
                    high_bps=high,
                    inside=low <= (real.high_bps or math.inf) and (real.low_bps or 0.0) <= high,
                )
            )
    return held


def moved_out(early: Sequence[MarkHeld], late: Sequence[MarkHeld]) -> list[bool]:
    """Of marks that were told twice, whether the later interval has nothing in common with the earlier one."""
    before = {(mark.film, mark.option, mark.screen, mark.mark): mark for mark in early}
    return [
        mark.low_bps > first.high_bps or mark.high_bps < first.low_bps
        for mark in late
        if (first := before.get((mark.film, mark.option, mark.screen, mark.mark)))
    ]


def pairs(found: Sequence[Error], gear: Evidence) -> list[tuple[float, float]]:
    """Error and band of the difference between any two rates and ways of one film on one screen: what both have in common falls out."""
    groups: dict[tuple[str, Screen], list[Error]] = {}
    for one in found:
        groups.setdefault((one.film, one.screen), []).append(one)
    return [
        (b.points - a.points, paired_band((gear, a.band), (gear, b.band), b.told - a.told))
        for errors in groups.values()
        for a, b in itertools.combinations(errors, 2)
    ]


HEAD = (
    "| {} | points, mean | 95 % within | worst | band holds | dB, mean | achieved rate, median | worst | band, mean |"
    " difference of two, mean | its band holds | its band, mean |\n|---|---|---|---|---|---|---|---|---|---|---|---|"
)


def row(name: str, found: Sequence[Error], gear: str) -> str:
    points = np.abs([one.points for one in found])
    rates = np.abs([one.rate for one in found])
    holds = statistics.mean(abs(one.points) <= one.band for one in found)
    between = pairs(found, Evidence(gear if gear != BETWEEN else PROBED))
    bands = statistics.mean(one.band for one in found)
    cells = [
        name,
        f"{points.mean():.1f}",
        f"{np.percentile(points, 95):.1f}",
        f"{max((one.points for one in found), key=abs):+.1f}",
        f"{holds:.0%}",
        f"{np.mean(np.abs([one.db for one in found])):.2f}",
        f"{np.median(rates):.1%}",
        f"{rates.max():.0%}",
        f"{bands:.1f}",
        f"{statistics.mean(abs(off) for off, _ in between):.1f}" if between else "",
        f"{statistics.mean(abs(off) <= band for off, band in between):.0%}" if between else "",
        f"{statistics.mean(band for _, band in between):.1f}" if between else "",
    ]
    return f"| {' | '.join([name, *(cell.replace('-', '−') for cell in cells[1:])])} |"


def tables(gear: str, found: list[Error], marks: list[MarkHeld], probed: list[MarkHeld]) -> list[str]:
    def part(keep: Callable[[Error], bool]) -> list[Error]:
        return [one for one in found if keep(one)]

    lines = [HEAD.format(f"**{gear}**")]
    lines += [
        row(name, some, gear)
        for name, some in (
            ("films that constants were fitted on", part(lambda one: one.film in FITTED_ON)),
            ("**other films**", part(lambda one: one.film not in FITTED_ON)),
        )
        if some
    ]
    lines += [
        row(film, part(lambda one, film=film: one.film == film), gear) for film in sorted({one.film for one in found})
    ]
    lines += [row(way, part(lambda one, way=way: one.way == way), gear) for way in sorted({one.way for one in found})]
    if others := [mark for mark in marks if mark.film not in FITTED_ON]:
        inside = statistics.mean(mark.inside for mark in others)
        closed = statistics.mean(mark.high_bps < math.inf for mark in others)
        lines += [
            "",
            f"Marks of the other films: that of the whole film inside {inside:.0%} of {len(others)}, {closed:.0%} closed above.",
        ]
        if later := moved_out([mark for mark in probed if mark.film not in FITTED_ON], others):
            lines.append(
                f"Against those from probes {statistics.mean(later):.0%} of {len(later)} moved outside their earlier interval."
            )
    return [*lines, ""]


def main() -> None:
    words = argparse.ArgumentParser()
    words.add_argument("--kept", type=Path)
    words.add_argument("--films", type=Path)
    words.add_argument("--ways", type=int, default=len(WAYS))
    words.add_argument("--after", type=int, default=0)
    words.add_argument("--rehearse", type=int, default=0)
    words.add_argument("--own-reel", action="store_true")
    asked, began = words.parse_args(), time.monotonic()
    found: dict[str, list[Error]] = {gear: [] for gear in GEARS}
    marks: dict[str, list[MarkHeld]] = {gear: [] for gear in GEARS}
    ways: set[str] = set()
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        kept = asked.kept or Path(scratch) / "truth"
        films = (
            sorted(asked.films.iterdir())
            if asked.films
            else make(kept.parent / "films" if asked.kept else Path(scratch))
        )
        observed = gathered(kept.parent)
        priors = {path.stem: without(path.stem, *observed) for path in films}
        with suppress(KeyboardInterrupt):  # what was measured until then is told
            for number, (destination_id, codec) in list(enumerate(WAYS[: asked.ways]))[asked.after :]:
                for path in films:
                    true = truth(path, destination_id, codec, kept)
                    film = planned(path, destination_id, codec)
                    rates = curve_rates(film.journey.plan, [one.target_bps for one in true.rehearsals])
                    seen = survey(path, film.facts.video, film.facts.duration_s).difficulty
                    probes = probes_of(film, own_reel=asked.own_reel)
                    gears = {
                        str(Evidence.SHEET): sheet_forecast(film.journey, seen, rates, priors[path.stem]),
                        PROBED: probed_forecast(film.journey, probes, rates),
                    } | (
                        with_rehearsals(film, path, true, probes, own_reel=asked.own_reel)
                        if number < asked.rehearse
                        else {}
                    )
                    for gear, one in gears.items():
                        found[gear] += errors(one, true)
                        marks[gear] += marks_held(one, true)
                    ways.add(f"{destination_id} {codec}")
                    some = [
                        one for one in found[PROBED] if (one.film, one.way) == (true.film, f"{destination_id} {codec}")
                    ]
                    told = row(f"{path.stem}, {destination_id} {codec}", some, PROBED)
                    print(told, f"{time.monotonic() - began:.0f} s", flush=True)
    earlier = {BETWEEN: marks[PROBED], REHEARSED: marks[PROBED]}
    lines = [
        line for gear in found if found[gear] for line in tables(gear, found[gear], marks[gear], earlier.get(gear, []))
    ]
    commit = subprocess.run(["git", "rev-parse", "--short", "HEAD"], capture_output=True, text=True).stdout.strip()
    lines.append(
        f"Measured at commit {commit}, ways: {', '.join(sorted(ways))}; {len(found[PROBED])} forecasts from probes."
    )
    print("\n".join(lines))
    if not (asked.films or asked.after or asked.own_reel):
        text = TABLE.read_text()
        before, after = text.split(MARKS[0])[0], text.split(MARKS[1])[1]
        TABLE.write_text("\n".join([before + MARKS[0], *lines, MARKS[1]]) + after)


if __name__ == "__main__":
    main()
