"""How far a batch is, from the jobs of its parcels."""

from __future__ import annotations

import pytest

from hardy_parcel.core.batch.batch_progress import PackItem, PackState, batch_progress
from hardy_parcel.core.errors import Problem


def item(state: PackState, **more: object) -> PackItem:
    values: dict[str, object] = {
        "job_id": state.value, "title": "Gale → Orrery", "state": state, "share": 0.0, "expected_s": 10.0, "left_s": None,
        "expected_bytes": 100.0, "file_bytes": 0.0, "problem": None,
    }  # fmt: skip
    return PackItem(**(values | more))  # type: ignore[arg-type]


def test_share_and_time_are_weighed_by_what_each_parcel_takes() -> None:
    progress = batch_progress(
        [
            item(PackState.DONE, expected_s=30.0, share=0.9, file_bytes=100.0),
            item(PackState.RUNNING, share=0.5, left_s=7.0, file_bytes=40.0),
            item(PackState.WAITING),
        ]
    )
    assert progress.share == pytest.approx(35 / 50)
    assert progress.left_s == 17.0
    assert (progress.bytes_done, progress.bytes_expected) == (140.0, 300.0)
    assert progress.counts[PackState.WAITING] == 1
    assert not progress.paused


def test_what_failed_and_what_was_stopped_is_over() -> None:
    problem = Problem(code="disk_full", what="The disk is full.", todo="Free some space.")
    progress = batch_progress(
        [item(PackState.FAILED, problem=problem), item(PackState.STOPPED), item(PackState.FAILED)]
    )
    assert (progress.share, progress.left_s) == (1.0, None)
    assert [failure.what for failure in progress.failures] == ["The disk is full.", "It was not packed."]


def test_a_batch_is_paused_when_all_that_is_open_is() -> None:
    assert batch_progress([item(PackState.PAUSED), item(PackState.DONE)]).paused
    assert not batch_progress([item(PackState.PAUSED), item(PackState.RUNNING)]).paused
    assert not batch_progress([item(PackState.DONE)]).paused


def test_a_batch_without_parcels_is_done() -> None:
    assert (batch_progress([]).share, batch_progress([]).left_s) == (1.0, None)
