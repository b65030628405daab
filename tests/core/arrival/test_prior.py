"""What is supposed before anything is encoded: in the shape of probes, marked as supposed, and sensible whatever the film."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.curve import condition_at, curve_rates, survival_curve
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.prior import MOST_WINDOWS, SHEET_BAND, grouped, sheet_forecast, sheet_probes, shipped
from hardy_parcel.core.arrival.rehearsal import Evidence
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.master.checks.evidence import Difficulty
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.ladder import arriving_side
from hardy_parcel.core.trade.codecs import PROBED_QUALITIES
from hardy_parcel.docks.catalogue import USUAL_LANES, destination

from ...builders import FERNPOST, HANDOVER, ORRERY, facts, rehearsal

RATES = [500_000, 1_000_000, 2_000_000, 4_000_000, 8_000_000, 16_000_000]
EASY = Difficulty(at_s=0, spatial=15, temporal=0.5, grain=0.3)
HARD = Difficulty(at_s=0, spatial=60, temporal=20, grain=5)
LAPTOP = {"screen": Screen.LAPTOP, "line": ViewerLine.GOOD}


def journey(place=ORRERY, master=None, **choices) -> Journey:
    plan = make_plan(master or facts(), place, Choices(method="encoded", **choices))
    return Journey(plan, place)


def at(told, bps: int) -> float:
    return condition_at(bps, told, **LAPTOP).condition


def test_it_is_marked_and_bounded_as_supposed() -> None:
    told = sheet_forecast(journey(), [EASY, HARD], RATES)
    assert {*told.evidence, told.perfect_evidence, told.between} == {Evidence.SHEET}
    assert {*told.bands, told.perfect_band} == {SHEET_BAND}
    found = condition_at(3_000_000, told, **LAPTOP)
    assert (found.evidence, found.band, found.words) == (Evidence.SHEET, SHEET_BAND, "not tried yet")
    assert told.achieved == told.rates, "how much of a rate is used is not foretold"
    curve = survival_curve(told, **LAPTOP)
    assert (curve.evidence, curve.points, len(curve.line)) == (Evidence.SHEET, (), 60)


def test_one_rehearsed_rate_is_believed_and_leaves_the_rest_supposed() -> None:
    way = journey()
    told = sheet_forecast(way, [HARD], sorted([*RATES, 3_000_000]))
    known = outlook([rehearsal(3, 31.0)], None, told)
    there, beside = (condition_at(bps, known, **LAPTOP) for bps in (3_000_000, 8_000_000))
    assert (there.condition, there.evidence) == (31.0, Evidence.REHEARSED)
    assert (beside.evidence, beside.band) == (Evidence.SHEET, SHEET_BAND)
    curve = survival_curve(known, **LAPTOP)
    assert (curve.evidence, len(curve.points)) == (Evidence.SHEET, 1)
    assert curve.noticeable_step is None, "what is only supposed is no ground for advice"


def test_what_is_hard_to_code_arrives_worse_and_more_bits_never_do() -> None:
    easy, hard = (sheet_forecast(journey(), [one], RATES) for one in (EASY, HARD))
    for told in (easy, hard):
        for view in told.views:
            assert list(view.arrived) == sorted(view.arrived)
            assert all(0 <= there <= here <= view.scaled for here, there in zip(view.packed, view.arrived, strict=True))
    assert at(easy, 2_000_000) > at(hard, 2_000_000) + 5


def test_a_film_of_both_lies_between() -> None:
    easy, both, hard = (sheet_forecast(journey(), seen, RATES) for seen in ([EASY] * 6, [EASY, HARD] * 3, [HARD] * 6))
    assert at(easy, 2_000_000) > at(both, 2_000_000) > at(hard, 2_000_000)


def test_a_frame_of_fewer_pixels_has_lost_detail_before_any_encoder() -> None:
    def scaled(**choices) -> float:
        return sheet_forecast(journey(HANDOVER, **choices), [HARD], RATES).view(Screen.TV, ViewerLine.GOOD).scaled

    assert scaled() == 100
    assert 100 > scaled(short_side_px=720) > scaled(short_side_px=480)


def test_where_nothing_is_re_encoded_what_is_packed_arrives() -> None:
    told = sheet_forecast(journey(HANDOVER), [HARD], RATES)
    for view in told.views:
        assert view.arrived == view.packed


def test_before_the_checks_have_looked_a_usual_film_is_supposed() -> None:
    usual = shipped().usual
    assert sheet_forecast(journey(), [], RATES).views == sheet_forecast(journey(), [usual], RATES).views


def test_a_long_film_is_a_few_shares_of_itself() -> None:
    seen = [HARD if n % 3 else EASY for n in range(600)]
    shares = grouped(seen)
    assert len(shares) == MOST_WINDOWS
    assert [one.level for one in shares] == sorted(one.level for one in shares)
    assert sum(one.spatial for one in shares) / len(shares) == pytest.approx(sum(one.spatial for one in seen) / len(seen), rel=0.01)


@pytest.mark.parametrize("codec", list(PROBED_QUALITIES))
def test_every_codec_is_known_and_modern_ones_need_less(codec: str) -> None:
    place = FERNPOST.model_copy(update={"placement": FERNPOST.placement.model_copy(update={"codecs": tuple(PROBED_QUALITIES)})})
    way, plain = journey(place, codec=codec), journey(place, codec="h264")
    probes = sheet_probes(way, [HARD])
    assert [one.quality for one in probes.upload.qualities] == list(PROBED_QUALITIES[codec])
    bits = [one.windows[0].other_bits for one in probes.upload.qualities]
    assert bits == sorted(bits, reverse=True)
    mine, its = (sheet_forecast(one, [HARD], RATES).view(Screen.LAPTOP, ViewerLine.GOOD).packed for one in (way, plain))
    assert codec == "h264" or mine[0] > its[0]


@pytest.mark.parametrize("name", USUAL_LANES)
@pytest.mark.parametrize("size", [(1920, 1080), (1080, 1920), (640, 360), (3840, 1634)])
def test_every_destination_and_size_is_told_of(name: str, size: tuple[int, int]) -> None:
    place = destination(name)
    way = journey(place, facts(*size, 25))
    told = sheet_forecast(way, [EASY, HARD], curve_rates(way.plan, []))
    assert len(told.views) == len(told.perfect) == 6
    for view, top in zip(told.views, told.perfect, strict=True):
        assert 0 <= view.arrived[0] <= top + 0.2 <= 100.2
    assert arriving_side(place, width=way.frame_size[0], height=way.frame_size[1], frame_rate=way.rate)
