"""Masters: the shelf, one master, its strip and its excerpt."""

from __future__ import annotations

from pathlib import Path
from typing import Annotated

from fastapi import APIRouter, Response
from fastapi import Path as PathParam
from fastapi.responses import FileResponse
from pydantic import BaseModel, Field

from ..core.errors import BadChoice, NotFound
from ..core.master.checks.check_text import DifficultyBar, FactRow, difficulty_bars, fact_rows, opening_sentence
from ..core.master.checks.stamping import Remedy, mended
from ..core.master.facts import ColourReading, Excerpt
from ..core.master.strip import strip_key
from ..core.master.timecode import timecode
from ..core.plan.planning import check_excerpt
from ..core.values import Ratio
from ..planned.now import readable
from ..planned.removing import remove_master
from ..store import jobs, masters
from ..store.jobs import Job, JobKind
from ..store.masters import Master
from ..work.queueing import queue_checks, queue_inspect, queue_strip
from .context import Ctx
from .telling import Telling

MOST_EXCERPTS = 24
SHOWN = ("shelf", "master", "content", "strip", "receipt")
"""Kinds of things that the shelf shows."""

router = APIRouter(prefix="/api/masters", tags=["masters"])


class Shelf(BaseModel):
    """Masters, newest first, the folder that is watched, and names in it that no system can show, so that they cannot be taken."""

    masters: list[Master]
    inbox: str
    unusable_names: list[str]
    stray_links: list[str]


class OpenRequest(BaseModel):
    """A file on this machine, by its path."""

    path: Annotated[str, Field(min_length=1, max_length=4096)]


class ExcerptRequest(BaseModel):
    """The chosen excerpt's new points, or null for the whole master."""

    excerpt: Excerpt | None


class NewExcerpt(BaseModel):
    """Another excerpt beside those there are."""

    excerpt: Excerpt
    title: Annotated[str, Field(max_length=80)] = ""


class ChooseRequest(BaseModel):
    """Number of the excerpt to work on, or null for the whole master."""

    number: int | None


class RemedyRequest(BaseModel):
    """A remedy to take or, with `on` false, to take back; `rate` goes with the constant rate."""

    remedy: Remedy
    on: bool = True
    rate: Ratio | None = None
    reading: ColourReading | None = None


class CheckView(BaseModel):
    """The master as it is told: sentence, facts, loudness along the film, difficulty by the second, work under way."""

    sentence: str
    facts: tuple[FactRow, ...]
    last_picture: int
    timecode_start: str
    step_s: float
    envelope_lufs: tuple[float | None, ...]
    difficulty: tuple[DifficultyBar, ...]
    pictures_seen: int
    pictures_in_film: int
    jobs: list[Job]


@router.get("", response_model=Shelf)
def shelf(ctx: Ctx) -> Response:
    """Every master that is there. What was told is told again for as long as nothing of it has changed."""
    unusable, stray = ctx.places.unusable_names(), ctx.places.stray_links()

    def tell() -> bytes:
        every = masters.shelf(ctx.database)
        return Shelf(
            masters=every, inbox=str(ctx.places.inbox), unusable_names=unusable, stray_links=stray,
        ).model_dump_json().encode()

    text = _told.of(ctx.database, (tuple(unusable), tuple(stray)), tell, lambda change, _: change.kind in SHOWN)
    return Response(text, media_type="application/json")


_told: Telling[bytes] = Telling(4)


@router.post("", status_code=201)
def open_master(request: OpenRequest, ctx: Ctx) -> Master:
    """Open a file where it lies; nothing is copied."""
    if "\0" in request.path:
        raise NotFound("There is no such file.", "Check the path.")
    path = ctx.places.within(Path(request.path))
    if not path.is_file():
        raise NotFound(f"There is no file {path}.", "Check the path; it must lead to one film.")
    with ctx.database.transaction():
        master_id = masters.add(ctx.database, path)
        queue_inspect(ctx.database, master_id, path)
    return masters.get(ctx.database, master_id)


@router.get("/{master_id}")
def one(master_id: str, ctx: Ctx) -> Master:
    """One master."""
    return masters.get(ctx.database, master_id)


@router.delete("/{master_id}")
def remove(master_id: str, ctx: Ctx) -> dict[str, bool]:
    """Take a master off the shelf. Only a copy that was uploaded here is deleted; every other file stays."""
    return {"file_deleted": remove_master(ctx.database, ctx.places, master_id)}


