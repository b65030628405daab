"""Where damage is first seen down a ladder of rates."""

from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.ladder_of_rates import MOST_RUNGS, rate_ladder, rates_of_ladder


def test_the_first_rung_a_noticeable_step_below_the_highest_is_marked():
    found = rate_ladder({1_000_000: 55.0, 16_000_000: 84.0, 4_000_000: 77.9, 8_000_000: 81.0})
    assert [(rung.target_bps, rung.first_visible) for rung in found.rungs] == [
        (16_000_000, False), (8_000_000, False), (4_000_000, True), (1_000_000, False),
    ]
    assert found.sentence == (
        "In this crop 4.0 Mbit/s is the first to be visibly worse: 78 against 84 at 16.0 Mbit/s. At 8.0 Mbit/s it is still 81."
    )


def test_a_step_exactly_noticeable_counts_and_a_smaller_one_does_not():
    assert rate_ladder({2_000_000: 90.0, 1_000_000: 84.0}).rungs[1].first_visible
    assert "still" not in rate_ladder({2_000_000: 90.0, 1_000_000: 84.0}).sentence
    none = rate_ladder({2_000_000: 90.0, 1_000_000: 84.1})
    assert not any(rung.first_visible for rung in none.rungs)
    assert none.sentence.startswith("Nothing is visibly lost in this crop down to 1.00 Mbit/s: it arrives at most 5.9 points below")


def test_one_rate_is_no_ladder_and_none_is_none():
    assert "rehearse more" in rate_ladder({2_000_000: 90.0}).sentence
    assert rate_ladder({}).rungs == ()


def test_five_rates_at_most_with_the_ends_and_the_plans_own():
    known = [500_000, 1_000_000, 1_100_000, 2_000_000, 4_000_000, 4_100_000, 8_000_000, 16_000_000]
    assert rates_of_ladder(known, 4_050_000) == (16_000_000, 8_000_000, 4_100_000, 1_100_000, 500_000)
    assert rates_of_ladder([3, 2, 3], 2) == (3, 2)


@given(st.lists(st.integers(50_000, 10**8), min_size=1, max_size=20), st.integers(50_000, 10**8))
def test_rungs_are_known_rates_falling_from_the_highest_to_the_lowest(known: list[int], own: int):
    found = rates_of_ladder(known, own)
    assert found[0] == max(known)
    assert found[-1] == min(known)
    assert set(found) <= set(known)
    assert list(found) == sorted(set(found), reverse=True)
    assert len(found) == min(MOST_RUNGS, len(set(known)))
