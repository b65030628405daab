"""Single pictures of a master for scrubbing and stepping, and the film itself for playing."""

from __future__ import annotations

import asyncio
import json
import sys
import time
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.errors import BadInput, Problem
from ..core.master.facts import MasterFacts
from ..core.master.timecode import timecode
from ..docks.catalogue import shipped_destinations
from ..store.masters import Master
from .context import Context, Ctx

router = APIRouter(prefix="/api/masters/{master_id}", tags=["frames"])
PICTURE_LIMIT_S = 30
MOST_VIEWERS = 3
IDLE_S = 90
PLAYABLE = {
    "mp4": "video/mp4", "m4v": "video/mp4", "mov": "video/mp4", "webm": "video/webm", "mkv": "video/x-matroska",
}


class Picture(BaseModel):
    """One picture: its number from 0, its time from the first picture, its time code, and itself as a data address.

    `exact` is false for the keyframe before the wanted picture, which comes at once.
    """

    number: int
    at_s: float
    timecode: str
    exact: bool
    picture: str


@dataclass
class _Open:
    child: asyncio.subprocess.Process
    content_id: str
    used: float = field(default_factory=time.monotonic)
    lock: asyncio.Lock = field(default_factory=asyncio.Lock)


_viewers: dict[str, _Open] = {}
_opening = asyncio.Lock()


@router.get("/picture")
async def picture(master_id: str, ctx: Ctx, number: Annotated[int, Query(ge=0, le=100_000_000)] = 0, exact: bool = True) -> Picture:
    """One picture of the master; the first wish opens a child process that stays open for a while."""
    master, facts = await asyncio.to_thread(ctx.readable, master_id)
    told = await ask_viewer(ctx, master, facts, {"number": number, "exact": exact})
    return Picture(
        number=told["number"], at_s=told["at_s"], exact=told["exact"],
        timecode=timecode(told["number"], facts.video.frame_rate, start=facts.timecode),
        picture=f"data:image/jpeg;base64,{told['jpeg']}",
    )


async def ask_viewer(ctx: Context, master: Master, facts: MasterFacts, wish: dict) -> dict:
    """The answer of the master's viewer to one wish; see `work.viewer`. Raises BadInput or what the viewer tells."""
    viewer = await _viewer(ctx, master.id, facts.content_id, master.path, facts.model_dump(mode="json"))
    async with viewer.lock:
        return await _wish(master.id, viewer, wish)


async def _viewer(ctx: Context, master_id: str, content_id: str, path: str, facts: dict) -> _Open:
    async with _opening:
        await _close_idle()
        found = _viewers.get(master_id)
        if found and found.child.returncode is None and found.content_id == content_id:
            found.used = time.monotonic()
            return found
        if found:
            await _close(master_id)
        idle = sorted((name for name in _viewers if not _viewers[name].lock.locked()), key=lambda name: _viewers[name].used)
        for name in idle[: max(0, len(_viewers) - MOST_VIEWERS + 1)]:
            await _close(name)
        child = await asyncio.create_subprocess_exec(
            sys.executable, "-m", "hardy_parcel.work.stepping",
            stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE, limit=1 << 24,
        )
        destination = next(iter(shipped_destinations().values())).model_dump(mode="json")
        child.stdin.write(json.dumps({"path": path, "facts": facts, "destination": destination}).encode() + b"\n")
        _viewers[master_id] = _Open(child=child, content_id=content_id)
        return _viewers[master_id]


async def _wish(master_id: str, viewer: _Open, wish: dict) -> dict:
    """Ask an open viewer; one that dies or takes too long is closed, and the next wish opens another."""
    try:
        viewer.child.stdin.write(json.dumps(wish).encode() + b"\n")
        await viewer.child.stdin.drain()
        async with asyncio.timeout(PICTURE_LIMIT_S):
            line = await viewer.child.stdout.readline()
    except (TimeoutError, ConnectionError) as error:
        await _close(master_id)
        raise BadInput("Fetching this picture took too long.", "Choose another place.", code="too_slow") from error
    except asyncio.CancelledError:
        await _close(master_id)  # its answer would be taken for the next one
        raise
    if not line:
        await _close(master_id)
        raise BadInput("This file brought its reader down here.", "Choose another place.", code="reader_died")
    told = json.loads(line)
    if "problem" in told:
        raise Problem.model_validate(told["problem"]).error()
    return told


async def _close(master_id: str) -> None:
    viewer = _viewers.pop(master_id, None)
    if viewer:
        if viewer.child.returncode is None:
            viewer.child.kill()
        await viewer.child.wait()


async def _close_idle() -> None:
    for name, viewer in list(_viewers.items()):
        if time.monotonic() - viewer.used > IDLE_S and not viewer.lock.locked():
            await _close(name)


async def close_viewers() -> None:
    """End every viewer; on shutting down."""
    for name in list(_viewers):
        await _close(name)


async def tidy_viewers() -> None:
    """End viewers nobody uses any more, for ever."""
    while True:
        await asyncio.sleep(IDLE_S / 3)
        async with _opening:
            await _close_idle()


@router.get("/film", response_class=FileResponse)
def film(master_id: str, ctx: Ctx) -> FileResponse:
    """The master's own bytes, in parts as a player asks for them."""
    master, _ = ctx.readable(master_id)
    return FileResponse(master.path, media_type=PLAYABLE.get(master.path.rsplit(".", 1)[-1].lower(), "application/octet-stream"))
