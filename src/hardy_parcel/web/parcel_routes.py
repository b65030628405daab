"""Parcels: plans and their figures, siblings, rehearsing, packing."""

from __future__ import annotations

from collections.abc import Callable
from typing import Annotated, Any

from fastapi import APIRouter, Body, Query
from pydantic import BaseModel, Field

from ..core.arrival.forecast import Forecast
from ..core.arrival.journey import Journey
from ..core.arrival.moments import OverTime
from ..core.errors import BadChoice, NotFound
from ..core.master.checks.stamping import Remedy
from ..core.master.facts import Excerpt, MasterFacts
from ..core.parcel.cap_ways import Alternative, alternatives, foretold
from ..core.parcel.news import SheetNews
from ..core.parcel.offers import Offered, TypedChoice, offers, typed_choices
from ..core.parcel.parcel import Parcel, difference
from ..core.parcel.recommending import Aim, Recommendation
from ..core.parcel.summary import AtRate, ParcelSummary, at_rate, summarize
from ..core.plan import as_it_is
from ..core.plan.choices import Choices
from ..core.plan.encoder_settings import encoder_words
from ..core.plan.planning import changed, check_excerpt, make_plan
from ..core.values import OneLine
from ..docks.catalogue import destination
from ..planned.changing_lanes import check_room, show_destinations
from ..planned.known import known_of, moments_of
from ..planned.now import PlannedParcel, lanes_of, news_of, planned, planned_on, readable
from ..planned.options import OtherOption, other_options
from ..planned.pack_jobs import named_file, remember_sheet
from ..planned.probes import lacks_probes, probing
from ..planned.recommended import recommended, siblings_of
from ..planned.rehearsals import queue_rehearsal
from ..planned.unwanted import withdraw_unwanted
from ..store import jobs, parcels, results, settings
from ..store.jobs import Job, JobKind
from ..store.settings import Settings
from .context import Context, Ctx
from .packing_routes import ParcelId

router = APIRouter(prefix="/api", tags=["parcels"])

Bitrate = Annotated[int, Field(ge=50_000, le=400_000_000)]
Seen = Annotated[int | None, Query(ge=0, lt=1 << 63)]
"""The revision of a parcel that a change was made from."""
ChoicesPart = Annotated[dict[str, Any], Body(max_length=30)]
"""Some choices by their names; null leaves one to the plan."""


class ParcelView(BaseModel):
    """A parcel with where it will be written, what may be chosen, and any work on it under way. `lacks_probes` says that trying
    moments would tell more of what arrives.

    `over_time` is condition along the film at the plan's rate, `told` what the encoder is told by its own names; `as_it_is` says
    whether the master may go without encoding; `recommended` is what we would send there, `aim` what is wanted of the destination.
    """

    summary: ParcelSummary
    master_name: str
    master_bps: int | None
    output_folder: str
    final_name: str
    name_taken: bool
    rehearsing: Job | None
    probing: Job | None
    lacks_probes: bool
    packing: Job | None
    offers: tuple[Offered, ...] = ()
    typed: tuple[TypedChoice, ...] = ()
    told: dict[str, str] = {}
    as_it_is: bool
    news: SheetNews | None = None
    excerpts: tuple[NamedExcerpt, ...] = ()
    over_time: OverTime | None = None
    recommended: Recommendation | None = None
    aim: Aim = Aim.SAFE


class NamedExcerpt(BaseModel):
    """An excerpt of the master that this parcel may take; None is the whole master."""

    name: str
    excerpt: Excerpt | None
    chosen: bool


class DestinationsRequest(BaseModel):
    """Destination ids in the order of their lanes."""

    destinations: Annotated[list[Annotated[str, Field(max_length=130)]], Field(min_length=1, max_length=30)]


class SiblingRequest(BaseModel):
    """What the sibling does otherwise: some choices by their names, another excerpt, or a name of its own."""

    part: dict[str, Any] = {}
    excerpt: Excerpt | None = None
    name: Annotated[str, Field(max_length=80), OneLine] = ""


class ParcelEdit(BaseModel):
    """A name, empty for none; and with `move_excerpt` another excerpt, null for the whole master."""

    name: Annotated[str, Field(max_length=80), OneLine] | None = None
    excerpt: Excerpt | None = None
    move_excerpt: bool = False


