"""The plan: complete, lawful, the same twice, and every value with its because."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.master.facts import COMMON_RATES, ColourTags, Excerpt, FramingMode, Mending, Scan
from hardy_parcel.core.plan import planning
from hardy_parcel.core.plan.carrying import file_size
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.encoder_settings import encoder_words, packing_settings
from hardy_parcel.core.plan.packing_slip import packing_slip, plan_values
from hardy_parcel.core.plan.plan import FieldOrder, Plan, VideoPlan, duration_s
from hardy_parcel.core.plan.planning import at_same_multiple, make_plan, whole_excerpt
from hardy_parcel.core.plan.sound_plan import below_the_limit
from hardy_parcel.core.stamps import Because, Chosen, Source
from hardy_parcel.core.trade.codec_levels import TABLES
from hardy_parcel.core.trade.codecs import SOUND_CODECS, vc3_frame_bytes
from hardy_parcel.core.trade.rate_control import Effort, RateControl
from hardy_parcel.docks.shipped import shipped_destinations

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, audio, facts, video

PLACES = list(shipped_destinations().values())
CHOICES = st.builds(
    Choices,
    method=st.none() | st.sampled_from(Method),
    codec=st.none() | st.sampled_from(["h264", "hevc", "vp9", "av1", "vc3"]),
    container=st.none() | st.sampled_from(["mp4", "mov", "mkv", "webm", "wav"]),
    short_side_px=st.none() | st.integers(64, 4320),
    frame_rate=st.none() | st.sampled_from([24, 25, 30, 50]),
    video_bitrate_bps=st.none() | st.integers(50_000, 80_000_000),
    framing=st.sampled_from(FramingMode),
    rate_control=st.none()
    | st.sampled_from([RateControl.CONSTANT, RateControl.ONE_PASS, RateControl.TWO_PASSES, RateControl.QUALITY]),
    effort=st.none() | st.sampled_from(Effort),
    keyframe_interval_s=st.none() | st.floats(0.1, 20),
    picture=st.booleans(),
    sound=st.booleans(),
    sound_codec=st.none() | st.sampled_from(["aac", "opus", "mp3", "flac", "pcm"]),
    channels=st.none() | st.sampled_from([1, 2]),
)
MASTERS = st.builds(
    facts,
    st.integers(16, 4096),
    st.integers(16, 4096),
    st.sampled_from(COMMON_RATES),
    seconds=st.fractions(Fraction(1, 2), 400, max_denominator=1000),
    sound=st.none()
    | st.builds(audio, channels=st.integers(1, 8), sample_rate_hz=st.sampled_from([22050, 44100, 48000, 96000])),
    variable_rate=st.booleans(),
    bitrate_bps=st.none() | st.integers(100_000, 200_000_000),
    file=st.fixed_dictionaries(
        {
            "chapters": st.integers(0, 3),
            "mending": st.sampled_from([Mending(), Mending(deinterlace=Scan.TOP_FIRST)]),
        }
    ),
)
REFUSALS = {"not_taken", "no_container", "no_such_control", "bad_choice"}
"""What contradicts itself or the sheet; whatever lies in the master must be a stamp instead."""


def becauses(value) -> list[Because]:
    """Every because anywhere in a plan."""
    if isinstance(value, Because):
        return [value]
    if hasattr(type(value), "model_fields"):
        return [found for name in type(value).model_fields for found in becauses(getattr(value, name))]
    return []


def made(master, destination, choices) -> Plan | None:
    try:
        return make_plan(master, destination, choices)
    except BadChoice as error:
        assert error.code in REFUSALS
        assert choices != Choices(framing=choices.framing), "a master alone never refuses a plan"
        assert error.todo
        return None


@settings(deadline=None, max_examples=300)
@given(MASTERS, st.sampled_from(PLACES), CHOICES)
def test_any_master_gets_a_lawful_plan_or_is_held_with_a_reason(master, destination, choices) -> None:
    plan = made(master, destination, choices)
    if plan is None:
        return
    assert make_plan(master, destination, choices) == plan
    assert Plan.model_validate_json(plan.model_dump_json()) == plan
    assert duration_s(plan) <= master.duration_s + Fraction(1, 10)
    if plan.held:
        assert all(stamp.sentence.endswith(".") for stamp in plan.held)
        return
    place = destination.placement
    assert plan.container.value in place.containers
    assert file_size(plan).worst_bytes <= place.max_bytes
    assert duration_s(plan) <= place.max_duration_s
    assert plan.video or plan.audio
    if plan.audio and not plan.audio.copied:
        assert plan.audio.codec.value in place.audio.codecs
        assert plan.audio.channels.value <= 2
        assert plan.audio.sample_rate_hz.value in SOUND_CODECS[plan.audio.codec.value].rates_hz
    if plan.video:
        lawful_picture(plan.video, destination, copied=plan.copied)


def lawful_picture(picture: VideoPlan, destination, *, copied: bool) -> None:
    place, framing = destination.placement, picture.framing.value
    assert picture.codec.value in place.codecs
    assert max(framing.width, framing.height) <= place.max_long_side_px
    assert picture.frame_rate.value <= place.max_frame_rate
    assert picture.frames >= 1
    if copied:
        return
    assert framing.width % 2 == framing.height % 2 == 0
    shape = min(max(Fraction(framing.width, framing.height), place.narrowest), place.widest)
    assert abs(framing.width - framing.height * shape) <= 2, "a shape that is taken, to the even pixel"
    if picture.ceiling_bps.value is not None:
        assert picture.ceiling_bps.value >= picture.target_bps.value
        assert picture.ceiling_bps.value <= (place.peak_bps or picture.ceiling_bps.value)
    if picture.codec.value in TABLES:
        assert picture.level.value in {level.name for level in TABLES[picture.codec.value]}


@settings(deadline=None)
@given(MASTERS, st.sampled_from(PLACES), CHOICES)
def test_every_value_has_a_reason_worth_reading(master, destination, choices) -> None:
    plan = made(master, destination, choices)
    if plan is None:
        return
    for because in becauses(plan):
        assert because.code
        assert because.sentence
        assert not because.sentence.endswith(".") or because.code == "no_level"
    for row in packing_slip(plan, made(master, destination, Choices())):
        assert row.setting
        assert row.value
        assert row.because
        assert row.instead is None or row.instead_because
    for value in plan_values(plan).values():
        assert value.because.sentence
    if plan.video:
        for name in type(plan.video).model_fields:
            if name not in ("keep_every", "frames", "tier", "colour_labelled", "ceiling_rule") and not name.startswith(
                "source_"
            ):
                assert isinstance(getattr(plan.video, name), Chosen | bool), f"{name} has no because"


def test_size_and_rate_are_the_masters() -> None:
    plan = make_plan(facts(1920, 1080, 50), ORRERY)
    picture = plan.video
    assert (picture.framing.value.width, picture.framing.value.height) == (1920, 1080)
    assert picture.framing.because.sentence == "as the master; arrives as 1080 lines"
    assert picture.frame_rate.value == 50
    assert picture.level.value == "4.2"
    assert picture.keyframe_interval_frames.value == 100
    assert picture.target_bps.value == 13_700_000
    assert picture.target_bps.because.sentence == "top of Orrery's 1080 row, high rates"
    assert picture.ceiling_bps.value == 27_400_000
    assert picture.buffer_bits.value == 2 * 27_400_000
    assert picture.frames == 1000


def test_the_upright_platform_halves_fifty_to_twenty_five() -> None:
    plan = make_plan(facts(1080, 1920, 50), SPRIGG)
    assert plan.video.frame_rate.value == 25
    assert plan.video.keep_every == 2
    assert plan.video.frame_rate.because.code == "rate_divided"
    assert plan.video.frames == 500
    assert plan.guidance.frame_rate_class == "standard"


def test_film_rate_stays_exact() -> None:
    plan = make_plan(facts(rate=Fraction(24000, 1001)), ORRERY)
    assert plan.video.frame_rate.value == Fraction(24000, 1001)
    assert plan.video.keyframe_interval_frames.value == 48
    assert next(row for row in packing_slip(plan) if row.setting == "Frame rate").exact.startswith("24000/1001")


def test_the_creators_rate_is_kept_and_put_in_proportion() -> None:
    plan = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=16_000_000))
    assert plan.video.target_bps.value == 16_000_000
    assert plan.video.target_bps.because.source is Source.CREATOR
    assert plan.times_guidance == pytest.approx(16 / 9.1)
    assert plan.video.ceiling_bps.value == 32_000_000


@pytest.mark.parametrize(
    ("measured", "peak", "gain", "code"),
    [
        (-20.0, -8.0, 6.0, "gain_peak_limited"),
        (-20.0, -12.0, 7.0, "gain_to_target"),
        (-6.0, 0.5, -7.0, "gain_to_target"),
        (-13.0, -1.0, -1.0, "gain_peak_limited"),
    ],
)
def test_level_goes_towards_the_target_within_the_peak_limit(measured, peak, gain, code) -> None:
    master = facts(1080, 1920, 30, sound=audio(integrated_lufs=measured, true_peak_dbtp=peak))
    sound = make_plan(master, SPRIGG).audio
    assert sound.gain_db.value == pytest.approx(gain)
    assert sound.gain_db.because.code == code
    assert sound.expected_lufs == pytest.approx(measured + gain)


def test_a_platform_that_only_turns_down_is_come_up_to() -> None:
    """A viewer would hear it quieter than everything beside it; how far it stays below is said where its peaks forbid more."""
    quiet = make_plan(facts(sound=audio(integrated_lufs=-24.0, true_peak_dbtp=-12.0)), ORRERY).audio
    assert (quiet.gain_db.value, quiet.gain_db.because.code) == (9.0, "gain_to_target")
    assert "since Orrery only turns down" in quiet.gain_db.because.sentence
    peaky = make_plan(facts(sound=audio(integrated_lufs=-24.0, true_peak_dbtp=-9.0)), ORRERY).audio
    assert peaky.gain_db.value == 7.5
    assert "stays 1.5 LU below Orrery's −15 LUFS" in peaky.gain_db.because.sentence
    loud = make_plan(facts(sound=audio(integrated_lufs=-9.0, true_peak_dbtp=0.0)), ORRERY).audio
    assert loud.gain_db.value == -6.0
    alone = make_plan(facts(sound=audio(integrated_lufs=-24.0, true_peak_dbtp=-9.0)), FERNPOST).audio
    assert alone.gain_db.value == 0.0, "no target, so the level is left alone"


def test_silence_and_missing_sound() -> None:
    mute = make_plan(facts(sound=None), ORRERY)
    assert mute.audio is None
    assert mute.no_audio_because.sentence == "the master has none"
    silent = make_plan(facts(sound=audio(integrated_lufs=None, true_peak_dbtp=None)), ORRERY)
    assert silent.audio.gain_db.value == 0.0
    assert silent.audio.expected_lufs is None


def test_sample_rate_and_channels() -> None:
    kept = make_plan(facts(1080, 1920, sound=audio(sample_rate_hz=44100, channels=1)), SPRIGG).audio
    assert (kept.sample_rate_hz.value, kept.channels.value, kept.bitrate_bps.value) == (44100, 1, 96_000)
    mixed = make_plan(facts(sound=audio(sample_rate_hz=96000, channels=6)), ORRERY).audio
    assert (mixed.sample_rate_hz.value, mixed.channels.value) == (48000, 2)
    assert "6 channels mixed down" in mixed.channels.because.sentence


@pytest.mark.parametrize(
    ("size", "tags", "code", "matrix", "said"),
    [
        ((1920, 1080), ColourTags(), "colour_guessed", "bt709", "HD taken as BT.709, a guess"),
        ((720, 576), ColourTags(), "colour_guessed", "smpte170m", "SD taken as BT.601, a guess"),
        (
            (768, 576),
            ColourTags(primaries="bt470bg", transfer="smpte170m", matrix="bt470bg"),
            "colour_converted",
            "bt470bg",
            "BT.601",
        ),
        (
            (1920, 1080),
            ColourTags(matrix="bt709", range="pc"),
            "colour_converted",
            "bt709",
            "full range brought to limited",
        ),
    ],
)
def test_colour_is_never_guessed_in_silence(size, tags, code, matrix, said) -> None:
    plan = make_plan(facts(*size, colour=tags), ORRERY)
    assert plan.video.colour.because.code == code
    assert said in plan.video.colour.because.sentence
    assert plan.video.source_matrix == matrix
    assert plan.video.colour.value == ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")


def test_the_excerpt_sets_the_length() -> None:
    master = facts(seconds=20)
    plan = make_plan(master, ORRERY, excerpt=Excerpt(in_s=2, out_s="9/2"))
    assert plan.video.frames == 62
    assert duration_s(plan) == Fraction(62, 25)
    assert make_plan(master, ORRERY, excerpt=whole_excerpt(master)) == make_plan(master, ORRERY)


def test_a_single_picture_can_be_packed() -> None:
    assert make_plan(facts(seconds=Fraction(1, 25)), ORRERY).video.frames == 1
    assert make_plan(facts(seconds=20), ORRERY, excerpt=Excerpt(in_s=5, out_s="126/25")).video.frames == 1


@pytest.mark.parametrize(("start", "end"), [(-1, 5), (5, 5), (6, 5), (0, 21), (5, "501/100")])
def test_an_impossible_excerpt_is_refused(start, end) -> None:
    with pytest.raises(BadChoice, match=r"excerpt|out point"):
        make_plan(facts(seconds=20), ORRERY, excerpt=Excerpt(in_s=start, out_s=end))


def codes(plan: Plan) -> dict[str, str]:
    return {stamp.code: str(stamp.outcome) for stamp in plan.stamps}


def test_stamps_name_their_matter() -> None:
    assert codes(make_plan(facts(bitrate_bps=20_000_000), ORRERY)) == {}
    assert codes(make_plan(facts(bitrate_bps=2_500_000), ORRERY)) == {}, "never about our own default"
    far = make_plan(facts(bitrate_bps=4_000_000), ORRERY, Choices(video_bitrate_bps=13_000_000))
    assert codes(far)["above_recording"] == "handle with care"
    hevc = facts(bitrate_bps=4_000_000, codec="hevc")
    assert "above_recording" not in codes(make_plan(hevc, ORRERY, Choices(video_bitrate_bps=13_000_000))), (
        "worth more of H.264"
    )
    assert codes(make_plan(facts(colour=ColourTags()), ORRERY))["untagged_colour"] == "handle with care"
    assert codes(make_plan(facts(variable_rate=True), ORRERY))["variable_rate"] == "handle with care"
    assert codes(make_plan(facts(scan=Scan.TOP_FIRST), ORRERY))["interlaced"] == "handle with care"
    hdr = ColourTags(primaries="bt2020", transfer="smpte2084", matrix="bt2020nc", range="tv")
    assert codes(make_plan(facts(colour=hdr), ORRERY))["hdr"] == "held"
    assert codes(make_plan(facts(seconds=200), SPRIGG))["too_long"] == "held"
    assert (
        codes(make_plan(facts(), ORRERY, Choices(video_bitrate_bps=1_000_000)))["below_guidance"] == "handle with care"
    )
    filled = make_plan(facts(), SPRIGG, Choices(framing=FramingMode.FILL))
    assert codes(filled) == dict.fromkeys(("wrong_shape", "enlarged", "much_cropped"), "handle with care")
    assert "enlarged 1.78 ×" in [stamp.matter for stamp in filled.stamps]


def test_held_stamps_come_first_and_say_what_to_do() -> None:
    plan = make_plan(facts(seconds=200, colour=ColourTags()), SPRIGG)
    assert plan.stamps[0].outcome == "held"
    assert plan.held[0].sentence.endswith("shorten the excerpt.")


def test_everything_the_encoder_hears_is_in_the_plan() -> None:
    plan = make_plan(facts(1920, 1080, 50), ORRERY, Choices(rate_control=RateControl.TWO_PASSES))
    heard = packing_settings(plan, encode_pass=2, stats_path="passes.log").all_options()
    picture = plan.video
    assert int(heard["b"]) == picture.target_bps.value
    assert int(heard["maxrate"]) == picture.ceiling_bps.value
    assert int(heard["bufsize"]) == picture.buffer_bits.value
    assert int(heard["g"]) == picture.keyframe_interval_frames.value
    assert heard["level"] == picture.level.value
    assert "open-gop=0" in heard["x264-params"]
    assert "pass=2:stats=passes.log" in heard["x264-params"]


def test_facts_of_a_turned_phone_film() -> None:
    turned = facts(1920, 1080, 30, rotation_deg=90)
    assert (turned.video.display_width, turned.video.display_height) == (1080, 1920)
    assert "turned upright" in make_plan(turned, SPRIGG).video.framing.because.sentence
    assert video(720, 576, sample_aspect_ratio=Fraction(16, 15)).display_width == 768


def changed(destination=ORRERY, master=None, **choices) -> Plan:
    return make_plan(master or facts(), destination, Choices(**choices))


def test_as_it_is_untouched_rewrapped_or_held_with_every_reason() -> None:
    plan = changed(method="untouched")
    assert (plan.method.value, plan.container.value, plan.held) == (Method.UNTOUCHED, "mp4", ())
    assert file_size(plan).expected_bytes == facts().size_bytes
    assert plan.video.target_bps.because.sentence == "as it is in the master"
    assert encoder_words(plan) == {}
    mkv = facts(file={"name": "Gale.mkv", "container": "MKV/WebM"})
    assert (
        changed(
            SPRIGG.model_copy(update={"placement": ORRERY.placement.model_copy(update={"containers": ("mp4",)})}),
            mkv,
            method="untouched",
        ).method.value
        is Method.REWRAP
    )
    wrong = changed(
        SPRIGG, facts(1920, 1080, 50, scan=Scan.TOP_FIRST, sample_aspect_ratio=Fraction(4, 3)), method="untouched"
    )
    said = wrong.held[0].sentence
    for reason in ("shape", "50 frames/s", "interlaced", "pixels are not square", "larger"):
        assert reason in said
    cut = make_plan(facts(seconds=20), ORRERY, Choices(method="untouched"), Excerpt(in_s=1, out_s=9))
    assert "can only begin at a keyframe" in cut.held[0].sentence


def test_the_container_and_the_sound_follow_the_codec() -> None:
    made_of = {
        (p.container.value, p.audio.codec.value) for p in (changed(codec="vp9"), changed(codec="av1"), changed())
    }
    assert made_of == {("webm", "opus"), ("mp4", "aac")}
    assert changed(codec="vp9").video.rate_control.value is RateControl.TWO_PASSES
    assert codes(changed(HANDOVER, facts(192, 108), codec="vc3"))["too_small"] == "held"
    vc3 = changed(HANDOVER, codec="vc3")
    assert (vc3.container.value, vc3.audio.codec.value, vc3.audio.bitrate_bps.value) == ("mov", "pcm", 24 * 48000 * 2)
    assert vc3.video.target_bps.value == vc3_frame_bytes(1920, 1080) * 8 * 25
    assert vc3.video.rate_control.value is RateControl.FIXED
    for choices in ({"codec": "vp9"}, {"container": "mkv"}, {"sound_codec": "flac"}):
        with pytest.raises(BadChoice, match="does not take") as caught:
            changed(SPRIGG, **choices)
        assert caught.value.code == "not_taken"
    with pytest.raises(BadChoice, match="no container that holds"):
        changed(ORRERY, container="webm")


def test_sound_alone() -> None:
    plan = changed(EARSHELF)
    assert (plan.video, plan.container.value, plan.audio.bitrate_bps.value, plan.guidance) == (
        None,
        "m4a",
        160_000,
        None,
    )
    assert "112 to 160" in plan.audio.bitrate_bps.because.sentence
    assert plan.audio.gain_db.value == 3.0
    assert changed(EARSHELF, channels=1).audio.bitrate_bps.value == 80_000
    assert codes(changed(EARSHELF, facts(sound=None))) == {"nothing_left": "held"}
    assert codes(changed(picture=False))["no_picture"] == "held"
    assert (
        codes(changed(EARSHELF, facts(file={"chapters": 3}), sound_codec="mp3"))["chapters_lost"] == "handle with care"
    )
    assert changed(EARSHELF, facts(file={"chapters": 3})).chapters.value
    with_chapters = facts(file={"chapters": 3})
    out = changed(ORRERY, with_chapters, chapters=False)
    assert (out.chapters.value, out.chapters.because.sentence) == (False, "your choice; Orrery shows them")
    assert "chapters_lost" not in codes(out), "left out knowingly"
    assert changed(SPRIGG, facts(1080, 1920, file={"chapters": 3}), chapters=True).chapters.value, (
        "kept though nobody shows them"
    )
    assert changed(ORRERY).chapters.value is None


@pytest.mark.parametrize(
    ("rate", "wanted", "code", "keep", "stamped"),
    [
        (50, 25, "creator_rate_divided", 2, False),
        (25, 50, "creator_rate_repeated", Fraction(1, 2), False),
        (25, 30, "creator_rate_uneven", Fraction(5, 6), True),
        (30, 25, "creator_rate_uneven", Fraction(6, 5), True),
    ],
)
def test_a_rate_of_ones_own_is_flagged_with_its_cadence(rate, wanted, code, keep, stamped) -> None:
    plan = changed(master=facts(rate=rate), frame_rate=wanted)
    assert (plan.video.frame_rate.because.code, plan.video.keep_every) == (code, keep)
    assert ("uneven_cadence" in codes(plan)) is stamped
    if stamped:
        assert (
            "every sixth is left out" in (said := plan.video.frame_rate.because.sentence)
            or "every fifth is shown twice" in said
        )
    assert codes(changed(SPRIGG, facts(1080, 1920), frame_rate=50))["rate_not_taken"] == "held"


def test_fields_become_pictures_where_the_destination_takes_the_rate() -> None:
    reel = facts(720, 576, 25, scan=Scan.TOP_FIRST, file={"mending": Mending(deinterlace=Scan.TOP_FIRST)})
    plan = make_plan(reel, ORRERY)
    assert (plan.video.frame_rate.value, plan.video.field_rate, plan.video.deinterlace.value) == (
        50,
        True,
        FieldOrder.TOP_FIRST,
    )
    capped = make_plan(reel, SPRIGG)
    assert (capped.video.frame_rate.value, capped.video.field_rate, capped.video.keep_every) == (25, False, 1)
    flagged = make_plan(facts(720, 576, scan=Scan.TOP_FIRST), SPRIGG)
    assert flagged.video.deinterlace.value is FieldOrder.NONE
    assert "flagged interlaced, not measured yet" in flagged.video.deinterlace.because.sentence
    assert codes(flagged)["interlaced"] == "handle with care", "a flag alone may be wrong, so nothing is held"


def test_fields_that_are_kept_are_never_scaled_in_height() -> None:
    reel = facts(720, 576, 25, scan=Scan.TOP_FIRST, file={"measured_scan": Scan.TOP_FIRST})
    assert make_plan(reel, FERNPOST).video.deinterlace.value is FieldOrder.TOP_FIRST, (
        "what was measured is mended unasked"
    )
    kept = reel.model_copy(update={"mending": Mending(deinterlace=Scan.PROGRESSIVE)})
    plan = make_plan(kept, FERNPOST)
    assert (plan.video.fields_kept, codes(plan)) == (True, {"interlaced": "handle with care"})
    assert next(row for row in packing_slip(plan) if row.setting == "Scan").value == "interlaced"
    assert codes(make_plan(kept, FERNPOST, Choices(short_side_px=480)))["fields_scaled"] == "held"
    narrower = make_plan(kept, FERNPOST, Choices(framing=FramingMode.FILL, shape=Fraction(4, 3)))
    assert (
        "fields_scaled" not in codes(narrower)
        or narrower.video.framing.value.crop.height != narrower.video.framing.value.picture.height
    )


def test_the_clients_machine_limits_level_and_peak() -> None:
    assert codes(changed(HANDOVER, facts(3840, 2160, 60), video_bitrate_bps=140_000_000))["peak_too_high"] == "held"
    weak = HANDOVER.placement.model_copy(update={"max_level": {"h264": "4.0"}, "peak_bps": 40_000_000})
    weak = HANDOVER.model_copy(update={"placement": weak})
    assert codes(changed(weak, facts(rate=50), method="encoded"))["level_too_high"] == "held"
    eased = changed(weak, facts(rate=25), video_bitrate_bps=30_000_000)
    assert (eased.video.ceiling_bps.value, eased.video.ceiling_bps.because.code) == (40_000_000, "ceiling_peak")


def test_quota_guidance_and_far_above() -> None:
    typed = {"video_bitrate_bps": 17_000_000}
    over = changed(FERNPOST, facts(seconds=600), **typed)
    assert codes(over)["over_cap"] == "held"
    assert over.held[0].matter == "over the quota"
    place = FERNPOST.placement.model_copy(update={"max_bytes": 10**12, "quota_bytes": 650_000_000})
    assert (
        changed(FERNPOST.model_copy(update={"placement": place}), facts(seconds=600), **typed).held[0].matter
        == "over the quota"
    )
    assert (
        changed(SPRIGG, facts(1080, 1920, 30, seconds=149), video_bitrate_bps=40_000_000).held[0].matter
        == "over the size cap"
    )
    assert codes(changed(video_bitrate_bps=40_000_000))["far_above_guidance"] == "handle with care"
    assert changed(codec="hevc").guidance.high_bps == round(9_100_000 * 0.65)
    assert "× 0.65 for HEVC" in changed(codec="hevc").video.target_bps.because.sentence


def test_rate_controls_and_what_they_tell_the_encoder() -> None:
    quality = changed(rate_control="constant quality", video_bitrate_bps=6_000_000)
    heard = packing_settings(quality).options
    assert (heard["crf"], heard["maxrate"], "b" in heard) == ("19", "6000000", False)
    constant = packing_settings(changed(rate_control="constant"))
    assert constant.options["b"] == constant.options["maxrate"] == constant.options["minrate"]
    assert constant.params["nal-hrd"] == "cbr"
    av1 = changed(codec="av1")
    assert (av1.video.rate_control.value, av1.video.ceiling_bps.value) == (RateControl.TWO_PASSES, None)
    tried = packing_settings(av1, encode_pass=2, quality=30.25)
    assert (tried.params["crf"], tried.params["level"], "b" in tried.options, "rc" in tried.params) == (
        "30.25",
        "40",
        False,
        False,
    )
    hevc = packing_settings(changed(codec="hevc"), encode_pass=2, stats_path="s").all_options()["x265-params"]
    assert "level-idc=4.0" in hevc
    assert "pass=2" in hevc
    with pytest.raises(BadChoice, match="Quality 60"):
        changed(rate_control="constant quality", quality=60)
    with pytest.raises(BadChoice, match="ceiling lies below"):
        changed(ceiling_bps=1_000_000)


def test_what_we_would_have_chosen_stands_beside_a_choice() -> None:
    slip = {row.setting: row for row in packing_slip(changed(effort="careful", short_side_px=720), changed())}
    assert (slip["Effort"].value, slip["Effort"].instead) == ("careful, preset slow", "medium, preset medium")
    assert slip["Effort"].instead_because == "the usual balance of time and condition"
    assert (slip["Frame size"].value, slip["Frame size"].instead) == ("1280×720", "1920×1080")
    assert slip["Frame size"].because == "your choice, scaled to 67%; arrives as 720 lines"
    assert slip["Frame rate"].instead is None


def test_a_tier_may_be_gone_up_and_is_named() -> None:
    up = changed(short_side_px=1440)
    assert (up.video.framing.value.width, up.video.framing.value.height) == (2560, 1440)
    assert codes(up) == {}, "the whole picture fills the same screen, so nothing is softer for it"
    assert up.video.framing.because.sentence == "your choice, enlarged 1.33 ×; arrives as 1440 lines"
    assert "2400 is more than Orrery takes" in changed(short_side_px=2400).video.framing.because.sentence


def test_a_typed_rate_moves_along_with_the_guidance_of_another_frame() -> None:
    """Filling an upright frame from a small master enlarges it, and so many bits a second mean less there."""
    master, fitted = facts(640, 360), Choices(video_bitrate_bps=900_000, framing=FramingMode.FIT)
    before = make_plan(master, SPRIGG, fitted)
    filled = at_same_multiple(master, SPRIGG, fitted.model_copy(update={"framing": FramingMode.FILL}), before)
    assert filled.video_bitrate_bps > 900_000
    assert make_plan(master, SPRIGG, filled).times_guidance == pytest.approx(before.times_guidance, rel=0.01)
    assert at_same_multiple(master, SPRIGG, fitted, before) == fitted
    free = Choices(framing=FramingMode.FILL)
    assert at_same_multiple(master, SPRIGG, free, before) == free
    with pytest.raises(BadChoice):
        at_same_multiple(master, SPRIGG, fitted.model_copy(update={"shape": Fraction(1)}), before)


@pytest.mark.parametrize(
    ("place", "choices", "code", "says"),
    [
        (SPRIGG, {"framing": "fill"}, "wrong_shape", "The shape doesn’t match Sprigg, so its edges are cut"),
        (SPRIGG, {"framing": "blur"}, "wrong_shape", "a blurred copy of it fills the edges"),
        (
            ORRERY,
            {"framing": "fill", "shape": "2:1"},
            "wrong_shape",
            "You chose 2:1 instead of the master's shape, so its edges are cut",
        ),
        (ORRERY, {"framing": "fit", "shape": "2:1"}, "wrong_shape", "bars are packed with it"),
        (ORRERY, {"zoom": 1.2}, "zoomed", "You zoomed in, so its edges are cut"),
    ],
)
def test_another_shape_says_whose_wish_it_was(place, choices: dict, code: str, says: str) -> None:
    stamp = next(
        stamp
        for stamp in make_plan(facts(), place, Choices(**choices)).stamps
        if stamp.code in ("wrong_shape", "zoomed")
    )
    assert stamp.code == code
    assert says in stamp.sentence


def test_each_further_try_goes_further_below_the_peak_limit_until_the_last() -> None:
    plan = make_plan(facts(sound=audio(integrated_lufs=-30.0, true_peak_dbtp=-6.0)), SPRIGG)
    assert plan.audio.gain_db.because.code == "gain_peak_limited"
    gains = []
    for tries in range(4):
        plan = below_the_limit(plan, -1.5, tries)
        gains.append(plan.audio.gain_db.value)
    assert gains == pytest.approx([3.4, 2.6, 1.5, 0.0])
    assert plan.audio.gain_db.because.sentence.count("coding") == 1
    assert below_the_limit(plan, -1.5, 4) is None
    assert below_the_limit(plan, -2.0) is None
    typed = make_plan(facts(sound=audio(true_peak_dbtp=-6.0)), SPRIGG, Choices(gain_db=5.0))
    assert below_the_limit(typed, -1.5) is None
    assert below_the_limit(make_plan(facts(), FERNPOST), -0.1) is None, "a sheet without a limit"


def test_a_changed_choice_releases_what_was_chosen_for_the_old_one() -> None:
    before = Choices(video_bitrate_bps=8_000_000, ceiling_bps=12_000_000, container="mov", effort="careful")
    other = planning.changed(facts(), ORRERY, before, {"codec": "vp9"})
    assert (other.codec, other.container, other.ceiling_bps) == ("vp9", None, None)
    assert other.effort == "careful"
    own = planning.changed(facts(), ORRERY, before, {"video_bitrate_bps": None})
    assert own.ceiling_bps == round(1.5 * make_plan(facts(), ORRERY).picture.target_bps.value)
    with pytest.raises(BadChoice):
        planning.changed(facts(), ORRERY, before, {"codec": "h261"})
    with pytest.raises(BadChoice):
        planning.changed(facts(), ORRERY, before, {"wings": 2})


def test_a_plan_s_key_tells_any_difference() -> None:
    keys = {
        make_plan(facts(), ORRERY, Choices(**one)).key()
        for one in ({}, {"video_bitrate_bps": 8_000_000}, {"sound": False})
    }
    assert len(keys) == 3
    assert make_plan(facts(), ORRERY).key() in keys


def test_a_bit_rate_may_be_typed_and_says_what_is_wrong_with_it() -> None:
    film = facts()
    assert planning.changed(film, ORRERY, Choices(), {"video_bitrate_bps": "2,3 Mbit/s"}).video_bitrate_bps == 2_300_000
    for typed, said in (("900", "bit rate must lie between 0.05 Mbit/s and 400.0 Mbit/s"), ("fast", "bit rate is no bit rate; type it as")):
        with pytest.raises(BadChoice, match=said):
            planning.changed(film, ORRERY, Choices(), {"video_bitrate_bps": typed if typed != "900" else "900 Mbit/s"})


def test_with_another_codec_a_typed_rate_stays_the_same_multiple_of_the_guidance() -> None:
    film, typed = facts(), Choices(method="encoded", video_bitrate_bps=4_550_000)
    before, after = make_plan(film, ORRERY, typed), planning.changed(film, ORRERY, typed, {"codec": "hevc"})
    plan = make_plan(film, ORRERY, after)
    assert after.video_bitrate_bps != typed.video_bitrate_bps
    assert plan.times_guidance == pytest.approx(before.times_guidance, rel=0.01)
    assert planning.changed(film, ORRERY, Choices(method="encoded"), {"codec": "hevc"}).video_bitrate_bps is None, "none was typed"
    given_back = planning.changed(film, ORRERY, typed, {"codec": "hevc", "video_bitrate_bps": None})
    assert given_back.video_bitrate_bps is None
