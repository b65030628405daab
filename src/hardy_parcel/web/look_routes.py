"""Look: the same picture at every station, on one screen's raster."""

from __future__ import annotations

import asyncio
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.arrival.curve import usual_rates
from ..core.arrival.rehearsal import HandledUpload, Rehearsal, TrialEncode
from ..core.arrival.screens import Screen, ViewerLine
from ..core.arrival.windows import Reel
from ..core.errors import NotFound
from ..planned.now import planned
from ..processes.client import in_child
from ..processes.messages import LookTask
from ..store import results
from ..work.rehearse import UPLOAD_NAME
from .context import Context, Ctx

router = APIRouter(prefix="/api/parcels/{parcel_id}/look", tags=["look"])
PICTURE_LIMIT_S = 60
_places = asyncio.Semaphore(2)
_making: dict[Path, asyncio.Task[None]] = {}
"""Pictures being made, by folder: whoever asks for another station of the same picture waits for the same child."""


class LookView(BaseModel):
    """Every rehearsal of this parcel that can be looked at, with its measured pictures."""

    rehearsals: list[Rehearsal]
    waiting_rates: list[int]


@router.get("")
def look(parcel_id: str, ctx: Ctx) -> LookView:
    """What there is to look at."""
    now = planned(ctx.database, parcel_id)
    journey = now.journey
    found = results.rehearsals(ctx.database, journey) if journey and not now.plan.copied else []
    done = {r.target_bps for r in found}
    usual = usual_rates(now.plan) if journey and not now.plan.copied else []
    return LookView(rehearsals=found, waiting_rates=[rate for rate in usual if rate not in done])


@router.get("/{target_bps}/{index}/{screen}/{line}/{station}.png", response_class=FileResponse)
async def picture(
    parcel_id: str,
    target_bps: Annotated[int, PathParam(ge=50_000, le=400_000_000)],
    index: Annotated[int, PathParam(ge=0, lt=10_000_000)],
    screen: Screen,
    line: ViewerLine,
    station: Literal["master", "packed", "arrived"],
    ctx: Ctx,
) -> FileResponse:
    """One measured picture at one station, at the raster of a screen; made on first request."""
    task = await asyncio.to_thread(_task, ctx, parcel_id, target_bps, index, screen, line)
    path = task.folder / f"{station}.png"
    if not path.is_file():
        await _made(task)
    if not path.is_file():
        raise NotFound("There is no such picture.", "Choose another station.")
    return FileResponse(path, media_type="image/png", headers={"cache-control": "private, max-age=86400"})


def _task(ctx: Context, parcel_id: str, target_bps: int, index: int, screen: Screen, line: ViewerLine) -> LookTask:
    now = planned(ctx.database, parcel_id)
    journey = now.journey
    place = next((p for p in results.points(ctx.database, journey.curve_key) if p.target_bps == target_bps), None) if journey else None
    reel = results.measurement(ctx.database, Reel, journey.reel_key) if journey else None
    if journey is None or place is None or reel is None:
        raise NotFound("Nothing was rehearsed at this bit rate.", "Rehearse it on the bench first.")
    encode = results.measurement(ctx.database, TrialEncode, place.encode_key)
    uploads = results.folder_of(ctx.database, TrialEncode, place.encode_key)
    handled = results.folder_of(ctx.database, HandledUpload, place.handled_key) if place.handled_key else None
    if encode is None or uploads is None or (place.handled_key and handled is None):
        raise NotFound("The pictures of this rehearsal were cleared away to save room.", "Rehearse it again on the bench.")
    if index not in {moment.reel_index for moment in encode.moments}:
        raise NotFound("This picture was not measured.", "Choose one of the measured moments.")
    return LookTask(
        path=now.path, facts=now.facts, plan=now.plan, destination=now.place, reel=reel, upload=uploads / UPLOAD_NAME, renditions=handled,
        index=index, screen=screen, line=line,
        folder=ctx.places.looks / (place.handled_key or place.encode_key) / f"{index}-{screen}-{line}",
    )


async def _made(task: LookTask) -> None:
    """Make the pictures of a folder, or wait until they are made."""
    making = _making.get(task.folder)
    if making is None:
        making = _making[task.folder] = asyncio.create_task(_make(task))
        making.add_done_callback(lambda _: _making.pop(task.folder, None))
    await asyncio.shield(making)


async def _make(task: LookTask) -> None:
    """Decode in a child process, which may crash or hang without harm to the service."""
    async with _places:
        await asyncio.to_thread(in_child, task, limit_s=PICTURE_LIMIT_S)
