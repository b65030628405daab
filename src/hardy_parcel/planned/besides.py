"""Other ways of a parcel with what probes tell of each."""

from __future__ import annotations

from dataclasses import dataclass, replace

from ..core.lately import LatelyMade
from ..core.parcel.parcel import Parcel
from ..core.parcel.what_ifs import WhatIf, what_ifs
from ..store import jobs
from ..store.database import Database
from ..store.jobs import JobKind
from ..store.places import Places
from .known import Known, known_of
from .now import PlannedParcel
from .probes import ALTERNATIVE, LAST, every_key, queue_probes


@dataclass(frozen=True, slots=True, kw_only=True)
class Beside:
    """Another way of a parcel, planned, and what is known of it."""

    what_if: WhatIf
    now: PlannedParcel
    known: Known


def besides(database: Database, now: PlannedParcel) -> list[Beside]:
    """The other ways that were probed as the parcel itself was; what is only supposed is too unsure to tell codecs apart."""
    result: list[Beside] = []
    if not known_of(database, now.plan, now.journey).probed:
        return result
    for item, other in _planned(database, now):
        stored_ones = known_of(database, other.plan, other.journey)
        if stored_ones.probed:
            result.append(Beside(what_if=item, now=other, known=stored_ones))
    return result


def queue_besides(database: Database, places: Places, now: PlannedParcel) -> None:
    """Queue what the other ways lack, after the first figures of all lanes; those of parcels that are not open any more go last."""
    jobs.put_later(database, JobKind.PROBE, rank=ALTERNATIVE, later=LAST, parcel_id=now.parcel.id)
    for item, other in _planned(database, now):
        queue_probes(database, places, other, rank=ALTERNATIVE, way=item.words)


def ways_keys(database: Database, now: PlannedParcel) -> set[str]:
    """What would be probed of the other ways."""
    return {key for _, other in _planned(database, now) for key in every_key(other)}


def _planned(database: Database, now: PlannedParcel) -> list[tuple[WhatIf, PlannedParcel]]:
    """Kept lately, since every look at a lane asks for them; a rate that follows from what was measured is planned anew."""
    if now.choices.times_enough is not None:
        return _plan(database, now)
    key = (
        now.plan.key(),
        now.choices.model_dump_json(),
        now.place.model_dump_json(),
        now.facts.mending.model_dump_json(),
    )
    stored = _lately.of((now.parcel.id, *key), (now.facts,), lambda: _plan(database, now))
    return [(item, replace(other, master=now.master, parcel=_parcel(now, item))) for item, other in stored]


def _parcel(now: PlannedParcel, item: WhatIf) -> Parcel:
    return now.parcel.model_copy(update={"choices": item.choices, "served_by": None})


_lately: LatelyMade[list[tuple[WhatIf, PlannedParcel]]] = LatelyMade(256)


def _plan(database: Database, now: PlannedParcel) -> list[tuple[WhatIf, PlannedParcel]]:
    every = what_ifs(now.facts, now.place, now.choices, now.plan, now.excerpt)
    plan_now = [(item, now.choosing(database, item.choices)) for item in every]
    return [(item, other) for item, other in plan_now if not other.plan.held and not other.plan.copied]
