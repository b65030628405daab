"""The worker with real child processes: reading, packing, rehearsing, and being killed in the middle."""

from __future__ import annotations

import os
import shutil
import signal
import subprocess
import sys
import threading
import time
from collections import Counter
from collections.abc import Callable, Iterator
from contextlib import suppress
from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.errors import DiskFull
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.processes.messages import BenchmarkTask, InspectTask, PackTask, ProbeTask, RehearseTask, StripTask
from hardy_parcel.processes.scratch import LOCK
from hardy_parcel.store import jobs, masters, results
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import Job, JobKind, JobState
from hardy_parcel.store.masters import Master, MasterState
from hardy_parcel.store.places import Places
from hardy_parcel.work import worker
from hardy_parcel.work.packing import pack_parcel, partial_path
from hardy_parcel.work.queueing import queue_benchmark, queue_checks

from .. import films
from ..builders import ORRERY

PATIENCE_S = 90
CHOICES = Choices(effort="quick")


def until(seen: Callable[[], object], what: str):
    """The first true value of `seen`; fails when it does not come."""
    ends = time.monotonic() + PATIENCE_S
    while time.monotonic() < ends:
        if found := seen():
            return found
        time.sleep(0.02)
    raise AssertionError(f"waited in vain for {what}")


def children_of(pid: int) -> list[int]:
    return [
        int(one) for one in subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True).stdout.split()
    ]


class Work:
    """A store with a worker process that can be started, killed and started again."""

    def __init__(self, places: Places) -> None:
        self.places, self.database = places, Database(places.database)
        self.process: subprocess.Popen | None = None
        self.start()

    def start(self) -> None:
        self.process = subprocess.Popen(
            [sys.executable, "-m", "hardy_parcel.work.worker", str(self.places.data)], stdin=subprocess.PIPE
        )

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()

    def stop(self) -> None:
        self.process.stdin.close()
        self.process.wait(timeout=20)

    def children(self) -> list[int]:
        """Job processes of this store's worker that are alive."""
        return [child for nursery in children_of(self.process.pid) for child in children_of(nursery)]

    def opened(self, path: Path) -> Master:
        found = until(
            lambda: next((m for m in masters.shelf(self.database) if m.path == str(path)), None), "the master"
        )
        return until(
            lambda: (m := masters.get(self.database, found.id)).state != MasterState.READING and m, "its facts"
        )

    def shelved(self, source: Path, facts: MasterFacts) -> str:
        """A master of which nothing is still to be read, so that only the job under test runs."""
        with self.database.transaction():
            master = masters.set_ready(self.database, masters.add(self.database, source), facts)
            masters.set_strip(self.database, master, 1)
        return master

    def pack(
        self, source: Path, facts: MasterFacts, name: str = "Gale.mp4", kbps: int = 300, control: RateControl = RateControl.TWO_PASSES
    ) -> Job:
        plan = make_plan(facts, ORRERY, Choices(video_bitrate_bps=kbps * 1000, rate_control=control))
        task = PackTask(
            path=source, facts=facts, plan=plan, destination=ORRERY, folder=self.places.outbox, file_name=name
        )
        return jobs.add(
            self.database, JobKind.PACK, title=name, task=task, master_id=self.shelved(source, facts), parcel_id="one"
        )

    def rehearse(self, source: Path, facts: MasterFacts, rates: tuple[int, ...], choices: Choices = CHOICES) -> Job:
        task = RehearseTask(
            path=source,
            facts=facts,
            plan=make_plan(facts, ORRERY, choices),
            destination=ORRERY,
            choices=choices,
            rates=rates,
            folder=self.places.rehearsals,
        )
        return jobs.add(
            self.database,
            JobKind.REHEARSE,
            title="rehearsal",
            task=task,
            master_id=self.shelved(source, facts),
            parcel_id="one",
        )

    def probe(self, source: Path, facts: MasterFacts, *, codec: str = "h264", rank: float = 0) -> Job:
        plan = make_plan(facts, ORRERY, Choices(method="encoded", codec=codec))
        task = ProbeTask(path=source, facts=facts, plan=plan, destination=ORRERY, folder=self.places.rehearsals)
        return jobs.add(
            self.database,
            JobKind.PROBE,
            title="probe",
            task=task,
            master_id=self.shelved(source, facts),
            parcel_id="one",
            key=task.journey.probes_key,
            rank=rank,
        )

    def ended(self, job: Job) -> Job:
        open_states = (JobState.WAITING, JobState.RUNNING)
        return until(lambda: (j := jobs.get(self.database, job.id)).state not in open_states and j, "the job's end")

    def under_way(self, job: Job, pictures: int = 1) -> Job:
        def far_enough() -> Job | None:
            found = jobs.get(self.database, job.id)
            if found.progress is None:
                return None
            before = (found.progress.of_pictures or 0) if "pass 2" in found.progress.doing else 0
            return found if before + (found.progress.pictures or 0) >= pictures else None

        return until(far_enough, "progress")

    def outbox(self) -> list[str]:
        return sorted(path.name for path in self.places.outbox.iterdir())


