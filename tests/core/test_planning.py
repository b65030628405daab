"""The plan: complete, lawful, the same twice, and every value with its because."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from hardy_parcel.core.encoder_settings import packing_settings
from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.facts import COMMON_RATES, ColourTags, Excerpt, Scan
from hardy_parcel.core.framing import FramingMode
from hardy_parcel.core.levels import TABLE_A_1
from hardy_parcel.core.packing_slip import packing_slip
from hardy_parcel.core.plan import Because, Choices, Chosen, Effort, Plan, RateControl, Source, duration_s
from hardy_parcel.core.planning import make_plan, whole_excerpt

from ..builders import ORRERY, SPRIGG, audio, facts, video

CHOICES = st.builds(
    Choices,
    video_bitrate_bps=st.none() | st.integers(50_000, 80_000_000),
    framing=st.sampled_from(FramingMode),
    rate_control=st.none() | st.sampled_from(RateControl),
    effort=st.none() | st.sampled_from(Effort),
)
MASTERS = st.builds(
    facts, st.integers(16, 4096), st.integers(16, 4096), st.sampled_from(COMMON_RATES),
    seconds=st.fractions(Fraction(1, 2), 400, max_denominator=1000),
    sound=st.none() | st.builds(audio, channels=st.integers(1, 8), sample_rate_hz=st.sampled_from([22050, 44100, 48000, 96000])),
)


def becauses(value) -> list[Because]:
    """Every because anywhere in a plan."""
    if isinstance(value, Because):
        return [value]
    if hasattr(type(value), "model_fields"):
        return [found for name in type(value).model_fields for found in becauses(getattr(value, name))]
    return []


@settings(deadline=None)
@given(MASTERS, st.sampled_from([ORRERY, SPRIGG]), CHOICES)
def test_any_master_gets_a_lawful_plan_or_a_clear_refusal(master, destination, choices) -> None:
    try:
        plan = make_plan(master, destination, choices)
    except BadChoice as error:
        assert error.code == "no_level"
        return
    place, picture = destination.placement, plan.video
    framing = picture.framing.value
    assert framing.width % 2 == framing.height % 2 == 0
    assert max(framing.width, framing.height) <= place.max_long_side_px
    assert picture.frame_rate.value * picture.keep_every == master.video.frame_rate
    assert picture.frame_rate.value <= place.max_frame_rate
    assert picture.frames >= 1
    assert duration_s(plan) <= master.duration_s + 1 / picture.frame_rate.value
    assert picture.ceiling_bps.value >= picture.target_bps.value
    assert picture.level.value in {level.name for level in TABLE_A_1}
    if plan.audio:
        assert plan.audio.channels.value <= 2
        assert plan.audio.sample_rate_hz.value in place.audio.sample_rates_hz
        assert plan.audio.expected_peak_dbtp <= max(place.audio.true_peak_limit_dbtp, master.audio.true_peak_dbtp) + 0.05
    assert make_plan(master, destination, choices) == plan
    assert Plan.model_validate_json(plan.model_dump_json()) == plan


@settings(deadline=None)
@given(MASTERS, st.sampled_from([ORRERY, SPRIGG]), CHOICES)
def test_every_value_has_a_reason_worth_reading(master, destination, choices) -> None:
    try:
        plan = make_plan(master, destination, choices)
    except BadChoice:
        return
    for because in becauses(plan):
        assert because.code
        assert because.sentence
        assert because.sentence[0].islower() or because.sentence[0].isdigit() or because.sentence.startswith(destination.sheet_name)
        assert not because.sentence.endswith(".")
    for row in packing_slip(plan):
        assert row.setting
        assert row.value
        assert row.because
    for name in type(plan.video).model_fields:
        if name not in ("keep_every", "frames", "source_matrix", "source_range"):
            assert isinstance(getattr(plan.video, name), Chosen), f"{name} has no because"


def test_size_and_rate_are_the_masters() -> None:
    plan = make_plan(facts(1920, 1080, 50), ORRERY)
    picture = plan.video
    assert (picture.framing.value.width, picture.framing.value.height) == (1920, 1080)
    assert picture.framing.because.sentence == "as the master"
    assert picture.frame_rate.value == 50
    assert picture.level.value == "4.2"
    assert picture.keyframe_interval_frames.value == 100
    assert picture.target_bps.value == 13_700_000
    assert picture.target_bps.because.sentence == "top of Orrery's 1080 row, high rates"
    assert picture.ceiling_bps.value == 20_550_000
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
    assert packing_slip(plan)[1].exact == "24000/1001"


def test_the_creators_rate_is_kept_and_put_in_proportion() -> None:
    plan = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=16_000_000))
    assert plan.video.target_bps.value == 16_000_000
    assert plan.video.target_bps.because.source is Source.CREATOR
    assert plan.times_guidance == pytest.approx(16 / (7.0 * 9.1) ** 0.5)
    assert plan.video.ceiling_bps.value == 24_000_000


@pytest.mark.parametrize(
    ("measured", "peak", "gain", "code"),
    [(-20.0, -8.0, 6.0, "gain_peak_limited"), (-20.0, -12.0, 7.0, "gain_to_target"), (-6.0, 0.5, -7.0, "gain_to_target"),
     (-13.0, -1.0, -1.0, "gain_peak_limited")],
)
def test_level_goes_towards_the_target_within_the_peak_limit(measured, peak, gain, code) -> None:
    master = facts(1080, 1920, 30, sound=audio(integrated_lufs=measured, true_peak_dbtp=peak))
    sound = make_plan(master, SPRIGG).audio
    assert sound.gain_db.value == pytest.approx(gain)
    assert sound.gain_db.because.code == code
    assert sound.expected_lufs == pytest.approx(measured + gain)


def test_a_platform_that_only_turns_down_is_not_anticipated_upwards() -> None:
    quiet = make_plan(facts(sound=audio(integrated_lufs=-24.0, true_peak_dbtp=-9.0)), ORRERY).audio
    loud = make_plan(facts(sound=audio(integrated_lufs=-9.0, true_peak_dbtp=0.0)), ORRERY).audio
    assert (quiet.gain_db.value, quiet.gain_db.because.code) == (0.0, "gain_only_down")
    assert loud.gain_db.value == -6.0


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
        ((768, 576), ColourTags(primaries="bt470bg", transfer="smpte170m", matrix="bt470bg"), "colour_converted", "bt470bg", "BT.601"),
        ((1920, 1080), ColourTags(matrix="bt709", range="pc"), "colour_as_master", "bt709", "full range brought to limited"),
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
    assert codes(make_plan(facts(bitrate_bps=4_000_000), ORRERY))["above_recording"] == "handle with care"
    assert codes(make_plan(facts(colour=ColourTags()), ORRERY))["untagged_colour"] == "handle with care"
    assert codes(make_plan(facts(variable_rate=True), ORRERY))["variable_rate"] == "handle with care"
    assert codes(make_plan(facts(scan=Scan.TOP_FIRST), ORRERY))["interlaced"] == "handle with care"
    hdr = ColourTags(primaries="bt2020", transfer="smpte2084", matrix="bt2020nc", range="tv")
    assert codes(make_plan(facts(colour=hdr), ORRERY))["hdr"] == "held"
    assert codes(make_plan(facts(seconds=200), SPRIGG))["too_long"] == "held"
    assert codes(make_plan(facts(), ORRERY, Choices(video_bitrate_bps=1_000_000)))["below_guidance"] == "handle with care"
    filled = make_plan(facts(), SPRIGG, Choices(framing=FramingMode.FILL))
    assert codes(filled) == {"enlarged": "handle with care", "much_cropped": "handle with care"}
    assert "enlarged 1.78 ×" in [stamp.matter for stamp in filled.stamps]


def test_held_stamps_come_first_and_say_what_to_do() -> None:
    plan = make_plan(facts(seconds=200, colour=ColourTags()), SPRIGG)
    assert plan.stamps[0].outcome == "held"
    assert plan.held[0].sentence.endswith("shorten the excerpt.")


def test_one_curve_for_all_rates_and_another_for_every_other_change() -> None:
    master = facts()
    key = make_plan(master, SPRIGG).picture_key()
    assert make_plan(master, SPRIGG, Choices(video_bitrate_bps=3_000_000)).picture_key() == key
    others = [
        make_plan(master, ORRERY), make_plan(master, SPRIGG, Choices(framing=FramingMode.FILL)),
        make_plan(master, SPRIGG, Choices(effort=Effort.QUICK)),
        make_plan(master, SPRIGG, Choices(rate_control=RateControl.ONE_PASS)),
        make_plan(master, SPRIGG, excerpt=Excerpt(in_s=1, out_s=9)),
        make_plan(master.model_copy(update={"content_id": "other"}), SPRIGG),
    ]
    assert len({key, *(plan.picture_key() for plan in others)}) == len(others) + 1


def test_everything_the_encoder_hears_is_in_the_plan() -> None:
    plan = make_plan(facts(1920, 1080, 50), ORRERY)
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
