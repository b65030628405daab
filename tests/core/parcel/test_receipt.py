"""Planned against measured."""

from __future__ import annotations

import pytest

from hardy_parcel.core.master.facts import ColourTags, FileFacts
from hardy_parcel.core.parcel.receipt import Match, PackedFacts, Receipt, compare
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, HANDOVER, ORRERY, audio, facts

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
        ({"level": "4.1"}, "level"), ({"profile": "Main"}, "profile"), ({"codec": "hevc"}, "codec"),
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


def differing_from(plan, found: PackedFacts) -> list[str]:
    return [row.code for row in compare(plan, found) if row.match is Match.DIFFERS]


def test_what_is_untouched_must_be_the_masters_bytes() -> None:
    plan = make_plan(facts(), ORRERY, Choices(method="untouched"))
    right = PackedFacts(facts=facts(), video_bitrate_bps=plan.video.target_bps.value, pictures=500, index_first=True, identical=True)
    assert differing_from(plan, right) == []
    assert differing_from(plan, right.model_copy(update={"identical": False})) == ["identical"]
    assert differing_from(plan, right.model_copy(update={"pictures": 499})) == ["pictures"]


def test_sound_alone_is_compared_without_a_picture() -> None:
    plan = make_plan(facts(), EARSHELF)
    whole = facts().model_dump(exclude={"video", "audio", "measured_scan", "suggested_focus", "mending"})
    heard = audio(integrated_lufs=plan.audio.expected_lufs)
    right = PackedFacts(facts=FileFacts(**whole, audio=heard), index_first=True)
    assert differing_from(plan, right) == []
    assert differing_from(plan, PackedFacts(facts=facts(sound=heard), index_first=True)) == ["picture"]
    mp3 = PackedFacts(facts=FileFacts(**whole, audio=heard.model_copy(update={"codec": "mp3"})), index_first=True)
    assert differing_from(plan, mp3) == ["sound"]


def test_an_intra_frame_master_and_its_pcm() -> None:
    plan = make_plan(facts(), HANDOVER, Choices(codec="vc3"))
    sound = audio(codec="pcm_s24le", integrated_lufs=plan.audio.expected_lufs)
    picture = facts(codec="vc3", profile="DNXHR HQ", sound=sound, pixel_format="yuv422p")
    right = PackedFacts(
        facts=picture, video_bitrate_bps=plan.video.target_bps.value, pictures=500, longest_keyframe_distance=1, index_first=True,
    )
    assert differing_from(plan, right) == []
    assert differing_from(plan, right.model_copy(update={"longest_keyframe_distance": 2})) == ["keyframes"]


def test_quality_below_its_ceiling_is_no_difference() -> None:
    plan = make_plan(facts(), ORRERY, Choices(rate_control="constant quality"))
    row = next(r for r in compare(plan, packed(video_bitrate_bps=1_000_000)) if r.code == "bitrate")
    assert row.match is Match.AS_PLANNED
    assert "asked for no more" in row.note