class RehearseRequest(BaseModel):
    """Upload rates in bit/s to rehearse; none for the usual handful."""

    rates: Annotated[list[Bitrate], Field(max_length=12)] = []


def _summary(ctx: Context, now: PlannedParcel, kept: Settings, first: PlannedParcel | None) -> ParcelSummary:
    known = known_of(ctx.database, now.plan, now.journey)
    return summarize(
        parcel=now.parcel,
        facts=now.facts,
        destination=now.place,
        plan=now.plan,
        line=kept.line,
        known=known.forecast,
        rehearsals=known.rehearsals,
        speed=results.packing_speed(ctx.database, now.plan),
        ours=now.ours(),
        difference=difference(now.parcel, now.plan, first.parcel, first.plan) if first else "",
    )


def _view(ctx: Context, now: PlannedParcel, kept: Settings, *, first: PlannedParcel | None = None) -> ParcelView:
    plan, facts, place = now.plan, now.facts, now.place
    named = named_file(ctx.database, ctx.places, now, kept, jobs.promised_targets(ctx.database))
    trying, lacking = probing(ctx.database, now), kept.probing and lacks_probes(ctx.database, now)
    aims = settings.aims(ctx.database)
    return ParcelView(
        summary=_summary(ctx, now, kept, first),
        master_name=now.master.name,
        master_bps=facts.video.bitrate_bps,
        output_folder=named.folder,
        final_name=named.name,
        name_taken=named.taken,
        rehearsing=jobs.open_like(ctx.database, JobKind.REHEARSE, now.master.id, parcel_id=now.parcel.id),
        probing=trying,
        lacks_probes=lacking,
        packing=jobs.open_like(ctx.database, JobKind.PACK, now.master.id, parcel_id=now.parcel.id),
        as_it_is=not as_it_is.against(facts, place, now.excerpt),
        news=news_of(ctx.database, now),
        offers=offers(facts, place, now.choices, plan, now.excerpt, kept.line),
        typed=typed_choices(now.choices, plan),
        told=encoder_words(plan),
        excerpts=_excerpts(now),
        over_time=moments_of(ctx.database, plan, now.journey),
        recommended=recommended(ctx.database, now, siblings_of(ctx.database, now), aims),
        aim=aims.get(place.id, settings.USUAL_AIM),
    )


def _excerpts(now: PlannedParcel) -> tuple[NamedExcerpt, ...]:
    """The whole master and its named excerpts, and this parcel's own where it is none of them."""
    own = now.parcel.excerpt
    named: list[tuple[str, Excerpt | None]] = [("the whole master", None)]
    named += [(one.title, one.excerpt) for one in now.master.excerpts]
    if own not in [excerpt for _, excerpt in named]:
        named.append(("this parcel’s own", own))
    return tuple(NamedExcerpt(name=name, excerpt=excerpt, chosen=excerpt == own) for name, excerpt in named)


@router.put("/masters/{master_id}/destinations")
def choose_destinations(master_id: str, request: DestinationsRequest, ctx: Ctx) -> list[Parcel]:
    """Choose where a master goes. Parcels of a destination that is left out are put away, and come back with it.

    A destination that does not exist is refused and nothing changes.
    """
    with ctx.database.transaction():
        show_destinations(ctx.database, master_id, request.destinations)
        return lanes_of(ctx.database, master_id)


@router.get("/parcels/{parcel_id}")
def parcel(parcel_id: ParcelId, ctx: Ctx) -> ParcelView:
    """One parcel, all of one state of what is stored."""
    with ctx.database.snapshot():
        now = planned(ctx.database, parcel_id)
        return _view(ctx, now, settings.load(ctx.database), first=_sibling(ctx, now))


def _sibling(ctx: Context, now: PlannedParcel) -> PlannedParcel | None:
    """The parcel that this one was made from, as it is now."""
    if now.parcel.sibling_of is None:
        return None
    try:
        first = parcels.get(ctx.database, now.parcel.sibling_of)
    except NotFound:
        return None
    return planned_on(ctx.database, first, now.master, readable(ctx.database, now.master.id)[1])


