"""Which moments suffer most, as rehearsed and as computed from probes."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.forecast import probed_forecast, window_conditions
from hardy_parcel.core.arrival.moments import ProbedReel, over_time, suffers_most
from hardy_parcel.core.arrival.rehearsal import Evidence, Moment
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.arrival.windows import Reel, ReelSegment

from ...builders import HANDOVER, ORRERY, rehearsal
from .test_forecast import probes, way

BPS = 4_000_000


def moments(values: list[float]) -> tuple[Moment, ...]:
    return tuple(
        Moment(reel_index=i, master_s=Fraction(i, 10), packed=value + 3, arrived=value) for i, value in enumerate(values)
    )


def test_the_worst_moments_are_told_in_film_order_and_apart() -> None:
    values = [80.0] * 120
    for index, value in ((30, 20.0), (31, 20.5), (90, 22.0), (5, 25.0)):
        values[index] = value
    found = suffers_most(rehearsal(5, 70, moments=moments(values)), count=3)
    assert [moment.reel_index for moment in found] == [5, 30, 90]
    assert found[1].condition == min(moment.condition for moment in found)
    assert {moment.target_bps for moment in found} == {5_000_000}


def test_without_moments_nothing_is_said_to_suffer() -> None:
    assert suffers_most(rehearsal(5, 70)) == ()
    assert len(suffers_most(rehearsal(5, 70, moments=moments([30.0])))) == 1


def reel(*starts: int) -> Reel:
    segments = [ReelSegment(start_s=start, measure_from_s=start, end_s=start + Fraction(4, 5)) for start in starts]
    lead_in = ReelSegment(start_s=0, measure_from_s=Fraction(1, 2), end_s=Fraction(1, 2))
    return Reel(segments=(lead_in, *segments), whole=False)


def test_the_hard_window_is_the_one_that_suffers() -> None:
    journey = way()
    probed = ProbedReel(probes=probes(journey, hard=(0.5, 3.0, 1.0)), reel=reel(10, 20, 30))
    found = over_time(BPS, [], journey, probed)
    assert (found.evidence, found.target_bps) == (Evidence.PROBED, BPS)
    assert [float(one.master_s) for one in found.moments] == pytest.approx([10.4, 20.4, 30.4]), "in the middle of each window"
    assert min(found.moments, key=lambda one: one.condition).master_s == found.moments[1].master_s
    assert [one.reel_index for one in found.suffers] == [None] * 3
    richer = over_time(4 * BPS, [], journey, probed)
    gains = [more.condition - less.condition for more, less in zip(richer.moments, found.moments, strict=True)]
    assert min(gains) >= 0
    assert gains[1] > 0


@pytest.mark.parametrize("place", [ORRERY, HANDOVER])
def test_windows_that_are_alike_arrive_as_the_whole_does(place) -> None:
    journey = way(place)
    alike = probes(journey, hard=(1.0, 1.0))
    whole = probed_forecast(journey, alike, [BPS]).view(Screen.LAPTOP, ViewerLine.GOOD).arrived[0]
    assert window_conditions(journey, alike, BPS) == pytest.approx([whole, whole], abs=0.01)


def test_what_a_platform_takes_of_each_window_counts_where_it_was_measured() -> None:
    journey = way()
    found = probes(journey, hard=(1.0, 1.0))
    first = found.handling.uploads[0]
    worse = [
        tuple(one.model_copy(update={"detail": one.detail - less}) for one in rendition.likenesses)
        for rendition in first.renditions for less in (0, 0.05)
    ]
    split = [
        rendition.model_copy(update={"windows": (worse[2 * n], worse[2 * n + 1])}) for n, rendition in enumerate(first.renditions)
    ]
    handling = found.handling.model_copy(update={
        "uploads": (first.model_copy(update={"renditions": tuple(split)}), *found.handling.uploads[1:]),
    })
    easy, hard = window_conditions(journey, found.model_copy(update={"handling": handling}), BPS)
    assert hard < easy


def test_a_rehearsal_near_the_rate_shows_it_better_than_a_computation() -> None:
    journey = way()
    probed = ProbedReel(probes=probes(journey), reel=reel(10, 20))
    near, far = (rehearsal(mbps, 70, moments=moments([60.0, 50.0])) for mbps in (4.5, 12))
    assert over_time(BPS, [near, far], journey, probed).suffers[0].reel_index == 0
    assert over_time(BPS, [far], journey, probed).evidence is Evidence.PROBED
    assert over_time(BPS, [far], journey, None).target_bps == 12_000_000, "better than nothing"
    assert over_time(BPS, [rehearsal(4, 70)], journey, None) is None
