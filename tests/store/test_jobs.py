"""The queue: leases, taking up again, cancelling."""

from __future__ import annotations

import pytest

from hardy_parcel.core.errors import NotFound, Problem
from hardy_parcel.core.progress import JobProgress
from hardy_parcel.core.values import Model
from hardy_parcel.store import jobs, masters
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind, JobState


@pytest.fixture
def master(database: Database, places) -> str:
    path = places.inbox / "Gale.mp4"
    path.write_bytes(b"x")
    return masters.add(database, path)


class Target(Model):
    """What the store looks at in a task: where the file goes."""

    folder: str
    file_name: str


def add(database: Database, master: str, **changes) -> jobs.Job:
    values = {"title": "Gale", "task": Target(folder="/out", file_name="Gale.mp4"), "master_id": master, "parcel_id": "one"}
    return jobs.add(database, JobKind.PACK, **(values | changes))


def test_a_job_is_taken_once_and_in_order(database: Database, master: str) -> None:
    first, second = add(database, master), add(database, master)
    claimed, task = jobs.claim(database, JobKind.PACK, "a")
    assert (claimed.id, claimed.state, claimed.attempts) == (first.id, JobState.RUNNING, 1)
    assert Target.model_validate_json(task).file_name == "Gale.mp4"
    assert jobs.claim(database, JobKind.PACK, "b")[0].id == second.id
    assert jobs.claim(database, JobKind.PACK, "c") is None
    assert jobs.claim(database, JobKind.REHEARSE, "c") is None
    assert jobs.kinds_with_work(database) == set()


def test_a_lease_that_ran_out_is_taken_up_and_the_first_owner_is_heard_no_more(database, master, monkeypatch) -> None:
    job = add(database, master)
    monkeypatch.setattr(jobs, "LEASE_S", -1.0)
    jobs.claim(database, JobKind.PACK, "dead")
    assert jobs.kinds_with_work(database) == {JobKind.PACK}
    monkeypatch.setattr(jobs, "LEASE_S", 60.0)
    again, _ = jobs.claim(database, JobKind.PACK, "alive")
    assert (again.id, again.attempts) == (job.id, 2)
    assert not jobs.end(database, job, "dead", JobState.DONE)
    assert jobs.end(database, job, "alive", JobState.DONE, file_name="Gale.mp4")
    assert jobs.get(database, job.id).file_name == "Gale.mp4"


def test_a_renewed_lease_holds(database, master, monkeypatch) -> None:
    add(database, master)
    monkeypatch.setattr(jobs, "LEASE_S", -1.0)
    jobs.claim(database, JobKind.PACK, "a")
    monkeypatch.setattr(jobs, "LEASE_S", 60.0)
    jobs.renew(database, "a")
    assert jobs.claim(database, JobKind.PACK, "b") is None


def test_put_back_waits_again_without_progress(database, master) -> None:
    job = add(database, master)
    jobs.claim(database, JobKind.PACK, "a")
    jobs.set_progress(database, job.id, "a", JobProgress(share=0.5, doing="packing"))
    assert jobs.get(database, job.id).progress.share == 0.5
    jobs.put_back(database, job, "a")
    kept = jobs.get(database, job.id)
    assert (kept.state, kept.progress) == (JobState.WAITING, None)


def test_cancelling(database, master) -> None:
    waiting, running = add(database, master), add(database, master)
    jobs.ask_cancel(database, waiting.id)
    assert jobs.claim(database, JobKind.PACK, "a")[0].id == running.id
    jobs.ask_cancel(database, running.id)
    assert jobs.asked_to_stop(database, "a") == [running.id]
    assert [job.id for job, _ in jobs.drop_cancelled(database)] == [waiting.id]
    assert jobs.get(database, waiting.id).state is JobState.CANCELLED
    assert jobs.get(database, running.id).state is JobState.RUNNING


def test_what_is_withdrawn_is_stopped_and_may_be_asked_for_again(database, master) -> None:
    running, waiting, other = add(database, master, key="k"), add(database, master, key="k"), jobs.add(
        database, JobKind.REHEARSE, title="Gale", task=Target(folder="", file_name=""), master_id=master
    )
    jobs.claim(database, JobKind.PACK, "a")
    jobs.withdraw(database, JobKind.PACK)
    assert jobs.asked_to_stop(database, "a") == [running.id]
    assert [job.id for job, _ in jobs.drop_cancelled(database)] == [waiting.id]
    jobs.end(database, running, "a", JobState.CANCELLED)
    assert not jobs.failed_like(database, JobKind.PACK, "k"), "nobody stopped it for being in vain"
    assert not jobs.get(database, other.id).cancel_asked
    jobs.withdraw(database, JobKind.PACK)


def test_names_promised_to_waiting_jobs_are_taken(database, master) -> None:
    job = add(database, master)
    assert jobs.promised_targets(database) == {("/out", "Gale.mp4")}
    jobs.claim(database, JobKind.PACK, "a")
    jobs.end(database, job, "a", JobState.FAILED, problem=Problem(kind="disk_full", code="disk_full", what="Full."))
    assert jobs.promised_targets(database) == set()
    assert jobs.get(database, job.id).problem.what == "Full."


def test_what_is_open_is_listed_first_and_reading_is_not_listed(database, master) -> None:
    done, open_ = add(database, master), add(database, master)
    jobs.add(database, JobKind.INSPECT, title="Reading", task=Target(folder="", file_name=""), master_id=master)
    jobs.claim(database, JobKind.PACK, "a")
    jobs.end(database, done, "a", JobState.DONE)
    assert [job.id for job in jobs.recent(database)] == [open_.id, done.id]
    assert jobs.open_like(database, JobKind.PACK, master, parcel_id="one").id == open_.id
    assert jobs.open_like(database, JobKind.REHEARSE, master, parcel_id="one") is None
    assert jobs.open_like(database, JobKind.PACK, master, parcel_id="two") is None
    assert [job.id for job in jobs.open_of(database, master)][-1] != done.id


def test_changes_are_told_since_a_revision(database, master) -> None:
    add(database, master)
    seen = database.revision()
    job = add(database, master)
    assert [changed.id for changed in jobs.changed_since(database, seen)] == [job.id]
    assert jobs.changed_since(database, database.revision()) == []


def test_a_job_of_the_same_key_is_found(database, master) -> None:
    job = add(database, master, key="this curve")
    assert jobs.open_like(database, JobKind.PACK, master, key="this curve").id == job.id
    assert jobs.open_like(database, JobKind.PACK, master, key="another") is None


def test_an_unknown_job(database) -> None:
    with pytest.raises(NotFound):
        jobs.get(database, "nothing")
