"""Sending packed parcels to the stand-in platforms, and what came back of them."""

from __future__ import annotations

import asyncio
from typing import Annotated

from fastapi import APIRouter, Query
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field
from starlette.types import Message, Receive, Scope, Send

from ..core.arrival.docked import SentOver, Words
from ..core.arrival.journey import Journey
from ..core.arrival.returned import SeenView, seen_views
from ..core.errors import BadInput, NotFound
from ..core.parcel.parcel import Parcel
from ..core.parcel.sending import Sending, SendingState, sending_sentence
from ..core.plan.carrying import LINE_EFFICIENCY
from ..core.plan.plan import Plan
from ..docks.catalogue import place_of
from ..docks.shipped import shipped_destinations
from ..planned.expected import expected_by_tests, expected_now
from ..store import jobs, parcels, results, sendings, settings
from ..store.files import mark_used
from ..store.jobs import Job, JobKind
from ..store.results import KeptReceipt
from ..work.dispatching import queue_send
from .context import Context, Ctx

router = APIRouter(prefix="/api", tags=["sendings"])
JobId = Annotated[str, Field(max_length=40)]
QUICK_TIMES, LEAST_LINE_BPS = 20, 50_000
"""A quick line is so many times the creator's own; the slowest on which anything is watched (bit/s)."""


class SendRequest(BaseModel):
    """Where a packed file goes, what goes along, and over which line: the creator's own, a quick one, or one that swings and is cut."""

    destination_id: Annotated[str, Field(max_length=130)] | None = None
    words: Words = Words()
    quick: bool = False
    unsteady: bool = False


class SendingView(BaseModel):
    """A sending with what every viewer gets of it so far, and the job that is under way for it."""

    sending: Sending
    sentence: str
    seen: tuple[SeenView, ...]
    job: Job | None


class SendChoice(BaseModel):
    """A dock that a packed file can go to."""

    destination_id: str
    name: str


class SendingsView(BaseModel):
    """Everything that was sent of a receipt, latest first, where it can go, and the words that went along last. `docks` says whether
    there are docks at all; `own_s` is what sending takes on the creator's own line, `quick_s` on a quick one."""

    sendings: list[SendingView]
    choices: list[SendChoice]
    words: Words
    docks: bool
    uplink_bps: float
    own_s: float
    quick_s: float


@router.get("/receipts/{job_id}/sendings")
def of_receipt(job_id: JobId, ctx: Ctx) -> SendingsView:
    """What became of a packed file on its way to a platform."""
    stored, plan = results.receipt(ctx.database, job_id), results.packed_plan(ctx.database, job_id)
    every, parcel = sendings.of_receipt(ctx.database, job_id), _parcel(ctx, stored)
    serves = {
        plan.destination_id,
        *(key for key, placement in shipped_destinations().items() if placement.full_name in stored.receipt.serves),
    }
    uplink_bps = settings.load(ctx.database).line.uplink_mbps * 1e6
    own_s = stored.receipt.size_bytes * 8 / (uplink_bps * LINE_EFFICIENCY)
    return SendingsView(
        sendings=[_view(ctx, plan, item) for item in every],
        choices=[
            SendChoice(destination_id=key, name=placement.full_name)
            for key, placement in shipped_destinations().items()
            if key in serves
        ],
        words=every[0].words if every else parcel.words if parcel else Words(),
        docks=settings.docks(ctx.database) is not None,
        uplink_bps=uplink_bps,
        own_s=own_s,
        quick_s=own_s / QUICK_TIMES,
    )


@router.post("/receipts/{job_id}/send", status_code=201)
def send(job_id: JobId, request: SendRequest, ctx: Ctx) -> Job:
    """Put a packed file on the line; what is forecast of it now is kept, to be held against what comes back."""
    if settings.docks(ctx.database) is None:
        raise BadInput("There are no docks to send to.", "Start the service without --no-docks.", code="no_docks")
    plan = results.packed_plan(ctx.database, job_id)
    line = settings.load(ctx.database).line
    over = SentOver(rate_bps=line.uplink_mbps * 1e6 * (QUICK_TIMES if request.quick else 1), unsteady=request.unsteady)
    placement = place_of(ctx.database, plan, request.destination_id)
    expected = expected_now(ctx.database, job_id, plan, placement)
    with ctx.database.transaction():
        parcel = _parcel(ctx, results.receipt(ctx.database, job_id))
        if parcel and parcel.words != request.words:  # offered again, and kept with a recipe that is made of it
            parcels.keep(ctx.database, parcel.model_copy(update={"words": request.words}))
        return queue_send(
            ctx.database, job_id, destination_id=placement.id, words=request.words, line=over, expected=expected
        )


