"""The plans of the made-up masters as they were last read critically: a change of advice shows in docs/plans.md."""

from __future__ import annotations

from fractions import Fraction

import pytest
from benchmarks.plans import PAGE, masters, page

from hardy_parcel.core.master.facts import ColourTags
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.packing_slip import packing_slip
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.shipped import shipped_destinations

from ...builders import HANDOVER, ORRERY, facts

PLANS = [make_plan(facts, place) for facts in masters() for place in shipped_destinations().values()]


def test_the_page_of_plans_is_what_would_be_planned_now() -> None:
    assert page(masters()) == PAGE.read_text(), "advice changed: run make plans and read what it does"


@pytest.mark.parametrize("plan", PLANS, ids=lambda plan: f"{plan.master_content_id}-{plan.destination_id}")
def test_nothing_of_our_own_is_called_the_creators(plan: Plan) -> None:
    for row in packing_slip(plan):
        assert "your choice" not in row.because
        parts = row.because.split("; ")
        assert len(parts) == len(set(parts)), "a reason is told once"
    assert not plan.held


def test_a_shape_a_little_beside_what_is_taken_gets_slim_bars() -> None:
    scope = make_plan(facts(2520, 1054), ORRERY).picture.framing.value
    assert abs(scope.width / scope.height - 21 / 9) < 0.01, "not 16:9, which would give a quarter of the frame away"
    assert scope.picture.width == 2520
    upright = make_plan(facts(1080, 1920), ORRERY).picture.framing.value
    assert (upright.width, upright.height) == (1920, 1080)


def test_a_picture_is_not_made_smaller_for_slimmer_bars() -> None:
    """At 7:3 it would come down to the rung of 720 lines; between its bars at 16:9 it stays as it is and is served as 1080."""
    scope = make_plan(facts(1920, 804), ORRERY).picture
    assert (scope.framing.value.width, scope.framing.value.height) == (1920, 1080)
    assert (scope.framing.value.picture.width, scope.framing.value.picture.height) == (1920, 804)
    asked = make_plan(facts(1920, 804), ORRERY, Choices(shape=Fraction(7, 3), framing="fit")).picture.framing.value
    assert (asked.width, asked.height) == (1680, 720), "a creator may ask for it"


def test_hevc_that_not_every_player_finds_is_described_anew_for_those_who_play_the_file() -> None:
    def seen(entry: str, place=HANDOVER):
        master = facts(codec="hevc", profile="Main", level="4.1", sample_entry=entry)
        return make_plan(master, place)

    assert seen("hvc1").method.value == "untouched"
    hidden = seen("hev1")
    assert (hidden.method.value, hidden.container.value, hidden.picture.sample_entry.value) == ("re-wrapped", "mp4", "hvc1")
    assert "hev1" in hidden.method.because.sentence


@pytest.mark.parametrize(
    ("pixels", "chroma", "told"), [("yuv444p", "4:4:4", True), ("yuv422p", "4:2:2", True), ("yuv420p", "4:2:0", False)],
)
def test_colour_that_loses_samples_is_told(pixels: str, chroma: str, told: bool) -> None:
    plan = make_plan(facts(pixel_format=pixels, chroma=chroma), ORRERY)
    row = next((row for row in packing_slip(plan, None) if row.setting == "Samples"), None)
    assert (row is not None) is told
    assert row is None or "fine coloured lines" in row.because


def test_tags_that_are_missing_are_not_called_the_masters() -> None:
    def said(**tags) -> str:
        return make_plan(facts(colour=ColourTags(**tags)), ORRERY).picture.colour.because.sentence

    assert said(primaries="bt709", transfer="bt709", matrix="bt709", range="tv") == "as the master's tags"
    assert said(matrix="bt709", range="tv") == "as the master's tags; primaries and curve not stated, taken as BT.709"


def test_a_delivery_gets_the_sound_that_is_asked_for_first() -> None:
    plan = make_plan(facts(), HANDOVER, Choices(method="encoded"))
    assert (plan.sound.codec.value, plan.container.value) == ("pcm", "mov")
    assert make_plan(facts(), HANDOVER, Choices(method="encoded", container="mp4")).sound.codec.value == "aac"
    assert make_plan(facts(), ORRERY).container.value == "mp4"
