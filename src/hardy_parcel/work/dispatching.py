"""Parcels put on the line to a platform, and what comes back of them waited for."""

from __future__ import annotations

import time
import uuid
from collections.abc import Sequence
from pathlib import Path

from ..core.arrival.docked import SentOver, Words
from ..core.arrival.returned import ExpectedView
from ..core.errors import BadInput, NotFound
from ..core.master.facts import MasterFacts
from ..core.parcel.returned_file import ReturnedRecord
from ..core.parcel.sending import Sending, SendingState, evidence_key, evidence_place
from ..core.plan.plan import Plan
from ..docks.catalogue import place_of
from ..processes.messages import ArriveTask, ReturnTask, SendTask
from ..store import jobs, masters, results, returned_files, sendings
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.masters import Master
from ..store.places import Places
from ..store.results import KeptReceipt

NOT_MEASURED = "Its master is not on the shelf any more, so that what arrives is not measured."


def queue_send(
    database: Database, receipt_id: str, *, destination_id: str | None = None, words: Words, line: SentOver | None,
    expected: Sequence[ExpectedView] = (),
) -> Job:
    """Put a packed file on the line, shortest first; to another destination than its plan's where one file serves several.

    Raises NotFound without a receipt, and BadInput where its file is gone or is being sent already.
    """
    kept, plan = results.receipt(database, receipt_id), results.packed_plan(database, receipt_id)
    path = Path(kept.receipt.folder) / kept.receipt.file_name
    if not path.is_file():
        raise BadInput(f"{path.name} is not in its folder any more.", "Put it back, or pack it again.", code="gone")
    place = place_of(database, plan, destination_id)
    under_way = [one for kind in (JobKind.SEND, JobKind.ARRIVE) for one in jobs.open_of_kind(database, kind)]
    for job in under_way:
        other, _ = sendings.get(database, job.key or "")
        if (other.receipt_id, other.destination_id) == (receipt_id, place.id):
            raise BadInput(f"{path.name} is on its way to {place.full_name} already.", "Wait until it has arrived.", code="on_its_way")
    sending = Sending(
        id=uuid.uuid4().hex[:12], receipt_id=receipt_id, destination_id=place.id, destination_name=place.full_name,
        file_name=path.name, size_bytes=kept.receipt.size_bytes, words=words, line=line, expected=tuple(expected), sent_at=time.time(),
    )
    with database.transaction():
        sendings.keep(database, sending, evidence_key(plan, place), content_id="", place=evidence_place(plan, place))
        return queue_upload(database, sending)


def queue_upload(database: Database, sending: Sending) -> Job:
    """The job that puts a stored sending on the line. Raises NotFound without its receipt."""
    kept, plan = results.receipt(database, sending.receipt_id), results.packed_plan(database, sending.receipt_id)
    path, goes_to = Path(kept.receipt.folder) / kept.receipt.file_name, sending.destination_name
    master, _ = _master_of(database, kept, plan)
    task = SendTask(
        path=path, sha256=kept.receipt.sha256, destination_id=sending.destination_id, words=sending.words, line=sending.line,
    )
    return jobs.add(
        database, JobKind.SEND, title=f"{path.name} → {goes_to}", subject=path.name, goes_to=goes_to, task=task,
        master_id=master.id if master else None, parcel_id=kept.parcel_id, key=sending.id, rank=kept.receipt.size_bytes,
    )


def queue_arrival(database: Database, places: Places, sending_id: str) -> Job | None:
    """Wait for what a dock makes of a parcel and measure it; None where its master has left the shelf, which is said then."""
    sending, key = sendings.get(database, sending_id)
    kept, plan = results.receipt(database, sending.receipt_id), results.packed_plan(database, sending.receipt_id)
    master, facts = _master_of(database, kept, plan)
    if master is None or facts is None:
        gone = sending.model_copy(update={"state": SendingState.FAILED, "trouble": NOT_MEASURED})
        sendings.keep(database, gone, key, content_id="")
        return None
    task = ArriveTask(
        path=Path(master.path), facts=facts, plan=plan, destination=place_of(database, plan, sending.destination_id),
        packed=Path(kept.receipt.folder) / kept.receipt.file_name, folder=places.arrivals / sending.id,
    )
    return jobs.add(
        database, JobKind.ARRIVE, title=f"{sending.file_name} at {sending.destination_name}", task=task, master_id=master.id,
        parcel_id=kept.parcel_id, key=sending.id,
    )


def queue_returned(
    database: Database, receipt_id: str, path: Path, *, file_name: str, own: bool, best: bool, destination_id: str | None = None,
    returned_id: str | None = None, expected: Sequence[ExpectedView] = (),
) -> ReturnedRecord:
    """Measure a file that a platform served of a packed parcel. Raises NotFound without its receipt, BadInput where the packed file or its
    master is not there any more."""
    kept, plan = results.receipt(database, receipt_id), results.packed_plan(database, receipt_id)
    packed = Path(kept.receipt.folder) / kept.receipt.file_name
    if not packed.is_file():
        raise BadInput(f"{packed.name} is not in its folder any more.", "Put it back: it is what the platform was sent.", code="gone")
    master, facts = _master_of(database, kept, plan)
    if master is None or facts is None or not Path(master.path).is_file():
        what = f"The master of {packed.name} is not on the shelf any more."
        raise BadInput(what, "Open it again: what came back is measured against it.", code="gone")
    place = place_of(database, plan, destination_id)
    record = ReturnedRecord(
        id=returned_id or uuid.uuid4().hex[:12], receipt_id=receipt_id, destination_id=place.id, destination_name=place.full_name,
        file_name=file_name, packed_name=packed.name, path=str(path), own=own, best=best, added_at=time.time(),
        expected=tuple(expected),
    )
    with database.transaction():
        returned_files.keep(database, record, evidence_place(plan, place))
        queue_measuring(database, record)
    return record


def queue_measuring(database: Database, record: ReturnedRecord) -> Job:
    """The job that measures a returned file. Raises NotFound where its receipt or its master is not there any more."""
    kept, plan = results.receipt(database, record.receipt_id), results.packed_plan(database, record.receipt_id)
    master, facts = _master_of(database, kept, plan)
    if master is None or facts is None:
        raise NotFound(f"The film of {record.packed_name} is not on the shelf any more.", "Open it again, then bring the file back again.")
    task = ReturnTask(
        path=Path(master.path), facts=facts, plan=plan, destination=place_of(database, plan, record.destination_id),
        packed=Path(kept.receipt.folder) / kept.receipt.file_name, path_returned=Path(record.path), file_name=record.file_name,
        best=record.best,
    )
    return jobs.add(
        database, JobKind.RETURNED, title=f"{record.file_name} from {record.destination_name}", task=task, master_id=master.id,
        parcel_id=kept.parcel_id, key=record.id,
    )


def _master_of(database: Database, kept: KeptReceipt, plan: Plan) -> tuple[Master | None, MasterFacts | None]:
    """The master that a file was packed from, with its facts as long as it still is what was packed; None for one that left the shelf."""
    try:
        master = masters.get(database, kept.master_id)
    except NotFound:
        return None, None
    same = master.facts is not None and master.facts.content_id == plan.master_content_id
    return master, master.facts if same else None