@router.put("/{master_id}/excerpt")
def set_excerpt(master_id: str, request: ExcerptRequest, ctx: Ctx) -> Master:
    """Set the in and the out point of the chosen excerpt; every plan of this master follows."""
    with ctx.database.transaction():
        master, facts = readable(ctx.database, master_id)
        excerpt = check_excerpt(request.excerpt, facts) if request.excerpt else None
        whole = excerpt is not None and excerpt.in_s == 0 and excerpt.out_s == facts.duration_s
        masters.set_excerpt(ctx.database, master.id, None if whole else excerpt)
    return masters.get(ctx.database, master_id)


@router.post("/{master_id}/excerpts", status_code=201)
def add_excerpt(master_id: str, request: NewExcerpt, ctx: Ctx) -> Master:
    """One more excerpt, chosen at once."""
    with ctx.database.transaction():
        master, facts = readable(ctx.database, master_id)
        if len(master.excerpts) >= MOST_EXCERPTS:
            raise BadChoice(f"A master can have {MOST_EXCERPTS} excerpts.", "Drop one first.")
        masters.keep_excerpt(ctx.database, master_id, check_excerpt(request.excerpt, facts), number=None, title=request.title or None)
    return masters.get(ctx.database, master_id)


@router.put("/{master_id}/chosen-excerpt")
def choose_excerpt(master_id: str, request: ChooseRequest, ctx: Ctx) -> Master:
    """Work on another excerpt, or on the whole master."""
    readable(ctx.database, master_id)
    masters.choose_excerpt(ctx.database, master_id, request.number)
    return masters.get(ctx.database, master_id)


@router.delete("/{master_id}/excerpts/{number}")
def drop_excerpt(master_id: str, number: int, ctx: Ctx) -> Master:
    """Forget an excerpt."""
    masters.get(ctx.database, master_id)
    masters.drop_excerpt(ctx.database, master_id, number)
    return masters.get(ctx.database, master_id)


@router.put("/{master_id}/remedies")
def remedy(master_id: str, request: RemedyRequest, ctx: Ctx) -> Master:
    """Take a remedy that a check offers, or take it back."""
    with ctx.database.transaction():
        master, facts = readable(ctx.database, master_id)
        offer = next((stamp for stamp in master.stamps if stamp.remedy is request.remedy), None)
        if offer is None:
            raise BadChoice("Nothing was found that this would mend.", "Look at the checks again.")
        if request.remedy is Remedy.TRIM:
            masters.set_excerpt(ctx.database, master_id, offer.excerpt if request.on else None)
        else:
            changed = mended(facts.mending, offer, on=request.on, rate=request.rate, reading=request.reading)
            masters.mend(ctx.database, master_id, changed)
            if changed.colour is not facts.mending.colour:
                queue_strip(ctx.database, ctx.places, master_id)
    return masters.get(ctx.database, master_id)


@router.get("/{master_id}/checks")
def checks(master_id: str, ctx: Ctx) -> CheckView:
    """What was measured so far."""
    master, facts = readable(ctx.database, master_id)
    known = masters.survey(ctx.database, facts.content_id)
    open_jobs = [jobs.open_like(ctx.database, kind, master_id) for kind in (JobKind.CHECK, JobKind.LISTEN)]
    return CheckView(
        sentence=opening_sentence(
            master.stamps, picture_checked=master.picture_checked, sound_checked=master.sound_checked or facts.audio is None
        ),
        facts=fact_rows(facts, known.picture),
        last_picture=max(0, (facts.video.pictures or round(facts.duration_s * facts.video.frame_rate)) - 1),
        timecode_start=timecode(0, facts.video.frame_rate, start=facts.timecode),
        step_s=known.sound.step_s if known.sound else 1.0, envelope_lufs=known.sound.envelope_lufs if known.sound else (),
        difficulty=difficulty_bars(known.picture.difficulty, float(facts.duration_s)) if known.picture else (),
        pictures_seen=known.picture.pictures_seen if known.picture else 0,
        pictures_in_film=known.picture.pictures_in_film if known.picture else 0,
        jobs=[job for job in open_jobs if job],
    )


@router.post("/{master_id}/checks", status_code=202)
def check_again(master_id: str, ctx: Ctx) -> CheckView:
    """Go on with checks that were stopped."""
    master, facts = readable(ctx.database, master_id)
    queue_checks(ctx.database, master_id, Path(master.path), facts)
    return checks(master_id, ctx)


@router.get("/{master_id}/strip/{number}.jpg", response_class=FileResponse)
def strip(master_id: str, number: Annotated[int, PathParam(ge=0, lt=100)], ctx: Ctx) -> FileResponse:
    """One picture of the poster strip."""
    _, facts = readable(ctx.database, master_id)
    path = ctx.places.strip(strip_key(facts)) / f"{number}.jpg"
    if not path.is_file():
        raise NotFound("There is no such picture.", "Reload the page.")
    return FileResponse(path, media_type="image/jpeg", headers={"cache-control": "private, max-age=86400"})