def _ticks(pids: list[int]) -> int:
    """Processor time of processes in ticks."""
    found = 0
    for pid in pids:
        with suppress(OSError):
            fields = Path(f"/proc/{pid}/stat").read_text().rsplit(")", 1)[1].split()
            found += int(fields[11]) + int(fields[12])
    return found


@pytest.fixture
def work(places: Places) -> Iterator[Work]:
    made = Work(places)
    yield made
    if made.process.poll() is None:
        made.stop()


@pytest.fixture(scope="module")
def long_film(shelf: Path) -> Path:
    """Enough pictures that a job can be caught in the middle."""
    return films.film(shelf / "long gale.mp4", width=560, height=316, rate=25, seconds=6)


@pytest.fixture(scope="module")
def long_facts(long_film: Path) -> MasterFacts:
    from hardy_parcel.media.inspect import inspect

    return inspect(long_film)


def test_a_file_in_the_inbox_appears_with_its_facts(work: Work, gale: Path) -> None:
    shutil.copy(gale, work.places.inbox / "Gale.mp4")
    master = work.opened(work.places.inbox / "Gale.mp4")
    assert master.state is MasterState.READY
    until(lambda: masters.get(work.database, master.id).facts.audio.integrated_lufs is not None, "the loudness")
    until(lambda: len(masters.get(work.database, master.id).strip) == 24, "the strip")
    assert len(list(work.places.strip(master.facts.content_id).iterdir())) == 24
    checked = until(lambda: (m := masters.get(work.database, master.id)).picture_checked and m, "the picture's check")
    assert {stamp.outcome for stamp in checked.stamps} == {Outcome.CLEARED}
    (work.places.inbox / "Gale.mp4").unlink()
    until(lambda: masters.shelf(work.database) == [], "the shelf to be cleared")


def test_a_bad_file_says_why_and_disturbs_nothing(work: Work, gale: Path) -> None:
    (work.places.inbox / "letter.mp4").write_text("Dear keeper\n" * 300)
    (work.places.inbox / "notes.txt").write_text("not looked at")
    shutil.copy(gale, work.places.inbox / "Gale.mp4")
    bad = work.opened(work.places.inbox / "letter.mp4")
    assert (bad.state, bad.problem.code) == (MasterState.UNREADABLE, "unreadable_master")
    assert work.opened(work.places.inbox / "Gale.mp4").state is MasterState.READY
    assert len(masters.shelf(work.database)) == 2


def test_a_file_that_is_still_growing_waits(work: Work, gale: Path) -> None:
    path, data = work.places.inbox / "Gale.mp4", gale.read_bytes()
    with open(path, "wb") as file:
        ends = time.monotonic() + PATIENCE_S
        at = 0
        while not any(m.arriving for m in masters.shelf(work.database)) and time.monotonic() < ends:
            file.write(data[at : at + 64])
            file.flush()
            at += 64
            time.sleep(0.05)
        assert [m.state for m in masters.shelf(work.database)] == [MasterState.READING]
        file.write(data[at:])
    assert work.opened(path).state is MasterState.READY


