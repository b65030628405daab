"""Recipes: saving the choices of a master's lanes, bringing them to another one, and changing several parcels together."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated, Any

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field, StringConstraints, ValidationError

from ..core.arrival.docked import Words
from ..core.errors import BadChoice, BadInput, ChangedMeanwhile
from ..core.parcel.adaptation import RecipeHere, changed_together
from ..core.parcel.parcel import Parcel
from ..core.parcel.recipe_documents import read_recipe, schema, write_recipe
from ..core.parcel.recipes import IntentRow, Recipe, RecipePart, intent_rows, part_of
from ..core.plan.naming import FilePattern, FolderName
from ..docks.catalogue import destinations_now, guidance_span
from ..planned.changing_lanes import (
    ParcelsState,
    adapt_recipe,
    apply_recipe,
    parcels_state,
    restore_parcels,
    with_revisions,
)
from ..planned.now import PlannedParcel, lanes_of, planned_lanes
from ..planned.unwanted import withdraw_unwanted
from ..store import kept_recipes as store
from ..store import masters, parcels
from ..store.kept_recipes import KeptRecipe
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["recipes"])
Name = Annotated[str, StringConstraints(min_length=1, max_length=80, strip_whitespace=True)]
MOST_PARTS = 30
MOST = parcels.MOST_PARCELS
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
    """What to change; null leaves a value alone, an empty pattern or folder is as for all.

    With the `changed_at` of the recipe that was `seen`, it is refused where somebody has changed the recipe since.
    """

    name: Name | None = None
    note: Note | None = None
    starred: bool | None = None
    file_pattern: FilePattern | None = None
    folder: FolderName | None = None
    words: Words | None = None
    seen: float | None = None


class FromMaster(BaseModel):
    master_id: str


class Document(BaseModel):
    text: Annotated[str, Field(max_length=2_000_000)]


class RefusedParcel(BaseModel):
    """A parcel that could not follow, and why."""

    parcel_id: str
    name: str
    why: str


class Applied(BaseModel):
    """What was done to several parcels, and what they were before."""

    before: ParcelsState
    here: RecipeHere | None = None
    refused: list[RefusedParcel] = []


class Together(BaseModel):
    """Some choices by their keys, for these parcels or for every lane.

    `times_guidance` gives each its own bit rate.
    """

    part: dict[str, Any] = {}
    times_guidance: Annotated[float, Field(gt=0, le=100)] | None = None
    parcels: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=MOST)] | None = None


def _view(ctx: Context, kept: KeptRecipe) -> RecipeView:
    known = destinations_now(ctx.database)
    return RecipeView(
        recipe=kept.recipe,
        changed_at=kept.changed_at,
        parts=[
            PartView(
                destination_id=part.destination_id,
                intent_rows=intent_rows(part.intent),
                name=known[part.destination_id].full_name if part.destination_id in known else None,
            )
            for part in kept.recipe.parts
        ],
    )


@router.get("/recipes")
def every(ctx: Ctx) -> RecipesView:
    """Every recipe, starred ones first."""
    return RecipesView(
        recipes=[_view(ctx, kept) for kept in store.every(ctx.database)], undo=store.last_change(ctx.database)
    )


@router.post("/recipes", status_code=201)
def save(request: NewRecipe, ctx: Ctx) -> RecipeView:
    """Save the choices of a master's lanes under a name."""
    recipe = Recipe(
        id="new",
        name=request.name,
        note=request.note,
        made_on=masters.get(ctx.database, request.master_id).name[:255],
        parts=_parts(ctx, request.master_id),
        **_named_and_placed(lanes_of(ctx.database, request.master_id)),
    )
    return _view(ctx, store.add(ctx.database, recipe, f"“{recipe.name}” is gone again"))


def _parts(ctx: Context, master_id: str) -> tuple[RecipePart, ...]:
    alone = [now.alone(ctx.database) for now in planned_lanes(ctx.database, master_id)]
    found = [part_of(now.place.id, now.choices, now.plan) for now in alone]
    if not found:
        raise BadInput("This master has no lanes to save.", "Choose destinations first.", code="no_lanes")
    if len(found) > MOST_PARTS:
        raise BadInput(f"A recipe holds {MOST_PARTS} parcels.", "Remove some lanes first.", code="too_many_lanes")
    return tuple(found)


def _named_and_placed(lanes: Sequence[Parcel]) -> dict[str, Any]:
    """How files are called, where they go and what goes along with them, where all lanes agree on something of their own. A title is
    of one film alone."""
    told: dict[str, Any] = {}
    for key in ("file_pattern", "folder", "words"):
        found = {getattr(lane, key) for lane in lanes}
        if len(found) == 1:
            told[key] = found.pop()
    if "words" in told:
        told["words"] = told["words"].model_copy(update={"title": ""})
    return told


@router.post("/recipes/undo")
def undo(ctx: Ctx) -> RecipesView:
    """Take the last change of any recipe back."""
    store.undo(ctx.database)
    return every(ctx)


@router.post("/recipes/import", status_code=201)
def bring_in(request: Document, ctx: Ctx) -> RecipeView:
    """Take a recipe from its JSON text. It gets an id of its own; a name that is taken is refused."""
    recipe = read_recipe(request.text, name="The text", span=guidance_span(ctx.database))
    return _view(ctx, store.add(ctx.database, recipe, f"“{recipe.name}” is gone again"))


@router.get("/recipes/schema.json")
def published_schema() -> dict[str, Any]:
    """The JSON Schema of a recipe."""
    return schema()


