"""Tests that wait for what is not there any more: a removed lane, a choice that was undone, a way of a bench that was closed."""

from __future__ import annotations

from ..store import jobs
from ..store.database import Database
from ..store.jobs import JobKind
from .besides import ways_keys
from .lanes_now import larger_frame
from .later import treated_later
from .now import planned_lanes
from .probes import every_key


def withdraw_unwanted(database: Database, master_id: str) -> None:
    """Stop what is tested for lanes, choices or ways of a master that are not there any more."""
    tests = [job for job in jobs.open_of(database, master_id) if job.kind is JobKind.PROBE and not job.cancel_asked]
    if not tests:
        return
    every = planned_lanes(database, master_id)
    wanted = {key for now in every for key in every_key(now)}
    for now in every:
        wanted |= ways_keys(database, now)
        for other in (larger_frame(database, every, now), treated_later(now)):
            if other:
                wanted |= every_key(other)
    jobs.withdraw_some(database, [job for job in tests if job.key not in wanted])
