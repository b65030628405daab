"""Marks are intervals: they hold what is true for certain, and say where they are open."""

from __future__ import annotations

import math

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.bands import apart_bands
from hardy_parcel.core.arrival.marks import RateMark, rate_marks, step_at_least, step_at_most

LOG_RATES = np.log(np.geomspace(1e6, 32e6, 61))


def falling(start: float, octaves: float) -> np.ndarray:
    """Points below a perfect upload that halve with every so many octaves."""
    return start * 2 ** (-(LOG_RATES - LOG_RATES[0]) / math.log(2) / octaves)


def test_steps_are_eighths_of_an_octave_and_easily_read() -> None:
    assert [step_at_least(bps) for bps in (1e6, 1.01e6, 2e6, 13.7e6)] == [1_000_000, 1_090_000, 2_000_000, 14_700_000]
    assert [step_at_most(bps) for bps in (1e6, 1.08e6, 1.1e6, 13.7e6)] == [1_000_000, 1_000_000, 1_090_000, 13_500_000]
    assert len({step_at_least(1e6 * 2 ** (n / 8)) for n in range(41)}) == 41


def test_sure_evidence_gives_marks_that_are_a_step_wide() -> None:
    marks = rate_marks(LOG_RATES, falling(24, 1), np.zeros(61))
    assert (marks.noticeable_step.low_bps, marks.noticeable_step.high_bps) == (4_000_000, 4_000_000)
    assert (marks.cannot_be_told.low_bps, marks.cannot_be_told.high_bps) == (8_000_000, 8_000_000)


def test_ends_that_are_not_reached_are_open() -> None:
    far = rate_marks(LOG_RATES, np.full(61, 30.0), np.ones(61))
    assert far.noticeable_step == RateMark(low_bps=step_at_most(32e6), high_bps=None), "beyond all that is known"
    near = rate_marks(LOG_RATES, np.full(61, 0.5), np.ones(61))
    assert near.noticeable_step.low_bps is None
    assert near.noticeable_step.high_bps == 1_000_000
    unsure = rate_marks(LOG_RATES, np.full(61, 2.5), np.full(61, 9.0))
    assert unsure.cannot_be_told == RateMark(low_bps=None, high_bps=None), "nothing is sure of it"


@given(start=st.floats(1, 60), octaves=st.floats(0.3, 4), band=st.floats(0.1, 8), off=st.floats(-1, 1))
def test_what_lies_within_the_half_width_lies_inside_the_marks(start, octaves, band, off) -> None:
    told = falling(start, octaves)
    bands = np.full(61, band)
    true = told + off * apart_bands(bands, told)
    early, late = rate_marks(LOG_RATES, told, bands), rate_marks(LOG_RATES, true, np.zeros(61))
    for one, other in ((early.cannot_be_told, late.cannot_be_told), (early.noticeable_step, late.noticeable_step)):
        assert (one.low_bps or 0) <= (other.low_bps or 0)
        assert (one.high_bps or math.inf) >= (other.high_bps or math.inf)


def test_the_first_mark_never_holds_before_the_second() -> None:
    marks = rate_marks(LOG_RATES, falling(20, 1), np.full(61, 1.5))
    assert marks.noticeable_step.high_bps <= marks.cannot_be_told.high_bps
