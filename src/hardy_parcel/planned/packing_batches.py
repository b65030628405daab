"""Packing a batch of videos, and how far each batch is."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path

from pydantic import BaseModel

from ..core.batch.batch_progress import OPEN, BatchProgress, PackItem, PackState, batch_progress
from ..core.errors import HardyParcelError
from ..store import batches, jobs, masters, results
from ..store.batches import BatchJob, StoredBatch
from ..store.database import Database
from ..store.jobs import Job, JobKind, JobState
from ..store.places import Places
from .changing_batches import Refusal, distinct
from .now import PlannedParcel, planned_lanes
from .pack_jobs import PackRequest, pack_parcel, packed_before


class BatchView(BaseModel):
    """A batch with how far it is; `receipts` are the jobs that have one."""

    id: str
    title: str
    created_at: float
    progress: BatchProgress
    receipts: list[str]


class BatchPacked(BaseModel):
    """What came of packing a batch: None where nothing was queued.

    `refused` are parcels that can't be packed, `already` counts those that were packed by exactly this plan or wait already.
    """

    batch: BatchView | None
    refused: list[Refusal]
    already: int


STATES = {
    JobState.RUNNING: PackState.RUNNING,
    JobState.DONE: PackState.DONE,
    JobState.FAILED: PackState.FAILED,
    JobState.CANCELLED: PackState.STOPPED,
}


def pack_batch(database: Database, places: Places, master_ids: Sequence[str], title: str) -> BatchPacked:
    """Queue every lane of these videos that can be packed and was not packed by exactly its plan.

    One transaction a video, so that the store is never held for long; what is queued when a fault comes stays queued.
    """
    packed = BatchPacked(batch=None, refused=[], already=0)
    batch_id, queued = batches.add(database, title), 0
    for master_id in distinct(master_ids):
        with database.transaction():
            queued += _pack_lanes(database, places, master_id, batch_id, packed)
    if queued:
        packed.batch = batch_view(database, batches.get(database, batch_id))
    return packed


def _pack_lanes(database: Database, places: Places, master_id: str, batch_id: str, packed: BatchPacked) -> int:
    """Queue the lanes of one video and note in `packed` what was not queued; gives how many were."""
    name, queued = masters.get(database, master_id).name, 0
    try:
        lanes = planned_lanes(database, master_id)
    except HardyParcelError as error:
        packed.refused.append(Refusal(master_id=master_id, name=name, why=error.what))
        return 0
    for lane in lanes:
        if lane.served_by:
            continue
        if _is_packed(database, lane) or _is_waiting(database, master_id, lane.parcel.id):
            packed.already += 1
            continue
        try:
            pack_parcel(database, places, lane.parcel.id, PackRequest(plan_key=lane.plan.key()), batch_id=batch_id)
            queued += 1
        except HardyParcelError as error:
            parcel_name = f"{Path(name).stem} → {lane.place.full_name}"
            packed.refused.append(Refusal(master_id=master_id, name=parcel_name, why=error.what))
    return queued


def _is_packed(database: Database, lane: PlannedParcel) -> bool:
    """Whether it was packed by exactly its plan and that file is still in its folder."""
    job_id = packed_before(database, lane)
    if job_id is None:
        return False
    receipt = results.receipt(database, job_id).receipt
    return (Path(receipt.folder) / receipt.file_name).is_file()


def _is_waiting(database: Database, master_id: str, parcel_id: str) -> bool:
    return jobs.open_like(database, JobKind.PACK, master_id, parcel_id=parcel_id) is not None


def batch_view(database: Database, batch: StoredBatch) -> BatchView:
    """A batch as it stands."""
    items = [_item(item) for item in batches.latest_jobs(database, batch.id)]
    return BatchView(
        id=batch.id,
        title=batch.title,
        created_at=batch.created_at,
        progress=batch_progress(items),
        receipts=batches.receipt_ids(database, batch.id),
    )


def recent_batches(database: Database) -> list[BatchView]:
    """The latest batches, the newest first."""
    with database.snapshot():
        return [batch_view(database, batch) for batch in batches.recent(database)]


def pack_state(job: Job) -> PackState:
    """Where a packing job stands."""
    state = STATES.get(job.state, PackState.WAITING)
    return PackState.PAUSED if job.paused and state in OPEN else state


def _item(stored: BatchJob) -> PackItem:
    job, progress = stored.job, stored.job.progress
    so_far = float(progress.bytes or 0 if progress else 0)
    return PackItem(
        job_id=job.id,
        title=job.title,
        state=pack_state(job),
        share=progress.share if progress else 0.0,
        expected_s=job.expected_s or 1.0,
        left_s=progress.left_s if progress else None,
        expected_bytes=stored.expected_bytes if stored.packed_bytes is None else stored.packed_bytes,
        file_bytes=so_far if stored.packed_bytes is None else stored.packed_bytes,
        problem=job.problem,
    )


def open_jobs(database: Database, batch_id: str) -> list[Job]:
    """The waiting and running jobs of a batch."""
    latest = batches.latest_jobs(database, batches.get(database, batch_id).id)
    return [item.job for item in latest if item.job.state in (JobState.WAITING, JobState.RUNNING)]


def try_again(database: Database, batch_id: str) -> int:
    """Queue once more what failed in a batch; gives how many."""
    failed = [item.job for item in batches.latest_jobs(database, batch_id) if item.job.state is JobState.FAILED]
    with database.transaction():
        for job in failed:
            jobs.again(database, job.id)
    return len(failed)
