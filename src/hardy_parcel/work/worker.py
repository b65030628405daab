"""The worker: watches the inbox, takes jobs from the queue, runs each in a child process, keeps what comes back.

    python -m hardy_parcel.work.worker DATA_FOLDER [--folder FOLDER ...] [--verbose]

It ends when its standard input ends, so it never outlives the program that started it. Only one at a time has a data folder, so
whoever comes next takes up what a killed one left, whatever the clock says.
"""

from __future__ import annotations

import argparse
import logging
import os
import queue
import sys
import threading
import time
import uuid
from collections.abc import Container
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path

from ..core.errors import (
    Cancelled,
    DiskFull,
    DockAway,
    FolderUnusable,
    HardyParcelError,
    NotFound,
    Problem,
    UnreadableMaster,
)
from ..core.progress import JobProgress
from ..processes import nursery
from ..processes.client import ENDED, SILENCE_LIMIT_S, Child, too_slow
from ..processes.confine import paths_of
from ..processes.messages import (
    OUTCOMES,
    TASK,
    ArriveTask,
    Failed,
    Message,
    PackTask,
    ParcelPacked,
    ProbeTask,
    ProgressMade,
    RehearseTask,
    SendTask,
    Task,
)
from ..processes.scratch import Scratch
from ..store import jobs, masters, results, settings
from ..store.database import Database, Watch
from ..store.jobs import Job, JobKind, JobState
from ..store.logs import log_to_file
from ..store.places import Places
from ..store.settings import After
from .awake import Awake
from .cache import Cache
from .inbox import Inbox
from .keeping import Keeper
from .packing import finish, only_wants_its_name, sweep
from .queueing import queue_inspect
from .recovery import remove_leftovers, requeue_orphans

TICK_S, QUIET_TICK_S, QUIET_AFTER_S = 0.15, 0.5, 5.0
"""Between two rounds, and once nothing runs and nothing was written for a while."""
TROUBLE_S = 1.0
LOOK_S = 2.0
"""How often the queue is looked through even if nothing was written: the hour of a job may have come."""
PATIENCE_S = 20.0
"""How long the worker before this one may take to end."""
TIDY_S, PRUNE_S = 60.0, 3_600.0
FIRST_PRUNE_S, NEXT_PRUNE_S = 10.0, 1.0
"""Ended jobs go once the start is over, some at a time."""
LIMITS_S = {JobKind.INSPECT: 90, JobKind.STRIP: 180, JobKind.CHECK: 900, JobKind.LISTEN: 900}
CANCEL_GRACE_S = 4.0
MOST_ATTEMPTS = {JobKind.REHEARSE: 4, JobKind.PACK: 4, JobKind.SEND: 20, JobKind.ARRIVE: 4}
HEAVY = (JobKind.REHEARSE, JobKind.PACK)
LONG = (*HEAVY, JobKind.SEND, JobKind.ARRIVE, JobKind.RETURNED)
"""What probing waits for, and with it what the machine is kept awake for: on the line and at a dock most of the time is waiting."""
YIELDING: dict[JobKind, Container[JobKind]] = {
    JobKind.BENCHMARK: frozenset(JobKind) - {JobKind.BENCHMARK, JobKind.PROBE},
    JobKind.PROBE: (*HEAVY, JobKind.BENCHMARK),
}
"""What waits while another of these kinds runs, and gives way when one comes: what it has measured so far is kept. Measuring the
machine needs all of it."""
STEPS_ASIDE = (JobKind.CHECK, JobKind.LISTEN)
"""What rests once, for one first figure: two threads of one core share more than a nice value can part."""
MOST_READINGS = 2
AWAITED = {
    JobKind.PACK: (DiskFull.code, FolderUnusable.code),
    JobKind.SEND: (DockAway.code,),
    JobKind.ARRIVE: (DockAway.code, DiskFull.code),
}
HOLD_S = 10.0
GIVE_UP_S = 900.0
"""What a parcel waits for, room on the disk, its folder or the docks, how often it is looked whether that is there, and when the machine
may sleep without it."""
log = logging.getLogger(__name__)


