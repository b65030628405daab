"""Frame rate: exact division above a cap, never a blend."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.cadence import choose_rate, source_time_s
from hardy_parcel.core.facts import COMMON_RATES

RATES = st.sampled_from(COMMON_RATES)


@given(RATES, st.sampled_from([24, 25, 30, 50, 60]))
def test_the_rate_is_an_exact_division_under_the_cap(rate: Fraction, cap: int) -> None:
    found = choose_rate(master_rate=rate, variable=False, cap=Fraction(cap))
    assert found.frame_rate * found.keep_every == rate
    assert found.frame_rate <= cap
    assert found.keep_every == 1 or rate / (found.keep_every - 1) > cap


@pytest.mark.parametrize(("master", "packed"), [(50, 25), (60, 30), (30, 30), (120, 30), (48, 24), (25, 25)])
def test_a_cap_of_thirty(master: int, packed: int) -> None:
    assert choose_rate(master_rate=Fraction(master), variable=False, cap=Fraction(30)).frame_rate == packed


def test_ntsc_rates_stay_exact() -> None:
    assert choose_rate(master_rate=Fraction(60000, 1001), variable=False, cap=Fraction(30)).frame_rate == Fraction(30000, 1001)
    assert choose_rate(master_rate=Fraction(24000, 1001), variable=False, cap=Fraction(30)).frame_rate == Fraction(24000, 1001)


def test_each_choice_says_what_it_does() -> None:
    divided = choose_rate(master_rate=Fraction(50), variable=False, cap=Fraction(30))
    assert divided.code == "rate_divided"
    assert "every second picture of 50" in divided.sentence
    assert "every 5th" in choose_rate(master_rate=Fraction(125), variable=False, cap=Fraction(30)).sentence
    assert choose_rate(master_rate=Fraction(30), variable=True, cap=Fraction(60)).code == "rate_made_constant"
    assert choose_rate(master_rate=Fraction(30), variable=False, cap=Fraction(60)).code == "rate_as_master"


@given(RATES, st.integers(1, 3), st.integers(0, 5000), st.integers(0, 40))
def test_each_packed_picture_shows_the_master_picture_it_should(rate: Fraction, keep: int, index: int, first: int) -> None:
    """The asked time lies after the start of the wanted master picture and before the next, by a quarter each way."""
    at = source_time_s(index=index, in_s=first / rate, frame_rate=rate / keep, keep_every=keep)
    wanted = (first + index * keep) / rate
    assert wanted + Fraction(1, 5) / rate < at < wanted + Fraction(4, 5) / rate
