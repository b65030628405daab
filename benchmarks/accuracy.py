"""Windows against every frame: does a rehearsal's answer hold for the film?  python -m benchmarks.accuracy [FOLDER]

For each film and destination a curve is rehearsed on windows at the usual rates; then, at one of those rates and at two between
them, the whole film is packed, handled and measured on every frame. Films are 320×180 and stand in for 1080p: screens are taken a
sixth as large and reels as short as there. The table in docs/accuracy.md is rewritten. FOLDER may hold other films of that size.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from hardy_parcel.core.arrival.curve import BETWEEN_BAND, REHEARSED_BAND, condition_at, rates_to_rehearse
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import Rehearsal, Station, find, rehearsal_of
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.docks.catalogue import destination, shipped_destinations
from hardy_parcel.media.inspect import inspect
from hardy_parcel.work.rehearse import UPLOAD_NAME, PlannedFilm, handled_upload, plan_reel, scaled_picture, treated_reel, trial_encode

from .films import make

TABLE = Path(__file__).parents[1] / "docs" / "accuracy.md"
MARKS = ("<!-- windows: begin -->", "<!-- windows: end -->")
WHOLE_AT = (1.0, 0.75, 0.22)
SMALLER = 6
"""1080p over the films' size."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Error:
    """One comparison: windows less whole film."""

    film: str
    destination: str
    exact: bool
    points: float
    db: float | None
    rate: float | None


def quiet(doing: str, share: float) -> None:
    """Nobody watches."""


def at_rate(film: PlannedFilm, bps: int) -> PlannedFilm:
    place = film.journey.destination
    plan = make_plan(film.facts, place, Choices(video_bitrate_bps=bps, effort=Effort.QUICK))
    return PlannedFilm(master=film.master, facts=film.facts, journey=Journey(plan, place, SMALLER))


def curve(film: PlannedFilm, rates: list[int], *, whole: bool) -> list[Rehearsal]:
    found, chosen = [], plan_reel(film, whole=whole)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        reel = treated_reel(film, chosen, folder / "treated", quiet)
        scaled = scaled_picture(film, reel, quiet)
        for bps in rates:
            here = at_rate(film, bps)
            encode = trial_encode(here, reel, folder / UPLOAD_NAME, quiet)
            handled = None
            if here.journey.renditions:
                handled = handled_upload(here, reel, folder / UPLOAD_NAME, folder, here.journey.handled_key, quiet)
            found.append(rehearsal_of(here.journey, scaled, encode, handled, target_bps=encode.target_bps, whole=chosen.whole))
    return found


def errors(path: Path, destination_id: str) -> list[Error]:
    facts = inspect(path, loudness=False)
    place = destination(destination_id)
    plan = make_plan(facts, place, Choices(effort=Effort.QUICK))
    film = PlannedFilm(master=path, facts=facts, journey=Journey(plan, place, SMALLER))
    top = plan.guidance.high_bps
    reels = curve(film, rates_to_rehearse(top), whole=False)
    asked = [reels[0].target_bps, *(round(top * share) for share in WHOLE_AT[1:])]
    found = []
    for every in curve(film, asked, whole=True):
        same = next((r for r in reels if r.target_bps == every.target_bps), None)
        for screen in Screen:
            told = condition_at(every.target_bps, reels, screen=screen, line=ViewerLine.GOOD)
            true = find(every.arrivals, Station.ARRIVED, screen, ViewerLine.GOOD)
            seen = find(same.arrivals, Station.ARRIVED, screen, ViewerLine.GOOD) if same else None
            found.append(Error(
                film=path.stem, destination=destination_id, exact=same is not None,
                points=told.condition - true.condition, db=seen.xpsnr_db - true.xpsnr_db if seen else None,
                rate=same.achieved_bps / every.achieved_bps - 1 if same else None,
            ))
    return found


def row(name: str, found: list[Error]) -> str:
    exact = [e for e in found if e.exact]
    between = [e for e in found if not e.exact]
    cells = [
        name,
        f"{statistics.mean(abs(e.points) for e in exact):.1f}",
        f"{max((e.points for e in exact), key=abs):+.1f}",
        f"{statistics.mean(abs(e.points) for e in between):.1f}",
        f"{max((e.points for e in between), key=abs):+.1f}",
        f"{statistics.mean(abs(e.db) for e in exact):.2f}",
        f"{max((e.rate for e in exact), key=abs):+.0%}",
    ]
    return f"| {' | '.join(cells).replace('-', '−')} |"


def main() -> None:
    began, rows, everything = time.monotonic(), [], []
    guided = [one for one, place in shipped_destinations().items() if place.placement.guidance]
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        films = sorted(Path(sys.argv[1]).iterdir()) if len(sys.argv) > 1 else make(Path(scratch))
        for path in films:
            for destination_id in guided:
                found = errors(path, destination_id)
                everything += found
                rows.append(row(f"{path.stem}, {destination_id}", found))
                print(rows[-1], f"{time.monotonic() - began:.0f} s", flush=True)
    rows.append(row("**all**", everything))
    exact = [abs(e.points) <= REHEARSED_BAND for e in everything if e.exact]
    between = [abs(e.points) <= REHEARSED_BAND + BETWEEN_BAND for e in everything if not e.exact]
    summary = (
        f"The stated bands hold {statistics.mean(exact):.0%} of {len(exact)} measurements at rehearsed rates "
        f"(±{REHEARSED_BAND:g}) and {statistics.mean(between):.0%} of {len(between)} between them (±{REHEARSED_BAND + BETWEEN_BAND:g})."
    )
    print(summary)
    if len(sys.argv) == 1:
        head = (
            "| film, destination | points at a rehearsed rate, mean error | worst | points between rates, mean error | worst "
            "| XPSNR dB, mean error | achieved rate, worst |\n|---|---|---|---|---|---|---|"
        )
        text = TABLE.read_text()
        before, after = text.split(MARKS[0])[0], text.split(MARKS[1])[1]
        TABLE.write_text("\n".join([before + MARKS[0], head, *rows, "", summary, MARKS[1]]) + after)


if __name__ == "__main__":
    main()
