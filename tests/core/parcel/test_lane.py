"""A row among the others, and what sets two of them apart."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.bands import difference_words
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.parcel.lane import Lane, apart, pair_sentences, shape_words
from hardy_parcel.core.parcel.summary import summarize
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, ORRERY, SPRIGG, as_lane, facts, rehearsal
from ...builders import parcel as kept

SEEN = Screen.LAPTOP, ViewerLine.GOOD


def row(condition: float | None = 80, *, place=ORRERY, name: str = "", of: str | None = None, difference: str = "", **choices) -> Lane:
    wanted = Choices(**choices)
    rehearsals = [] if condition is None else [rehearsal(mbps, condition) for mbps in (0.5, 60)]
    return as_lane(summarize(
        parcel=kept(place, id=f"{condition}{name}", name=name, sibling_of=of, choices=wanted), facts=facts(), destination=place,
        plan=make_plan(facts(), place, wanted), line=Line(), rehearsals=rehearsals, known=outlook(rehearsals, None), speed=None,
        difference=difference,
    ))


def on(found):
    return next(one for one in found.seen if (one.screen, one.line) == SEEN)


def sentence(one: Lane, other: Lane) -> str:
    return next(told.sentence for told in pair_sentences(one, other) if (told.screen, told.line) == SEEN)


def test_two_lanes_are_told_in_one_sentence_that_claims_nothing_inside_the_band() -> None:
    first = row(80)
    better = sentence(row(88, name="HEVC", codec="hevc"), first)
    assert better.startswith("On a laptop Orrery wide film, HEVC arrives 8 points better than Orrery wide film, give or take 3; it is ")
    assert "smaller" in better
    assert "less than anyone notices" not in better
    worse = sentence(row(76, name="slower"), first)
    assert "4 points worse than Orrery wide film, give or take 2, less than anyone notices; it is" in worse
    assert sentence(row(81, name="other"), first).startswith("On a laptop no difference can be told between Orrery wide film, other and")
    assert sentence(row(None, name="other"), first).startswith("Which of the two arrives better on a laptop is not known before both")


def test_a_difference_inside_its_band_is_not_told() -> None:
    near, far = apart(row(81), row(80)), apart(row(88), row(80))
    assert (on(near).told, on(near).words) == (False, "no difference that can be told")
    assert 1 < on(near).band < on(far).band < 4
    assert (on(far).told, on(far).points, on(far).words) == (True, 8, "8 points better")
    assert on(apart(row(76), row(80))).words == "4 points worse, less than anyone notices"


@pytest.mark.parametrize("points", [-90.0, -6.0, -3.0, 0.0, 2.9, 3.1, 40.0])
def test_words_claim_nothing_inside_a_band(points: float) -> None:
    assert ("better" in difference_words(points, 3)) == (points > 3)
    assert ("worse" in difference_words(points, 3)) == (points < -3)


def test_sizes_and_times_are_told_against_the_other() -> None:
    found = apart(row(video_bitrate_bps=2_000_000), row(video_bitrate_bps=8_000_000))
    assert found.size_bytes < 0
    assert found.size_words.endswith("smaller")
    assert found.upload_s < 0
    assert apart(row(effort="careful"), row()).size_words == "as large"
    assert apart(row(None, effort="careful"), row(None)).time_words.endswith("longer to pack")


def test_what_is_not_known_is_not_compared() -> None:
    assert apart(row(None), row(80)).seen == ()


def test_a_row_knows_its_shape_and_what_is_kept_of_the_picture() -> None:
    wide, upright, sound = row(), row(place=SPRIGG), row(None, place=EARSHELF)
    assert (wide.shape, wide.kept_area) == ("wide 16:9", 1.0)
    assert upright.shape == "upright 9:16"
    assert upright.kept_area == pytest.approx(0.316, abs=0.01)
    assert (sound.shape, sound.ratio, sound.kept_area, sound.seen, sound.target_bps) == ("sound", None, None, (), None)
    assert wide.on(*SEEN).picture_height > row(place=SPRIGG, framing="fit").on(*SEEN).picture_height, "bars make the picture small"


@pytest.mark.parametrize(("width", "height", "words"), [
    (1920, 1080, "wide 16:9"), (1080, 608, "wide 16:9"), (1080, 1350, "upright 4:5"), (478, 200, "wide 2.39:1"), (500, 500, "square 1:1"),
])
def test_a_shape_has_its_usual_name_though_a_row_is_missing(width: int, height: int, words: str) -> None:
    assert shape_words(Fraction(width, height)) == words


def test_a_row_is_named_by_what_tells_it_from_others() -> None:
    assert row().name == "Orrery wide film"
    assert row(of="first", difference="HEVC").name == "Orrery wide film, HEVC"
    assert row(of="first", difference="HEVC", name="the small one").name == "Orrery wide film, the small one"


def test_encode_times_that_are_known_in_different_ways_are_not_compared() -> None:
    found = apart(row(80, effort="careful"), row(None))
    assert found.encode_s is None
    assert found.time_words == "no telling which packs quicker"
