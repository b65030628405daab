"""Look: the same picture at every station, on one screen's raster."""

from __future__ import annotations

import asyncio
import json
import sys
from pathlib import Path
from typing import Annotated, Literal

from fastapi import APIRouter
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel

from ..core.arrival.curve import usual_rates
from ..core.arrival.rehearsal import Rehearsal
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadInput, NotFound, Problem
from ..store import results
from .context import Context, Ctx
from .planned import planned

router = APIRouter(prefix="/api/masters/{master_id}/parcels/{destination_id}/look", tags=["look"])
PICTURE_LIMIT_S = 60
_places = asyncio.Semaphore(2)
_making: dict[Path, asyncio.Task[None]] = {}
"""Pictures being made, by folder: whoever asks for another station of the same picture waits for the same child."""


class LookView(BaseModel):
    """Every rehearsal of this parcel that can be looked at, with its measured pictures."""

    picture_key: str
    rehearsals: list[Rehearsal]
    waiting_rates: list[int]


@router.get("")
def look(master_id: str, destination_id: str, ctx: Ctx) -> LookView:
    """What there is to look at."""
    plan = planned(ctx, master_id, destination_id).plan
    found = results.rehearsals(ctx.database, plan.picture_key())
    done = {r.target_bps for r in found}
    usual = usual_rates(plan)
    return LookView(
        picture_key=plan.picture_key(), rehearsals=found, waiting_rates=[rate for rate in usual if rate not in done]
    )


@router.get("/{target_bps}/{index}/{screen}/{line}/{station}.png", response_class=FileResponse)
async def picture(
    master_id: str,
    destination_id: str,
    target_bps: Annotated[int, PathParam(ge=50_000, le=400_000_000)],
    index: Annotated[int, PathParam(ge=0, lt=10_000_000)],
    screen: Screen,
    line: ViewerLine,
    station: Literal["master", "packed", "arrived"],
    ctx: Ctx,
) -> FileResponse:
    """One measured picture at one station, at the raster of a screen; made on first request."""
    task, folder = await asyncio.to_thread(_task, ctx, master_id, destination_id, target_bps, index, screen, line)
    path = folder / f"{station}.png"
    if not path.is_file():
        await _made(task, folder)
    if not path.is_file():
        raise NotFound("There is no such picture.", "Choose another station.")
    return FileResponse(path, media_type="image/png", headers={"cache-control": "private, max-age=86400"})


def _task(
    ctx: Context, master_id: str, destination_id: str, target_bps: int, index: int, screen: Screen, line: ViewerLine
) -> tuple[dict, Path]:
    now = planned(ctx, master_id, destination_id)
    plan = now.plan
    key = plan.picture_key()
    found, known = results.rehearsal(ctx.database, key, target_bps), results.perfect(ctx.database, plan.way_key())
    if found is None or known is None:
        raise NotFound("Nothing was rehearsed at this bit rate.", "Rehearse it on the bench first.")
    files, rehearsal = found
    if index not in {moment.reel_index for moment in rehearsal.moments}:
        raise NotFound("This picture was not measured.", "Choose one of the measured moments.")
    folder = ctx.places.cache / "looks" / key / str(target_bps) / f"{index}-{screen}-{line}"
    return {
        **now.spec(), "kind": "look",
        "reel": known[0].model_dump(mode="json"), "index": index, "screen": screen, "line": line,
        "rehearsal_folder": str(files), "folder": str(folder),
    }, folder


async def _made(task: dict, folder: Path) -> None:
    """Make the pictures of `folder`, or wait until they are made."""
    making = _making.get(folder)
    if making is None:
        making = _making[folder] = asyncio.create_task(_make(task))
        making.add_done_callback(lambda _: _making.pop(folder, None))
    await asyncio.shield(making)


async def _make(task: dict) -> None:
    async with _places:
        await _in_child(task)


async def _in_child(task: dict) -> None:
    """Decode in a child process, which may crash or hang without harm to the service."""
    child = await asyncio.create_subprocess_exec(
        sys.executable, "-m", "hardy_parcel.work.child",
        stdin=asyncio.subprocess.PIPE, stdout=asyncio.subprocess.PIPE, limit=1 << 24,
    )
    try:
        child.stdin.write(json.dumps(task).encode() + b"\n")
        await child.stdin.drain()
        async with asyncio.timeout(PICTURE_LIMIT_S):
            async for raw in child.stdout:
                event = json.loads(raw)
                if "problem" in event:
                    raise Problem.model_validate(event["problem"]).error()
                if "result" in event:
                    return
    except TimeoutError as error:
        raise BadInput("Fetching this picture took too long.", "Try another one.", code="too_slow") from error
    finally:
        if child.returncode is None:
            child.kill()
        await child.wait()
