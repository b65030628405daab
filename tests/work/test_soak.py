"""A small form of `make soak`: killed at random moments, nothing is lost, doubled or left about."""

from __future__ import annotations

from pathlib import Path

from benchmarks.soak import soak


def test_kills_at_random_moments_lose_and_double_nothing(tmp_path: Path) -> None:
    found = soak(tmp_path, faults=2, seed=3, names=("the child is killed", "both are killed"))
    assert {name: wrong for name, (_, wrong) in found.items() if wrong} == {}
    assert [count for count, _ in found.values()] == [1, 1]
