"""Habits of the trade as two ways of one parcel, and what is made of their difference."""

from __future__ import annotations

import pytest

from hardy_parcel.core.parcel.sayings import SAYINGS, Settled, sayings_here, sayings_sentence, summed_up, verdict
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, facts
from .test_lane import row

DOUBLE, TWO_PASSES = SAYINGS["double"][0], SAYINGS["two_passes"][0]


def here(place=ORRERY, master=None, **choices):
    master = master or facts()
    wanted = Choices(**{"method": "encoded", **choices})
    found = sayings_here(master, place, wanted, make_plan(master, place, wanted), whole_excerpt(master))
    return {one.saying.code: one for one in found}


@pytest.mark.parametrize("place", [ORRERY, SPRIGG, FERNPOST, HANDOVER])
def test_every_saying_has_two_plans_that_differ_or_says_why_it_has_none(place) -> None:
    found = here(place)
    assert list(found) == list(SAYINGS)
    for one in found.values():
        assert bool(one.why_not) != bool(one.follows and one.leaves)
        if one.follows and one.leaves:
            plans = [make_plan(facts(), place, choices) for choices in (one.follows, one.leaves)]
            assert plans[0].key() != plans[1].key()
            assert not plans[0].held + plans[1].held


def test_what_the_ways_do() -> None:
    found = here()
    follows = {code: make_plan(facts(), ORRERY, one.follows) for code, one in found.items() if one.follows}
    leaves = {code: make_plan(facts(), ORRERY, one.leaves) for code, one in found.items() if one.leaves}
    assert follows["double"].times_guidance == pytest.approx(2, rel=0.01)
    assert follows["triple"].times_guidance == pytest.approx(3, rel=0.01)
    assert leaves["double"].times_guidance == leaves["triple"].times_guidance == pytest.approx(1, rel=0.01)
    assert follows["shrink"].picture.framing.value.height < leaves["shrink"].picture.framing.value.height
    assert follows["enlarge"].picture.framing.value.height > leaves["enlarge"].picture.framing.value.height
    assert follows["constant"].picture.rate_control.value == "constant"
    assert (follows["two_passes"].picture.rate_control.value, leaves["two_passes"].picture.rate_control.value) == ("two passes", "one pass")
    assert follows["sharpen"].picture.sharpen.value
    assert not leaves["sharpen"].picture.sharpen.value
    assert (follows["newer"].picture.codec.value, leaves["newer"].picture.codec.value) == ("av1", "h264")


def test_what_says_nothing_here_says_why() -> None:
    assert here(HANDOVER)["same_codec"].why_not == "nothing is re-encoded there"
    assert "shape" in here(SPRIGG)["as_it_is"].why_not
    assert here(master=facts(8, 4))["shrink"].why_not
    sound = sayings_here(facts(), EARSHELF, Choices(), make_plan(facts(), EARSHELF), whole_excerpt(facts()))
    assert sound == ()


def test_a_parcel_that_goes_as_it_is_is_tried_as_if_it_were_encoded() -> None:
    assert here(method="untouched")["double"].follows is not None


@pytest.mark.parametrize(("follows", "leaves", "outcome", "words"), [
    (88, 80, Settled.HELPS, "It arrives better by 8 points on a phone, 8 on a laptop and 8 on a TV (±3)"),
    (70, 80, Settled.HARMS, "It arrives worse by 10 points on a phone, 10 on a laptop and 10 on a TV (±3)"),
    (81, 80, Settled.NO_DIFFERENCE, "No difference that can be told (phone +1, laptop +1, TV +1, each ±2)"),
])
def test_the_verdict_is_the_difference_outside_its_band(follows, leaves, outcome, words) -> None:
    found = verdict(DOUBLE, row(follows, video_bitrate_bps=18_200_000), row(leaves))
    assert found.outcome is outcome
    assert words in found.sentence
    assert found.size_bytes > 0
    assert found.sentence.endswith("larger.")


def test_what_is_only_supposed_is_no_verdict_and_passes_have_to_be_rehearsed() -> None:
    assert verdict(DOUBLE, row(None), row(80)).outcome is Settled.NOT_TRIED
    assert "tried" in verdict(DOUBLE, row(None), row(80)).sentence
    assert verdict(TWO_PASSES, row(81), row(80, rate_control="one pass")).outcome is not Settled.NOT_TRIED
    assert "rehearsed" in verdict(TWO_PASSES, row(None), row(80)).sentence


def test_verdicts_of_several_films_are_summed_up() -> None:
    assert summed_up([]) == ""
    assert summed_up([Settled.NOT_TRIED]) == ""
    assert summed_up([Settled.NO_DIFFERENCE, Settled.NOT_TRIED]) == "", "one film is no sum"
    assert summed_up([Settled.NO_DIFFERENCE] * 2) == "no difference on any of 2 films"
    assert summed_up([Settled.HELPS, Settled.HELPS, Settled.HARMS, Settled.NO_DIFFERENCE]) == "helped on 2, harmed on 1 of 4 films"


def test_the_sentence_on_top_names_what_helps_and_what_harms() -> None:
    every = list(here().values())
    helps = verdict(DOUBLE, row(88), row(80))
    harms = verdict(SAYINGS["shrink"][0], row(70), row(80))
    none = verdict(SAYINGS["slow"][0], row(80, effort="careful"), row(80))
    assert sayings_sentence(every, []).startswith("Everybody has heard these.")
    assert sayings_sentence(every, [helps, harms, none]) == (
        "On this film “Send twice what they ask for” helps; “Shrink it yourself before you send it” harms; "
        "1 of 3 that were tried makes no difference that can be told."
    )
