"""Line & machine: the creator's line and folders."""

from __future__ import annotations

from typing import Annotated

from fastapi import APIRouter
from pydantic import BaseModel, Field

from ..core.errors import FolderUnusable
from ..core.plan.carrying import Line, bytes_of_hour
from ..core.plan.naming import FIELDS, USUAL_PATTERN, check_pattern, example_name
from ..core.trade.codecs import CODECS, name_of
from ..core.trade.names import Codec
from ..processes.sandbox import confinement
from ..store import jobs, results, settings
from ..store.jobs import Job, JobKind
from ..store.settings import CacheSize, JobsDays, JobsListed, Settings
from ..work.cache import cache_bytes
from ..work.queueing import queue_benchmark
from .context import Context, Ctx

router = APIRouter(prefix="/api/machine", tags=["machine"])
FULL_HD_PIXELS = 1920 * 1080


class MachineView(BaseModel):
    """The settings and the folders they lead to; what the line carries in an hour, and what rehearsals have left on the disk, in bytes.

    `allowed` may be read and written since the start, `folders` were added; `pattern_fields` says what a file name may hold.
    `confinement` says what this system keeps a process from that reads a film, `confined` whether that is everything.
    """

    line: Line
    output_folder: str
    default_output_folder: str
    inbox: str
    hour_bytes: int
    cache_gb: float
    cache_bytes: int
    probing: bool
    file_pattern: str
    pattern_fields: dict[str, str]
    example_name: str
    folders: tuple[str, ...]
    allowed: tuple[str, ...]
    jobs_listed: int
    jobs_days: int
    confined: bool
    confinement: str


class MachineRequest(BaseModel):
    """The line, the output folder, null for the program's own outbox, the room that rehearsals may take, in GB, how files are called,
    and the folders that may be used beside those of the start; without a list they stay. So do the bounds of the list of ended jobs."""

    line: Line
    output_folder: Annotated[str, Field(max_length=4096)] | None = None
    cache_gb: CacheSize = 20.0
    probing: bool = True
    file_pattern: Annotated[str, Field(max_length=400)] = USUAL_PATTERN
    folders: Annotated[list[Annotated[str, Field(min_length=1, max_length=4096)]], Field(max_length=20)] | None = None
    jobs_listed: JobsListed | None = None
    jobs_days: JobsDays | None = None


class CodecSpeed(BaseModel):
    """A codec and the pictures/s of 1080p that this machine encodes in one pass at effort medium."""

    codec: Codec
    name: str
    pictures_per_s: float


class BenchmarkView(BaseModel):
    """How fast this machine encodes, when that was last measured (s since 1970), and the job that measures it now, if any."""

    speeds: tuple[CodecSpeed, ...]
    measured_at: float | None
    job: Job | None


@router.get("/benchmark")
def benchmark(ctx: Ctx) -> BenchmarkView:
    """How fast this machine encodes, as far as it was measured."""
    found, under_way = results.benchmark(ctx.database), jobs.open_of_kind(ctx.database, JobKind.BENCHMARK)
    return BenchmarkView(
        speeds=tuple(
            CodecSpeed(codec=codec, name=name_of(codec), pictures_per_s=round(one.pixels_per_s / FULL_HD_PIXELS, 2))
            for codec, one in sorted(found.items(), key=lambda pair: list(CODECS).index(pair[0]))
        ),
        measured_at=max((one.measured_at for one in found.values()), default=None), job=under_way[0] if under_way else None,
    )


@router.post("/benchmark", status_code=202)
def measure(ctx: Ctx) -> BenchmarkView:
    """Measure it, anew where it was measured before."""
    queue_benchmark(ctx.database)
    return benchmark(ctx)


@router.get("")
def machine(ctx: Ctx) -> MachineView:
    """The line and the folders."""
    kept = settings.load(ctx.database)
    return MachineView(
        line=kept.line,
        output_folder=kept.output_folder or str(ctx.places.outbox),
        default_output_folder=str(ctx.places.outbox),
        inbox=str(ctx.places.inbox),
        hour_bytes=bytes_of_hour(kept.line),
        cache_gb=kept.cache_gb,
        cache_bytes=cache_bytes(ctx.places),
        probing=kept.probing,
        file_pattern=kept.file_pattern,
        pattern_fields=FIELDS,
        example_name=example_name(kept.file_pattern),
        folders=kept.folders,
        jobs_listed=kept.jobs_listed,
        jobs_days=kept.jobs_days,
        confined=confinement().whole,
        confinement=confinement().sentence,
        allowed=tuple(dict.fromkeys(str(folder) for folder in ctx.places.allowed)),
    )


@router.put("")
def save(request: MachineRequest, ctx: Ctx) -> MachineView:
    """Keep them; a folder that cannot be used is refused and nothing changes."""
    pattern, before = check_pattern(request.file_pattern), settings.load(ctx.database).folders
    folders = before if request.folders is None else tuple(dict.fromkeys(str(ctx.places.may_be_allowed(one)) for one in request.folders))
    chosen = (request.output_folder or "").strip()
    ctx.places.allow(folders)
    try:
        with ctx.database.transaction():
            _saved(request, ctx, chosen, pattern, folders)
        return machine(ctx)
    except BaseException:
        ctx.places.allow(before)
        raise


def _saved(request: MachineRequest, ctx: Context, chosen: str, pattern: str, folders: tuple[str, ...]) -> None:
    if "\0" in chosen:
        raise FolderUnusable("This is not a folder.", "Choose another output folder.")
    folder = str(ctx.places.output_folder(chosen)) if chosen else None
    if folder == str(ctx.places.outbox):
        folder = None
    kept = settings.load(ctx.database)
    settings.save(ctx.database, Settings(
        line=request.line, output_folder=folder, cache_gb=request.cache_gb, probing=request.probing, file_pattern=pattern, folders=folders,
        jobs_listed=request.jobs_listed or kept.jobs_listed, jobs_days=request.jobs_days or kept.jobs_days,
    ))
    if not request.probing:
        jobs.withdraw(ctx.database, JobKind.PROBE)