@router.get("/parcels/{parcel_id}/at")
def at(parcel_id: ParcelId, ctx: Ctx, video_bitrate_bps: Annotated[int, Query(ge=50_000, le=400_000_000)]) -> AtRate:
    """What another bit rate comes to: the small answer while the handle moves. Nothing is kept."""
    now = planned(ctx.database, parcel_id)
    if now.plan.video is None or now.plan.copied:
        raise BadChoice("There is no bit rate to choose here.", "Let the picture be encoded.", code="no_rate")
    other = now.choosing(ctx.database, now.choices.at_rate(video_bitrate_bps, now.plan.picture.target_bps.value))
    known = known_of(ctx.database, other.plan, other.journey)
    return at_rate(
        other.plan,
        line=settings.load(ctx.database).line,
        speed=results.packing_speed(ctx.database, other.plan),
        known=known.forecast,
        rehearsals=known.rehearsals,
        assumed=now.place.placement.handling.assumed,
    )


@router.get("/parcels/{parcel_id}/cap-ways")
def cap_ways(parcel_id: ParcelId, ctx: Ctx) -> tuple[Alternative, ...]:
    """Other ways under a size limit that ruins the picture, what would arrive best first; none where it does no harm."""
    now = planned(ctx.database, parcel_id)
    trimmed = next((stamp.excerpt for stamp in now.master.stamps if stamp.remedy is Remedy.TRIM), None)
    ways = alternatives(now.facts, now.place, now.choices, now.plan, now.excerpt, trimmed)
    return foretold(ways, [_known_of_way(ctx, now, way) for way in ways])


def _known_of_way(ctx: Context, now: PlannedParcel, way: Alternative) -> Forecast:
    choices = way.choices or now.choices.model_copy(update={"video_bitrate_bps": None, "ceiling_bps": None})
    plan = make_plan(now.facts, now.place, choices, way.excerpt or now.excerpt)
    return known_of(ctx.database, plan, Journey(plan, now.place)).forecast


def _change_choices(
    ctx: Context, parcel_id: str, seen: int | None, change: Callable[[PlannedParcel], Choices]
) -> ParcelView:
    """Change a parcel's choices as they are now, and keep the version of the sheet that they were made with."""
    with ctx.database.transaction():
        if seen is not None:
            parcels.check_seen(ctx.database, {parcel_id: seen})
        planned_parcel = planned(ctx.database, parcel_id)
        changed_parcel = planned_parcel.choosing(ctx.database, change(planned_parcel)).parcel
        version = planned_parcel.place.sheet_version
        parcels.keep(ctx.database, changed_parcel.model_copy(update={"sheet_version": version}))
        withdraw_unwanted(ctx.database, planned_parcel.master.id)
    return parcel(parcel_id, ctx)


@router.put("/parcels/{parcel_id}/choices")
def choose(parcel_id: ParcelId, choices: Choices, ctx: Ctx, seen: Seen = None) -> ParcelView:
    """Keep what the creator chose; the plan follows. A choice no plan can follow is refused and nothing changes.

    With the parcel's revision that was `seen`, it is refused where somebody has changed the parcel since.
    """
    return _change_choices(ctx, parcel_id, seen, lambda _: choices)


@router.patch("/parcels/{parcel_id}/choices")
def change(parcel_id: ParcelId, part: ChoicesPart, ctx: Ctx, seen: Seen = None) -> ParcelView:
    """Change some choices; what they release is left to the plan. Refused when no plan can follow, and then nothing changes.

    With the parcel's revision that was `seen`, it is refused where somebody has changed the parcel since; without it the choices that
    are not named stay as they are by now.
    """
    return _change_choices(
        ctx, parcel_id, seen, lambda now: changed(now.facts, now.place, now.choices, part, now.excerpt)
    )


@router.patch("/parcels/{parcel_id}")
def edit(parcel_id: ParcelId, request: ParcelEdit, ctx: Ctx) -> ParcelView:
    """Name a parcel, or give it another excerpt."""
    with ctx.database.transaction():
        kept = parcels.get(ctx.database, parcel_id)
        facts = readable(ctx.database, kept.master_id)[1]
        updates: dict[str, object] = {}
        if request.name is not None:
            updates["name"] = request.name.strip()
        if request.move_excerpt:
            updates["excerpt"] = _checked(request.excerpt, facts)
        parcels.keep(ctx.database, kept.model_copy(update=updates))
    return parcel(parcel_id, ctx)


def _checked(excerpt: Excerpt | None, facts: MasterFacts) -> Excerpt | None:
    """An excerpt that lies in the master; None where it is all of it."""
    found = check_excerpt(excerpt, facts) if excerpt else None
    return None if found and found.in_s == 0 and found.out_s == facts.duration_s else found


