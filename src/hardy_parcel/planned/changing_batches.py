"""A batch of videos: what a recipe or destinations come to on each, applying and undoing that, and fixing what the checks found."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Annotated

from pydantic import BaseModel, Field

from ..core.arrival.curve import figure
from ..core.arrival.rehearsal import Evidence
from ..core.arrival.screens import Screen, ViewerLine
from ..core.batch.batch_table import (
    BatchCell,
    BatchRow,
    BatchTable,
    Concern,
    batch_row,
    batch_table,
    master_concerns,
    plan_concerns,
    unplanned_row,
)
from ..core.errors import BadChoice, BadInput, HardyParcelError, NotFound
from ..core.master.checks.stamping import Remedy, mended
from ..core.master.facts import FramingMode, Mending
from ..core.parcel.parcel import Parcel
from ..core.parcel.recipes import Recipe
from ..core.parcel.summary import figures_of, packed_phrase, seen_of, stamps_in_the_light_of
from ..core.parcel.surprises import surprises
from ..core.plan.carrying import Line
from ..store import masters, results, settings
from ..store.database import Database
from ..store.masters import KeptExcerpt
from .changing_lanes import (
    ParcelsState,
    adapt_recipe,
    apply_recipe,
    lanes_to,
    parcels_state,
    restore_parcels,
    show_destinations,
    with_revisions,
)
from .known import known_of
from .now import PlannedParcel, lanes_of, planned_on, readable
from .unwanted import withdraw_unwanted

MOST_VIDEOS = 500
"""How many videos one batch may have."""


class Refusal(BaseModel):
    """A video that could not follow, and why."""

    master_id: str
    name: str
    why: str


class VideoBefore(BaseModel):
    """What a batch may change of one video: its parcels, what is fixed on it, and its excerpt; None for what was not changed."""

    master_id: Annotated[str, Field(max_length=40)]
    parcels: ParcelsState | None = None
    mending: Mending | None = None
    excerpt: KeptExcerpt | None = None
    excerpt_changed: bool = False


class BatchApplied(BaseModel):
    """What one undo restores, and the videos that could not follow."""

    before: list[VideoBefore]
    refused: list[Refusal] = []


def preview(
    database: Database, master_ids: Sequence[str], recipe: Recipe | None, destinations: Sequence[str]
) -> BatchTable:
    """Every video with its lanes as a recipe or these destinations would make them, or as they are; nothing is kept."""
    line = settings.load(database).line
    for master_id in master_ids:
        if masters.get(database, master_id).facts:
            lanes_of(database, master_id)  # first lanes are made before the state is held that shows them
    with database.snapshot():
        rows = [_row(database, master_id, recipe, destinations, line) for master_id in distinct(master_ids)]
    return batch_table(rows)


def distinct(master_ids: Sequence[str]) -> list[str]:
    """Ids without repetition, in their order."""
    return list(dict.fromkeys(master_ids))


def _row(
    database: Database, master_id: str, recipe: Recipe | None, destinations: Sequence[str], line: Line
) -> BatchRow:
    master = masters.get(database, master_id)
    try:
        facts = readable(database, master_id)[1]
        lanes, cells = _wanted_lanes(database, master_id, recipe, destinations)
    except HardyParcelError as error:
        return unplanned_row(master_id, master.name, f"{error.what} {error.todo}".strip())
    concerns = master_concerns(master.stamps)
    for parcel in lanes:
        try:
            current = planned_on(database, parcel, master, facts)
        except BadChoice as error:
            cells.append(BatchCell(destination_id=parcel.destination_id, name=parcel.name, refused=error.what))
            continue
        cells.append(_cell(database, current, concerns, line))
    return batch_row(master_id, master.name, cells, concerns)


def _wanted_lanes(
    database: Database, master_id: str, recipe: Recipe | None, destinations: Sequence[str]
) -> tuple[list[Parcel], list[BatchCell]]:
    """The parcels that are wanted, and cells for those that can't be made."""
    if recipe:
        adaptation, lanes = adapt_recipe(database, master_id, recipe)
        gone = [
            BatchCell(destination_id=part.destination_id, name=part.name or part.destination_id, refused=part.missing)
            for part in adaptation.parts
            if part.missing
        ]
        return lanes, gone
    return lanes_to(database, master_id, destinations) if destinations else lanes_of(database, master_id), []


