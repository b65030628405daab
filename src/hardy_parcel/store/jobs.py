"""The queue: jobs with their tasks, owners and progress. What a task says is the business of who gives and who takes it."""

from __future__ import annotations

import json
import time
import uuid
from collections.abc import Callable, Iterable, Sequence
from enum import StrEnum
from sqlite3 import Connection, Row
from typing import NamedTuple

from ..core.errors import BadInput, NotFound, Problem
from ..core.progress import JobProgress
from ..core.values import Model
from .database import Changed, Database, note, queries

DAY_S = 86_400
MOST_WAITING = 500
"""Parcels that may wait to be packed."""


class JobKind(StrEnum):
    INSPECT = "inspect"
    STRIP = "strip"
    CHECK = "check"
    LISTEN = "listen"
    PROBE = "probe"
    BENCHMARK = "benchmark"
    REHEARSE = "rehearse"
    PACK = "pack"
    SEND = "send"
    ARRIVE = "arrive"
    RETURNED = "returned"


class JobState(StrEnum):
    WAITING = "waiting"
    RUNNING = "running"
    DONE = "done"
    FAILED = "failed"
    CANCELLED = "cancelled"


class Job(Model):
    """A job as it is shown. `key` names what exactly is to come of it; `file_name` is what a parcel is packed as, another name
    than was meant where that was taken meanwhile. `subject` is the film or file that is packed or sent, `goes_to` its destination;
    both are empty for other kinds."""

    id: str
    kind: JobKind
    state: JobState
    title: str
    subject: str = ""
    goes_to: str = ""
    master_id: str | None
    parcel_id: str | None
    batch_id: str | None = None
    key: str | None
    attempts: int
    cancel_asked: bool
    paused: bool = False
    not_before: float | None = None
    rank: float = 0.0
    expected_s: float | None = None
    created_at: float
    started_at: float | None
    ended_at: float | None
    progress: JobProgress | None
    file_name: str | None
    problem: Problem | None
    revision: int


def read_job(row: Row) -> Job:
    """A job from its row."""
    return Job(
        id=row["id"],
        kind=row["kind"],
        state=row["state"],
        title=row["title"],
        subject=row["subject"],
        goes_to=row["goes_to"],
        master_id=row["master_id"],
        parcel_id=row["parcel_id"],
        batch_id=row["batch_id"],
        key=row["key"],
        attempts=row["attempts"],
        cancel_asked=bool(row["cancel_asked"]),
        paused=bool(row["paused"]),
        not_before=row["not_before"],
        rank=row["rank"],
        expected_s=row["expected_s"],
        created_at=row["created_at"],
        started_at=row["started_at"],
        ended_at=row["ended_at"],
        progress=JobProgress.model_validate_json(row["progress"]) if row["progress"] else None,
        file_name=row["file_name"],
        problem=Problem.model_validate_json(row["problem"]) if row["problem"] else None,
        revision=row["revision"],
    )


def _changed(master_id: str | None, job_id: str) -> tuple[Changed, Changed]:
    return Changed("job", job_id), Changed("queue", master_id or "")


def add(
    database: Database,
    kind: JobKind,
    *,
    title: str,
    task: Model | Callable[[set[Target]], Model],
    master_id: str | None,
    parcel_id: str | None = None,
    key: str | None = None,
    rank: float = 0,
    not_before: float | None = None,
    expected_s: float | None = None,
    subject: str = "",
    goes_to: str = "",
    batch_id: str | None = None,
) -> Job:
    """Queue a job; one of a lower rank goes before others of its kind, and none begins before its hour (s since 1970). It is expected to
    take `expected_s`.

    Raises BadInput where more parcels wait than may. A task that is made here, of the folders and names that are promised to other jobs,
    can choose one that nobody else chooses.
    """
    job_id = uuid.uuid4().hex[:12]
    with database.writing(*_changed(master_id, job_id)) as connection:
        if kind is JobKind.PACK and connection.execute(queries("jobs")["open_packs"]).fetchone()[0] >= MOST_WAITING:
            raise BadInput(
                f"{MOST_WAITING} parcels wait already.", "Let some of them be packed first.", code="queue_full"
            )
        if callable(task):
            task = task(_promised(database, connection))
        connection.execute(
            queries("jobs")["add"],
            {
                "id": job_id,
                "kind": kind,
                "title": title,
                "master_id": master_id,
                "parcel_id": parcel_id,
                "key": key,
                "task": database.paths.stored_json(task.model_dump_json()),
                "created_at": time.time(),
                "rank": rank,
                "not_before": not_before,
                "file_name": getattr(task, "file_name", None),
                "expected_s": expected_s,
                "subject": subject,
                "goes_to": goes_to,
                "batch_id": batch_id,
            },
        )
    return get(database, job_id)


