"""Parcels: plans and their figures, rehearsing, packing."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..core.curve import rates_to_rehearse
from ..core.errors import NameTaken, PlanHeld
from ..core.facts import MasterFacts
from ..core.framing import FramingMode
from ..core.naming import file_stem, portable_stem
from ..core.parcel import Parcel, assemble
from ..core.plan import Choices, Plan
from ..core.planning import make_plan
from ..core.sheets import Destination
from ..docks.catalogue import destination, shipped_destinations
from ..store import jobs, masters, results, settings
from ..store.jobs import Job, JobKind
from ..store.masters import Master
from ..store.settings import Settings
from ..work.packing import check_room, choose_name
from .context import Context, Ctx

router = APIRouter(prefix="/api/masters/{master_id}/parcels", tags=["parcels"])

Bitrate = Annotated[int | None, Query(ge=50_000, le=400_000_000)]


class ParcelView(BaseModel):
    """A parcel with where it will be written and any rehearsal under way."""

    parcel: Parcel
    output_folder: str
    final_name: str
    name_taken: bool
    rehearsing: Job | None
    packing: Job | None


class CurveRequest(BaseModel):
    """Upload rates in bit/s to rehearse; none for the usual handful."""

    rates: Annotated[list[Annotated[int, Field(ge=50_000, le=400_000_000)]], Field(max_length=12)] = []


class PackRequest(BaseModel):
    """The file name to give, with its extension; null for the shown one."""

    file_name: Annotated[str, Field(min_length=1, max_length=240)] | None = None


def _plan(master: Master, facts: MasterFacts, place: Destination, choices: Choices) -> Plan:
    return make_plan(facts, place, choices, master.excerpt)


def _view(
    ctx: Context, master: Master, facts: MasterFacts, place: Destination, choices: Choices, kept: Settings
) -> ParcelView:
    plan = _plan(master, facts, place, choices)
    known = results.perfect(ctx.database, plan.picture_key())
    parcel = assemble(
        facts=facts, destination=place, choices=choices, plan=plan, line=kept.line,
        rehearsals=results.rehearsals(ctx.database, plan.picture_key()),
        perfect=known[1] if known else None,
        measured_fps=results.packing_speed(ctx.database, plan),
    )
    folder = ctx.places.outbox if kept.output_folder is None else ctx.places.within(ctx.places.data / kept.output_folder)
    promised = {name for where, name in jobs.promised_targets(ctx.database) if where == str(folder)}
    stem, extension = file_stem(facts.name, plan), plan.container.value
    final = choose_name(folder, stem, extension, promised)
    return ParcelView(
        parcel=parcel, output_folder=str(folder), final_name=final, name_taken=final != f"{stem}.{extension}",
        rehearsing=jobs.open_like(ctx.database, JobKind.CURVE, master.id, place.id, picture_key=plan.picture_key()),
        packing=jobs.open_like(ctx.database, JobKind.PACK, master.id, place.id),
    )


@router.get("")
def parcels(master_id: str, ctx: Ctx) -> list[ParcelView]:
    """The parcel of this master for every destination."""
    master, facts = ctx.readable(master_id)
    chosen, kept = masters.choices(ctx.database, master_id), settings.load(ctx.database)
    return [
        _view(ctx, master, facts, place, chosen.get(place.id, Choices()), kept)
        for place in shipped_destinations().values()
    ]


@router.get("/{destination_id}")
def parcel(
    master_id: str, destination_id: str, ctx: Ctx, video_bitrate_bps: Bitrate = None, framing: FramingMode | None = None
) -> ParcelView:
    """One parcel; with a bit rate or framing, as it would be with them, without keeping them."""
    master, facts = ctx.readable(master_id)
    place = destination(destination_id)
    choices = masters.choices(ctx.database, master_id).get(place.id, Choices())
    changes = {"video_bitrate_bps": video_bitrate_bps, "framing": framing}
    choices = choices.model_copy(update={name: value for name, value in changes.items() if value is not None})
    return _view(ctx, master, facts, place, choices, settings.load(ctx.database))


@router.put("/{destination_id}/choices")
def choose(master_id: str, destination_id: str, choices: Choices, ctx: Ctx) -> ParcelView:
    """Keep what the creator chose; the plan follows. A choice no plan can follow is refused and nothing changes."""
    master, facts = ctx.readable(master_id)
    place = destination(destination_id)
    view = _view(ctx, master, facts, place, choices, settings.load(ctx.database))
    masters.choose(ctx.database, master_id, place.id, choices)
    return view


@router.post("/{destination_id}/curve", status_code=202)
def rehearse(master_id: str, destination_id: str, request: CurveRequest, ctx: Ctx) -> Job:
    """Rehearse at a handful of upload rates; the one under way is returned if there is one."""
    master, facts = ctx.readable(master_id)
    place = destination(destination_id)
    choices = masters.choices(ctx.database, master_id).get(place.id, Choices())
    plan = _plan(master, facts, place, choices)
    under_way = jobs.open_like(ctx.database, JobKind.CURVE, master_id, place.id, picture_key=plan.picture_key())
    if under_way:
        return under_way
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    rates = request.rates or rates_to_rehearse(plan.guidance.low_bps, plan.guidance.high_bps)
    return jobs.add(
        ctx.database, JobKind.CURVE, title=f"Rehearsing {facts.name} for {plan.destination_name}",
        spec=_spec(master, facts, place, choices, plan) | {"rates": rates}, master_id=master_id, destination_id=place.id,
        picture_key=plan.picture_key(),
    )


@router.post("/{destination_id}/pack", status_code=202)
def pack(master_id: str, destination_id: str, request: PackRequest, ctx: Ctx) -> Job:
    """Queue the packing of this parcel. A name that is taken is refused; leave it out for a free one."""
    master, facts = ctx.readable(master_id)
    place = destination(destination_id)
    choices = masters.choices(ctx.database, master_id).get(place.id, Choices())
    plan = _plan(master, facts, place, choices)
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    folder = ctx.places.output_folder(settings.load(ctx.database).output_folder)
    check_room(folder, plan)
    promised = {name for where, name in jobs.promised_targets(ctx.database) if where == str(folder)}
    extension = plan.container.value
    if request.file_name is None:
        name = choose_name(folder, file_stem(facts.name, plan), extension, promised)
    else:
        name = f"{portable_stem(request.file_name.removesuffix(f'.{extension}'))}.{extension}"
        if name in promised or (folder / name).exists():
            raise NameTaken(f"{folder} already has, or will have, a file {name}.", "Choose another name.")
    return jobs.add(
        ctx.database, JobKind.PACK, title=f"{facts.name} → {plan.destination_name}",
        spec=_spec(master, facts, place, choices, plan) | {"folder": str(folder), "file_name": name},
        master_id=master_id, destination_id=place.id,
    )


def _spec(master: Master, facts: MasterFacts, place: Destination, choices: Choices, plan: Plan) -> dict:
    return {
        "path": master.path,
        "facts": facts.model_dump(mode="json"),
        "plan": plan.model_dump(mode="json"),
        "choices": choices.model_dump(mode="json"),
        "destination": place.model_dump(mode="json"),
    }
