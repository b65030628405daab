"""Framing: every shape of a master at once, tried and kept, and pictures exactly as they would be packed."""

from __future__ import annotations

import asyncio
import base64
from contextlib import suppress
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from ..core.arrival.moments import nearest_rehearsal, suffers_most
from ..core.errors import BadChoice, BadInput
from ..core.master.facts import Excerpt, Focus, FramingMode, MasterFacts
from ..core.parcel.shapes import ShapeHere, shape_here, shapes_sentence, worst_moment
from ..core.plan.choices import Choices
from ..core.plan.framing import MOST_ZOOM
from ..core.plan.plan import VideoPlan
from ..core.plan.planning import at_same_multiple
from ..core.sheets.sheet import Shape
from ..core.values import Rect
from ..planned.now import PlannedParcel, difficulty_of, planned, planned_lanes, readable
from ..processes.messages import EffectShown, PictureShown, StepTask
from ..store import masters, parcels, results
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["shapes"])
ParcelId = Annotated[str, Field(max_length=40)]
Number = Annotated[int, Query(ge=0, le=100_000_000)]


class ShapeWish(BaseModel):
    """How one parcel is to be framed. Without a mode or a focus it follows the master's."""

    framing: FramingMode | None = None
    shape: Shape | None = None
    focus: Focus | None = None
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0


class FramingWish(BaseModel):
    """The master's focus (null for the suggested one), how it fills frames of another shape (null for not asked yet), and wishes by parcel
    id; what is not named stays as it is."""

    focus: Focus | Literal["as it is"] | None = "as it is"
    mode: FramingMode | Literal["as it is"] | None = "as it is"
    parcels: Annotated[dict[Annotated[str, Field(max_length=130)], ShapeWish], Field(max_length=30)] = {}


class RefusedWish(BaseModel):
    """A wish that a parcel's destination cannot follow, with the reason."""

    parcel_id: str
    why: str


class FramingView(BaseModel):
    """All shapes of a master. `active` is the picture without baked-in bars; `pictures` go from the in to the out point. `focus` is the
    creator's where it is `own_focus`, else the suggested one; `mode` is null before the creator was asked."""

    display_width: int
    display_height: int
    active: Rect
    bars_removed: bool
    focus: Focus
    own_focus: bool
    mode: FramingMode | None
    shapes: list[ShapeHere]
    refused: list[RefusedWish]
    first_picture: int
    last_picture: int
    sentence: str


class Effect(BaseModel):
    """A part of one picture, pixel for pixel, with and without sharpening; `why` says how this picture was chosen."""

    number: int
    x: int
    y: int
    width: int
    height: int
    off: str
    on: str
    why: str


@router.get("/masters/{master_id}/framing")
def framing(master_id: str, ctx: Ctx) -> FramingView:
    """Every shape of this master's lanes."""
    return _view(ctx, master_id, FramingWish())


@router.post("/masters/{master_id}/framing/try")
def try_framing(master_id: str, wish: FramingWish, ctx: Ctx) -> FramingView:
    """The shapes as they would be, without keeping anything."""
    return _view(ctx, master_id, wish)


@router.put("/masters/{master_id}/framing")
def keep_framing(master_id: str, wish: FramingWish, ctx: Ctx) -> FramingView:
    """Keep a focus and wishes; one that a destination cannot follow is refused, and then nothing changes."""
    with ctx.database.transaction():
        view = _view(ctx, master_id, wish)
        if view.refused:
            raise BadChoice(view.refused[0].why, code="shape_not_taken")
        _, facts = readable(ctx.database, master_id)
        before = planned_lanes(ctx.database, master_id)
        changed = _as_wished(facts, wish)
        if changed != facts:
            masters.mend(ctx.database, master_id, changed.mending)
        kept = []
        for now in before:
            own, choices = wish.parcels.get(now.parcel.id), now.choices
            mended = now.facts.model_copy(update={"mending": changed.mending})
            if own:
                choices = at_same_multiple(mended, now.place, _choices(choices, own), now.plan, now.excerpt)
            elif changed.mending.framing is not facts.mending.framing and now.served_by is None:
                with suppress(BadChoice):  # a lane that no plan could follow before says so itself
                    choices = at_same_multiple(mended, now.place, choices, now.plan, now.excerpt)
            if own or choices != now.choices:
                kept.append(
                    now.parcel.model_copy(update={"choices": choices, "sheet_version": now.place.sheet_version})
                )
        if kept:
            parcels.keep_all(ctx.database, master_id, kept)
    return _view(ctx, master_id, FramingWish())


