"""Single pictures of a master for scrubbing and stepping, and the film itself for playing."""

from __future__ import annotations

import asyncio
import time
from dataclasses import dataclass, field
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.errors import BadInput, HardyParcelError
from ..core.master.facts import ColourReading
from ..core.master.timecode import timecode
from ..planned.now import readable
from ..processes.client import Child
from ..processes.messages import Outcome, PictureShown, StepTask
from .context import Ctx

router = APIRouter(prefix="/api/masters/{master_id}", tags=["frames"])
PICTURE_LIMIT_S = 30
MOST_OPEN = 3
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
    """A child that steps through one film."""

    child: Child
    content_id: str
    used: float = field(default_factory=time.monotonic)
    lock: asyncio.Lock = field(default_factory=asyncio.Lock)


_steppers: dict[str, _Open] = {}
_opening = asyncio.Lock()


@router.get("/picture")
async def picture(
    master_id: str, ctx: Ctx, number: Annotated[int, Query(ge=0, le=100_000_000)] = 0, exact: bool = True,
    reading: ColourReading | None = None,
) -> Picture:
    """One picture of the master, its colours read as asked; the first wish opens a child process that stays open for a while."""
    master, facts = await asyncio.to_thread(readable, ctx.database, master_id)
    if reading is not None:
        facts = facts.model_copy(update={"mending": facts.mending.model_copy(update={"colour": reading})})
    shown = await step_to(master_id, StepTask(path=master.path, facts=facts, number=number, exact=exact))
    if not isinstance(shown, PictureShown):
        raise BadInput("This picture could not be shown.", "Choose another place.")
    return Picture(
        number=shown.number, at_s=shown.at_s, exact=shown.exact,
        timecode=timecode(shown.number, facts.video.frame_rate, start=facts.timecode),
        picture=f"data:image/jpeg;base64,{shown.jpeg}",
    )


async def step_to(master_id: str, task: StepTask) -> Outcome:
    """What the master's stepper answers to one wish. Raises BadInput or what the stepper tells; one that died is closed."""
    stepper = await _stepper(master_id, task.facts.content_id)
    async with stepper.lock:
        try:
            return await asyncio.shield(asyncio.to_thread(stepper.child.run, task, limit_s=PICTURE_LIMIT_S))
        except HardyParcelError as error:
            if error.code in ("reader_died", "too_slow"):
                await _close(master_id)
                raise BadInput("This picture could not be fetched: its file brought the reader down or held it up here.",
                               "Choose another place.", code=error.code) from error
            raise
        except asyncio.CancelledError:
            await _close(master_id)  # its answer would be taken for the next one
            raise


async def _stepper(master_id: str, content_id: str) -> _Open:
    async with _opening:
        await _close_idle()
        found = _steppers.get(master_id)
        if found and found.child.alive and found.content_id == content_id:
            found.used = time.monotonic()
            return found
        if found:
            await _close(master_id)
        idle = sorted((name for name in _steppers if not _steppers[name].lock.locked()), key=lambda name: _steppers[name].used)
        for name in idle[: max(0, len(_steppers) - MOST_OPEN + 1)]:
            await _close(name)
        _steppers[master_id] = _Open(child=await asyncio.to_thread(Child), content_id=content_id)
        return _steppers[master_id]


async def _close(master_id: str) -> None:
    stepper = _steppers.pop(master_id, None)
    if stepper:
        await asyncio.to_thread(stepper.child.close, grace_s=0)


async def _close_idle() -> None:
    for name, stepper in list(_steppers.items()):
        if time.monotonic() - stepper.used > IDLE_S and not stepper.lock.locked():
            await _close(name)


async def close_steppers() -> None:
    """End every stepper; on shutting down."""
    for name in list(_steppers):
        await _close(name)


async def tidy_steppers() -> None:
    """End steppers nobody uses any more, for ever."""
    while True:
        await asyncio.sleep(IDLE_S / 3)
        async with _opening:
            await _close_idle()


@router.get("/film", response_class=FileResponse)
def film(master_id: str, ctx: Ctx) -> FileResponse:
    """The master's own bytes, in parts as a player asks for them."""
    master, _ = readable(ctx.database, master_id)
    return FileResponse(master.path, media_type=PLAYABLE.get(master.path.rsplit(".", 1)[-1].lower(), "application/octet-stream"))
