"""Send as it is: every reason against it, and how it goes when there is none."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.master.facts import ColourTags, Excerpt, MasterFacts, Mending, Scan
from hardy_parcel.core.plan.as_it_is import against, best_method, container_of, sound_codec_of
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.core.values import Rect

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, audio, facts

UHD = {"width": 7680, "height": 4320}


def reasons(master: MasterFacts, place=ORRERY, excerpt: Excerpt | None = None) -> str:
    return "; ".join(against(master, place, excerpt or whole_excerpt(master)))


@pytest.mark.parametrize(
    ("master", "place", "reason"),
    [
        (facts(codec="mpeg2video"), ORRERY, "does not take MPEG-2"),
        (facts(codec="vp9"), SPRIGG, "does not take VP9"),
        (facts(sound=audio(codec="mp3")), ORRERY, "does not take MP3 sound"),
        (facts(1080, 1080), SPRIGG, "shape"),
        (facts(**UHD), ORRERY, "larger than Orrery takes"),
        (facts(1080, 1920, 60), SPRIGG, "60 frames/s is more than Sprigg takes"),
        (facts(variable_rate=True), ORRERY, "varies"),
        (facts(scan=Scan.BOTTOM_FIRST), ORRERY, "interlaced"),
        (facts(720, 576, sample_aspect_ratio=Fraction(16, 15)), ORRERY, "not square"),
        (facts(colour=ColourTags(transfer="smpte2084")), ORRERY, "HDR"),
        (facts(bit_depth=10), ORRERY, "no 10 bit of H.264"),
        (facts(chroma="4:2:2"), HANDOVER, "4:2:2 is not what Handover's machines play"),
        (facts(1080, 1920, file={"size_bytes": 400_000_000}), SPRIGG, "400 MB is more than the 380 MB"),
        (facts(1080, 1920, seconds=200), SPRIGG, "longer than the 150 s"),
        (facts(3840, 2160, 60, level="6.0"), HANDOVER, "level 6.0 is above the 5.2"),
        (facts(bitrate_bps=200_000_000), HANDOVER, "above the peak rate"),
        (facts(file={"mending": Mending(remove_bars=Rect(x=0, y=100, width=1920, height=880))}), ORRERY, "bars"),
        (facts(file={"mending": Mending(deinterlace=Scan.TOP_FIRST)}), ORRERY, "deinterlaced"),
        (facts(file={"mending": Mending(constant_rate=Fraction(25))}), ORRERY, "constant"),
        (facts(file={"mending": Mending(turn_down=True)}), ORRERY, "turned down"),
        (facts(), EARSHELF, "takes sound only"),
    ],
)
def test_every_reason_is_named(master: MasterFacts, place, reason: str) -> None:
    assert reason in reasons(master, place)
    plan = make_plan(master, place, Choices(method="untouched"))
    if place is not EARSHELF:
        assert [stamp.code for stamp in plan.held if stamp.code == "not_as_it_is"] == ["not_as_it_is"]


def test_an_excerpt_that_begins_at_no_keyframe_is_cut_by_encoding() -> None:
    master = facts(seconds=20, keyframes=(0, 50, 100))
    assert reasons(master, excerpt=Excerpt(in_s=0, out_s=10)) == ""
    assert reasons(master, excerpt=Excerpt(in_s=2, out_s=10)) == ""
    assert "the nearest are at 0:02.00 and 0:04.00" in reasons(master, excerpt=Excerpt(in_s=3, out_s=10))
    assert "no index of them" in reasons(facts(seconds=20), excerpt=Excerpt(in_s=3, out_s=10))
    assert reasons(master, excerpt=Excerpt(in_s=0, out_s=Fraction(1999, 100))) == "", "a hundredth is rounding, not a cut"


def test_nothing_speaks_against_a_plain_film_and_silence_is_fine() -> None:
    assert reasons(facts()) == ""
    assert reasons(facts(sound=None)) == ""
    assert reasons(facts(codec="hevc", bit_depth=10)) == "", "10 bit is taken where nothing is said against it"
    assert reasons(facts(chroma="4:2:2")) == "", "an upload is read, not played"
    assert reasons(facts(codec="vc3", chroma="4:2:2", sound=audio(codec="pcm_s24le"), file={"name": "Gale.mov"}), HANDOVER) == ""


@pytest.mark.parametrize(
    ("family", "name", "container"),
    [
        ("MP4/MOV", "Gale.mp4", "mp4"), ("MP4/MOV", "Gale.MOV", "mov"), ("MP4/MOV", "Gale.m4v", "mp4"), ("MKV/WebM", "Gale.mkv", "mkv"),
        ("MKV/WebM", "Gale.webm", "webm"), ("AVI", "Gale.avi", None), ("MPEG-TS", "Gale.ts", None),
    ],
)
def test_the_container_goes_by_format_and_ending(family: str, name: str, container: str | None) -> None:
    assert container_of(facts(file={"container": family, "name": name})) == container


def test_a_container_that_is_not_taken_is_changed_without_encoding() -> None:
    stream = facts(file={"container": "MPEG-TS", "name": "Gale.ts"})
    assert best_method(stream, ORRERY, Choices(), whole_excerpt(stream)) == (Method.REWRAP, "mp4")
    assert reasons(stream) == ""
    turned = facts(rotation_deg=90, file={"container": "MPEG-TS", "name": "Gale.ts"})
    assert "no container" in reasons(turned), "a turn is easily lost on the way"
    assert best_method(facts(), ORRERY, Choices(method="re-wrapped"), whole_excerpt(facts())) == (Method.REWRAP, "mp4")
    assert best_method(facts(), ORRERY, Choices(), whole_excerpt(facts())) == (Method.UNTOUCHED, "mp4")


def test_sound_codecs_by_our_names() -> None:
    assert [sound_codec_of(name) for name in ("aac", "pcm_s16le", "pcm_s24be", "opus", "vorbis")] == ["aac", "pcm", "pcm", "opus", None]


def test_the_plan_says_of_every_value_that_it_is_the_masters() -> None:
    plan = make_plan(facts(bitrate_bps=9_000_000, level="4.0", profile="High"), ORRERY, Choices(method="untouched"))
    video = plan.video
    assert {video.codec.because.code, video.target_bps.because.code, plan.audio.codec.because.code} == {"as_it_is"}
    assert (video.target_bps.value, video.level.value, video.profile.value) == (9_000_000, "4.0", "High")
    assert (video.ceiling_bps.value, video.effort.value, video.keyframe_interval_frames.value) == (None, None, None)
    assert plan.audio.gain_db.value == 0
    assert plan.times_guidance == pytest.approx(9 / 9.1)


def test_where_nothing_re_encodes_the_master_goes_as_it_is_unless_something_is_wanted_of_it() -> None:
    heavy = facts(bitrate_bps=80_000_000)
    assert make_plan(heavy, HANDOVER).method.value is Method.UNTOUCHED
    assert "encoding it again would only take from it" in make_plan(heavy, HANDOVER).method.because.sentence
    wishes = {"method": "encoded", "codec": "hevc", "video_bitrate_bps": 30_000_000, "short_side_px": 720, "max_bytes": 1_000_000}
    for wanted in ({name: value} for name, value in wishes.items()):
        assert make_plan(heavy, HANDOVER, Choices(**wanted)).method.value is Method.ENCODE, wanted
    assert make_plan(facts(bitrate_bps=200_000_000), HANDOVER).method.value is Method.ENCODE, "above the peak that is played"
    assert make_plan(heavy, HANDOVER, excerpt=Excerpt(in_s=1, out_s=2)).method.value is Method.ENCODE, "no keyframe there"
    assert make_plan(heavy, HANDOVER, excerpt=Excerpt(in_s=0, out_s=2)).method.value is Method.REWRAP, "cut at its end alone"
    assert make_plan(heavy, ORRERY).method.value is Method.ENCODE, "a platform encodes it again anyway"
