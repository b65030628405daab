"""What is known of a plan's way: everything rehearsed and probed of it, as one forecast, and what is enough by it."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

from ..core.arrival.curve import curve_rates
from ..core.arrival.forecast import Forecast, Probes, probed_forecast
from ..core.arrival.journey import Journey
from ..core.arrival.moments import OverTime, ProbedReel, over_time
from ..core.arrival.outlook import Anchor, moved_to, outlook
from ..core.arrival.prior import sheet_forecast
from ..core.arrival.rehearsal import PerfectUpload, Rehearsal
from ..core.arrival.returned import PackedMeasure, returned_perfect, returned_rehearsal
from ..core.arrival.windows import Reel
from ..core.lately import LatelyMade
from ..core.master.checks.evidence import Difficulty
from ..core.parcel.recommending import enough_rate
from ..core.parcel.returned_file import LARGEST
from ..core.parcel.sending import Sending, evidence_key, evidence_place
from ..core.plan.plan import Plan, duration_s
from ..core.trade.codecs import PROBED_QUALITIES
from ..store import masters, results, returned_files, sendings
from ..store.database import Database

NOTHING = outlook([], None)
ENOUGH_BY_THEMSELVES = 2
"""So many rehearsals tell more of what lies between them than what is only supposed."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """The forecast of a parcel's curve, and the rehearsals in it. Of one that is not encoded only a perfect upload counts."""

    forecast: Forecast
    rehearsals: list[Rehearsal]
    probed: bool


_computed: LatelyMade[Known] = LatelyMade(256)
"""What was computed of a way lately, by everything that it is computed from."""


def known_of(database: Database, plan: Plan, journey: Journey | None) -> Known:
    """What is known of a plan now; `journey` is the way of its picture, or of a perfect upload where nothing is encoded."""
    if journey is None:
        return Known(forecast=NOTHING, rehearsals=[], probed=False)
    return _known(database, plan, journey, _measured(database, plan, journey), _brought(database, plan, journey))


def tested(database: Database, plan: Plan, journey: Journey) -> Forecast:
    """What all tests foretell of a plan by now, as if nothing of it had come back."""
    rehearsals = [] if plan.copied else results.rehearsals(database, journey)
    return _known(database, plan, journey, (rehearsals, results.perfect(database, journey)), ()).forecast


def _known(
    database: Database,
    plan: Plan,
    journey: Journey,
    measured: tuple[list[Rehearsal], PerfectUpload | None],
    brought: tuple[Anchor, ...],
) -> Known:
    rehearsals, perfect = measured
    probed, probes = best_probes(database, journey)
    rates = tuple(
        curve_rates(plan, [*(item.target_bps for item in rehearsals), *(item.target_bps for item in brought)])
    )
    supposed, difficulty = False, tuple[Difficulty, ...]()
    if (
        probes is None
        and len(rehearsals) < ENOUGH_BY_THEMSELVES
        and plan.guidance
        and journey.plan.picture.codec.value in PROBED_QUALITIES
    ):
        supposed, difficulty = True, _difficulty(database, plan)
    key = (
        journey.curve_key,
        plan.copied,
        rates,
        brought,
        supposed and (journey.reel_key, len(difficulty)),
        probes and (probes.scaled.key, probes.upload.key, probes.effort.key, probes.handling and probes.handling.key),
    )

    def compute() -> Known:
        computed = (
            probed_forecast(probed, probes, rates)
            if probes
            else sheet_forecast(journey, difficulty, rates)
            if supposed
            else None
        )
        return Known(
            forecast=moved_to(outlook(rehearsals, perfect, computed), brought),
            rehearsals=rehearsals,
            probed=probes is not None,
        )

    return _computed.of(key, (*rehearsals, perfect), compute)


def best_probes(database: Database, journey: Journey) -> tuple[Journey, Probes | None]:
    """What was probed of a way; quick probes stand in for the others until these are there."""
    for option in (journey, journey.quickly):
        if result := results.probes(database, option):
            return option, result
    return journey, None