@router.get("/parcels/{parcel_id}/options")
def options(parcel_id: ParcelId, ctx: Ctx) -> tuple[OtherOption, ...]:
    """What a parcel beside this one might do otherwise, with the time until its first figure."""
    return other_options(ctx.database, planned(ctx.database, parcel_id).alone(ctx.database))


@router.post("/parcels/{parcel_id}/siblings", status_code=201)
def try_another_way(parcel_id: ParcelId, request: SiblingRequest, ctx: Ctx) -> ParcelView:
    """Make a sibling beside a parcel: the same, but for what is asked. Without anything asked it is a copy to change."""
    with ctx.database.transaction():
        now = planned(ctx.database, parcel_id)
        every = parcels.of_master(ctx.database, now.master.id, put_away=True)
        check_room(every, 1)
        choices = changed(now.facts, now.place, now.choices, request.part, now.excerpt) if request.part else now.choices
        excerpt = _checked(request.excerpt, now.facts) if request.excerpt else now.parcel.excerpt
        sibling = now.parcel.model_copy(
            update={
                "id": parcels.new_id(),
                "choices": choices,
                "excerpt": excerpt,
                "name": request.name.strip(),
                "sibling_of": now.parcel.sibling_of or now.parcel.id,
                "sheet_version": now.place.sheet_version,
                "shown": True,
            }
        )
        shown = [one for one in every if one.shown]
        at = next((place for place, one in enumerate(shown) if one.id == parcel_id), len(shown) - 1)
        while at + 1 < len(shown) and shown[at + 1].sibling_of == sibling.sibling_of:
            at += 1
        placed = [*shown[: at + 1], sibling, *shown[at + 1 :]]
        parcels.keep_all(
            ctx.database, now.master.id, [one.model_copy(update={"place": place}) for place, one in enumerate(placed)]
        )
    return parcel(sibling.id, ctx)


@router.delete("/parcels/{parcel_id}")
def remove(parcel_id: ParcelId, ctx: Ctx) -> list[Parcel]:
    """Take a parcel away; a sibling for good, the first of a destination by putting it away with its choices. The last lane stays."""
    with ctx.database.transaction():
        kept = parcels.get(ctx.database, parcel_id)
        every = lanes_of(ctx.database, kept.master_id)
        if [one.id for one in every] == [parcel_id]:
            raise BadChoice("This is the only lane.", "Choose another destination first.", code="last_lane")
        for job in jobs.open_of(ctx.database, kept.master_id):
            if job.parcel_id == parcel_id and job.kind is not JobKind.PROBE:
                jobs.ask_cancel(ctx.database, job.id)
        if kept.sibling_of:
            parcels.keep_all(ctx.database, kept.master_id, [], removed=[parcel_id])
        else:
            parcels.keep(ctx.database, kept.model_copy(update={"shown": False}))
        withdraw_unwanted(ctx.database, kept.master_id)
        return lanes_of(ctx.database, kept.master_id)


@router.post("/parcels/{parcel_id}/newest-sheet")
def take_newest_sheet(parcel_id: ParcelId, ctx: Ctx) -> ParcelView:
    """Plan with the newest version of the sheet; what it does not take any more is left to the plan."""
    with ctx.database.transaction():
        kept = parcels.get(ctx.database, parcel_id)
        newest = destination(kept.destination_id, ctx.database)
        master, facts = readable(ctx.database, kept.master_id)
        now = planned_on(ctx.database, kept.model_copy(update={"sheet_version": newest.sheet_version}), master, facts)
        parcels.keep(ctx.database, now.parcel)
    return parcel(parcel_id, ctx)


@router.post("/parcels/{parcel_id}/rehearse", status_code=202)
def rehearse(parcel_id: ParcelId, request: RehearseRequest, ctx: Ctx) -> Job:
    """Rehearse at a handful of upload rates; the one under way is returned if there is one.

    Of what is sent as it is only the perfect upload is rehearsed, since that is what it is.
    """
    with ctx.database.transaction():
        now = planned(ctx.database, parcel_id)
        job = queue_rehearsal(ctx.database, ctx.places, now, request.rates)
        remember_sheet(ctx.database, now)
        return job


ParcelView.model_rebuild()
