"""Pasted tables: many spellings give the same rows, and nothing vanishes in silence."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.sheets.pasting import paste
from hardy_parcel.core.sheets.sheet_documents import guidance_csv

from ...builders import ORRERY

S, H = "standard", "high"


def rows(text: str) -> list[tuple]:
    """Short side, class, codec, low and high in Mbit/s; codec left out where it is H.264, ends joined where alike."""
    found = []
    for row in paste(text).rows:
        ends = {row.low_bps / 1e6, row.high_bps / 1e6}
        found.append(
            (row.short_side_px, str(row.frame_rate_class), *([row.codec] if row.codec != "h264" else []), *sorted(ends))
        )
    return found


BOTH = [(1080, S, 8.0), (1080, H, 12.0), (720, S, 5.0), (720, H, 7.5)]


@pytest.mark.parametrize(
    "text",
    [
        "Size\tStandard frame rate (24, 25, 30)\tHigh frame rate (48, 50, 60)\n1080p\t8 Mbps\t12 Mbps\n720p\t5 Mbps\t7.5 Mbps",
        "| Resolution | 24/25/30 fps | 48/50/60 fps |\n|---|---:|---:|\n| 1920x1080 | 8,000 kbps | 12 000 kbit/s |\n"
        "| 1280 × 720 | 5.000 kbit/s | 7,5 Mbit/s |",
        "Resolution;up to 30;above 30 fps\nFull HD;8 Mb/s;12 Mb/s\nHD;5 Mb/s;7.5 Mb/s",
        'Type,"Rate, 24 25 30 fps","Rate, 50 60 fps"\n1080p,"8,000 kbps","12,000 kbps"\n720p,5000 kbps,7500 kbps',
        "<table><tr><th rowspan=2>Format</th><th colspan=2>Bit rate</th></tr><tr><th>30 fps</th><th>60 fps</th></tr>"
        "<tr><td>1080p</td><td>8&nbsp;Mbit/s</td><td>12 Mbit/s</td></tr><tr><td>720p<td>5 Mbit/s<td>7.5 Mbit/s</table>",
        "1080p30: 8 megabits per second\n1080p at 60 fps needs 12 Mbps\n720p, 24, 25, 30 fps, 5 Mbps\n1280x720 @ 59.94 - 7500k",
        "Lines\tfps\tkbit/s\n1080\t25\t8000\n1080\t50\t12000\n720\t25\t5000\n720\t50\t7500",
        "Resolution     Bit rate        Bit rate\n               (24-30 fps)     (48-60 fps)\n1080p          8 Mbps          12 Mbps\n"
        "720p           5 Mbps          7.5 Mbps",
        "Type  Bitrate, standard  Bitrate, high\n(24, 25, 30)  (48, 50, 60)\n1080p  8 Mbps  12 Mbps\n720p  5 Mbps  7.5 Mbps",
        "Resolution\tBit rate\tBit rate\n\t24-30 fps\t48-60 fps\n1080p\t8 Mbps\t12 Mbps\n720p\t5 Mbps\t7.5 Mbps",
        "| Resolution | Bit rate | Bit rate |\n| | 30 frames a second | 60 frames a second |\n"
        "| 1080p | 8 Mbps | 12 Mbps |\n| 720p | 5 Mbps | 7.5 Mbps |",
        "1080p, 30 frames a second: 8 Mbps\n1080p, 60 frames a second: 12 Mbps\n"
        "720p, 25 frames per second, 5 Mbps\n720p, 50 pictures a second, 7.5 Mbps",
        "1080p    24-30 fps    8 Mbps\n1080p    48–60 fps    12 Mbps\n720p    30 or less    5 Mbps\n720p    60p    7.5 Mbps",
        "1080p\n  30 fps 8 Mbps\n  60 fps 12 Mbps\n720p\n  30 fps 5 Mbps\n  60 fps 7.5 Mbps",
        "<table><tr><td rowspan='2'>1080p<td>30 fps<td>8 Mbps<tr><td>60 fps<td>12 Mbps<tr><td rowspan='2'>720p<td>30 fps<td>5 Mbps<tr>"
        "<td>60 fps<td>7.5 Mbps</table>",
    ],
)
def test_one_table_in_many_spellings(text: str) -> None:
    assert rows(text) == BOTH
    assert paste(text).not_understood == ()


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("1080p 7–11 Mbit/s", [(1080, S, 7.0, 11.0)]),
        ("1080p: between 7 and 11 Mbps", [(1080, S, 7.0, 11.0)]),
        ("1080p min. 7 Mbit/s, max. 11 Mbit/s", [(1080, S, 7.0, 11.0)]),
        ("4K UHD 66 bis 85 MBit/s 50/60p", [(2160, H, 66.0, 85.0)]),
        ("2160p (4K): 7,500 kbps", [(2160, S, 7.5)]),
        ("1080p 1 234 567 bit/s", [(1080, S, 1.234567)]),
        ("Height;Min (kbps);Max (kbps)\n1080;5500;7500", [(1080, S, 5.5, 7.5)]),
        ("Upright 1080x1920: 6 Mbit/s", [(1080, S, 6.0)]),
        ("854x480 – 2 500 kbit/s", [(480, S, 2.5)]),
        ("1080 – 8 Mbit/s", [(1080, S, 8.0)]),
        ("720p60 6,5 Mbit/s", [(720, H, 6.5)]),
        ("1080p,30,8 Mbps\n720p,60,7 Mbps", [(1080, S, 8.0), (720, H, 7.0)]),
        ("1080p 24–60 fps 9 Mbps", [(1080, S, 9.0), (1080, H, 9.0)]),
        ("HEVC\n2160p: 20 Mbps\nAV1\n1080p: 4.4 Mbps", [(2160, S, "hevc", 20.0), (1080, S, "av1", 4.4)]),
        ("Size | H.264 | H.265\n1080p | 8 Mbps | 5.2 Mbps", [(1080, S, 8.0), (1080, S, "hevc", 5.2)]),
        (
            "Rate;1080p;720p\n30;8 Mbps;5 Mbps\n60;12 Mbps;7.5 Mbps",
            [(1080, S, 8.0), (720, S, 5.0), (1080, H, 12.0), (720, H, 7.5)],
        ),
        ("2160p\t24\t40 Mbps\n2160p\t60\t60 Mbps", [(2160, S, 40.0), (2160, H, 60.0)]),
    ],
)
def test_figures_sizes_and_headings(text: str, wanted: list[tuple]) -> None:
    assert rows(text) == wanted
    assert paste(text).not_understood == ()


def test_dynamic_range() -> None:
    found = paste("HDR uploads\n1080p: 10 Mbps\nSDR uploads\n1080p: 8 Mbps").rows
    assert [(row.dynamic_range, row.low_bps) for row in found] == [("hdr", 10_000_000), ("sdr", 8_000_000)]


@pytest.mark.parametrize(
    ("line", "why"),
    [
        ("Read our guide before you upload", "no bit rate"),
        ("banana", "no bit rate"),
        ("5.1 surround 384 kbps", "sound"),
        ("12 Mbps", "no frame size"),
        ("1080p 120 fps 20 Mbps", "above 60"),
        ("720p: 5 MB/s", "no bit rate"),
        ("720p | lots", "no bit rate"),
    ],
)
def test_what_is_not_understood_is_listed_with_its_reason(line: str, why: str) -> None:
    found = paste(f"1080p: 8 Mbps\n\n{line}")
    assert [(lost.number, lost.text) for lost in found.not_understood] == [(3, line)]
    assert why in found.not_understood[0].why
    assert len(found.rows) == 1


@pytest.mark.parametrize(
    ("text", "wanted"),
    [
        ("Stereo 200 kbps\nMono 128 kbps AAC", [(2, None, 200_000, 200_000), (1, "aac", 128_000, 128_000)]),
        ("1080p: 8 Mbps\nAudio: AAC stereo, 160 to 192 kbps", [(2, "aac", 160_000, 192_000)]),
        ("Channels;kbit/s\nStereo;192\nMono;96", [(2, None, 192_000, 192_000), (1, None, 96_000, 96_000)]),
        ("Size;Video;Audio\n1080p;8 Mbps;192 kbps\n720p;5 Mbps;192 kbps", [(None, None, 192_000, 192_000)]),
        ("720p 5 Mbps, AAC 192 kbps", [(None, "aac", 192_000, 192_000)]),
        ("1080p 8 Mbps AAC", []),
    ],
)
def test_what_is_asked_of_the_sound_is_kept_apart(text: str, wanted: list[tuple]) -> None:
    found = paste(text)
    assert [(row.channels, row.codec, row.low_bps, row.high_bps) for row in found.sound] == wanted
    assert found.not_understood == ()
    assert all(row.low_bps >= 5_000_000 for row in found.rows)
    assert len(found.rows) == sum("080p" in line or "720p" in line for line in text.splitlines())


def test_lines_that_contradict_each_other_are_all_asked() -> None:
    found = paste("1080p: 8 Mbps\n720p: 5 Mbps\n1080p: 9 Mbps")
    assert [row.short_side_px for row in found.rows] == [720]
    assert [(one.number, one.rows[0].high_bps) for one in found.asked] == [(1, 8_000_000), (3, 9_000_000)]
    assert "lines 1, 3 give different figures" in found.asked[0].question.lower()


@pytest.mark.parametrize(
    ("text", "question"),
    [
        ("1080p: 20 Mbps maximum", "said to be the most"),
        ("1080p: at least 6 Mbps", "said to be the least"),
        ("1080p: minimum 8, recommended 12, maximum 20 Mbps", "20 Mbit/s is said to be the most; is 12 what"),
        ("1080p: 8 / 12 Mbps", "which is which"),
        ("1080p\t8\n720p\t5", "No unit is named; is it Mbit/s?"),
        ("1080p: 8 MBps", "may mean bytes"),
        ("720p/1080p: 8 Mbps", "several sizes"),
        ("1080p: 8 Mbps for 30, 12 for 60", "Nothing says what"),
        ("Viewers need 5 Mbps for 1080p", "watching"),
        ("1080p: 900 Mbps", "unusually much"),
        ("1080p or 4K: 40 Mbps", "several sizes"),
        ("1080p recommended, up to 4K", "several frames"),
        ("max 30 fps, 60 fps on request", "several frame rates"),
        ("Videos below 720p look bad", "a limit of what is taken"),
        ("Processing can last up to 2 hours", "a limit of what is taken"),
        ("Size\tHD\tFull HD and above\n30 fps\t5 Mbps\t8 Mbps", "for the one size"),
        ("Partners: up to 12 hours, others up to 10 minutes", "two lengths"),
    ],
)
def test_what_is_uncertain_is_asked_beside_its_line(text: str, question: str) -> None:
    found = paste(text)
    assert found.rows == () or question == "No unit is named; is it Mbit/s?"
    assert not found.limits.given()
    assert question.lower() in found.asked[0].question.lower()
    assert found.asked[0].text in text.splitlines()


def test_a_heading_holds_for_the_lines_below_it_until_another_line_may_be_one() -> None:
    found = paste("HDR uploads\n2160p: 50 Mbps\nOrdinary uploads\n1080p: 8 Mbps")
    assert [(row.short_side_px, row.dynamic_range) for row in found.rows] == [(2160, "hdr")]
    assert "“Ordinary uploads”" in found.asked[0].question
    both = paste("H.264 and HEVC\n1080p: 8 Mbps\n1080p AV1: 4 Mbps")
    assert [row.codec for row in both.rows] == ["av1"]
    assert [row.codec for row in both.asked[0].rows] == ["h264", "hevc"]
    other = paste("MPEG-2\n1080p: 50 Mbps\nH.264\n1080p: 8 Mbps")
    assert [row.high_bps for row in other.rows] == [8_000_000]
    assert "no rows for" in other.not_understood[0].why


def test_shapes_levels_and_chroma_are_no_frame_rates_and_sound_is_no_picture() -> None:
    found = paste("Upright (9:16, 1080x1920), level 4.2, 4:2:0: 12 Mbps at 60 fps")
    assert [(row.frame_rate_class, row.high_bps) for row in found.rows] == [(H, 12_000_000)]
    found = paste("1080p – 30 fps – 8 Mbps – H.264 – AAC 320 kbps")
    assert ([row.high_bps for row in found.rows], [row.high_bps for row in found.sound]) == ([8_000_000], [320_000])
    assert found.asked == ()


@pytest.mark.parametrize("number", ["9" * 350, "5.1.2", "1,2,3,4"])
@pytest.mark.parametrize("line", ["1080p: {} Mbps", "Maximum file size {} GB", "Stereo: {} kbps", "up to {} minutes"])
def test_a_number_that_is_none_is_refused(line: str, number: str) -> None:
    found = paste(line.format(number))
    assert (found.rows, found.sound, found.limits.given(), found.asked) == ((), (), {}, ())
    assert len(found.not_understood) == 1


LONG = {
    "cells": "|".join(["8-12 Mbps"] * 5000),
    "commas": "8," * 100_000,
    "headings": "Mbps\t" * 30_000,
    "entities": "&amp;" * 40_000,
    "unknown entities": "<table><tr><td>" + "&#x110000;" * 20_000,
    "open elements": "<table>" + "<div>" * 60_000,
    "digits": "1" * 200_000,
    "open tags": "<table>" + "<td " * 60_000,
    "comments": "<table>" + "<!--" * 50_000,
    "frame rates": "24/25/30/" * 20_000,
    "lines": "1080p 8 Mbps\n" * 15_000,
    "quotes": '",' * 60_000,
}


@pytest.mark.timeout(20)
@pytest.mark.parametrize("text", LONG.values(), ids=LONG)
def test_what_is_too_long_is_read_to_its_limit_and_said(text: str) -> None:
    found = paste(text)
    assert len(found.rows) <= 1
    if len(text) > 200_000 or "<table>" not in text:
        assert any("only the first" in lost.why for lost in found.not_understood)


def test_two_figures_that_nothing_tells_apart_give_no_row() -> None:
    found = paste("Size\tBit rate\tBit rate\n1080p\t8 Mbps\t12 Mbps")
    assert found.rows == ()
    assert "which is which" in found.not_understood[0].why


@pytest.mark.timeout(20)
@pytest.mark.parametrize(
    "part", ["8 Mbps ", "24 ", "1 111 ", "up to ", "24, ", "a ", "h.264 ", "60 frames ", "| ", "  x"]
)
def test_no_text_takes_long(part: str) -> None:
    """Expressions that try every division of a text would need years here, not moments."""
    assert paste("1080p " + part * 1000) is not None


def test_a_cell_that_says_nothing_known_is_named_and_the_rest_of_its_line_kept() -> None:
    found = paste("Size\t30 fps\t60 fps\n1080p\t8 Mbps\tlots\n720p\t5 Mbps\tn/a")
    assert [row.short_side_px for row in found.rows] == [1080, 720]
    assert [lost.why for lost in found.not_understood] == ["“lots”"]


def test_our_own_csv_comes_back_as_it_was() -> None:
    found = paste(guidance_csv(ORRERY.placement))
    assert found.rows == ORRERY.placement.guidance
    assert found.not_understood == ()


@given(st.text(max_size=300))
def test_any_text_is_answered_and_every_line_accounted_for(text: str) -> None:
    found = paste(text)
    said = sum(any(c.isalnum() for c in line) for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n"))
    assert len(found.not_understood) <= max(1, said)
    assert paste("").rows == paste("").not_understood == ()


@given(
    st.lists(
        st.tuples(
            st.sampled_from([360, 480, 720, 1080, 1440, 2160]), st.sampled_from([24, 30, 50, 60]), st.integers(1, 900)
        ),
        min_size=1,
        unique_by=lambda row: (row[0], row[1] > 30),
    ),
    st.sampled_from(
        [
            "{0}p{1}: {2} Mbps",
            "{0}p at {1} fps – {2} Mbit/s",
            "{0}p | {1} fps | {2} Mb/s",
            "{0}p;{1};{3} kbps",
            "{0}p\t{1} fps\t{4} bps",
        ]
    ),
)
def test_every_line_of_a_table_gives_its_row(table, form: str) -> None:
    text = "\n".join(form.format(side, fps, tenth / 10, tenth * 100, tenth * 100_000) for side, fps, tenth in table)
    found = paste(text)  # a larger frame with less, or a figure that is unusual, is asked
    every = [*found.rows, *(row for question in found.asked for row in question.rows)]
    assert {(r.short_side_px, str(r.frame_rate_class), r.low_bps) for r in every} == {
        (side, S if fps <= 30 else H, tenth * 100_000) for side, fps, tenth in table
    }
