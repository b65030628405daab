"""Levels of every codec against the figures of their standards."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.trade.codec_levels import H264, TABLES, above, lowest_level


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
            blocks <= row.max_picture_samples
            and max(-(-width // 16), -(-height // 16)) ** 2 <= 8 * row.max_picture_samples
            and blocks * rate <= row.max_samples_per_s
            and 4 * ceiling <= 5 * row.max_bitrate_bps
            and 4 * buffer <= 5 * row.max_buffer_bits
        )

    assert found == next((row for row in H264 if fits(row)), None)


@pytest.mark.parametrize(
    ("codec", "width", "height", "rate", "mbps", "name"),
    [
        ("hevc", 1920, 1080, 30, 6.0, "4.0"), ("hevc", 1920, 1080, 60, 6.0, "4.1"), ("hevc", 3840, 2160, 30, 20.0, "5.0"),
        ("hevc", 3840, 2160, 60, 20.0, "5.1"), ("hevc", 1280, 720, 30, 5.0, "3.1"), ("hevc", 7680, 4320, 30, 50.0, "6.0"),
        ("vp9", 1920, 1080, 30, 6.0, "4.0"), ("vp9", 1920, 1080, 60, 6.0, "4.1"), ("vp9", 3840, 2160, 30, 20.0, "5.0"),
        ("vp9", 3840, 2160, 60, 20.0, "5.1"), ("vp9", 1280, 720, 30, 5.0, "3.1"),
        ("av1", 1920, 1080, 30, 6.0, "4.0"), ("av1", 1920, 1080, 60, 6.0, "4.1"), ("av1", 3840, 2160, 30, 20.0, "5.0"),
        ("av1", 3840, 2160, 60, 20.0, "5.1"), ("av1", 1280, 720, 30, 5.0, "3.1"), ("av1", 1280, 720, 60, 5.0, "4.0"),
    ],
)
def test_published_cases_of_the_other_codecs(codec, width, height, rate, mbps, name) -> None:
    """Examples that the standards' own tables and informative annexes give: size at rate, each at its lowest level."""
    found = lowest_level(codec=codec, width=width, height=height, frame_rate=Fraction(rate), ceiling_bps=round(mbps * 1e6), buffer_bits=0)
    assert found.name == name


def test_hevc_goes_up_in_main_tier_before_it_takes_high() -> None:
    def tier(mbps: float, **played: str) -> tuple[str, str]:
        found = lowest_level(
            codec="hevc", width=1920, height=1080, frame_rate=Fraction(30), ceiling_bps=round(mbps * 1e6), buffer_bits=0, **played
        )
        return found.name, found.tier

    assert tier(12.0) == ("4.0", "Main")
    assert tier(12.1) == ("4.1", "Main")
    assert tier(30.1) == ("5.1", "Main")
    assert tier(300) == ("6.1", "High"), "beyond every level of Main tier"
    assert tier(12.1, most="4.0") == ("4.0", "High"), "where no higher level is played"
    assert tier(12.1, most="4.0", tier="Main") == ("4.1", "Main"), "and held by its stamp where only Main tier is"
    with pytest.raises(BadChoice):
        tier(300, tier="Main")


@given(st.sampled_from(sorted(TABLES)), st.integers(2, 4000), st.integers(2, 2200), st.integers(1, 120), st.integers(10_000, 200_000_000))
def test_more_of_anything_never_lowers_a_level(codec, width, height, rate, ceiling) -> None:
    def place(w: int, h: int, r: int, c: int) -> int:
        try:
            found = lowest_level(codec=codec, width=w, height=h, frame_rate=Fraction(r), ceiling_bps=c, buffer_bits=c)
        except BadChoice:
            return len(TABLES[codec])
        return TABLES[codec].index(found)

    base = place(width, height, rate, ceiling)
    assert base <= place(2 * width, height, rate, ceiling)
    assert base <= place(width, height, 2 * rate, ceiling)
    assert base <= place(width, height, rate, 2 * ceiling)


def test_levels_are_compared_by_their_table() -> None:
    assert above("h264", "5.1", "4.2")
    assert not above("h264", "4.2", "4.2")
    assert not above("hevc", "nonsense", "4.0")
