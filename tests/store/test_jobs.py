"""The queue: taking, taking up again, resting, cancelling."""

from __future__ import annotations

import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from hardy_parcel.core.errors import BadInput, NotFound, Problem
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
    assert (claimed.id, claimed.state, claimed.attempts) == (first.id, JobState.RUNNING, 0)
    assert Target.model_validate_json(task).file_name == "Gale.mp4"
    assert jobs.claim(database, JobKind.PACK, "b")[0].id == second.id
    assert jobs.claim(database, JobKind.PACK, "c") is None
    assert jobs.claim(database, JobKind.REHEARSE, "c") is None
    assert jobs.kinds_with_work(database) == set()


def test_what_a_worker_that_is_gone_left_is_taken_up_and_it_is_heard_no_more(database, master) -> None:
    job = add(database, master)
    jobs.claim(database, JobKind.PACK, "dead")
    assert jobs.claim(database, JobKind.PACK, "alive") is None
    jobs.take_over(database)
    assert jobs.kinds_with_work(database) == {JobKind.PACK}
    again, _ = jobs.claim(database, JobKind.PACK, "alive")
    assert (again.id, again.attempts) == (job.id, 0), "only a process that died in silence counts as a try"
    assert not jobs.end(database, job, "dead", JobState.DONE)
    assert jobs.end(database, job, "alive", JobState.DONE, file_name="Gale.mp4")
    assert jobs.get(database, job.id).file_name == "Gale.mp4"


@pytest.mark.parametrize("clock", [-10**9, 10**9])
def test_whatever_the_clock_says_a_job_is_taken_up(database, master, monkeypatch, clock) -> None:
    add(database, master)
    jobs.claim(database, JobKind.PACK, "dead")
    real = time.time()
    monkeypatch.setattr(jobs.time, "time", lambda: real + clock)
    jobs.take_over(database)
    assert jobs.claim(database, JobKind.PACK, "alive")


def test_a_job_that_rests_or_whose_hour_has_not_come_is_not_begun(database, master) -> None:
    first, second = add(database, master), add(database, master)
    jobs.pause(database, first.id, paused=True)
    assert jobs.claim(database, JobKind.PACK, "a")[0].id == second.id
    jobs.pause(database, second.id, paused=True)
    assert jobs.wishes(database, "a") == {second.id: (False, True)}
    jobs.take_over(database)
    assert jobs.kinds_with_work(database) == set(), "a restart does not wake what rests"
    assert jobs.pause(database, first.id, paused=False).paused is False
    assert jobs.claim(database, JobKind.PACK, "a")[0].id == first.id


def test_a_task_can_be_made_of_the_names_that_are_promised(database, master) -> None:
    def next_name(promised: set[jobs.Target]) -> Target:
        return Target(folder="/out", file_name=f"Gale {len(promised)}.mp4")

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(lambda _: add(database, master, task=next_name), range(8)))
    assert len(jobs.promised_targets(database)) == 8


def test_put_back_waits_again_without_progress(database, master) -> None:
    job = add(database, master)
    jobs.claim(database, JobKind.PACK, "a")
    jobs.set_progress(database, job.id, "a", JobProgress(share=0.5, doing="packing"))
    assert jobs.get(database, job.id).progress.share == 0.5
    jobs.put_back(database, job, "a")
    kept = jobs.get(database, job.id)
    assert (kept.state, kept.progress, kept.attempts) == (JobState.WAITING, None, 0)
    jobs.claim(database, JobKind.PACK, "a")
    jobs.put_back(database, job, "a", died=True)
    assert jobs.get(database, job.id).attempts == 1


def test_cancelling(database, master) -> None:
    waiting, running = add(database, master), add(database, master)
    jobs.ask_cancel(database, waiting.id)
    assert jobs.claim(database, JobKind.PACK, "a")[0].id == running.id
    jobs.ask_cancel(database, running.id)
    assert jobs.wishes(database, "a") == {running.id: (True, False)}
    assert [job.id for job, _ in jobs.drop_cancelled(database)] == [waiting.id]
    assert jobs.get(database, waiting.id).state is JobState.CANCELLED
    assert jobs.get(database, running.id).state is JobState.RUNNING


def test_what_is_withdrawn_is_stopped_and_may_be_asked_for_again(database, master) -> None:
    running, waiting, other = add(database, master, key="k"), add(database, master, key="k"), jobs.add(
        database, JobKind.REHEARSE, title="Gale", task=Target(folder="", file_name=""), master_id=master
    )
    jobs.claim(database, JobKind.PACK, "a")
    jobs.withdraw(database, JobKind.PACK)
    assert jobs.wishes(database, "a") == {running.id: (True, False)}
    assert [job.id for job, _ in jobs.drop_cancelled(database)] == [waiting.id]
    jobs.end(database, running, "a", JobState.CANCELLED)
    assert not jobs.failed_like(database, JobKind.PACK, "k"), "nobody stopped it for being in vain"
    assert not jobs.get(database, other.id).cancel_asked
    jobs.withdraw(database, JobKind.PACK)


def test_the_film_that_is_looked_at_goes_first_in_its_own_order(database, places, master) -> None:
    (places.inbox / "Lamp.mp4").write_bytes(b"y")
    lamp = masters.add(database, places.inbox / "Lamp.mp4")
    wanted = [(master, 0), (master, 500), (lamp, 0), (lamp, 1000), (master, 1000)]
    made = [
        jobs.add(database, JobKind.PROBE, title="t", task=Target(folder="", file_name=""), master_id=film, parcel_id="one", rank=rank)
        for film, rank in wanted
    ]
    jobs.put_film_first(database, JobKind.PROBE, lamp)
    jobs.put_film_first(database, JobKind.PROBE, lamp)  # said again it changes nothing

    def order() -> list[int]:
        numbers = {job.id: number for number, job in enumerate(made)}
        return [numbers[job.id] for job in sorted(jobs.open_of_kind(database, JobKind.PROBE), key=lambda job: (job.rank, job.created_at))]

    assert order() == [2, 3, 0, 1, 4]
    running, _ = jobs.claim(database, JobKind.PROBE, "a")
    assert not jobs.waits_before(database, running)
    jobs.put_film_first(database, JobKind.PROBE, master)
    assert order() == [0, 1, 4, 2, 3]
    assert jobs.waits_before(database, running), "what runs for a film that nobody looks at gives way"
    jobs.put_later(database, JobKind.PROBE, rank=500, later=1000, parcel_id="another")
    assert [jobs.get(database, job.id).rank for job in made[:2]] == [0, 1000]
    jobs.withdraw_some(database, [made[0], running])
    jobs.drop_cancelled(database)
    assert [jobs.get(database, job.id).state for job in (made[0], running)] == [JobState.CANCELLED, JobState.RUNNING]
    assert jobs.get(database, running.id).cancel_asked
    assert jobs.get(database, made[0].id).key is None, "so that it may be asked for again"


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


def test_the_queue_has_an_end(database: Database, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(jobs, "MOST_WAITING", 2)
    for _ in range(2):
        jobs.add(database, JobKind.PACK, title="one", task=Target(folder="/x", file_name="y"), master_id=None)
    with pytest.raises(BadInput, match="2 parcels wait already"):
        jobs.add(database, JobKind.PACK, title="one", task=Target(folder="/x", file_name="y"), master_id=None)
    jobs.add(database, JobKind.INSPECT, title="other", task=Target(folder="/x", file_name="y"), master_id=None)
