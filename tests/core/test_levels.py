"""H.264 levels against the figures of Table A-1."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.levels import HIGH_PROFILE_FACTOR, TABLE_A_1, lowest_level


def level(width: int, height: int, rate: Fraction | int, *, mbps: float = 1.0, buffer_mbit: float = 1.0) -> str:
    return lowest_level(
        width=width, height=height, frame_rate=Fraction(rate), ceiling_bps=round(mbps * 1e6),
        buffer_bits=round(buffer_mbit * 1e6),
    ).name


@pytest.mark.parametrize(
    ("width", "height", "rate", "name"),
    [
        (1920, 1080, 50, "4.2"),
        (1920, 1080, 60, "4.2"),
        (1920, 1080, 30, "4.0"),
        (1080, 1920, 30, "4.0"),
        (3840, 2160, 30, "5.1"),
        (3840, 2160, 60, "5.2"),
        (1280, 720, 30, "3.1"),
        (1280, 720, 60, "3.2"),
        (720, 576, 25, "3.0"),
        (640, 360, 30, "3.0"),
        (320, 180, 25, "1.2"),
        (176, 144, 15, "1.0"),
        (7680, 4320, 60, "6.1"),
        (7680, 4320, 120, "6.2"),
    ],
)
def test_published_cases(width: int, height: int, rate: int, name: str) -> None:
    mbps = 0.05 if width < 200 else 0.3 if width < 400 else 1.0
    assert level(width, height, rate, mbps=mbps, buffer_mbit=mbps) == name


def test_bit_rate_and_buffer_raise_the_level() -> None:
    assert level(1920, 1080, 30, mbps=25.0) == "4.0"
    assert level(1920, 1080, 30, mbps=25.1) == "4.1"
    assert level(1920, 1080, 30, buffer_mbit=32) == "4.1"
    assert level(1920, 1080, 30, mbps=63) == "5.0"


def test_a_narrow_strip_meets_the_side_limit() -> None:
    """A.3.1: a side may not exceed Sqrt(MaxFS × 8) macroblocks, however few macroblocks there are."""
    assert level(4096, 16, 10) == "4.0"
    assert level(2048, 16, 10) == "3.1"


def test_what_no_level_carries_is_refused_with_a_way_out() -> None:
    with pytest.raises(BadChoice, match="smaller frame") as caught:
        level(7680, 4320, 300)
    assert caught.value.code == "no_level"


@given(
    st.integers(2, 4000).map(lambda n: 2 * n), st.integers(2, 2200).map(lambda n: 2 * n), st.integers(1, 120),
    st.integers(10_000, 200_000_000), st.integers(10_000, 200_000_000),
)
def test_the_level_suffices_and_the_one_below_does_not(width, height, rate, ceiling, buffer) -> None:
    try:
        found = lowest_level(width=width, height=height, frame_rate=Fraction(rate), ceiling_bps=ceiling, buffer_bits=buffer)
    except BadChoice:
        found = None
    blocks = -(-width // 16) * -(-height // 16)

    def fits(row) -> bool:
        return (
            blocks <= row.max_frame_macroblocks
            and max(-(-width // 16), -(-height // 16)) ** 2 <= 8 * row.max_frame_macroblocks
            and blocks * rate <= row.max_macroblocks_per_s
            and ceiling <= row.max_bitrate_kbps * HIGH_PROFILE_FACTOR
            and buffer <= row.max_buffer_kbit * HIGH_PROFILE_FACTOR
        )

    assert found == next((row for row in TABLE_A_1 if fits(row)), None)
