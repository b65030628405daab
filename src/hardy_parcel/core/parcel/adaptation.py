"""A recipe brought to another master, and several parcels changed together: each by its own plan."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from ..master.facts import Excerpt, MasterFacts
from ..plan.choice_table import TABLE, InRecipe
from ..plan.choices import Choices
from ..plan.plan import Plan
from ..plan.planning import at_same_multiple, changed, make_plan
from ..sheets.sheet import Destination
from ..values import Model
from .parcel import Parcel
from .recipes import IntentChange, Recipe, RecipePart, changes_here, choices_for, differences, intent_of


class PartHere(Model):
    """A part of a recipe on a master: what it would change of today's choices, and how it adapts. `missing` says why not."""

    destination_id: str
    name: str | None
    differs: tuple[IntentChange, ...] = ()
    adapts: tuple[IntentChange, ...] = ()
    missing: str | None = None


class RecipeHere(Model):
    """A recipe on a master; `same` when nothing would change."""

    recipe: Recipe
    parts: tuple[PartHere, ...]
    same: bool


def matched(recipe: Recipe, parcels: Sequence[Parcel]) -> list[tuple[RecipePart, Parcel | None]]:
    """Each part with the parcel that takes it: of several for one destination the first takes the first; None for a new one."""
    left = {part.destination_id: [one for one in parcels if one.destination_id == part.destination_id] for part in recipe.parts}
    return [(part, left[part.destination_id].pop(0) if left[part.destination_id] else None) for part in recipe.parts]


def adapted(
    part: RecipePart, facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt
) -> tuple[PartHere, Choices]:
    """What a part comes to on a parcel with these choices and this plan, and the choices that it means there.

    What belongs to the master and not to a recipe, such as the focus, stays as the parcel has it.
    """
    wanted, left = choices_for(part.intent, facts, destination, excerpt)
    own = {choice.name: getattr(choices, choice.name) for choice in TABLE.values() if choice.recipe is InRecipe.NOT}
    wanted = wanted.model_copy(update=own)
    there = make_plan(facts, destination, wanted, excerpt)
    here = PartHere(
        destination_id=destination.id, name=destination.full_name, differs=differences(part.intent, intent_of(choices, plan)),
        adapts=changes_here(part, there, left),
    )
    return here, wanted


def missing(part: RecipePart) -> PartHere:
    """A part whose destination there is no more."""
    return PartHere(destination_id=part.destination_id, name=None, missing="there is no such destination any more")


def changed_together(
    facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt, part: dict[str, Any],
    times: float | None,
) -> Choices:
    """One parcel's choices with the wanted ones; a multiple of the guidance that they lead to becomes its own bit rate.

    Raises BadChoice where its destination cannot follow, ValidationError for what is no choice.
    """
    wanted = Choices.model_validate(choices.model_dump() | part)
    if times is None and "video_bitrate_bps" not in part:
        return at_same_multiple(facts, destination, wanted, plan, excerpt)
    other = make_plan(facts, destination, wanted, excerpt)
    bps = other.guidance.times(times) if times is not None and other.video and other.guidance and not other.copied else None
    if bps is None and times is not None:
        return wanted
    rate = {"video_bitrate_bps": bps or part.get("video_bitrate_bps")}
    return changed(facts, destination, wanted, rate | {name: part[name] for name in ("times_enough",) if name in part}, excerpt)
