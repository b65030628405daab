"""The stages of packing, as they are told and weighed."""

from __future__ import annotations

import pytest

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.plan.stages import PICTURES_A_TRIAL, TRIAL_PICTURES, judging_weight, stages, trial_places

from ...builders import HANDOVER, ORRERY, facts


@pytest.mark.parametrize(("place", "choices", "words"), [
    (ORRERY, {"method": "encoded", "rate_control": "two passes"},
     ["pass 1 of 2", "pass 2 of 2", "reading the file back", "judging the packed picture"]),
    (ORRERY, {"method": "encoded"}, ["packing", "reading the file back", "judging the packed picture"]),
    (ORRERY, {"method": "untouched"}, ["copying", "reading the file back"]),
    (ORRERY, {"method": "re-wrapped"}, ["packing", "reading the file back"]),
    (HANDOVER, {"method": "encoded", "codec": "vc3"}, ["packing", "reading the file back", "judging the packed picture"]),
])
def test_every_stage_is_named(place, choices: dict, words: list[str]) -> None:
    found = stages(make_plan(facts(), place, Choices(**choices)))
    assert [one.words for one in found] == words
    assert all(one.weight > 0 and one.drawn > 0 for one in found)


def test_a_search_for_a_quality_weighs_less_the_longer_the_film_is() -> None:
    short, long = (stages(make_plan(facts(seconds=s), ORRERY, Choices(method="encoded", codec="av1"))) for s in (5, 3600))
    assert short[0].weight > 3 > 1 > long[0].weight > 0
    assert not short[1].alike, "what is hard for a few groups says nothing of the whole"
    h264 = stages(make_plan(facts(), ORRERY, Choices(method="encoded", rate_control="two passes")))
    assert h264[1].alike


def test_little_of_a_film_is_tried_and_a_first_pass_tells_nothing_without() -> None:
    for frames in (10, PICTURES_A_TRIAL - 1, PICTURES_A_TRIAL, 7_000, 12_000, 10**6):
        assert trial_places(frames) * TRIAL_PICTURES <= 0.02 * frames
    assert [trial_places(frames) for frames in (PICTURES_A_TRIAL - 1, PICTURES_A_TRIAL, 10**6)] == [0, 1, 3]
    plan = make_plan(facts(), ORRERY, Choices(method="encoded", rate_control="two passes"))
    assert [one.tried for one in stages(plan)] == [True, False, False, False], "of a first pass nothing is told that was not tried"


def test_judging_weighs_less_the_longer_the_film_is() -> None:
    short, long = (stages(make_plan(facts(seconds=s), ORRERY, Choices(method="encoded")))[-1] for s in (5, 3600))
    assert short.drawn > 20 * long.drawn
    assert 0 < short.aside_s < long.aside_s < 15


def test_reading_back_takes_longer_the_more_and_the_larger_pictures_are_and_the_longer_the_sound() -> None:
    def read_s(seconds: int, **choices) -> float:
        return stages(make_plan(facts(seconds=seconds), ORRERY, Choices(method="encoded", **choices)))[-2].aside_s

    assert read_s(60) == pytest.approx(6 * read_s(10), rel=0.02)
    assert read_s(60, short_side_px=360) < 0.4 * read_s(60)
    assert stages(make_plan(facts(seconds=60), ORRERY, Choices(method="re-wrapped")))[-1].aside_s == 0


def test_what_is_judged_is_found_by_reading_a_part_of_the_file_at_most_all_of_it() -> None:
    short, long = (judging_weight(make_plan(facts(seconds=s), ORRERY, Choices(method="encoded"))) for s in (2, 3600))
    assert short == 1.0
    assert 0 < long < 0.02
