"""Lanes beside one another, against their bars.  python -m benchmarks.comparing

24 lanes answered in 120 ms (the first time, again, and with nothing kept of what was computed), the fewest files for
12 lanes × 8 ways in 200 ms and for 62 lanes in 1 s, a report of 12 lanes in 10 s. On a made film of the shelf, of which
nothing was tested: what is supposed of it stands in for tests, which cost the same once there.
"""

from __future__ import annotations

import random
import sys
import tempfile
import time
from pathlib import Path
from unittest.mock import patch

from hardy_parcel.core.arrival import forecast, prior
from hardy_parcel.core.parcel.fewest import Way, covered
from hardy_parcel.core.parcel.parcel import Parcel
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.docks.shipped import shipped_destinations
from hardy_parcel.planned import known, lanes_now, sharing
from hardy_parcel.report.assembling import report_of
from hardy_parcel.report.writing import as_csv, as_html, as_json
from hardy_parcel.store import masters, parcels
from hardy_parcel.store.database import Database, migrate
from hardy_parcel.store.places import Places
from hardy_parcel.web.context import Context
from hardy_parcel.web.happenings import Happenings
from hardy_parcel.web.lane_routes import LanesView, _fewest, view_of_lanes

from .forecasting import middle
from .planning import MASTER

LANES_BAR_S, FEWEST_BAR_S, MANY_BAR_S, REPORT_BAR_S = 0.120, 0.200, 1.0, 10.0
RATES = range(1_500_000, 9_000_000, 700_000)


def filled(database: Database, places: Places, count: int) -> str:
    """A master with so many lanes, siblings among them."""
    path = places.inbox / MASTER.name
    path.parent.mkdir(parents=True, exist_ok=True)
    path.write_bytes(b"x")
    master = masters.add(database, path)
    masters.set_ready(database, master, MASTER)
    chosen = (Choices(), *(Choices(video_bitrate_bps=bps) for bps in RATES))
    wanted = [(choices, place) for choices in chosen for place in shipped_destinations()]
    ways = [
        Parcel(id=f"lane{n}", master_id=master, destination_id=place, choices=choices, place=n)
        for n, (choices, place) in enumerate(wanted)
    ]
    parcels.make_first_lanes(database, master, [], None)
    parcels.keep_all(database, master, ways[:count])
    return master


def main(*, small: bool = False) -> None:
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        places = Places.of(Path(scratch) / "data")
        places.database.parent.mkdir(parents=True, exist_ok=True)
        migrate(places.database)
        database = Database(places.database)
        context = Context(database=database, places=places, happenings=Happenings(database))
        master = filled(database, places, 4 if small else 24)

        def lanes_view() -> LanesView:
            return view_of_lanes(master, context, None)

        def anew() -> None:
            for kept in (known._computed, lanes_now._seen_lately, prior._lately, forecast._models):
                kept.clear()
            lanes_view()

        began = time.perf_counter()
        count = len([view for view in lanes_view().lanes if not view.lane.beside])
        once = time.perf_counter() - began
        again = middle(lanes_view, 1 if small else 9)
        for what, took in (
            ("the very first time", once),
            ("again", again),
            ("with nothing kept", middle(anew, 1 if small else 3)),
        ):
            print(f"{count} lanes, {what}: {took * 1e3:.0f} ms, {took / LANES_BAR_S:.2f} of the bar")
        few = filled(database, places, 2 if small else 12)

        def reports() -> None:
            for form in (as_html, as_csv, as_json):
                form(report_of(database, places, few, look=lambda task: None))

        many = filled(database, places, 6 if small else 62)
        with patch.object(sharing, "figure", lambda at: at):
            took = middle(lambda: _fewest(context, many), 1 if small else 3)
        print(
            f"the fewest files for {6 if small else 62} lanes: {took * 1e3:.0f} ms, {took / MANY_BAR_S:.2f} of the bar"
        )
        few = filled(database, places, 2 if small else 12)
        took = middle(reports, 1 if small else 3)
        print(f"a report of 12 lanes in three forms: {took:.2f} s, {took / REPORT_BAR_S:.2f} of the bar")
    dice = random.Random(5)
    names = [f"lane {n}" for n in range(12)]
    ways = [
        Way(
            lane=name,
            words="",
            video_bitrate_bps=None,
            size_bytes=dice.randint(1, 10**8),
            arrives={
                other: tuple(dice.uniform(60, 100) for _ in range(3))
                for other in names
                if other == name or dice.random() < 0.4
            },
        )
        for name in names
        for _ in range(8)
    ]
    began = time.perf_counter()
    chosen = covered(ways, names)
    took = time.perf_counter() - began
    print(
        f"the fewest of {len(ways)} files for 12 lanes, {len(chosen)}: {took * 1e3:.0f} ms, {took / FEWEST_BAR_S:.2f} of the bar"
    )


if __name__ == "__main__":
    main(small="--small" in sys.argv)
