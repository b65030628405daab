"""From probes to every bit rate: what must hold whatever was measured."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.bands import PROBED_FIT
from hardy_parcel.core.arrival.condition import Likeness, condition, conditions
from hardy_parcel.core.arrival.forecast import (
    Forecast,
    Probes,
    UploadModel,
    effort_shift,
    fitted,
    losses,
    probed_forecast,
    summed,
)
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.probe import (
    EffortProbe,
    EffortShift,
    HandledQuality,
    HandlingProbe,
    ProbedQuality,
    ProbedWindow,
    UploadProbe,
    ceiling_factor,
)
from hardy_parcel.core.arrival.rehearsal import MadeRendition, MeasuredRendition, ScaledPicture, Station, find
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import HANDOVER, ORRERY, facts, perfect, rehearsal

RATES = [400_000, 1_000_000, 2_000_000, 4_000_000, 8_000_000, 16_000_000]
SEEN = Screen.LAPTOP, ViewerLine.GOOD
HALVES = 6.0
"""Quality steps that halve the bits."""


def likeness(raster, detail: float, information: float, db: float) -> Likeness:
    return Likeness(raster=raster, detail=detail, information=information, movement=4.0, xpsnr_db=db)


def window(quality: float, hard: float, rasters) -> ProbedWindow:
    """A window that needs 120 kbit a picture times `hard` at quality 15, and loses more the coarser it is."""
    bits = round(120_000 * hard * 2 ** ((15 - quality) / HALVES))
    lost = 0.01 * hard * 2 ** ((quality - 15) / 8)
    found = tuple(likeness(raster, 1 - lost, 1 - 2 * lost, -10 * math.log10(lost / 20)) for raster in rasters)
    return ProbedWindow(key_bits=4 * bits, keys=1, other_bits=24 * bits, others=24, likenesses=found)


def probes(
    journey: Journey, *, hard=(1.0, 1.0), ratio: float = 1.0, platform: float = 0.03, power: float = 2.0
) -> Probes:
    """Probes of a film whose windows are so hard, at an effort that needs so much of the quick one's bits."""
    rasters = list(dict.fromkeys(raster.size for raster in journey.rasters().values()))
    scaled = ScaledPicture(key=f"scaled {hard}", likenesses=tuple(likeness(raster, 1, 1, 70) for raster in rasters))
    qualities = tuple(
        ProbedQuality(quality=q, windows=tuple(window(q, one, rasters) for one in hard)) for q in (15, 25, 35)
    )
    shifts = tuple(
        EffortShift(quality=q, key_bits=ratio, other_bits=ratio, detail=1, information=1, distortion=1)
        for q in (15, 25, 35)
    )

    def handled(quality: int | None) -> HandledQuality:
        poor = 0.0 if quality is None else float(np.mean([0.01 * one * 2 ** ((quality - 15) / 8) for one in hard]))
        lost = (platform**power + poor**power) ** (1 / power)
        made = tuple(
            MeasuredRendition(
                made=MadeRendition(name=one.name, width=one.width, height=one.height, achieved_bps=1, ceiling_bps=1),
                likenesses=tuple(
                    likeness(raster, 1 - lost, 1 - 2 * lost, -10 * math.log10(lost / 20)) for raster in rasters
                ),
            )
            for one in journey.renditions_served
        )
        return HandledQuality(quality=quality, renditions=made)

    key = f"{hard} {ratio} {platform} {power}"
    return Probes(
        scaled=scaled,
        upload=UploadProbe(key=f"upload {key}", qualities=qualities),
        effort=EffortProbe(key=f"effort {key}", shifts=shifts),
        handling=HandlingProbe(key=f"handling {key}", uploads=(handled(None), handled(35)))
        if journey.renditions
        else None,
    )


def way(place=ORRERY, **choices) -> Journey:
    return Journey(make_plan(facts(), place, Choices(method="encoded", **choices)), place)


def seen(known: Forecast):
    return known.view(*SEEN)


@given(st.lists(st.floats(0.1, 8), min_size=1, max_size=6), st.floats(0.005, 0.2), st.floats(1.3, 4))
def test_more_bits_never_arrive_worse_and_nothing_beats_a_perfect_upload(hard, platform: float, power: float) -> None:
    known = probed_forecast(way(), probes(way(), hard=tuple(hard), platform=platform, power=power), RATES)
    for view, top in zip(known.views, known.perfect, strict=True):
        assert np.diff(view.arrived).min() >= -0.05
        assert np.diff(view.packed).min() >= -0.05
        assert all(a <= p + 1e-6 and p <= view.scaled + 1e-6 for a, p in zip(view.arrived, view.packed, strict=True))
        assert max(view.arrived) <= top + 0.01
    assert all(got <= asked for got, asked in zip(known.achieved, known.rates, strict=True))


