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
    found_quality,
    next_quality,
    sampled_groups,
)
from hardy_parcel.core.trade.codecs import QualityScale

SCALES = [QualityScale(best=4, worst=63, parts=4), QualityScale(best=4, worst=63, parts=1)]


def searched(bits: Callable[[float], float], wanted: float, scale: QualityScale = SCALES[0]) -> tuple[float, dict[int, float]]:
    """The whole value that is found, and what was tried, in parts."""
    known = {FIRST_QUALITY * scale.parts: bits(FIRST_QUALITY)}
    while (quality := next_quality(known, wanted, scale)) is not None:
        assert quality not in known
        assert scale.best * scale.parts <= quality <= scale.worst * scale.parts
        known[quality] = bits(quality / scale.parts)
    return found_quality(known, wanted) / scale.parts, known


def dark(quality: float) -> float:
    """Noise that is kept below a quality and smoothed away above it: a cliff in the middle."""
    return 1e6 * math.exp(-0.03 * quality) * (1 + 40 / (1 + math.exp((quality - 20) / 1.5)))


@given(st.sampled_from(SCALES), st.floats(0.02, 0.2), st.floats(2, 7), st.floats(2, 7))
def test_a_film_that_can_have_the_size_gets_it(scale: QualityScale, steepness: float, power: float, wanted_power: float) -> None:
    def bits(quality: float) -> float:
        return 10**power * math.exp(-steepness * (quality - 35))

    wanted = 10**wanted_power
    quality, known = searched(bits, wanted, scale)
    assert len(known) <= MOST_QUALITIES
    if bits(scale.best) < wanted:
        assert quality == scale.best
    elif bits(scale.worst) > wanted * MOST_OVER:
        assert quality == scale.worst
    else:
        assert wanted * min(0.94, 1.02 * math.exp(-steepness / scale.parts)) <= bits(quality) <= wanted * MOST_OVER


@pytest.mark.parametrize("wanted", [3e5, 5e5, 1e6, 4e6, 1e7, 3e7])
def test_a_cliff_in_the_curve_is_closed_in(wanted: float) -> None:
    quality, known = searched(dark, wanted)
    assert len(known) <= MOST_QUALITIES
    assert wanted * 0.8 <= dark(quality) <= wanted * MOST_OVER


def test_groups_stand_for_easy_and_hard_ones() -> None:
    costs = [float(n % 16) for n in range(80)]
    chosen = sampled_groups(costs)
    assert [costs[n] for n in sorted(chosen, key=lambda n: costs[n])] == [1, 3, 5, 7, 9, 11, 13, 15]
    assert chosen == sorted(chosen)
    assert sampled_groups([5.0, 1.0]) == [0, 1]
    assert sampled_groups([]) == []
