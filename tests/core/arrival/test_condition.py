"""The condition scale."""

from __future__ import annotations

import math

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.condition import (
    YARDSTICK_QUALITIES,
    YardstickMark,
    calibration,
    condition_by_fixed_map,
    condition_by_yardstick,
    equivalent_quality,
    impairment_words,
    mean_xpsnr_db,
)

MARKS = [YardstickMark(quality=q, xpsnr_db=db) for q, db in zip(YARDSTICK_QUALITIES, (46.0, 42.0, 38.5, 35.0, 31.5), strict=True)]


def test_distortions_are_averaged_before_the_logarithm() -> None:
    assert mean_xpsnr_db([30.0, 30.0]) == pytest.approx(30.0)
    assert mean_xpsnr_db([30.0, 40.0]) == pytest.approx(-10 * math.log10((1e-3 + 1e-4) / 2))
    assert mean_xpsnr_db([math.inf, math.inf]) == 70.0
    with pytest.raises(ValueError, match="no pictures"):
        mean_xpsnr_db([])


def test_the_yardstick_is_read_linearly_and_extended() -> None:
    for mark in MARKS:
        assert equivalent_quality(mark.xpsnr_db, MARKS) == pytest.approx(mark.quality)
    assert equivalent_quality(40.25, MARKS) == pytest.approx(24.5)
    assert equivalent_quality(31.5 - 3.5, MARKS) == pytest.approx(42.0)
    assert equivalent_quality(46.0 + 4.0, MARKS) == pytest.approx(10.0)


def test_the_curve_has_the_shipped_constants() -> None:
    constants = calibration()["yardstick"]
    assert (constants["q0"], constants["s"], constants["encodes"]) == (38.1, 5.2, 126)
    for mark in MARKS:
        wanted = 100 / (1 + math.exp((mark.quality - 38.1) / 5.2))
        assert condition_by_yardstick(mark.xpsnr_db, MARKS) == pytest.approx(wanted)


@given(st.floats(5, 70), st.floats(0.01, 10))
def test_more_xpsnr_is_never_a_worse_condition(low: float, more: float) -> None:
    worse, better = condition_by_yardstick(low, MARKS), condition_by_yardstick(low + more, MARKS)
    assert 0 <= worse <= better <= 100
    for width in (540, 640, 800, 960, 1600, 1920, 2400):
        assert 0 <= condition_by_fixed_map(low, width) <= condition_by_fixed_map(low + more, width) <= 100


def test_the_fixed_map_meets_its_table_and_lies_between() -> None:
    rows = calibration()["plain"]["rasters"]
    for width, row in rows.items():
        assert condition_by_fixed_map(row["m_db"], int(width)) == pytest.approx(50)
        assert condition_by_fixed_map(row["m_db"] + row["s_db"], int(width)) == pytest.approx(100 / (1 + math.exp(-1)))
    ends = sorted(condition_by_fixed_map(30, w) for w in (960, 1920))
    assert ends[0] <= condition_by_fixed_map(30, 1600) <= ends[1]


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
