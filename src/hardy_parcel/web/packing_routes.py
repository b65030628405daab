"""The last look before packing, and packing: names, folders, room on the disk, and what of the master changes."""

from __future__ import annotations

import shutil
import time
from collections.abc import Iterable
from contextlib import suppress
from dataclasses import dataclass
from datetime import date
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..core.errors import FolderUnusable, NameTaken, PlanChanged, PlanHeld
from ..core.parcel.last_look import LastLookRow, last_look
from ..core.parcel.parcel import difference
from ..core.parcel.summary import Figures, figures_of
from ..core.parcel.surprises import surprises
from ..core.plan.naming import captions_beside, file_stem, portable_stem
from ..core.plan.plan import Plan
from ..core.values import size_text
from ..planned.known import known_of
from ..planned.lanes_now import first_of
from ..planned.now import PlannedParcel, planned, planned_lanes
from ..processes.messages import PackTask
from ..store import jobs, parcels, results, settings
from ..store.drives import note_used
from ..store.jobs import Job, JobKind
from ..store.settings import Settings
from ..work.packing import awaited_on_disk, check_room, choose_name, taken_names
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["packing"])

ParcelId = Annotated[str, Field(max_length=40)]
Targets = set[jobs.Target]


class DiskRoom(BaseModel):
    """The disk of a folder: what is free on it, and what of that is awaited by parcels that wait already. `sentence` says whether what
    is looked at fits beside it; `enough` is that in short."""

    folder: str
    free_bytes: int
    awaited_bytes: int
    enough: bool
    sentence: str


class LastLook(BaseModel):
    """Before a parcel is packed: the master beside it, and the disk it goes to; None where its folder cannot be used. `surprises` are what
    may not be expected, `packed_before` the receipt of exactly this plan."""

    rows: tuple[LastLookRow, ...]
    room: DiskRoom | None
    surprises: tuple[str, ...] = ()
    packed_before: str | None = None


class ToPack(BaseModel):
    """One of several parcels that are to be packed: its file, where it goes, and what it may come to."""

    parcel_id: str
    folder: str
    name: str
    taken: bool
    expected_bytes: int
    surprises: tuple[str, ...] = ()
    packed_before: str | None = None


class PackingTogether(BaseModel):
    """Several parcels before they are packed at once, with the disks they go to."""

    parcels: list[ToPack]
    rooms: list[DiskRoom]


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


def named_file(ctx: Context, now: PlannedParcel, kept: Settings, targets: Targets) -> NamedFile:
    """The file as it would be packed now, beside the `targets` that wait. A folder that cannot be used is said when it is packed."""
    stem, extension = _stem(now, kept), now.plan.container.value
    usual, folder = f"{stem}.{extension}", now.parcel.folder or kept.output_folder or str(ctx.places.outbox)
    with suppress(FolderUnusable, OSError, ValueError):
        there = ctx.places.within(Path(folder))
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


def _room(ctx: Context, folder: str, expected: int) -> DiskRoom | None:
    """Whether so many bytes fit into a folder beside what waits; None where the folder cannot be used."""
    try:
        there = ctx.places.output_folder(folder)
        free, awaited = shutil.disk_usage(there).free, awaited_on_disk(there, jobs.awaited_bytes(ctx.database))
    except (FolderUnusable, OSError):
        return None
    enough = free > awaited + expected * 1.05
    waiting = f", of which {size_text(awaited)} are for what waits" if awaited else ""
    said = f"{size_text(free)} are free there{waiting}."
    if not enough:
        said += f" This needs some {size_text(expected)}: free some space or choose another folder."
    return DiskRoom(folder=str(there), free_bytes=free, awaited_bytes=awaited, enough=enough, sentence=said)


@router.get("/parcels/{parcel_id}/last-look")
def look_once_more(parcel_id: ParcelId, ctx: Ctx, folder: Annotated[str, Query(max_length=4096)] = "") -> LastLook:
    """The master beside what this parcel will be, and the room where it goes, or in another `folder`."""
    now = planned(ctx.database, parcel_id)
    kept = settings.load(ctx.database)
    size = _figures(ctx, now, kept).size
    into = folder or named_file(ctx, now, kept, set()).folder
    return LastLook(
        rows=last_look(now.facts, now.plan, expected_bytes=size.expected_bytes),
        room=_room(ctx, into, size.worst_bytes),
        surprises=surprises(now.facts, now.plan, now.master.stamps),
        packed_before=_packed_before(ctx, now),
    )


def _packed_before(ctx: Context, now: PlannedParcel) -> str | None:
    """The receipt of a file that was packed by exactly this plan."""
    last = results.packed_last(ctx.database, now.master.id).get(now.served_by.id if now.served_by else now.parcel.id)
    return last.job_id if last and last.plan_key == now.plan.key() else None


