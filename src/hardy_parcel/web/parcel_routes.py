"""Parcels: plans and their figures, rehearsing, packing."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Body, Query
from pydantic import BaseModel, Field

from ..core.arrival.curve import usual_rates
from ..core.errors import BadChoice, NameTaken, PlanChanged, PlanHeld
from ..core.parcel.cap_ways import Alternative, alternatives
from ..core.parcel.offers import Offers, offers
from ..core.parcel.summary import ParcelSummary, summarize
from ..core.plan import as_it_is
from ..core.plan.choices import Choices, Method
from ..core.plan.encoder_settings import encoder_words
from ..core.plan.framing import FramingMode
from ..core.plan.naming import file_stem, portable_stem
from ..core.plan.planning import changed
from ..docks.catalogue import destination, destinations_now
from ..store import jobs, kept_sheets, masters, results, settings
from ..store.jobs import Job, JobKind
from ..store.settings import Settings
from ..work.packing import check_room, choose_name
from .context import Context, Ctx
from .planned import Planned, SheetNews, lanes_of, planned, sheet_news

router = APIRouter(prefix="/api/masters/{master_id}", tags=["parcels"])

Bitrate = Annotated[int | None, Query(ge=50_000, le=400_000_000)]


class ParcelView(BaseModel):
    """A parcel with where it will be written, what may be chosen, and any rehearsal under way.

    `told` is what the encoder is told by its own names; `as_it_is` says whether the master may go without encoding.
    Among others, in lanes, nothing is offered or told.
    """

    parcel: ParcelSummary
    output_folder: str
    final_name: str
    name_taken: bool
    rehearsing: Job | None
    packing: Job | None
    offers: Offers
    told: dict[str, str]
    as_it_is: bool
    news: SheetNews | None
    alternatives: tuple[Alternative, ...] = ()


ChoicesPart = Annotated[dict[str, Any], Body(max_length=30)]
"""Some choices by their names; null leaves one to the plan."""


class LanesRequest(BaseModel):
    """Destination ids in the order of their lanes."""

    destinations: Annotated[list[Annotated[str, Field(max_length=130)]], Field(min_length=1, max_length=30)]


class CurveRequest(BaseModel):
    """Upload rates in bit/s to rehearse; none for the usual handful."""

    rates: Annotated[list[Annotated[int, Field(ge=50_000, le=400_000_000)]], Field(max_length=12)] = []


class PackRequest(BaseModel):
    """The key of the plan that was seen, and the file name to give, with its extension; null for the shown one."""

    plan_key: Annotated[str, Field(min_length=1, max_length=40)]
    file_name: Annotated[str, Field(min_length=1, max_length=240)] | None = None


def _view(ctx: Context, now: Planned, kept: Settings, *, alone: bool = True) -> ParcelView:
    plan, facts, place, master = now.plan, now.facts, now.place, now.master
    key = plan.picture_key() if plan.video else None
    known = results.perfect(ctx.database, now.encoded().way_key()) if plan.video else None
    parcel = summarize(
        facts=facts, destination=place, choices=now.choices, plan=plan, line=kept.line,
        rehearsals=results.rehearsals(ctx.database, key) if key else [],
        perfect=known[1] if known else None,
        measured_fps=results.packing_speed(ctx.database, plan), ours=now.ours(),
    )
    folder = ctx.places.outbox if kept.output_folder is None else ctx.places.within(ctx.places.data / kept.output_folder)
    promised = {name for where, name in jobs.promised_targets(ctx.database) if where == str(folder)}
    stem, extension = file_stem(facts.name, plan), plan.container.value
    final = choose_name(folder, stem, extension, promised)
    return ParcelView(
        parcel=parcel, output_folder=str(folder), final_name=final, name_taken=final != f"{stem}.{extension}",
        rehearsing=jobs.open_like(ctx.database, JobKind.CURVE, master.id, place.id, picture_key=key) if key else None,
        packing=jobs.open_like(ctx.database, JobKind.PACK, master.id, place.id),
        offers=offers(facts, place, now.choices, plan, now.excerpt, kept.line) if alone else Offers(),
        told=encoder_words(plan) if alone else {},
        as_it_is=not as_it_is.against(facts, place, now.excerpt), news=sheet_news(ctx, now),
        alternatives=alternatives(facts, place, now.choices, plan, now.excerpt) if alone else (),
    )


@router.get("/lanes")
def lanes(master_id: str, ctx: Ctx) -> list[str]:
    """The destinations of this master's lanes."""
    masters.get(ctx.database, master_id)
    return lanes_of(ctx, master_id)


@router.put("/lanes")
def choose_lanes(master_id: str, request: LanesRequest, ctx: Ctx) -> list[str]:
    """Choose them; one that does not exist is refused and nothing changes."""
    masters.get(ctx.database, master_id)
    wanted = list(dict.fromkeys(request.destinations))
    known = destinations_now(ctx.database)
    for one in wanted:
        if one not in known:
            destination(one, ctx.database)
    kept_sheets.set_lanes(ctx.database, master_id, wanted)
    return lanes_of(ctx, master_id)


