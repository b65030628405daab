"""Time code by SMPTE ST 12-1, and the order of the strip."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.master.facts import usual_rate
from hardy_parcel.core.master.strip import STRIP_PICTURES, strip_order
from hardy_parcel.core.master.timecode import timecode

NTSC = Fraction(30000, 1001)


@pytest.mark.parametrize(("number", "rate", "start", "expected"), [
    (0, Fraction(25), None, "00:00:00:00"),
    (90061, Fraction(25), None, "01:00:02:11"),
    (1799, NTSC, None, "00:00:59;29"),
    (1800, NTSC, None, "00:01:00;02"),
    (17981, NTSC, None, "00:09:59;29"),
    (17982, NTSC, None, "00:10:00;00"),
    (107892, NTSC, None, "01:00:00;00"),
    (3600, Fraction(60000, 1001), None, "00:01:00;04"),
    (10, Fraction(24000, 1001), "01:00:00:00", "01:00:00:10"),
    (1, NTSC, "00:59:59;29", "01:00:00;00"),
    (1800, NTSC, "00:00:00:00", "00:01:00:00"),
    (5, Fraction(25), "rubbish", "00:00:00:05"),
])
def test_time_code(number: int, rate: Fraction, start: str | None, expected: str) -> None:
    assert timecode(number, rate, start=start) == expected


@given(st.integers(0, 2_500_000))
def test_drop_frame_stays_within_two_frames_of_the_clock(number: int) -> None:
    hours, minutes, rest = timecode(number, NTSC).split(":")
    seconds, frames = rest.split(";")
    shown = (int(hours) * 60 + int(minutes)) * 60 + int(seconds) + int(frames) / 30
    real = float(number / NTSC) % 86400
    assert abs(shown - real) < 0.1 or abs(shown - real) > 86390


@given(st.integers(1, 90))
def test_the_strip_holds_every_picture_once_and_starts_in_the_middle(count: int) -> None:
    order = strip_order(count)
    assert sorted(order) == list(range(count))
    assert order[0] == count // 2


def test_the_first_pictures_of_a_strip_lie_far_apart() -> None:
    assert min(abs(a - b) for i, a in enumerate(strip_order()[:4]) for b in strip_order()[:i]) >= STRIP_PICTURES // 8


@pytest.mark.parametrize(("typical", "rate"), [(29.4, 30), (29.97, 30), (24.9, 25), (59.0, 60), (23.98, 24), (12.4, Fraction(25, 2))])
def test_the_usual_rate_of_an_uneven_film(typical: float, rate: Fraction) -> None:
    assert usual_rate(typical) == rate
