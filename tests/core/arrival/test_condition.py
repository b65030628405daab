"""The condition scale."""

from __future__ import annotations

import csv
import math
from importlib import resources

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.condition import (
    MOST_MOVEMENT,
    Likeness,
    PictureParts,
    condition,
    impairment_words,
    mean_likeness,
    mean_xpsnr_db,
)

SHARES = st.floats(0, 1)


def test_distortions_are_averaged_before_the_logarithm() -> None:
    assert mean_xpsnr_db([30.0, 30.0]) == pytest.approx(30.0)
    assert mean_xpsnr_db([30.0, 40.0]) == pytest.approx(-10 * math.log10((1e-3 + 1e-4) / 2))
    assert mean_xpsnr_db([math.inf, math.inf]) == 70.0
    with pytest.raises(ValueError, match="no pictures"):
        mean_xpsnr_db([])


@given(SHARES, SHARES, st.floats(0, 0.2), st.floats(0, 30))
def test_more_of_the_master_is_never_a_worse_condition(detail: float, information: float, more: float, movement: float) -> None:
    worse = condition(detail, information, movement)
    assert 0 <= worse <= condition(min(1, detail + more), information, movement) <= 100
    assert worse <= condition(detail, min(1, information + more), movement) <= 100


def test_the_same_picture_is_whole_however_it_moves() -> None:
    assert condition(1.0, 1.0, 0.0) == 100
    assert condition(1.0, 1.0, 12.0) == 100
    assert condition(1.1, 1.0, 0.0) == 100
    assert condition(0.0, 0.0, 0.0) < 1


def test_movement_hides_loss_up_to_a_bound() -> None:
    assert condition(0.8, 0.6, 5.0) > condition(0.8, 0.6, 0.0)
    assert condition(0.8, 0.6, 100.0) == condition(0.8, 0.6, MOST_MOVEMENT)


def test_parts_are_averaged_and_judged_afterwards() -> None:
    def parts(detail: float, **changes: float) -> PictureParts:
        return PictureParts(**({"detail": detail, "information": 0.7, "movement": 3.0, "xpsnr_db": 36.0} | changes))

    found = mean_likeness((960, 540), [parts(0.8), parts(0.9)])
    assert (found.detail, found.information, found.movement, found.xpsnr_db) == (0.85, 0.7, 3.0, 36.0)
    assert found.condition == condition(0.85, 0.7, 3.0)
    assert found.changed is None


@pytest.mark.parametrize(
    ("shifts", "said"),
    [
        ({}, None), ({"luma_shift": 6.0}, "brightness was changed"), ({"luma_shift": -6.0}, "brightness was changed"),
        ({"chroma_shift": 4.0}, "colour was changed"), ({"luma_shift": 1.0, "chroma_shift": 1.0}, None),
    ],
)
def test_what_the_scale_cannot_see_is_said(shifts: dict[str, float], said: str | None) -> None:
    found = Likeness(raster=(960, 540), detail=1.0, information=1.0, movement=0.0, xpsnr_db=22.0, **shifts)
    assert (found.condition, found.changed) == (100, said)


def test_the_study_that_ships_is_met_as_well_as_is_claimed() -> None:
    """Unseen clips within 1.75 points RMSE, and 85 % of all errors within the band of a whole film."""
    with (resources.files("hardy_parcel.core.arrival") / "study.csv").open() as file:
        rows = list(csv.DictReader(file))
    errors = {True: [], False: []}
    for row in rows:
        found = condition(float(row["D"]), float(row["V"]), float(row["M"]))
        errors[row["part"] == "unseen"].append(found - float(row["score"]))
    rms = {unseen: math.sqrt(sum(e * e for e in of) / len(of)) for unseen, of in errors.items()}
    assert rms[True] < 1.75
    assert rms[False] < 2.0


@pytest.mark.parametrize(
    ("condition", "words"),
    [
        (100, "imperceptible"), (90, "imperceptible"), (89.9, "perceptible, not annoying"),
        (75, "perceptible, not annoying"), (74.9, "slightly annoying"), (60, "slightly annoying"),
        (59.9, "annoying"), (40, "annoying"), (39.9, "very annoying"), (0, "very annoying"),
    ],
)
def test_words_of_the_impairment_scale(condition: float, words: str) -> None:
    assert impairment_words(condition) == words
