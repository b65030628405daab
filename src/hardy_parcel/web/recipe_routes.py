"""Recipes: saving the choices of a master's lanes, bringing them to another one, and changing several parcels together."""

from __future__ import annotations

from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints, ValidationError

from ..core.errors import BadChoice, BadInput
from ..core.parcel.recipe_documents import read_recipe, schema, write_recipe
from ..core.parcel.recipes import (
    IntentChange,
    IntentRow,
    Recipe,
    RecipePart,
    changes_here,
    choices_for,
    differences,
    intent_of,
    intent_rows,
    part_of,
)
from ..core.plan.choices import Choices
from ..core.plan.planning import at_same_multiple, changed, make_plan
from ..core.sheets.sheet import Destination
from ..docks.catalogue import destinations_now
from ..store import kept_recipes as store
from ..store import kept_sheets, masters
from ..store.kept_recipes import KeptRecipe
from .context import Context, Ctx
from .planned import Planned, lanes_of, planned

router = APIRouter(prefix="/api", tags=["recipes"])
Name = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
Note = Annotated[str, Field(max_length=2_000)]


class PartView(BaseModel):
    """One destination of a recipe in words; `name` is None where there is no such destination any more."""

    destination_id: str
    name: str | None
    intent_rows: tuple[IntentRow, ...]


class RecipeView(BaseModel):
    """A recipe with what it asks for, in words."""

    recipe: Recipe
    changed_at: float
    parts: list[PartView]


class RecipesView(BaseModel):
    """Every recipe, and what undoing would bring back; None when there is nothing to undo."""

    recipes: list[RecipeView]
    undo: str | None


class NewRecipe(BaseModel):
    """A name for the choices of this master's lanes."""

    name: Name
    note: Note = ""
    master_id: str


class RecipeEdit(BaseModel):
    """What to change; null leaves a value alone."""

    name: Name | None = None
    note: Note | None = None
    starred: bool | None = None


class FromMaster(BaseModel):
    master_id: str


class Document(BaseModel):
    text: Annotated[str, Field(max_length=2_000_000)]


class PartHere(BaseModel):
    """A part of a recipe on a master: what it would change of today's choices, and how it adapts. `missing` says why not."""

    destination_id: str
    name: str | None
    differs: tuple[IntentChange, ...] = ()
    adapts: tuple[IntentChange, ...] = ()
    missing: str | None = None


class RecipeHere(BaseModel):
    """A recipe on a master. `lanes` are the destinations that it would show; `same` when nothing would change."""

    recipe: Recipe
    parts: list[PartHere]
    lanes: list[str]
    same: bool


class ParcelsState(BaseModel):
    """The lanes of a master and the choices of every parcel: what can be put back."""

    lanes: list[Annotated[str, Field(max_length=130)]]
    choices: dict[str, Choices]


class Applied(BaseModel):
    """What was done to several parcels, and what they were before."""

    before: ParcelsState
    here: RecipeHere | None = None
    refused: list[PartHere] = []


class Together(BaseModel):
    """Some choices by their keys, for these destinations or for every lane; `times_guidance` gives each its own bit rate."""

    part: dict[str, Any] = {}
    times_guidance: Annotated[float, Field(gt=0, le=100)] | None = None
    destinations: Annotated[list[Annotated[str, Field(max_length=130)]], Field(max_length=30)] | None = None


def _names(ctx: Context) -> dict[str, Destination]:
    return destinations_now(ctx.database)


def _name(place: Destination | None) -> str | None:
    return f"{place.sheet_name} · {place.placement.name}" if place else None


def _view(ctx: Context, kept: KeptRecipe) -> RecipeView:
    known = _names(ctx)
    return RecipeView(
        recipe=kept.recipe, changed_at=kept.changed_at,
        parts=[
            PartView(destination_id=part.destination_id, name=_name(known.get(part.destination_id)), intent_rows=intent_rows(part.intent))
            for part in kept.recipe.parts
        ],
    )


@router.get("/recipes")
def every(ctx: Ctx) -> RecipesView:
    """Every recipe, starred ones first."""
    return RecipesView(recipes=[_view(ctx, kept) for kept in store.every(ctx.database)], undo=store.last_change(ctx.database))


@router.post("/recipes", status_code=201)
def save(request: NewRecipe, ctx: Ctx) -> RecipeView:
    """Save the choices of a master's lanes under a name."""
    recipe = Recipe(
        id=store.new_id(ctx.database, request.name), name=request.name, note=request.note,
        made_on=masters.get(ctx.database, request.master_id).name[:255], parts=_parts(ctx, request.master_id),
    )
    return _view(ctx, store.keep(ctx.database, recipe, f"“{recipe.name}” is gone again"))


