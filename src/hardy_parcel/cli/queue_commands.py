"""The queue of a data folder, from a terminal: what waits, what is under way, and what can be done about it."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from pathlib import Path

import click

from ..core.errors import BadInput
from ..core.values import seconds_text, size_text
from ..store import jobs
from ..store.database import Database
from ..store.jobs import Job, JobKind, JobState
from ..store.places import Places
from .base import data_option, json_option, main, print_json

STATES = {
    JobState.WAITING: "waits", JobState.RUNNING: "under way", JobState.DONE: "done", JobState.FAILED: "failed",
    JobState.CANCELLED: "stopped",
}


@main.group("queue")
def queue_group() -> None:
    """What a running service packs and rehearses, and what waits for it."""


def opened(data: Path) -> Database:
    """The store of a data folder; raises BadInput where there is none."""
    places = Places(data=data.expanduser().resolve(), allowed=())
    if not places.database.is_file():
        raise BadInput(f"There is no queue in {places.data}.", "Start the service there, or give another --data folder.", code="no_queue")
    return Database(places.database)


@queue_group.command("list")
@click.option("--all", "every", is_flag=True, help="What has ended too.")
@data_option
@json_option
def show(every: bool, data: Path, as_json: bool) -> None:
    """Print what is under way and what waits, in its turn."""
    found = [job for job in jobs.recent(opened(data)) if every or job.state in (JobState.WAITING, JobState.RUNNING)]
    if as_json:
        print_json([job.model_dump(mode="json") for job in found])
        return
    for job in found:
        click.echo(_line(job))
    if not found:
        click.echo("Nothing waits.")


def _line(job: Job) -> str:
    told = [job.id, "rests" if job.paused else STATES[job.state], job.title]
    if job.state is JobState.RUNNING and job.progress:
        told.append(f"{job.progress.doing}, {job.progress.share:.0%}")
        told += [f"{seconds_text(job.progress.left_s)} left"] if job.progress.left_s is not None else []
        told += [size_text(job.progress.bytes)] if job.progress.bytes else []
    if job.problem and job.state in (JobState.FAILED, JobState.WAITING):
        told.append(f"{job.problem.what} {job.problem.todo}")
    return "  ".join(told)


def _each(data: Path, job_id: str, act: Callable[[Database, str], Job]) -> None:
    """Do something to a job by its id, or with “all” to every parcel that is open, and tell what it is then."""
    database = opened(data)
    for job in jobs.open_of_kind(database, JobKind.PACK) if job_id == "all" else [jobs.get(database, job_id)]:
        click.echo(_line(act(database, job.id)))


@queue_group.command()
@click.argument("job")
@data_option
def pause(job: str, data: Path) -> None:
    """Let JOB, or all parcels, rest: what is under way leaves the processor to others."""
    _each(data, job, partial(jobs.pause, paused=True))


@queue_group.command()
@click.argument("job")
@data_option
def resume(job: str, data: Path) -> None:
    """Let JOB, or all parcels, go on."""
    _each(data, job, partial(jobs.pause, paused=False))


@queue_group.command()
@click.argument("job")
@data_option
def stop(job: str, data: Path) -> None:
    """Stop JOB, or all parcels; an unfinished file is not kept."""
    _each(data, job, jobs.ask_cancel)


@queue_group.command()
@click.argument("job")
@data_option
def again(job: str, data: Path) -> None:
    """Queue once more a JOB that failed or was stopped."""
    click.echo(_line(jobs.again(opened(data), job)))
