"""Single cells of somebody's table."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.sheets.cell_words import HIGH, STANDARD, CellWords, cell_words


@pytest.mark.parametrize(
    ("text", "bps"),
    [
        ("8 Mbps", 8e6),
        ("8Mbit/s", 8e6),
        ("8 Mb/s", 8e6),
        ("8 MBit", 8e6),
        ("8 megabits per second", 8e6),
        ("8M", 8e6),
        ("8 mbps", 8e6),
        ("7.5 Mbps", 7.5e6),
        ("7,5 Mbit/s", 7.5e6),
        ("8000 kbps", 8e6),
        ("8,000 kbps", 8e6),
        ("8.000 kbit/s", 8e6),
        ("8 000 kbit/s", 8e6),
        ("8'000 kb/s", 8e6),
        ("8000k", 8e6),
        ("8,000,000 bps", 8e6),
        ("8 000 000 bit/s", 8e6),
        ("0.4 Mbps", 0.4e6),
        ("1.5 Gbps", 1.5e9),
        ("12.5Mbps", 12.5e6),
        ("~8 Mbps", 8e6),
        ("8+ Mbps", 8e6),
        ("**8 Mbps**", 8e6),
        ("8 Mbit / s", 8e6),
        ("8 Mbit pro Sekunde", 8e6),
    ],
)
def test_a_bit_rate(text: str, bps: float) -> None:
    assert cell_words(text).bit_rates == (round(bps), round(bps))


@pytest.mark.parametrize(
    "text",
    [
        "7-11 Mbps",
        "7 – 11 Mbit/s",
        "7 to 11 Mbps",
        "7…11 Mbps",
        "7 ~ 11 Mb/s",
        "7 Mbps - 11 Mbps",
        "from 7 to 11 Mbps",
        "between 7 and 11 Mbps",
        "7000–11000 kbps",
        "7,000 kbps – 11,000 kbps",
        "7.000 bis 11.000 kbit/s",
        "11–7 Mbps",
    ],
)
def test_a_range_of_bit_rates(text: str) -> None:
    assert cell_words(text).bit_rates == (7_000_000, 11_000_000)


@pytest.mark.parametrize(
    "text", ["5 MB/s", "5 MB", "10 bit", "8-bit", "4K", "8k", "24 fps", "1080p", "", "—", "n/a", "lots"]
)
def test_what_is_no_bit_rate(text: str) -> None:
    assert cell_words(text).bit_rates is None


@pytest.mark.parametrize(
    ("text", "side"),
    [
        ("2160p", 2160),
        ("4K", 2160),
        ("2160p (4K)", 2160),
        ("UHD", 2160),
        ("8K", 4320),
        ("QHD", 1440),
        ("Full HD", 1080),
        ("FHD", 1080),
        ("1920x1080", 1080),
        ("1920 × 1080", 1080),
        ("1080*1920", 1080),
        ("3840×2160 px", 2160),
        ("HD", 720),
        ("SD", 480),
        ("1080i", 1080),
        ("1080 px", 1080),
        ("720 lines", 720),
        ("1080", 1080),
        ("HDR", None),
        ("SDR", None),
        ("1079", None),
        ("twelve", None),
    ],
)
def test_a_size_is_its_short_side(text: str, side: int | None) -> None:
    assert cell_words(text).size == side


@pytest.mark.parametrize(
    ("text", "classes"),
    [
        ("30 fps", (STANDARD,)),
        ("24, 25, 30 fps", (STANDARD,)),
        ("24/25/30", (STANDARD,)),
        ("23.976 fps", (STANDARD,)),
        ("50 fps", (HIGH,)),
        ("48/50/60 fps", (HIGH,)),
        ("59.94 frames per second", (HIGH,)),
        ("24–60 fps", (STANDARD, HIGH)),
        ("up to 30 fps", (STANDARD,)),
        ("30 fps or less", (STANDARD,)),
        ("above 30 fps", (HIGH,)),
        ("60 fps and above", (HIGH,)),
        ("up to 60 fps", (STANDARD, HIGH)),
        ("standard frame rate (24, 25, 30)", (STANDARD,)),
        ("high frame rate (48, 50, 60)", (HIGH,)),
        ("HFR", (HIGH,)),
        ("60p", (HIGH,)),
        ("1080p60", (HIGH,)),
        ("1080p @ 25", (STANDARD,)),
        ("60", ()),
        ("banana", ()),
    ],
)
def test_classes_of_frame_rates(text: str, classes: tuple) -> None:
    assert cell_words(text).classes == classes


def test_above_sixty_is_told_apart() -> None:
    assert cell_words("120 fps").too_fast
    assert not cell_words("60 fps").too_fast


@pytest.mark.parametrize(
    ("text", "codec", "dynamic_range", "end"),
    [
        ("H.264", "h264", None, None),
        ("AVC", "h264", None, None),
        ("h265", "hevc", None, None),
        ("H.265 (HEVC)", "hevc", None, None),
        ("VP9", "vp9", None, None),
        ("AV1", "av1", None, None),
        ("HDR", None, "hdr", None),
        ("HDR10", None, "hdr", None),
        ("HLG", None, "hdr", None),
        ("SDR uploads", None, "sdr", None),
        ("minimum", None, None, "low"),
        ("Max.", None, None, "high"),
        ("lowest", None, None, "low"),
    ],
)
def test_codecs_ranges_and_ends(text: str, codec, dynamic_range, end) -> None:
    found = cell_words(text)
    assert (found.codec, found.dynamic_range, found.end) == (codec, dynamic_range, end)


def test_headings_and_leftovers() -> None:
    assert cell_words("Bit rate (kbps)").unit == 1e3
    assert cell_words("Video bitrate, Mbit/s").unit == 1e6
    assert cell_words("Resolution").is_size
    assert cell_words("Frame rate").is_rate
    assert cell_words("Rate").is_rate
    assert cell_words("stereo 384 kbps").sound
    assert cell_words("plenty").odd
    assert not cell_words("recommended video bit rate").odd
    assert cell_words("7500").plain == (7500.0, 7500.0)
    assert cell_words("5500 – 7500").plain == (5500.0, 7500.0)
    assert cell_words("  —  ") == CellWords()


@given(
    st.integers(1, 999), st.sampled_from(["{} Mbps", "{}Mbit/s", "{} Mb/s", "up to {} Mbps", "{} megabits per second"])
)
def test_whole_megabits_in_any_spelling(value: int, form: str) -> None:
    assert cell_words(form.format(value)).bit_rates == (value * 1_000_000,) * 2


@given(st.integers(1000, 999_999), st.sampled_from([",", ".", " ", "\u202f", "'"]))
def test_thousands_marks_below_a_megabit(value: int, mark: str) -> None:
    text = f"{value // 1000}{mark}{value % 1000:03d} kbps"
    assert cell_words(text).bit_rates == (value * 1000,) * 2
