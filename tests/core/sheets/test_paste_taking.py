"""What was pasted goes into the draft of a placement, and its limits follow."""

from __future__ import annotations

from datetime import date

import pytest

from hardy_parcel.core.sheets.paste_taking import Taken, take_into
from hardy_parcel.core.sheets.pasting import paste
from hardy_parcel.core.sheets.sheet import Placement
from hardy_parcel.core.sheets.sheet_documents import blank_sheet


def blank() -> dict:
    return blank_sheet(sheet_id="new", name="New", today=date(2026, 5, 2)).placements[0].model_dump(mode="json")


def taken_of(text: str) -> Taken:
    result = paste(text)
    return Taken(rows=result.rows, sound=result.sound, limits=result.limits)


def test_a_row_for_2160_widens_the_longest_sides_and_says_so() -> None:
    result = take_into(blank(), taken_of("2160p60: 60 Mbps\n1080p: 8 Mbps"), instead=True)
    placement = Placement.model_validate(result.draft)
    assert (placement.max_long_side_px, placement.max_short_side_px) == (3840, 2160)
    assert len(placement.guidance) == 2
    assert any("3,840 px, since a row is for 2160" in item for item in result.changed)


def test_a_stated_limit_holds_and_wider_ones_stay() -> None:
    text = "2160p: 40 Mbps\nMaximum resolution 1920x1080\nMaximum file size: 4 GB\nMax length 20 minutes\nVideo codecs: H.264, VP9"
    placement = Placement.model_validate(take_into(blank(), taken_of(text), instead=True).draft)
    assert (placement.max_long_side_px, placement.max_bytes, placement.max_duration_s, placement.codecs) == (
        1920,
        4_000_000_000,
        1200,
        ("h264", "vp9"),
    )
    wide = blank() | {"max_long_side_px": 8000, "max_short_side_px": 8000}
    assert take_into(wide, taken_of("1080p: 8 Mbps"), instead=True).draft["max_long_side_px"] == 8000


def test_a_row_in_another_codec_or_at_a_high_rate_is_taken_in_that_codec_and_at_that_rate() -> None:
    result = take_into(blank() | {"max_frame_rate": "30"}, taken_of("HEVC 1080p60: 8 Mbps"), instead=True)
    assert (result.draft["codecs"], result.draft["max_frame_rate"]) == (["h264", "hevc"], "60")


def test_rows_replace_their_like_or_all() -> None:
    first = take_into(blank(), taken_of("1080p: 8 Mbps\n720p: 5 Mbps"), instead=True).draft
    next_to = take_into(first, taken_of("1080p: 9 Mbps"), instead=False).draft
    assert [row["high_bps"] for row in next_to["guidance"]] == [5_000_000, 9_000_000]
    assert len(take_into(first, taken_of("1080p: 9 Mbps"), instead=True).draft["guidance"]) == 1
    assert first["guidance"][0]["high_bps"] == 8_000_000, "the draft that was given is left as it is"


def test_sound_goes_to_its_fields() -> None:
    audio = take_into(blank(), taken_of("Stereo: 256 kbps\nMono opus: 96 kbps"), instead=True).draft["audio"]
    assert (audio["stereo_bps"], audio["codecs"], audio["by_codec"][0]["high_bps"]) == (
        256_000,
        ["aac", "opus"],
        96_000,
    )


@pytest.mark.parametrize(
    "faulty",
    [
        {},
        {"guidance": None},
        {"max_long_side_px": "wide", "codecs": None, "max_frame_rate": "fast"},
        {"guidance": [7, {"short_side_px": 720}], "audio": None, "codecs": "h264"},
        {"audio": {"by_codec": [7], "codecs": 3}},
    ],
)
def test_a_draft_with_faults_keeps_them(faulty: dict) -> None:
    draft = take_into(faulty, taken_of("2160p: 40 Mbps\nStereo AAC: 192 kbps"), instead=False).draft
    assert draft["guidance"][-1]["short_side_px"] == 2160
    assert draft["audio"]["by_codec"][-1]["high_bps"] == 192_000
    assert draft.get("max_long_side_px") == faulty.get("max_long_side_px")


def test_what_is_there_already_is_not_told_as_changed() -> None:
    text = "Maximum file size: 4 GB\nVideo codec: H.264"
    first = take_into(blank(), taken_of(text), instead=True)
    assert first.changed == ("The largest file is 4.0 GB.",)
    assert take_into(first.draft, taken_of(text), instead=True).changed == ()