def test_a_copy_is_not_measured_again(work: Work, gale: Path) -> None:
    shutil.copy(gale, work.places.inbox / "Gale.mp4")
    first = work.opened(work.places.inbox / "Gale.mp4")
    until(lambda: (m := masters.get(work.database, first.id)).picture_checked and m.sound_checked, "the checks")
    shutil.copy(gale, work.places.inbox / "Again.mp4")
    second = work.opened(work.places.inbox / "Again.mp4")
    assert second.picture_checked
    assert second.sound_checked


def test_a_check_that_was_stopped_can_go_on(work: Work, long_film: Path) -> None:
    path = work.places.inbox / "long.mp4"
    shutil.copy(long_film, path)
    master = work.opened(path)
    job = until(lambda: jobs.open_like(work.database, JobKind.CHECK, master.id), "the check")
    jobs.ask_cancel(work.database, job.id)
    assert work.ended(job).state is JobState.CANCELLED
    assert not masters.get(work.database, master.id).picture_checked
    queue_checks(work.database, master.id, path, master.facts)
    until(lambda: masters.get(work.database, master.id).picture_checked, "the second check")


def test_a_file_that_changes_is_read_again(work: Work, gale: Path) -> None:
    path = work.places.inbox / "Gale.mp4"
    path.write_text("not yet a film")
    assert work.opened(path).state is MasterState.UNREADABLE
    shutil.copy(gale, path)
    until(lambda: masters.shelf(work.database)[0].state is MasterState.READY, "the second reading")


def test_a_parcel_is_packed_and_receipted(work: Work, gale: Path, gale_facts: MasterFacts) -> None:
    job = work.ended(work.pack(gale, gale_facts, control=RateControl.ONE_PASS))
    assert (job.state, job.attempts, job.file_name) == (JobState.DONE, 0, "Gale.mp4")
    assert work.outbox() == ["Gale.mp4"]
    kept = results.receipts(work.database)[0]
    assert (kept.receipt.differing, kept.parcel_id) == ((), "one")
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000))
    found = results.packing_speed(work.database, plan)
    assert found.pictures_per_s == pytest.approx(kept.receipt.pictures / kept.receipt.encode_s, rel=0.01)


def test_a_name_that_came_to_exist_is_not_overwritten(work: Work, gale, gale_facts) -> None:
    (work.places.outbox / "Gale.mp4").write_bytes(b"mine")
    job = work.ended(work.pack(gale, gale_facts, control=RateControl.ONE_PASS))
    assert (job.state, job.file_name) == (JobState.DONE, "Gale (2).mp4")
    assert (work.places.outbox / "Gale.mp4").read_bytes() == b"mine"
    assert work.outbox() == ["Gale (2).mp4", "Gale.mp4"]


def test_a_stopped_job_leaves_nothing(work: Work, long_film, long_facts) -> None:
    job = work.pack(long_film, long_facts)
    assert work.under_way(job).progress.of_pictures == 150
    jobs.ask_cancel(work.database, job.id)
    assert work.ended(job).state is JobState.CANCELLED
    until(lambda: work.outbox() == [], "an empty outbox")


def test_a_killed_child_is_taken_up_again(work: Work, long_film, long_facts) -> None:
    job = work.pack(long_film, long_facts)
    work.under_way(job, 160)
    assert all(name.endswith(".partial") for name in work.outbox())
    for pid in work.children():
        os.kill(pid, signal.SIGKILL)
    done = work.ended(job)
    assert (done.state, done.attempts) == (JobState.DONE, 1)
    assert work.outbox() == ["Gale.mp4"]


def test_a_killed_worker_leaves_no_finished_looking_file_and_the_next_one_goes_on(
    work: Work, long_film, long_facts
) -> None:
    job = work.pack(long_film, long_facts)
    work.under_way(job, 155)
    children = work.children()
    work.kill()
    until(lambda: not any(Path(f"/proc/{pid}").exists() for pid in children), "the orphaned child to leave")
    assert all(name.endswith(".partial") for name in work.outbox())
    assert jobs.get(work.database, job.id).state is JobState.RUNNING
    work.start()
    done = work.ended(job)
    assert (done.state, done.attempts) == (JobState.DONE, 0)
    assert work.outbox() == ["Gale.mp4"]
    assert [left for left in work.places.scratch.rglob("*") if left.is_file() and left.name != LOCK] == []


