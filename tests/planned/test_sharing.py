"""Lanes are weighed by their kind and by their plan, and come out as if every pair of them had been weighed by itself."""

from __future__ import annotations

from itertools import product
from pathlib import Path

import pytest

from hardy_parcel.core.arrival import curve
from hardy_parcel.core.arrival.screens import Screen
from hardy_parcel.core.parcel.parcel import Parcel
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.planned import sharing
from hardy_parcel.planned.lanes_now import LaneNow, lanes_now
from hardy_parcel.planned.now import planned_on, readable
from hardy_parcel.store import masters, parcels, settings
from hardy_parcel.store.database import Database

from ..builders import facts

CHOICES = (Choices(), Choices(codec="hevc"), Choices(video_bitrate_bps=3_000_000), Choices(codec="vp9", effort="quick"))
PLACES = ("orrery-wide", "fernpost-reel", "handover-client")


@pytest.fixture
def lanes(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> tuple[Database, list[LaneNow]]:
    """Every way of choosing at every destination, twice one of them; what is only supposed of them counts as tested."""
    monkeypatch.setattr(sharing, "figure", lambda at: at)
    database = Database(tmp_path / "hardy-parcel.sqlite3")
    film = tmp_path / "Gale.mp4"
    film.write_bytes(b"film")
    master = masters.add(database, film)
    masters.set_ready(database, master, facts())
    wanted = [*product(PLACES, CHOICES), (PLACES[0], CHOICES[1])]
    every = [
        Parcel(id=f"lane{n}", master_id=master, destination_id=name, choices=choices, place=n)
        for n, (name, choices) in enumerate(wanted)
    ]
    parcels.make_first_lanes(database, master, [], None)
    parcels.keep_all(database, master, every)
    read = readable(database, master)
    planned = [planned_on(database, parcel, *read) for parcel in every]
    return database, lanes_now(database, planned, settings.load(database).line, beside=False)


def test_what_is_looked_up_is_what_would_be_weighed(lanes: tuple[Database, list[LaneNow]]) -> None:
    database, every = lanes
    weighing = sharing._Weighing(database, every)
    for lane in every:
        reasons = [
            against[0]
            for other in every
            if other is not lane and (against := sharing._against(other.now.plan, lane.now))
        ]
        assert weighing.why_alone(lane) == (max(reasons, key=reasons.count) if reasons else "")
        for way in weighing.ways(lane):
            assert len(way.arrives[lane.now.parcel.id]) == len(Screen)
            refused = {
                other.now.parcel.id
                for other in every
                if other is not lane and way.video_bitrate_bps is None and sharing._against(lane.now.plan, other.now)
            }
            assert not refused & set(way.arrives)


def test_equal_lanes_are_planned_once(lanes: tuple[Database, list[LaneNow]], monkeypatch: pytest.MonkeyPatch) -> None:
    database, every = lanes
    asked: list[str] = []
    real = sharing.known_of
    monkeypatch.setattr(sharing, "known_of", lambda *told: asked.append("") or real(*told))
    sharing.fewest_now(database, every)
    alone = len(asked)
    asked.clear()
    doubled = [*every, *every]
    sharing.fewest_now(database, doubled)
    assert len(asked) <= alone, "twice the lanes, and nothing is weighed again"


def test_lanes_that_were_not_tested_share_no_file(
    lanes: tuple[Database, list[LaneNow]], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sharing, "figure", curve.figure)
    database, every = lanes
    found = sharing.fewest_now(database, every)
    reached = {lane.now.parcel.id for lane in every if not lane.now.place.placement.re_encodes}
    assert {one.parcel_id for file in found.files for one in file.serves} == reached, "the master itself arrives there, tested or not"
    assert found.untested == len(every) - len(reached) > 0
