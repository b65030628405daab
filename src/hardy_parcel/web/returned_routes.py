"""Files that a platform served: measured against the master, held against the forecast, and learnt from."""

from __future__ import annotations

import asyncio
import shutil
import uuid
from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Query, Request
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ..core.arrival.learning import Correction, explains, seen_sentence
from ..core.arrival.returned import ExpectedView, best_expected
from ..core.arrival.screens import Screen
from ..core.errors import BadInput, NotFound
from ..core.parcel.returned_file import ReturnedRecord
from ..core.plan.naming import portable_stem
from ..core.sheets.sheet import Sheet
from ..docks.catalogue import check_new, destination, place_of
from ..planned.expected import expected_by_tests, expected_now
from ..planned.learning_now import correction_now
from ..store import jobs, kept_sheets, results, returned_files, sendings
from ..store.jobs import Job, JobKind
from ..work.cache import BROUGHT
from ..work.dispatching import queue_returned
from .context import Context, Ctx
from .frame_routes import played_as
from .receipt_routes import receive_file

router = APIRouter(prefix="/api", tags=["returned"])
Id = Annotated[str, Field(max_length=40)]


class ReturnedView(BaseModel):
    """A returned file: how it looks, what was done to it on the way, what was forecast of those who get it, what sets it apart from its
    sheet, and what the sheet would become.
    `sure` says how far the place that was found for it can be trusted."""

    record: ReturnedRecord
    job: Job | None
    sentence: str
    words: list[str]
    sure: str
    explains: list[str]
    expected: dict[Screen, ExpectedView]
    correction: Correction | None


class ReturnedBrief(BaseModel):
    """A returned file in a line."""

    id: str
    file_name: str
    destination_name: str
    sentence: str
    measured: bool


class LearnRequest(BaseModel):
    """Whether nothing better is served than this file."""

    best: bool = True


@router.get("/returned")
def every(ctx: Ctx) -> list[ReturnedBrief]:
    """Everything that came back, latest first."""
    return [
        ReturnedBrief(
            id=item.id,
            file_name=item.file_name,
            destination_name=item.destination_name,
            sentence=_sentence(item),
            measured=item.found is not None,
        )
        for item in returned_files.every(ctx.database)
    ]


@router.post("/returned", status_code=201)
async def bring_back(
    request: Request,
    ctx: Ctx,
    receipt_id: Annotated[str, Query(max_length=40)],
    name: Annotated[str, Query(max_length=255)] = "file",
    destination_id: Annotated[str | None, Query(max_length=130)] = None,
    best: bool = True,
) -> ReturnedView:
    """Measure a file that a platform served of a packed parcel; the body is the file itself, which is kept until it is forgotten."""
    returned_id = uuid.uuid4().hex[:12]
    folder = ctx.places.arrivals / f"{BROUGHT}{returned_id}"
    await asyncio.to_thread(folder.mkdir, parents=True)
    ending = Path(name).suffix.lower()
    path = folder / f"{portable_stem(Path(name).stem)}{ending if ending[1:].isalnum() else ''}"
    try:
        await receive_file(request, path, ctx)
        return await asyncio.to_thread(
            _brought, ctx, returned_id, path, receipt_id, name=name, destination_id=destination_id, best=best
        )
    except BaseException:
        await asyncio.shield(asyncio.to_thread(shutil.rmtree, folder, ignore_errors=True))
        raise


def _brought(
    ctx: Context, returned_id: str, path: Path, receipt_id: str, *, name: str, destination_id: str | None, best: bool
) -> ReturnedView:
    """A file that was brought here, put before what measures it, with what is forecast of its parcel now."""
    plan = results.packed_plan(ctx.database, receipt_id)
    placement = place_of(ctx.database, plan, destination_id)
    return _view(
        ctx,
        queue_returned(
            ctx.database,
            receipt_id,
            path,
            file_name=name,
            own=True,
            best=best,
            destination_id=placement.id,
            returned_id=returned_id,
            expected=expected_now(ctx.database, receipt_id, plan, placement),
        ),
    )


