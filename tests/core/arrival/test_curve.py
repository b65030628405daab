"""The survival curve from rehearsed points."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.curve import (
    ASSUMED_BAND,
    BETWEEN_BAND,
    REHEARSED_BAND,
    WHOLE_BAND,
    condition_at,
    rates_to_rehearse,
    survival_curve,
)
from hardy_parcel.core.arrival.monotone import MonotoneLines, rising
from hardy_parcel.core.arrival.outlook import Anchor, moved_to, outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine

from ...builders import perfect, rehearsal

SEEN = {"screen": Screen.LAPTOP, "line": ViewerLine.GOOD}
POINTS = [rehearsal(3, 60, packed=80), rehearsal(6, 74, packed=91), rehearsal(12, 79.5, packed=97), rehearsal(20, 80, packed=99)]

RISING = st.lists(st.tuples(st.floats(0.05, 2), st.floats(0, 20)), min_size=2, max_size=9)


@given(RISING)
def test_the_line_passes_through_its_points_and_never_turns_back(steps) -> None:
    x = np.cumsum([step for step, _ in steps])
    y = np.cumsum([rise for _, rise in steps])
    assert MonotoneLines(x, y).at(x) == pytest.approx(y)
    drawn = MonotoneLines(x, y).at(np.linspace(x[0], x[-1], 200))
    assert (np.diff(drawn) >= -1e-9).all()
    assert drawn.min() >= y[0] - 1e-9
    assert drawn.max() <= y[-1] + 1e-9


@given(
    st.lists(st.tuples(st.floats(0, 100), st.floats(0.01, 4)), min_size=1, max_size=9),
    st.lists(st.floats(0, 100), min_size=9, max_size=9),
)
def test_points_that_fall_become_the_nearest_that_do_not(points, others) -> None:
    values, weights = zip(*points, strict=True)
    result = rising(values, weights)
    assert (np.diff(result) >= -1e-9).all()
    assert rising(result, weights) == pytest.approx(result)

    def off(candidate) -> float:
        return sum(weight * (one - value) ** 2 for one, value, weight in zip(candidate, values, weights, strict=True))

    assert off(result) <= off(sorted(others[: len(values)])) + 1e-6
    assert off(result) <= off(np.maximum.accumulate(values)) + 1e-6


def test_rehearsals_that_fall_meet_by_how_sure_they_are() -> None:
    whole = rehearsal(6, 71).model_copy(update={"whole": True})
    [surer, less] = (survival_curve(outlook([rehearsal(3, 74), one], perfect(80.2)), **SEEN).points for one in (whole, rehearsal(6, 71)))
    assert [point.condition for point in less] == [72.5, 72.5]
    assert surer[0].condition == surer[1].condition < 72.5


def test_one_point_is_a_level_and_the_ends_are_not_extended() -> None:
    assert list(MonotoneLines(np.array([1.0]), np.array([5.0])).at(np.array([0.0, 9.0]))) == [5.0, 5.0]
    assert list(MonotoneLines(np.array([1.0, 2.0]), np.array([5.0, 6.0])).at(np.array([0.0, 9.0]))) == [5.0, 6.0]


def test_marks_lie_where_a_step_and_nothing_is_left_to_be_told() -> None:
    curve = survival_curve(outlook(POINTS, perfect(80.2)), **SEEN)
    assert [p.bitrate_bps for p in curve.points] == [3_000_000, 6_000_000, 12_000_000, 20_000_000]
    step, told = curve.noticeable_step, curve.cannot_be_told
    assert 4_000_000 < step.low_bps < step.high_bps < 10_000_000
    assert step.high_bps < told.high_bps <= 13_000_000
    assert step.low_bps <= told.low_bps, "what can't be told is no step away either"
    assert curve.perfect == 80.2
    assert (curve.line[0][0], curve.line[-1][0]) == pytest.approx((3e6, 20e6))


def test_where_more_bits_still_arrive_the_marks_are_open() -> None:
    curve = survival_curve(outlook(POINTS, perfect(95)), **SEEN)
    assert curve.noticeable_step.low_bps >= 19_000_000
    assert (curve.noticeable_step.high_bps, curve.cannot_be_told.high_bps) == (None, None)


def test_where_the_lowest_rate_is_as_good_the_marks_begin_there() -> None:
    flat = [rehearsal(3, 79.8), rehearsal(12, 80)]
    curve = survival_curve(outlook(flat, perfect(80)), **SEEN)
    assert (curve.noticeable_step.low_bps, curve.noticeable_step.high_bps) == (None, 3_100_000)


def test_a_perfect_upload_never_lies_below_what_arrives() -> None:
    known = outlook(POINTS, perfect(78))
    assert survival_curve(known, **SEEN).perfect == known.ceiling(**SEEN) == 80


def test_measuring_noise_does_not_bend_the_line_down() -> None:
    noisy = [rehearsal(3, 60), rehearsal(6, 74), rehearsal(12, 73.7)]
    curve = survival_curve(outlook(noisy, perfect(76)), **SEEN)
    assert np.diff([value for _, value in curve.line]).min() >= -1e-9


def test_without_rehearsals_there_is_no_curve() -> None:
    curve = survival_curve(outlook([], None), **SEEN)
    assert (curve.points, curve.line, curve.noticeable_step, curve.perfect, curve.band) == ((), (), None, None, ASSUMED_BAND)
    assert survival_curve(outlook([], perfect(80)), **SEEN).perfect == 80
    single = survival_curve(outlook(POINTS[:1], perfect(80)), **SEEN)
    assert (len(single.points), single.line, single.cannot_be_told) == (1, (), None)


def test_condition_is_read_off_with_its_losses_in_order() -> None:
    at = condition_at(6_000_000, outlook(POINTS, None), **SEEN)
    assert (at.condition, at.lost_scaling, at.lost_packing, at.lost_platform) == (74, 0, 9, 17)
    assert at.words == "slightly annoying"
    assert at.evidence == "rehearsed"
    assert at.rendition == "1080p h264"
    assert at.lost_scaling + at.lost_packing + at.lost_platform == pytest.approx(100 - at.condition)
    between = condition_at(8_000_000, outlook(POINTS, None), **SEEN)
    assert 74 < between.condition < 79.5
    assert between.band == at.band + BETWEEN_BAND


@pytest.mark.parametrize("mbps", [1, 2.9, 20.5, 60])
def test_nothing_is_claimed_outside_what_was_rehearsed(mbps: float) -> None:
    assert condition_at(round(mbps * 1e6), outlook(POINTS, None), **SEEN) is None
    assert condition_at(3_000_000, outlook([], None), **SEEN) is None


def test_bands_follow_the_evidence() -> None:
    whole = [rehearsal(3, 60, whole=True)]
    assert set(outlook(POINTS, None).bands) == {REHEARSED_BAND}
    assert outlook(whole, None).bands == (WHOLE_BAND,)
    assert condition_at(8_000_000, outlook(POINTS, None), **SEEN).band == REHEARSED_BAND + BETWEEN_BAND
    assert survival_curve(outlook([], None), **SEEN).band == ASSUMED_BAND


def test_achieved_share_is_read_off_the_rehearsals() -> None:
    shy = [rehearsal(3, 60, achieved=1.0), rehearsal(12, 70, achieved=0.5)]
    assert outlook(shy, None).achieved_share(3_000_000) == 1.0
    assert outlook(shy, None).achieved_share(40_000_000) == 0.5
    assert outlook(shy, None).achieved_share(6_000_000) == pytest.approx(0.75)
    assert outlook([], None).achieved_share(6_000_000) == 1.0


def test_rates_to_rehearse_span_the_guidance_and_start_at_its_top() -> None:
    rates = rates_to_rehearse(9_100_000)
    assert rates[0] == 9_100_000
    assert min(rates) < 0.2 * 9_100_000
    assert max(rates) > 1.5 * 9_100_000
    assert len(set(rates)) == 5
    assert min(rates_to_rehearse(60_000)) == 50_000


def test_what_was_brought_back_moves_the_whole_curve_of_those_who_get_it() -> None:
    forecast = outlook(POINTS, perfect(85))
    moved = moved_to(forecast, [Anchor(target_bps=6_000_000, conditions=((Screen.LAPTOP, 70.0),))])
    before, after = (one.view(Screen.LAPTOP, ViewerLine.GOOD).arrived for one in (forecast, moved))
    assert after[1] == pytest.approx(70, abs=0.001)
    off = np.array(before) - np.array(after)
    assert off[1] == pytest.approx(4, abs=0.001)
    assert (off[2:] > 0).all()
    assert off[2] > off[3], "by less the farther away"
    assert (np.diff(after) >= 0).all()
    for screen, line in ((Screen.PHONE, ViewerLine.GOOD), (Screen.LAPTOP, ViewerLine.SLOW)):
        assert moved.view(screen, line) == forecast.view(screen, line), "it is not shown to these"
    assert moved_to(forecast, [Anchor(target_bps=7_000_000, conditions=((Screen.LAPTOP, 1.0),))]) == forecast