def get(database: Database, job_id: str) -> Job:
    """One job; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(queries("jobs")["one"], {"id": job_id}).fetchone()
    if row is None:
        raise NotFound("There is no such job.", "Look on Dispatch.")
    return read_job(row)


def recent(database: Database) -> list[Job]:
    """Running, waiting, then ended jobs, latest first. Checks are listed while they are open, reading a header never."""
    with database.reading() as connection:
        return [read_job(row) for row in connection.execute(queries("jobs")["recent"])]


def changed_since(database: Database, revision: int) -> list[Job]:
    """Jobs that changed after `revision`, in the order they changed."""
    with database.reading() as connection:
        return [read_job(row) for row in connection.execute(queries("jobs")["changed"], {"revision": revision})]


def open_like(
    database: Database, kind: JobKind, master_id: str, *, parcel_id: str | None = None, key: str | None = None
) -> Job | None:
    """A waiting or running job of this kind for this master, or this parcel, or of exactly this key."""
    values = {"kind": kind, "master_id": master_id, "parcel_id": parcel_id, "key": key}
    with database.reading() as connection:
        row = connection.execute(queries("jobs")["open_like"], values).fetchone()
    return read_job(row) if row else None


def open_of_kind(database: Database, kind: JobKind) -> list[Job]:
    """Every waiting or running job of a kind, whatever it is for."""
    with database.reading() as connection:
        return [read_job(row) for row in connection.execute(queries("jobs")["open_of_kind"], {"kind": kind})]


def open_of_key(database: Database, kind: JobKind, key: str) -> bool:
    """Whether a job of this kind and key waits or runs."""
    with database.reading() as connection:
        return connection.execute(queries("jobs")["open_of_key"], {"kind": kind, "key": key}).fetchone() is not None


def failed_like(database: Database, kind: JobKind, key: str) -> bool:
    """Whether the last job of exactly this key failed or was stopped."""
    with database.reading() as connection:
        row = connection.execute(queries("jobs")["last_like"], {"kind": kind, "key": key}).fetchone()
    return row is not None and row["state"] in (JobState.FAILED, JobState.CANCELLED)


def open_of(database: Database, master_id: str) -> list[Job]:
    """Every waiting or running job of a master, oldest first."""
    with database.reading() as connection:
        return [read_job(row) for row in connection.execute(queries("jobs")["open_of"], {"master_id": master_id})]


Target = tuple[str, str]
"""Folder and file name of what a job packs."""


def promised_targets(database: Database) -> set[Target]:
    """Of every pack job that has not ended: those names are taken."""
    with database.reading() as connection:
        return _promised(database, connection)


def _promised(database: Database, connection: Connection) -> set[Target]:
    return {
        (database.paths.full_text(row["folder"]), row["file_name"])
        for row in connection.execute(queries("jobs")["promised"])
    }


def awaited_bytes(database: Database) -> dict[str, int]:
    """By folder, the bytes that pack jobs which have not ended are expected to write."""
    result: dict[str, int] = {}
    with database.reading() as connection:
        for row in connection.execute(queries("jobs")["awaited"]):
            folder = database.paths.full_text(row["folder"])
            result[folder] = result.get(folder, 0) + row["bytes"]
    return result


def packed_into(database: Database) -> dict[str, set[str]]:
    """By folder, the last thousand pack jobs that have ended and whose leftovers may lie there."""
    result: dict[str, set[str]] = {}
    with database.reading() as connection:
        for row in connection.execute(queries("jobs")["packed_into"]):
            result.setdefault(database.paths.full_text(row["folder"]), set()).add(row["id"])
    return result


def prune(database: Database, *, most: int, days: int, batch: int = 500) -> int:
    """Forget ended jobs but for the last `most` of them that are no older than so many days; returns how many went.

    At most a `batch` goes at once, so that nobody waits for the store. Receipts and measurements stay.
    """
    values = {"most": most, "before": time.time() - days * DAY_S, "batch": batch}
    with database.writing() as connection:
        return connection.execute(queries("jobs")["prune"], values).rowcount


def claim(database: Database, kind: JobKind, owner: str) -> tuple[Job, str] | None:
    """Take the first job of a kind that waits and may begin; returns it with its task as JSON."""
    with database.writing() as connection:
        row = connection.execute(
            queries("jobs")["claim"], {"kind": kind, "owner": owner, "now": time.time()}
        ).fetchone()
        if row:  # whose it is shows only now
            note(connection, *_changed(row["master_id"], row["id"]))
    return (read_job(row), database.paths.full_json(row["task"])) if row else None


def take_over(database: Database) -> list[tuple[Job, str]]:
    """Let every job that is under way wait again: whoever worked on it is gone; returned with their tasks, so that leftovers can be
    removed."""
    with database.writing(Changed("queue", "")) as connection:
        return _with_tasks(database, connection.execute(queries("jobs")["take_over"]).fetchall())


def kinds_with_work(database: Database) -> set[JobKind]:
    """Kinds of which a claim could succeed; asked first so that an idle worker writes nothing."""
    with database.reading() as connection:
        return {
            JobKind(row["kind"]) for row in connection.execute(queries("jobs")["kinds_with_work"], {"now": time.time()})
        }


def any_cancelled(database: Database) -> bool:
    """Whether a job that nobody works on was asked to stop."""
    with database.reading() as connection:
        return connection.execute(queries("jobs")["any_cancelled"]).fetchone() is not None


def drop_cancelled(database: Database) -> list[tuple[Job, str]]:
    """End jobs that were cancelled while nobody worked on them; returned so that leftovers can be removed."""
    with database.writing(Changed("queue", "")) as connection:
        return _with_tasks(
            database, connection.execute(queries("jobs")["drop_cancelled"], {"now": time.time()}).fetchall()
        )


def _with_tasks(database: Database, rows: list[Row]) -> list[tuple[Job, str]]:
    return [(read_job(row), database.paths.full_json(row["task"])) for row in rows]


def set_progress(database: Database, job_id: str, owner: str, progress: JobProgress) -> None:
    """Keep how far a job is."""
    with database.writing() as connection:
        connection.execute(
            queries("jobs")["progress"], {"id": job_id, "owner": owner, "progress": progress.model_dump_json()}
        )


def end(
    database: Database,
    job: Job,
    owner: str,
    state: JobState,
    *,
    file_name: str | None = None,
    problem: Problem | None = None,
) -> bool:
    """End a job; False when somebody else works on it by now."""
    with database.writing(*_changed(job.master_id, job.id)) as connection:
        cursor = connection.execute(
            queries("jobs")["end"],
            {
                "id": job.id,
                "owner": owner,
                "state": state,
                "now": time.time(),
                "file_name": file_name,
                "problem": problem.model_dump_json() if problem else None,
            },
        )
        return cursor.rowcount == 1


def put_back(database: Database, job: Job, owner: str, *, died: bool = False) -> None:
    """Let a job wait again, to be taken up from its start; only where its process `died` without a word does it count as a try."""
    with database.writing(*_changed(job.master_id, job.id)) as connection:
        connection.execute(queries("jobs")["put_back"], {"id": job.id, "owner": owner, "died": died})


def hold(database: Database, job: Job, owner: str, problem: Problem, *, until: float) -> None:
    """Let a job wait for what it needs and try again at a time (s since 1970); meanwhile it says what that is."""
    with database.writing(*_changed(job.master_id, job.id)) as connection:
        connection.execute(
            queries("jobs")["hold"],
            {"id": job.id, "owner": owner, "problem": problem.model_dump_json(), "until": until},
        )


def put_before(database: Database, job: Job) -> None:
    """Put a waiting or running job before all others of its kind."""
    with database.writing(*_changed(job.master_id, job.id)) as connection:
        connection.execute(queries("jobs")["put_before"], {"id": job.id, "kind": job.kind})


def waits_before(database: Database, job: Job) -> bool:
    """Whether a waiting job of the same kind was put before this one."""
    values = {"id": job.id, "kind": job.kind, "now": time.time()}
    with database.reading() as connection:
        return connection.execute(queries("jobs")["waits_before"], values).fetchone() is not None


def put_back_others(database: Database, running: Iterable[str]) -> list[tuple[Job, str]]:
    """Let every job wait again that is said to be running but is not among those that are; with their tasks. It counts as a try.

    Nothing is written where there is none.
    """
    ids = {"ids": json.dumps(sorted(running))}
    with database.reading() as connection:
        if connection.execute(queries("jobs")["running_others"], ids).fetchone() is None:
            return []
    with database.writing(Changed("queue", "")) as connection:
        return _with_tasks(database, connection.execute(queries("jobs")["put_back_others"], ids).fetchall())


def ask_cancel(database: Database, job_id: str) -> Job:
    """Ask for a job to be stopped."""
    with database.writing(Changed("job", job_id)) as connection:
        connection.execute(queries("jobs")["ask_cancel"], {"id": job_id})
    return get(database, job_id)


def withdraw(database: Database, kind: JobKind) -> None:
    """Stop everything of a kind as if it had never been asked for, so that it may be asked for again."""
    if every := open_of_kind(database, kind):
        with database.writing(*(change for job in every for change in _changed(job.master_id, job.id))) as connection:
            connection.execute(queries("jobs")["withdraw"], {"kind": kind})


def withdraw_some(database: Database, some: Sequence[Job]) -> None:
    """The same for some jobs."""
    if some:
        with database.writing(*(change for job in some for change in _changed(job.master_id, job.id))) as connection:
            connection.execute(queries("jobs")["withdraw_some"], {"ids": json.dumps([job.id for job in some])})


OTHER_FILMS = 100_000.0
"""Added to the rank of jobs of films that nobody looks at."""


def put_film_first(database: Database, kind: JobKind, master_id: str) -> None:
    """Let jobs of a kind go in their order for the film that is looked at, before those of all others."""
    with database.writing(Changed("queue", "")) as connection:
        connection.execute(
            queries("jobs")["put_film_first"], {"kind": kind, "master_id": master_id, "other": OTHER_FILMS}
        )


def put_later(database: Database, kind: JobKind, *, rank: float, later: float, parcel_id: str) -> None:
    """Give jobs that wait from a rank on, but those of one parcel, a later one."""
    with database.writing(Changed("queue", "")) as connection:
        connection.execute(
            queries("jobs")["put_later"], {"kind": kind, "rank": rank, "later": later, "parcel_id": parcel_id}
        )


class JobWish(NamedTuple):
    """What is wished of a job that is under way."""

    cancel: bool
    pause: bool


def wishes(database: Database, owner: str) -> dict[str, JobWish]:
    """By job of this worker, what is wished of it."""
    with database.reading() as connection:
        rows = connection.execute(queries("jobs")["wishes"], {"owner": owner})
        return {row["id"]: JobWish(cancel=bool(row["cancel_asked"]), pause=bool(row["paused"])) for row in rows}


def pause(database: Database, job_id: str, *, paused: bool) -> Job:
    """Let a job rest where it is, or go on; one that waits does not begin before."""
    with database.writing(Changed("job", job_id)) as connection:
        connection.execute(queries("jobs")["pause"], {"id": job_id, "paused": paused})
    return get(database, job_id)


DRAGGED = -1e9
"""Ranks from here on are those of jobs that were put in an order by hand, before all others."""


def put_in_order(database: Database, job_ids: Sequence[str]) -> None:
    """Let waiting jobs come one after another as they are given, before all that are not; what no more waits is passed over."""
    with database.writing(Changed("queue", ""), *(Changed("job", item) for item in job_ids)) as connection:
        for placement, job_id in enumerate(job_ids):
            connection.execute(queries("jobs")["set_rank"], {"id": job_id, "rank": DRAGGED + placement})


def begin_at(database: Database, kind: JobKind, at: float | None) -> None:
    """Let no waiting job of a kind begin before an hour (s since 1970), or all at once."""
    waiting = [job for job in open_of_kind(database, kind) if job.state is JobState.WAITING]
    with database.writing(*(change for job in waiting for change in _changed(job.master_id, job.id))) as connection:
        connection.execute(queries("jobs")["begin_at"], {"kind": kind, "at": at})


def again(database: Database, job_id: str) -> Job:
    """Queue once more what failed or was stopped. Raises NotFound, or BadInput where it did neither."""
    before = get(database, job_id)
    if before.state not in (JobState.FAILED, JobState.CANCELLED):
        raise BadInput("This job has not failed.", "Leave it as it is.", code="not_failed")
    new_id = uuid.uuid4().hex[:12]
    with database.writing(*_changed(before.master_id, new_id)) as connection:
        task = connection.execute(queries("jobs")["task"], {"id": job_id}).fetchone()["task"]
        connection.execute(
            queries("jobs")["add"],
            {
                "id": new_id,
                "kind": before.kind,
                "title": before.title,
                "master_id": before.master_id,
                "parcel_id": before.parcel_id,
                "key": before.key,
                "task": task,
                "created_at": time.time(),
                "rank": before.rank,
                "not_before": None,
                "file_name": before.file_name,
                "expected_s": before.expected_s,
                "subject": before.subject,
                "goes_to": before.goes_to,
                "batch_id": before.batch_id,
            },
        )
    return get(database, new_id)
