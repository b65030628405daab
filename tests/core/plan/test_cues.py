"""Captions are cut to the excerpt and, where only one may show, laid beside one another with nothing lost."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.master.facts import CaptionTrack, Excerpt
from hardy_parcel.core.plan.choices import Captions, Choices
from hardy_parcel.core.plan.cues import Cue, cut, one_at_a_time
from hardy_parcel.core.plan.naming import captions_beside
from hardy_parcel.core.plan.packing_slip import packing_slip
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, facts

TIMES = st.fractions(0, 30, max_denominator=10)
CUES = st.lists(
    st.builds(
        lambda start, length, text: Cue(start_s=start, end_s=start + length, text=text),
        TIMES, st.fractions(Fraction(1, 10), 5, max_denominator=10), st.sampled_from(["ebb", "flow", "gale", "calm"]),
    ),
    max_size=8,
)


def told_at(cues, time: Fraction) -> list[str]:
    """Every line that shows at a time."""
    return sorted(line for cue in cues if cue.start_s <= time < cue.end_s for line in cue.text.split("\\N"))


@given(CUES, TIMES, st.fractions(Fraction(1, 10), 20, max_denominator=10))
def test_a_cut_shows_at_every_moment_what_the_master_shows_there(cues, in_s: Fraction, length: Fraction) -> None:
    part = Excerpt(in_s=in_s, out_s=in_s + length)
    kept = cut(cues, part)
    for time in {edge for cue in cues for edge in (cue.start_s, cue.end_s)}:
        if part.in_s <= time < part.out_s:
            assert told_at(kept, time - in_s) == told_at(cues, time)
    assert all(0 <= cue.start_s < cue.end_s <= length for cue in kept)


@given(CUES)
def test_one_at_a_time_loses_nothing_and_never_overlaps(cues) -> None:
    laid = one_at_a_time(cues)
    assert all(a.end_s <= b.start_s for a, b in zip(laid, laid[1:], strict=False))
    for time in {edge for cue in cues for edge in (cue.start_s, cue.end_s)}:
        assert told_at(laid, time) == told_at(cues, time)


def spoken(*languages: str, **changes):
    tracks = tuple(CaptionTrack(codec="srt", language=language) for language in languages)
    return facts(file={"captions": tracks}, **changes)


def test_where_they_go_and_why() -> None:
    plan = make_plan(spoken("eng"), ORRERY)
    assert (plan.captions.value, plan.captions.because.source) == (Captions.INSIDE, "sheet")
    assert next(row for row in packing_slip(plan) if row.setting == "Captions").value == "inside"
    assert make_plan(facts(), ORRERY).captions.value is None
    left = make_plan(spoken("eng", coded_width=1080, coded_height=1920, display_width=1080, display_height=1920), SPRIGG)
    assert left.captions.value is Captions.LEFT_OUT
    assert "captions_lost" in {stamp.code for stamp in left.stamps}
    asked = make_plan(spoken("eng"), ORRERY, Choices(captions=Captions.WEBVTT))
    assert asked.captions.because.sentence == "your choice; Orrery shows those inside a file"
    assert make_plan(spoken("eng"), HANDOVER).captions.value is Captions.INSIDE, "as it is"
    sound = make_plan(spoken("eng"), EARSHELF, Choices(captions=Captions.INSIDE))
    assert (sound.captions.value, sound.captions.because.code) == (Captions.SRT, "captions_not_held")


def test_captions_that_are_pictures_are_named_as_lost() -> None:
    drawn = facts(file={"captions": (CaptionTrack(codec="dvdsub", text=False),)})
    plan = make_plan(drawn, ORRERY)
    assert plan.captions.value is None
    assert "picture_captions_lost" in {stamp.code for stamp in plan.stamps}


@pytest.mark.parametrize(
    ("languages", "endings"),
    [(("eng",), ("srt",)), (("eng", "deu"), ("eng.srt", "deu.srt")), (("", "deu"), ("1.srt", "deu.srt")),
     (("eng", "eng"), ("eng 1.srt", "eng 2.srt")), (("../x", "y"), ("x.srt", "y.srt"))],
)
def test_files_beside_have_names_of_their_own(languages, endings) -> None:
    assert captions_beside(make_plan(spoken(*languages), ORRERY, Choices(captions=Captions.SRT))) == endings
    assert captions_beside(make_plan(spoken(*languages), ORRERY)) == ()
