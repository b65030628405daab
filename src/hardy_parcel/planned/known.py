"""What is known of a parcel's way: everything rehearsed and probed of it, as one forecast."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.arrival.curve import curve_rates
from ..core.arrival.forecast import Forecast, probed_forecast
from ..core.arrival.outlook import outlook
from ..core.arrival.rehearsal import Rehearsal
from ..store import results
from ..store.database import Database
from .now import PlannedParcel

NOTHING = outlook([], None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """The forecast of a parcel's curve, and the rehearsals in it. Of one that is not encoded only a perfect upload counts."""

    forecast: Forecast
    rehearsals: list[Rehearsal]
    probed: bool


def known_of(database: Database, now: PlannedParcel) -> Known:
    """What is known of a parcel now."""
    journey = now.journey
    if journey is None:
        return Known(forecast=NOTHING, rehearsals=[], probed=False)
    rehearsals = [] if now.plan.copied else results.rehearsals(database, journey)
    perfect, probes = results.perfect(database, journey), results.probes(database, journey)
    rates = curve_rates(now.plan, [one.target_bps for one in rehearsals])
    probed = probed_forecast(journey, probes, rates) if probes else None
    return Known(forecast=outlook(rehearsals, perfect, probed), rehearsals=rehearsals, probed=probes is not None)
