"""Batches: many videos previewed, changed, tested, packed and removed together."""

from __future__ import annotations

from typing import Annotated, Literal
from urllib.parse import quote

from fastapi import APIRouter, Response
from pydantic import BaseModel, Field

from ..core.batch.batch_table import BatchTable
from ..core.errors import BadChoice, HardyParcelError
from ..core.master.checks.stamping import Remedy
from ..core.master.facts import FramingMode
from ..core.parcel.recipes import Recipe
from ..core.plan.naming import portable_stem
from ..planned import changing_batches
from ..planned.changing_batches import MOST_VIDEOS, BatchApplied, Refusal, VideoBefore
from ..planned.packing_batches import (
    BatchPacked,
    BatchView,
    batch_view,
    open_jobs,
    pack_batch,
    recent_batches,
    try_again,
)
from ..planned.removing import remove_master
from ..planned.testing_lanes import queue_tests
from ..report.batch_report import TEMPLATE, batch_csv, batch_html, batch_json, batch_report, batch_sums
from ..report.writing import page_policy
from ..store import batches, jobs, kept_recipes, masters
from ..store.jobs import JobKind
from .context import Context, Ctx

router = APIRouter(prefix="/api/batches", tags=["batches"])
Id = Annotated[str, Field(max_length=40)]
Videos = Annotated[list[Id], Field(min_length=1, max_length=MOST_VIDEOS)]
MOST_DESTINATIONS = 30


class BatchWish(BaseModel):
    """Videos and what their lanes should be: a recipe's, lanes to destinations, or with neither as they are."""

    masters: Videos
    recipe_id: Id | None = None
    destinations: Annotated[list[Annotated[str, Field(max_length=130)]], Field(max_length=MOST_DESTINATIONS)] = []


class FixWish(BaseModel):
    """Videos and the remedies to take where a check offers them; without `remedies` and `framing` all that need no answer."""

    masters: Videos
    remedies: Annotated[list[Remedy], Field(max_length=len(Remedy))] = []
    framing: FramingMode | None = None


class PackWish(BaseModel):
    """Videos whose lanes are to be packed, and what the batch is called."""

    masters: Videos
    title: Annotated[str, Field(max_length=120)] = ""


class VideosWish(BaseModel):
    masters: Videos


class UndoWish(BaseModel):
    """What a batch change gave as the state before it."""

    before: Annotated[list[VideoBefore], Field(max_length=MOST_VIDEOS)]


class BatchTests(BaseModel):
    """How many tests wait or run now for these videos, and the videos that can't be tested."""

    tests: int
    refused: list[Refusal]


class BatchRemoved(BaseModel):
    """How many videos left the shelf, and how many copies of ours were deleted."""

    removed: int
    files_deleted: int


def _recipe(ctx: Context, request: BatchWish) -> Recipe | None:
    return kept_recipes.get(ctx.database, request.recipe_id).recipe if request.recipe_id else None


@router.post("/preview")
def preview(request: BatchWish, ctx: Ctx) -> BatchTable:
    """What a recipe or destinations come to on every video, the ones that need a decision first. Nothing is kept."""
    return changing_batches.preview(ctx.database, request.masters, _recipe(ctx, request), request.destinations)


@router.post("/apply")
def apply(request: BatchWish, ctx: Ctx) -> BatchApplied:
    """Give every video the lanes of a recipe, or lanes to these destinations; `before` undoes all of it at once."""
    recipe = _recipe(ctx, request)
    if recipe is None and not request.destinations:
        raise BadChoice("Nothing is chosen for these videos.", "Choose a recipe or destinations.")
    return changing_batches.apply(ctx.database, request.masters, recipe, request.destinations)


@router.post("/fix")
def fix(request: FixWish, ctx: Ctx) -> BatchApplied:
    """Fix what the checks found on every video that has it; `before` undoes all of it at once."""
    return changing_batches.fix(ctx.database, request.masters, request.remedies, request.framing)


@router.post("/undo")
def undo(request: UndoWish, ctx: Ctx) -> BatchApplied:
    """Restore what was there before a batch change. A video that was changed since stays as it is and is named."""
    return changing_batches.undo(ctx.database, request.before)