def _as_wished(facts: MasterFacts, wish: FramingWish) -> MasterFacts:
    """The facts with the master's own framing as it is wished."""
    parts = {"focus": wish.focus, "framing": wish.mode}
    changes = {name: value for name, value in parts.items() if value != "as it is"}
    return facts.model_copy(update={"mending": facts.mending.model_copy(update=changes)})


def _choices(choices: Choices, wish: ShapeWish) -> Choices:
    return choices.model_copy(
        update={"framing": wish.framing, "shape": wish.shape, "focus": wish.focus, "zoom": wish.zoom}
    )


def _view(ctx: Context, master_id: str, wish: FramingWish) -> FramingView:
    master, facts = readable(ctx.database, master_id)
    facts = _as_wished(facts, wish)
    shapes, refused = [], []
    for now in planned_lanes(ctx.database, master_id, facts=facts):
        if one := wish.parcels.get(now.parcel.id):
            try:
                now = now.choosing(ctx.database, _choices(now.choices, one))
            except BadChoice as error:
                refused.append(RefusedWish(parcel_id=now.parcel.id, why=f"{error.what} {error.todo}".strip()))
        if now.plan.video and not now.plan.copied:
            shapes.append(shape_here(now.parcel, facts, now.place, now.plan))
    video = facts.video
    first, last = _pictures(master.excerpt, facts)
    return FramingView(
        display_width=video.display_width,
        display_height=video.display_height,
        active=facts.active,
        bars_removed=facts.mending.remove_bars is not None,
        focus=facts.focus,
        own_focus=facts.mending.focus is not None,
        mode=facts.mending.framing,
        shapes=shapes,
        refused=refused,
        first_picture=first,
        last_picture=last,
        sentence=shapes_sentence(shapes),
    )


def _pictures(excerpt: Excerpt | None, facts: MasterFacts) -> tuple[int, int]:
    rate = facts.video.frame_rate
    last = max(0, (facts.video.pictures or round(facts.duration_s * rate)) - 1)
    if excerpt is None:
        return 0, last
    return min(last, round(excerpt.in_s * rate)), max(0, min(last, round(excerpt.out_s * rate) - 1))


@router.get(
    "/parcels/{parcel_id}/framed.jpg", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}}
)
async def framed(parcel_id: ParcelId, ctx: Ctx, number: Number = 0) -> Response:
    """One picture exactly as it goes into the encoder, of the kept plan."""
    now, picture = await asyncio.to_thread(_picture, ctx, parcel_id)
    shown = await ctx.steppers.step_to(
        now.master.id, now.facts.content_id, StepTask(path=now.path, facts=now.facts, number=number, framed=picture)
    )
    if not isinstance(shown, PictureShown):
        raise BadInput("This picture could not be shown.", "Choose another place.")
    return Response(base64.b64decode(shown.jpeg), media_type="image/jpeg", headers={"cache-control": "no-store"})


@router.get("/parcels/{parcel_id}/sharpening")
async def sharpening(parcel_id: ParcelId, ctx: Ctx) -> Effect:
    """What light sharpening does to the picture that packs worst."""
    now, picture = await asyncio.to_thread(_picture, ctx, parcel_id, sharpen=True)
    number, why = await asyncio.to_thread(_worst, ctx, parcel_id)
    shown = await ctx.steppers.step_to(
        now.master.id, now.facts.content_id, StepTask(path=now.path, facts=now.facts, number=number, effect=picture)
    )
    if not isinstance(shown, EffectShown):
        raise BadInput("This picture could not be shown.", "Choose another place.")
    pictures = {key: f"data:image/png;base64,{getattr(shown, key)}" for key in ("off", "on")}
    return Effect(**{**shown.model_dump(exclude={"kind"}), **pictures}, why=why)


def _picture(ctx: Context, parcel_id: str, *, sharpen: bool | None = None) -> tuple[PlannedParcel, VideoPlan]:
    now = planned(ctx.database, parcel_id)
    ctx.places.check_links([now.path])
    if sharpen is not None:
        now = now.choosing(ctx.database, now.choices.model_copy(update={"sharpen": sharpen}))
    if now.plan.copied:
        raise BadChoice(
            "This parcel goes as it is, so its picture is the master's.", "Let it be encoded.", code="as_it_is"
        )
    return now, now.plan.picture


def _worst(ctx: Context, parcel_id: str) -> tuple[int, str]:
    now = planned(ctx.database, parcel_id)
    journey = now.journey
    found = results.rehearsals(ctx.database, journey) if journey else []
    nearest = nearest_rehearsal(now.plan.picture.target_bps.value, found) if found else None
    sufferers = suffers_most(nearest) if nearest else ()
    return worst_moment(now.facts, now.excerpt, difficulty_of(ctx.database, now.facts.content_id), sufferers)