@router.put("/recipes/{recipe_id}")
def edit(recipe_id: str, request: RecipeEdit, ctx: Ctx) -> RecipeView:
    """Rename, note or star it."""
    with ctx.database.transaction():
        stored = store.get(ctx.database, recipe_id)
        recipe = stored.recipe
        if request.seen is not None and request.seen != stored.changed_at:
            what = f"The recipe “{recipe.name}” was changed in another window."
            raise ChangedMeanwhile(what, "Check what it says now, then make your change again.")
        wanted = request.model_dump(exclude_none=True, exclude={"words", "seen"})
        if request.words is not None:
            wanted["words"] = request.words
        if request.folder:
            wanted["folder"] = str(ctx.places.output_folder(request.folder))
        changed = recipe.model_copy(update=wanted)
        if changed == recipe:
            return _view(ctx, store.get(ctx.database, recipe_id))
        what = f"“{recipe.name}” is as it was"
        if changed.name != recipe.name:
            what = f"“{changed.name}” is “{recipe.name}” again"
        return _view(ctx, store.keep(ctx.database, changed, what))


@router.post("/recipes/{recipe_id}/update")
def update(recipe_id: str, request: FromMaster, ctx: Ctx) -> RecipeView:
    """Make it say what this master's lanes say now."""
    with ctx.database.transaction():
        recipe = store.get(ctx.database, recipe_id).recipe
        name = masters.get(ctx.database, request.master_id).name[:255]
        named = _named_and_placed(lanes_of(ctx.database, request.master_id))
        changed = recipe.model_copy(update={"parts": _parts(ctx, request.master_id), "made_on": name, **named})
        return _view(ctx, store.keep(ctx.database, changed, f"“{recipe.name}” says what it said before"))


@router.post("/recipes/{recipe_id}/duplicate", status_code=201)
def duplicate(recipe_id: str, ctx: Ctx) -> RecipeView:
    """A copy under a name of its own."""
    with ctx.database.transaction():
        recipe = store.get(ctx.database, recipe_id).recipe
        taken = {kept.recipe.name.casefold() for kept in store.every(ctx.database)}
        stem = recipe.name[:66]
        name = next(
            one
            for n in range(1, 1_000)
            if (one := f"{stem}, copy" + (f" {n}" if n > 1 else "")).casefold() not in taken
        )
        copy = recipe.model_copy(update={"name": name, "starred": False})
        return _view(ctx, store.add(ctx.database, copy, f"“{name}” is gone again"))


@router.delete("/recipes/{recipe_id}")
def remove(recipe_id: str, ctx: Ctx) -> RecipesView:
    """Take it away; undoing brings it back."""
    store.remove(ctx.database, recipe_id)
    return every(ctx)


@router.get(
    "/recipes/{recipe_id}/document.json",
    response_class=Response,
    responses={200: {"content": {"application/json": {}}}},
)
def document(recipe_id: str, ctx: Ctx) -> Response:
    """The recipe as a document to keep or to give away."""
    recipe = store.get(ctx.database, recipe_id).recipe
    headers = {"content-disposition": f'attachment; filename="{recipe.id}.recipe.json"'}
    return Response(write_recipe(recipe), media_type="application/json", headers=headers)


@router.get("/masters/{master_id}/recipes/{recipe_id}")
def here(master_id: str, recipe_id: str, ctx: Ctx) -> RecipeHere:
    """What differs between a recipe and this master's parcels, and how it would adapt to it."""
    return adapt_recipe(ctx.database, master_id, store.get(ctx.database, recipe_id).recipe)[0]


@router.post("/masters/{master_id}/recipes/{recipe_id}/apply")
def apply(master_id: str, recipe_id: str, ctx: Ctx) -> Applied:
    """Show the recipe's parcels and choose as it means, with this master's numbers; lanes it does not have are put away."""
    with ctx.database.transaction():
        recipe = store.get(ctx.database, recipe_id).recipe
        here, before = apply_recipe(ctx.database, master_id, recipe)
        return Applied(before=before, here=here)


@router.get("/masters/{master_id}/parcels-state")
def state(master_id: str, ctx: Ctx) -> ParcelsState:
    """What the parcels of a master are now, so that a change can be put back."""
    masters.get(ctx.database, master_id)
    return with_revisions(ctx.database, master_id, parcels_state(ctx.database, master_id))


@router.put("/masters/{master_id}/parcels-state")
def put_back(master_id: str, request: ParcelsState, ctx: Ctx) -> ParcelsState:
    """Put back what the parcels of a master were; those of destinations that are gone are passed over."""
    with ctx.database.transaction():
        return restore_parcels(ctx.database, master_id, request)


@router.post("/masters/{master_id}/together")
def together(master_id: str, request: Together, ctx: Ctx) -> Applied:
    """Change some choices of several parcels at once. Where a destination cannot follow, its parcel stays and says why."""
    with ctx.database.transaction():
        before, refused, kept = parcels_state(ctx.database, master_id), [], []
        for now in planned_lanes(ctx.database, master_id):
            if request.parcels is not None and now.parcel.id not in request.parcels:
                continue
            try:
                kept.append(_changed(now.alone(ctx.database), request))
            except ValidationError as error:
                raise BadInput("These choices cannot be read.", "Correct them.", code="bad_setting") from error
            except BadChoice as error:
                refused.append(RefusedParcel(parcel_id=now.parcel.id, name=now.place.full_name, why=error.what))
        if kept:
            parcels.keep_all(ctx.database, master_id, kept)
            withdraw_unwanted(ctx.database, master_id)
        return Applied(before=with_revisions(ctx.database, master_id, before), refused=refused)


def _changed(now: PlannedParcel, request: Together) -> Parcel:
    choices = changed_together(
        now.facts, now.place, now.choices, now.plan, now.excerpt, request.part, request.times_guidance
    )
    version = now.parcel.sheet_version or now.place.sheet_version
    return now.parcel.model_copy(update={"choices": choices, "sheet_version": version})
