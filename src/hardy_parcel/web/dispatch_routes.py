"""Dispatch: the queue, receipts, and events as they happen."""

from __future__ import annotations

from fastapi import APIRouter
from sse_starlette import EventSourceResponse

from ..store import jobs, results
from ..store.jobs import Job
from ..store.results import KeptReceipt
from .context import Ctx

router = APIRouter(prefix="/api", tags=["dispatch"])


@router.get("/jobs")
def queue(ctx: Ctx) -> list[Job]:
    """Running, waiting and ended jobs."""
    return jobs.recent(ctx.database)


@router.post("/jobs/{job_id}/cancel")
def cancel(job_id: str, ctx: Ctx) -> Job:
    """Ask for a job to be stopped. What it measured so far is kept; an unfinished file is not."""
    jobs.get(ctx.database, job_id)
    return jobs.ask_cancel(ctx.database, job_id)


@router.get("/receipts")
def receipts(ctx: Ctx) -> list[KeptReceipt]:
    """Receipts, latest first."""
    return results.receipts(ctx.database)


@router.get("/events", include_in_schema=False)
async def events(ctx: Ctx) -> EventSourceResponse:
    """Server-sent events: `job` with a changed job, `changed` with the kinds and ids of what else changed."""
    return EventSourceResponse(ctx.happenings.listen(), ping=15)
