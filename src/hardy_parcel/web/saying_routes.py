"""Sayings, put to the test on one's own film."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter, Path
from pydantic import BaseModel

from ..core.parcel.lane import Lane
from ..core.parcel.sayings import Saying, Verdict, sayings_sentence, summed_up
from ..core.plan.choices import Choices
from ..planned.now import planned
from ..planned.sayings_now import sayings_now, try_saying
from ..store import settings, verdicts
from .context import Ctx
from .forecast_routes import Probing
from .packing_routes import ParcelId

router = APIRouter(prefix="/api", tags=["sayings"])


class SayingView(BaseModel):
    """A saying for one parcel with its two ways, or why it says nothing here. `everywhere` sums it up over all films it was tried on;
    `choices` are what a sibling would have that follows it."""

    saying: Saying
    why_not: str
    follows: Lane | None
    leaves: Lane | None
    choices: Choices | None
    verdict: Verdict | None
    trying: bool
    everywhere: str


class SayingsView(BaseModel):
    """The sayings for one parcel, and the sentence on top of them."""

    sentence: str
    sayings: list[SayingView]


@router.get("/parcels/{parcel_id}/sayings")
def sayings(parcel_id: ParcelId, ctx: Ctx) -> SayingsView:
    """Every saying for this parcel, with the verdict where both its ways were tried; none for sound alone."""
    now = planned(ctx.database, parcel_id)
    found = sayings_now(ctx.database, now, settings.load(ctx.database).line)
    outcomes = verdicts.by_saying(ctx.database)
    views = [
        SayingView(
            saying=one.here.saying, why_not=one.here.why_not, follows=one.follows, leaves=one.leaves, choices=one.here.follows,
            verdict=one.verdict, trying=one.job is not None, everywhere=summed_up(outcomes.get(one.here.saying.code, [])),
        )
        for one in found
    ]
    sentence = sayings_sentence([one.here for one in found], [one.verdict for one in found if one.verdict])
    return SayingsView(sentence=sentence, sayings=views)


@router.post("/parcels/{parcel_id}/sayings/{code}/try", status_code=202)
def try_one(parcel_id: ParcelId, code: Annotated[str, Path(max_length=40)], ctx: Ctx) -> Probing:
    """Try both ways of a saying on a few moments of this film; nothing where all is known already."""
    return Probing(jobs=tuple(try_saying(ctx.database, ctx.places, planned(ctx.database, parcel_id), code)))