def _cell(database: Database, current: PlannedParcel, master_findings: Sequence[Concern], line: Line) -> BatchCell:
    plan, parcel = current.plan, current.parcel
    known = known_of(database, plan, current.journey)
    speed = results.packing_speed(database, plan)
    figures = figures_of(plan, line=line, known=known.forecast, rehearsals=known.rehearsals, speed=speed)
    arrived, stamps = None, plan.stamps
    if any(evidence is not Evidence.SHEET for evidence in known.forecast.evidence):  # its curves are worth the time
        seen = seen_of(plan, current.place, known.forecast)
        stamps = stamps_in_the_light_of(plan, seen)
        arrived = next(
            (figure(item.at) for item in seen if (item.screen, item.line) == (Screen.LAPTOP, ViewerLine.GOOD)), None
        )
    is_framed = current.facts.mending.framing is not None or parcel.choices.framing is not None
    full_name = current.place.full_name
    return BatchCell(
        destination_id=current.place.id,
        name=f"{full_name}, {parcel.name}" if parcel.name else full_name,
        plan_key=plan.key(),
        result=packed_phrase(plan),
        size_bytes=figures.size.expected_bytes,
        encode_s=figures.encode.seconds,
        upload_s=figures.carriage.upload_s,
        condition=arrived.condition if arrived else None,
        band=arrived.band if arrived else None,
        concerns=plan_concerns(stamps, master_findings, is_framed=is_framed),
        surprises=surprises(current.facts, plan, current.master.stamps),
    )


def apply(
    database: Database, master_ids: Sequence[str], recipe: Recipe | None, destinations: Sequence[str]
) -> BatchApplied:
    """Give every video the lanes of a recipe, or lanes to these destinations, in one transaction.

    A video that can't follow stays as it is and is named. Raises NotFound for an unknown destination or video.
    """
    applied = BatchApplied(before=[])
    with database.transaction():
        for master_id in distinct(master_ids):
            name = masters.get(database, master_id).name
            try:
                readable(database, master_id)
                before = (
                    apply_recipe(database, master_id, recipe)[1]
                    if recipe
                    else show_destinations(database, master_id, destinations)
                )
            except NotFound:
                raise
            except (BadInput, BadChoice) as error:
                applied.refused.append(Refusal(master_id=master_id, name=name, why=error.what))
                continue
            applied.before.append(VideoBefore(master_id=master_id, parcels=before))
    return applied


def fix(
    database: Database, master_ids: Sequence[str], remedies: Sequence[Remedy], framing: FramingMode | None
) -> BatchApplied:
    """Fix findings on every video that has them, and say how its frames of another shape are filled, in one transaction.

    Without `remedies` and `framing` everything is fixed that needs no further answer.
    """
    applied = BatchApplied(before=[])
    with database.transaction():
        for master_id in distinct(master_ids):
            master = masters.get(database, master_id)
            if master.facts is None:
                continue
            before, mending = VideoBefore(master_id=master_id), master.facts.mending
            lanes = parcels_state(database, master_id)
            for concern in master_concerns(master.stamps):
                stamp = next(stamp for stamp in master.stamps if stamp.code == concern.code)
                if not concern.fixable or (stamp.remedy not in remedies if remedies else framing is not None):
                    continue
                if stamp.remedy is Remedy.TRIM:
                    chosen = [excerpt for excerpt in master.excerpts if excerpt.number == master.excerpt_number]
                    before.excerpt, before.excerpt_changed = (chosen[0] if chosen else None), True
                    masters.set_excerpt(database, master_id, stamp.excerpt)
                else:
                    mending = mended(mending, stamp, on=True)
            if framing is not None:
                mending = mending.model_copy(update={"framing": framing})
            if mending != master.facts.mending:
                before.mending = master.facts.mending
                masters.mend(database, master_id, mending)
            if before.excerpt_changed:  # parcels follow the excerpt, which gives them other revisions
                before.parcels = with_revisions(database, master_id, lanes)
            if before.mending is not None or before.excerpt_changed:
                withdraw_unwanted(database, master_id)
                applied.before.append(before)
    return applied


def undo(database: Database, states: Sequence[VideoBefore]) -> BatchApplied:
    """Restore every video's earlier state; one that was changed since stays as it is and is named."""
    undone = BatchApplied(before=[])
    for state in states:
        name = masters.get(database, state.master_id).name
        try:
            with database.transaction():
                _restore(database, state)
        except HardyParcelError as error:
            undone.refused.append(Refusal(master_id=state.master_id, name=name, why=error.what))
    return undone


def _restore(database: Database, state: VideoBefore) -> None:
    if state.parcels is not None:
        restore_parcels(database, state.master_id, state.parcels)
    if state.mending is not None:
        masters.mend(database, state.master_id, state.mending)
    if state.excerpt_changed:
        master = masters.get(database, state.master_id)
        if state.excerpt is None:
            if master.excerpt_number is not None:
                masters.drop_excerpt(database, state.master_id, master.excerpt_number)
        else:
            masters.keep_excerpt(
                database, state.master_id, state.excerpt.excerpt, number=state.excerpt.number, title=state.excerpt.title
            )
    withdraw_unwanted(database, state.master_id)
