"""Planned against measured."""

from __future__ import annotations

import pytest

from hardy_parcel.core.facts import ColourTags
from hardy_parcel.core.planning import make_plan
from hardy_parcel.core.receipt import Match, PackedFacts, Receipt, compare

from ..builders import ORRERY, audio, facts

PLAN = make_plan(facts(seconds=20), ORRERY)


def packed(**changes) -> PackedFacts:
    """A file that came out exactly as planned, but for `changes`."""
    sound = audio(integrated_lufs=PLAN.audio.expected_lufs, sample_rate_hz=48000)
    picture = facts(seconds=20, profile="High", level="4.0", sound=sound)
    values = {
        "facts": picture, "video_bitrate_bps": PLAN.video.target_bps.value, "pictures": 500,
        "longest_keyframe_distance": 50, "index_first": True,
    }
    return PackedFacts(**(values | changes))


def differing(found: PackedFacts) -> list[str]:
    return [row.code for row in compare(PLAN, found) if row.match is Match.DIFFERS]


def test_as_planned() -> None:
    assert differing(packed()) == []
    assert {row.match for row in compare(PLAN, packed())} == {Match.AS_PLANNED}


@pytest.mark.parametrize(
    ("changes", "codes"),
    [
        ({"pictures": 499}, ["pictures"]),
        ({"longest_keyframe_distance": 51}, ["keyframes"]),
        ({"index_first": False}, ["fast_start"]),
        ({"video_bitrate_bps": round(PLAN.video.target_bps.value * 1.2)}, ["bitrate"]),
    ],
)
def test_what_differs_is_named(changes, codes) -> None:
    assert differing(packed(**changes)) == codes


@pytest.mark.parametrize(
    ("changes", "code"),
    [
        ({"level": "4.1"}, "level"), ({"profile": "Main"}, "codec"), ({"codec": "hevc"}, "codec"),
        ({"display_width": 1918}, "size"), ({"colour": ColourTags()}, "colour"), ({"frame_rate": 24}, "rate"),
    ],
)
def test_what_differs_in_the_picture(changes, code) -> None:
    right = packed()
    wrong = right.facts.model_copy(update={"video": right.facts.video.model_copy(update=changes)})
    assert code in differing(right.model_copy(update={"facts": wrong}))


def test_an_undershoot_is_explained_not_alarmed() -> None:
    row = next(r for r in compare(PLAN, packed(video_bitrate_bps=2_000_000)) if r.code == "bitrate")
    assert row.match is Match.EXPLAINED
    assert "the picture is simple" in row.note


def test_sound_is_compared_too() -> None:
    right = packed()
    without = right.model_copy(update={"facts": right.facts.model_copy(update={"audio": None})})
    loud = right.model_copy(update={"facts": right.facts.model_copy(update={"audio": audio(integrated_lufs=-9.0)})})
    assert differing(without) == ["sound"]
    assert differing(loud) == ["loudness"]
    mute = make_plan(facts(sound=None), ORRERY)
    assert [r.code for r in compare(mute, packed()) if r.match is Match.DIFFERS] == ["sound"]


def test_a_receipt_lists_what_differs() -> None:
    receipt = Receipt(
        file_name="x.mp4", folder="/out", size_bytes=1, sha256="0" * 64, encode_s=1.0, pictures=499,
        rows=compare(PLAN, packed(pictures=499)),
    )
    assert [row.code for row in receipt.differing] == ["pictures"]
