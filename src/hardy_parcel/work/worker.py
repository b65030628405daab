"""The worker: watches the inbox, takes jobs from the queue, runs each in a child process, keeps what comes back.

    python -m hardy_parcel.work.worker DATA_FOLDER

It ends when its standard input ends, so it never outlives the program that started it. Killed, it leaves leases
that run out within seconds; whoever comes next takes its jobs up again.
"""

from __future__ import annotations

import json
import os
import queue
import shutil
import subprocess
import sys
import threading
import time
import uuid
from contextlib import suppress
from dataclasses import dataclass, field
from pathlib import Path
from sqlite3 import Row
from typing import Any

from ..core.arrival.rehearsal import PerfectUpload, Rehearsal
from ..core.arrival.windows import Reel
from ..core.errors import HardyParcelError, Problem, UnreadableMaster
from ..core.master.checks.evidence import SoundSurvey, Survey
from ..core.master.checks.sound_levels import SoundLevels
from ..core.master.facts import MasterFacts
from ..core.parcel.receipt import Receipt
from ..core.plan.plan import Plan
from ..docks.catalogue import shipped_destinations
from ..store import jobs, masters, results
from ..store.database import Database, Watch
from ..store.jobs import Job, JobKind, JobProgress, JobState
from ..store.masters import MasterState
from ..store.places import MASTER_ENDINGS, Places, is_text
from .packing import partial_path
from .run import SILENCE_LIMIT_S

TICK_S = 0.15
SCAN_S = 1.0
LOOK_S = 2.0
"""How often the queue is looked through even if nothing was written: a lease may have run out."""
RENEW_S = 2.0
LIMITS_S = {JobKind.INSPECT: 90, JobKind.STRIP: 180, JobKind.CHECK: 900, JobKind.LISTEN: 900}
CANCEL_GRACE_S = 4.0
MOST_ATTEMPTS = {JobKind.CURVE: 4, JobKind.PACK: 4}
MOST_READINGS = 2


@dataclass(slots=True, kw_only=True)
class Running:
    """A job under way in a child process."""

    job: Job
    spec: dict[str, Any]
    child: subprocess.Popen
    events: queue.Queue = field(default_factory=queue.Queue)
    began: float = field(default_factory=time.monotonic)
    heard: float = field(default_factory=time.monotonic)
    outcome: dict[str, Any] | None = None
    stop_sent: float | None = None
    ended: bool = False


