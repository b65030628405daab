"""Dispatch: the queue, receipts, and events as they happen."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator

from fastapi import APIRouter, Request
from sse_starlette import EventSourceResponse

from ..core.errors import StoreTrouble
from ..store import jobs, results
from ..store.jobs import Job
from ..store.results import KeptReceipt
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["dispatch"])
POLL_S = 0.25


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
async def events(request: Request, ctx: Ctx) -> EventSourceResponse:
    """Server-sent events: `job` with a changed job, `changed` when anything else changed."""
    return EventSourceResponse(_changes(ctx), ping=15)


async def _changes(ctx: Context) -> AsyncIterator[dict[str, str]]:
    seen = await asyncio.to_thread(ctx.database.revision)
    yield {"event": "hello", "data": str(seen)}
    while True:
        await asyncio.sleep(POLL_S)
        try:
            now = await asyncio.to_thread(ctx.database.revision)
            if now == seen:
                continue
            changed = await asyncio.to_thread(jobs.changed_since, ctx.database, seen)
        except StoreTrouble:
            continue
        seen = now
        for job in changed:
            yield {"event": "job", "data": job.model_dump_json()}
        yield {"event": "changed", "data": str(now)}
