"""Guidance lookup and the shipped figures."""

from __future__ import annotations

import math
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.guidance import frame_rate_class, look_up
from hardy_parcel.core.sheets import FrameRateClass

from ..builders import ORRERY, SPRIGG

WIDE, UPRIGHT = ORRERY.placement, SPRIGG.placement


@pytest.mark.parametrize(("side", "low"), [(2160, 22.7), (1440, 11.4), (1080, 7.0), (720, 3.5), (480, 1.8), (360, 1.1)])
def test_the_wide_rows_follow_their_power_law(side: int, low: float) -> None:
    used = look_up(WIDE, width=side * 16 // 9, height=side, frame_rate=Fraction(25))
    assert used.low_bps == round(low * 1e6)
    assert used.high_bps == pytest.approx(low * 1.3e6, abs=50_001)
    assert used.low_bps == pytest.approx(7e6 * (side / 1080) ** (2 * 0.85), rel=0.04)
    fast = look_up(WIDE, width=side * 16 // 9, height=side, frame_rate=Fraction(50))
    assert fast.low_bps == pytest.approx(1.5 * used.low_bps, abs=50_001)
    assert (used.how, used.rows_short_side_px) == ("row", (side,))


@pytest.mark.parametrize(
    ("rate", "wanted"),
    [(Fraction(24000, 1001), "standard"), (25, "standard"), (30, "standard"), (Fraction(30000, 1001), "standard"),
     (Fraction(61, 2), "standard"), (48, "high"), (50, "high"), (60, "high"), (120, "high")],
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
