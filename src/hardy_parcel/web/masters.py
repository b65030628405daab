"""Masters: the shelf, one master, its strip and its excerpt."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ..core.errors import NotFound
from ..core.facts import Excerpt
from ..core.planning import check_excerpt
from ..store import masters
from ..store.masters import Master
from ..work.worker import queue_inspect
from .context import Ctx

router = APIRouter(prefix="/api/masters", tags=["masters"])


class Shelf(BaseModel):
    """Masters, newest first, and the folder that is watched."""

    masters: list[Master]
    inbox: str


class OpenRequest(BaseModel):
    """A file on this machine, by its path."""

    path: Annotated[str, Field(min_length=1, max_length=4096)]


class ExcerptRequest(BaseModel):
    """The excerpt, or null for the whole master."""

    excerpt: Excerpt | None


@router.get("")
def shelf(ctx: Ctx) -> Shelf:
    """Every master that is there."""
    return Shelf(masters=masters.shelf(ctx.database), inbox=str(ctx.places.inbox))


@router.post("", status_code=201)
def open_master(request: OpenRequest, ctx: Ctx) -> Master:
    """Open a file where it lies; nothing is copied."""
    if "\0" in request.path:
        raise NotFound("There is no such file.", "Check the path.")
    path = ctx.places.within(Path(request.path))
    if not path.is_file():
        raise NotFound(f"There is no file {path}.", "Check the path; it must lead to one film.")
    master_id = masters.add(ctx.database, path)
    queue_inspect(ctx.database, master_id, path)
    return masters.get(ctx.database, master_id)


@router.get("/{master_id}")
def one(master_id: str, ctx: Ctx) -> Master:
    """One master."""
    return masters.get(ctx.database, master_id)


@router.put("/{master_id}/excerpt")
def set_excerpt(master_id: str, request: ExcerptRequest, ctx: Ctx) -> Master:
    """Set the in and the out point; every plan of this master follows."""
    master, facts = ctx.readable(master_id)
    excerpt = check_excerpt(request.excerpt, facts) if request.excerpt else None
    whole = excerpt is not None and excerpt.in_s == 0 and excerpt.out_s == facts.duration_s
    masters.set_excerpt(ctx.database, master.id, None if whole else excerpt)
    return masters.get(ctx.database, master_id)


@router.get("/{master_id}/strip/{number}.jpg", response_class=FileResponse)
def strip(master_id: str, number: Annotated[int, PathParam(ge=0, lt=100)], ctx: Ctx) -> FileResponse:
    """One picture of the poster strip."""
    _, facts = ctx.readable(master_id)
    path = ctx.places.strip(facts.content_id) / f"{number}.jpg"
    if not path.is_file():
        raise NotFound("There is no such picture.", "Reload the page.")
    return FileResponse(path, media_type="image/jpeg", headers={"cache-control": "private, max-age=86400"})