def _measured(database: Database, plan: Plan, journey: Journey) -> tuple[list[Rehearsal], PerfectUpload | None]:
    """What was measured of a way: rehearsals, in whose place what came back stands at its rate, and a perfect upload.

    What came back at one upload rate is a point of the whole curve, as a rehearsal is.
    """
    perfect = results.perfect(database, journey)
    back = sendings.returned(database, evidence_key(plan, journey.destination))
    if plan.copied:
        local = (
            _perfect_back.of(journey.perfect_key, (back,), partial(returned_perfect, journey, back.files))
            if back
            else None
        )
        return [], local or perfect
    placement = evidence_place(plan, journey.destination)
    sent = {placement.target_bps: back} if placement and back else {}
    if placement:
        sent |= sendings.returned_on_curve(database, placement)
    points = {}
    for rate, item in sent.items():
        if item.packed:
            make = partial(_point, plan, journey, item, item.packed, rate)
            points[rate] = _back.of((journey.curve_key, rate), (item, item.packed), make)
    came = [point for point in points.values() if point]
    rates = {point.target_bps for point in came}
    return [*came, *(item for item in results.rehearsals(database, journey) if item.target_bps not in rates)], perfect


def _brought(database: Database, plan: Plan, journey: Journey) -> tuple[Anchor, ...]:
    """What files show that were brought back of this curve, the latest of each rate: of the best that is served, on the screens that get
    it."""
    placement = evidence_place(plan, journey.destination)
    result = {}
    for rate, record in returned_files.on_curve(database, placement) if placement else []:
        if record.found and record.own and record.found.observation.best:
            seen = {screen: value for screen, value in record.found.conditions.items() if screen in LARGEST}
            result[rate] = Anchor(target_bps=rate, conditions=tuple(sorted(seen.items())))
    return tuple(result[rate] for rate in sorted(result))


_back: LatelyMade[Rehearsal | None] = LatelyMade(256)
_perfect_back: LatelyMade[PerfectUpload | None] = LatelyMade(64)


def _point(plan: Plan, journey: Journey, back: Sending, packed: PackedMeasure, rate: int) -> Rehearsal | None:
    achieved = min(rate, round(back.size_bytes * 8 / max(0.001, float(duration_s(plan)))))
    return returned_rehearsal(journey, packed, back.files, target_bps=rate, achieved_bps=achieved)


def moments_of(database: Database, plan: Plan, journey: Journey | None) -> OverTime | None:
    """Condition along the film at the plan's rate; None where nothing was tried, or nothing is encoded."""
    if journey is None or plan.copied:
        return None
    option, probes = best_probes(database, journey)
    reel = results.measurement(database, Reel, option.probe_reel_key)
    probed = ProbedReel(probes=probes, reel=reel) if probes and reel else None
    return over_time(plan.picture.target_bps.value, _measured(database, plan, journey)[0], journey, probed)


def _difficulty(database: Database, plan: Plan) -> tuple[Difficulty, ...]:
    """What the checks measured of the plan's excerpt."""
    looked_through, excerpt = masters.survey(database, plan.master_content_id).picture, plan.excerpt
    if looked_through is None:
        return ()

    def within() -> tuple[Difficulty, ...]:
        return tuple(item for item in looked_through.difficulty if excerpt.in_s <= item.at_s < excerpt.out_s)

    return _seconds.of((excerpt.in_s, excerpt.out_s), (looked_through,), within)


_seconds: LatelyMade[tuple[Difficulty, ...]] = LatelyMade(64)


def enough_bps(database: Database, plan: Plan, journey: Journey) -> int | None:
    """The bit rate from which on no screen shows it visibly worse than a perfect upload; None until that is known."""
    return None if plan.guidance is None else enough_rate(known_of(database, plan, journey).forecast)
