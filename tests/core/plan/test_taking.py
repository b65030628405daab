"""Whether a file that was planned for one destination suits another."""

from __future__ import annotations

import pytest

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.plan.taking import not_taken
from hardy_parcel.docks.shipped import shipped_destinations

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, facts

ENCODED = Choices(method="encoded")


@pytest.mark.parametrize("place", [one for one in shipped_destinations().values() if one.placement.picture], ids=lambda one: one.id)
def test_every_plan_suits_the_destination_that_it_is_made_for(place) -> None:
    plan = make_plan(facts(), place, ENCODED)
    assert plan.held or not_taken(plan, place) == []


def test_what_does_not_suit_says_why() -> None:
    wide, upright = make_plan(facts(), ORRERY, ENCODED), make_plan(facts(), SPRIGG, ENCODED)
    assert not_taken(wide, FERNPOST) == [] or all("sound" in why or "peak" in why for why in not_taken(wide, FERNPOST))
    assert "its shape is not one that Sprigg takes" in not_taken(wide, SPRIGG)
    assert "its shape is not one that Orrery takes" in not_taken(upright, ORRERY)
    assert not_taken(wide, EARSHELF) == ["Earshelf takes sound only"]
    vp9 = make_plan(facts(), ORRERY, Choices(method="encoded", codec="vp9"))
    assert any("VP9" in why for why in not_taken(vp9, SPRIGG))
    long = make_plan(facts(seconds=700), ORRERY, ENCODED)
    assert any("longer than" in why for why in not_taken(long, SPRIGG))
    fast = make_plan(facts(rate=50), ORRERY, Choices(method="encoded", video_bitrate_bps=80_000_000))
    assert any("peak" in why or "level" in why for why in not_taken(fast, HANDOVER)) == bool(HANDOVER.placement.peak_bps)
