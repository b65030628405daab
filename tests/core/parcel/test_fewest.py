"""The fewest files for all lanes, against trying every set of them."""

from __future__ import annotations

import itertools

from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.condition import NOTICEABLE_STEP
from hardy_parcel.core.parcel.fewest import Way, below, best_of, covered, fewest_files, same_picture
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, ORRERY, SPRIGG, facts

LANES = ["a", "b", "c", "d"]


def way(lane: str, size: float, **arrives: float) -> Way:
    return Way(
        lane=lane, words=f"file of {size:g} MB", video_bitrate_bps=None, size_bytes=size * 1e6,
        arrives={name: (value, value) for name, value in arrives.items()},
    )


WAYS = st.lists(
    st.builds(
        lambda size, arrives: Way(
            lane="a", words="file", video_bitrate_bps=None, size_bytes=size, arrives=arrives,
        ),
        st.integers(1, 50), st.dictionaries(st.sampled_from(LANES), st.tuples(st.integers(60, 100), st.integers(60, 100)), max_size=4),
    ),
    min_size=1, max_size=7,
)


def serves(one: Way, lane: str, best: dict[str, tuple[float, ...]]) -> bool:
    return lane in one.arrives and all(here >= there - NOTICEABLE_STEP for here, there in zip(one.arrives[lane], best[lane], strict=True))


@given(WAYS)
def test_no_smaller_set_serves_as_many(ways: list[Way]) -> None:
    best = best_of(ways, LANES)

    def served(numbers) -> set[str]:
        return {lane for lane in best if any(serves(ways[n], lane, best) for n in numbers)}

    chosen = covered(ways, LANES)
    assert served(chosen) == set(best)
    found = (len(chosen), sum(ways[n].size_bytes for n in chosen))
    for count in range(len(chosen) + 1):
        for numbers in itertools.combinations(range(len(ways)), count):
            if served(numbers) == set(best):
                assert found <= (count, sum(ways[n].size_bytes for n in numbers))


def test_many_lanes_are_all_served_too() -> None:
    lanes = [f"lane {n}" for n in range(20)]
    ways = [way(lane, 1 + n % 3, **dict.fromkeys(lanes[n:n + 4], 80.0)) for n, lane in enumerate(lanes)]
    chosen = covered(ways, lanes)
    assert {lane for n in chosen for lane in ways[n].arrives} == set(lanes)
    assert len(chosen) <= 7


def test_one_file_serves_those_that_take_it_and_says_who_needs_their_own() -> None:
    ways = [way("orrery", 9, orrery=80, reel=85), way("reel", 15, orrery=81, reel=86), way("sprigg", 4, sprigg=75)]
    names = {"orrery": "Orrery wide film", "reel": "Fernpost showreel", "sprigg": "Sprigg upright short"}
    found = fewest_files(ways, names, {"orrery": 9e6, "reel": 15e6, "sprigg": 4e6}, {"sprigg": "its shape is another"})
    assert [one.parcel_id for one in found.files] == ["orrery", "sprigg"]
    assert found.files[0].sentence == "One file of 9 MB serves Orrery wide film and Fernpost showreel."
    assert found.files[1].sentence == "Sprigg upright short needs its own: file of 4 MB. With another’s, its shape is another."
    assert [(one.name, one.below_best) for one in found.files[0].serves] == [("Orrery wide film", 1.0), ("Fernpost showreel", 1.0)]
    assert found.sentence == "2 files serve all 3 lanes within what a viewer notices: 1 to pack less, and 6.0 MB less to upload."
    dear = fewest_files(ways[1:], names, {"orrery": 9e6, "reel": 15e6, "sprigg": 4e6}, {})
    assert dear.sentence.endswith("1 to pack less, but 6.0 MB more to upload."), "a shared file is uploaded to each"
    assert (found.total_bytes, found.now_bytes, found.exact, found.untested) == (13_000_000, 28_000_000, True, 0)


def test_a_lane_that_shares_nothing_stays_as_it_is_planned() -> None:
    smaller = Way(lane="b", words="less", video_bitrate_bps=1_000_000, size_bytes=1e6, arrives={"b": (76, 76)})
    ways = [way("a", 5, a=80, c=80), way("b", 9, b=80), smaller]
    found = fewest_files(ways, {"a": "A", "b": "B", "c": "C"}, {"a": 5e6, "b": 9e6, "c": 5e6}, {})
    assert [(one.parcel_id, one.video_bitrate_bps, one.serves[0].below_best) for one in found.files] == [("a", None, 0.0), ("b", None, 0.0)]


def test_a_noticeable_step_is_not_given_away() -> None:
    ways = [way("a", 5, a=80, b=70), way("b", 9, b=77)]
    assert len(covered(ways, ["a", "b"])) == 2
    assert len(covered([way("a", 5, a=80, b=72), way("b", 9, b=77)], ["a", "b"])) == 1


def test_lanes_that_were_not_tested_share_nothing_and_are_counted() -> None:
    ways = [way("a", 1, a=80, b=80), way("b", 2, b=80)]
    found = fewest_files(ways, {"a": "A", "b": "B", "c": "C"}, {"a": 1e6, "b": 2e6, "c": 4e6}, {})
    assert [one.name for file in found.files for one in file.serves] == ["A", "B"]
    assert (found.untested, found.now_files, found.now_bytes) == (1, 2, 3_000_000)
    assert "all 2 tested lanes" in found.sentence


def test_lanes_that_share_nothing_say_so() -> None:
    found = fewest_files([way("a", 5, a=80), way("b", 9, b=77)], {"a": "A", "b": "B"}, {"a": 5e6, "b": 9e6}, {})
    assert found.sentence == "Every one of the 2 lanes needs a file of its own."
    assert fewest_files([], {}, {}, {}).files == ()


def test_it_is_the_worst_screen_that_counts_and_sound_alone_has_none() -> None:
    one, other = way("a", 5), way("b", 9)
    ways = [
        Way(lane="a", words="", video_bitrate_bps=None, size_bytes=1, arrives={"a": (80, 80), "b": (90, 60)}),
        Way(lane="b", words="", video_bitrate_bps=None, size_bytes=2, arrives={"b": (85, 70)}),
    ]
    assert below(ways[0], "b", best_of(ways, ["a", "b"])) == 10
    assert below(one, "b", {"b": (1, 2)}) is None
    assert covered(ways, ["a", "b"]) == [0, 1], "the best over both screens is the second, which the first misses on one"
    sound = Way(lane="s", words="sound", video_bitrate_bps=None, size_bytes=1, arrives={"s": ()})
    assert covered([sound, other], ["s"]) == [0]


def test_a_file_stands_for_another_only_with_the_same_picture() -> None:
    wide, small = (make_plan(facts(), ORRERY, Choices(method="encoded", short_side_px=side)) for side in (None, 360))
    filled, fitted = (make_plan(facts(), SPRIGG, Choices(method="encoded", framing=mode)) for mode in ("fill", "fit"))
    assert same_picture(wide, small)
    assert not same_picture(filled, fitted)
    assert not same_picture(wide, fitted)
    sound = make_plan(facts(), EARSHELF)
    assert same_picture(sound, sound)
    assert not same_picture(sound, wide)