@dataclass(slots=True, kw_only=True)
class Running:
    """A job under way in a child process; `alone` as long as no other one ran beside it. `aside` says that it rests for a first figure, and
    is None before it ever did."""

    job: Job
    task: Task
    child: Child
    alone: bool
    began: float = field(default_factory=time.monotonic)
    heard: float = field(default_factory=time.monotonic)
    outcome: Message | None = None
    unkept: Message | None = None
    stop_sent: float | None = None
    resting: bool = False
    aside: bool | None = None
    ended: bool = False


class Worker:
    """One worker: at most one job of each kind at a time, so that a long one never blocks the others; others rest where they are."""

    def __init__(self, places: Places) -> None:
        self._places = places
        self._claimed = _claim(places)
        self._database = Database(places.database)
        taken = jobs.take_over(self._database)
        self._last = dict.fromkeys(("look", "tidy", "change"), 0.0)
        self._last["prune"] = time.monotonic() - PRUNE_S + FIRST_PRUNE_S
        requeue_orphans(self._database, places)
        self._watch = Watch(self._database)
        self._keeper = Keeper(self._database, places)
        self._cache = Cache(self._database, places)
        self._inbox = Inbox(self._database, places, self._open_master)
        self._owner = f"worker-{os.getpid()}-{uuid.uuid4().hex[:6]}"
        self._running: dict[str, Running] = {}
        self._awake = Awake()
        self._left: dict[Path, set[str]] = {
            Path(folder): ended for folder, ended in jobs.packed_into(self._database).items()
        }
        self._packed, self._told_awake = False, settings.load_dispatch(self._database).kept_awake
        self._remove_tries(taken)
        nursery.prepare(compares=True)
        self.scratch = Scratch(places.scratch, "worker")
        remove_leftovers(self._database, places)
        self.stopping = threading.Event()

    def run(self) -> None:
        """Work until told to stop, then end every child; their jobs wait for the next worker."""
        reported = ""
        self._inbox.watch()
        try:
            while not self.stopping.is_set():
                try:
                    self.step()
                    wait_s, reported = self._pause_s(), ""
                except (
                    HardyParcelError
                ) as error:  # a busy or full store must not end the worker; what could not be kept is kept later
                    if str(error) != reported:
                        log.exception("a round of work failed")
                    wait_s, reported = TROUBLE_S, str(error)
                self.stopping.wait(wait_s)
        finally:
            for running in self._running.values():
                running.child.kill()
                running.child.close(grace_s=0)
                if isinstance(running.task, PackTask) and self._finished_before(running.job, running.task):
                    continue
                self._clean(running.job, running.task)
                jobs.put_back(self._database, running.job, self._owner)
            self._awake.hold(False)
            self._watch.close()
            self._inbox.close()
            self.scratch.close()

    def _pause_s(self) -> float:
        quiet = not self._running and time.monotonic() - self._last["change"] > QUIET_AFTER_S
        return QUIET_TICK_S if quiet else TICK_S

    def _due(self, what: str, every_s: float) -> bool:
        current = time.monotonic()
        if current - self._last[what] < every_s:
            return False
        self._last[what] = current
        return True

    def step(self) -> None:
        """One round: scan, take jobs, follow children."""
        if self._inbox.due():
            self._inbox.scan()
        changed = self._watch.changed()
        if changed:
            self._last["change"] = time.monotonic()
        if changed or self._due("look", LOOK_S):
            self._last["look"] = time.monotonic()
            if lost := jobs.put_back_others(self._database, self._running):
                log.warning("jobs that nobody worked on wait again: %s", ", ".join(job.id for job, _ in lost))
                self._remove_tries(lost)
            for job, task in jobs.drop_cancelled(self._database) if jobs.any_cancelled(self._database) else []:
                self._keeper.stopped(job)
                self._clean(job, _task(task))
            if self._running:
                self._heed()
            wanted = jobs.kinds_with_work(self._database)
            self._give_way(wanted)
            for kind in sorted(wanted - self._busy(), key=_turn):
                if not any(other in YIELDING.get(kind, ()) for other in self._busy()):
                    self._take(kind)
        trouble: HardyParcelError | None = None
        for job_id, running in list(self._running.items()):
            try:
                self._follow(running)
            except (
                HardyParcelError
            ) as error:  # the store takes nothing now: what this job gave is kept until it does, others go on
                trouble = error
                continue
            except Exception:  # a fault of ours in one job must not hold up all others
                log.exception("what became of %s could not be kept", running.job.title)
                running.outcome = Failed(
                    problem=HardyParcelError("This job ended in a fault of the program.", "Try it again.").problem()
                )
                self._abandon(running)
            if running.ended:
                del self._running[job_id]
                self._last["look"] = 0.0
        if trouble:
            raise trouble
        self._make_room()
        self._rest_the_machine()
        self._tidy()

    def _abandon(self, running: Running) -> None:
        """End a job as failed whose outcome nobody can keep."""
        running.child.kill()
        running.child.close(grace_s=0)
        running.ended = True
        if isinstance(running.outcome, Failed):
            jobs.end(self._database, running.job, self._owner, JobState.FAILED, problem=running.outcome.problem)
        self._clean(running.job, running.task)

    def _rest_the_machine(self) -> None:
        """Keep the machine awake while anything long runs; once everything is packed let it sleep, where that was wished."""
        self._awake.hold(any(kind in LONG for kind in self._busy()))
        if self._awake.offered is not None and self._awake.offered != self._told_awake:
            self._told_awake = self._awake.offered
            settings.change_dispatch(self._database, kept_awake=self._awake.offered)
        if not self._packed or self._running or jobs.kinds_with_work(self._database) & set(LONG):
            return
        self._packed = False
        given_up = time.time() - GIVE_UP_S  # what waits so long for a disk or a folder is not waited for all night
        opened = [job for kind in LONG for job in jobs.open_of_kind(self._database, kind)]
        left = any(job.problem is None or (job.started_at or job.created_at) > given_up for job in opened)
        if settings.load_dispatch(self._database).after is After.SLEEP and not left:
            settings.change_dispatch(self._database, after=After.NOTHING)
            self._awake.sleep()

    def _busy(self) -> set[JobKind]:
        """Kinds of which one is under way; what rests lets others of its kind go on."""
        return {running.job.kind for running in self._running.values() if not running.resting}

    def _give_way(self, wanted: set[JobKind]) -> None:
        """Let what yields wait again where something it yields to, or one of its kind that was put before it, has come."""
        for running in list(self._running.values()):
            before = YIELDING.get(running.job.kind)
            if before is None or running.stop_sent or running.ended:
                continue
            if any(other in before for other in wanted) or jobs.waits_before(self._database, running.job):
                running.child.kill()
                running.child.close(grace_s=0)
                jobs.put_back(self._database, running.job, self._owner)
                del self._running[running.job.id]

    def _make_room(self) -> None:
        """Let checks rest while a first figure is measured, each for one of them."""
        first = any(
            isinstance(running.task, ProbeTask) and running.task.quick and not running.resting
            for running in self._running.values()
        )
        for running in self._running.values():
            if running.job.kind not in STEPS_ASIDE or running.resting:
                continue
            if first and running.aside is None:
                running.aside = True
                running.child.rest()
            elif running.aside and not first:
                running.aside, running.heard = False, time.monotonic()
                running.child.go_on()

    def _tidy(self) -> None:
        """Keep the cache within its bound between rehearsals; a look that fell due during one is made right after it.

        What ended jobs could not remove, their folder being away or full of trouble, is removed once it can be.
        """
        if self._due("prune", PRUNE_S):
            self._prune_jobs()
        if JobKind.REHEARSE not in self._busy() and self._due("tidy", TIDY_S):
            self._cache.tidy()
            self._left = {folder: left for folder, left in self._left.items() if not sweep(folder, left)}

    def _prune_jobs(self) -> None:
        stored = settings.load(self._database)
        self._last["prune"] = time.monotonic()
        if jobs.prune(self._database, most=stored.jobs_listed, days=stored.jobs_days):
            self._last["prune"] += NEXT_PRUNE_S - PRUNE_S  # there may be more of them

    def _open_master(self, path: Path) -> None:
        """Put a file on the shelf and queue its reading."""
        with self._database.transaction():
            queue_inspect(self._database, masters.add(self._database, path), path)

    def _take(self, kind: JobKind) -> None:
        claimed = jobs.claim(self._database, kind, self._owner)
        if claimed is None:
            return
        try:
            self._begin(claimed[0], _task(claimed[1]), kind)
        except BaseException:
            with suppress(HardyParcelError):  # what cannot be put back now is found by the next look
                jobs.put_back(self._database, claimed[0], self._owner)
            raise

    def _begin(self, job: Job, task: Task | None, kind: JobKind) -> None:
        """Start a claimed job's child, or end it where nothing is left to do."""
        if task is not None:
            try:
                self._places.allow(settings.load(self._database).folders)
                self._places.check_links(paths_of(task))
            except FolderUnusable as error:  # a link that was switched since its file was opened
                self._fail(job, error.problem())
                self._clean(job, task)
                return
        if task is None or job.attempts >= MOST_ATTEMPTS.get(kind, MOST_READINGS):
            todo = "The master may be damaged, or memory may be short; export it again or close other programs."
            self._fail(
                job,
                UnreadableMaster("This job ended without a word several times.", todo, code="keeps_dying").problem(),
            )
            self._clean(job, task)
            return
        if isinstance(task, PackTask) and self._finished_before(job, task):
            return
        self._clean(job, task)
        if isinstance(task, (RehearseTask, ProbeTask)):
            completed = (
                self._keeper.complete(task) if isinstance(task, RehearseTask) else self._keeper.complete_probe(task)
            )
            if completed is None:
                jobs.end(self._database, job, self._owner, JobState.DONE)
                return
            task = completed
        elif isinstance(task, PackTask):
            checked = masters.survey(self._database, task.facts.content_id)
            task = task.model_copy(
                update={
                    "job_id": job.id,
                    "heard": checked.sound,
                    "numbered": True,
                    "noted": True,
                    "difficulty": checked.picture.difficulty if checked.picture else (),
                }
            )
        elif isinstance(task, (SendTask, ArriveTask)):
            try:
                ready = self._keeper.complete_sending(task, job)
            except DockAway as error:
                jobs.hold(self._database, job, self._owner, error.problem(), until=time.time() + HOLD_S)
                return
            if ready is None:
                jobs.end(self._database, job, self._owner, JobState.DONE)
                return
            task = ready
        for other in self._running.values():
            other.alone = False
        running = Running(job=job, task=task, child=Child(self.scratch.folder), alone=not self._running)
        running.child.start(task)
        self._running[job.id] = running

    def _follow(self, running: Running) -> None:
        latest: JobProgress | None = None
        while not running.ended:
            try:
                message = running.unkept or running.child.messages.get_nowait()
            except queue.Empty:
                break
            running.heard = time.monotonic()
            if message is ENDED:
                running.ended = True
            elif isinstance(message, ProgressMade):
                latest = message.progress
            elif isinstance(message, (Failed, *OUTCOMES)):
                running.outcome, running.ended = message, True
            else:
                running.unkept = message  # for as long as the store cannot take it
                self._keep(message, running)
                running.unkept = None
        if latest and not running.ended:
            jobs.set_progress(self._database, running.job.id, self._owner, latest)
        if running.stop_sent and time.monotonic() - running.stop_sent > CANCEL_GRACE_S:
            running.child.kill()
        current = time.monotonic()
        limit = LIMITS_S.get(running.job.kind)
        silent = not running.resting and not running.aside and current - running.heard > SILENCE_LIMIT_S
        if not running.ended and ((limit and current - running.began > limit) or silent):
            running.outcome, running.ended = Failed(problem=too_slow().problem()), True
            running.child.kill()
        if running.ended:
            running.child.close(grace_s=0)
            self._end(running)

    def _end(self, running: Running) -> None:
        job, outcome = running.job, running.outcome
        self._packed = self._packed or (job.kind is JobKind.PACK and not running.stop_sent)
        if isinstance(outcome, Failed):
            if outcome.problem.kind == Cancelled.code or running.stop_sent:
                self._stopped(job)
            elif outcome.problem.kind in AWAITED.get(job.kind, ()):
                jobs.hold(self._database, job, self._owner, outcome.problem, until=time.time() + HOLD_S)
            else:
                self._fail(job, outcome.problem)
            self._clean(job, running.task)
        elif outcome is not None:
            name = self._keep(outcome, running)
            self._clean(job, running.task)
            jobs.end(self._database, job, self._owner, JobState.DONE, file_name=name)
        elif isinstance(running.task, PackTask) and self._finished_before(job, running.task):
            pass
        elif running.stop_sent:
            self._stopped(job)
            self._clean(job, running.task)
        else:  # the child died without a word: killed, out of memory, or a crash inside a codec
            self._clean(job, running.task)
            jobs.put_back(self._database, job, self._owner, died=True)

    def _finished_before(self, job: Job, task: PackTask) -> bool:
        """End a job whose file is whole, though nobody lived to say so; False where it has to be packed."""
        receipt = None
        with suppress(NotFound):
            receipt = results.receipt(self._database, job.id).receipt
        if receipt is None and (receipt := finish(task.folder, job.id)):
            with suppress(NotFound):
                self._keeper.keep(ParcelPacked(receipt=receipt), job, task, alone=False)
        if receipt is None:
            return False
        self._clean(job, task)
        jobs.end(self._database, job, self._owner, JobState.DONE, file_name=receipt.file_name)
        return True

    def _keep(self, message: Message, running: Running) -> str | None:
        """Keep what a job says. What it was for may be gone by now; trying again would not bring it back, and hold up what waits."""
        with suppress(NotFound):
            return self._keeper.keep(message, running.job, running.task, alone=running.alone)
        return None

    def _fail(self, job: Job, problem: Problem) -> None:
        self._keeper.fail(job, problem)
        jobs.end(self._database, job, self._owner, JobState.FAILED, problem=problem)

    def _stopped(self, job: Job) -> None:
        self._keeper.stopped(job)
        jobs.end(self._database, job, self._owner, JobState.CANCELLED)

    def _clean(self, job: Job, task: Task | None) -> None:
        """Remove what an earlier try of this job may have left."""
        if isinstance(task, PackTask) and not sweep(task.folder, {job.id}):
            self._left.setdefault(task.folder, set()).add(job.id)

    def _remove_tries(self, taken: list[tuple[Job, str]]) -> None:
        """Remove what was packed of jobs that wait again, which may be for long where they rest; files that only want their names stay."""
        for job, text in taken:
            task = _task(text)
            if isinstance(task, PackTask) and not only_wants_its_name(task.folder, job.id):
                self._clean(job, task)

    def _heed(self) -> None:
        """Pass on to children what is wished of their jobs: to stop, to rest, to go on."""
        wishes = jobs.wishes(self._database, self._owner)
        for running in self._running.values():
            wish = wishes.get(running.job.id)
            if wish is None:
                continue
            if wish.cancel and running.stop_sent is None:
                running.stop_sent = time.monotonic()
                running.child.cancel()
            elif wish.pause and not running.resting:
                running.resting, running.alone = True, False
                running.child.rest()
            elif running.resting and not wish.pause and running.job.kind not in self._busy():
                running.resting, running.aside, running.heard = False, False, time.monotonic()
                running.child.go_on()


