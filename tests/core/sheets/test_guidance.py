"""Guidance lookup and the shipped figures."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.sheets.guidance import frame_rate_class, look_up
from hardy_parcel.core.sheets.sheet import FrameRateClass, GuidanceRow

from ...builders import FERNPOST, HANDOVER, ORRERY, SPRIGG

WIDE, UPRIGHT = ORRERY.placement, SPRIGG.placement


@pytest.mark.parametrize(("side", "low"), [(2160, 22.7), (1440, 11.4), (1080, 7.0), (720, 3.5), (480, 1.8), (360, 1.1)])
def test_the_wide_rows_follow_their_power_law(side: int, low: float) -> None:
    used = look_up(WIDE, width=side * 16 // 9, height=side, frame_rate=Fraction(25))
    assert used.low_bps == round(low * 1e6)
    assert used.high_bps == pytest.approx(low * 1.3e6, abs=50_001)
    assert used.low_bps == pytest.approx(7e6 * (side / 1080) ** (2 * 0.85), rel=0.04)
    fast = look_up(WIDE, width=side * 16 // 9, height=side, frame_rate=Fraction(50))
    assert fast.low_bps == pytest.approx(1.5 * used.low_bps, abs=50_001)
    assert (used.how, used.row_names) == ("row", str(side))


@pytest.mark.parametrize(
    ("rate", "wanted"),
    [
        (Fraction(24000, 1001), "standard"),
        (25, "standard"),
        (30, "standard"),
        (Fraction(30000, 1001), "standard"),
        (Fraction(61, 2), "standard"),
        (48, "high"),
        (50, "high"),
        (60, "high"),
        (120, "high"),
    ],
)
def test_classes_by_nominal_rate(rate, wanted: str) -> None:
    assert frame_rate_class(Fraction(rate)) == FrameRateClass(wanted)


def test_the_row_goes_by_the_short_side_of_the_output() -> None:
    used = look_up(UPRIGHT, width=1080, height=1920, frame_rate=Fraction(30))
    assert (used.low_bps, used.high_bps, used.short_side_px) == (5_500_000, 7_500_000, 1080)
    assert used.sentence == "5.5 Mbit/s to 7.5 Mbit/s: row 1080, standard rates"


def test_between_rows_it_is_a_line_in_logarithms() -> None:
    used = look_up(UPRIGHT, width=900, height=1600, frame_rate=Fraction(30))
    share = math.log(900 / 720) / math.log(1080 / 720)
    assert used.low_bps == pytest.approx(3e6 * (5.5 / 3) ** share, abs=1)
    assert used.how == "between"
    assert "between rows 720 and 1080" in used.sentence


def test_outside_the_rows_it_says_extended() -> None:
    used = look_up(UPRIGHT, width=540, height=960, frame_rate=Fraction(30))
    slope = math.log(5.5 / 3) / math.log(1080 / 720)
    assert used.low_bps == pytest.approx(3e6 * (540 / 720) ** slope, abs=1)
    assert "extended from rows 720 and 1080" in used.sentence
    assert look_up(UPRIGHT, width=1440, height=2560, frame_rate=Fraction(30)).how == "extended"


def test_a_class_without_rows_borrows_and_says_so() -> None:
    used = look_up(UPRIGHT, width=1080, height=1920, frame_rate=Fraction(50))
    assert used.frame_rate_class is FrameRateClass.HIGH
    assert "from the standard rates as the sheet has no high ones" in used.sentence


def test_a_single_row_serves_everything() -> None:
    place = UPRIGHT.model_copy(update={"guidance": UPRIGHT.guidance[:1]})
    used = look_up(place, width=720, height=1280, frame_rate=Fraction(30))
    assert (used.how, used.low_bps) == ("only row", 5_500_000)


@given(st.integers(100, 4000), st.sampled_from([25, 50]))
def test_guidance_rises_with_size(side: int, rate: int) -> None:
    small = look_up(WIDE, width=2 * side, height=side, frame_rate=Fraction(rate))
    large = look_up(WIDE, width=2 * side + 2, height=side + 1, frame_rate=Fraction(rate))
    assert small.low_bps <= large.low_bps
    assert small.low_bps <= small.high_bps


@pytest.mark.parametrize(("codec", "factor"), [("hevc", 0.65), ("vp9", 0.70), ("av1", 0.55)])
def test_a_codec_without_rows_takes_the_sheets_factor_and_says_so(codec: str, factor: float) -> None:
    base = look_up(WIDE, width=1920, height=1080, frame_rate=Fraction(25))
    used = look_up(WIDE, width=1920, height=1080, frame_rate=Fraction(25), codec=codec)
    assert (used.low_bps, used.high_bps) == (round(base.low_bps * factor), round(base.high_bps * factor))
    assert used.factor == factor
    assert f"× {factor:g} for" in used.sentence
    assert used.rows == base.rows


def test_a_codec_without_a_factor_takes_the_rows_as_they_are_and_says_so() -> None:
    used = look_up(HANDOVER.placement, width=1920, height=1080, frame_rate=Fraction(25), codec="vc3")
    assert (used.low_bps, used.factor) == (24_000_000, 1.0)
    assert "no figure for VC-3, so that of H.264" in used.sentence


def row(side: int, mbps: float, **kind) -> GuidanceRow:
    bps = round(mbps * 1e6)
    return GuidanceRow(short_side_px=side, frame_rate_class=FrameRateClass.STANDARD, low_bps=bps, high_bps=bps, **kind)


def test_rows_of_its_own_go_before_any_factor() -> None:
    place = WIDE.model_copy(update={"guidance": (*WIDE.guidance, row(1080, 4.0, codec="hevc"))})
    used = look_up(place, width=1920, height=1080, frame_rate=Fraction(25), codec="hevc")
    assert (used.low_bps, used.factor, used.factor_for) == (4_000_000, 1.0, "")


def test_high_dynamic_range_has_rows_or_a_factor_or_is_told_to_have_none() -> None:
    plain = look_up(WIDE, width=1920, height=1080, frame_rate=Fraction(25), hdr=True)
    assert plain.low_bps == 7_000_000
    assert "no figure for HDR" in plain.sentence
    brighter = WIDE.model_copy(update={"hdr_factor": 1.25})
    factored = look_up(brighter, width=1920, height=1080, frame_rate=Fraction(25), codec="hevc", hdr=True)
    assert factored.low_bps == round(7_000_000 * 1.25 * 0.65)
    assert "× 1.25 for HDR, × 0.65 for HEVC" in factored.sentence
    own = WIDE.model_copy(update={"guidance": (*WIDE.guidance, row(1080, 10.0, dynamic_range="hdr"))})
    assert look_up(own, width=1920, height=1080, frame_rate=Fraction(25), hdr=True).low_bps == 10_000_000


def test_a_sheet_whose_rows_are_for_another_codec_only() -> None:
    place = WIDE.model_copy(update={"guidance": (row(1080, 3.0, codec="av1"),), "guidance_factors": {}})
    used = look_up(place, width=1920, height=1080, frame_rate=Fraction(25))
    assert used.low_bps == 3_000_000
    assert "no figure for H.264, so that of AV1" in used.sentence


def test_where_it_comes_from_follows_a_platforms_name() -> None:
    def place(side: int) -> str:
        return look_up(FERNPOST.placement, width=side * 16 // 9, height=side, frame_rate=Fraction(25)).place

    assert place(1080) == "1080 row"
    assert place(900) == "guidance between rows 720 and 1080"
    assert place(480) == "guidance extended from rows 720 and 1080"
