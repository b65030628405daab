"""The two marks of a curve: from which bit rate on what arrives can't be told from a perfect upload, and from which on it lies within
one noticeable step of it. Each is an interval, from the lowest rate at which it may hold to the lowest at which it surely does.

What a perfect upload arrives better by is told of rates of the same curve, so its error is that of a difference: what is wrong with
both alike falls out of it.
"""

from __future__ import annotations

import math

import numpy as np

from ..values import Model
from .bands import apart_bands
from .condition import NOTICEABLE_STEP

STEPS_PER_OCTAVE = 8
"""Rates are told in eighths of an octave, 9 % apart: finer ones would say more than is known."""
CANNOT_BE_TOLD = 3.0
"""Points below a perfect upload that measuring a whole film does not tell from none; see docs/accuracy.md."""
STEP_BASE_BPS = 1e6


class RateMark(Model):
    """From `low_bps` on it may hold, from `high_bps` on it surely does (bit/s).

    `low_bps` is None where it may hold at the lowest rate that is known of already, `high_bps` where no known rate is surely enough.
    """

    low_bps: int | None
    high_bps: int | None


class RateMarks(Model):
    """Both marks of one curve."""

    cannot_be_told: RateMark
    noticeable_step: RateMark


def step_at_most(bps: float) -> int:
    """The highest step at or below a rate (bit/s)."""
    return _step(math.floor(_steps(bps) + 1e-6))


def step_at_least(bps: float) -> int:
    """The lowest step at or above a rate (bit/s)."""
    return _step(math.ceil(_steps(bps) - 1e-6))


def _steps(bps: float) -> float:
    return STEPS_PER_OCTAVE * math.log2(bps / STEP_BASE_BPS)


def _step(number: int) -> int:
    """Rounded to two decimals of a Mbit/s, from 2 Mbit/s on to one, as rates are told everywhere."""
    bps = STEP_BASE_BPS * 2 ** (number / STEPS_PER_OCTAVE)
    return max(10_000, int(round(bps, -4 if bps < 2e6 else -5)))


def rate_marks(log_rates: np.ndarray, below_perfect: np.ndarray, bands: np.ndarray) -> RateMarks:
    """Both marks from ln(rate) (rising), how far below a perfect upload each arrives, and the bands of what arrives, in points."""
    half_widths = apart_bands(bands, below_perfect)
    return RateMarks(
        cannot_be_told=_mark(log_rates, below_perfect, half_widths, CANNOT_BE_TOLD),
        noticeable_step=_mark(log_rates, below_perfect, half_widths, NOTICEABLE_STEP),
    )


def _mark(log_rates: np.ndarray, below: np.ndarray, half_widths: np.ndarray, most: float) -> RateMark:
    low, high = crossing(log_rates, below - half_widths, most), crossing(log_rates, below + half_widths, most)
    return RateMark(
        low_bps=None if low == log_rates[0] else step_at_most(math.exp(log_rates[-1] if low is None else low)),
        high_bps=None if high is None else step_at_least(math.exp(high)),
    )


def crossing(log_rates: np.ndarray, values: np.ndarray, most: float) -> float | None:
    """From where on values stay at or below `most`, straight between points; None where the last one does not."""
    over = np.nonzero(values > most)[0]
    if not len(over):
        return float(log_rates[0])
    last = int(over[-1])
    if last == len(values) - 1:
        return None
    share = (values[last] - most) / (values[last] - values[last + 1])
    return float(log_rates[last] + share * (log_rates[last + 1] - log_rates[last]))