def _claim(places: Places) -> int:
    """Have the data folder's jobs for this process alone, once the one before it has ended. Raises FolderUnusable when it does not."""
    ends = time.monotonic() + PATIENCE_S
    while True:
        try:
            return places.claim("working")
        except FolderUnusable:
            if time.monotonic() > ends:
                raise
            time.sleep(TICK_S)


def _turn(kind: JobKind) -> int:
    return 1 + list(YIELDING).index(kind) if kind in YIELDING else 0


def _task(text: str) -> Task | None:
    """A kept task; None for one that this version cannot read."""
    try:
        return TASK.validate_json(text)
    except ValueError:
        log.exception("a kept task could not be read")
        return None


def main() -> int:
    words = argparse.ArgumentParser()
    words.add_argument("data", type=Path)
    words.add_argument("--folder", type=Path, action="append", default=[])
    words.add_argument("--verbose", action="store_true")
    parsed = words.parse_args()
    places = Places.of(parsed.data, also=tuple(parsed.folder))
    log_to_file(places.data, "worker", verbose=parsed.verbose)
    worker = Worker(places)
    worker.scratch.use_by_default()

    def watch() -> None:
        sys.stdin.read()
        worker.stopping.set()

    threading.Thread(target=watch, daemon=True).start()
    worker.run()
    return 0


if __name__ == "__main__":
    sys.exit(main())
