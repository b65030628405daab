"""A parcel as it is planned now: its master, its destination with the version of its sheet, the choices, the plan."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from pathlib import Path

from ..core.arrival.journey import Journey
from ..core.errors import BadInput, NotFound
from ..core.master.checks.evidence import Difficulty
from ..core.master.checks.sound_levels import heard_in
from ..core.master.facts import Excerpt, MasterFacts
from ..core.parcel.news import SheetNews, sheet_news
from ..core.parcel.parcel import Parcel
from ..core.plan.choices import Choices, Method
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan, plan_anyway, whole_excerpt
from ..core.plan.taking import not_taken
from ..core.sheets.sheet import Destination
from ..docks.catalogue import USUAL_LANES, destination, destination_of, destinations_now
from ..store import masters, parcels
from ..store.database import Database
from ..store.masters import Master, MasterState
from .known import enough_bps

ENCODED = Choices(method=Method.ENCODE)


def readable(database: Database, master_id: str) -> tuple[Master, MasterFacts]:
    """A master whose facts are known and whose file is there; raises BadInput otherwise."""
    master = masters.get(database, master_id)
    if master.state is MasterState.UNREADABLE and master.problem:
        raise BadInput(master.problem.what, master.problem.todo, code=master.problem.code)
    if master.facts is None:
        raise BadInput(f"{master.name} is still being read.", "Wait a moment.", code="still_reading")
    if master.state is MasterState.GONE or not Path(master.path).exists():
        raise BadInput(f"{master.name} is not there any more.", "Put it back, or open it again.", code="gone")
    return master, master.facts


@dataclass(frozen=True, kw_only=True)
class PlannedParcel:
    """Everything that work on one parcel starts from. `facts` have the levels of the parcel's own excerpt.

    Of one that is `served_by` another the plan is that one's, since its file is what arrives.
    """

    parcel: Parcel
    master: Master
    facts: MasterFacts
    place: Destination
    plan: Plan
    served_by: Parcel | None = None

    @property
    def choices(self) -> Choices:
        return self.parcel.choices

    @property
    def excerpt(self) -> Excerpt:
        return self.plan.excerpt

    @property
    def path(self) -> Path:
        return Path(self.master.path)

    def ours(self) -> Plan:
        """The plan without any choice but the shape's, in the same way of sending."""
        bare = self.choices.only_framing()
        return self.plan if bare == self.choices or self.served_by else make_plan(self.facts, self.place, bare, self.excerpt)

    @cached_property
    def encoded(self) -> Plan:
        """The plan whose perfect upload is what arrives of this one when nothing is encoded."""
        if not self.plan.copied:
            return self.plan
        return make_plan(self.facts, self.place, ENCODED, self.excerpt)

    @cached_property
    def journey(self) -> Journey | None:
        """The way of its picture; None for sound alone."""
        plan = self.encoded
        return Journey(plan, self.place) if plan.video else None

    def alone(self, database: Database) -> PlannedParcel:
        """The same parcel with a file of its own, not kept."""
        return self.choosing(database, self.choices) if self.served_by else self

    def choosing(self, database: Database, choices: Choices) -> PlannedParcel:
        """The same parcel with other choices, not kept. Raises BadChoice where no plan can follow."""
        plan = _with_enough(database, self.facts, self.place, choices, make_plan(self.facts, self.place, choices, self.excerpt))
        parcel = self.parcel.model_copy(update={"choices": choices, "served_by": None})
        return PlannedParcel(parcel=parcel, master=self.master, facts=self.facts, place=self.place, plan=plan)


def planned(database: Database, parcel_id: str) -> PlannedParcel:
    """A parcel as it is kept. Raises NotFound, BadInput or BadChoice."""
    parcel = parcels.get(database, parcel_id)
    master, facts = readable(database, parcel.master_id)
    return planned_on(database, parcel, master, facts)


def planned_on(database: Database, parcel: Parcel, master: Master, facts: MasterFacts) -> PlannedParcel:
    """A parcel on a master that is known already, as if `facts` were the master's.

    What a sheet that was changed under its choices does not take any more is left to the plan.
    """
    place = destination_of(database, parcel.destination_id, parcel.sheet_version)
    if parcel.excerpt != master.excerpt:
        facts = heard_in(facts, masters.sound_levels(database, facts.content_id), parcel.excerpt)
    if shared := _shared(database, parcel, place, master, facts):
        return PlannedParcel(parcel=parcel, master=master, facts=facts, place=place, plan=shared.plan, served_by=shared.parcel)
    choices, plan = plan_anyway(facts, place, parcel.choices, parcel.excerpt)
    plan = _with_enough(database, facts, place, choices, plan)
    kept = parcel if choices == parcel.choices else parcel.model_copy(update={"choices": choices})
    return PlannedParcel(parcel=kept, master=master, facts=facts, place=place, plan=plan)


def _shared(database: Database, parcel: Parcel, place: Destination, master: Master, facts: MasterFacts) -> PlannedParcel | None:
    """The parcel whose file serves this one; None where it has its own, or where that file would not be taken any more."""
    if parcel.served_by is None:
        return None
    try:
        source = parcels.get(database, parcel.served_by)
    except NotFound:
        return None
    if source.master_id != parcel.master_id or source.served_by or not source.shown or source.excerpt != parcel.excerpt:
        return None
    now = planned_on(database, source, master, facts)
    return None if not_taken(now.plan, place) else now


def _with_enough(database: Database, facts: MasterFacts, place: Destination, choices: Choices, plan: Plan) -> Plan:
    """The plan at what is enough for it, where that is asked for, no number settled, and it is known."""
    if choices.times_enough is None or choices.video_bitrate_bps is not None or plan.video is None or plan.copied:
        return plan
    enough = enough_bps(database, plan, Journey(plan, place))
    if enough is None:
        return plan
    settled = choices.model_copy(update={"video_bitrate_bps": round(enough * choices.times_enough)})
    return plan_anyway(facts, place, settled, plan.excerpt)[1]


def lanes_of(database: Database, master_id: str) -> list[Parcel]:
    """The parcels of a master's lanes whose destination still exists; the usual ones are made when there never were any."""
    master = masters.get(database, master_id)
    parcels.make_first_lanes(database, master_id, USUAL_LANES, master.excerpt)
    known = destinations_now(database)
    return [parcel for parcel in parcels.of_master(database, master_id) if parcel.destination_id in known]


def planned_lanes(database: Database, master_id: str, *, facts: MasterFacts | None = None) -> list[PlannedParcel]:
    """Every lane of a master as it is planned now, as if `facts` were the master's."""
    master, known = readable(database, master_id)
    return [planned_on(database, parcel, master, facts or known) for parcel in lanes_of(database, master_id)]


def news_of(database: Database, now: PlannedParcel) -> SheetNews | None:
    """What the newest version of its sheet would change; None when the parcel is planned with it."""
    newest = destination(now.place.id, database)
    return None if newest.sheet_version == now.place.sheet_version else sheet_news(now.facts, now.plan, now.place, newest, now.choices)


def difficulty_of(database: Database, content_id: str) -> tuple[Difficulty, ...]:
    """What the checks know of how hard each second is to code."""
    looked_through = masters.survey(database, content_id).picture
    return looked_through.difficulty if looked_through else ()


def whole_or(excerpt: Excerpt | None, facts: MasterFacts) -> Excerpt:
    """An excerpt, or the whole master where there is none."""
    return excerpt or whole_excerpt(facts)
