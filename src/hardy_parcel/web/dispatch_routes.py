"""Dispatch: the queue, and events as they happen."""

from __future__ import annotations

import time
from typing import Annotated

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field
from sse_starlette import EventSourceResponse

from ..core.errors import BadInput, StoreTrouble
from ..store import jobs, settings
from ..store.jobs import Job, JobKind
from ..store.settings import After, DispatchSettings
from .context import Ctx

router = APIRouter(prefix="/api", tags=["dispatch"])
MOST_JOBS = 1000
YEAR_S = 366 * 24 * 3600


class Order(BaseModel):
    """Waiting parcels in the order in which they are to be packed; those that are not named come after them."""

    jobs: Annotated[list[Annotated[str, Field(max_length=40)]], Field(max_length=MOST_JOBS)]


class DispatchChange(BaseModel):
    """The hour at which packing begins (s since 1970), null for at once, and what comes after it; what is left out is as at first."""

    start_at: Annotated[float, Field(ge=0, le=1e11)] | None = None
    after: After = After.NOTHING


@router.get("/jobs")
def queue(ctx: Ctx, response: Response) -> list[Job]:
    """Running, waiting and ended jobs. The header `x-revision` is the last change that is in them."""
    with ctx.database.snapshot():
        response.headers["x-revision"] = str(ctx.database.revision())
        return jobs.recent(ctx.database)


@router.post("/jobs/{job_id}/cancel")
def cancel(job_id: str, ctx: Ctx) -> Job:
    """Ask for a job to be stopped. What it measured so far is kept; an unfinished file is not."""
    jobs.get(ctx.database, job_id)
    return jobs.ask_cancel(ctx.database, job_id)


@router.post("/jobs/{job_id}/pause")
def pause(job_id: str, ctx: Ctx) -> Job:
    """Let a job rest: one under way leaves the processor to others and goes on where it was, unless the program ends meanwhile."""
    jobs.get(ctx.database, job_id)
    return jobs.pause(ctx.database, job_id, paused=True)


@router.post("/jobs/{job_id}/resume")
def resume(job_id: str, ctx: Ctx) -> Job:
    """Let a job that rests go on."""
    jobs.get(ctx.database, job_id)
    return jobs.pause(ctx.database, job_id, paused=False)


@router.post("/jobs/{job_id}/again", status_code=201)
def again(job_id: str, ctx: Ctx) -> Job:
    """Queue once more what failed or was stopped, as it was then."""
    return jobs.again(ctx.database, job_id)


@router.put("/dispatch/order")
def put_in_order(request: Order, ctx: Ctx) -> list[Job]:
    """Put waiting parcels in another order."""
    jobs.put_in_order(ctx.database, request.jobs)
    return jobs.recent(ctx.database)


@router.get("/dispatch")
def dispatch(ctx: Ctx) -> DispatchSettings:
    """When packing begins, what comes after it, and whether the machine is kept awake meanwhile."""
    return settings.load_dispatch(ctx.database)


@router.put("/dispatch")
def change_dispatch(request: DispatchChange, ctx: Ctx) -> DispatchSettings:
    """Set when packing begins and what comes after it."""
    if request.start_at is not None and request.start_at > time.time() + YEAR_S:
        raise BadInput("Packing cannot wait for longer than a year.", "Choose an hour within a year.")
    jobs.begin_at(ctx.database, JobKind.PACK, request.start_at)
    return settings.change_dispatch(ctx.database, start_at=request.start_at, after=request.after)


@router.get("/events", include_in_schema=False)
async def events(ctx: Ctx) -> EventSourceResponse:
    """Server-sent events: `job` with a changed job, `changed` with the kinds and ids of what else changed."""
    if ctx.happenings.crowded:
        raise StoreTrouble("More pages are open than can be told what happens.", "Close some of them.", code="crowded")
    return EventSourceResponse(ctx.happenings.listen(), ping=15)
