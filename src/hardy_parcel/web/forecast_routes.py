"""What is tried of a parcel so that every rate can be told of, and what lies beside its curve."""

from __future__ import annotations

from typing import Any

from fastapi import APIRouter
from pydantic import BaseModel

from ..core.arrival.bands import paired_band
from ..core.arrival.condition import NOTICEABLE_STEP
from ..core.arrival.curve import ConditionAt, condition_at, rate_span, survival_curve
from ..core.arrival.rehearsal import Evidence
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadInput
from ..core.parcel.reserve import Reserve
from ..planned.besides import Beside, besides, queue_besides
from ..planned.known import known_of
from ..planned.later import reserve_now, treated_later
from ..planned.now import PlannedParcel, planned
from ..planned.probes import probing, queue_probes
from ..planned.testing_lanes import queue_tests
from ..planned.unwanted import withdraw_unwanted
from ..store import jobs
from ..store.jobs import Job, JobKind, JobState
from .context import Context, Ctx
from .packing_routes import ParcelId

router = APIRouter(prefix="/api", tags=["forecasts"])


class Probing(BaseModel):
    """The jobs that try moments of what was asked for, in their order; none where all is known or probing is switched off."""

    jobs: tuple[Job, ...]


@router.post("/parcels/{parcel_id}/probe", status_code=202)
def probe(parcel_id: ParcelId, ctx: Ctx) -> Probing:
    """Try a few moments of this parcel before any other's, so that what arrives can be told at every rate; of its other ways last."""
    now = planned(ctx.database, parcel_id)
    jobs.put_film_first(ctx.database, JobKind.PROBE, now.master.id)
    withdraw_unwanted(ctx.database, now.master.id)
    made = queue_probes(ctx.database, ctx.places, now, first=True, again=True)
    queue_besides(ctx.database, ctx.places, now)
    return Probing(jobs=(made,) if made else ())


class BesideLine(BaseModel):
    """Another way's curve for one screen and line: pairs of bit/s and condition, within the range of the parcel's own handle."""

    screen: Screen
    line: ViewerLine
    drawn: tuple[tuple[float, float], ...]


class BesideView(BaseModel):
    """Another way of a parcel: its name, the choices that it changes, its curves, how sure they are in points, and how sure a
    noticeable difference from the parcel's own curve is."""

    words: str
    part: dict[str, Any]
    evidence: Evidence
    band: float
    paired_band: float
    lines: tuple[BesideLine, ...]


@router.get("/parcels/{parcel_id}/besides")
def other_ways(parcel_id: ParcelId, ctx: Ctx) -> tuple[BesideView, ...]:
    """Other codecs and sizes beside this parcel, of which moments were tried as of the parcel itself."""
    now = planned(ctx.database, parcel_id)
    span = rate_span(now.plan, [])
    if span is None:
        return ()
    own = condition_at(
        now.plan.picture.target_bps.value,
        known_of(ctx.database, now.plan, now.journey).forecast,
        screen=Screen.LAPTOP,
        line=ViewerLine.GOOD,
    )
    return tuple(_beside(one, span, own) for one in besides(ctx.database, now))


def _beside(one: Beside, span: tuple[int, int], own: ConditionAt | None) -> BesideView:
    forecast = one.known.forecast
    lines = []
    for view in forecast.views:
        curve = survival_curve(forecast, screen=view.screen, line=view.line)
        within = tuple((bps, value) for bps, value in curve.line if span[0] <= bps <= span[1])
        lines.append(BesideLine(screen=view.screen, line=view.line, drawn=within))
    evidence, band = forecast.between, max(forecast.bands)
    return BesideView(
        words=one.what_if.words,
        part=one.what_if.part,
        evidence=evidence,
        band=band,
        lines=tuple(lines),
        paired_band=paired_band(
            (evidence, band), (own.evidence, own.band) if own else (evidence, band), NOTICEABLE_STEP
        ),
    )


class ReserveView(BaseModel):
    """What this upload is worth to a kinder ladder, by screen and line; empty before it was tried. `possible` says whether there is such
    a ladder."""

    possible: bool
    reserves: tuple[Reserve, ...]
    job: Job | None


@router.get("/parcels/{parcel_id}/reserve")
def reserve(parcel_id: ParcelId, ctx: Ctx) -> ReserveView:
    """What the platform would make of this upload if it encoded a step more gently one day."""
    return _reserve(ctx, planned(ctx.database, parcel_id))


@router.post("/parcels/{parcel_id}/reserve", status_code=202)
def try_reserve(parcel_id: ParcelId, ctx: Ctx) -> ReserveView:
    """Try moments through a kinder ladder, and through its own where that was not done."""
    now = planned(ctx.database, parcel_id)
    later = treated_later(now)
    if later is None:
        raise BadInput("Nothing is encoded again of this parcel.", "It arrives as it is sent.", code="not_re_encoded")
    queue_probes(ctx.database, ctx.places, now, first=True, again=True, asked=True)
    queue_probes(ctx.database, ctx.places, later, again=True, asked=True, way="treated more gently")
    return _reserve(ctx, now)


def _reserve(ctx: Context, now: PlannedParcel) -> ReserveView:
    later = treated_later(now)
    if later is None:
        return ReserveView(possible=False, reserves=(), job=None)
    return ReserveView(possible=True, reserves=reserve_now(ctx.database, now), job=probing(ctx.database, later))


@router.post("/masters/{master_id}/probe", status_code=202)
def probe_lanes(master_id: str, ctx: Ctx) -> Probing:
    """Test clips for every lane of a master, one after the other, those that lack them and were not tested in vain; then for larger
    frames beside them. The film that this is asked for goes before all others."""
    jobs.put_film_first(ctx.database, JobKind.PROBE, master_id)
    withdraw_unwanted(ctx.database, master_id)
    return Probing(jobs=tuple(queue_tests(ctx.database, ctx.places, master_id)))


@router.post("/masters/{master_id}/leave", status_code=204)
def leave(master_id: str, ctx: Ctx) -> None:
    """Nobody looks at this film any more: what waits to be tested for it is withdrawn, and asked for again with the next look."""
    waiting = [
        job
        for job in jobs.open_of(ctx.database, master_id)
        if job.kind is JobKind.PROBE and job.state is JobState.WAITING
    ]
    jobs.withdraw_some(ctx.database, waiting)


@router.post("/parcels/{parcel_id}/tests/stop", status_code=204)
def stop_tests_of(parcel_id: ParcelId, ctx: Ctx) -> None:
    """Stop all tests for one parcel, those under way and those that wait; each begins again when it is asked for."""
    for job in jobs.open_of_kind(ctx.database, JobKind.PROBE):
        if job.parcel_id == parcel_id:
            jobs.ask_cancel(ctx.database, job.id)


@router.post("/tests/stop", status_code=204)
def stop_tests(ctx: Ctx) -> None:
    """Stop all tests under way and all that wait; each begins again when it is asked for."""
    for job in jobs.open_of_kind(ctx.database, JobKind.PROBE):
        jobs.ask_cancel(ctx.database, job.id)
