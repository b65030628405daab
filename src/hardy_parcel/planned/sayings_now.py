"""Sayings as they stand for one parcel now: both ways planned, what is known of them, and the verdict."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.arrival.rehearsal import Evidence
from ..core.errors import BadChoice, NotFound
from ..core.parcel.lane import Lane
from ..core.parcel.sayings import SAYINGS, SayingHere, Settled, Verdict, sayings_here, verdict
from ..core.plan.carrying import Line
from ..store import verdicts
from ..store.database import Database
from ..store.jobs import Job
from ..store.places import Places
from .lanes_now import lane_now
from .now import PlannedParcel
from .probes import probing, queue_probes
from .rehearsals import queue_rehearsal


@dataclass(frozen=True, slots=True, kw_only=True)
class SayingNow:
    """A saying with its two ways as lanes and what came of them; neither where it says nothing here. `job` is what is under way."""

    here: SayingHere
    follows: Lane | None = None
    leaves: Lane | None = None
    verdict: Verdict | None = None
    job: Job | None = None


def sayings_now(database: Database, now: PlannedParcel, line: Line) -> list[SayingNow]:
    """Every saying for a parcel; verdicts that are new are kept."""
    now, found = now.alone(database), []
    for here in sayings_here(now.facts, now.place, now.choices, now.plan, now.excerpt):
        ways = _ways(database, now, here)
        if not ways:
            found.append(SayingNow(here=here))
            continue
        job = next((job for way in ways if (job := probing(database, way))), None)
        follows, leaves = (lane_now(database, way, line).lane for way in ways)
        told = verdict(here.saying, follows, leaves)
        if told.outcome is not Settled.NOT_TRIED:
            verdicts.keep(database, now.facts.content_id, now.place.id, told)
        found.append(SayingNow(here=here, follows=follows, leaves=leaves, verdict=told, job=job))
    return found


def try_saying(database: Database, places: Places, now: PlannedParcel, code: str) -> list[Job]:
    """Queue what the verdict of one saying lacks; none where it is all there. Raises NotFound, or BadChoice where it says nothing here."""
    if code not in SAYINGS:
        raise NotFound(f"There is no saying '{code}'.", f"Choose one of: {', '.join(SAYINGS)}.")
    now = now.alone(database)
    here = next((one for one in sayings_here(now.facts, now.place, now.choices, now.plan, now.excerpt) if one.saying.code == code), None)
    if here is None or here.why_not:
        what = here.why_not if here else "there is no picture"
        raise BadChoice(f"That cannot be tried here: {what}.", "Try another one.", code="says_nothing")
    made: list[Job | None] = []
    for way, name in zip(_ways(database, now, here), ("following a saying", "not following it"), strict=True):
        if here.saying.told_by is Evidence.REHEARSED:
            made.append(queue_rehearsal(database, places, way, [way.plan.picture.target_bps.value], way=name))
        else:
            made.append(queue_probes(database, places, way, first=True, again=True, way=name, asked=True))
    return [job for job in made if job]


def _ways(database: Database, now: PlannedParcel, here: SayingHere) -> list[PlannedParcel]:
    if here.follows is None or here.leaves is None:
        return []
    return [now.choosing(database, one) for one in (here.follows, here.leaves)]
