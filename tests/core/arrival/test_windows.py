"""Which parts stand for the whole."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.windows import RUN_PICTURES, Stretch, choose_reel, sample_by_difficulty, segment_count, spread, whole_reel

SEGMENT = Fraction(2)


def film(difficulties: list[float]) -> list[Stretch]:
    return [Stretch(start_s=2 * i * Fraction(1), end_s=2 * (i + 1) * Fraction(1), difficulty=d) for i, d in enumerate(difficulties)]


def reel(difficulties: list[float], count: int = 4):
    return choose_reel(
        film(difficulties), in_s=Fraction(0), out_s=Fraction(2 * len(difficulties)), segment_s=SEGMENT, count=count
    )


def test_a_short_excerpt_is_taken_whole() -> None:
    found = reel([1.0] * 5)
    assert found.whole
    assert found.segments[0].measure_from_s == 0
    assert found.duration_s == 10


@given(st.lists(st.floats(1, 1e7), min_size=20, max_size=200), st.integers(3, 12))
def test_a_reel_is_a_miniature_in_film_order(difficulties: list[float], count: int) -> None:
    found = reel(difficulties, count)
    if found.whole:
        return
    run_in, *segments = found.segments
    assert run_in.measure_from_s == run_in.end_s
    starts = [segment.start_s for segment in segments]
    assert starts == sorted(set(starts))
    for segment in segments:
        assert segment.end_s - segment.start_s == SEGMENT
        assert segment.measure_from_s == segment.start_s + SEGMENT / 10
        assert segment.start_s >= 0
        assert segment.end_s <= 2 * len(difficulties)
    assert 3 <= len(segments) <= count


def test_easy_and_hard_stand_in_the_reel_as_in_the_film() -> None:
    found = reel([1.0] * 30 + [100.0] * 10)
    hard = [segment for segment in found.segments[1:] if segment.start_s >= 60]
    assert len(hard) == 1


@pytest.mark.parametrize("count", [4, 5, 6, 7])
def test_halves_stand_in_the_reel_as_halves(count: int) -> None:
    found = reel([1.0] * 20 + [100.0] * 20, count)
    hard = [segment.start_s >= 40 for segment in found.segments[1:]]
    assert sum(hard) * 2 == len(hard) >= 4


def test_of_equal_parts_as_many_as_may_be_are_taken() -> None:
    assert len(reel([3.0] * 40, 5).segments) == 6


@pytest.mark.parametrize(("size", "rate", "count"), [((640, 360), 25, 12), ((1920, 1080), 25, 5), ((3840, 2160), 50, 3)])
def test_large_frames_get_shorter_reels(size, rate, count) -> None:
    assert segment_count(width=size[0], height=size[1], frame_rate=Fraction(rate), segment_s=SEGMENT) == count


@given(st.lists(st.booleans(), max_size=600), st.integers(10, 120))
def test_measured_pictures_are_eligible_and_not_many_more_than_asked(eligible: list[bool], most: int) -> None:
    picked = spread(eligible, most=most)
    assert len(picked) == len(eligible)
    assert all(flag for flag, took in zip(eligible, picked, strict=True) if took)
    if sum(eligible) <= most:
        assert picked == eligible
    else:
        assert 0 < sum(picked) <= most


def test_measured_pictures_come_in_runs_over_the_whole_length() -> None:
    picked = spread([True] * 1000, most=80)
    runs = "".join("x" if took else " " for took in picked).split()
    assert [len(run) for run in runs] == [RUN_PICTURES] * 16
    assert picked.index(True) < 125
    assert 1000 - picked[::-1].index(True) > 875


def test_the_whole_reel_may_measure_everything() -> None:
    found = whole_reel(Fraction(1), Fraction(4), measure_all=True)
    assert (found.whole, found.measure_all, found.duration_s) == (True, True, 3)


def test_a_sample_by_difficulty_has_the_films_share_of_hard_parts() -> None:
    places = [float(i) for i in range(400)]
    known = [(float(i), 9.0 if 100 <= i < 150 else 1.0) for i in range(0, 400, 5)]
    picked = sample_by_difficulty(places, known, most=40)
    assert picked == sorted(set(picked))
    assert len(picked) == 40
    assert sum(100 <= i < 150 for i in picked) == pytest.approx(5, abs=1)
    assert sample_by_difficulty(places, [], most=4) == [50, 150, 250, 350]
    assert sample_by_difficulty(places[:3], known, most=40) == [0, 1, 2]