@pytest.mark.parametrize("named", [True, False])
def test_a_kill_between_the_name_and_the_receipt_loses_and_doubles_nothing(
    work: Work, gale, gale_facts, named: bool
) -> None:
    work.stop()
    job = work.pack(gale, gale_facts)
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000))
    made = pack_parcel(
        gale,
        gale_facts,
        plan,
        folder=work.places.outbox,
        file_name="Gale.mp4",
        job_id=job.id,
        report=lambda progress: None,
        noted=True,
    )
    if not named:  # killed a moment sooner
        (work.places.outbox / "Gale.mp4").rename(partial_path(work.places.outbox, job.id))
    work.start()
    done = work.ended(job)
    assert (done.state, done.file_name) == (JobState.DONE, "Gale.mp4")
    assert work.outbox() == ["Gale.mp4"]
    assert len(results.receipts(work.database)) == 1
    assert results.receipt(work.database, job.id).receipt == made


def test_a_kill_between_the_receipt_and_the_end_packs_nothing_twice(work: Work, gale, gale_facts) -> None:
    job = work.pack(gale, gale_facts)
    assert work.ended(job).state is JobState.DONE
    work.stop()
    with work.database.writing() as connection:  # as a worker leaves it that is killed just before it ends its job
        connection.execute("UPDATE jobs SET state = 'running', owner = 'gone', ended_at = NULL WHERE id = ?", (job.id,))
    work.start()
    assert work.ended(job).state is JobState.DONE
    assert (work.outbox(), len(results.receipts(work.database))) == (["Gale.mp4"], 1)


def test_a_stop_in_order_between_the_name_and_the_receipt_loses_nothing(work: Work, gale, gale_facts) -> None:
    job = work.pack(gale, gale_facts)
    note = work.places.outbox / f"{partial_path(work.places.outbox, job.id).name}-ready"
    until(note.exists, "its naming")
    work.stop()
    work.start()
    assert work.ended(job).state is JobState.DONE
    assert work.outbox() == ["Gale.mp4"]
    assert len(results.receipts(work.database)) == 1


def test_a_master_that_was_swapped_while_it_waited_is_not_packed(work: Work, gale, gale_facts, tmp_path: Path) -> None:
    work.stop()
    master = tmp_path / "gale.mp4"
    shutil.copy(gale, master)
    job = work.pack(master, gale_facts)
    films.film(master, width=64, height=36, rate=25, seconds=1)
    work.start()
    failed = work.ended(job)
    assert (failed.state, failed.problem.code) == (JobState.FAILED, "master_changed")
    assert work.outbox() == []


def test_a_packing_rests_with_the_processor_given_back_and_goes_on(work: Work, long_film, long_facts) -> None:
    job = work.pack(long_film, long_facts)
    work.under_way(job, 20)
    jobs.pause(work.database, job.id, paused=True)
    seen = [0]

    def rests() -> bool:
        before, seen[0] = seen[0], _ticks(work.children())
        time.sleep(0.3)
        return seen[0] == _ticks(work.children()) and before > 0

    until(rests, "the encoder to rest")
    at = jobs.get(work.database, job.id).progress.pictures
    jobs.pause(work.database, job.id, paused=False)
    done = work.ended(job)
    assert (done.state, done.paused) == (JobState.DONE, False)
    assert at < 300


def test_what_rests_still_rests_after_a_restart_and_is_packed_when_it_may(
    work: Work, long_film, long_facts, gale, gale_facts
) -> None:
    job = work.pack(long_film, long_facts, control=RateControl.ONE_PASS)
    work.under_way(job)
    jobs.pause(work.database, job.id, paused=True)
    work.kill()
    work.start()
    other = work.ended(work.pack(gale, gale_facts, name="other.mp4"))
    assert other.state is JobState.DONE
    assert (jobs.get(work.database, job.id).state, work.outbox()) == (JobState.WAITING, ["other.mp4"]), (
        "no partial stays while it rests"
    )
    jobs.pause(work.database, job.id, paused=False)
    assert work.ended(job).state is JobState.DONE


