"""Every way out of a job leaves it where it can go on, whatever the store takes in that moment. The worker runs in this process."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import suppress
from pathlib import Path

import pytest

from hardy_parcel.core.errors import HardyParcelError, StoreTrouble
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media.inspect import inspect
from hardy_parcel.processes.client import Child
from hardy_parcel.processes.messages import CheckTask, PackTask, ProbeTask
from hardy_parcel.store import jobs, masters, results
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import Job, JobKind, JobState
from hardy_parcel.store.places import Places
from hardy_parcel.work import worker
from hardy_parcel.work.keeping import Keeper

from .. import films
from ..builders import ORRERY

PATIENCE_S = 60


@pytest.fixture
def database(places: Places) -> Database:
    return Database(places.database)


@pytest.fixture
def here(places: Places, database: Database, monkeypatch: pytest.MonkeyPatch) -> Iterator[worker.Worker]:
    monkeypatch.setattr(worker, "LOOK_S", 0.05)
    created = worker.Worker(places)
    yield created
    created.stopping.set()
    created.run()  # ends what is still under way


def pack(database: Database, places: Places, source: Path, facts: MasterFacts, *, master: str | None = None) -> Job:
    plan = make_plan(facts, ORRERY, Choices(video_bitrate_bps=300_000, effort="quick"))
    task = PackTask(path=source, facts=facts, plan=plan, destination=ORRERY, folder=places.outbox, file_name="Gale.mp4")
    return jobs.add(database, JobKind.PACK, title="Gale", task=task, master_id=master)


def steps(here: worker.Worker, until: Callable[[], object]) -> None:
    """Rounds of work, as the worker makes them, until something is so."""
    ends = time.monotonic() + PATIENCE_S
    while not until():
        assert time.monotonic() < ends, "waited in vain"
        with suppress(HardyParcelError):
            here.step()
        time.sleep(0.01)


def state(database: Database, job: Job) -> JobState:
    return jobs.get(database, job.id).state


def test_a_job_whose_beginning_could_not_be_stored_waits_again(
    here, database, places, gale, gale_facts, monkeypatch
) -> None:
    job, refused = pack(database, places, gale, gale_facts), []
    local = masters.survey

    def busy(*given: object) -> object:
        if len(refused) < 2:
            refused.append(state(database, job))
            raise StoreTrouble("Another program has kept it locked.")
        return local(*given)

    monkeypatch.setattr(masters, "survey", busy)
    with pytest.raises(StoreTrouble):
        here.step()
    assert (refused, state(database, job)) == ([JobState.RUNNING], JobState.WAITING)
    assert jobs.get(database, job.id).attempts == 0
    steps(here, lambda: state(database, job) is JobState.DONE)


def test_a_job_that_nobody_works_on_is_found_at_the_next_look(
    here, database, places, gale, gale_facts, monkeypatch
) -> None:
    """Its beginning could not be stored, and neither could it be put back."""
    job, refused = pack(database, places, gale, gale_facts), []
    own_survey, own_back = masters.survey, jobs.put_back

    def busy(*given: object) -> object:
        if not refused:
            refused.append("survey")
            raise StoreTrouble("locked")
        return own_survey(*given)

    def also_busy(*given: object, **told: object) -> None:
        if len(refused) < 2:
            refused.append("put back")
            raise StoreTrouble("locked")
        own_back(*given, **told)

    monkeypatch.setattr(masters, "survey", busy)
    monkeypatch.setattr(jobs, "put_back", also_busy)
    with pytest.raises(StoreTrouble):
        here.step()
    assert (refused, state(database, job)) == (["survey", "put back"], JobState.RUNNING)
    steps(here, lambda: state(database, job) is JobState.DONE)


def test_what_one_job_cannot_store_holds_up_no_other(here, database, places, gale, gale_facts, monkeypatch) -> None:
    stuck, local = pack(database, places, gale, gale_facts), results.keep_receipt

    def full(*given: object, **told: object) -> None:
        if told["job_id"] == stuck.id and state(database, other) is not JobState.DONE:
            raise StoreTrouble("locked")
        local(*given, **told)

    monkeypatch.setattr(results, "keep_receipt", full)
    task = ProbeTask(
        path=gale,
        facts=gale_facts,
        plan=make_plan(gale_facts, ORRERY, Choices(effort="quick")),
        destination=ORRERY,
        folder=places.rehearsals,
    )
    other = jobs.add(database, JobKind.REHEARSE, title="other", task=task, master_id=None)
    steps(
        here, lambda: state(database, other) is not JobState.WAITING and state(database, other) is not JobState.RUNNING
    )
    assert state(database, stuck) is JobState.DONE or state(database, stuck) is JobState.RUNNING
    steps(here, lambda: state(database, stuck) is JobState.DONE)


def test_a_job_whose_film_is_gone_ends_and_the_next_one_begins(
    here, database, places, gale, gale_facts, monkeypatch
) -> None:
    master = masters.add(database, gale)
    job, local = pack(database, places, gale, gale_facts, master=master), Keeper.keep

    def gone(self: Keeper, message: object, *given: object, **told: object) -> object:
        with database.writing() as connection:
            connection.execute("DELETE FROM masters WHERE id = ?", (master,))
        return local.__get__(self)(message, *given, **told)

    monkeypatch.setattr(Keeper, "keep", gone)
    steps(here, lambda: not here._running and _gone(database, job))
    monkeypatch.setattr(Keeper, "keep", local)
    after = pack(database, places, gale, gale_facts)
    steps(here, lambda: state(database, after) is JobState.DONE)


def _gone(database: Database, job: Job) -> bool:
    with database.reading() as connection:
        row = connection.execute("SELECT state FROM jobs WHERE id = ?", (job.id,)).fetchone()
    return row is None or row["state"] not in ("waiting", "running")


def test_a_fault_of_ours_in_one_job_fails_that_job_alone(here, database, places, gale, gale_facts, monkeypatch) -> None:
    job, local = pack(database, places, gale, gale_facts), Keeper.keep

    def fault(self: Keeper, message: object, *given: object, **told: object) -> object:
        raise TypeError("never expected")

    monkeypatch.setattr(Keeper, "keep", fault)
    steps(here, lambda: state(database, job) is JobState.FAILED)
    assert "fault of the program" in jobs.get(database, job.id).problem.what
    monkeypatch.setattr(Keeper, "keep", local)
    again = jobs.again(database, job.id)
    steps(here, lambda: state(database, again) is JobState.DONE)


def test_a_test_that_rests_in_front_of_another_does_not_stop_it(here, database, places, gale, gale_facts) -> None:
    def probe(rank: float) -> Job:
        plan = make_plan(gale_facts, ORRERY, Choices(effort="quick"))
        task = ProbeTask(path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=places.rehearsals)
        return jobs.add(database, JobKind.PROBE, title="probe", task=task, master_id=None, rank=rank, key=str(rank))

    first, second = probe(1), probe(2)
    jobs.pause(database, first.id, paused=True)
    steps(here, lambda: state(database, second) is JobState.RUNNING)
    begun = here._running[second.id].child
    for _ in range(8):
        here.step()
        time.sleep(0.06)
        if second.id not in here._running:
            break
        assert here._running[second.id].child is begun, "it goes on in the same child"
    assert not jobs.waits_before(database, jobs.get(database, second.id))
    jobs.pause(database, first.id, paused=False)
    assert jobs.waits_before(database, jobs.get(database, second.id)) or state(database, second) is JobState.DONE


@pytest.mark.parametrize("paused", [False, True])
def test_checks_rest_once_for_a_first_figure_while_it_is_measured(
    here, database, places, gale, gale_facts, shelf: Path, monkeypatch: pytest.MonkeyPatch, paused: bool
) -> None:
    told: list[str] = []
    longer = films.film(shelf / "checked.mp4", width=560, height=316, rate=25, seconds=8)  # whose check is not over before it may rest
    of_it = CheckTask(path=longer, facts=inspect(longer))
    for name in ("rest", "go_on"):
        own = getattr(Child, name)
        monkeypatch.setattr(Child, name, lambda self, own=own, name=name: (told.append(name), own(self)))
    plan = make_plan(gale_facts, ORRERY, Choices(effort="quick"))
    task = ProbeTask(path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=places.rehearsals, quick=True)
    check = jobs.add(database, JobKind.CHECK, title="check", task=of_it, master_id=None)
    figure = jobs.add(database, JobKind.PROBE, title="figure", task=task, master_id=None)
    steps(here, lambda: check.id in here._running and figure.id in here._running)
    assert told == ["rest"]
    if paused:
        jobs.pause(database, figure.id, paused=True)
        steps(here, lambda: state(database, check) is JobState.DONE)
        assert told == ["rest", "rest", "go_on"], "the check, the figure, and the check again"
        return
    steps(here, lambda: state(database, figure) is JobState.DONE)
    assert state(database, check) is JobState.RUNNING, "it waited"
    steps(here, lambda: state(database, check) is JobState.DONE)
    assert told == ["rest", "go_on"]
