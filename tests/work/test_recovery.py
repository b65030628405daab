"""A kill between two steps: whatever says that it is worked on has a job again when a worker starts, or says why not."""

from __future__ import annotations

from pathlib import Path

import pytest

from hardy_parcel.core.arrival.docked import Words
from hardy_parcel.core.errors import StoreTrouble
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.parcel.receipt import Receipt
from hardy_parcel.core.parcel.sending import Sending, SendingState
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.store import jobs, masters, results, returned_files, sendings
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.store.places import Places
from hardy_parcel.work.dispatching import queue_returned, queue_send
from hardy_parcel.work.queueing import queue_checks
from hardy_parcel.work.recovery import requeue_orphans

from ..builders import ORRERY


@pytest.fixture
def packed(database: Database, places: Places, gale: Path, gale_facts: MasterFacts) -> str:
    """The receipt of a packed film whose master is on the shelf, checked."""
    master = masters.add(database, gale)
    masters.set_ready(database, master, gale_facts)
    masters.set_strip(database, master, 1)
    (places.outbox / "Gale.mp4").write_bytes(b"film")
    results.keep_receipt(
        database,
        job_id="packed",
        master_id=master,
        master_name="Gale.mp4",
        parcel_id=None,
        plan=make_plan(gale_facts, ORRERY, Choices()),
        receipt=Receipt(
            file_name="Gale.mp4",
            folder=str(places.outbox),
            size_bytes=4,
            sha256="0" * 64,
            encode_s=1.0,
            pictures=1,
            rows=(),
        ),
    )
    return "packed"


def orphaned(database: Database, kind: JobKind) -> None:
    """The jobs of a kind are gone, as if the program had died before they were queued."""
    with database.writing() as connection:
        connection.execute("DELETE FROM jobs WHERE kind = ?", (kind,))


def open_keys(database: Database, kind: JobKind) -> list[str | None]:
    return [job.key for job in jobs.open_of_kind(database, kind)]


def state(database: Database, sending: Sending) -> SendingState:
    return sendings.get(database, sending.id)[0].state


def test_what_goes_to_a_platform_is_put_on_the_line_again(database: Database, places: Places, packed: str) -> None:
    sent = queue_send(database, packed, words=Words(title="Gale"), line=None)
    assert requeue_orphans(database, places) == 0, "it has its job"
    orphaned(database, JobKind.SEND)
    assert requeue_orphans(database, places) == 1
    assert open_keys(database, JobKind.SEND) == [sent.key]
    [again] = jobs.open_of_kind(database, JobKind.SEND)
    assert (again.subject, again.goes_to) == (sent.subject, sent.goes_to)
    assert requeue_orphans(database, places) == 0


def test_what_a_platform_has_is_waited_for_again(database: Database, places: Places, packed: str) -> None:
    sent = queue_send(database, packed, words=Words(), line=None)
    sending, key = sendings.get(database, sent.key)
    sendings.keep(
        database, sending.model_copy(update={"state": SendingState.SENT, "dock_id": "there"}), key, content_id=""
    )
    orphaned(database, JobKind.SEND)
    assert requeue_orphans(database, places) == 1
    assert open_keys(database, JobKind.ARRIVE) == [sent.key]


def test_what_cannot_go_on_says_why(database: Database, places: Places, packed: str) -> None:
    sent = queue_send(database, packed, words=Words(), line=None)
    orphaned(database, JobKind.SEND)
    results.remove_receipt(database, packed)
    assert requeue_orphans(database, places) == 0
    failed, _ = sendings.get(database, sent.key)
    assert (failed.state, bool(failed.trouble)) == (SendingState.FAILED, True)


def test_a_file_that_came_back_is_measured_again_or_says_why_not(
    database: Database, places: Places, packed: str, gale: Path
) -> None:
    record = queue_returned(database, packed, gale, file_name="Saved.mp4", own=False, best=True)
    orphaned(database, JobKind.RETURNED)
    assert requeue_orphans(database, places) == 1
    assert open_keys(database, JobKind.RETURNED) == [record.id]
    orphaned(database, JobKind.RETURNED)
    masters.remove(database, masters.shelf(database)[0].id)
    assert requeue_orphans(database, places) == 0
    assert returned_files.get(database, record.id).problem.what


def test_a_film_that_was_being_read_is_read(
    database: Database, places: Places, gale: Path, gale_facts: MasterFacts
) -> None:
    master = masters.add(database, gale)
    assert requeue_orphans(database, places) == 1
    assert [job.master_id for job in jobs.open_of_kind(database, JobKind.INSPECT)] == [master]
    orphaned(database, JobKind.INSPECT)
    masters.set_ready(database, master, gale_facts)
    assert requeue_orphans(database, places) == 1
    assert {job.kind for job in jobs.open_of(database, master)} == {JobKind.STRIP, JobKind.CHECK, JobKind.LISTEN}


def test_neither_half_of_a_sending_is_left_where_the_other_could_not_be_stored(
    database: Database, packed: str, monkeypatch: pytest.MonkeyPatch
) -> None:
    def full(*given: object, **told: object) -> None:
        raise StoreTrouble("locked")

    monkeypatch.setattr(jobs, "add", full)
    with pytest.raises(StoreTrouble):
        queue_send(database, packed, words=Words(), line=None)
    with pytest.raises(StoreTrouble):
        queue_returned(database, packed, Path("/nowhere"), file_name="Saved.mp4", own=False, best=True)
    assert (sendings.unfinished(database), returned_files.every(database)) == ([], [])


def test_checks_that_were_stopped_are_not_begun_anew(
    database: Database, places: Places, packed: str, gale_facts: MasterFacts
) -> None:
    """Their strip is made, so nothing was left half done."""
    [master] = masters.shelf(database)
    queue_checks(database, master.id, Path(master.path), gale_facts)
    orphaned(database, JobKind.CHECK)
    orphaned(database, JobKind.LISTEN)
    assert requeue_orphans(database, places) == 0