def test_a_parcel_of_no_master_on_the_shelf_is_packed_too(work: Work, gale, gale_facts) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000))
    task = PackTask(
        path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=work.places.outbox, file_name="Gale.mp4"
    )
    done = work.ended(jobs.add(work.database, JobKind.PACK, title="Gale", task=task, master_id=None))
    assert (done.state, work.outbox()) == (JobState.DONE, ["Gale.mp4"])
    assert results.receipt(work.database, done.id).receipt.file_name == "Gale.mp4"


def test_a_worker_that_is_told_to_stop_puts_its_job_back(work: Work, long_film, long_facts) -> None:
    job = work.pack(long_film, long_facts)
    work.under_way(job)
    work.stop()
    left = jobs.get(work.database, job.id)
    assert (left.state, left.attempts) == (JobState.WAITING, 0), "however often it is stopped in order, that is no try"
    assert work.outbox() == []
    assert [left for left in work.places.scratch.rglob("*") if left.is_file() and left.name != LOCK] == []


def test_a_job_that_keeps_dying_is_given_up(work: Work, long_film, long_facts) -> None:
    job = work.pack(long_film, long_facts)

    def kill_and_look() -> Job | None:
        for pid in work.children():
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        found = jobs.get(work.database, job.id)
        return found if found.state is JobState.FAILED else None

    failed = until(kill_and_look, "the job to be given up")
    assert failed.problem.code == "keeps_dying"
    until(lambda: work.outbox() == [], "an empty outbox")


def test_what_was_measured_is_not_measured_again(work: Work, shelf: Path) -> None:
    """Another rate of one curve is packed and handled, and nothing else; another codec shares the perfect upload; the same is at once."""
    from hardy_parcel.media.inspect import inspect

    source = films.film(shelf / "tiny.mp4", width=96, height=54, rate=25, seconds=Fraction(8, 25), sound=None)
    facts = inspect(source)
    assert work.ended(work.rehearse(source, facts, (60_000,))).state is JobState.DONE
    first = kept(work)
    assert work.ended(work.rehearse(source, facts, (60_000, 90_000))).state is JobState.DONE
    second = kept(work)
    assert added(first, second) == {"encode": 1, "handled": 1}
    assert (
        work.ended(work.rehearse(source, facts, (60_000,), CHOICES.model_copy(update={"codec": "hevc"}))).state
        is JobState.DONE
    )
    third = kept(work)
    assert added(second, third) == {"encode": 1, "handled": 1}
    assert work.ended(work.rehearse(source, facts, (90_000,))).state is JobState.DONE
    assert kept(work) == third
    journey = Journey(make_plan(facts, ORRERY, CHOICES), ORRERY)
    assert [found.target_bps for found in results.rehearsals(work.database, journey)] == [60_000, 90_000]
    assert len(list((work.places.rehearsals / "treated").iterdir())) == 1


def kept(work: Work) -> dict[tuple[str, str], float]:
    with work.database.reading() as connection:
        return {
            (row["kind"], row["key"]): row["made_at"]
            for row in connection.execute("SELECT kind, key, made_at FROM measurements")
        }


def added(before: dict[tuple[str, str], float], after: dict[tuple[str, str], float]) -> Counter[str]:
    assert all(after[key] == made for key, made in before.items()), "nothing known was made again"
    return Counter(kind for kind, key in after if (kind, key) not in before)


def test_probing_gives_way_to_packing_and_to_what_was_put_before_it(
    work: Work, long_film: Path, long_facts: MasterFacts
) -> None:
    patient = work.probe(long_film, long_facts)
    until(lambda: jobs.get(work.database, patient.id).state is JobState.RUNNING, "the probe to begin")
    packed = work.pack(long_film, long_facts)
    until(lambda: jobs.get(work.database, packed.id).state is JobState.RUNNING, "the packing to begin")
    waiting = jobs.get(work.database, patient.id)
    assert (waiting.state, waiting.attempts) == (JobState.WAITING, 0), "it gave way, and that is no failed try"
    jobs.ask_cancel(work.database, packed.id)
    work.ended(packed)
    until(lambda: jobs.get(work.database, patient.id).state is JobState.RUNNING, "the probe to go on")
    opened = work.probe(long_film, long_facts, codec="hevc")
    jobs.put_before(work.database, opened)
    until(lambda: jobs.get(work.database, opened.id).state is JobState.RUNNING, "what was opened to begin")
    assert jobs.get(work.database, patient.id).state is JobState.WAITING
    for job in (opened, patient):
        jobs.ask_cancel(work.database, job.id)
        assert work.ended(job).state is JobState.CANCELLED


