"""Frame rate: exact division above a cap, never a blend."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.master.facts import COMMON_RATES
from hardy_parcel.core.plan.cadence import choose_rate, source_time_s

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


@pytest.mark.parametrize(("master", "cap", "packed"), [
    (Fraction(30_001, 1_000), 30, 30), (Fraction(60_002, 1_000), 30, 30), (Fraction(60_001, 1_000), 60, 60),
    (Fraction(30_030, 1_000), 30, Fraction(15_015, 1_000)),
])
def test_a_rate_that_is_above_a_cap_by_rounding_only_keeps_its_pictures(master: Fraction, cap: int, packed: Fraction) -> None:
    found = choose_rate(master_rate=master, variable=False, cap=Fraction(cap))
    assert found.frame_rate == packed
    assert found.frame_rate * found.keep_every == master


def test_ntsc_rates_stay_exact() -> None:
    assert choose_rate(master_rate=Fraction(60000, 1001), variable=False, cap=Fraction(30)).frame_rate == Fraction(30000, 1001)
    assert choose_rate(master_rate=Fraction(24000, 1001), variable=False, cap=Fraction(30)).frame_rate == Fraction(24000, 1001)


def test_each_choice_says_what_it_does() -> None:
    divided = choose_rate(master_rate=Fraction(50), variable=False, cap=Fraction(30))
    assert divided.code == "rate_divided"
    assert "every second picture of 50" in divided.sentence
    assert "every fifth" in choose_rate(master_rate=Fraction(125), variable=False, cap=Fraction(30)).sentence
    assert choose_rate(master_rate=Fraction(30), variable=True, cap=Fraction(60)).code == "rate_made_constant"
    assert choose_rate(master_rate=Fraction(30), variable=False, cap=Fraction(60)).code == "rate_as_master"


@given(RATES, st.integers(1, 3), st.integers(0, 5000), st.integers(0, 40))
def test_each_packed_picture_shows_the_master_picture_it_should(rate: Fraction, keep: int, index: int, first: int) -> None:
    """The asked time lies after the start of the wanted master picture and before the next, by a quarter each way."""
    at = source_time_s(index=index, in_s=first / rate, frame_rate=rate / keep, keep_every=keep)
    wanted = (first + index * keep) / rate
    assert wanted + Fraction(1, 5) / rate < at < wanted + Fraction(4, 5) / rate


@given(RATES, RATES, st.sampled_from([30, 60]))
def test_any_wanted_rate_is_kept_exactly_and_told(master: Fraction, wanted: Fraction, cap: int) -> None:
    found = choose_rate(master_rate=master, variable=False, cap=Fraction(cap), wanted=wanted)
    if wanted == master:
        return
    assert found.frame_rate == wanted
    assert found.frame_rate * found.keep_every == master
    ratio = master / wanted
    assert found.even is (ratio.denominator == 1 or ratio.numerator == 1)
    assert "none is blended" in found.sentence or found.even


@pytest.mark.parametrize(
    ("master", "wanted", "words"),
    [
        (24, 30, "of 24 a second every fourth is shown twice"), (25, 24, "every 25th is left out"),
        (25, 30, "every fifth is shown twice"), (60, 25, "five of twelve pictures are kept"),
        (25, 75, "every picture of 25 is shown three times"), (30, 25, "every sixth is left out"),
        (60, 20, "every third picture of 60 is kept"), (50, 20, "two of five pictures are kept"),
        (24, 60, "every second is shown three times, the others twice"),
        (Fraction(24000, 1001), 25, "about every 23rd is shown twice"), (25, Fraction(24000, 1001), "about every 24th is left out"),
        (25, 40, "three of five are shown twice, the others once"),
    ],
)
def test_the_cadence_of_a_wanted_rate_in_words(master: int, wanted: int, words: str) -> None:
    assert words in choose_rate(master_rate=Fraction(master), variable=False, cap=Fraction(120), wanted=Fraction(wanted)).sentence


@pytest.mark.parametrize(
    ("master", "cap", "packed", "of_fields", "code"),
    [
        (25, 60, 50, True, "rate_of_fields"), (25, 30, 25, False, "rate_as_master"),
        (Fraction(30000, 1001), 60, Fraction(60000, 1001), True, "rate_of_fields"),
        (50, 60, 50, False, "rate_as_master"), (25, 24, Fraction(25, 2), False, "rate_divided"),
    ],
)
def test_fields_give_pictures_of_their_own_where_the_cap_allows(master, cap, packed, of_fields, code) -> None:
    found = choose_rate(master_rate=Fraction(master), variable=False, cap=Fraction(cap), fields=True)
    assert (found.frame_rate, found.of_fields, found.code) == (packed, of_fields, code)


def test_half_the_field_rate_may_be_wanted() -> None:
    found = choose_rate(master_rate=Fraction(25), variable=False, cap=Fraction(60), fields=True, wanted=Fraction(25))
    assert (found.frame_rate, found.keep_every, found.of_fields, found.even) == (25, 2, True, True)
