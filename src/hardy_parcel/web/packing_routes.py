"""The last look before packing, and packing: names, folders, room on the disk, and what of the master changes."""

from __future__ import annotations

import shutil
from collections.abc import Iterable
from typing import Annotated

from fastapi import APIRouter, Query
from pydantic import BaseModel, Field

from ..core.errors import FolderUnusable
from ..core.parcel.last_look import LastLookRow, last_look
from ..core.parcel.surprises import surprises
from ..core.values import size_text
from ..planned.now import planned, planned_lanes
from ..planned.pack_jobs import PackRequest, figures, named_file, pack_parcel, packed_before
from ..store import jobs, parcels, settings
from ..store.jobs import Job
from ..work.packing import awaited_on_disk
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


def _room(ctx: Context, folder: str, expected: int) -> DiskRoom | None:
    """Whether so many bytes fit into a folder beside what waits; None where the folder cannot be used."""
    try:
        usable_folder = ctx.places.output_folder(folder)
        free, awaited = (
            shutil.disk_usage(usable_folder).free,
            awaited_on_disk(usable_folder, jobs.awaited_bytes(ctx.database)),
        )
    except (FolderUnusable, OSError):
        return None
    enough = free > awaited + expected * 1.05
    waiting = f", of which {size_text(awaited)} are for what waits" if awaited else ""
    sentence = f"{size_text(free)} are free there{waiting}."
    if not enough:
        sentence += f" This needs some {size_text(expected)}: free some space or choose another folder."
    return DiskRoom(folder=str(usable_folder), free_bytes=free, awaited_bytes=awaited, enough=enough, sentence=sentence)


@router.get("/parcels/{parcel_id}/last-look")
def look_once_more(parcel_id: ParcelId, ctx: Ctx, folder: Annotated[str, Query(max_length=4096)] = "") -> LastLook:
    """The master beside what this parcel will be, and the room where it goes, or in another `folder`."""
    lane = planned(ctx.database, parcel_id)
    config = settings.load(ctx.database)
    size = figures(ctx.database, lane, config).size
    into = folder or named_file(ctx.database, ctx.places, lane, config, set()).folder
    return LastLook(
        rows=last_look(lane.facts, lane.plan, expected_bytes=size.expected_bytes),
        room=_room(ctx, into, size.worst_bytes),
        surprises=surprises(lane.facts, lane.plan, lane.master.stamps),
        packed_before=packed_before(ctx.database, lane),
    )


@router.get("/masters/{master_id}/packing")
def packing_together(
    master_id: str,
    ctx: Ctx,
    parcel: Annotated[list[ParcelId], Query(max_length=parcels.MOST_PARCELS)] = [],  # noqa: B006
) -> PackingTogether:
    """The files that several parcels of a master would become, in their turn, and the room for all of them."""
    config, targets = settings.load(ctx.database), set(jobs.promised_targets(ctx.database))
    files: list[ToPack] = []
    for lane in planned_lanes(ctx.database, master_id):
        if lane.parcel.id not in parcel or lane.served_by:
            continue
        named = named_file(ctx.database, ctx.places, lane, config, targets)
        targets.add((named.folder, named.name))
        size = figures(ctx.database, lane, config).size.expected_bytes
        files.append(
            ToPack(
                parcel_id=lane.parcel.id,
                folder=named.folder,
                name=named.name,
                taken=named.taken,
                expected_bytes=size,
                surprises=surprises(lane.facts, lane.plan, lane.master.stamps),
                packed_before=packed_before(ctx.database, lane),
            )
        )
    return PackingTogether(parcels=files, rooms=list(_rooms(ctx, files)))


def _rooms(ctx: Context, every: Iterable[ToPack]) -> Iterable[DiskRoom]:
    needed: dict[str, int] = {}
    for file in every:
        needed[file.folder] = needed.get(file.folder, 0) + file.expected_bytes
    for folder, size in needed.items():
        if room := _room(ctx, folder, size):
            yield room


@router.post("/parcels/{parcel_id}/pack", status_code=202)
def pack(parcel_id: ParcelId, request: PackRequest, ctx: Ctx) -> Job:
    """Queue the packing of this parcel as it was seen: when its plan is another by now, nothing is packed.

    A name that is taken is refused; leave it out for a free one. A folder that is given stays this parcel's.
    """
    with ctx.database.transaction():
        return pack_parcel(ctx.database, ctx.places, parcel_id, request)
