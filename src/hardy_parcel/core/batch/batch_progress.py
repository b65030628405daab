"""How far a batch is: counts, share, time left and bytes, from the packing jobs of its parcels."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

from ..errors import Problem
from ..values import Model


class PackState(StrEnum):
    """Where one parcel of a batch stands."""

    WAITING = "waiting"
    PAUSED = "paused"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    STOPPED = "stopped"


OPEN = frozenset({PackState.WAITING, PackState.PAUSED, PackState.RUNNING})


@dataclass(frozen=True, slots=True, kw_only=True)
class PackItem:
    """The latest packing job of one parcel. Times are in s, `share` is 0 to 1, `expected_bytes` what the file may come to."""

    job_id: str
    title: str
    state: PackState
    share: float
    expected_s: float
    left_s: float | None
    expected_bytes: float
    file_bytes: float
    problem: Problem | None


class BatchFailure(Model):
    """A parcel that was not packed, with what happened and what to do."""

    job_id: str
    title: str
    what: str
    todo: str


class BatchProgress(Model):
    """A batch as it stands. `share` is 0 to 1 by expected time; `left_s` is None once nothing waits or runs.

    `bytes_done` counts finished files and what running ones have so far; `paused` says that all that is open is paused.
    """

    counts: dict[PackState, int]
    parcels: int
    share: float
    left_s: float | None
    bytes_done: float
    bytes_expected: float
    paused: bool
    failures: tuple[BatchFailure, ...]


def batch_progress(items: Sequence[PackItem]) -> BatchProgress:
    """The progress of a batch with these parcels; share 1 for none."""
    still_open = [item for item in items if item.state in OPEN]
    whole_s = sum(max(item.expected_s, 0.1) for item in items)
    done_s = sum(max(item.expected_s, 0.1) * _share(item) for item in items)
    return BatchProgress(
        counts={state: sum(item.state is state for item in items) for state in PackState},
        parcels=len(items),
        share=done_s / whole_s if items else 1.0,
        left_s=sum(_left_s(item) for item in still_open) if still_open else None,
        bytes_done=sum(item.file_bytes for item in items),
        bytes_expected=sum(item.expected_bytes for item in items),
        paused=bool(still_open) and all(item.state is PackState.PAUSED for item in still_open),
        failures=tuple(
            BatchFailure(
                job_id=item.job_id,
                title=item.title,
                what=item.problem.what if item.problem else "It was not packed.",
                todo=item.problem.todo if item.problem else "Try again.",
            )
            for item in items
            if item.state is PackState.FAILED
        ),
    )


def _share(item: PackItem) -> float:
    return item.share if item.state in OPEN else 1.0


def _left_s(item: PackItem) -> float:
    return item.left_s if item.left_s is not None else item.expected_s * (1 - item.share)
