"""Exact ratios and figures as they are read."""

from __future__ import annotations

from fractions import Fraction
from functools import cached_property

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.values import Model, level_text, mbps_text, rate_text, read_bitrate, seconds_text, size_text

TIMES = st.fractions(min_value=0, max_value=10_000, max_denominator=10**12)


@given(TIMES, TIMES)
def test_ratios_survive_json_exactly(start: Fraction, length: Fraction) -> None:
    excerpt = Excerpt(in_s=start, out_s=start + length)
    again = Excerpt.model_validate_json(excerpt.model_dump_json())
    assert again == excerpt
    assert again.duration_s == length


@pytest.mark.parametrize(("given_as", "exact"), [("24000/1001", Fraction(24000, 1001)), ("9:16", Fraction(9, 16)), (2.5, Fraction(5, 2))])
def test_ratios_are_read_from_the_ways_people_write_them(given_as, exact: Fraction) -> None:
    assert Excerpt(in_s=0, out_s=given_as).out_s == exact


@pytest.mark.parametrize("wrong", [
    "fast", "1/0", "1e3", "1e3000000", "1e999999999", "9" * 4000, "1/" + "0" * 50, 1e300, True, float("nan"), float("inf"), None,
])
def test_what_is_no_ratio_is_refused(wrong) -> None:
    with pytest.raises((ValidationError, ValueError, OverflowError)):
        Excerpt(in_s=0, out_s=wrong)


def test_values_are_frozen_and_closed() -> None:
    excerpt = Excerpt(in_s=0, out_s=1)
    with pytest.raises(ValidationError):
        excerpt.in_s = Fraction(1)
    with pytest.raises(ValidationError):
        Excerpt(in_s=0, out_s=1, speed=2)


class _Halved(Model):
    whole: float

    @cached_property
    def half(self) -> float:
        return self.whole / 2


def test_a_copy_with_other_fields_computes_anew() -> None:
    one = _Halved(whole=4)
    assert one.half == 2
    assert one.model_copy(update={"whole": 10}).half == 5
    assert one == _Halved(whole=4)


def test_figures_are_worded_with_their_units() -> None:
    assert rate_text(Fraction(24000, 1001)) == "23.976"
    assert rate_text(Fraction(30000, 1001)) == "29.97"
    assert rate_text(Fraction(25)) == "25"
    assert mbps_text(13_840_000) == "13.8 Mbit/s"
    assert mbps_text(1_234_000) == "1.23 Mbit/s"
    assert size_text(13_900_000) == "13.9 MB"
    assert size_text(380_000_000) == "380 MB"
    assert size_text(24e9) == "24.0 GB"
    assert size_text(17) == "17 bytes"
    assert seconds_text(62.4) == "1:02.40"
    assert seconds_text(3661) == "1:01:01.00"
    assert seconds_text(59.999) == "1:00.00"
    assert level_text(-13.0) == "−13"
    assert level_text(-1.5) == "−1.5"


@pytest.mark.parametrize(("typed", "bps"), [
    ("2.3", 2_300_000), ("2,3", 2_300_000), ("2300k", 2_300_000), ("9 Mbit/s", 9_000_000), (" 9M ", 9_000_000), ("2300", 2_300_000),
    ("1,5 Mbps", 1_500_000), ("800 kbit/s", 800_000), ("9100000", 9_100_000), ("400", 400_000_000), ("0.05", 50_000),
])
def test_a_bit_rate_is_read_as_people_type_it(typed: str, bps: int) -> None:
    assert read_bitrate(typed) == bps


@pytest.mark.parametrize("typed", ["", "fast", "2.3.4", "-2", "2 to 3", "1e6"])
def test_what_is_no_bit_rate_is_refused(typed: str) -> None:
    with pytest.raises(ValueError, match="type it as"):
        read_bitrate(typed)
