"""How long a work in stages still takes."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import pytest

from hardy_parcel.core.master.checks.evidence import Difficulty, movement
from hardy_parcel.core.progress import QUIET_S, TimeLeft

STEPS = 400


def run(
    weights: list[float], costs: list[Callable[[float], float]], *, alike: bool = True, movement: Sequence[float] = (),
    tried: Sequence[bool] = (), weighed: float | None = None,
) -> list[tuple[float, float, float | None]]:
    """Of a work whose stages cost so many seconds at each part: the time gone, the share told, and the seconds left told less true."""
    times, now = [], 0.0
    for stage, cost in enumerate(costs):
        for step in range(1, STEPS + 1):
            now += cost(step / STEPS) / STEPS
            times.append((stage, step / STEPS, now))
    followed = [alike and number > 0 for number in range(len(weights))]
    left = TimeLeft(weights, alike=followed, once=[bool(movement)] * len(weights), movement=movement, tried=tried)
    if weighed is not None:
        left.weighed(0, weighed)
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


@pytest.mark.parametrize("first", [0.45, 1.03])
def test_a_first_pass_that_was_not_tried_tells_nothing_and_one_that_was_tells_it_right(first: float) -> None:
    costs: list[Callable[[float], float]] = [lambda part: 100 * first, lambda part: 100.0, lambda part: 5.0]
    untold = run([0.65, 1.0, 0.05], costs, tried=[True, False, False])
    whole = 100 * first + 105
    told = [gone for gone, _, wrong in untold if wrong is not None]
    assert min(told) > 100 * first / whole
    assert min(told) < (100 * first + 10) / whole
    assert off(untold, whole) < 0.1
    assert off(run([0.65, 1.0, 0.05], costs), whole) > 0.2, "by other films it would be wrong"
    right = run([0.65, 1.0, 0.05], costs, tried=[True, False, False], weighed=first * 1.1)
    assert min(gone for gone, _, wrong in right if wrong is not None) < 0.1
    assert off(right, whole) < 0.2


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


def moving(part: float) -> float:
    """How long pictures take of a film that begins still and becomes lively, by part: so long as their movement in `LIVELY` says."""
    return 25.0 if part <= 0.5 else 100.0


LIVELY = [0.4] * 10 + [12.0] * 10


def test_what_moves_more_than_all_before_is_not_foretold_before_some_of_it_was_seen() -> None:
    found = run([1.0], [moving], movement=LIVELY)
    told = [gone for gone, _, wrong in found if wrong is not None]
    assert off(found, 62.5) < 0.2
    assert off(run([1.0], [moving]), 62.5) > 0.5, "a steady pace would be wrong"
    assert 0.2 < min(told) < 0.3, "the still half is a fifth of the work"


def test_what_moved_like_it_before_tells_how_long_the_rest_takes() -> None:
    again = [0.4, 0.4, 12.0, 12.0] * 6

    def cost(part: float) -> float:
        return 25.0 if again[min(23, int(part * 24 - 1e-9))] < 1 else 100.0

    found = run([1.0], [cost], movement=again)
    assert off(found, 62.5, since=0.25) < 0.1
    assert min(gone for gone, _, wrong in found if wrong is not None) < 0.2


def test_two_passes_of_a_film_whose_movement_is_known() -> None:
    found = run([0.65, 1.0], [lambda part: 0.6 * moving(part), moving], movement=LIVELY)
    assert off(found, 1.6 * 62.5, since=0.15) < 0.2
    shares = [share for _, share, _ in found]
    assert shares == sorted(shares)
    assert shares[-1] == pytest.approx(1.0)


def test_movement_is_taken_from_the_nearest_second() -> None:
    known = [Difficulty(at_s=at, spatial=5.0, temporal=temporal, grain=0.0) for at, temporal in ((0.0, 1.0), (1.0, 2.0), (6.0, 9.0))]
    assert movement(known, 0, 8) == [1.0, 2.0, 2.0, 2.0, 9.0, 9.0, 9.0, 9.0]
    assert movement(known, 1, 2) == [2.0]
    assert movement([], 0, 8) == movement(known, 3, 3) == []
    assert len(movement(known, 0, 9000)) == 600


def test_what_a_stage_takes_besides_is_added_once_and_may_be_told_anew() -> None:
    left = TimeLeft([1.0, 0.1], alike=[False, False], aside_s=[0.0, 6.0])
    told = [left.at(0, part / 100, part * 1.0)[1] for part in range(101)]
    assert told[50] == pytest.approx(50 + 10 + 6)
    left.takes(1, 4.0)
    assert left.at(1, 0.0, 100.0)[1] == pytest.approx(10 + 4)


def test_the_share_that_is_shown_may_be_drawn_otherwise_than_time_is_told() -> None:
    left = TimeLeft([1.0, 0.01], alike=[False, False], aside_s=[0.0, 30.0], drawn=[1.0, 0.25])
    share, told = [left.at(0, part / 100, part * 1.0) for part in range(101)][50]
    assert (share, told) == (pytest.approx(0.4), pytest.approx(50 + 1 + 30))
