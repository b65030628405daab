"""Fitting under a cap: the worst case keeps below it, as little as possible is given up, and ruin is said and offered ways out of."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.rehearsal import Evidence
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.errors import OverCap
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.parcel.cap_ways import Alternative, alternatives, foretold
from hardy_parcel.core.plan.caps import LOWEST_BPS, packed_again
from hardy_parcel.core.plan.carrying import file_size
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.plan import CapOf, Plan
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.core.trade.rate_control import RateControl

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, audio, facts, rehearsal

MEGABYTE = 1_000_000


def capped(cap: int, *, place=ORRERY, master=None, **choices) -> Plan:
    return make_plan(master or facts(seconds=60), place, Choices(max_bytes=cap, **choices))


CONTROLS = [
    ("h264", RateControl.TWO_PASSES),
    ("h264", RateControl.ONE_PASS),
    ("h264", RateControl.CONSTANT),
    ("h264", RateControl.QUALITY),
    ("hevc", RateControl.TWO_PASSES),
    ("vp9", RateControl.QUALITY),
    ("vp9", RateControl.ONE_PASS),
    ("av1", RateControl.ONE_PASS),
]


@given(st.integers(3 * MEGABYTE, 80 * MEGABYTE), st.sampled_from(CONTROLS), st.integers(2, 600))
def test_under_any_cap_the_worst_case_fits_and_little_is_left_over(cap: int, codec_and_control, seconds: int) -> None:
    codec, control = codec_and_control
    plan = capped(cap, master=facts(seconds=seconds), codec=codec, rate_control=control)
    free = make_plan(facts(seconds=seconds), ORRERY, Choices(codec=codec, rate_control=control))
    worst, target = file_size(plan).worst_bytes, plan.picture.target_bps
    if file_size(free).worst_bytes <= cap:
        assert target == free.picture.target_bps
    elif target.value > LOWEST_BPS:
        assert worst <= cap
        assert plan.picture.under_cap
        assert worst > cap * 0.97
    else:
        assert [stamp.code for stamp in plan.held] == (["over_cap"] if worst > cap else [])


def test_a_generous_cap_changes_nothing_and_is_said() -> None:
    free, plan = make_plan(facts(), ORRERY), capped(10**9, master=facts())
    assert plan.picture == free.picture
    assert (plan.size_cap.value, plan.cap_of) == (10**9, CapOf.CREATOR)


def test_the_size_is_met_by_two_passes_only_where_it_might_pass_a_cap_and_a_lower_rate_changes_nothing() -> None:
    def control(*, max_bytes: int | None = None, place=ORRERY, **choices) -> RateControl:
        return make_plan(facts(seconds=60), place, Choices(max_bytes=max_bytes, **choices)).picture.rate_control.value

    top = make_plan(facts(seconds=60), ORRERY)
    worst = file_size(top).worst_bytes
    assert control() is control(max_bytes=worst) is RateControl.ONE_PASS
    assert control(max_bytes=worst - 1) is RateControl.TWO_PASSES
    low = top.picture.target_bps.value // 4
    assert control(max_bytes=worst - 1, video_bitrate_bps=low) is RateControl.TWO_PASSES, (
        "one control along the whole curve"
    )
    assert control(max_bytes=2 * worst, video_bitrate_bps=3 * top.picture.target_bps.value) is RateControl.TWO_PASSES
    assert control(max_bytes=worst - 1, rate_control=RateControl.ONE_PASS) is RateControl.ONE_PASS, (
        "the creator's choice stands"
    )
    assert control(codec="vp9") is RateControl.TWO_PASSES, "in one pass it misses its rate"
    assert control(place=HANDOVER, codec="h264") is RateControl.TWO_PASSES, "this very file is played"


def test_the_lowest_of_all_limits_counts() -> None:
    assert capped(10**12, place=SPRIGG).cap_of is CapOf.SHEET
    assert make_plan(facts(), FERNPOST).cap_of is CapOf.QUOTA
    assert make_plan(facts(), SPRIGG).size_cap.value == 380 * MEGABYTE
    assert make_plan(facts(), FERNPOST).size_cap.value == min(
        FERNPOST.placement.max_bytes, FERNPOST.placement.quota_bytes
    )


def test_the_sheets_own_limit_lowers_the_plan_and_a_typed_rate_is_held_instead() -> None:
    """What we chose we lower; what the creator typed is theirs, so it is held and says so."""
    long = facts(1080, 1920, 30, seconds=145)
    heavy = SPRIGG.model_copy(update={"placement": SPRIGG.placement.model_copy(update={"max_bytes": 40 * MEGABYTE})})
    ours = make_plan(long, heavy)
    assert ours.picture.target_bps.because.code == "fits_cap"
    assert ours.held == ()
    assert "the limit of 40.0 MB" in ours.picture.target_bps.because.sentence
    assert file_size(ours).worst_bytes <= 40 * MEGABYTE
    typed = make_plan(long, heavy, Choices(video_bitrate_bps=6_000_000))
    assert [stamp.code for stamp in typed.held] == ["over_cap"]


def test_a_cap_of_ones_own_lowers_even_a_typed_rate() -> None:
    plan = capped(20 * MEGABYTE, video_bitrate_bps=8_000_000)
    assert plan.picture.target_bps.value < 8_000_000
    assert "8.0 Mbit/s" in plan.picture.target_bps.because.sentence
    assert not plan.held


def test_a_cap_that_ruins_the_picture_says_so_and_offers_ways_out() -> None:
    master, placement = facts(seconds=120), ORRERY
    choices = Choices(max_bytes=25 * MEGABYTE)
    plan = make_plan(master, placement, choices)
    assert [stamp.code for stamp in plan.stamps] == ["cap_ruins"]
    result = alternatives(master, placement, choices, plan, whole_excerpt(master))
    kinds = [item.kind for item in result]
    assert {"size", "codec", "excerpt"} <= set(kinds)
    current = plan.picture.target_bps.value / plan.guidance.low_bps
    for item in result:
        assert item.size.worst_bytes <= 25 * MEGABYTE
        assert item.share > current
    shorter = result[kinds.index("excerpt")]
    assert shorter.share == pytest.approx(1.0, abs=0.15)
    assert 10 < shorter.seconds < 40


def test_every_way_out_can_be_planned_as_it_is_told() -> None:
    master, choices = facts(seconds=120), Choices(max_bytes=25 * MEGABYTE)
    plan = make_plan(master, ORRERY, choices)

    def again(one: Alternative) -> Plan:
        return make_plan(master, ORRERY, one.choices or choices, one.excerpt)

    for one in alternatives(master, ORRERY, choices, plan, whole_excerpt(master)):
        assert again(one).picture.target_bps.value == one.video_bitrate_bps
        assert file_size(again(one)) == one.size


def test_where_the_cap_does_no_harm_nothing_is_offered() -> None:
    master, choices = facts(seconds=20), Choices(max_bytes=20 * MEGABYTE)
    plan = make_plan(master, ORRERY, choices)
    assert alternatives(master, ORRERY, choices, plan, whole_excerpt(master)) == ()


@pytest.mark.parametrize("cap", [1_000, 20_000, 300_000])
def test_an_absurd_cap_is_held_in_words(cap: int) -> None:
    plan = capped(cap)
    assert [stamp.code for stamp in plan.held] == ["over_cap"]
    assert "even at the lowest rate" in plan.held[0].sentence
    assert "Your limit is" in plan.held[0].sentence


def test_a_codec_of_fixed_size_cannot_be_lowered() -> None:
    assert "over_cap" in [stamp.code for stamp in capped(50 * MEGABYTE, place=HANDOVER, codec="vc3").held]


def test_sound_alone_is_lowered_too_and_what_loses_nothing_is_held() -> None:
    """Three minutes of stereo at 160 kbit/s are 3.6 MB."""
    master = facts(seconds=180, sound=audio())
    plan = make_plan(master, EARSHELF, Choices(max_bytes=2 * MEGABYTE))
    assert plan.audio.bitrate_bps.because.code == "fits_cap"
    assert 32_000 <= plan.audio.bitrate_bps.value <= 88_000
    assert file_size(plan).worst_bytes <= 2 * MEGABYTE
    lossless = make_plan(master, EARSHELF, Choices(max_bytes=2 * MEGABYTE, sound_codec="pcm"))
    assert [stamp.code for stamp in lossless.held] == ["over_cap"]


@given(st.floats(1.001, 3.0))
def test_another_try_aims_just_below_the_cap_with_what_was_learned(over: float) -> None:
    plan = make_plan(facts(seconds=60), ORRERY, Choices(max_bytes=60 * MEGABYTE))
    came_to = round(60 * MEGABYTE * over)
    sound = 2 * MEGABYTE
    again = packed_again(plan, size_bytes=came_to, video_bytes=came_to - sound)
    video, before = again.picture, plan.picture
    factor = video.target_bps.value / before.target_bps.value
    assert 0.97 * 60 * MEGABYTE < (came_to - sound) * factor + sound < 60 * MEGABYTE
    assert video.ceiling_bps.value / before.ceiling_bps.value == pytest.approx(factor, rel=1e-3)
    assert "packed again" in video.target_bps.because.sentence


def test_there_is_no_other_try_where_nothing_can_be_lowered() -> None:
    plan = capped(50 * MEGABYTE, place=HANDOVER, codec="vc3")
    with pytest.raises(OverCap, match="over 50.0 MB"):
        packed_again(plan, size_bytes=60 * MEGABYTE, video_bytes=59 * MEGABYTE)
    tiny = make_plan(facts(), ORRERY, Choices(max_bytes=MEGABYTE))
    with pytest.raises(OverCap):
        packed_again(tiny, size_bytes=2 * MEGABYTE, video_bytes=100_000)


def test_sound_gives_way_before_the_picture_is_ruined() -> None:
    """Step by step down to its floor, and no further than the picture needs."""
    free = make_plan(facts(seconds=60), ORRERY)
    easy = capped(60 * MEGABYTE, master=facts(seconds=60))
    assert easy.sound.bitrate_bps.value == free.sound.bitrate_bps.value, "the picture has what it is asked for"
    tight = capped(6 * MEGABYTE, master=facts(seconds=60))
    assert (tight.sound.bitrate_bps.value, tight.sound.under_cap) == (96_000, True)
    assert tight.sound.bitrate_bps.because.sentence == "240 kbit/s lowered so that the picture keeps more under 6.0 MB"
    stubborn = capped(6 * MEGABYTE, master=facts(seconds=60), sound_bitrate_bps=240_000)
    assert stubborn.sound.bitrate_bps.value == 240_000, "what was typed stands"
    assert tight.picture.target_bps.value > stubborn.picture.target_bps.value + 100_000
    mono = capped(6 * MEGABYTE, master=facts(seconds=60, sound=audio(channels=1)))
    assert mono.sound.bitrate_bps.value == 64_000


def test_two_channels_that_are_the_same_become_one_first() -> None:
    alike = capped(6 * MEGABYTE, master=facts(seconds=60, sound=audio(alike=True)))
    assert (alike.sound.channels.value, alike.sound.bitrate_bps.value) == (1, 64_000)
    assert alike.sound.channels.because.sentence == "both channels carry the same, so one loses nothing"
    assert make_plan(facts(seconds=60, sound=audio(alike=True)), ORRERY).sound.channels.value == 2, (
        "only where a cap asks for it"
    )


def test_a_blank_end_goes_first() -> None:
    master, choices = facts(seconds=60), Choices(max_bytes=3 * MEGABYTE)
    plan = make_plan(master, ORRERY, choices)
    options = alternatives(master, ORRERY, choices, plan, whole_excerpt(master), Excerpt(in_s=0, out_s=50))
    assert (options[0].kind, options[0].words) == ("excerpt", "without the 10.0 s that are blank")
    assert options[0].video_bitrate_bps > plan.picture.target_bps.value
    forecasts = [
        outlook([], None),
        *(outlook([rehearsal(option.video_bitrate_bps / 1e6, 90)], None) for option in options[1:]),
    ]
    assert foretold(options, forecasts)[0].words == options[0].words, "whatever is known of the others"


def test_the_way_that_arrives_best_is_recommended_and_a_shorter_film_is_not_measured_against_it() -> None:
    master, choices = facts(seconds=60), Choices(max_bytes=4_000_000)
    plan = make_plan(master, ORRERY, choices)
    options = alternatives(master, ORRERY, choices, plan, whole_excerpt(master))
    forecasts = [
        outlook([rehearsal(option.video_bitrate_bps / 1e6, 40 + n)], None) for n, option in enumerate(options)
    ]
    result = foretold(options, forecasts)
    assert {option.words for option in result} == {option.words for option in options}
    assert [option.shortens for option in result] == sorted(option.shortens for option in result)
    shrinking = [option for option in result if not option.shortens]
    laptop = [
        next(item for item in option.arrivals if (item.screen, item.line) == (Screen.LAPTOP, ViewerLine.GOOD))
        for option in shrinking
    ]
    assert [item.best for item in laptop] == [True] + [False] * (len(shrinking) - 1)
    assert laptop[0].at.condition == max(item.at.condition for item in laptop)
    assert not any(item.best for option in result if option.shortens for item in option.arrivals)
    assert foretold(options, [outlook([], None)] * len(options))[0].arrivals == (), (
        "where nothing is known nothing is recommended"
    )
    supposed = {"evidence": (Evidence.SHEET,)}
    untried = [
        item.model_copy(update=supposed) if option.words == shrinking[0].words else item
        for option, item in zip(options, forecasts, strict=True)
    ]
    assert {option.words for option in foretold(options, untried) for item in option.arrivals if item.best} == {
        shrinking[1].words
    }