@router.get("/parcels")
def parcels(master_id: str, ctx: Ctx) -> list[ParcelView]:
    """The parcel of this master for every destination of its lanes, and as it is where that is taken."""
    ctx.readable(master_id)
    kept, found = settings.load(ctx.database), []
    for one in lanes_of(ctx, master_id):
        view = _view(ctx, planned(ctx, master_id, one), kept, alone=False)
        found.append(view)
        if view.as_it_is and view.parcel.plan.method.value is Method.ENCODE and view.parcel.plan.video:
            found.append(_view(ctx, planned(ctx, master_id, one, Choices(method=Method.UNTOUCHED)), kept, alone=False))
    return found


@router.get("/parcels/{destination_id}")
def parcel(
    master_id: str, destination_id: str, ctx: Ctx, video_bitrate_bps: Bitrate = None, framing: FramingMode | None = None
) -> ParcelView:
    """One parcel; with a bit rate or framing, as it would be with them, without keeping them."""
    now = planned(ctx, master_id, destination_id)
    part = {name: value for name, value in {"video_bitrate_bps": video_bitrate_bps, "framing": framing}.items() if value is not None}
    if part:
        now = planned(ctx, master_id, destination_id, changed(now.facts, now.place, now.choices, part, now.excerpt))
    return _view(ctx, now, settings.load(ctx.database))


@router.put("/parcels/{destination_id}/choices")
def choose(master_id: str, destination_id: str, choices: Choices, ctx: Ctx) -> ParcelView:
    """Keep what the creator chose; the plan follows. A choice no plan can follow is refused and nothing changes."""
    now = planned(ctx, master_id, destination_id, choices)
    view = _view(ctx, now, settings.load(ctx.database))
    masters.choose(ctx.database, master_id, destination_id, choices, now.place.sheet_version)
    return view


@router.patch("/parcels/{destination_id}/choices")
def change(master_id: str, destination_id: str, part: ChoicesPart, ctx: Ctx) -> ParcelView:
    """Change some choices; what they release is left to the plan. Refused when no plan can follow, and then nothing changes."""
    now = planned(ctx, master_id, destination_id)
    return choose(master_id, destination_id, changed(now.facts, now.place, now.choices, part, now.excerpt), ctx)


@router.post("/parcels/{destination_id}/newest-sheet")
def take_newest_sheet(master_id: str, destination_id: str, ctx: Ctx) -> ParcelView:
    """Plan with the newest version of the sheet; what it does not take any more is left to the plan."""
    kept = masters.choices(ctx.database, master_id).get(destination_id, masters.KeptChoices()).choices
    newest = destination(destination_id, ctx.database)
    ctx.readable(master_id)
    masters.choose(ctx.database, master_id, destination_id, kept, newest.sheet_version)
    now = planned(ctx, master_id, destination_id)
    masters.choose(ctx.database, master_id, destination_id, now.choices, newest.sheet_version)
    return _view(ctx, now, settings.load(ctx.database))


@router.post("/parcels/{destination_id}/curve", status_code=202)
def rehearse(master_id: str, destination_id: str, request: CurveRequest, ctx: Ctx) -> Job:
    """Rehearse at a handful of upload rates; the one under way is returned if there is one.

    Of what is sent as it is only the perfect upload is rehearsed, since that is what it is.
    """
    now = planned(ctx, master_id, destination_id)
    copied = now.plan.copied
    if copied and not now.plan.held:
        now = planned(ctx, master_id, destination_id, Choices())
    plan = now.plan
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    if plan.video is None or plan.guidance is None:
        what = f"{plan.destination_name} takes no picture, so there is none to compare."
        raise BadChoice(what, "Rehearse another lane.", code="no_picture")
    under_way = jobs.open_like(ctx.database, JobKind.CURVE, master_id, now.place.id, picture_key=plan.picture_key())
    if under_way:
        return under_way
    _remember_sheet(ctx, now)
    rates = [] if copied else request.rates or usual_rates(plan)
    return jobs.add(
        ctx.database, JobKind.CURVE, title=f"Rehearsing {now.facts.name} for {plan.destination_name}",
        spec=now.spec() | {"rates": rates}, master_id=master_id, destination_id=now.place.id, picture_key=plan.picture_key(),
    )


def _remember_sheet(ctx: Context, now: Planned) -> None:
    """From its first work on, a parcel keeps the version of the sheet it was planned with."""
    if now.place.id not in masters.choices(ctx.database, now.master.id):
        masters.choose(ctx.database, now.master.id, now.place.id, now.choices, now.place.sheet_version)


@router.post("/parcels/{destination_id}/pack", status_code=202)
def pack(master_id: str, destination_id: str, request: PackRequest, ctx: Ctx) -> Job:
    """Queue the packing of this parcel as it was seen: when its plan is another by now, nothing is packed.

    A name that is taken is refused; leave it out for a free one.
    """
    now = planned(ctx, master_id, destination_id)
    plan, facts = now.plan, now.facts
    if plan.key() != request.plan_key:
        raise PlanChanged("The plan is not the one that was shown; it has changed meanwhile.", "Look at it again, then pack it.")
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
    _remember_sheet(ctx, now)
    return jobs.add(
        ctx.database, JobKind.PACK, title=f"{facts.name} → {plan.destination_name}",
        spec=now.spec() | {"folder": str(folder), "file_name": name}, master_id=master_id, destination_id=now.place.id,
    )
