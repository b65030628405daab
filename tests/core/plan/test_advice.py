"""The plans of the made-up masters as they were last read critically: a change of advice shows in docs/plans.md."""

from __future__ import annotations

import pytest
from benchmarks.plans import PAGE, masters, page

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.packing_slip import packing_slip
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.catalogue import shipped_destinations

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
    scope = make_plan(facts(1920, 804), ORRERY).picture.framing.value
    assert abs(scope.width / scope.height - 21 / 9) < 0.01, "not 16:9, which would give a quarter of the frame away"
    upright = make_plan(facts(1080, 1920), ORRERY).picture.framing.value
    assert (upright.width, upright.height) == (1920, 1080)


def test_a_delivery_gets_the_sound_that_is_asked_for_first() -> None:
    plan = make_plan(facts(), HANDOVER, Choices(method="encoded"))
    assert (plan.sound.codec.value, plan.container.value) == ("pcm", "mov")
    assert make_plan(facts(), HANDOVER, Choices(method="encoded", container="mp4")).sound.codec.value == "aac"
    assert make_plan(facts(), ORRERY).container.value == "mp4"
