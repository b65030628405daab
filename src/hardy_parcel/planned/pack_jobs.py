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


def named_file(database: Database, places: Places, now: PlannedParcel, kept: Settings, targets: Targets) -> NamedFile:
    """The file as it would be packed now, beside the `targets` that wait. A folder that cannot be used is said when it is packed."""
    stem, extension = _stem(now, kept), now.plan.container.value
    usual, folder = f"{stem}.{extension}", now.parcel.folder or kept.output_folder or str(places.outbox)
    with suppress(FolderUnusable, OSError, ValueError):
        there = places.within(Path(folder))
        name = choose_name(there, stem, extension, _promised(targets, there), beside=captions_beside(now.plan))
        return NamedFile(folder=str(there), name=name, taken=name != usual)
    return NamedFile(folder=folder, name=usual, taken=False)


def _promised(targets: Targets, folder: Path) -> set[str]:
    return {name for where, name in targets if where == str(folder)}


def _stem(now: PlannedParcel, kept: Settings) -> str:
    """The parcel's file name by its own pattern or the creator's."""
    return file_stem(
        now.facts.name,
        now.plan,
        now.parcel.file_pattern or kept.file_pattern,
        excerpt=now.parcel.excerpt,
        number=now.parcel.place + 1,
        today=date.today(),
    )


def packed_before(database: Database, now: PlannedParcel) -> str | None:
    """The receipt of a file that was packed by exactly this plan."""
    last = results.packed_last(database, now.master.id).get(now.served_by.id if now.served_by else now.parcel.id)
    return last.job_id if last and last.plan_key == now.plan.key() else None


def figures(database: Database, now: PlannedParcel, kept: Settings) -> Figures:
    known = known_of(database, now.plan, now.journey)
    speed = results.packing_speed(database, now.plan)
    return figures_of(now.plan, line=kept.line, known=known.forecast, rehearsals=known.rehearsals, speed=speed)


def pack_parcel(
    database: Database, places: Places, parcel_id: str, request: PackRequest, *, batch_id: str | None = None
) -> Job:
    """Queue the packing of a parcel as it was seen, as part of a batch if one is given. To be called in a transaction.

    Raises PlanChanged, PlanHeld, NameTaken, FolderUnusable, DiskFull or BadInput where too many parcels wait.
    """
    now = planned(database, parcel_id)
    if now.served_by:  # its file is the other one's, which is packed once
        now = planned(database, now.served_by.id)
    plan: Plan = now.plan
    own, lanes = now.parcel.id, planned_lanes(database, now.master.id)
    serves = [one.place.full_name for one in lanes if one.served_by and one.served_by.id == own]
    every = (now.place.full_name, *serves) if serves else ()
    if plan.key() != request.plan_key:
        raise PlanChanged(
            "The plan is not the one that was shown; it has changed meanwhile.", "Look at it again, then pack it."
        )
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    kept = settings.load(database)
    usual = now.parcel.folder or kept.output_folder
    folder = places.output_folder(request.folder or usual)
    drive = note_used(database, folder)
    check_room(folder, plan, awaited_on_disk(folder, jobs.awaited_bytes(database)))
    extension = plan.container.value

    def task(targets: Targets) -> PackTask:
        promised = _promised(targets, folder)
        if request.file_name is None:
            name = choose_name(folder, _stem(now, kept), extension, promised, beside=captions_beside(plan))
        else:
            name = f"{portable_stem(request.file_name.removesuffix(f'.{extension}'))}.{extension}"
            if taken := taken_names(folder, name, captions_beside(plan), promised):
                raise NameTaken(f"{folder} already has, or will have, a file {taken[0]}.", "Choose another name.")
        return PackTask(
            path=now.path,
            facts=now.facts,
            plan=plan,
            destination=now.place,
            folder=folder,
            drive=drive,
            file_name=name,
            serves=every,
            expected_bytes=expected.size.expected_bytes,
        )

    remember_sheet(database, now)
    if request.folder and folder != places.output_folder(usual):
        parcels.keep(database, parcels.get(database, now.parcel.id).model_copy(update={"folder": str(folder)}))
    expected, begins = figures(database, now, kept), _hour(database)
    first = first_of(lanes, now)
    way = now.parcel.name or (difference(now.parcel, plan, first.parcel, first.plan) if first else "")
    whom = f"{plan.destination_name}{f', {way}' if way else ''}{f' and {len(serves)} more' if serves else ''}"
    return jobs.add(
        database,
        JobKind.PACK,
        title=f"{now.facts.name} → {whom}",
        subject=now.facts.name,
        goes_to=whom,
        task=task,
        master_id=now.master.id,
        parcel_id=now.parcel.id,
        rank=expected.encode.seconds,  # short ones first
        expected_s=expected.encode.seconds,
        not_before=begins,
        batch_id=batch_id,
    )


def remember_sheet(database: Database, now: PlannedParcel) -> None:
    """From its first work on, a parcel keeps the version of the sheet it was planned with."""
    with database.transaction():
        kept = parcels.get(database, now.parcel.id)
        if kept.sheet_version is None:
            parcels.keep(database, kept.model_copy(update={"sheet_version": now.place.sheet_version}))


def _hour(database: Database) -> float | None:
    """When packing begins, where that lies ahead."""
    begins = settings.load_dispatch(database).start_at
    return begins if begins and begins > time.time() else None
