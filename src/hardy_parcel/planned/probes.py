"""Which probes a parcel's forecast still lacks, and the job that makes them."""

from __future__ import annotations

from ..core.trade.codecs import PROBED_QUALITIES
from ..processes.messages import ProbeTask
from ..store import jobs, results, settings
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.places import Places
from .now import PlannedParcel, difficulty_of


def probes_key(now: PlannedParcel) -> str | None:
    """What would be probed for a parcel; None where there is nothing to try: sound alone, a codec whose pictures are of one size, or
    the master itself where nobody encodes it again."""
    journey = now.journey
    if journey is None or journey.plan.held or journey.plan.guidance is None:
        return None
    if now.plan.copied and not now.place.placement.re_encodes:  # the master itself arrives
        return None
    return journey.probes_key if journey.plan.picture.codec.value in PROBED_QUALITIES else None


def probing(database: Database, now: PlannedParcel) -> Job | None:
    """The job that probes for this parcel, waiting or under way."""
    key = probes_key(now)
    return jobs.open_like(database, JobKind.PROBE, now.master.id, key=key) if key else None


def lacks_probes(database: Database, now: PlannedParcel, *, again: bool = False) -> bool:
    """Whether probing would tell something new, and was not tried in vain; with `again` that does not matter."""
    key, journey = probes_key(now), now.journey
    if key is None or journey is None or results.probes(database, journey):
        return False
    return again or not jobs.failed_like(database, JobKind.PROBE, key)


ALTERNATIVE, LAST = 500.0, 1000.0
"""Ranks of what is tested after the first figure of every lane: other ways of the lane on the open bench, then all the rest."""


def queue_probes(
    database: Database, places: Places, now: PlannedParcel, *, first: bool = False, again: bool = False, rank: float = 0, way: str = "",
    asked: bool = False,
) -> Job | None:
    """Queue what a parcel's forecast lacks, `first` before all other probes; None where nothing is to be done, or where probing is off
    and it was not `asked` for.

    `way` says in the job's title how it differs from the parcel that is kept.
    """
    if not (asked or settings.load(database).probing) or not lacks_probes(database, now, again=again):
        return None
    waiting = probing(database, now)
    if waiting is None:
        plan = now.encoded
        task = ProbeTask(
            path=now.path, facts=now.facts, plan=plan, destination=now.place, folder=places.rehearsals,
            difficulty=difficulty_of(database, now.facts.content_id),
        )
        named = f"{plan.destination_name}, {way}" if way else plan.destination_name
        waiting = jobs.add(
            database, JobKind.PROBE, title=f"Testing sample clips of {now.facts.name} for {named}", task=task,
            master_id=now.master.id, parcel_id=now.parcel.id, key=probes_key(now), rank=rank,
        )
    if first:
        jobs.put_before(database, waiting)
    return waiting
