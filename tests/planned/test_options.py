"""Other options that a parcel may be set beside, and how long a test of each takes."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.probing_time import ProbePart, probing_seconds
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.planned.now import PlannedParcel, planned_lanes
from hardy_parcel.planned.options import other_options
from hardy_parcel.planned.probes import seconds_to_test
from hardy_parcel.store import masters, results
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.web.context import Context
from hardy_parcel.web.happenings import Happenings
from hardy_parcel.web.parcel_routes import SiblingRequest, try_another_way

from ..builders import facts
from .test_probes import keep_quick


@pytest.fixture
def lanes(database: Database, places: Places) -> list[PlannedParcel]:
    """Of a film that is long enough to try a minute of it."""
    path = places.inbox / "Gale.mp4"
    path.write_bytes(b"x")
    found = masters.add(database, path)
    masters.set_ready(database, found, facts(seconds=200))
    return planned_lanes(database, found)


def test_each_says_how_long_its_test_takes_and_can_be_made(database: Database, places, lanes) -> None:
    now = lanes[0]
    found = {one.words: one for one in other_options(database, now)}
    assert {"HEVC", "half the bit rate", "the minute in the middle", "the original file"} <= set(found)
    assert found["half the bit rate"].test_s == seconds_to_test(database, now) > 5, "another rate of a way takes what the way does"
    assert found["HEVC"].test_s > found["half the bit rate"].test_s
    excerpt = found["the minute in the middle"].excerpt
    assert excerpt.duration_s == 60
    assert now.excerpt.in_s < excerpt.in_s < excerpt.out_s < now.excerpt.out_s
    ctx = Context(database=database, places=places, happenings=Happenings(database))
    for one in found.values():
        made = try_another_way(now.parcel.id, SiblingRequest(part=one.part, excerpt=one.excerpt), ctx).summary
        assert made.parcel.sibling_of == now.parcel.id


def test_what_is_known_takes_no_time_and_the_last_tests_tell_the_rest(database: Database, lanes) -> None:
    keep_quick(database, lanes[0])
    found = {one.words: one for one in other_options(database, lanes[0])}
    assert found["half the bit rate"].test_s == 0, "one test tells all rates of a way"
    usual = found["HEVC"].test_s
    hevc = lanes[0].choosing(database, Choices(codec="hevc")).journey
    assert usual == probing_seconds(hevc.quickly, {ProbePart.EFFORT}), "the clips are there already"
    for _ in range(3):
        results.keep_probing_speed(database, 0.5)
    slower = {one.words: one for one in other_options(database, lanes[0])}
    assert slower["HEVC"].test_s == 2 * usual
