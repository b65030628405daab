"""How long a work in stages still takes."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from hardy_parcel.core.progress import QUIET_S, TimeLeft

STEPS = 400


def run(weights: list[float], costs: list[Callable[[float], float]], *, alike: bool = True) -> list[tuple[float, float, float | None]]:
    """Of a work whose stages cost so many seconds at each part: the time gone, the share told, and the seconds left told less true."""
    times, now = [], 0.0
    for stage, cost in enumerate(costs):
        for step in range(1, STEPS + 1):
            now += cost(step / STEPS) / STEPS
            times.append((stage, step / STEPS, now))
    left = TimeLeft(weights, alike=[alike] * len(weights))
    left.at(0, 0.0, 0.0)
    found = []
    for stage, part, at in times:
        share, told = left.at(stage, part, at)
        found.append((at / now, share, None if told is None else told - (now - at)))
    return found


def off(found: list[tuple[float, float, float | None]], whole_s: float, *, since: float = 0.1) -> float:
    """The largest error after so much of the time, as a share of what was left, while that is more than a twentieth of the whole."""
    return max(abs(wrong) / ((1 - gone) * whole_s) for gone, _, wrong in found if wrong is not None and since <= gone < 0.95)


def test_nothing_is_told_before_it_can_be_right() -> None:
    found = run([1.0], [lambda part: 100.0])
    silent = [gone for gone, _, wrong in found if wrong is None]
    assert max(silent) * 100 >= QUIET_S
    assert max(silent) < 0.1
    assert off(found, 100) < 0.02


@pytest.mark.parametrize("first", [0.53, 0.65, 0.7])
def test_two_passes_of_unlike_pace_are_told_within_a_fifth(first: float) -> None:
    found = run([0.65, 1.0, 0.05], [lambda part: 100 * first, lambda part: 100.0, lambda part: 5.0])
    assert off(found, 100 * first + 105) < 0.2


def test_what_was_hard_in_the_first_pass_is_expected_to_be_hard_again() -> None:
    def hard_at_its_end(part: float) -> float:
        return 20.0 if part < 0.5 else 180.0

    costs = [lambda part: 0.65 * hard_at_its_end(part), hard_at_its_end]
    second = [one for one in run([0.65, 1.0], costs) if one[0] > 0.45]
    assert off(second, 165) < 0.05
    assert off([one for one in run([0.65, 1.0], costs, alike=False) if one[0] > 0.45], 165) > 0.2


def test_the_share_only_rises_and_ends_at_one() -> None:
    shares = [share for _, share, _ in run([0.65, 1.0, 0.05], [lambda part: 90.0, lambda part: 60.0, lambda part: 9.0])]
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)
