"""How siblings differ, what the lanes say together, and the one table of choices."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.master.facts import Excerpt, Focus
from hardy_parcel.core.parcel.lanes import lanes_sentence, lanes_sentences
from hardy_parcel.core.parcel.parcel import difference
from hardy_parcel.core.parcel.recipes import Intent
from hardy_parcel.core.parcel.summary import at_rate, summarize
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choice_table import TABLE, InRecipe, released, says
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import ORRERY, SPRIGG, as_lane, facts, parcel, rehearsal

FILM = facts(seconds=60)


def sibling(**choices) -> str:
    """What sets a parcel with these choices apart from one without any."""
    excerpt = choices.pop("excerpt", None)
    one, other = parcel(choices=Choices(**choices), excerpt=excerpt), parcel()
    return difference(one, make_plan(FILM, ORRERY, one.choices, excerpt), other, make_plan(FILM, ORRERY))


@pytest.mark.parametrize(
    ("choices", "said"),
    [
        ({}, ""), ({"codec": "hevc"}, "HEVC"), ({"excerpt": Excerpt(in_s=12, out_s=40)}, "0:12 to 0:40"),
        ({"video_bitrate_bps": 18_200_000}, "2 × guidance"), ({"video_bitrate_bps": 8_000_000}, "within guidance"),
        ({"framing": "fill", "shape": "4:3"}, "fill, cropped, 4:3"), ({"sound": False}, "without sound"),
        ({"focus": Focus(x=0.25, y=0.5)}, "focus at 25%, 50%"), ({"max_bytes": 25_000_000}, "under 25.0 MB"),
        ({"effort": "careful", "keyframe_interval_s": 1.0}, "careful effort, keyframes every 1 s"),
        ({"method": "untouched"}, "as it is"), ({"gain_db": -3.0}, "−3.0 dB"), ({"sharpen": True}, "sharpened"),
    ],
)
def test_a_phrase_says_what_sets_a_sibling_apart(choices: dict, said: str) -> None:
    assert sibling(**choices) == said


def test_the_other_way_round_it_says_what_is_left_to_the_plan() -> None:
    plain, own = parcel(), parcel(choices=Choices(codec="hevc", effort="quick"))
    plans = make_plan(FILM, ORRERY), make_plan(FILM, ORRERY, own.choices)
    assert difference(plain, plans[0], own, plans[1]) == "H.264, effort left to the plan"
    other = parcel(SPRIGG)
    assert difference(other, make_plan(FILM, SPRIGG), plain, plans[0]).startswith("Sprigg · upright short")


def test_every_choice_is_in_the_table_and_every_row_is_a_choice() -> None:
    assert set(TABLE) == set(Choices.model_fields)
    adapts = {name for name, choice in TABLE.items() if choice.recipe is InRecipe.ADAPTS}
    same = {name for name, choice in TABLE.items() if choice.recipe is InRecipe.SAME}
    assert same <= set(Intent.model_fields)
    assert set(Intent.model_fields) - same == {
        "short_side_px", "enlarges", "halves_rate", "frame_rate", "times_guidance", "ceiling_times",
    }
    assert adapts == {"short_side_px", "frame_rate", "video_bitrate_bps", "ceiling_bps"}
    for name, choice in TABLE.items():
        assert choice.setting, name
        assert set(choice.releases) <= set(TABLE), name
        assert name not in choice.releases
        if choice.typed_as:
            assert choice.times >= 0


def test_a_change_releases_what_was_chosen_for_what_is_no_more() -> None:
    gone = released({"codec": "vp9", "container": "webm"})
    assert set(gone) == {"sound_codec", "rate_control", "quality", "video_bitrate_bps", "ceiling_bps"}
    assert released({"gain_db": 1.0}) == released({}) == {}
    assert says("codec", None) == "left to the plan"
    assert says("codec", "hevc") == "HEVC"


def lane(name: str, condition: float | None, *, packed: float = 97.0, destination=ORRERY):
    plan = make_plan(FILM, destination)
    own = plan.model_copy(update={"destination_name": name})
    rehearsals = [] if condition is None else [rehearsal(mbps, condition, packed=packed) for mbps in (3, 30)]
    place = destination.model_copy(update={"sheet_name": name})
    return summarize(
        parcel=parcel(destination), facts=FILM, destination=place, plan=own, line=Line(),
        rehearsals=rehearsals, known=outlook(rehearsals, None),
        speed=None,
    )


def said(*summaries) -> str:
    return lanes_sentence([as_lane(one) for one in summaries], Screen.LAPTOP, ViewerLine.GOOD)


def test_the_lanes_say_what_a_friend_would() -> None:
    assert said() == ""
    assert said(lane("Orrery", None)).startswith("The plan is ready.")
    assert said(lane("Orrery", None), lane("Tern", None)).startswith("All 2 plans are ready.")
    assert said(lane("Orrery", 82)) == "On Orrery it arrives at 82, perceptible, not annoying."
    assert "It arrives alike everywhere, 79 to 82." in said(lane("Orrery", 82), lane("Tern", 79))
    better = said(lane("Orrery", 92), lane("Tern", 61))
    assert better == "Tern shows it 31 points worse than Orrery, most of it lost in the platform’s own re-encoding."
    assert said(lane("Orrery", 92), lane("Tern", 61, packed=62)).endswith("in our packing.")
    assert said(lane("Orrery", 92), lane("Tern", None)).endswith("1 lane is not tested yet.")
    assert len(lanes_sentences([as_lane(lane("Orrery", 92))])) == 6


def test_a_tried_rate_has_the_figures_that_keeping_it_would_have() -> None:
    choices = Choices(video_bitrate_bps=6_000_000)
    plan, known = make_plan(FILM, ORRERY, choices), [rehearsal(3, 60), rehearsal(12, 80)]
    tried = at_rate(plan, line=Line(), known=outlook(known, None), rehearsals=known, speed=None, assumed=None)
    kept = summarize(
        parcel=parcel(choices=choices), facts=FILM, destination=ORRERY, plan=plan, line=Line(),
        rehearsals=known, known=outlook(known, None),
        speed=None,
    )
    assert (tried.figures, tried.guidance_words, tried.bitrate_bps) == (kept.figures, kept.guidance_words, 6_000_000)
    assert [one.at for one in tried.arrivals] == [seen.at for seen in kept.seen]
