"""Many videos against their bars: a shelf of 300 in 1 s, and 24 lanes on each of 50 planned in one request in 2 s. Prints ratios.

    python -m benchmarks.many_videos

On made facts of which nothing was tested, each video with another content and length, so that no plan serves two of them.
"""

from __future__ import annotations

import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

from hardy_parcel.core.parcel.parcel import Parcel
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.docks.shipped import shipped_destinations
from hardy_parcel.planned.changing_batches import preview
from hardy_parcel.store import masters, parcels
from hardy_parcel.store.database import Database, migrate
from hardy_parcel.store.places import Places

from .forecasting import middle
from .planning import MASTER

SHELF_BAR_S, PREVIEW_BAR_S = 1.0, 2.0
RATES_BPS = range(2_000_000, 8_000_000, 2_000_000)


def add_videos(database: Database, places: Places, count: int) -> list[str]:
    """Videos on the shelf, read and ready; gives their ids."""
    ids = []
    for number in range(count):
        path = places.inbox / f"Week {number:03}.mp4"
        path.write_bytes(b"x")
        facts = MASTER.model_copy(
            update={"name": path.name, "content_id": f"week {number}", "duration_s": Fraction(200 + number, 10)}
        )
        ids.append(masters.set_ready(database, masters.add(database, path), facts))
    return ids


def add_lanes(database: Database, master_id: str, count: int) -> None:
    """So many lanes of a video: every destination, then each at other bit rates."""
    choices = (Choices(), *(Choices(video_bitrate_bps=rate) for rate in RATES_BPS))
    wanted = [(destination_id, choice) for choice in choices for destination_id in shipped_destinations()]
    parcels.make_first_lanes(database, master_id, [], None)
    lanes = [
        Parcel(id=parcels.new_id(), master_id=master_id, destination_id=destination_id, choices=choice, place=place)
        for place, (destination_id, choice) in enumerate(wanted[:count])
    ]
    parcels.keep_all(database, master_id, lanes)


def main(*, small: bool = False) -> None:
    shelf, videos, lanes = (6, 2, 4) if small else (300, 50, 24)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        places = Places.of(Path(scratch) / "data")
        places.database.parent.mkdir(parents=True, exist_ok=True)
        places.inbox.mkdir(parents=True, exist_ok=True)
        migrate(places.database)
        database = Database(places.database)
        ids = add_videos(database, places, shelf)
        took_s = middle(lambda: masters.shelf(database), 1 if small else 5)
        print(f"a shelf of {shelf}: {took_s * 1e3:.0f} ms, {took_s / SHELF_BAR_S:.2f} of the bar")
        for master_id in ids[:videos]:
            add_lanes(database, master_id, lanes)
        began = time.perf_counter()
        table = preview(database, ids[:videos], None, [])
        took_s = time.perf_counter() - began
        count = sum(len(row.cells) for row in table.rows)
        print(
            f"{count} lanes of {videos} videos, the first time: {took_s:.2f} s, {took_s / PREVIEW_BAR_S:.2f} of the bar"
        )
        took_s = middle(lambda: preview(database, ids[:videos], None, []), 1 if small else 3)
        print(f"the same again: {took_s:.2f} s, {took_s / PREVIEW_BAR_S:.2f} of the bar")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
