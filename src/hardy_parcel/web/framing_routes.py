"""Framing: every shape of a master at once, tried and kept, and pictures exactly as they would be packed."""

from __future__ import annotations

import asyncio
import base64
from typing import Annotated, Literal

from fastapi import APIRouter, Query, Response
from pydantic import BaseModel, Field

from ..core.arrival.rehearsal import suffers_most
from ..core.arrival.screens import Screen, picture_raster
from ..core.errors import BadChoice
from ..core.master.facts import Focus, MasterFacts
from ..core.parcel.shapes import ShapeHere, shape_here, worst_moment
from ..core.plan.choices import Choices
from ..core.plan.framing import MOST_ZOOM, FramingMode
from ..core.plan.plan import VideoPlan
from ..core.plan.planning import at_same_multiple
from ..core.sheets.sheet import Shape
from ..core.values import Rect
from ..store import masters, results
from .context import Context, Ctx
from .frame_routes import ask_viewer
from .planned import Planned, lanes_of, planned

router = APIRouter(prefix="/api/masters/{master_id}", tags=["shapes"])
Number = Annotated[int, Query(ge=0, le=100_000_000)]


class ShapeWish(BaseModel):
    """How one parcel is to be framed. Without a focus it follows the master's."""

    framing: FramingMode
    shape: Shape | None = None
    focus: Focus | None = None
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0


class FramingWish(BaseModel):
    """The master's focus (null for the centre) and wishes by destination; what is not named stays as it is."""

    focus: Focus | Literal["as it is"] | None = "as it is"
    parcels: Annotated[dict[Annotated[str, Field(max_length=130)], ShapeWish], Field(max_length=30)] = {}


class Refused(BaseModel):
    """A wish that a destination cannot follow, with the reason."""

    destination_id: str
    why: str


class FramingView(BaseModel):
    """All shapes of a master. `active` is the picture without baked-in bars; `pictures` go from the in to the out point."""

    display_width: int
    display_height: int
    active: Rect
    bars_removed: bool
    focus: Focus | None
    shapes: list[ShapeHere]
    refused: list[Refused]
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


@router.get("/framing")
def framing(master_id: str, ctx: Ctx) -> FramingView:
    """Every shape of this master's lanes."""
    return _view(ctx, master_id, FramingWish())


@router.post("/framing/try")
def try_framing(master_id: str, wish: FramingWish, ctx: Ctx) -> FramingView:
    """The shapes as they would be, without keeping anything."""
    return _view(ctx, master_id, wish)


@router.put("/framing")
def keep_framing(master_id: str, wish: FramingWish, ctx: Ctx) -> FramingView:
    """Keep a focus and wishes; one that a destination cannot follow is refused, and then nothing changes."""
    view = _view(ctx, master_id, wish)
    if view.refused:
        raise BadChoice(view.refused[0].why, code="shape_not_taken")
    facts = ctx.readable(master_id)[1]
    if wish.focus != "as it is":
        masters.mend(ctx.database, master_id, facts.mending.model_copy(update={"focus": wish.focus}))
    for destination_id, one in wish.parcels.items():
        now = planned(ctx, master_id, destination_id)
        choices = at_same_multiple(now.facts, now.place, _choices(now.choices, one), now.plan, now.master.excerpt)
        masters.choose(ctx.database, master_id, destination_id, choices, now.place.sheet_version)
    return _view(ctx, master_id, FramingWish())


def _choices(choices: Choices, wish: ShapeWish) -> Choices:
    return choices.model_copy(update={"framing": wish.framing, "shape": wish.shape, "focus": wish.focus, "zoom": wish.zoom})


def _view(ctx: Context, master_id: str, wish: FramingWish) -> FramingView:
    master, facts = ctx.readable(master_id)
    if wish.focus != "as it is":
        facts = facts.model_copy(update={"mending": facts.mending.model_copy(update={"focus": wish.focus})})
    shapes, refused = [], []
    for one in lanes_of(ctx, master_id):
        now = planned(ctx, master_id, one, facts=facts)
        if one in wish.parcels:
            try:
                now = planned(ctx, master_id, one, _choices(now.choices, wish.parcels[one]), facts=facts)
            except BadChoice as error:
                refused.append(Refused(destination_id=one, why=f"{error.what} {error.todo}".strip()))
        if now.plan.video and not now.plan.copied:
            shapes.append(shape_here(facts, now.place, now.choices, now.plan))
    video = facts.video
    first, last = _pictures(master.excerpt, facts)
    return FramingView(
        display_width=video.display_width, display_height=video.display_height, active=facts.active,
        bars_removed=facts.mending.remove_bars is not None, focus=facts.mending.focus, shapes=shapes, refused=refused,
        first_picture=first, last_picture=last, sentence=_sentence(shapes),
    )


