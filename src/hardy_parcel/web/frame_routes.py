"""Single pictures of a master for scrubbing and stepping, and the film itself for playing."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.errors import BadInput
from ..core.master.facts import ColourReading
from ..core.master.timecode import timecode
from ..planned.now import readable
from ..processes.messages import PictureShown, StepTask
from .context import Ctx

router = APIRouter(prefix="/api/masters/{master_id}", tags=["frames"])
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


@router.get("/picture")
async def picture(
    master_id: str, ctx: Ctx, number: Annotated[int, Query(ge=0, le=100_000_000)] = 0, exact: bool = True,
    reading: ColourReading | None = None,
) -> Picture:
    """One picture of the master, its colours read as asked; the first wish opens a child process that stays open for a while."""
    master, facts = await asyncio.to_thread(readable, ctx.database, master_id)
    await asyncio.to_thread(ctx.places.check_links, [Path(master.path)])
    if reading is not None:
        facts = facts.model_copy(update={"mending": facts.mending.model_copy(update={"colour": reading})})
    shown = await ctx.steppers.step_to(master_id, facts.content_id, StepTask(path=master.path, facts=facts, number=number, exact=exact))
    if not isinstance(shown, PictureShown):
        raise BadInput("This picture could not be shown.", "Choose another place.")
    return Picture(
        number=shown.number, at_s=shown.at_s, exact=shown.exact,
        timecode=timecode(shown.number, facts.video.frame_rate, start=facts.timecode),
        picture=f"data:image/jpeg;base64,{shown.jpeg}",
    )


@router.get("/film", response_class=FileResponse)
def film(master_id: str, ctx: Ctx) -> FileResponse:
    """The master's own bytes, in parts as a player asks for them."""
    master, _ = readable(ctx.database, master_id)
    ctx.places.check_links([Path(master.path)])
    return FileResponse(master.path, media_type=played_as(master.path))


def played_as(path: str) -> str:
    """The media type of a film by its ending; of anything else one that no browser shows as a page."""
    return PLAYABLE.get(path.rsplit(".", 1)[-1].lower(), "application/octet-stream")
