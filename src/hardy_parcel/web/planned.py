"""A parcel as it is planned now: its master, its destination with the version of its sheet, the choices, the plan."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.errors import BadInput
from ..core.master.facts import Excerpt, MasterFacts
from ..core.plan.choices import Choices
from ..core.plan.packing_slip import packing_slip
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan, plan_anyway, whole_excerpt
from ..core.sheets.sheet import Destination
from ..core.values import Model
from ..docks.catalogue import USUAL_LANES, destination, destination_of, destinations_now
from ..store import kept_sheets, masters
from ..store.masters import Master
from .context import Context


@dataclass(frozen=True, slots=True, kw_only=True)
class Planned:
    """Everything a request about one parcel starts from."""

    master: Master
    facts: MasterFacts
    place: Destination
    choices: Choices
    plan: Plan

    @property
    def excerpt(self) -> Excerpt:
        return self.master.excerpt or whole_excerpt(self.facts)

    def ours(self) -> Plan:
        """The plan without any choice but the shape's, in the same way of sending."""
        return make_plan(self.facts, self.place, self.choices.only_framing(), self.excerpt)

    def encoded(self) -> Plan:
        """The plan whose perfect upload is what arrives of this one when nothing is encoded."""
        if not self.plan.copied:
            return self.plan
        return make_plan(self.facts, self.place, Choices(), self.excerpt)

    def spec(self) -> dict:
        """What a job needs to know."""
        return {
            "path": self.master.path,
            "facts": self.facts.model_dump(mode="json"),
            "plan": self.plan.model_dump(mode="json"),
            "choices": self.choices.model_dump(mode="json"),
            "destination": self.place.model_dump(mode="json"),
        }


def planned(
    ctx: Context, master_id: str, destination_id: str, choices: Choices | None = None, *, facts: MasterFacts | None = None
) -> Planned:
    """The parcel with the kept choices, or with `choices`, and as if `facts` were the master's.

    Raises NotFound, BadInput or BadChoice.
    """
    master, known = ctx.readable(master_id)
    facts = facts or known
    kept = masters.choices(ctx.database, master_id).get(destination_id, masters.KeptChoices())
    place = destination_of(ctx.database, destination_id, kept.sheet_version)
    if choices is not None:
        return Planned(master=master, facts=facts, place=place, choices=choices, plan=make_plan(facts, place, choices, master.excerpt))
    choices, plan = plan_anyway(facts, place, kept.choices, master.excerpt)
    return Planned(master=master, facts=facts, place=place, choices=choices, plan=plan)


def lanes_of(ctx: Context, master_id: str) -> list[str]:
    """Destinations of a master's lanes that still exist; the usual ones when none were chosen."""
    known = destinations_now(ctx.database)
    wanted = kept_sheets.lanes(ctx.database, master_id)
    return [one for one in (USUAL_LANES if wanted is None else wanted) if one in known]


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


def sheet_news(ctx: Context, now: Planned) -> SheetNews | None:
    """What the newest version of the sheet would change; None when the parcel is planned with it."""
    newest = destination(now.place.id, ctx.database)
    if newest.sheet_version == now.place.sheet_version:
        return None
    try:
        plan = make_plan(now.facts, newest, now.choices, now.excerpt)
    except BadInput as error:  # a choice that the newer sheet does not take
        return SheetNews(planned_with=now.place.sheet_version, newest=newest.sheet_version, changes=(), problem=str(error))
    before = {row.setting: row.value for row in packing_slip(now.plan)}
    after = {row.setting: row.value for row in packing_slip(plan)}
    rows = [
        NewsRow(setting=name, before=before.get(name, "none"), after=after.get(name, "none"))
        for name in dict.fromkeys([*before, *after]) if before.get(name) != after.get(name)
    ]
    held = {stamp.matter for stamp in plan.held} - {stamp.matter for stamp in now.plan.held}
    rows += [NewsRow(setting="Stamp", before="none", after=f"held: {matter}") for matter in sorted(held)]
    return SheetNews(planned_with=now.place.sheet_version, newest=newest.sheet_version, changes=tuple(rows))

