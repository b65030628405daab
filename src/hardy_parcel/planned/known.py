"""What is known of a plan's way: everything rehearsed and probed of it, as one forecast, and what is enough by it."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.arrival.curve import curve_rates, survival_curve
from ..core.arrival.forecast import Forecast, probed_forecast
from ..core.arrival.journey import Journey
from ..core.arrival.outlook import outlook
from ..core.arrival.rehearsal import Rehearsal
from ..core.arrival.screens import Screen, ViewerLine
from ..core.parcel.suggestions import enough_everywhere
from ..core.plan.plan import Plan
from ..store import results
from ..store.database import Database

NOTHING = outlook([], None)


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """The forecast of a parcel's curve, and the rehearsals in it. Of one that is not encoded only a perfect upload counts."""

    forecast: Forecast
    rehearsals: list[Rehearsal]
    probed: bool


def known_of(database: Database, plan: Plan, journey: Journey | None) -> Known:
    """What is known of a plan now; `journey` is the way of its picture, or of a perfect upload where nothing is encoded."""
    if journey is None:
        return Known(forecast=NOTHING, rehearsals=[], probed=False)
    rehearsals = [] if plan.copied else results.rehearsals(database, journey)
    perfect, probes = results.perfect(database, journey), results.probes(database, journey)
    rates = curve_rates(plan, [one.target_bps for one in rehearsals])
    probed = probed_forecast(journey, probes, rates) if probes else None
    return Known(forecast=outlook(rehearsals, perfect, probed), rehearsals=rehearsals, probed=probes is not None)


def enough_bps(database: Database, plan: Plan, journey: Journey) -> int | None:
    """The bit rate that is enough on every screen on a good line; None until that is known."""
    if plan.guidance is None:
        return None
    known, guidance = known_of(database, plan, journey).forecast, plan.guidance
    return enough_everywhere([
        survival_curve(
            known, screen=screen, line=ViewerLine.GOOD, guidance_low_bps=guidance.low_bps, guidance_high_bps=guidance.high_bps,
        )
        for screen in Screen
    ])
