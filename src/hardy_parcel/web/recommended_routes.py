"""Recommendations: taking them for a master's lanes, what is wanted of a destination, and findings that are meant to be so."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel, Field

from ..core.errors import BadChoice, NotFound
from ..core.parcel.recommending import Aim
from ..core.plan.planning import changed
from ..docks.catalogue import destinations_now
from ..planned.changing_lanes import parcels_state, with_revisions
from ..planned.now import planned_lanes, readable
from ..planned.recommended import recommended
from ..store import masters, parcels, settings
from ..store.masters import Master
from .context import Ctx
from .recipe_routes import Applied, RefusedParcel

router = APIRouter(prefix="/api", tags=["recommendations"])
ParcelIds = Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=parcels.MOST_PARCELS)]


class TakeRecommended(BaseModel):
    """Lanes that take what is recommended for them; null for all of them."""

    parcels: ParcelIds | None = None


class AimRequest(BaseModel):
    aim: Aim


class KeepFinding(BaseModel):
    """A check's finding, by its code, that is meant to be so, or with `on` false is not any more."""

    code: Annotated[str, Field(max_length=40)]
    on: bool = True


@router.post("/masters/{master_id}/recommended")
def take_recommended(master_id: str, request: TakeRecommended, ctx: Ctx) -> Applied:
    """Let lanes take what is recommended. Lanes that have it already, or of which nothing was tested, stay as they are."""
    with ctx.database.transaction():
        before = parcels_state(ctx.database, master_id)
        aims = settings.aims(ctx.database)
        every, kept, refused = planned_lanes(ctx.database, master_id), [], []
        for now in every:
            if request.parcels is not None and now.parcel.id not in request.parcels:
                continue
            advice = recommended(ctx.database, now, every, aims)
            if advice is None or advice.taken:
                continue
            try:
                choices = changed(now.facts, now.place, now.choices, advice.part, now.excerpt)
            except BadChoice as error:
                refused.append(RefusedParcel(parcel_id=now.parcel.id, name=now.place.full_name, why=error.what))
                continue
            version = now.parcel.sheet_version or now.place.sheet_version
            kept.append(now.parcel.model_copy(update={"choices": choices, "sheet_version": version}))
        if kept:
            parcels.keep_all(ctx.database, master_id, kept)
        return Applied(before=with_revisions(ctx.database, master_id, before), refused=refused)


@router.put("/destinations/{destination_id}/aim")
def set_aim(destination_id: Annotated[str, Path(max_length=130)], request: AimRequest, ctx: Ctx) -> AimRequest:
    """What is wanted of a destination: the best quality, safety, or the smallest file."""
    if destination_id not in destinations_now(ctx.database):
        raise NotFound("There is no such destination.", "Choose another one.")
    settings.set_aim(ctx.database, destination_id, request.aim)
    return request


@router.put("/masters/{master_id}/kept-findings")
def keep_finding(master_id: str, request: KeepFinding, ctx: Ctx) -> Master:
    """Say that what a check found is meant to be so: it stands in the way of nothing any more."""
    with ctx.database.transaction():
        master, facts = readable(ctx.database, master_id)
        if request.code not in {stamp.code for stamp in master.stamps}:
            raise BadChoice("Nothing of that kind was found.", "Look at the checks again.")
        others = tuple(code for code in facts.mending.kept if code != request.code)
        kept = (*others, request.code) if request.on else others
        masters.mend(ctx.database, master_id, facts.mending.model_copy(update={"kept": kept}))
    return masters.get(ctx.database, master_id)
