"""How long tests are expected to take."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.probing_time import ProbePart, lacking, probing_seconds
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import HANDOVER, ORRERY, facts


def way(place=ORRERY, **choices) -> Journey:
    return Journey(make_plan(facts(), place, Choices(method="encoded", **choices)), place)


def test_quick_tests_take_a_third_and_other_codecs_longer() -> None:
    every = set(ProbePart)
    assert 0.2 < probing_seconds(way().quickly, every) / probing_seconds(way(), every) < 0.4
    assert probing_seconds(way(codec="hevc"), every) > probing_seconds(way(), every)
    assert probing_seconds(way(), {ProbePart.EFFORT}) < probing_seconds(way(), every) / 3
    assert probing_seconds(way(), ()) == 0


@pytest.mark.parametrize(("place", "parts"), [(ORRERY, set(ProbePart)), (HANDOVER, set(ProbePart) - {ProbePart.HANDLING})])
def test_only_what_is_not_known_is_lacking(place, parts) -> None:
    nothing = {"scaled": None, "upload": None, "effort": None, "handling": None}
    assert lacking(way(place), **nothing) == parts
    assert lacking(way(place), **(nothing | {"scaled": 1, "upload": 1})) == parts - {ProbePart.CLIPS, ProbePart.UPLOADS}
