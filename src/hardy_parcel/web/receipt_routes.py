"""Receipts: what came out, files that come back, and couriers to try."""

from __future__ import annotations

import asyncio
import base64
import shutil
import tempfile
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from functools import partial
from pathlib import Path
from typing import Annotated, Literal
from urllib.parse import quote

import anyio
from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ..core.errors import BadInput, DiskFull, HardyParcelError, NotFound
from ..core.parcel.handoff import HandoffFound
from ..core.parcel.receipt import packed_file
from ..core.parcel.slip_text import SUMS, checksum_lines, slip_text
from ..core.plan.naming import portable_stem
from ..media.couriers import Courier
from ..processes.client import in_child
from ..processes.messages import CarryTask, HandedOver, HandoffTask
from ..store import results
from ..store.files import write_anew
from ..store.results import KeptReceipt
from ..work.desktop import show_in_folder
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["receipts"])
SPARE_BYTES = 1 << 30
"""Room that a file that is brought back leaves on the disk."""
HANDOFF_LIMIT_S = 3600.0
JobId = Annotated[str, Field(max_length=40)]


class CourierChoice(BaseModel):
    courier: Courier


class SumsWanted(BaseModel):
    """A folder in which parcels were packed."""

    folder: Annotated[str, Field(min_length=1, max_length=4096)]


class SumsWritten(BaseModel):
    """Where the list is, and how many files it names."""

    path: str
    files: int


@router.get("/receipts")
def receipts(ctx: Ctx) -> list[KeptReceipt]:
    """Receipts, latest first."""
    return results.receipts(ctx.database)


@router.delete("/receipts/{job_id}")
def remove(job_id: JobId, ctx: Ctx) -> list[KeptReceipt]:
    """Take a receipt away; its file stays."""
    results.receipt(ctx.database, job_id)
    results.remove_receipt(ctx.database, job_id)
    return results.receipts(ctx.database)


@router.get("/receipts/{job_id}/slip.{form}", responses={200: {"content": {"text/plain": {}, "application/json": {}}}})
def slip(job_id: JobId, form: Literal["txt", "json"], ctx: Ctx) -> Response:
    """The receipt to be saved, as text or as JSON, which `verify` takes."""
    kept = results.receipt(ctx.database, job_id)
    plain = kept.receipt.model_copy(update={"stills": None})
    text = slip_text(plain, kept.master_name) if form == "txt" else plain.model_dump_json(indent=2)
    name = quote(f"{portable_stem(Path(kept.receipt.file_name).stem)} - receipt.{form}")
    kind = "text/plain; charset=utf-8" if form == "txt" else "application/json"
    return Response(text, media_type=kind, headers={"content-disposition": f"attachment; filename*=UTF-8''{name}"})


@router.get("/receipts/{job_id}/{which}.jpg", responses={200: {"content": {"image/jpeg": {}}}}, response_class=Response)
def still(job_id: JobId, which: Literal["before", "after"], ctx: Ctx) -> Response:
    """The picture that came off worst, as the master has it or as the file does."""
    stills = results.receipt(ctx.database, job_id).receipt.stills
    if stills is None:
        raise NotFound("There are no pictures of this file.", "It is the master's own, or was packed by an earlier version.")
    headers = {"cache-control": "private, max-age=86400"}
    return Response(base64.b64decode(stills[which == "after"]), media_type="image/jpeg", headers=headers)


@router.get("/receipts/{job_id}/file", response_class=FileResponse)
def play(job_id: JobId, ctx: Ctx) -> FileResponse:
    """The packed file itself, to be played."""
    kept = results.receipt(ctx.database, job_id)
    path = ctx.places.within(Path(kept.receipt.folder) / kept.receipt.file_name)
    if not path.is_file():
        raise NotFound(f"{kept.receipt.file_name} is not in its folder any more.", "It was moved, renamed or removed.")
    return FileResponse(path, headers={"cache-control": "no-store"})


class Shown(BaseModel):
    """Whether the desktop opened the folder."""

    shown: bool


@router.post("/receipts/{job_id}/show")
def show(job_id: JobId, ctx: Ctx) -> Shown:
    """Show a packed file in its folder, where the desktop allows that."""
    kept = results.receipt(ctx.database, job_id)
    path = ctx.places.within(Path(kept.receipt.folder) / kept.receipt.file_name)
    if not path.is_file():
        raise NotFound(f"{kept.receipt.file_name} is not in its folder any more.", "It was moved, renamed or removed.")
    return Shown(shown=show_in_folder(path))


