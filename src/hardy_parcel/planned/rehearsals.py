"""The job that rehearses a parcel, kept or only tried."""

from __future__ import annotations

from collections.abc import Sequence

from ..core.arrival.curve import usual_rates
from ..core.errors import BadChoice, PlanHeld
from ..processes.messages import RehearseTask
from ..store import jobs
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.places import Places
from .now import ENCODED, PlannedParcel, difficulty_of


def queue_rehearsal(database: Database, places: Places, now: PlannedParcel, rates: Sequence[int] = (), *, way: str = "") -> Job:
    """Rehearse at upload rates (bit/s), none for the usual handful; the job under way is returned if there is one.

    Of what is sent as it is only the perfect upload is rehearsed, since that is what it is. Raises PlanHeld, or BadChoice without
    a picture or where another parcel's file is sent.
    """
    copied, plan, choices, journey = now.plan.copied, now.encoded, ENCODED if now.plan.copied else now.choices, now.journey
    if now.served_by:
        what = f"{now.place.full_name} goes out in the file of {now.plan.destination_name}."
        raise BadChoice(what, "Rehearse that one, or give this a file of its own.", code="shared_file")
    if now.plan.held:
        raise PlanHeld(now.plan.held[0].sentence)
    if plan.video is None or plan.guidance is None or journey is None:
        what = f"{plan.destination_name} takes no picture, so there is none to compare."
        raise BadChoice(what, "Rehearse another lane.", code="no_picture")
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    under_way = jobs.open_like(database, JobKind.REHEARSE, now.master.id, parcel_id=now.parcel.id, key=journey.curve_key)
    if under_way:
        return under_way
    task = RehearseTask(
        path=now.path, facts=now.facts, plan=plan, destination=now.place, choices=choices, folder=places.rehearsals,
        rates=() if copied else tuple(rates or usual_rates(plan)), difficulty=difficulty_of(database, now.facts.content_id),
    )
    named = f"{plan.destination_name}, {way}" if way else plan.destination_name
    return jobs.add(
        database, JobKind.REHEARSE, title=f"Rehearsing {now.facts.name} for {named}", task=task, master_id=now.master.id,
        parcel_id=now.parcel.id, key=journey.curve_key,
    )
