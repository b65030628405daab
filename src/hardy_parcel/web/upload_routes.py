"""Uploads: films dropped on the page, by the open tus protocol, kept until they are whole and their checksum agrees."""

from __future__ import annotations

import asyncio
import contextlib
import hashlib
import json
import shutil
import time
from collections.abc import Awaitable, Callable
from pathlib import Path
from typing import Annotated, Any, cast

from fastapi import APIRouter, HTTPException, Response
from fastapi import Path as PathParam
from fastapi.routing import APIRoute
from pydantic import BaseModel, Field
from tuspyserver import create_tus_router

from ..core.errors import BadInput, DiskFull, NotFound
from ..core.plan.naming import portable_stem
from ..core.values import size_text
from ..docks.resumable import StreamedStorage, disk_trouble, plain_upload
from ..store import masters
from ..store.files import flush, give_free_name
from ..store.masters import Master
from ..store.places import MASTER_ENDINGS, Places
from ..work.packing import choose_name
from ..work.queueing import queue_inspect
from .context import Ctx

LARGEST_BYTES = 1 << 41
MOST_UNFINISHED = 40
SPARE_BYTES = 200_000_000
KEEP_DAYS = 14
SWEEP_S = 3600.0
UploadId = Annotated[str, PathParam(pattern="^[0-9a-f]{32}$")]

router = APIRouter(prefix="/api/uploads", tags=["uploads"])


class Upload(BaseModel):
    """An upload that is not finished, or not yet checked."""

    id: str
    name: str
    size_bytes: int
    received_bytes: int


class FinishRequest(BaseModel):
    """The checksum of the file as the browser read it."""

    sha256: Annotated[str, Field(pattern="^[0-9a-f]{64}$")]


def tus_router(places: Places) -> APIRouter:
    """The resumable part: creating, sending on, asking how far it is, giving up."""
    places.uploads.mkdir(parents=True, exist_ok=True)

    def before(metadata: dict[str, Any], info: dict[str, Any]) -> None:
        name = metadata.get("filename", "")
        if Path(name).suffix.lower() not in MASTER_ENDINGS:
            raise HTTPException(415, f"{name or 'This file'} is not a film by its name; its ending must be one of "
                                     f"{', '.join(sorted(MASTER_ENDINGS))}")
        with disk_trouble():
            places.uploads.mkdir(parents=True, exist_ok=True)  # somebody may have cleared the cache away
        if len(unfinished(places)) >= MOST_UNFINISHED:
            raise HTTPException(409, f"There are {MOST_UNFINISHED} unfinished uploads; finish or give up some first")
        size = info.get("size") or 0
        awaited = sum(one.size_bytes - one.received_bytes for one in unfinished(places))
        free = max(0, shutil.disk_usage(places.uploads).free - awaited)
        if size + SPARE_BYTES > free:
            raise HTTPException(507, f"{name} has {size_text(size)} and there is room for {size_text(free)}; free some space first")

    async def before_creating(metadata: dict[str, Any], info: dict[str, Any]) -> None:
        await asyncio.to_thread(before, metadata, info)

    async def hook() -> Callable[[dict[str, Any], dict[str, Any]], Awaitable[None]]:
        return before_creating

    tus: APIRouter = create_tus_router(
        prefix="api/uploads", files_dir=str(places.uploads), max_size=LARGEST_BYTES, days_to_keep=KEEP_DAYS,
        auth=plain_upload,  # type: ignore[arg-type]  # it is depended on, so it may ask for the request
        storage=StreamedStorage(str(places.uploads)), tags=["uploads"],
        pre_create_dep=hook,  # type: ignore[arg-type]  # it is awaited, whatever its annotation says
    )
    for route in tus.routes:
        cast(APIRoute, route).include_in_schema = False  # the protocol is its own document
    return tus


def unfinished(places: Places) -> list[Upload]:
    """Uploads that were begun and are not on the shelf yet."""
    found = []
    for path in sorted(places.uploads.glob("*.info")):
        with contextlib.suppress(OSError, ValueError, KeyError):
            info = json.loads(path.read_text())
            received = path.with_suffix("").stat().st_size
            found.append(Upload(
                id=path.stem, name=info["metadata"]["filename"], size_bytes=info["size"], received_bytes=min(received, info["size"]),
            ))
    return found


def sweep_abandoned(places: Places) -> list[str]:
    """Give up uploads that nobody sent anything of for as long as they are kept; the ids of those that went."""
    before = time.time() - KEEP_DAYS * 24 * 3600
    gone = []
    for path in list(places.uploads.glob("*")):
        with contextlib.suppress(OSError):
            upload_id = path.name.removesuffix(".info")
            both = (path.with_name(upload_id), path.with_name(f"{upload_id}.info"))
            if path.is_file() and max(file.stat().st_mtime for file in both if file.exists()) < before:
                forget(places, upload_id)
                gone.append(upload_id)
    return sorted(set(gone))


async def keep_swept(places: Places) -> None:
    """Sweep now and every hour, until cancelled."""
    while True:
        await asyncio.to_thread(sweep_abandoned, places)
        await asyncio.sleep(SWEEP_S)


@router.options("", include_in_schema=False)
@router.options("/", include_in_schema=False)
def can() -> Response:
    """What of the protocol is taken."""
    return Response(status_code=204, headers={
        "Tus-Resumable": "1.0.0", "Tus-Version": "1.0.0", "Tus-Max-Size": str(LARGEST_BYTES),
        "Tus-Extension": "creation,creation-with-upload,expiration,termination",
    })


@router.get("")
def waiting(ctx: Ctx) -> list[Upload]:
    """Unfinished uploads, to be taken up again by dropping the same file."""
    return unfinished(ctx.places)


@router.post("/{upload_id}/finish", status_code=201)
def finish(upload_id: UploadId, request: FinishRequest, ctx: Ctx) -> Master:
    """Compare checksums, then put the file into the inbox and on the shelf."""
    upload = next((one for one in unfinished(ctx.places) if one.id == upload_id), None)
    path = ctx.places.uploads / upload_id
    if upload is None or not path.is_file():
        raise NotFound("There is no such upload.", "Drop the file again.")
    if path.stat().st_size != upload.size_bytes:
        raise BadInput(f"{upload.name} has not arrived whole.", "Let the upload go on.", code="unfinished")
    with open(path, "rb") as file:
        arrived = hashlib.file_digest(file, "sha256").hexdigest()
    if arrived != request.sha256:
        forget(ctx.places, upload_id)
        raise BadInput(f"{upload.name} arrived different from what was sent.", "Drop it again; the damaged copy is gone.",
                       code="checksum_differs")
    name, inbox = Path(upload.name), ctx.places.inbox
    try:
        flush(path)
        target = give_free_name(path, lambda: inbox / choose_name(inbox, portable_stem(name.stem), name.suffix.lstrip("."), set()))
        flush(inbox)
    except OSError as error:
        raise DiskFull(f"{upload.name} could not be put into the inbox.", "Free some space and try again.") from error
    forget(ctx.places, upload_id)
    with ctx.database.transaction():
        master_id = masters.add(ctx.database, target, uploaded=True)
        queue_inspect(ctx.database, master_id, target)
    return masters.get(ctx.database, master_id)


def forget(places: Places, upload_id: str) -> None:
    """Remove what is left of an upload."""
    for path in (places.uploads / upload_id, places.uploads / f"{upload_id}.info", places.uploads / ".locks" / f"{upload_id}.lock"):
        path.unlink(missing_ok=True)


