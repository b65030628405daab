"""What is tested first, and what is tested once."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.condition import Likeness
from hardy_parcel.core.arrival.forecast import Probes
from hardy_parcel.core.arrival.probe import EffortProbe, EffortShift, HandlingProbe, UploadProbe
from hardy_parcel.core.arrival.rehearsal import ScaledPicture
from hardy_parcel.planned import probes
from hardy_parcel.planned.known import best_probes
from hardy_parcel.planned.now import PlannedParcel, planned_lanes
from hardy_parcel.planned.probes import queue_probes
from hardy_parcel.planned.unwanted import withdraw_unwanted
from hardy_parcel.store import jobs, masters, results
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.store.places import Places

from ..builders import facts


@pytest.fixture
def lanes(database: Database, places: Places) -> list[PlannedParcel]:
    path = places.inbox / "Gale.mp4"
    path.write_bytes(b"x")
    found = masters.add(database, path)
    masters.set_ready(database, found, facts())
    return planned_lanes(database, found)


def order(database: Database) -> list[tuple[str, bool]]:
    """Waiting tests as they will run: for which destination, and whether for a first figure."""
    waiting = sorted(jobs.open_of_kind(database, JobKind.PROBE), key=lambda job: (job.rank, job.created_at))
    return [(job.title.split(" for ")[-1].split(",")[0], "first few" in job.title) for job in waiting]


def keep_quick(database: Database, now: PlannedParcel) -> Probes:
    """A quick test of a lane, done."""
    way = now.journey.quickly
    like = tuple(
        Likeness(raster=raster.size, detail=0.9, information=0.9, movement=1.0, xpsnr_db=40.0) for raster in way.rasters().values()
    )
    shift = EffortShift(quality=20, key_bits=1, other_bits=1, detail=1, information=1, distortion=1)
    made = (
        ScaledPicture(key=way.probe_treated_key, likenesses=like), UploadProbe(key=way.upload_probe_key, qualities=()),
        EffortProbe(key=way.effort_key, shifts=(shift,)), HandlingProbe(key=way.handling_probe_key, uploads=()),
    )
    for one in made:
        results.keep_measurement(database, now.facts.content_id, one.key, one)
    return results.probes(database, way)


def test_every_lane_has_its_first_figure_before_any_is_tested_thoroughly(database: Database, places: Places, lanes) -> None:
    made = [queue_probes(database, places, now) for now in lanes]
    assert all("first few" in job.title for job in made)
    names = [now.plan.destination_name for now in lanes]
    assert order(database) == [*((name, True) for name in names), *((name, False) for name in names)]
    again = [queue_probes(database, places, now) for now in lanes]
    assert [job.id for job in again] == [job.id for job in made], "nothing is queued twice"
    queue_probes(database, places, lanes[2], first=True)
    assert order(database)[0] == (names[2], True), "who is looked at goes first"
    withdraw_unwanted(database, lanes[0].master.id)
    assert len(order(database)) == 2 * len(lanes), "all of it is wanted still"


def test_a_first_figure_stands_until_a_better_one_is_there(database: Database, places: Places, lanes) -> None:
    quick = keep_quick(database, lanes[1])
    assert best_probes(database, lanes[1].journey) == (lanes[1].journey.quickly, quick)
    job = queue_probes(database, places, lanes[1], first=True)
    assert "sample clips" in job.title
    queue_probes(database, places, lanes[0])
    assert order(database)[0][1], "the first figure of another lane is waited for more than a better one of this"


def test_what_takes_no_time_is_tested_once(database: Database, places: Places, lanes, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(probes, "QUICK_FROM_PIXELS", 1e15)
    queue_probes(database, places, lanes[0])
    assert [first for _, first in order(database)] == [False]
    queue_probes(database, places, lanes[1], rank=probes.ALTERNATIVE)
    monkeypatch.setattr(probes, "QUICK_FROM_PIXELS", 0)
    queue_probes(database, places, lanes[2], rank=probes.ALTERNATIVE)
    assert [first for _, first in order(database)] == [False] * 3, "what waits behind all first figures has none of its own"
