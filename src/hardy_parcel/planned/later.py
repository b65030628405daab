"""A parcel as a kinder platform would treat it one day."""

from __future__ import annotations

from dataclasses import replace

from ..core.parcel.reserve import Reserve, reserves
from ..core.sheets.kinder import kinder
from ..store.database import Database
from .known import known_of
from .now import PlannedParcel


def treated_later(now: PlannedParcel) -> PlannedParcel | None:
    """The same upload where its platform's handling is one step gentler; None where nothing is encoded again, or nothing by us."""
    if now.plan.video is None or now.plan.copied or now.plan.held or not now.place.placement.re_encodes:
        return None
    return replace(now, place=kinder(now.place))


def reserve_now(database: Database, now: PlannedParcel) -> tuple[Reserve, ...]:
    """What a kinder ladder would make of it, once moments were tried through both; empty before."""
    later = treated_later(now)
    if later is None:
        return ()
    known, then = known_of(database, now.plan, now.journey), known_of(database, later.plan, later.journey)
    return reserves(now.plan, known.forecast, then.forecast) if known.probed and then.probed else ()
