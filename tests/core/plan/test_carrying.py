"""Arithmetic of carrying."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from hardy_parcel.core.plan.carrying import (
    Line,
    carriage,
    encode_time,
    file_size,
    speed_from_benchmark,
    speed_from_history,
)
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
    assert file_size(plan()).worst_bytes > file_size(plan(rate_control=RateControl.TWO_PASSES)).worst_bytes


def test_a_silent_plan_carries_no_sound_bits() -> None:
    mute = make_plan(facts(seconds=20, sound=None), ORRERY, Choices(video_bitrate_bps=8_000_000))
    assert file_size(plan()).expected_bytes - file_size(mute).expected_bytes == pytest.approx(600_000, rel=0.01)


def test_upload_time_and_cost() -> None:
    result = carriage(93_000_000, Line(uplink_mbps=8, steadiness=0.5, price_per_gb=2, currency="£", allowance_gb=0.93))
    assert result.upload_s == pytest.approx(100)
    assert result.upload_slow_s == pytest.approx(200)
    assert result.price == pytest.approx(0.186)
    assert result.allowance_share == pytest.approx(0.1)


def test_what_is_not_known_of_the_line_is_not_made_up() -> None:
    result = carriage(1_000_000, Line())
    assert (result.price, result.allowance_share) == (None, None)


@pytest.mark.parametrize(
    "wrong",
    [
        {"uplink_mbps": 0},
        {"uplink_mbps": -1},
        {"uplink_mbps": 1e-320},
        {"steadiness": 1.2},
        {"steadiness": 1e-320},
        {"allowance_gb": 0},
        {"allowance_gb": 1e-320},
        {"upload_minutes": 0},
    ],
)
def test_an_impossible_line_is_refused(wrong) -> None:
    """A line so slow that its times have no end is none either."""
    with pytest.raises(ValidationError):
        Line(**wrong)


def test_encode_time_says_its_evidence() -> None:
    measured, guessed = encode_time(plan(), speed_from_history([10], "rehearsed")), encode_time(plan(), None)
    assert (measured.seconds, measured.evidence) == (50, "rehearsed")
    assert guessed.evidence == "sheet"
    assert guessed.band > measured.band
    quick = encode_time(plan(effort=Effort.QUICK), None)
    careful = encode_time(plan(effort=Effort.CAREFUL), None)
    two = encode_time(plan(rate_control=RateControl.TWO_PASSES), None)
    assert quick.seconds < guessed.seconds < careful.seconds
    assert guessed.seconds < two.seconds


def test_a_history_that_scatters_says_so() -> None:
    steady, loose = speed_from_history([9, 10, 10.5]), speed_from_history([7, 10, 14])
    assert (steady.pictures_per_s, steady.band, steady.evidence) == (10, 0.2, "earlier jobs")
    assert loose.band == pytest.approx(0.43)
    assert encode_time(plan(), loose).band == loose.band
    assert speed_from_history([1, 100]).band == encode_time(plan(), None).band, "never less sure than without any"
    assert speed_from_history([]) is None


def test_the_machines_benchmark_stands_between_a_prior_and_its_history() -> None:
    pixels = 1920 * 1080
    item = speed_from_benchmark(plan(), {"h264": 8 * pixels})
    assert (item.pictures_per_s, item.evidence) == (pytest.approx(8), "benchmark")
    two = speed_from_benchmark(plan(rate_control=RateControl.TWO_PASSES), {"h264": 8 * pixels})
    quick = speed_from_benchmark(plan(effort=Effort.QUICK), {"h264": 8 * pixels})
    assert two.pictures_per_s < item.pictures_per_s < quick.pictures_per_s
    assert speed_from_history([8]).band < item.band < encode_time(plan(), None).band
    assert speed_from_benchmark(plan(codec="hevc"), {"h264": 8 * pixels}) is None
    assert speed_from_benchmark(make_plan(facts(), ORRERY, Choices(method="untouched")), {"h264": 8 * pixels}) is None


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
        created = plan(codec=codec, container=container, sound=False)
        assert file_size(created).expected_bytes > 8_000_000 * 20 / 8


def test_a_ceiling_that_is_the_target_may_be_passed_by_one_buffer() -> None:
    quality = plan(rate_control=RateControl.QUALITY)
    assert file_size(quality).worst_bytes - file_size(quality).expected_bytes == pytest.approx(
        2 * 8_000_000 / 8 + 400_000, rel=0.02
    )


def test_what_is_sent_as_it_is_has_the_masters_size_and_takes_a_copys_time() -> None:
    untouched = make_plan(facts(), ORRERY, Choices(method="untouched"))
    assert file_size(untouched).worst_bytes == facts().size_bytes
    assert encode_time(untouched, speed_from_history([5.0])).seconds < 3


def test_codecs_cost_different_times_until_measured() -> None:
    def seconds(place=ORRERY, **choices) -> float:
        return encode_time(make_plan(facts(), place, Choices(**choices)), None).seconds

    assert seconds(codec="hevc") > seconds()
    assert seconds(HANDOVER, codec="vc3") < seconds()
    assert seconds(effort="quick") < seconds() < seconds(effort="careful")
    assert seconds(EARSHELF) < 5
