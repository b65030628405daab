"""Arithmetic of carrying."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from hardy_parcel.core.plan.carrying import Line, carriage, encode_time, file_size
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import Effort, RateControl

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, facts


def plan(**choices):
    return make_plan(facts(seconds=20), ORRERY, Choices(video_bitrate_bps=8_000_000, **choices))


def test_size_is_picture_sound_and_container() -> None:
    size = file_size(plan())
    streams = (8_000_000 + 240_000) * 20 / 8
    assert streams < size.expected_bytes < streams * 1.002
    assert size.worst_bytes > size.expected_bytes * 1.03


def test_an_undershoot_is_forecast_and_the_worst_case_is_not_lowered() -> None:
    shy = file_size(plan(), achieved_share=0.5)
    assert shy.expected_bytes == pytest.approx(file_size(plan()).expected_bytes - 10_000_000, abs=2)
    assert shy.worst_bytes == file_size(plan()).worst_bytes


def test_one_pass_has_the_wider_worst_case() -> None:
    assert file_size(plan(rate_control=RateControl.ONE_PASS)).worst_bytes > file_size(plan()).worst_bytes


def test_a_silent_plan_carries_no_sound_bits() -> None:
    mute = make_plan(facts(seconds=20, sound=None), ORRERY, Choices(video_bitrate_bps=8_000_000))
    assert file_size(plan()).expected_bytes - file_size(mute).expected_bytes == pytest.approx(600_000, rel=0.01)


def test_upload_time_and_cost() -> None:
    found = carriage(93_000_000, Line(uplink_mbps=8, steadiness=0.5, price_per_gb=2, currency="£", allowance_gb=0.93))
    assert found.upload_s == pytest.approx(100)
    assert found.upload_slow_s == pytest.approx(200)
    assert found.price == pytest.approx(0.186)
    assert found.allowance_share == pytest.approx(0.1)


def test_what_is_not_known_of_the_line_is_not_made_up() -> None:
    found = carriage(1_000_000, Line())
    assert (found.price, found.allowance_share) == (None, None)


@pytest.mark.parametrize("wrong", [
    {"uplink_mbps": 0}, {"uplink_mbps": -1}, {"uplink_mbps": 1e-320}, {"steadiness": 1.2}, {"steadiness": 1e-320}, {"allowance_gb": 0},
    {"allowance_gb": 1e-320}, {"upload_minutes": 0},
])
def test_an_impossible_line_is_refused(wrong) -> None:
    """A line so slow that its times have no end is none either."""
    with pytest.raises(ValidationError):
        Line(**wrong)


def test_encode_time_says_its_evidence() -> None:
    measured, guessed = encode_time(plan(), measured_fps=10), encode_time(plan(), measured_fps=None)
    assert (measured.seconds, measured.evidence) == (50, "rehearsed")
    assert guessed.evidence == "sheet"
    assert guessed.band > measured.band
    quick = encode_time(plan(effort=Effort.QUICK), measured_fps=None)
    careful = encode_time(plan(effort=Effort.CAREFUL), measured_fps=None)
    one = encode_time(plan(rate_control=RateControl.ONE_PASS), measured_fps=None)
    assert quick.seconds < guessed.seconds < careful.seconds
    assert one.seconds < guessed.seconds


def test_a_cap_is_judged_by_the_worst_case() -> None:
    near = make_plan(facts(1080, 1920, 30, seconds=120), SPRIGG, Choices(video_bitrate_bps=24_500_000))
    size = file_size(near)
    assert size.expected_bytes < SPRIGG.placement.max_bytes < size.worst_bytes
    assert "over_cap" in [stamp.code for stamp in near.held]


def test_every_container_adds_something_and_sound_is_reckoned_by_its_codec() -> None:
    def alone(codec: str):
        return file_size(make_plan(facts(seconds=20), EARSHELF, Choices(sound_codec=codec)))

    assert alone("aac").expected_bytes == pytest.approx(160_000 * 20 / 8, rel=0.03)
    assert alone("pcm").expected_bytes == pytest.approx(24 * 48_000 * 2 * 20 / 8, rel=0.001)
    assert alone("flac").expected_bytes < alone("flac").worst_bytes <= 16 * 48_000 * 2 * 20 / 8 * 1.03
    for codec, container in (("vp9", "mkv"), ("h264", "mov"), ("av1", "webm")):
        made = plan(codec=codec, container=container, sound=False)
        assert file_size(made).expected_bytes > 8_000_000 * 20 / 8


def test_a_ceiling_that_is_the_target_may_be_passed_by_one_buffer() -> None:
    quality = plan(rate_control=RateControl.QUALITY)
    assert file_size(quality).worst_bytes - file_size(quality).expected_bytes == pytest.approx(2 * 8_000_000 / 8 + 400_000, rel=0.02)


def test_what_is_sent_as_it_is_has_the_masters_size_and_takes_a_copys_time() -> None:
    untouched = make_plan(facts(), ORRERY, Choices(method="untouched"))
    assert file_size(untouched).worst_bytes == facts().size_bytes
    assert encode_time(untouched, measured_fps=5.0).seconds < 3


def test_codecs_cost_different_times_until_measured() -> None:
    def seconds(place=ORRERY, **choices) -> float:
        return encode_time(make_plan(facts(), place, Choices(**choices)), measured_fps=None).seconds

    assert seconds(codec="hevc") > seconds()
    assert seconds(HANDOVER, codec="vc3") < seconds()
    assert seconds(effort="quick") < seconds() < seconds(effort="careful")
    assert seconds(EARSHELF) < 5