@router.post("/test", status_code=202)
def test(request: VideosWish, ctx: Ctx) -> BatchTests:
    """Test clips for every lane of these videos, the first video first."""
    refused: list[Refusal] = []
    queued = set[str]()
    for master_id in changing_batches.distinct(request.masters):
        name = masters.get(ctx.database, master_id).name
        try:
            queued |= {job.id for job in queue_tests(ctx.database, ctx.places, master_id)}
        except HardyParcelError as error:
            refused.append(Refusal(master_id=master_id, name=name, why=error.what))
    jobs.put_film_first(ctx.database, JobKind.PROBE, request.masters[0])
    return BatchTests(tests=len(queued), refused=refused)


@router.post("/remove")
def remove(request: VideosWish, ctx: Ctx) -> BatchRemoved:
    """Remove videos from the shelf. Only copies that were uploaded here are deleted."""
    wanted = [masters.get(ctx.database, master_id).id for master_id in changing_batches.distinct(request.masters)]
    deleted = sum(remove_master(ctx.database, ctx.places, master_id) for master_id in wanted)
    return BatchRemoved(removed=len(wanted), files_deleted=deleted)


@router.post("", status_code=201)
def pack(request: PackWish, ctx: Ctx) -> BatchPacked:
    """Queue every lane of these videos that can be packed, as one batch."""
    count = len(changing_batches.distinct(request.masters))
    title = request.title.strip() or f"{count} video{'' if count == 1 else 's'}"
    return pack_batch(ctx.database, ctx.places, request.masters, title)


@router.get("")
def recent(ctx: Ctx) -> list[BatchView]:
    """The latest batches, the newest first."""
    return recent_batches(ctx.database)


@router.get("/{batch_id}")
def fetch_batch(batch_id: Id, ctx: Ctx) -> BatchView:
    """One batch as it stands."""
    return batch_view(ctx.database, batches.get(ctx.database, batch_id))


@router.get(
    "/{batch_id}/report.{form}",
    responses={200: {"content": {"text/html": {}, "text/csv": {}, "application/json": {}}}},
)
def report(batch_id: Id, form: Literal["html", "csv", "json"], ctx: Ctx) -> Response:
    """What came of a batch, with every receipt: a page that prints, a table, or everything as JSON."""
    content = batch_report(ctx.database, batch_id)
    text = {"html": batch_html, "csv": batch_csv, "json": batch_json}[form](content)
    kind = "application/json" if form == "json" else f"text/{form}"
    name = quote(f"{portable_stem(content.title)} - batch.{form}")
    shown = "inline" if form == "html" else "attachment"
    headers = {"content-disposition": f"{shown}; filename*=UTF-8''{name}", "cache-control": "no-store"}
    if form == "html":
        rules = "base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
        headers["content-security-policy"] = f"{page_policy(TEMPLATE)}; {rules}"
    return Response(text, media_type=f"{kind}; charset=utf-8", headers=headers)


@router.get("/{batch_id}/SHA256SUMS", responses={200: {"content": {"text/plain": {}}}})
def sums(batch_id: Id, ctx: Ctx) -> Response:
    """The checksums of a batch's files, as `sha256sum -c` takes them."""
    headers = {"content-disposition": "attachment; filename=SHA256SUMS", "cache-control": "no-store"}
    text = batch_sums(batch_report(ctx.database, batch_id))
    return Response(text, media_type="text/plain; charset=utf-8", headers=headers)


@router.post("/{batch_id}/pause")
def pause(batch_id: Id, ctx: Ctx) -> BatchView:
    """Pause all of a batch that waits or runs."""
    return _pause(batch_id, ctx, paused=True)


@router.post("/{batch_id}/resume")
def resume(batch_id: Id, ctx: Ctx) -> BatchView:
    """Resume all of a batch that is paused."""
    return _pause(batch_id, ctx, paused=False)


def _pause(batch_id: str, ctx: Context, *, paused: bool) -> BatchView:
    for job in open_jobs(ctx.database, batch_id):
        jobs.pause(ctx.database, job.id, paused=paused)
    return fetch_batch(batch_id, ctx)


@router.post("/{batch_id}/stop")
def stop(batch_id: Id, ctx: Ctx) -> BatchView:
    """Stop all of a batch that waits or runs. Finished files stay."""
    for job in open_jobs(ctx.database, batch_id):
        jobs.ask_cancel(ctx.database, job.id)
    return fetch_batch(batch_id, ctx)


@router.post("/{batch_id}/again")
def again(batch_id: Id, ctx: Ctx) -> BatchView:
    """Try again what failed in a batch."""
    batches.get(ctx.database, batch_id)
    try_again(ctx.database, batch_id)
    return fetch_batch(batch_id, ctx)