def _parcel(ctx: Context, stored: KeptReceipt) -> Parcel | None:
    """The parcel of a receipt, if there still is one."""
    try:
        return parcels.get(ctx.database, stored.parcel_id) if stored.parcel_id else None
    except NotFound:
        return None


class SentBrief(BaseModel):
    """The latest sending of a receipt, in a sentence."""

    receipt_id: str
    state: SendingState
    sentence: str


@router.get("/sendings")
def latest(ctx: Ctx) -> list[SentBrief]:
    """Of every receipt that was sent, how it stands with its latest sending."""
    result = []
    for receipt_id, sending in sendings.latest(ctx.database).items():
        try:
            view = _view(ctx, results.packed_plan(ctx.database, receipt_id), sending)
        except NotFound:  # its receipt was taken away
            continue
        result.append(SentBrief(receipt_id=receipt_id, state=sending.state, sentence=view.sentence))
    return result


@router.get("/sendings/{sending_id}")
def one(sending_id: JobId, ctx: Ctx) -> SendingView:
    """One sending, such as to watch what came back of it."""
    sending, _ = sendings.get(ctx.database, sending_id)
    return _view(ctx, results.packed_plan(ctx.database, sending.receipt_id), sending)


class OverALine(FileResponse):
    """A file that comes no faster than a viewer's line is (bit/s)."""

    line_bps: float = 0.0

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        async def slowly(message: Message) -> None:
            await send(message)
            if self.line_bps and (body := message.get("body")):
                await asyncio.sleep(len(body) * 8 / self.line_bps)

        scope = {**scope, "extensions": {}}  # so that the server does not send the file by itself
        await super().__call__(scope, receive, slowly)


@router.get("/sendings/{sending_id}/files/{name}", response_class=FileResponse)
def file(
    sending_id: JobId,
    name: Annotated[str, Field(max_length=200)],
    ctx: Ctx,
    line_bps: Annotated[float, Query(ge=0, le=1e12, allow_inf_nan=False)] = 0.0,
) -> OverALine:
    """A file that came back, to be played, over a line of so many bit/s; 0 is as fast as it goes."""
    sending, _ = sendings.get(ctx.database, sending_id)
    path = ctx.places.arrivals / sending.id / name
    mark_used(path.parent)
    if not any(item.file == name for item in sending.files):
        raise NotFound("There is no such file.", "Look at what came back.")
    if not path.is_file():
        raise NotFound("It was cleared away to save room; what was measured of it stays.", "Send the parcel again.")
    answer = OverALine(path, headers={"cache-control": "no-store"})
    answer.line_bps = max(LEAST_LINE_BPS, line_bps) if line_bps else 0.0
    return answer


def _view(ctx: Context, plan: Plan, sending: Sending) -> SendingView:
    placement = place_of(ctx.database, plan, sending.destination_id)
    job = None
    if sending.state in (SendingState.WAITING, SendingState.SENT):
        kinds = (JobKind.SEND, JobKind.ARRIVE)
        job = next(
            (item for kind in kinds for item in jobs.open_of_kind(ctx.database, kind) if item.key == sending.id), None
        )
    # where nothing is re-encoded the very file is all that comes
    every = sending.state is SendingState.ARRIVED or not placement.placement.re_encodes
    tested = expected_by_tests(ctx.database, sending.receipt_id, plan, placement) if sending.files else ()
    seen = (
        seen_views(Journey(plan, placement), sending.files, sending.expected, tested=tested, every=every)
        if plan.video
        else ()
    )
    return SendingView(sending=sending.told, sentence=sending_sentence(sending, seen), seen=seen, job=job)
