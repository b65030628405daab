"""What a newer version of a sheet would change of a parcel that was planned with an older one."""

from __future__ import annotations

from ..errors import BadInput
from ..master.facts import MasterFacts
from ..plan.choices import Choices
from ..plan.packing_slip import packing_slip
from ..plan.plan import Plan
from ..plan.planning import make_plan
from ..sheets.sheet import Destination
from ..values import Model


class NewsRow(Model):
    """One line of the slip that a newer sheet would change."""

    setting: str
    before: str
    after: str


class SheetNews(Model):
    """A newer version of the sheet than the parcel was planned with, and what it would change."""

    planned_with: int
    newest: int
    changes: tuple[NewsRow, ...]
    problem: str | None = None


def sheet_news(facts: MasterFacts, plan: Plan, place: Destination, newest: Destination, choices: Choices) -> SheetNews:
    """What planning with `newest` instead of `place` would change; a choice that it does not take is the problem."""
    try:
        other = make_plan(facts, newest, choices, plan.excerpt)
    except BadInput as error:
        return SheetNews(planned_with=place.sheet_version, newest=newest.sheet_version, changes=(), problem=str(error))
    before = {row.setting: row.value for row in packing_slip(plan)}
    after = {row.setting: row.value for row in packing_slip(other)}
    rows = [
        NewsRow(setting=name, before=before.get(name, "none"), after=after.get(name, "none"))
        for name in dict.fromkeys([*before, *after]) if before.get(name) != after.get(name)
    ]
    held = {stamp.matter for stamp in other.held} - {stamp.matter for stamp in plan.held}
    rows += [NewsRow(setting="Stamp", before="none", after=f"held: {matter}") for matter in sorted(held)]
    return SheetNews(planned_with=place.sheet_version, newest=newest.sheet_version, changes=tuple(rows))
