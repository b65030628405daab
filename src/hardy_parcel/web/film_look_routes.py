"""Look at a whole packed film: any picture of it in every file of it, played in step, and where each suffers."""

from __future__ import annotations

import asyncio
import time
from typing import Annotated

from fastapi import APIRouter, Query, Response
from fastapi import Path as PathParam
from pydantic import BaseModel

from ..core.arrival.screens import Screen, picture_raster
from ..core.errors import BadInput, NotFound
from ..core.values import Ratio
from ..planned.film_looked import MASTER, FilmMoment, LookedFilm, looked_film
from ..processes.messages import FilmLookTask, LookedAt
from ..store.files import mark_used
from .context import Context, Ctx
from .look_routes import SuffersView

router = APIRouter(prefix="/api/receipts/{job_id}/look", tags=["look"])
JobId = Annotated[str, PathParam(max_length=40)]
Number = Annotated[int, PathParam(ge=0, lt=100_000_000)]
Station = Annotated[str, Query(max_length=255)]
Version = Annotated[str, Query(max_length=40)]


class StationView(BaseModel):
    """A file of the film: what it is called, in words, and where it is played: packed time t (s) is t × `pace` + `from_s` of its own.
    `version` names the file as it is now; addresses with it may be kept by a browser."""

    key: str
    name: str
    words: str
    version: str
    film: str
    from_s: float
    pace: float


class FilmLookView(BaseModel):
    """A packed film with all that can be looked at: how many pictures it has, at which rate (1/s), its picture's raster by screen (px),
    and measured moments; `worst` is the picture that suffers most as far as it was measured, `gone` says what is not there."""

    file_name: str
    master_id: str
    destination_name: str
    pictures: int
    frame_rate: Ratio
    rasters: dict[Screen, tuple[int, int]]
    stations: list[StationView]
    moments: list[FilmMoment]
    measured: str
    worst: int
    gone: list[str]


@router.get("")
def film(job_id: JobId, ctx: Ctx) -> FilmLookView:
    """A packed film to be looked at."""
    found = looked_film(ctx.database, ctx.places, job_id)
    video = found.plan.picture
    return FilmLookView(
        file_name=found.kept.receipt.file_name,
        master_id=found.kept.master_id,
        destination_name=found.place.full_name,
        pictures=video.frames,
        frame_rate=video.frame_rate.value,
        rasters={screen: picture_raster(screen, video.framing.value).size for screen in Screen},
        stations=[
            StationView(
                key=one.key,
                name=one.name,
                words=one.words,
                version=one.version(),
                film=one.film,
                from_s=one.from_s,
                pace=one.pace,
            )
            for one in found.stations
        ],
        moments=list(found.moments),
        measured=found.measured,
        worst=found.worst,
        gone=list(found.gone),
    )


@router.get("/{number}/{screen}/picture.bmp", response_class=Response)
async def exact_picture(
    job_id: JobId, number: Number, screen: Screen, station: Station, ctx: Ctx, version: Version = ""
) -> Response:
    """One packed picture as a file has it, on a screen's raster; a browser may keep it if it asked for the file's present version."""
    return await _picture(ctx, job_id, number, screen, station, version=version)


@router.get("/{number}/{screen}/picture.jpg", response_class=Response)
async def near_picture(job_id: JobId, number: Number, screen: Screen, station: Station, ctx: Ctx) -> Response:
    """What can be shown of it at once: the very picture where it is decoded already, else the keyframe before it."""
    return await _picture(ctx, job_id, number, screen, station)


@router.get("/{number}/{screen}/map")
async def suffers(job_id: JobId, number: Number, screen: Screen, station: Station, ctx: Ctx) -> SuffersView:
    """Where on a picture a file suffers beside the master."""
    task, content = await asyncio.to_thread(_task, ctx, job_id, number, screen, station)
    if task.master is None or task.file is None:
        raise BadInput(
            "Only a file beside its master has a map.", "Choose the packed file, or one that came back.", code="no_map"
        )
    shown = await ctx.steppers.step_to(f"{job_id}/{station}", content, task.model_copy(update={"mapped": True}))
    if not isinstance(shown, LookedAt) or shown.suffers is None:
        raise NotFound("There is no map of this picture.", "Choose another place.")
    return SuffersView.of(shown.suffers)


async def _picture(
    ctx: Context, job_id: str, number: int, screen: Screen, station: str, *, version: str | None = None
) -> Response:
    """The exact picture where a version is asked for, else what can be shown at once."""
    exact = version is not None
    task, content = await asyncio.to_thread(_task, ctx, job_id, number, screen, station)
    shown = await ctx.steppers.step_to(f"{job_id}/{station}", content, task.model_copy(update={"exact": exact}))
    if not isinstance(shown, LookedAt) or shown.picture is None:
        raise NotFound("There is no such picture.", "Choose another place.")
    data = await asyncio.to_thread(shown.picture.read_bytes)
    keep = "private, max-age=600" if version == content else "no-store"
    return Response(data, media_type="image/bmp" if exact else "image/jpeg", headers={"cache-control": keep})


KNOWN_S, MOST_KNOWN = 2.0, 8
"""So long what there is of a film is not looked up again for its next picture."""
_known: dict[str, tuple[float, LookedFilm]] = {}


def _lately(ctx: Context, job_id: str) -> LookedFilm:
    now = time.monotonic()
    at, found = _known.get(job_id, (-KNOWN_S, None))
    if found is None or now - at >= KNOWN_S:
        found = looked_film(ctx.database, ctx.places, job_id)
        if len(_known) >= MOST_KNOWN:
            _known.clear()
        _known[job_id] = now, found
    return found


def _task(ctx: Context, job_id: str, number: int, screen: Screen, station: str) -> tuple[FilmLookTask, str]:
    """What is asked of the child that has a file open, and what tells whether it still is the same file."""
    found = _lately(ctx, job_id)
    one = found.station(station)
    if one is None:
        raise NotFound("There is no such file of this film any more.", "Load the page again.")
    if number >= found.plan.picture.frames:
        raise NotFound("The film has no such picture.", "Choose one before it.")
    if not (version := one.version()):
        raise NotFound(f"{one.file.path.name} is not there any more.", "Load the page again.")
    if ctx.places.arrivals in one.file.path.parents:
        mark_used(one.file.path.parent)
    ctx.places.check_links(path for path in (found.master, one.file.path) if path)
    task = FilmLookTask(
        master=found.master,
        facts=found.facts,
        plan=found.plan,
        file=None if one.key == MASTER else one.file,
        number=number,
        screen=screen,
    )
    return task, version