def test_the_quality_of_a_rate_is_the_one_that_costs_it() -> None:
    """One key of 4 in 25 becomes one in 50: (4 + 49) ÷ 50 of the bits of another picture, at 25 pictures a second."""
    known = probed_forecast(way(), probes(way()), [round(120_000 * 2 ** (-10 / HALVES) * 53 / 50 * 25)])
    lost = 0.01 * 2 ** (10 / 8)
    assert seen(known).packed[0] == pytest.approx(condition(1 - lost, 1 - 2 * lost, 4.0), abs=0.1)
    assert known.achieved[0] == known.rates[0]


def test_easy_parts_pay_for_hard_ones_but_not_at_a_constant_rate() -> None:
    both, free = probes(way(), hard=(0.2, 3.0)), way()
    fixed = way(rate_control="constant")
    assert (
        seen(probed_forecast(free, both, [2_000_000])).packed[0]
        > seen(probed_forecast(fixed, both, [2_000_000])).packed[0] + 1
    )


def test_an_effort_that_needs_fewer_bits_arrives_better() -> None:
    poor, good = (probed_forecast(way(), probes(way(), ratio=ratio), [1_000_000]) for ratio in (1.2, 0.8))
    assert seen(good).arrived[0] > seen(poor).arrived[0]


def test_what_a_simple_picture_cannot_use_is_not_achieved() -> None:
    known = probed_forecast(way(), probes(way(), hard=(0.05,)), RATES)
    assert known.achieved[0] == RATES[0]
    assert known.achieved[-1] < 0.6 * RATES[-1]


def test_an_easy_film_uses_no_more_than_the_finest_quality_takes() -> None:
    journey = way()
    found = probes(journey)
    guessed = probed_forecast(journey, found, RATES).achieved
    finest = EffortShift(quality=1, key_bits=1.2, other_bits=1.2, detail=1, information=1, distortion=1)
    effort = found.effort.model_copy(update={"key": "tried", "finest": finest})
    tried = probed_forecast(journey, found.model_copy(update={"effort": effort}), [*RATES, 100_000_000])
    most = 1.2 * 25 * (4 * 120_000 / 50 + 120_000 * 49 / 50)
    assert tried.achieved[-1] == pytest.approx(most, rel=0.01), "half as much again at most, whatever the trend was"
    assert tried.achieved[:3] == guessed[:3], "coarser qualities are what they were"
    assert list(tried.achieved) == sorted(tried.achieved)


def test_what_the_lowest_rates_lose_is_what_was_tried_there() -> None:
    journey = way()
    found = probes(journey)
    trend = probed_forecast(journey, found, [100_000, *RATES])
    kinder = EffortShift(quality=45, key_bits=0.4, other_bits=0.4, detail=1.2, information=1.2, distortion=1.2)
    effort = found.effort.model_copy(update={"key": "tried beyond", "coarsest": kinder})
    tried = probed_forecast(journey, found.model_copy(update={"effort": effort}), [100_000, *RATES])
    before, after = (one.view(Screen.LAPTOP, ViewerLine.GOOD).packed for one in (trend, tried))
    assert after[0] > before[0] + 1, "it saturates instead of going on as between the finer ones"
    assert after[3:] == before[3:]
    assert list(after) == sorted(after)


def test_a_quality_that_is_asked_for_is_not_bettered_by_a_higher_ceiling() -> None:
    known = probed_forecast(way(rate_control="constant quality", quality=25), probes(way()), RATES)
    assert known.achieved[-1] == known.achieved[-2] < RATES[-2]
    assert seen(known).packed[-1] == seen(known).packed[-2]


def test_a_film_that_no_quality_makes_small_enough_is_told_larger() -> None:
    """A quality is searched for AV1, whose scale ends at 63; an encoder that is told a rate is taken at its word."""
    low = round(120_000 * 2 ** ((15 - 64) / HALVES) * 53 / 50 * 25)
    searched, asked = (probed_forecast(one, probes(way()), [low]) for one in (way(codec="av1"), way()))
    assert searched.achieved[0] > low * 1.05
    assert asked.achieved[0] == low


@given(st.lists(st.floats(0.2, 8), min_size=1, max_size=6), st.integers(200_000, 20_000_000))
def test_the_film_as_a_whole_meets_the_rate_where_its_hard_parts_are_held(hard, rate: int) -> None:
    """Against a search over every point of the grid."""
    journey = way()
    known = probes(journey, hard=tuple(hard))
    model = UploadModel(known.scaled, known.upload, known.effort, "h264", 50)
    achieved, _ = model.at(journey.plan.picture, np.array([float(rate)]))
    times, _ = journey.plan.picture.ceiling_shares()
    held = np.minimum(model.bits, times * rate / 25).mean(axis=0) * 25
    place = int(np.searchsorted(-held, -rate, side="right"))
    least, most = held[min(place, len(held) - 1)], held[max(place - 1, 0)]
    assert min(least, rate) * 0.999 <= achieved[0] <= min(most, rate) * 1.001