class Worker:
    """One worker: at most one job of each kind at a time, so that a long one never blocks the others."""

    def __init__(self, places: Places) -> None:
        self._places = places
        self._database = Database(places.database)
        self._owner = f"worker-{os.getpid()}-{uuid.uuid4().hex[:6]}"
        self._running: dict[JobKind, Running] = {}
        self._watch = Watch(self._database)
        self._last_scan = self._last_renew = self._last_look = 0.0
        self._sizes: dict[str, tuple[int, int]] = {}
        self._spare: subprocess.Popen | None = None
        self.stopping = threading.Event()

    def run(self) -> None:
        """Work until told to stop, then end every child; their jobs wait for the next worker."""
        try:
            while not self.stopping.is_set():
                try:
                    self.step()
                except HardyParcelError as error:  # a busy or full store must not end the worker
                    print(f"worker: {error}", file=sys.stderr)
                self.stopping.wait(TICK_S)
        finally:
            for running in self._running.values():
                running.child.kill()
                running.child.wait()
                self._clean(running.job, running.spec)
                jobs.put_back(self._database, running.job.id, self._owner)
            if self._spare:
                self._spare.kill()
                self._spare.wait()

    def step(self) -> None:
        """One round: scan, take jobs, follow children, keep leases."""
        now = time.monotonic()
        if now - self._last_scan >= SCAN_S:
            self._last_scan = now
            self.scan_inbox()
        if self._watch.changed() or now - self._last_look >= LOOK_S:
            self._last_look = now
            for job, spec in jobs.drop_cancelled(self._database) if jobs.any_cancelled(self._database) else []:
                self._clean(job, spec)
            for kind in jobs.kinds_with_work(self._database) - set(self._running):
                self._take(kind)
        for kind, running in list(self._running.items()):
            self._follow(running)
            if running.ended:
                del self._running[kind]
                self._last_look = 0.0
        if self._running and now - self._last_renew >= RENEW_S:
            self._last_renew = now
            jobs.renew(self._database, self._owner)
            for job_id in jobs.asked_to_stop(self._database, self._owner):
                self._stop(job_id)

    def scan_inbox(self) -> None:
        """Notice files that came, changed or went. A file is taken once its size has stood still for a scan."""
        known = masters.known(self._database)
        seen: dict[str, tuple[int, int]] = {}
        for path in sorted(self._places.inbox.iterdir()):
            if path.suffix.lower() in MASTER_ENDINGS and not path.name.startswith(".") and is_text(path.name):
                with suppress(OSError):
                    if path.is_file():
                        stat = path.stat()
                        seen[str(path)] = (stat.st_size, stat.st_mtime_ns)
        for name, state in seen.items():
            try:
                self._notice(Path(name), state, known.get(name))
            except (OSError, ValueError, HardyParcelError) as error:  # one file must not keep the others from the shelf
                print(f"worker: {Path(name).name!r} could not be taken: {error}", file=sys.stderr)
        self._sizes = seen
        for name, row in known.items():
            if row["state"] != MasterState.GONE and not Path(name).exists():
                masters.set_gone(self._database, row["id"])

    def _notice(self, path: Path, state: tuple[int, int], row: Row | None) -> None:
        before, same = self._sizes.get(str(path)), row is not None and (row["size_bytes"], row["modified_ns"]) == state
        if before == state and (row is None or not same or row["arriving"] or row["state"] == MasterState.GONE):
            self.open_master(path)
        elif before is not None and before != state and not same:
            masters.add(self._database, path, arriving=True)

    def open_master(self, path: Path) -> None:
        """Put a file on the shelf and queue its reading."""
        queue_inspect(self._database, masters.add(self._database, path), path)

    def _take(self, kind: JobKind) -> None:
        claimed = jobs.claim(self._database, kind, self._owner)
        if claimed is None:
            return
        job, spec = claimed
        if job.attempts > MOST_ATTEMPTS.get(kind, MOST_READINGS):
            todo = "The master may be damaged, or memory may be short; export it again or close other programs."
            self._fail(job, UnreadableMaster("This job ended without a word several times.", todo, code="keeps_dying").problem())
            return
        self._clean(job, spec)
        scratch = self._scratch(job)
        task = {**spec, "kind": str(kind), "job_id": job.id, "scratch": str(scratch)}
        if kind is JobKind.STRIP:
            task["strips"] = str(self._places.cache / "strips")
            task["destination"] = next(iter(shipped_destinations().values())).model_dump(mode="json")
        if kind is JobKind.PACK:
            heard = masters.survey(self._database, spec["facts"]["content_id"]).sound
            task["heard"] = heard.model_dump(mode="json") if heard else None
        if kind is JobKind.CURVE and not self._complete_curve(task):
            jobs.end(self._database, job.id, self._owner, JobState.DONE, result={"rehearsed": 0})
            return
        scratch.mkdir(parents=True, exist_ok=True)
        running = Running(job=job, spec=spec, child=self._start(task))
        threading.Thread(target=_read, args=(running,), daemon=True).start()
        self._running[kind] = running

    def _start(self, task: dict[str, Any]) -> subprocess.Popen:
        """Give the task to the child that waits with everything loaded, and let the next one load."""
        child = self._spare if self._spare and self._spare.poll() is None else new_child()
        with suppress(OSError):
            child.stdin.write(json.dumps(task) + "\n")
            child.stdin.flush()
        self._spare = new_child()
        return child

    def _complete_curve(self, task: dict[str, Any]) -> bool:
        """Add what is already known, so that only missing points are rehearsed; False when nothing is missing."""
        plan = Plan.model_validate(task["plan"])
        key = plan.picture_key()
        done = {r.target_bps for r in results.rehearsals(self._database, key)}
        task["rates"] = [rate for rate in task["rates"] if rate not in done]
        task["folder"] = str(self._places.rehearsals(key))
        looked_through = masters.survey(self._database, task["facts"]["content_id"]).picture
        if looked_through:
            task["difficulty"] = [second.model_dump(mode="json") for second in looked_through.difficulty]
        known = results.perfect(self._database, plan.way_key())
        if known:
            task["reel"], task["perfect"] = (part.model_dump(mode="json") for part in known)
        return bool(task["rates"]) or not known

    def _follow(self, running: Running) -> None:
        latest: JobProgress | None = None
        ended = running.child.poll() is not None
        while True:
            try:
                event = running.events.get(timeout=1.0) if ended and not running.ended else running.events.get_nowait()
            except queue.Empty:
                break
            if event is None:
                running.ended = True
                break
            running.heard = time.monotonic()
            if "progress" in event:
                latest = JobProgress.model_validate(event["progress"])
            else:
                self._keep(running, event)
        if latest and not running.ended:
            jobs.set_progress(self._database, running.job.id, self._owner, latest)
        if running.stop_sent and time.monotonic() - running.stop_sent > CANCEL_GRACE_S:
            running.child.kill()
        now = time.monotonic()
        limit = LIMITS_S.get(running.job.kind)
        if (limit and now - running.began > limit) or now - running.heard > SILENCE_LIMIT_S:
            what, todo = "Reading this file took too long, so it was given up.", "It may be damaged; export it again."
            running.outcome = {"problem": UnreadableMaster(what, todo, code="too_slow").problem().model_dump(mode="json")}
            running.child.kill()
        if running.ended:
            running.child.wait()
            self._end(running)
            shutil.rmtree(self._scratch(running.job), ignore_errors=True)

    def _keep(self, running: Running, event: dict[str, Any]) -> None:
        if "point" in event:
            found = Rehearsal.model_validate(event["point"]["rehearsal"])
            results.keep_rehearsal(self._database, found, Path(event["point"]["folder"]))
        elif "perfect" in event:
            perfect = PerfectUpload.model_validate(event["perfect"]["perfect"])
            results.keep_perfect(self._database, Reel.model_validate(event["perfect"]["reel"]), perfect)
        elif "strip" in event:
            masters.set_strip(self._database, running.job.master_id, event["strip"])
        elif "sound" in event:
            content = running.spec["facts"]["content_id"]
            masters.keep_sound(self._database, content, SoundSurvey.model_validate(event["sound"]), None)
        elif "result" in event or "problem" in event:
            running.outcome = event

    def _end(self, running: Running) -> None:
        job, outcome = running.job, running.outcome or {}
        if "result" in outcome:
            self._succeed(running, outcome["result"])
        elif outcome.get("problem", {}).get("code") == "cancelled" or running.stop_sent:
            jobs.end(self._database, job.id, self._owner, JobState.CANCELLED)
            self._clean(job, running.spec)
        elif "problem" in outcome:
            self._fail(job, Problem.model_validate(outcome["problem"]))
            self._clean(job, running.spec)
        else:  # the child died without a word: killed, out of memory, or a crash inside a codec
            self._clean(job, running.spec)
            jobs.put_back(self._database, job.id, self._owner)

    def _succeed(self, running: Running, result: dict[str, Any]) -> None:
        job = running.job
        if job.kind is JobKind.CHECK:
            masters.keep_picture(self._database, running.spec["facts"]["content_id"], Survey.model_validate(result["survey"]))
            jobs.end(self._database, job.id, self._owner, JobState.DONE)
        elif job.kind is JobKind.LISTEN:
            heard = SoundSurvey.model_validate(result["sound"])
            levels = SoundLevels.model_validate(result["levels"])
            masters.keep_sound(self._database, running.spec["facts"]["content_id"], heard, result["loudness"], levels)
            jobs.end(self._database, job.id, self._owner, JobState.DONE)
        elif job.kind is JobKind.INSPECT:
            facts = MasterFacts.model_validate(result["facts"])
            masters.set_ready(self._database, job.master_id, facts)
            path = Path(running.spec["path"])
            spec = {"path": str(path), "facts": facts.model_dump(mode="json")}
            jobs.add(self._database, JobKind.STRIP, title=f"Pictures of {path.name}", spec=spec, master_id=job.master_id)
            queue_checks(self._database, job.master_id, path, facts)
            jobs.end(self._database, job.id, self._owner, JobState.DONE)
        elif job.kind is JobKind.PACK:
            receipt = Receipt.model_validate(result["receipt"])
            plan = Plan.model_validate(running.spec["plan"])
            results.keep_receipt(
                self._database, job_id=job.id, master_id=job.master_id, plan=plan, receipt=receipt,
                master_name=running.spec["facts"]["name"],
            )
            if plan.video and not plan.copied:
                results.keep_speed(self._database, plan, receipt.pictures / max(0.001, receipt.encode_s))
            jobs.end(self._database, job.id, self._owner, JobState.DONE, result={"file_name": receipt.file_name})
        else:
            jobs.end(self._database, job.id, self._owner, JobState.DONE, result=result)

    def _fail(self, job: Job, problem: Problem) -> None:
        if job.kind is JobKind.INSPECT:
            masters.set_unreadable(self._database, job.master_id, problem)
        elif job.kind in (JobKind.STRIP, JobKind.CHECK, JobKind.LISTEN):
            masters.set_problem(self._database, job.master_id, problem)
        jobs.end(self._database, job.id, self._owner, JobState.FAILED, problem=problem)

    def _scratch(self, job: Job) -> Path:
        return self._places.cache / "scratch" / job.id

    def _clean(self, job: Job, spec: dict[str, Any]) -> None:
        """Remove what an earlier try of this job may have left."""
        shutil.rmtree(self._scratch(job), ignore_errors=True)
        if job.kind is JobKind.PACK:
            with suppress(OSError):
                for left in Path(spec["folder"]).glob(f"{partial_path(Path(), job.id).name}*"):
                    left.unlink(missing_ok=True)
        if job.kind is JobKind.CURVE:
            key = Plan.model_validate(spec["plan"]).picture_key()
            done = {str(r.target_bps) for r in results.rehearsals(self._database, key)}
            folder = self._places.rehearsals(key)
            for part in folder.iterdir() if folder.is_dir() else ():
                if part.is_dir() and part.name.isdigit() and part.name not in done:
                    shutil.rmtree(part, ignore_errors=True)

    def _stop(self, job_id: str) -> None:
        for running in self._running.values():
            if running.job.id == job_id and running.stop_sent is None:
                running.stop_sent = time.monotonic()
                with suppress(OSError):
                    running.child.stdin.write("cancel\n")
                    running.child.stdin.flush()


