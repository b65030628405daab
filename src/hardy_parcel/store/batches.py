"""Batches: parcels that were sent to be packed together."""

from __future__ import annotations

import time
import uuid
from dataclasses import dataclass
from sqlite3 import Row

from ..core.errors import NotFound
from .database import Changed, Database, queries
from .jobs import Job, read_job

SQL = queries("batches")
MOST_SHOWN = 20


@dataclass(frozen=True, slots=True)
class StoredBatch:
    """A batch by its id, with its title and when it was made (s since 1970)."""

    id: str
    title: str
    created_at: float


def add(database: Database, title: str) -> str:
    """Store a new batch and give its id."""
    batch_id = uuid.uuid4().hex[:12]
    with database.writing(Changed("batch", batch_id)) as connection:
        connection.execute(SQL["add"], {"id": batch_id, "title": title, "created_at": time.time()})
    return batch_id


def _batch(row: Row) -> StoredBatch:
    return StoredBatch(row["id"], row["title"], row["created_at"])


def get(database: Database, batch_id: str) -> StoredBatch:
    """One batch; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["one"], {"id": batch_id}).fetchone()
    if row is None:
        raise NotFound("There is no such batch.", "Look on Dispatch.")
    return _batch(row)


def recent(database: Database) -> list[StoredBatch]:
    """The latest batches that have jobs, the newest first."""
    with database.reading() as connection:
        return [_batch(row) for row in connection.execute(SQL["recent"], {"most": MOST_SHOWN})]


@dataclass(frozen=True, slots=True)
class BatchJob:
    """A packing job of a batch with the bytes that are expected of its file, and those of the file; None before it is packed."""

    job: Job
    expected_bytes: float
    packed_bytes: float | None


def latest_jobs(database: Database, batch_id: str) -> list[BatchJob]:
    """The latest job of each parcel of a batch, in the order in which they were queued."""
    latest: dict[str, BatchJob] = {}
    with database.reading() as connection:
        for row in connection.execute(SQL["jobs"], {"id": batch_id}):
            job = read_job(row)
            latest[job.parcel_id or job.id] = BatchJob(job, row["expected_bytes"], row["packed_bytes"])
    return list(latest.values())


def receipt_ids(database: Database, batch_id: str) -> list[str]:
    """The jobs of a batch that have a receipt, the oldest first."""
    with database.reading() as connection:
        return [row["job_id"] for row in connection.execute(SQL["receipts"], {"id": batch_id})]
