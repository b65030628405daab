"""Finding the quality that has a size, on made-up films whose bits are known at every quality."""

from __future__ import annotations

import math
from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.plan.quality_search import (
    FIRST_QUALITY,
    MOST_OVER,
    MOST_QUALITIES,
    STEPS,
    found_quality,
    next_quality,
    sampled_groups,
)

SCALE = (4, 63)


BEST, WORST = SCALE[0] * STEPS, SCALE[1] * STEPS


def searched(bits: Callable[[float], float], wanted: float) -> tuple[int, dict[int, float]]:
    known = {FIRST_QUALITY: bits(FIRST_QUALITY / STEPS)}
    while (quality := next_quality(known, wanted, SCALE)) is not None:
        assert quality not in known
        assert BEST <= quality <= WORST
        known[quality] = bits(quality / STEPS)
    return found_quality(known, wanted), known


def dark(quality: float) -> float:
    """Noise that is kept below a quality and smoothed away above it: a cliff in the middle."""
    return 1e6 * math.exp(-0.03 * quality) * (1 + 40 / (1 + math.exp((quality - 20) / 1.5)))


@given(st.floats(0.02, 0.2), st.floats(2, 7), st.floats(2, 7))
def test_a_film_that_can_have_the_size_gets_it(steepness: float, power: float, wanted_power: float) -> None:
    def bits(quality: float) -> float:
        return 10**power * math.exp(-steepness * (quality - 35))

    wanted = 10**wanted_power
    quality, known = searched(bits, wanted)
    assert len(known) <= MOST_QUALITIES
    if bits(SCALE[0]) < wanted:
        assert quality == BEST
    elif bits(SCALE[1]) > wanted * MOST_OVER:
        assert quality == WORST
    else:
        assert wanted * 0.94 <= bits(quality / STEPS) <= wanted * MOST_OVER


@pytest.mark.parametrize("wanted", [3e5, 5e5, 1e6, 4e6, 1e7, 3e7])
def test_a_cliff_in_the_curve_is_closed_in(wanted: float) -> None:
    quality, known = searched(dark, wanted)
    assert len(known) <= MOST_QUALITIES
    assert wanted * 0.8 <= dark(quality / STEPS) <= wanted * MOST_OVER


def test_groups_stand_for_easy_and_hard_ones() -> None:
    costs = [float(n % 16) for n in range(80)]
    chosen = sampled_groups(costs)
    assert [costs[n] for n in sorted(chosen, key=lambda n: costs[n])] == [1, 3, 5, 7, 9, 11, 13, 15]
    assert chosen == sorted(chosen)
    assert sampled_groups([5.0, 1.0]) == [0, 1]
    assert sampled_groups([]) == []
