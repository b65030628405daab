"""What a killed program left half done: everything that says it is being worked on gets its job again, or says why not."""

from __future__ import annotations

import logging
import shutil
from collections.abc import Callable
from functools import partial
from pathlib import Path

from ..core.errors import HardyParcelError, NotFound, Problem
from ..core.parcel.returned_file import ReturnedRecord
from ..core.parcel.sending import Sending, SendingState
from ..store import jobs, masters, results, returned_files, sendings
from ..store.database import Database
from ..store.jobs import JobKind
from ..store.masters import MasterState
from ..store.places import Places
from .cache import BROUGHT
from .dispatching import queue_arrival, queue_measuring, queue_upload
from .queueing import queue_checks, queue_inspect, queue_strip

log = logging.getLogger(__name__)
PARTIAL_PICTURES = "partial-"


def requeue_orphans(database: Database, places: Places) -> int:
    """Queue whatever says that it is read, sent, waited for or measured and has no job; returns how many those were.

    Called when a worker starts, before it takes anything. One that cannot be queued any more fails with a sentence.
    """
    result = 0
    for sending in sendings.unfinished(database):
        result += _again(partial(_send_on, database, places, sending), partial(_fail_sending, database, sending))
    for record in returned_files.unmeasured(database):
        result += _again(partial(_measure_on, database, record), partial(_fail_returned, database, record))
    for master_id, path, state in masters.unread(database):
        result += _again(partial(_read_on, database, places, master_id, path, state), lambda why: None)
    if result:
        log.warning("%d things that were left half done go on", result)
    return result


def remove_leftovers(database: Database, places: Places) -> list[Path]:
    """Remove what a kill left in the cache: encodes and renditions that nothing was measured of, halves of prepared pictures; what went.

    Called when a worker starts, since only one at a time writes there.
    """
    used, gone = results.measured_folders(database), list[Path]()
    for kind in ("encodes", "handled", "perfect"):
        gone += [folder for folder in _entries(places.rehearsals / kind) if folder not in used]
    for folder in _entries(places.rehearsals / "treated"):
        gone += [half for half in _entries(folder) if half.name.startswith(PARTIAL_PICTURES)]
    for path in gone:
        if path.is_dir():
            shutil.rmtree(path, ignore_errors=True)
        else:
            path.unlink(missing_ok=True)
    return gone


def remove_unowned_arrivals(database: Database, places: Places) -> list[Path]:
    """Remove files that were being brought back, and folders of deliveries, that nothing is stored of; what went.

    Called when the service starts, before anybody can bring one.
    """
    brought, sent = returned_files.ids(database), sendings.ids(database)
    gone = [
        folder
        for folder in _entries(places.arrivals)
        if (
            folder.name.removeprefix(BROUGHT) not in brought
            if folder.name.startswith(BROUGHT)
            else folder.name not in sent
        )
    ]
    for folder in gone:
        shutil.rmtree(folder, ignore_errors=True)
    return gone


def _entries(folder: Path) -> list[Path]:
    return sorted(folder.iterdir()) if folder.is_dir() else []


def _again(queue: Callable[[], bool], fail: Callable[[Problem], None]) -> int:
    try:
        return int(queue())
    except NotFound as error:
        fail(error.problem())
    except HardyParcelError:
        log.exception("something that was left half done could not be queued again")
    return 0


def _send_on(database: Database, places: Places, sending: Sending) -> bool:
    if sending.state is SendingState.WAITING and not jobs.open_of_key(database, JobKind.SEND, sending.id):
        queue_upload(database, sending)
        return True
    if sending.state is SendingState.SENT and not jobs.open_of_key(database, JobKind.ARRIVE, sending.id):
        return queue_arrival(database, places, sending.id) is not None
    return False


def _measure_on(database: Database, record: ReturnedRecord) -> bool:
    if jobs.open_of_key(database, JobKind.RETURNED, record.id):
        return False
    queue_measuring(database, record)
    return True


def _fail_sending(database: Database, sending: Sending, why: Problem) -> None:
    _, key = sendings.get(database, sending.id)
    failed = sending.model_copy(update={"state": SendingState.FAILED, "trouble": f"{why.what} {why.todo}".strip()})
    sendings.keep(database, failed, key, content_id="")


def _fail_returned(database: Database, record: ReturnedRecord, why: Problem) -> None:
    returned_files.keep(database, record.model_copy(update={"problem": why}))


def _read_on(database: Database, places: Places, master_id: str, path: Path, state: MasterState) -> bool:
    """Read a film's header, or make what follows on it."""
    if state is MasterState.READING:
        if path.is_file() and not jobs.open_like(database, JobKind.INSPECT, master_id):
            queue_inspect(database, master_id, path)
            return True
        return False
    facts = masters.get(database, master_id).facts
    if facts is None or jobs.open_of(database, master_id):
        return False
    with database.transaction():
        queue_strip(database, places, master_id)
        queue_checks(database, master_id, path, facts)
    return True