@router.post("/sendings/{sending_id}/files/{file}/learn", status_code=201)
def learn(sending_id: Id, file: Annotated[str, Field(max_length=200)], request: LearnRequest, ctx: Ctx) -> ReturnedView:
    """Measure a file that came back of a sending as one to learn from."""
    sending, _ = sendings.get(ctx.database, sending_id)
    path = ctx.places.arrivals / sending.id / file
    result = next((item for item in sending.files if item.file == file), None)
    if result is None or not path.is_file():
        raise NotFound("There is no such file.", "Look at what came back.")
    if not result.width:
        raise BadInput("There is no picture to learn from.", "Choose a file with a picture.", code="no_picture")
    plan = results.packed_plan(ctx.database, sending.receipt_id)
    tested = expected_by_tests(
        ctx.database, sending.receipt_id, plan, place_of(ctx.database, plan, sending.destination_id)
    )
    best = request.best and result.short_side_px == max(item.short_side_px for item in sending.files)
    return _view(
        ctx,
        queue_returned(
            ctx.database,
            sending.receipt_id,
            path,
            file_name=f"{Path(sending.file_name).stem} - {result.name}",
            own=False,
            best=best,
            destination_id=sending.destination_id,
            expected=best_expected(sending.expected, tested),
        ),
    )


@router.get("/returned/{returned_id}")
def one(returned_id: Id, ctx: Ctx) -> ReturnedView:
    """One returned file with what can be learnt from it and those before it."""
    return _view(ctx, returned_files.get(ctx.database, returned_id))


@router.get("/returned/{returned_id}/file", response_class=FileResponse)
def play(returned_id: Id, ctx: Ctx) -> FileResponse:
    """A file that was brought back, to be played."""
    record = returned_files.get(ctx.database, returned_id)
    if not record.own or not Path(record.path).is_file():
        raise NotFound(f"{record.file_name} is not kept here.", "Bring it back again.")
    return FileResponse(record.path, media_type=played_as(record.path), headers={"cache-control": "no-store"})


@router.delete("/returned/{returned_id}")
def forget(returned_id: Id, ctx: Ctx) -> list[ReturnedBrief]:
    """Forget a returned file, so that it counts no more; what was brought here goes too."""
    record = returned_files.get(ctx.database, returned_id)
    for job in jobs.open_of_kind(ctx.database, JobKind.RETURNED):
        if job.key == returned_id:
            jobs.ask_cancel(ctx.database, job.id)
    returned_files.remove(ctx.database, returned_id)
    if record.own:
        shutil.rmtree(Path(record.path).parent, ignore_errors=True)
    return every(ctx)


@router.post("/returned/{returned_id}/correct", status_code=201)
def correct_sheet(returned_id: Id, ctx: Ctx) -> Sheet:
    """Keep the corrected sheet as a new version; parcels that are planned with an older one say that there is another."""
    record = returned_files.get(ctx.database, returned_id)
    correction = correction_now(ctx.database, record.destination_id)
    if correction is None or not correction.changes:
        raise BadInput(
            "There is nothing to correct.", "The sheet says already what this platform does.", code="nothing_to_correct"
        )
    sheet = check_new(ctx.database, correction.sheet)
    kept_sheets.keep(ctx.database, sheet)
    return sheet


def _sentence(record: ReturnedRecord) -> str:
    if record.problem:
        return f"{record.problem.what} {record.problem.todo}"
    return seen_sentence(record.held_against) if record.held_against else "It is being measured."


def _view(ctx: Context, record: ReturnedRecord) -> ReturnedView:
    result = record.held_against
    job = (
        next((item for item in jobs.open_of_kind(ctx.database, JobKind.RETURNED) if item.key == record.id), None)
        if not result
        else None
    )
    placement = destination(record.destination_id, ctx.database)
    return ReturnedView(
        record=record,
        job=job,
        sentence=_sentence(record),
        words=list(result.words) if result else [],
        sure=result.alignment.sure if result else "",
        explains=list(explains(result, placement)) if result else [],
        expected=record.counting,
        correction=correction_now(ctx.database, placement.id) if result else None,
    )
