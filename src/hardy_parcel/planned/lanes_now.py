"""All lanes of a master as they are now, and how they differ from one another."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, replace

from ..core.arrival.forecast import Forecast
from ..core.errors import BadChoice
from ..core.lately import LatelyMade
from ..core.parcel.going_up import GoingUp, going_up
from ..core.parcel.lane import Apart, BesideRow, Lane, apart, lane
from ..core.parcel.parcel import difference
from ..core.parcel.recommending import Aim
from ..core.parcel.suggestions import step_up_suggestion
from ..core.parcel.summary import Seen, figures_of, seen_of, stamps_in_the_light_of
from ..core.plan import as_it_is
from ..core.plan.carrying import Line
from ..core.plan.choices import Choices, Method
from ..core.plan.planning import changed
from ..store import results, settings
from ..store.database import Database
from .known import known_of
from .now import PlannedParcel
from .recommended import recommended


@dataclass(frozen=True, slots=True, kw_only=True)
class LaneNow:
    """A lane with what it is made from; `now` of one beside another has choices that are not kept, and `brings` says of a larger
    frame what it brings."""

    now: PlannedParcel
    lane: Lane
    seen: tuple[Seen, ...]
    brings: tuple[GoingUp, ...] = ()


def first_of(every: list[PlannedParcel], now: PlannedParcel) -> PlannedParcel | None:
    """The parcel that a sibling was made from, or the first of its destination; None for what is the first itself."""
    first = next((other for other in every if other.parcel.id == now.parcel.sibling_of), None)
    same = next(other for other in every if other.place.id == now.place.id)
    return first or (same if same.parcel.id != now.parcel.id else None)


def lanes_now(database: Database, every: list[PlannedParcel], line: Line, *, beside: bool = True) -> list[LaneNow]:
    """Every lane in its order; with `beside` there stand under the first of a destination the master as it is, where that is taken, and
    the next larger frame, where that is treated better and no sibling has it."""
    found: list[LaneNow] = []
    for now in every:
        first = first_of(every, now)
        found.append(lane_now(database, now, line, differs=difference(now.parcel, now.plan, first.parcel, first.plan) if first else ""))
        if not beside or first or now.plan.method.value is not Method.ENCODE or not now.plan.video:
            continue
        own = found[-1].lane
        if larger := larger_frame(database, every, now):
            up = lane_now(database, larger, line, beside=BesideRow.LARGER)
            found.append(replace(up, brings=going_up(up.lane, own)))
        if not as_it_is.against(now.facts, now.place, now.excerpt):
            found.append(lane_now(database, now.choosing(database, Choices(method=Method.UNTOUCHED)), line, beside=BesideRow.AS_IT_IS))
    aims = settings.aims(database)
    return [item if item.lane.beside else _advised(database, item, every, aims) for item in found]


def _advised(database: Database, row: LaneNow, every: list[PlannedParcel], aims: Mapping[str, Aim]) -> LaneNow:
    advice = recommended(database, row.now, every, aims)
    return replace(row, lane=row.lane.model_copy(update={"recommended": advice})) if advice else row


def larger_frame(database: Database, every: list[PlannedParcel], now: PlannedParcel) -> PlannedParcel | None:
    """A parcel with the next larger frame, where its platform treats that better; None where there is none, or a lane that has it."""
    step = step_up_suggestion(now.facts, now.place, now.choices, now.plan)
    if step is None:
        return None
    try:
        up = now.choosing(database, changed(now.facts, now.place, now.choices, step.part, now.excerpt))
    except BadChoice:
        return None
    size = up.plan.picture.framing.value
    sizes = [other.plan.picture.framing.value for other in every if other.place.id == now.place.id and other.plan.video]
    if up.plan.held or any((one.width, one.height) == (size.width, size.height) for one in sizes):
        return None
    return up


def lane_now(database: Database, now: PlannedParcel, line: Line, *, differs: str = "", beside: BesideRow | None = None) -> LaneNow:
    """One lane."""
    known = known_of(database, now.plan, now.journey)
    seen = _seen(now, known.forecast)
    figures = figures_of(
        now.plan, line=line, known=known.forecast, rehearsals=known.rehearsals, speed=results.packing_speed(database, now.plan),
    )
    active = now.facts.active
    return LaneNow(now=now, seen=seen, lane=lane(
        parcel=now.parcel, destination=now.place, plan=now.plan, figures=figures, seen=seen, difference=differs, beside=beside,
        stamps=stamps_in_the_light_of(now.plan, seen), active_size=(active.width, active.height),
    ))


def apart_of(every: list[Lane], against: str | None) -> dict[str, Apart]:
    """By parcel, how each lane differs from the one it is compared with: the parcel `against`, or a sibling's first."""
    own = [one for one in every if not one.beside]
    base = next((one for one in own if one.parcel.id == against), None)
    found = {}
    for one in own:
        other = base or next((first for first in own if first.parcel.id == one.parcel.sibling_of), None)
        if other and other.parcel.id != one.parcel.id:
            found[one.parcel.id] = apart(one, other)
    return found


_seen_lately: LatelyMade[tuple[Seen, ...]] = LatelyMade(256)


def _seen(now: PlannedParcel, known: Forecast) -> tuple[Seen, ...]:
    """What arrives, computed once for a plan as long as the same is known of it."""
    key = now.plan.key(), now.place.model_dump_json(), now.facts.content_id, now.facts.mending.model_dump_json()
    return _seen_lately.of(key, (known,), lambda: seen_of(now.plan, now.place, known))
