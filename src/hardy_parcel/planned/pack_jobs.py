"""A parcel on its way into the queue: its file's name and folder, what it comes to, and the job that packs it."""

from __future__ import annotations

import time
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Annotated

from pydantic import BaseModel, Field

from ..core.errors import FolderUnusable, NameTaken, PlanChanged, PlanHeld
from ..core.parcel.parcel import difference
from ..core.parcel.summary import Figures, figures_of
from ..core.plan.naming import captions_beside, file_stem, portable_stem
from ..core.plan.plan import Plan
from ..processes.messages import PackTask
from ..store import jobs, parcels, results, settings
from ..store.database import Database
from ..store.drives import note_used
from ..store.jobs import Job, JobKind
from ..store.places import Places
from ..store.settings import Settings
from ..work.packing import awaited_on_disk, check_room, choose_name, taken_names
from .known import known_of
from .lanes_now import first_of
from .now import PlannedParcel, planned, planned_lanes

Targets = set[jobs.Target]


class PackRequest(BaseModel):
    """The key of the plan that was seen, the file name to give, with its extension, and the folder; null for those that were shown."""

    plan_key: Annotated[str, Field(min_length=1, max_length=40)]
    file_name: Annotated[str, Field(min_length=1, max_length=240)] | None = None
    folder: Annotated[str, Field(min_length=1, max_length=4096)] | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class NamedFile:
    """Where a parcel's file goes and what it is called; `taken` says that its usual name was."""

    folder: str
    name: str
    taken: bool


def named_file(
    database: Database, places: Places, lane: PlannedParcel, config: Settings, targets: Targets
) -> NamedFile:
    """The file as it would be packed now, beside the `targets` that wait. A folder that cannot be used is said when it is packed."""
    stem, extension = _stem(lane, config), lane.plan.container.value
    usual, folder = f"{stem}.{extension}", lane.parcel.folder or config.output_folder or str(places.outbox)
    with suppress(FolderUnusable, OSError, ValueError):
        usable_folder = places.within(Path(folder))
        name = choose_name(
            usable_folder, stem, extension, _promised(targets, usable_folder), beside=captions_beside(lane.plan)
        )
        return NamedFile(folder=str(usable_folder), name=name, taken=name != usual)
    return NamedFile(folder=folder, name=usual, taken=False)


def _promised(targets: Targets, folder: Path) -> set[str]:
    return {name for where, name in targets if where == str(folder)}


def _stem(lane: PlannedParcel, config: Settings) -> str:
    """The parcel's file name by its own pattern or the creator's."""
    return file_stem(
        lane.facts.name,
        lane.plan,
        lane.parcel.file_pattern or config.file_pattern,
        excerpt=lane.parcel.excerpt,
        number=lane.parcel.place + 1,
        today=date.today(),
    )


def packed_before(database: Database, lane: PlannedParcel) -> str | None:
    """The receipt of a file that was packed by exactly this plan."""
    last = results.packed_last(database, lane.master.id).get(lane.served_by.id if lane.served_by else lane.parcel.id)
    return last.job_id if last and last.plan_key == lane.plan.key() else None


def figures(database: Database, lane: PlannedParcel, config: Settings) -> Figures:
    knowledge = known_of(database, lane.plan, lane.journey)
    speed = results.packing_speed(database, lane.plan)
    return figures_of(
        lane.plan, line=config.line, known=knowledge.forecast, rehearsals=knowledge.rehearsals, speed=speed
    )


def pack_parcel(
    database: Database, places: Places, parcel_id: str, request: PackRequest, *, batch_id: str | None = None
) -> Job:
    """Queue the packing of a parcel as it was seen, as part of a batch if one is given. To be called in a transaction.

    Raises PlanChanged, PlanHeld, NameTaken, FolderUnusable, DiskFull or BadInput where too many parcels wait.
    """
    lane = planned(database, parcel_id)
    if lane.served_by:  # its file is the other one's, which is packed once
        lane = planned(database, lane.served_by.id)
    plan: Plan = lane.plan
    own_id, lanes = lane.parcel.id, planned_lanes(database, lane.master.id)
    serves = [other.place.full_name for other in lanes if other.served_by and other.served_by.id == own_id]
    every = (lane.place.full_name, *serves) if serves else ()
    if plan.key() != request.plan_key:
        raise PlanChanged(
            "The plan is not the one that was shown; it has changed meanwhile.", "Look at it again, then pack it."
        )
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    config = settings.load(database)
    usual = lane.parcel.folder or config.output_folder
    folder = places.output_folder(request.folder or usual)
    drive = note_used(database, folder)
    check_room(folder, plan, awaited_on_disk(folder, jobs.awaited_bytes(database)))
    extension = plan.container.value

    def task(targets: Targets) -> PackTask:
        promised = _promised(targets, folder)
        if request.file_name is None:
            name = choose_name(folder, _stem(lane, config), extension, promised, beside=captions_beside(plan))
        else:
            name = f"{portable_stem(request.file_name.removesuffix(f'.{extension}'))}.{extension}"
            if taken := taken_names(folder, name, captions_beside(plan), promised):
                raise NameTaken(f"{folder} already has, or will have, a file {taken[0]}.", "Choose another name.")
        return PackTask(
            path=lane.path,
            facts=lane.facts,
            plan=plan,
            destination=lane.place,
            folder=folder,
            drive=drive,
            file_name=name,
            serves=every,
            expected_bytes=expected.size.expected_bytes,
        )

    remember_sheet(database, lane)
    if request.folder and folder != places.output_folder(usual):
        parcels.keep(database, parcels.get(database, lane.parcel.id).model_copy(update={"folder": str(folder)}))
    expected, begins = figures(database, lane, config), _hour(database)
    first = first_of(lanes, lane)
    variant = lane.parcel.name or (difference(lane.parcel, plan, first.parcel, first.plan) if first else "")
    recipient = (
        f"{plan.destination_name}{f', {variant}' if variant else ''}{f' and {len(serves)} more' if serves else ''}"
    )
    return jobs.add(
        database,
        JobKind.PACK,
        title=f"{lane.facts.name} → {recipient}",
        subject=lane.facts.name,
        goes_to=recipient,
        task=task,
        master_id=lane.master.id,
        parcel_id=lane.parcel.id,
        rank=expected.encode.seconds,  # short ones first
        expected_s=expected.encode.seconds,
        not_before=begins,
        batch_id=batch_id,
    )


def remember_sheet(database: Database, lane: PlannedParcel) -> None:
    """From its first work on, a parcel keeps the version of the sheet it was planned with."""
    with database.transaction():
        config = parcels.get(database, lane.parcel.id)
        if config.sheet_version is None:
            parcels.keep(database, config.model_copy(update={"sheet_version": lane.place.sheet_version}))


def _hour(database: Database) -> float | None:
    """When packing begins, where that lies ahead."""
    begins = settings.load_dispatch(database).start_at
    return begins if begins and begins > time.time() else None
