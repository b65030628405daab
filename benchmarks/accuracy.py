"""Windows against every frame: does a rehearsal's answer hold for the film?  python -m benchmarks.accuracy [FOLDER]

For each film and destination a curve is rehearsed on windows at the usual rates; then, at one of those rates and at
two between them, the whole film is packed, handled and measured on every frame. Films are 320×180, so screens are
taken a sixth as large and reels as short as those of a 1080p film: everything stands to each other as it does there.
The table in
docs/accuracy.md is rewritten. FOLDER may hold other films of that size.
"""

from __future__ import annotations

import math
import statistics
import sys
import tempfile
import time
from dataclasses import dataclass
from pathlib import Path

from hardy_parcel.core.arrival import screens, windows
from hardy_parcel.core.arrival.curve import BETWEEN_BAND, REHEARSED_BAND, condition_at, rates_to_rehearse
from hardy_parcel.core.arrival.rehearsal import Rehearsal, Station, find
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.docks.catalogue import destination, shipped_destinations
from hardy_parcel.media.inspect import inspect
from hardy_parcel.work.rehearse import Parcel, perfect_upload, plan_reel, rehearse

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


def at_rate(parcel: Parcel, bps: int) -> Parcel:
    choices = Choices(video_bitrate_bps=bps, effort=Effort.QUICK)
    return Parcel(
        master=parcel.master, facts=parcel.facts, destination=parcel.destination,
        plan=make_plan(parcel.facts, parcel.destination, choices),
    )


def curve(parcel: Parcel, rates: list[int], *, whole: bool) -> list[Rehearsal]:
    reel = plan_reel(parcel, whole=whole)
    perfect = perfect_upload(parcel, reel, quiet)
    found = []
    for bps in rates:
        with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
            found.append(rehearse(at_rate(parcel, bps), reel, perfect, Path(scratch), quiet))
    return found


def errors(path: Path, destination_id: str) -> list[Error]:
    facts = inspect(path, loudness=False)
    place = destination(destination_id)
    plan = make_plan(facts, place, Choices(effort=Effort.QUICK))
    parcel = Parcel(master=path, facts=facts, plan=plan, destination=place)
    low, high = plan.guidance.low_bps, plan.guidance.high_bps
    reels = curve(parcel, rates_to_rehearse(low, high), whole=False)
    middle = math.sqrt(low * high)
    asked = [reels[0].target_bps, *(round(middle * m) for m in WHOLE_AT[1:])]
    found = []
    for film in curve(parcel, asked, whole=True):
        same = next((r for r in reels if r.target_bps == film.target_bps), None)
        for screen in Screen:
            told = condition_at(film.target_bps, reels, screen=screen, line=ViewerLine.GOOD)
            true = find(film.arrivals, Station.ARRIVED, screen, ViewerLine.GOOD)
            seen = find(same.arrivals, Station.ARRIVED, screen, ViewerLine.GOOD) if same else None
            found.append(Error(
                film=path.stem, destination=destination_id, exact=same is not None,
                points=told.condition - true.condition, db=seen.xpsnr_db - true.xpsnr_db if seen else None,
                rate=same.achieved_bps / film.achieved_bps - 1 if same else None,
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
    screens.PIXELS_PER_DEGREE = screens.PIXELS_PER_DEGREE // SMALLER
    windows.REEL_PIXELS = windows.REEL_PIXELS / SMALLER**2
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