@router.post("/receipts/sums", status_code=201)
def write_sums(request: SumsWanted, ctx: Ctx) -> SumsWritten:
    """Write the list of checksums of a folder's packed files into it, as `sha256sum -c` takes it; an older list of ours is replaced."""
    folder = ctx.places.output_folder(request.folder)
    here = [kept.receipt for kept in results.receipts(ctx.database, every=True) if Path(kept.receipt.folder) == folder]
    there = [receipt for receipt in here if (folder / receipt.file_name).is_file()]
    if not there:
        raise BadInput(f"None of the files that were packed into {folder} is there.", "Pack something first.", code="nothing_packed")
    write_anew(folder / SUMS, checksum_lines(there))
    return SumsWritten(path=str(folder / SUMS), files=len({receipt.file_name for receipt in there}))


@asynccontextmanager
async def _scratch(ctx: Context) -> AsyncIterator[Path]:
    """A folder for a while; a large file in it is not removed on the event loop."""
    folder = await asyncio.to_thread(tempfile.TemporaryDirectory, prefix="hardy-parcel-", dir=ctx.places.cache)
    try:
        yield Path(folder.name)
    finally:
        await asyncio.shield(asyncio.to_thread(folder.cleanup))


@router.post("/receipts/{job_id}/carry")
async def try_courier(job_id: JobId, request: CourierChoice, ctx: Ctx) -> HandoffFound:
    """Send a packed file through a stand-in for a way of moving it, and say what became of it there."""
    kept = await asyncio.to_thread(results.receipt, ctx.database, job_id)
    packed = Path(kept.receipt.folder) / kept.receipt.file_name
    async with _scratch(ctx) as scratch:
        target = scratch / kept.receipt.file_name
        await _child(CarryTask(path=packed, courier=request.courier, target=target))
        return await _handed_over(target, (packed_file(kept.receipt, job_id),))


@router.post("/handoff")
async def handoff(request: Request, ctx: Ctx, name: Annotated[str, Query(max_length=255)] = "file") -> HandoffFound:
    """Say what became of a packed file that came back; the body is the file itself. The right receipt is found."""
    known = await asyncio.to_thread(_packed_files, ctx)
    if not known:
        raise BadInput("Nothing was packed yet that it could be.", "Pack something first.", code="nothing_packed")
    ending = Path(name).suffix.lower()
    async with _scratch(ctx) as scratch:
        path = scratch / f"{portable_stem(Path(name).stem)}{ending if ending[1:].isalnum() else ''}"
        await receive_file(request, path, ctx)
        return await _handed_over(path, known)


def _packed_files(ctx: Context) -> tuple[object, ...]:
    """Everything that was ever packed, as a file that came back is compared with it."""
    return tuple(packed_file(kept.receipt, kept.job_id) for kept in results.receipts(ctx.database, every=True))


ROOM_LOOKED_BYTES = 32 << 20
"""After so many received bytes the room on the disk is looked at again."""


async def receive_file(request: Request, path: Path, ctx: Context) -> None:
    """Write the body of a request into a file; raises DiskFull before the disk is."""
    unlooked = ROOM_LOOKED_BYTES
    async with await anyio.open_file(path, "wb") as file:
        async for part in request.stream():
            if unlooked >= ROOM_LOOKED_BYTES:
                unlooked = 0
                if (await asyncio.to_thread(shutil.disk_usage, path.parent)).free < SPARE_BYTES:
                    raise DiskFull("The disk is too full to take this file in.", "Free some space, or use the command line's verify.")
            await file.write(part)
            unlooked += len(part)


async def _handed_over(path: Path, known: tuple[object, ...]) -> HandoffFound:
    found = await _child(HandoffTask.model_validate({"path": path, "known": known}))
    if not isinstance(found, HandedOver):
        raise HardyParcelError("The check ended without its finding.", "Try again.")
    return found.found


async def _child(task: CarryTask | HandoffTask) -> object:
    return await asyncio.to_thread(partial(in_child, limit_s=HANDOFF_LIMIT_S), task)