def _parts(ctx: Context, master_id: str) -> tuple[RecipePart, ...]:
    ctx.readable(master_id)
    found = []
    for one in lanes_of(ctx, master_id):
        now = planned(ctx, master_id, one)
        found.append(part_of(one, now.choices, now.plan))
    if not found:
        raise BadInput("This master has no lanes to save.", "Choose destinations first.", code="no_lanes")
    return tuple(found)


@router.post("/recipes/undo")
def undo(ctx: Ctx) -> RecipesView:
    """Take the last change of any recipe back."""
    store.undo(ctx.database)
    return every(ctx)


@router.post("/recipes/import", status_code=201)
def bring_in(request: Document, ctx: Ctx) -> RecipeView:
    """Take a recipe from its JSON text. It gets an id of its own; a name that is taken is refused."""
    recipe = read_recipe(request.text, name="The text")
    recipe = recipe.model_copy(update={"id": store.new_id(ctx.database, recipe.name)})
    return _view(ctx, store.keep(ctx.database, recipe, f"“{recipe.name}” is gone again"))


@router.get("/recipes/schema.json")
def published_schema() -> dict[str, Any]:
    """The JSON Schema of a recipe."""
    return schema()


@router.put("/recipes/{recipe_id}")
def edit(recipe_id: str, request: RecipeEdit, ctx: Ctx) -> RecipeView:
    """Rename, note or star it."""
    recipe = store.get(ctx.database, recipe_id).recipe
    changed = recipe.model_copy(update=request.model_dump(exclude_none=True))
    if changed == recipe:
        return _view(ctx, store.get(ctx.database, recipe_id))
    what = f"“{recipe.name}” is as it was"
    if changed.name != recipe.name:
        what = f"“{changed.name}” is “{recipe.name}” again"
    return _view(ctx, store.keep(ctx.database, changed, what))


@router.post("/recipes/{recipe_id}/update")
def update(recipe_id: str, request: FromMaster, ctx: Ctx) -> RecipeView:
    """Make it say what this master's lanes say now."""
    recipe = store.get(ctx.database, recipe_id).recipe
    name = masters.get(ctx.database, request.master_id).name[:255]
    changed = recipe.model_copy(update={"parts": _parts(ctx, request.master_id), "made_on": name})
    return _view(ctx, store.keep(ctx.database, changed, f"“{recipe.name}” says what it said before"))


@router.post("/recipes/{recipe_id}/duplicate", status_code=201)
def duplicate(recipe_id: str, ctx: Ctx) -> RecipeView:
    """A copy under a name of its own."""
    recipe = store.get(ctx.database, recipe_id).recipe
    taken = {kept.recipe.name.casefold() for kept in store.every(ctx.database)}
    stem = recipe.name[:66]
    name = next(one for n in range(1, 1_000) if (one := f"{stem}, copy" + (f" {n}" if n > 1 else "")).casefold() not in taken)
    copy = recipe.model_copy(update={"id": store.new_id(ctx.database, name), "name": name, "starred": False})
    return _view(ctx, store.keep(ctx.database, copy, f"“{name}” is gone again"))


@router.delete("/recipes/{recipe_id}")
def remove(recipe_id: str, ctx: Ctx) -> RecipesView:
    """Take it away; undoing brings it back."""
    store.remove(ctx.database, recipe_id)
    return every(ctx)


@router.get("/recipes/{recipe_id}/document.json", response_class=Response, responses={200: {"content": {"application/json": {}}}})
def document(recipe_id: str, ctx: Ctx) -> Response:
    """The recipe as a document to keep or to give away."""
    recipe = store.get(ctx.database, recipe_id).recipe
    headers = {"content-disposition": f'attachment; filename="{recipe.id}.recipe.json"'}
    return Response(write_recipe(recipe), media_type="application/json", headers=headers)


def _adapted(ctx: Context, master_id: str, recipe: Recipe) -> tuple[RecipeHere, dict[str, Choices]]:
    """What a recipe comes to on a master, and the choices of every destination that it can be brought to."""
    master, facts = ctx.readable(master_id)
    known, lanes = _names(ctx), lanes_of(ctx, master_id)
    parts, wanted = [], {}
    for part in recipe.parts:
        place = known.get(part.destination_id)
        if place is None:
            missing = "there is no such destination any more"
            parts.append(PartHere(destination_id=part.destination_id, name=None, missing=missing))
            continue
        now = planned(ctx, master_id, place.id)
        choices, left = choices_for(part.intent, facts, now.place, master.excerpt)
        plan = make_plan(facts, now.place, choices, master.excerpt)
        wanted[place.id] = choices
        parts.append(PartHere(
            destination_id=place.id, name=_name(place), differs=differences(part.intent, intent_of(now.choices, now.plan)),
            adapts=changes_here(part, plan, left),
        ))
    same = list(wanted) == lanes and not any(part.differs for part in parts)
    return RecipeHere(recipe=recipe, parts=parts, lanes=list(wanted), same=same), wanted


