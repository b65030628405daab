"""Changes to all lanes of a video at once: a recipe applied, destinations chosen, and what was there before restored."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, Field

from ..core.errors import BadChoice, BadInput
from ..core.parcel.adaptation import PartHere, RecipeHere, adapted, matched, missing
from ..core.parcel.parcel import Parcel
from ..core.parcel.recipes import Recipe
from ..docks.catalogue import destination, destinations_now
from ..store import masters, parcels
from ..store.database import Database
from .now import lanes_of, planned_on, readable
from .unwanted import withdraw_unwanted


class ParcelsState(BaseModel):
    """Every parcel of a master, those put away too: what can be restored.

    `seen` has the revision that each parcel has since: where another one is found, somebody has changed it, and nothing is restored.
    """

    parcels: Annotated[list[Parcel], Field(max_length=parcels.MOST_PARCELS)]
    seen: Annotated[dict[str, int], Field(max_length=parcels.MOST_PARCELS)] = {}


def parcels_state(database: Database, master_id: str) -> ParcelsState:
    """What the parcels of a master are now, without revisions."""
    return ParcelsState(parcels=parcels.of_master(database, master_id, put_away=True))


def with_revisions(database: Database, master_id: str, before: ParcelsState) -> ParcelsState:
    """An earlier state with the revisions that the parcels have now: to be called after the change."""
    after = parcels_state(database, master_id)
    return before.model_copy(update={"seen": {parcel.id: parcel.revision for parcel in after.parcels}})


def restore_parcels(database: Database, master_id: str, state: ParcelsState) -> ParcelsState:
    """Restore an earlier state, without parcels of destinations that are gone. To be called in a transaction.

    Raises ChangedMeanwhile where somebody has changed a parcel since, BadInput for parcels of another master.
    """
    master, facts = readable(database, master_id)
    parcels.check_seen(database, state.seen)
    catalogue = destinations_now(database)
    present = {parcel.id for parcel in parcels_state(database, master_id).parcels}
    wanted = [parcel for parcel in state.parcels if parcel.destination_id in catalogue]
    for parcel in wanted:
        if parcel.master_id != master_id or (parcel.id not in present and parcels.exists(database, parcel.id)):
            raise BadInput("These are parcels of another master.", "Go back to the lanes.", code="bad_setting")
        planned_on(database, parcel, master, facts).choosing(database, parcel.choices)
    removed = present - {parcel.id for parcel in wanted}
    parcels.keep_all(database, master_id, wanted, removed=removed)
    withdraw_unwanted(database, master_id)
    return parcels_state(database, master_id)


def check_room(present: Sequence[Parcel], more: int) -> None:
    """Refuse more parcels than one master may have."""
    if len(present) + more > parcels.MOST_PARCELS:
        raise BadChoice(f"A master can have {parcels.MOST_PARCELS} parcels.", "Remove one first.")


def adapt_recipe(database: Database, master_id: str, recipe: Recipe) -> tuple[RecipeHere, list[Parcel]]:
    """What a recipe comes to on a master, and the parcels that it means there; nothing is kept."""
    master, facts = readable(database, master_id)
    catalogue, shown = destinations_now(database), lanes_of(database, master_id)
    every = parcels.of_master(database, master_id, put_away=True)
    nearest_first = [*shown, *(parcel for parcel in every if not parcel.shown)]
    parts: list[PartHere] = []
    lanes: list[Parcel] = []
    same = True
    for part, parcel in matched(recipe, nearest_first):
        if part.destination_id not in catalogue:
            parts.append(missing(part))
            continue
        lane = parcel or Parcel(
            id=parcels.new_id(), master_id=master_id, destination_id=part.destination_id, excerpt=master.excerpt
        )
        current = planned_on(database, lane, master, facts)
        adaptation, choices = adapted(
            part, current.facts, current.place, current.choices, current.plan, current.excerpt
        )
        parts.append(adaptation)
        words = recipe.words.model_copy(update={"title": recipe.words.title or lane.words.title})
        named = {"file_pattern": recipe.file_pattern, "folder": recipe.folder, "words": words}
        unchanged = parcel is not None and not adaptation.differs
        same = same and unchanged and all(getattr(parcel, key) == value for key, value in named.items())
        version = lane.sheet_version or current.place.sheet_version
        settled = {"choices": choices, "sheet_version": version, "shown": True, "place": len(lanes)}
        lanes.append(lane.model_copy(update=settled | named))
    same = same and [lane.id for lane in lanes] == [parcel.id for parcel in shown]
    return RecipeHere(recipe=recipe, parts=tuple(parts), same=same), lanes


def apply_recipe(database: Database, master_id: str, recipe: Recipe) -> tuple[RecipeHere, ParcelsState]:
    """Show a recipe's parcels and put the other lanes away; gives what was there before. To be called in a transaction.

    Raises BadInput where none of its destinations is there any more, BadChoice where the master would have too many parcels.
    """
    adaptation, lanes = adapt_recipe(database, master_id, recipe)
    if not lanes:
        raise BadInput(
            "None of this recipe's destinations is there any more.", "Choose another recipe.", code="no_lanes"
        )
    before = parcels_state(database, master_id)
    _show(database, master_id, lanes, before.parcels)
    return adaptation, with_revisions(database, master_id, before)


def _show(database: Database, master_id: str, lanes: Sequence[Parcel], before: Sequence[Parcel]) -> None:
    """Keep these parcels as the lanes of a master and put its others away."""
    shown = {lane.id for lane in lanes}
    others = [parcel.model_copy(update={"shown": False}) for parcel in before if parcel.id not in shown]
    check_room(others, len(lanes))
    parcels.keep_all(database, master_id, [*lanes, *others])


def lanes_to(database: Database, master_id: str, destinations: Sequence[str]) -> list[Parcel]:
    """The parcels that these destinations mean on a master, in their order; nothing is kept.

    Those shown stay, put away ones come back, new ones are made where there is none. Raises NotFound for an unknown destination.
    """
    master, catalogue = masters.get(database, master_id), destinations_now(database)
    wanted = list(dict.fromkeys(destinations))
    for destination_id in wanted:
        if destination_id not in catalogue:
            destination(destination_id, database)
    lanes_of(database, master_id)
    present = parcels.of_master(database, master_id, put_away=True)
    lanes: list[Parcel] = []
    for destination_id in wanted:
        of_it = [parcel for parcel in present if parcel.destination_id == destination_id]
        shown = [parcel for parcel in of_it if parcel.shown] or of_it[:1]
        new = Parcel(id=parcels.new_id(), master_id=master_id, destination_id=destination_id, excerpt=master.excerpt)
        lanes += shown or [new]
    return [lane.model_copy(update={"shown": True, "place": position}) for position, lane in enumerate(lanes)]


def show_destinations(database: Database, master_id: str, destinations: Sequence[str]) -> ParcelsState:
    """Show lanes to these destinations and put the others away; gives what was there before. To be called in a transaction."""
    lanes = lanes_to(database, master_id, destinations)
    before = parcels_state(database, master_id)
    _show(database, master_id, lanes, before.parcels)
    withdraw_unwanted(database, master_id)
    return with_revisions(database, master_id, before)
