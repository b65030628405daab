"""The same pictures of two ways."""

from fractions import Fraction

from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.pairing import ReelLookedAt, most_telling, paired_pictures, same_shape


def reel(*times: float, measured: dict[int, float] | None = None) -> ReelLookedAt:
    return ReelLookedAt(times_s=[Fraction(at) for at in times], measured=measured or {})


def test_pictures_that_either_has_measured_are_shown_in_film_order():
    found = paired_pictures(reel(4, 5, 1, 2, measured={0: 80.0, 3: 70.0}), reel(1, 2, 3, 4, 5, measured={0: 60.0}))
    assert [(one.master_s, one.left_index, one.right_index, one.left, one.right) for one in found] == [
        (1, 2, 0, None, 60.0), (2, 3, 1, 70.0, None), (4, 0, 3, 80.0, None),
    ]


def test_half_the_rate_is_met_at_every_second_picture():
    fast = reel(*(Fraction(n, 50) for n in range(20)), measured=dict.fromkeys(range(20), 50.0))
    slow = reel(*(Fraction(n, 25) for n in range(10)))
    found = paired_pictures(fast, slow)
    assert [one.left_index for one in found] == list(range(0, 20, 2))
    assert [one.right_index for one in found] == list(range(10))


def test_times_rounded_to_milliseconds_are_the_same_picture_and_the_next_one_is_not():
    left = reel(*(Fraction(n, 30) for n in range(9)), measured={4: 1.0})
    right = reel(*(Fraction(round(n * 1000 / 30), 1000) for n in range(9)))
    assert [(one.left_index, one.right_index) for one in paired_pictures(left, right)] == [(4, 4)]
    assert paired_pictures(reel(0, 1), reel(*(Fraction(1, 2), Fraction(3, 2)))) == ()


def test_of_a_picture_that_a_reel_has_twice_the_settled_one_counts():
    found = paired_pictures(reel(3, 1, 2, 3, measured={3: 9.0}), reel(3))
    assert [(one.left_index, one.left) for one in found] == [(3, 9.0)]


def test_without_measured_ones_some_are_still_shown_and_without_common_ones_none():
    many = reel(*range(200))
    found = paired_pictures(many, many)
    assert 30 <= len(found) <= 40
    assert found[0].master_s < 10 < 190 < found[-1].master_s
    assert paired_pictures(reel(1, 2), reel(7, 8)) == () == paired_pictures(reel(), reel(1))


def test_the_picture_that_differs_most_is_opened_first_and_else_the_worst():
    left, right = reel(0, 1, 2, measured={0: 80.0, 1: 60.0}), reel(0, 1, 2, measured={0: 78.0, 1: 72.0, 2: 10.0})
    assert most_telling(paired_pictures(left, right)) == 1
    assert most_telling(paired_pictures(reel(0, 1, 2, measured={0: 80.0, 1: 60.0}), reel(0, 1, 2))) == 1
    assert most_telling(()) == 0


def test_even_sizes_of_one_shape_lie_over_each_other_and_other_shapes_do_not():
    assert same_shape((1600, 900), (1600, 898))
    assert same_shape((1600, 900), (854, 480))
    assert not same_shape((1600, 900), (900, 1600))
    assert not same_shape((1600, 900), (1600, 880))


@given(st.sets(st.integers(0, 60)), st.sets(st.integers(0, 60)))
def test_every_pair_shows_one_time_and_none_is_left_out(ours: set[int], theirs: set[int]):
    ours, theirs = ours | {0, 1}, theirs | {0, 1}  # neighbours, as every reel has them
    left, right = sorted(ours, reverse=True), sorted(theirs)
    found = paired_pictures(reel(*left, measured=dict.fromkeys(range(len(left)), 1.0)), reel(*right))
    assert [one.master_s for one in found] == sorted(ours & theirs)
    assert all(left[one.left_index] == one.master_s == right[one.right_index] for one in found)