@router.get("/masters/{master_id}/recipes/{recipe_id}")
def here(master_id: str, recipe_id: str, ctx: Ctx) -> RecipeHere:
    """What differs between a recipe and this master's parcels, and how it would adapt to it."""
    return _adapted(ctx, master_id, store.get(ctx.database, recipe_id).recipe)[0]


@router.post("/masters/{master_id}/recipes/{recipe_id}/apply")
def apply(master_id: str, recipe_id: str, ctx: Ctx) -> Applied:
    """Show the recipe's destinations and choose as it means, with this master's numbers."""
    found, wanted = _adapted(ctx, master_id, store.get(ctx.database, recipe_id).recipe)
    if not wanted:
        raise BadInput("None of this recipe's destinations is there any more.", "Choose another recipe.", code="no_lanes")
    before = _state(ctx, master_id)
    _keep(ctx, master_id, wanted, lanes=list(wanted), focus_of=before.choices)
    return Applied(before=before, here=found)


def _state(ctx: Context, master_id: str) -> ParcelsState:
    kept = masters.choices(ctx.database, master_id)
    return ParcelsState(lanes=lanes_of(ctx, master_id), choices={one: value.choices for one, value in kept.items()})


def _keep(
    ctx: Context, master_id: str, wanted: dict[str, Choices], *, lanes: list[str], focus_of: dict[str, Choices] | None = None
) -> None:
    """Keep choices and lanes. Where a parcel has a focus of its own, that stays: it belongs to the master.

    A parcel stays with the version of the sheet that it was planned with.
    """
    known, before = _names(ctx), masters.choices(ctx.database, master_id)
    for one, choices in wanted.items():
        own = (focus_of or {}).get(one)
        kept = choices.model_copy(update={"focus": own.focus, "gain_db": own.gain_db}) if own else choices
        version = before[one].sheet_version if one in before else None
        masters.choose(ctx.database, master_id, one, kept, version or known[one].sheet_version)
    if lanes:
        kept_sheets.set_lanes(ctx.database, master_id, lanes)


@router.put("/masters/{master_id}/parcels-state")
def put_back(master_id: str, request: ParcelsState, ctx: Ctx) -> ParcelsState:
    """Put back what the lanes and choices were; destinations that are gone are passed over."""
    ctx.readable(master_id)
    known = _names(ctx)
    wanted = {one: choices for one, choices in request.choices.items() if one in known}
    for one in set(masters.choices(ctx.database, master_id)) - set(wanted):
        wanted[one] = Choices()
    for one, choices in wanted.items():
        if one in known:
            planned(ctx, master_id, one, choices)
    _keep(ctx, master_id, {one: c for one, c in wanted.items() if one in known}, lanes=[one for one in request.lanes if one in known])
    return _state(ctx, master_id)


def _changed(ctx: Context, now: Planned, request: Together) -> Choices:
    """The choices of one parcel with the wanted ones; a multiple of the guidance that they lead to becomes its own bit rate.

    Raises BadChoice where its destination cannot follow.
    """
    wanted = Choices.model_validate(now.choices.model_dump() | request.part)
    times, plan = request.times_guidance, planned(ctx, now.master.id, now.place.id, wanted).plan
    if times is None and "video_bitrate_bps" not in request.part:
        return at_same_multiple(now.facts, now.place, wanted, now.plan, now.master.excerpt)
    bps = plan.guidance.times(times) if times is not None and plan.video and plan.guidance and not plan.copied else None
    if bps is None and times is not None:
        return wanted
    return changed(now.facts, now.place, wanted, {"video_bitrate_bps": bps or request.part.get("video_bitrate_bps")}, now.excerpt)


@router.post("/masters/{master_id}/together")
def together(master_id: str, request: Together, ctx: Ctx) -> Applied:
    """Change some choices of several parcels at once. Where a destination cannot follow, its parcel stays and says why."""
    ctx.readable(master_id)
    before, refused, wanted = _state(ctx, master_id), [], {}
    known = _names(ctx)
    for one in request.destinations or lanes_of(ctx, master_id):
        if one not in known:
            continue
        now = planned(ctx, master_id, one)
        try:
            wanted[one] = _changed(ctx, now, request)
        except ValidationError as error:
            raise BadInput("These choices cannot be read.", "Correct them.", code="bad_setting") from error
        except BadChoice as error:
            refused.append(PartHere(destination_id=one, name=_name(known[one]), missing=error.what))
    if wanted:
        _keep(ctx, master_id, wanted, lanes=[])
    return Applied(before=before, refused=refused)

