"""What encoders are told."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest

from hardy_parcel.core.errors import EncoderTrouble
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import PRESETS, effort_words, packing_settings, rendition_settings
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.ladder import renditions_for
from hardy_parcel.core.trade.rate_control import Effort, RateControl

from ...builders import ORRERY, facts

TWO = Choices(rate_control=RateControl.TWO_PASSES)


def test_an_unknown_packed_key_is_refused() -> None:
    settings = packing_settings(make_plan(facts(), ORRERY, TWO), encode_pass=1, stats_path="x")
    with pytest.raises(EncoderTrouble, match="keyimt"):
        replace(settings, params={**settings.params, "keyimt": "50"}).all_options()


def test_two_passes_need_a_plan_of_two_passes_and_a_place() -> None:
    one = make_plan(facts(), ORRERY, Choices(rate_control=RateControl.ONE_PASS))
    with pytest.raises(EncoderTrouble):
        packing_settings(one, encode_pass=1, stats_path="x")
    with pytest.raises(EncoderTrouble):
        packing_settings(make_plan(facts(), ORRERY, TWO), encode_pass=2)
    assert "pass" not in packing_settings(one, encode_pass=0).params


def test_efforts_differ() -> None:
    presets = {
        packing_settings(make_plan(facts(), ORRERY, TWO.model_copy(update={"effort": e})), encode_pass=1, stats_path="x").options["preset"]
        for e in Effort
    }
    assert len(presets) == len(Effort)


def test_the_ladder_is_a_quality_under_a_ceiling() -> None:
    low = rendition_settings(renditions_for(ORRERY, width=1920, height=1080, frame_rate=Fraction(25))[0])
    high = rendition_settings(renditions_for(ORRERY, width=2560, height=1440, frame_rate=Fraction(25))[0])
    assert (low.library, low.options["crf"], low.options["maxrate"], low.options["bufsize"]) == (
        "libx264", "25", "3200000", "6400000",
    )
    assert (high.library, high.options["crf"], high.options["maxrate"]) == ("libvpx-vp9", "34", "6500000")


def test_an_effort_says_what_it_is_on_its_encoders_own_scale() -> None:
    assert [effort_words("hevc", effort) for effort in Effort] == ["preset superfast", "preset fast", "preset medium"]
    assert effort_words("av1", Effort.CAREFUL) == "preset 6 of 0 to 13"
    for codec in PRESETS:
        assert len({effort_words(codec, effort) for effort in Effort}) == len(Effort), "no two efforts of an encoder are the same"
    assert effort_words("vc3", Effort.QUICK) == "quick", "it has no scale"