def _pictures(excerpt, facts: MasterFacts) -> tuple[int, int]:
    rate = facts.video.frame_rate
    last = max(0, (facts.video.pictures or round(facts.duration_s * rate)) - 1)
    if excerpt is None:
        return 0, last
    return min(last, round(excerpt.in_s * rate)), max(0, min(last, round(excerpt.out_s * rate) - 1))


def _sentence(shapes: list[ShapeHere]) -> str:
    """What a knowledgeable friend would say of the shapes."""
    if not shapes:
        return "None of the chosen destinations takes a picture that is encoded; choose some that do."
    other = [one for one in shapes if not one.own]
    if not other:
        return "Every destination takes the picture's own shape; nothing is cut and no bars are needed."
    least = min(other, key=lambda one: one.kept)
    if least.kept > 0.995:
        return f"Nothing is cut: {len(other)} of {len(shapes)} shapes set the whole picture between bars or over its own blur."
    return (
        f"{least.name}, {least.placement} ({least.shape}), cuts most: {least.kept:.0%} of the picture is kept. "
        "Drag the focus to what must stay, then step through the film."
    )


@router.get("/parcels/{destination_id}/framed.jpg", response_class=Response, responses={200: {"content": {"image/jpeg": {}}}})
async def framed(master_id: str, destination_id: str, ctx: Ctx, number: Number = 0) -> Response:
    """One picture exactly as it goes into the encoder, of the kept plan."""
    now, picture = await asyncio.to_thread(_picture, ctx, master_id, destination_id)
    wish = {"number": number, "framed": picture.model_dump(mode="json")}
    told = await ask_viewer(ctx, now.master, now.facts, wish)
    return Response(base64.b64decode(told["jpeg"]), media_type="image/jpeg", headers={"cache-control": "no-store"})


@router.get("/parcels/{destination_id}/sharpening")
async def sharpening(master_id: str, destination_id: str, ctx: Ctx) -> Effect:
    """What light sharpening does to the picture that packs worst; refused where nothing is scaled down."""
    now, picture = await asyncio.to_thread(_picture, ctx, master_id, destination_id, sharpen=True)
    if not picture.sharpen.value:
        what = "Nothing is scaled down here, so there is nothing to sharpen."
        raise BadChoice(what, "Choose a smaller frame.", code="nothing_to_sharpen")
    number, why = await asyncio.to_thread(_worst, ctx, now)
    told = await ask_viewer(ctx, now.master, now.facts, {"number": number, "effect": picture.model_dump(mode="json")})
    pictures = {key: f"data:image/png;base64,{told[key]}" for key in ("off", "on")}
    return Effect(**{**told, **pictures}, why=why)


def _picture(ctx: Context, master_id: str, destination_id: str, *, sharpen: bool | None = None) -> tuple[Planned, VideoPlan]:
    now = planned(ctx, master_id, destination_id)
    if sharpen is not None:
        now = planned(ctx, master_id, destination_id, now.choices.model_copy(update={"sharpen": sharpen}))
    if now.plan.copied:
        raise BadChoice("This parcel goes as it is, so its picture is the master's.", "Let it be encoded.", code="as_it_is")
    return now, now.plan.picture


def _worst(ctx: Context, now: Planned) -> tuple[int, str]:
    plan = planned(ctx, now.master.id, now.place.id).plan
    known, found = results.perfect(ctx.database, plan.way_key()), results.rehearsals(ctx.database, plan.picture_key())
    sufferers = ()
    if known and found:
        raster = picture_raster(Screen.LAPTOP, plan.picture.framing.value).yardstick_size
        marks = next((list(y.marks) for y in known[1].yardsticks if y.raster == raster), [])
        sufferers = suffers_most(min(found, key=lambda r: abs(r.target_bps - plan.picture.target_bps.value)), marks)
    picture = masters.survey(ctx.database, now.facts.content_id).picture
    return worst_moment(now.facts, now.excerpt, picture.difficulty if picture else (), sufferers)