def test_where_nothing_is_re_encoded_it_arrives_as_packed() -> None:
    known = probed_forecast(way(HANDOVER), probes(way(HANDOVER)), RATES)
    assert all(view.arrived == view.packed and view.rendition is None for view in known.views)
    assert set(known.perfect) == {100.0}


def test_two_generations_keep_to_their_limits() -> None:
    lost = np.array([1e-6, 1e-3, 0.03, 0.5])
    found = summed(0.03, lost, 2.5)
    assert found[0] == pytest.approx(0.03, rel=1e-3)
    assert found[-1] == pytest.approx(0.5, rel=0.03)
    assert (found >= np.maximum(lost, 0.03) - 1e-12).all()
    assert np.diff(found).min() >= 0


@pytest.mark.parametrize("power", [1.6, 2.2, 3.5])
def test_a_films_own_power_is_found_from_one_worse_upload(power: float) -> None:
    arrived = float(summed(0.03, np.array([0.04]), power)[0])
    assert fitted([(0.04, arrived)], 0.03, 2.2) == pytest.approx(power, abs=0.5)
    assert fitted([], 0.03, 2.2) == pytest.approx(2.2, abs=0.06)


def test_losses_are_counted_from_what_scaling_left() -> None:
    base, coded = likeness((8, 8), 0.95, 0.9, 40.0), likeness((8, 8), 0.9, 0.7, 36.0)
    assert losses(coded, base) == pytest.approx((0.05, 0.2, 10**-3.6 - 10**-4.0))
    assert min(losses(base, coded)) > 0, "never nothing, of which no logarithm could be taken"


def test_an_effort_is_told_by_bits_and_by_what_it_loses() -> None:
    base = likeness((8, 8), 1, 1, 70)
    quick = ProbedWindow(key_bits=100, keys=1, other_bits=1000, others=9, likenesses=(likeness((8, 8), 0.9, 0.8, 30),))
    tried = ProbedWindow(key_bits=90, keys=1, other_bits=1100, others=9, likenesses=(likeness((8, 8), 0.95, 0.9, 33),))
    found = effort_shift(quick, tried, 25, base, 0)
    assert (found.key_bits, found.other_bits) == (0.9, 1.1)
    assert (found.detail, found.information) == pytest.approx((0.5, 0.5))


def test_a_ceiling_is_raised_as_a_reel_of_short_windows_needs_more() -> None:
    every = tuple(window(25, 1, [(8, 8)]) for _ in range(3))
    assert ceiling_factor(every, 50) == pytest.approx((4 + 24) / 25 / (53 / 50), rel=1e-3)
    assert ceiling_factor(every, 5) == 1.0, "never lowered"


def test_cuts_of_the_film_are_keyframes_of_its_own() -> None:
    cut = ProbedWindow(key_bits=40, keys=4, other_bits=21, others=21)
    assert cut.bits_per_picture(50) == pytest.approx(10 * 3 / 24 + 1 * 21 / 24)
    assert cut.bits_per_picture(2) == pytest.approx(10 / 2 + 1 / 2)


def test_many_conditions_are_the_one_condition() -> None:
    detail, information = np.linspace(0.3, 1.02, 9), np.linspace(0.2, 1.0, 9)
    one_by_one = [condition(d, v, 3.0) for d, v in zip(detail, information, strict=True)]
    assert conditions(detail, information, 3.0) == pytest.approx(one_by_one, abs=1e-9)


def test_a_probed_curve_is_drawn_through_what_was_rehearsed() -> None:
    rates = [1_000_000, 3_000_000, 6_000_000, 12_000_000, 24_000_000]
    probed = probed_forecast(way(), probes(way()), rates, band=6.0)
    known = outlook([rehearsal(6, 71.0, packed=83)], perfect(74.5), probed)
    assert seen(known).arrived[2] == 71.0
    assert seen(known).packed[2] == 83.0
    measured = find(rehearsal(6, 71.0, packed=83).arrivals, Station.ARRIVED, *SEEN)
    assert seen(known).arrived_db[2] == pytest.approx(measured.xpsnr_db, abs=1e-3), (
        "decibels are the measured ones there too"
    )
    assert np.diff(seen(known).arrived).min() >= 0
    assert known.ceiling(*SEEN) == 74.5
    assert known.evidence == ("probed", "probed", "rehearsed", "probed", "probed")
    assert known.bands[2] < known.bands[1] <= probed.bands[1]
    assert known.bands[0] == probed.bands[0]
    assert outlook([], None, probed) == probed


def test_what_is_sent_as_it_is_has_a_band_of_its_own_without_any_rate() -> None:
    alone, beside = (probed_forecast(way(), probes(way()), rates) for rates in ([], RATES))
    assert alone.perfect == beside.perfect
    assert alone.perfect_band == PROBED_FIT.least <= beside.perfect_band < 6
