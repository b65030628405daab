"""The queue: jobs, leases, progress and results."""

from __future__ import annotations

import json
import time
import uuid
from enum import StrEnum
from sqlite3 import Row
from typing import Any

from ..core.errors import NotFound, Problem
from ..core.values import Model
from .database import Database, queries

LEASE_S = 6.0


class JobKind(StrEnum):
    INSPECT = "inspect"
    STRIP = "strip"
    CHECK = "check"
    LISTEN = "listen"
    CURVE = "curve"
    PACK = "pack"


class JobState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class JobProgress(Model):
    """How far a job is: share 0–1, pictures, pictures/s, seconds left, bytes so far."""

    doing: str = ""
    share: float = 0.0
    pictures: int | None = None
    of_pictures: int | None = None
    pictures_per_s: float | None = None
    left_s: float | None = None
    bytes: int | None = None


class Job(Model):
    id: str
    kind: JobKind
    state: JobState
    title: str
    master_id: str | None
    destination_id: str | None
    picture_key: str | None
    attempts: int
    cancel_asked: bool
    created_at: float
    started_at: float | None
    ended_at: float | None
    progress: JobProgress | None
    result: dict[str, Any] | None
    problem: Problem | None
    revision: int


def _job(row: Row) -> Job:
    return Job(
        id=row["id"], kind=row["kind"], state=row["state"], title=row["title"], master_id=row["master_id"],
        destination_id=row["destination_id"], picture_key=row["picture_key"], attempts=row["attempts"],
        cancel_asked=bool(row["cancel_asked"]),
        created_at=row["created_at"], started_at=row["started_at"], ended_at=row["ended_at"],
        progress=JobProgress.model_validate_json(row["progress"]) if row["progress"] else None,
        result=json.loads(row["result"]) if row["result"] else None,
        problem=Problem.model_validate_json(row["problem"]) if row["problem"] else None,
        revision=row["revision"],
    )


def add(
    database: Database, kind: JobKind, *, title: str, spec: dict[str, Any], master_id: str,
    destination_id: str | None = None, picture_key: str | None = None,
) -> Job:
    """Queue a job."""
    job_id = uuid.uuid4().hex[:12]
    with database.writing() as connection:
        connection.execute(
            queries("jobs")["add"],
            {
                "id": job_id, "kind": kind, "title": title, "master_id": master_id, "destination_id": destination_id,
                "picture_key": picture_key, "spec": json.dumps(spec), "created_at": time.time(),
            },
        )
    return get(database, job_id)


def get(database: Database, job_id: str) -> Job:
    """One job; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(queries("jobs")["one"], {"id": job_id}).fetchone()
    if row is None:
        raise NotFound("There is no such job.", "Look on Dispatch.")
    return _job(row)


def recent(database: Database) -> list[Job]:
    """Running, waiting, then ended jobs, latest first. Checks are listed while they are open, reading a header never."""
    with database.reading() as connection:
        return [_job(row) for row in connection.execute(queries("jobs")["recent"])]


def changed_since(database: Database, revision: int) -> list[Job]:
    """Jobs that changed after `revision`, in the order they changed."""
    with database.reading() as connection:
        return [_job(row) for row in connection.execute(queries("jobs")["changed"], {"revision": revision})]


def open_like(
    database: Database, kind: JobKind, master_id: str, destination_id: str | None = None, *, picture_key: str | None = None
) -> Job | None:
    """A waiting or running job of this kind for this parcel, and with exactly these settings when a key is given."""
    values = {"kind": kind, "master_id": master_id, "destination_id": destination_id, "picture_key": picture_key}
    with database.reading() as connection:
        row = connection.execute(queries("jobs")["open_like"], values).fetchone()
    return _job(row) if row else None


def promised_targets(database: Database) -> set[tuple[str, str]]:
    """Folder and file name of every pack job that has not ended: those names are taken."""
    with database.reading() as connection:
        specs = [json.loads(row["spec"]) for row in connection.execute(queries("jobs")["open_packs"])]
    return {(spec["folder"], spec["file_name"]) for spec in specs}


def claim(database: Database, kind: JobKind, owner: str) -> tuple[Job, dict[str, Any]] | None:
    """Take the oldest job of a kind that waits or whose lease ran out; returns it with its spec."""
    now = time.time()
    with database.writing() as connection:
        row = connection.execute(
            queries("jobs")["claim"], {"kind": kind, "owner": owner, "now": now, "lease_until": now + LEASE_S}
        ).fetchone()
    return (_job(row), json.loads(row["spec"])) if row else None


def kinds_with_work(database: Database) -> set[JobKind]:
    """Kinds of which a claim could succeed; asked first so that an idle worker writes nothing."""
    with database.reading() as connection:
        return {JobKind(row["kind"]) for row in connection.execute(queries("jobs")["kinds_with_work"], {"now": time.time()})}


def any_cancelled(database: Database) -> bool:
    """Whether a job that nobody works on was asked to stop."""
    with database.reading() as connection:
        return connection.execute(queries("jobs")["any_cancelled"], {"now": time.time()}).fetchone() is not None


def drop_cancelled(database: Database) -> list[tuple[Job, dict[str, Any]]]:
    """End jobs that were cancelled while nobody worked on them; returned so that leftovers can be removed."""
    with database.writing() as connection:
        rows = connection.execute(queries("jobs")["drop_cancelled"], {"now": time.time()}).fetchall()
    return [(_job(row), json.loads(row["spec"])) for row in rows]


def renew(database: Database, owner: str) -> None:
    """Keep the leases of a worker alive."""
    with database.writing() as connection:
        connection.execute(queries("jobs")["renew"], {"owner": owner, "lease_until": time.time() + LEASE_S})


def set_progress(database: Database, job_id: str, owner: str, progress: JobProgress) -> None:
    """Keep how far a job is."""
    with database.writing() as connection:
        connection.execute(
            queries("jobs")["progress"], {"id": job_id, "owner": owner, "progress": progress.model_dump_json()}
        )


def end(
    database: Database, job_id: str, owner: str, state: JobState, *, result: dict | None = None, problem: Problem | None = None
) -> bool:
    """End a job; False when the lease had gone to somebody else."""
    with database.writing() as connection:
        cursor = connection.execute(
            queries("jobs")["end"],
            {
                "id": job_id, "owner": owner, "state": state, "now": time.time(),
                "result": json.dumps(result) if result is not None else None,
                "problem": problem.model_dump_json() if problem else None,
            },
        )
        return cursor.rowcount == 1


def put_back(database: Database, job_id: str, owner: str) -> None:
    """Let a job wait again, to be taken up from its start."""
    with database.writing() as connection:
        connection.execute(queries("jobs")["put_back"], {"id": job_id, "owner": owner})


def ask_cancel(database: Database, job_id: str) -> Job:
    """Ask for a job to be stopped."""
    with database.writing() as connection:
        connection.execute(queries("jobs")["ask_cancel"], {"id": job_id})
    return get(database, job_id)


def asked_to_stop(database: Database, owner: str) -> list[str]:
    """Jobs of this worker that were asked to stop."""
    with database.reading() as connection:
        return [row["id"] for row in connection.execute(queries("jobs")["cancel_asked"], {"owner": owner})]
