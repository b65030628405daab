"""Encoders that do what they are told, or say that they did not."""

from __future__ import annotations

import os
from dataclasses import replace
from fractions import Fraction

import pytest

from hardy_parcel.core.errors import EncoderTrouble
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import packing_settings, rendition_settings
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.ladder import renditions_for
from hardy_parcel.core.trade.rate_control import Effort
from hardy_parcel.media.encode import encoder

from ..builders import ORRERY, SPRIGG, facts

SETTINGS = packing_settings(make_plan(facts(320, 180), ORRERY), encode_pass=0)


def test_a_misspelt_option_fails() -> None:
    with pytest.raises(EncoderTrouble, match="did not take: keyint_mni"):
        encoder(replace(SETTINGS, options={**SETTINGS.options, "keyint_mni": "5"}))


def test_a_refused_value_is_said_plainly() -> None:
    with pytest.raises(EncoderTrouble, match="refused its settings"):
        encoder(replace(SETTINGS, options={**SETTINGS.options, "level": "99"}))
    with pytest.raises(EncoderTrouble):
        encoder(replace(SETTINGS, width=0))


@pytest.mark.parametrize("effort", list(Effort))
def test_every_effort_opens(effort: Effort) -> None:
    plan = make_plan(facts(320, 180), ORRERY, Choices(effort=effort))
    assert encoder(packing_settings(plan, encode_pass=0)).is_open


def test_the_whole_ladder_opens() -> None:
    for place, size in ((ORRERY, (640, 360)), (SPRIGG, (180, 320))):
        for rendition in renditions_for(place, width=size[0], height=size[1], frame_rate=Fraction(25)):
            assert encoder(rendition_settings(rendition)).is_open
    for rendition in renditions_for(ORRERY, width=2560, height=1440, frame_rate=Fraction(25)):
        assert encoder(rendition_settings(rendition)).is_open


def test_exact_time_base_and_tags() -> None:
    context = encoder(replace(SETTINGS, frame_rate=Fraction(24000, 1001)))
    assert context.time_base == Fraction(1001, 24000)
    assert (int(context.color_primaries), int(context.color_trc), int(context.colorspace), int(context.color_range)) == (1, 1, 1, 1)


def test_no_encoder_takes_the_machine_for_itself(gale_facts) -> None:
    """As root the AV1 library makes threads that nothing else runs beside, and programs started from them inherit it."""
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", codec="av1", effort="quick"))
    opened = encoder(packing_settings(plan, encode_pass=2, quality=30))
    policies = {os.sched_getscheduler(int(thread)) for thread in os.listdir("/proc/self/task")}
    assert opened.is_open
    assert policies == {os.SCHED_OTHER}
