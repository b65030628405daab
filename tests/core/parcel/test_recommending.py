"""The one recommendation of a lane: its rule, its reason, its risk."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.forecast import Forecast, ViewLine
from hardy_parcel.core.arrival.rehearsal import Evidence
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.master.checks.stamping import CheckStamp, Remedy
from hardy_parcel.core.master.facts import Excerpt, Mending
from hardy_parcel.core.parcel.lanes import lanes_sentence
from hardy_parcel.core.parcel.recommending import (
    Aim,
    EncodeOption,
    Original,
    Recommendation,
    enough_rate,
    original_of,
    recommend,
)
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Assumed
from hardy_parcel.core.sheets.sheet_documents import assumed_handling
from hardy_parcel.core.stamps import Outcome

from ...builders import HANDOVER, ORRERY, facts
from .test_lane import row

MBPS = (0.5, 1, 2, 4, 8, 16, 32)
FILM = facts(bitrate_bps=30_000_000)
LOW, HIGH = (make_plan(FILM, ORRERY).guidance.low_bps, make_plan(FILM, ORRERY).guidance.high_bps)
"""The guidance for it: 7 to 9.1 Mbit/s."""


def known(*arrived: float, perfect: float | None = 80.5, evidence: Evidence = Evidence.REHEARSED) -> Forecast:
    """The same on every screen and line."""
    views = tuple(
        ViewLine(
            screen=screen,
            line=line,
            rendition="1080p h264",
            scaled=100,
            packed=tuple(min(99.0, one + 15) for one in arrived),
            arrived=arrived,
            packed_db=(40,) * len(MBPS),
            arrived_db=(38,) * len(MBPS),
        )
        for screen in Screen
        for line in ViewerLine
    )
    rates = tuple(round(mbps * 1e6) for mbps in MBPS)
    return Forecast(
        rates=rates,
        achieved=rates,
        evidence=(evidence,) * len(rates),
        bands=(4.0,) * len(rates),
        views=views,
        perfect=() if perfect is None else (perfect,) * len(views),
        perfect_evidence=evidence,
        perfect_band=4.0,
    )


EASY, HARD = known(70, 76, 79, 80, 80.3, 80.4, 80.5), known(20, 30, 42, 55, 66, 74, 79)


def way(forecast: Forecast, words: str = "", lane: str = "lane", place=ORRERY, **choices) -> EncodeOption:
    return EncodeOption(
        parcel_id=lane,
        words=words,
        plan=make_plan(FILM, place, Choices(method="encoded", **choices)),
        forecast=forecast,
    )


def advice(
    forecast: Forecast, others=(), *, aim: Aim = Aim.SAFE, original: Original | None = None, place=ORRERY, **choices
) -> Recommendation | None:
    own = way(forecast, place=place, **choices)
    return recommend(own.plan, own, others, place, original=original, aim=aim)


def test_nothing_is_recommended_before_a_test() -> None:
    assert advice(known(20, 30, 40, 50, 60, 70, 80, evidence=Evidence.SHEET)) is None
    assert advice(known(20, 30, 40, 50, 60, 70, 80, perfect=None)) is None


def test_an_easy_film_gets_the_low_end_of_the_guidance_unless_the_smallest_is_wished() -> None:
    safe, best, smallest = (advice(EASY, aim=aim) for aim in (Aim.SAFE, Aim.BEST, Aim.SMALLEST))
    assert safe.video_bps == best.video_bps == LOW
    assert safe.because == "The low end of Orrery’s guidance; more would not be seen."
    assert safe.risk == ""
    assert safe.as_good
    assert smallest.video_bps < 1_000_000
    assert "Below Orrery’s guidance: should it re-encode more strongly one day" in smallest.risk


def test_a_hard_film_gets_what_it_takes_and_no_more() -> None:
    safe, best = advice(HARD), advice(HARD, aim=Aim.BEST)
    assert HIGH < safe.video_bps <= best.video_bps
    assert safe.because.startswith("Not visibly worse than a perfect upload")
    assert best.because == "The least that probably can’t be told from a perfect upload.", (
        "at the curve's end it is not sure"
    )
    out_of_reach = advice(known(20, 30, 42, 55, 66, 70, 72, perfect=95))
    assert out_of_reach.video_bps == HIGH
    assert out_of_reach.because.startswith("The top of Orrery’s guidance")
    assert "points below a perfect upload" in out_of_reach.risk
    assert not out_of_reach.as_good


def test_the_reserve_never_passes_what_the_platform_asks_for() -> None:
    middling = known(20, 40, 60, 71, 78, 80, 80.4)
    bare = enough_rate(middling)
    assert bare < HIGH
    assert bare < advice(middling).video_bps <= HIGH


def test_points_inside_the_error_never_cost_bits() -> None:
    """A film that gains one point by five times the bits is not asked for them."""
    flat = known(78, 79, 79.3, 79.5, 79.7, 80, 80.5)
    assert advice(flat, aim=Aim.BEST).video_bps == LOW
    assert advice(flat, aim=Aim.SMALLEST).video_bps == 500_000


def test_a_size_limit_has_the_last_word_and_says_so() -> None:
    found = advice(HARD, max_bytes=10_000_000)
    assert found.video_bps < LOW
    assert found.because == "As much as surely fits under 10.0 MB."
    assert "Below Orrery’s guidance" in found.risk


def test_an_assumed_platform_is_told_more_strongly() -> None:
    handling = assumed_handling(Assumed.HARSH, ORRERY.placement)
    place = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"handling": handling})})
    assert "re-encodes is assumed, harsh" in advice(EASY, place=place).risk
    assert "only assumed: it may look clearly worse than told" in advice(EASY, place=place, aim=Aim.SMALLEST).risk


def test_another_codec_is_taken_at_equal_quality_where_its_file_is_smaller_by_a_tenth() -> None:
    better = way(known(40, 55, 66, 75, 79, 80.2, 80.4), "HEVC", codec="hevc")
    found = advice(HARD, [better], aim=Aim.BEST)
    assert found.option.startswith("HEVC, ")
    assert (found.part["codec"], found.taken) == ("hevc", False)
    assert found.because.startswith("As good as this lane’s own way, and ")
    frame = advice(known(20, 30, 40, 50, 55, 58, 60, perfect=62), [way(HARD, "1440 lines", short_side_px=1440)])
    assert frame.part["short_side_px"] == 1440
    assert frame.because == "On a phone no bit rate of this lane’s own way comes nearer than 18 points to it."
    alike = way(HARD, "HEVC", codec="hevc")
    assert "codec" not in advice(HARD, [alike], aim=Aim.BEST).part, "no gain, no change"
    poorer = way(known(20, 25, 30, 35, 40, 45, 50, perfect=55), "HEVC", codec="hevc")
    assert "codec" not in advice(HARD, [poorer], aim=Aim.BEST).part


def test_the_original_is_recommended_where_it_is_the_smaller_and_nothing_needs_fixing() -> None:
    small = Original(method=Method.UNTOUCHED, size_bytes=4e6)
    found = advice(EASY, original=small)
    assert (found.option, found.video_bps, found.part) == ("Original file", None, {"method": Method.UNTOUCHED})
    assert found.because.startswith("Encoding it again gains nothing you could see; ")
    assert advice(EASY, original=Original(method=Method.UNTOUCHED, size_bytes=4e9)).video_bps == LOW
    blank = Original(method=Method.UNTOUCHED, size_bytes=4e6, needs_fixing=("3.00 s of black and silence at the end",))
    assert advice(EASY, original=blank).video_bps == LOW


def test_an_original_with_a_fault_is_not_advised_and_says_why() -> None:
    own = way(EASY)
    copied = make_plan(FILM, ORRERY, Choices(method="untouched"))
    blank = Original(method=Method.UNTOUCHED, size_bytes=4e6, needs_fixing=("3.00 s of black and silence at the end",))
    found = recommend(copied, own, (), ORRERY, original=blank, aim=Aim.SAFE)
    assert found.part["method"] is Method.ENCODE
    assert "The original is not advised: 3.00 s of black and silence at the end." in found.risk


def test_where_nobody_encodes_again_the_original_needs_no_test() -> None:
    own = way(known(20, 30, 40, 50, 60, 70, 80, evidence=Evidence.SHEET), place=HANDOVER)
    found = recommend(
        own.plan, own, (), HANDOVER, original=Original(method=Method.UNTOUCHED, size_bytes=4e9), aim=Aim.SAFE
    )
    assert found.option == "Original file"
    assert found.because == f"{HANDOVER.sheet_name} encodes nothing again: the original arrives."


def test_a_lane_that_is_so_already_is_taken_and_another_says_what_its_choice_costs() -> None:
    taken = advice(EASY, video_bitrate_bps=LOW)
    assert (taken.taken, taken.against) == (True, "")
    dear = advice(EASY, video_bitrate_bps=30_000_000)
    assert not dear.taken
    assert dear.against.endswith("smaller, looks the same")
    poor = advice(HARD, video_bitrate_bps=1_000_000)
    assert "larger, " in poor.against
    assert poor.against.endswith("points better")


def test_bits_that_a_film_cannot_use_are_no_reason_to_change_a_rate() -> None:
    shy = EASY.model_copy(update={"achieved": tuple(min(bps, 2_000_000) for bps in EASY.rates)})
    found = advice(shy, video_bitrate_bps=12_000_000)
    assert (found.taken, found.option) == (True, "12.0 Mbit/s"), "the file is as large"
    assert found.because.startswith("No larger than at 7.0 Mbit/s")
    assert not advice(EASY, video_bitrate_bps=12_000_000).taken


def test_what_needs_fixing_comes_from_the_checks_unless_it_is_meant_to_be_so() -> None:
    whole, inside = (Excerpt(in_s=Fraction(0), out_s=Fraction(seconds)) for seconds in (20, 17))
    blank = CheckStamp(
        code="blank_tail",
        outcome=Outcome.CARE,
        matter="blank tail",
        seen="3.00 s of black",
        remedy=Remedy.TRIM,
        excerpt=inside,
    )
    plan = make_plan(FILM, ORRERY, Choices(method="encoded", gain_db=0.0))

    def needs(stamps=(blank,), excerpt=whole, film=FILM, encoded=plan) -> tuple[str, ...]:
        return original_of(film, ORRERY, encoded, stamps, excerpt).needs_fixing

    assert needs() == ("3.00 s of black",)
    assert needs(stamps=[blank.model_copy(update={"done": True})]) == ()
    assert needs(stamps=[blank.model_copy(update={"outcome": Outcome.CLEARED})]) == ()
    assert needs(film=FILM.model_copy(update={"mending": Mending(kept=("blank_tail",))})) == ()
    loud = make_plan(FILM, ORRERY, Choices(method="encoded", gain_db=9.0))
    assert needs(stamps=[], encoded=loud) == ("its sound would be turned up by 9 dB",)


@pytest.mark.parametrize("aim", list(Aim))
def test_every_rate_is_told_in_steps(aim: Aim) -> None:
    found = advice(HARD, aim=aim)
    assert found.video_bps % 10_000 == 0
    assert found.option == f"{found.video_bps / 1e6:.1f} Mbit/s"


def test_the_lanes_say_what_is_sent_where_and_what_that_saves() -> None:
    def row_of(option: Recommendation | None):
        return row(80).model_copy(update={"recommended": option})

    original = advice(EASY, original=Original(method=Method.UNTOUCHED, size_bytes=4e6))
    told = lanes_sentence([row_of(original), row_of(advice(EASY, video_bitrate_bps=30_000_000))], Screen.LAPTOP, ViewerLine.GOOD)
    assert told.startswith(f"Send the original to Orrery and pack Orrery ({LOW / 1e6:.1f} Mbit/s): ")
    assert told.endswith("No screen shows it visibly worse than a perfect upload.")
    taken = advice(EASY, video_bitrate_bps=LOW)
    assert lanes_sentence([row_of(taken)], Screen.LAPTOP, ViewerLine.GOOD).startswith("It is as recommended. On Orrery it arrives at 80")
    risky = advice(known(20, 30, 42, 55, 66, 70, 72, perfect=95), video_bitrate_bps=1_000_000)
    assert "What each risks stands in its lane." in lanes_sentence([row_of(risky)], Screen.LAPTOP, ViewerLine.GOOD)


@pytest.mark.parametrize(("forecast", "enough"), [(EASY, True), (known(20, 30, 42, 55, 66, 70, 72, perfect=95), False)])
def test_a_codec_of_one_rate_is_called_as_good_only_where_that_is_known(forecast: Forecast, enough: bool) -> None:
    intermediate = {"codecs": (*ORRERY.placement.codecs, "vc3"), "containers": (*ORRERY.placement.containers, "mxf")}
    place = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update=intermediate)})
    one = advice(forecast, place=place, codec="vc3")
    assert one.because == "VC-3 has one rate."
    assert one.as_good is enough
