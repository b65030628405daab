"""Arithmetic of carrying."""

from __future__ import annotations

import pytest
from pydantic import ValidationError

from hardy_parcel.core.carrying import Line, carriage, encode_time, file_size
from hardy_parcel.core.plan import Choices, Effort, RateControl
from hardy_parcel.core.planning import make_plan

from ..builders import ORRERY, SPRIGG, facts


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


@pytest.mark.parametrize("wrong", [{"uplink_mbps": 0}, {"uplink_mbps": -1}, {"steadiness": 1.2}, {"allowance_gb": 0}])
def test_an_impossible_line_is_refused(wrong) -> None:
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