def queue_inspect(database: Database, master_id: str, path: Path) -> None:
    """Queue the reading of a master."""
    jobs.add(database, JobKind.INSPECT, title=f"Reading {path.name}", spec={"path": str(path)}, master_id=master_id)


def queue_checks(database: Database, master_id: str, path: Path, facts: MasterFacts) -> None:
    """Queue what has not been measured of this content: its picture, its sound."""
    known = masters.survey(database, facts.content_id)
    spec = {"path": str(path), "facts": facts.model_dump(mode="json")}
    if known.picture is None and not jobs.open_like(database, JobKind.CHECK, master_id):
        jobs.add(database, JobKind.CHECK, title=f"Checking {path.name}", spec=spec, master_id=master_id)
    heard = known.sound is not None and known.sound.complete
    if facts.audio and not heard and not jobs.open_like(database, JobKind.LISTEN, master_id):
        jobs.add(database, JobKind.LISTEN, title=f"Listening to {path.name}", spec=spec, master_id=master_id)


def new_child() -> subprocess.Popen:
    """A child process that loads and then waits for its task; its standard input stays open and is its life line."""
    return subprocess.Popen(
        [sys.executable, "-m", "hardy_parcel.work.child"],
        stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True, encoding="utf-8",
    )


def _read(running: Running) -> None:
    for line in running.child.stdout:
        with suppress(json.JSONDecodeError):
            running.events.put(json.loads(line))
    running.events.put(None)


def main() -> int:
    worker = Worker(Places.of(Path(sys.argv[1])))

    def watch() -> None:
        sys.stdin.read()
        worker.stopping.set()

    threading.Thread(target=watch, daemon=True).start()
    worker.run()
    return 0


if __name__ == "__main__":
    sys.exit(main())