@router.get("/masters/{master_id}/packing")
def packing_together(
    master_id: str,
    ctx: Ctx,
    parcel: Annotated[list[ParcelId], Query(max_length=parcels.MOST_PARCELS)] = [],  # noqa: B006
) -> PackingTogether:
    """The files that several parcels of a master would become, in their turn, and the room for all of them."""
    kept, targets = settings.load(ctx.database), set(jobs.promised_targets(ctx.database))
    found: list[ToPack] = []
    for now in planned_lanes(ctx.database, master_id):
        if now.parcel.id not in parcel or now.served_by:
            continue
        named = named_file(ctx, now, kept, targets)
        targets.add((named.folder, named.name))
        size = _figures(ctx, now, kept).size.expected_bytes
        found.append(
            ToPack(
                parcel_id=now.parcel.id,
                folder=named.folder,
                name=named.name,
                taken=named.taken,
                expected_bytes=size,
                surprises=surprises(now.facts, now.plan, now.master.stamps),
                packed_before=_packed_before(ctx, now),
            )
        )
    return PackingTogether(parcels=found, rooms=list(_rooms(ctx, found)))


def _rooms(ctx: Context, every: Iterable[ToPack]) -> Iterable[DiskRoom]:
    needed: dict[str, int] = {}
    for one in every:
        needed[one.folder] = needed.get(one.folder, 0) + one.expected_bytes
    for folder, size in needed.items():
        if room := _room(ctx, folder, size):
            yield room


def _figures(ctx: Context, now: PlannedParcel, kept: Settings) -> Figures:
    known = known_of(ctx.database, now.plan, now.journey)
    speed = results.packing_speed(ctx.database, now.plan)
    return figures_of(now.plan, line=kept.line, known=known.forecast, rehearsals=known.rehearsals, speed=speed)


@router.post("/parcels/{parcel_id}/pack", status_code=202)
def pack(parcel_id: ParcelId, request: PackRequest, ctx: Ctx) -> Job:
    """Queue the packing of this parcel as it was seen: when its plan is another by now, nothing is packed.

    A name that is taken is refused; leave it out for a free one. A folder that is given stays this parcel's.
    """
    with ctx.database.transaction():
        return _pack(parcel_id, request, ctx)


def _pack(parcel_id: str, request: PackRequest, ctx: Context) -> Job:
    now = planned(ctx.database, parcel_id)
    if now.served_by:  # its file is the other one's, which is packed once
        now = planned(ctx.database, now.served_by.id)
    plan: Plan = now.plan
    own, lanes = now.parcel.id, planned_lanes(ctx.database, now.master.id)
    serves = [one.place.full_name for one in lanes if one.served_by and one.served_by.id == own]
    every = (now.place.full_name, *serves) if serves else ()
    if plan.key() != request.plan_key:
        raise PlanChanged(
            "The plan is not the one that was shown; it has changed meanwhile.", "Look at it again, then pack it."
        )
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    kept = settings.load(ctx.database)
    usual = now.parcel.folder or kept.output_folder
    folder = ctx.places.output_folder(request.folder or usual)
    drive = note_used(ctx.database, folder)
    check_room(folder, plan, awaited_on_disk(folder, jobs.awaited_bytes(ctx.database)))
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
            expected_bytes=figures.size.expected_bytes,
        )

    remember_sheet(ctx, now)
    if request.folder and folder != ctx.places.output_folder(usual):
        parcels.keep(ctx.database, parcels.get(ctx.database, now.parcel.id).model_copy(update={"folder": str(folder)}))
    figures, begins = _figures(ctx, now, kept), _hour(ctx)
    first = first_of(lanes, now)
    way = now.parcel.name or (difference(now.parcel, plan, first.parcel, first.plan) if first else "")
    whom = f"{plan.destination_name}{f', {way}' if way else ''}{f' and {len(serves)} more' if serves else ''}"
    return jobs.add(
        ctx.database,
        JobKind.PACK,
        title=f"{now.facts.name} → {whom}",
        subject=now.facts.name,
        goes_to=whom,
        task=task,
        master_id=now.master.id,
        parcel_id=now.parcel.id,
        rank=figures.encode.seconds,  # short ones first
        expected_s=figures.encode.seconds,
        not_before=begins,
    )


def remember_sheet(ctx: Context, now: PlannedParcel) -> None:
    """From its first work on, a parcel keeps the version of the sheet it was planned with."""
    with ctx.database.transaction():
        kept = parcels.get(ctx.database, now.parcel.id)
        if kept.sheet_version is None:
            parcels.keep(ctx.database, kept.model_copy(update={"sheet_version": now.place.sheet_version}))


def _hour(ctx: Context) -> float | None:
    """When packing begins, where that lies ahead."""
    begins = settings.load_dispatch(ctx.database).start_at
    return begins if begins and begins > time.time() else None