def test_measuring_the_machine_waits_until_nothing_else_runs(
    work: Work, long_film: Path, long_facts: MasterFacts
) -> None:
    packed = work.pack(long_film, long_facts)
    until(lambda: jobs.get(work.database, packed.id).state is JobState.RUNNING, "the packing to begin")
    small = BenchmarkTask(width=320, height=180, pictures=6)
    asked = jobs.add(work.database, JobKind.BENCHMARK, title="speed", task=small, master_id=None)
    assert queue_benchmark(work.database).id == asked.id, "one at a time"
    assert jobs.get(work.database, asked.id).state is JobState.WAITING
    work.ended(packed)
    assert work.ended(asked).state is JobState.DONE
    assert list(results.benchmark(work.database)) == ["h264", "hevc", "vp9", "av1"]
    assert all(one.pixels_per_s > 0 for one in results.benchmark(work.database).values())


def test_a_master_that_left_the_shelf_while_it_was_read_holds_nothing_up(
    work: Work, gale: Path, gale_facts: MasterFacts
) -> None:
    work.stop()
    gone = masters.add(work.database, gale)
    masters.remove(work.database, gone)
    reading = jobs.add(work.database, JobKind.INSPECT, title="reading", task=InspectTask(path=gale), master_id=gone)
    strip = jobs.add(
        work.database,
        JobKind.STRIP,
        title="strip",
        master_id=gone,
        task=StripTask(path=gale, facts=gale_facts, folder=work.places.strip("gone")),
    )
    work.start()
    assert [work.ended(job).state for job in (reading, strip)] == [JobState.DONE, JobState.DONE]


def test_a_parcel_waits_for_its_folder_and_goes_on_by_itself(
    places: Places, gale, gale_facts, monkeypatch: pytest.MonkeyPatch
) -> None:
    """The worker in this process, so that it need not wait half a minute."""
    monkeypatch.setattr(worker, "HOLD_S", 0.2)
    away = places.data / "drive"
    here = worker.Worker(places)
    database = Database(places.database)
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000, effort="quick"))
    task = PackTask(path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=away, file_name="Gale.mp4")
    job = jobs.add(database, JobKind.PACK, title="Gale", task=task, master_id=None)
    working = threading.Thread(target=here.run)
    working.start()
    try:
        held = until(lambda: (found := jobs.get(database, job.id)).problem and found, "word of what it waits for")
        assert held.state is JobState.WAITING
        assert "There is no folder" in held.problem.what
        away.mkdir()
        done = until(lambda: (found := jobs.get(database, job.id)).state is JobState.DONE and found, "the parcel")
        assert (done.problem, done.attempts) == (None, 0)
        assert [path.name for path in away.iterdir()] == ["Gale.mp4"]
    finally:
        here.stopping.set()
        working.join(timeout=20)


def test_what_a_full_store_cannot_take_is_kept_once_it_can(
    places: Places, gale, gale_facts, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(worker, "TROUBLE_S", 0.1)
    here, database = worker.Worker(places), Database(places.database)
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000, effort="quick"))
    task = PackTask(
        path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=places.outbox, file_name="Gale.mp4"
    )
    job = jobs.add(database, JobKind.PACK, title="Gale", task=task, master_id=None)
    refused: list[str] = []
    keep = results.keep_receipt

    def full(*given, **told) -> None:
        refused.append(told["job_id"])
        if len(refused) < 4:
            raise DiskFull("The disk is full.")
        keep(*given, **told)

    monkeypatch.setattr(results, "keep_receipt", full)
    working = threading.Thread(target=here.run)
    working.start()
    try:
        until(lambda: jobs.get(database, job.id).state is JobState.DONE, "the parcel")
        assert len(refused) == 4
        assert len(results.receipts(database)) == 1
        assert [path.name for path in places.outbox.iterdir()] == ["Gale.mp4"]
    finally:
        here.stopping.set()
        working.join(timeout=20)
