"""A queue that is left alone, and what goes wrong meanwhile.  python -m benchmarks.soak [--faults 200] [--seed 1]

A real worker packs a made film again and again while processes are killed at random moments, by preference just before and after a file
gets its name, the service stops and starts, folders go away and come back, for which a parcel waits, and jobs are stopped, rest and are
asked for again. After each fault the job must come to its one right end by itself; at the end every file must have exactly one receipt with
its checksum, and nothing unfinished may lie about. Prints a table of faults, how often each was done and whether all held; exits with 1
where any did not.
"""

from __future__ import annotations

import argparse
import hashlib
import os
import random
import signal
import subprocess
import sys
import tempfile
import time
from collections import Counter
from collections.abc import Callable, Sequence
from contextlib import suppress
from pathlib import Path

from tests import films

from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.inspect import inspect
from hardy_parcel.processes.messages import PackTask
from hardy_parcel.store import jobs, results
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import Job, JobKind, JobState
from hardy_parcel.store.places import Places

PATIENCE_S = 120.0
OPEN = (JobState.WAITING, JobState.RUNNING)


def _children_of(pid: int) -> list[int]:
    return [int(one) for one in subprocess.run(["pgrep", "-P", str(pid)], capture_output=True, text=True).stdout.split()]


class Soak:
    """One data folder with its worker, and every fault that can be done to them."""

    def __init__(self, folder: Path, dice: random.Random) -> None:
        self.places = Places.of(folder / "data", also=(folder,))
        self.database, self.dice = Database(self.places.database), dice
        self.master = films.film(folder / "Gale.mp4", width=320, height=180, rate=25, seconds=2)
        self.facts = inspect(self.master)
        self.plan = make_plan(self.facts, destination("orrery-wide"), Choices(video_bitrate_bps=300_000, effort="quick", method="encoded"))
        self.out = folder / "out"
        self.out.mkdir()
        self.process = self._start()

    def _start(self) -> subprocess.Popen[bytes]:
        return subprocess.Popen([sys.executable, "-m", "hardy_parcel.work.worker", str(self.places.data)], stdin=subprocess.PIPE)

    def queue(self) -> Job:
        """One more parcel, whose name several want."""
        place = destination("orrery-wide")
        task = PackTask(path=self.master, facts=self.facts, plan=self.plan, destination=place, folder=self.out, file_name="Gale.mp4")
        return jobs.add(self.database, JobKind.PACK, title="Gale", task=task, master_id=None)

    def until(self, seen: Callable[[], object], what: str) -> None:
        """Wait for something; raises AssertionError when it does not come."""
        ends = time.monotonic() + PATIENCE_S
        while not seen():
            if time.monotonic() > ends:
                raise AssertionError(f"waited in vain for {what}")
            time.sleep(0.002)

    def ended(self, job: Job) -> JobState:
        self.until(lambda: jobs.get(self.database, job.id).state not in OPEN, "the job's end")
        return jobs.get(self.database, job.id).state

    def moment(self, job: Job) -> None:
        """Some moment of a job: anywhere in its encode, or just as its file gets its name."""
        if self.dice.random() < 0.5:
            note = f".parcel-{job.id}.partial-ready"
            self.until(lambda: (self.out / note).exists() or jobs.get(self.database, job.id).state not in OPEN, "its naming")
        else:
            self.until(lambda: jobs.get(self.database, job.id).progress or jobs.get(self.database, job.id).state not in OPEN, "its start")
            time.sleep(self.dice.random() * 0.8)

    def children(self) -> list[int]:
        """Job processes, and what they are copies of."""
        near = _children_of(self.process.pid)
        return [*near, *(one for pid in near for one in _children_of(pid))]

    # the faults; each gives the end that is right

    def kill_child(self, job: Job) -> tuple[JobState, ...]:
        for pid in self.children():
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        return (JobState.DONE,)

    def kill_worker(self, job: Job) -> tuple[JobState, ...]:
        self.process.kill()
        self.process.wait()
        self.process = self._start()
        return (JobState.DONE,)

    def kill_both(self, job: Job) -> tuple[JobState, ...]:
        children = self.children()
        self.process.kill()
        for pid in children:
            with suppress(ProcessLookupError):
                os.kill(pid, signal.SIGKILL)
        self.process.wait()
        self.process = self._start()
        return (JobState.DONE,)

    def restart(self, job: Job) -> tuple[JobState, ...]:
        self.stop()
        self.process = self._start()
        return (JobState.DONE,)

    def rest_and_restart(self, job: Job) -> tuple[JobState, ...]:
        jobs.pause(self.database, job.id, paused=True)
        self.kill_worker(job)
        jobs.pause(self.database, job.id, paused=False)
        return (JobState.DONE,)

    def stop_it(self, job: Job) -> tuple[JobState, ...]:
        jobs.ask_cancel(self.database, job.id)
        return JobState.CANCELLED, JobState.DONE  # whichever came first

    def folder_away(self, job: Job) -> tuple[JobState, ...]:
        away = self.out.with_name("away")
        self.out.rename(away)
        time.sleep(self.dice.random())
        away.rename(self.out)
        return (JobState.DONE,)

    def master_changed(self, job: Job) -> tuple[JobState, ...]:
        kept = self.master.read_bytes()
        self.master.write_bytes(kept[: len(kept) // 2])
        state = self.ended(job)
        self.master.write_bytes(kept)
        return (state,) if state in (JobState.DONE, JobState.FAILED) else ()

    def stop(self) -> None:
        if self.process.stdin:
            self.process.stdin.close()
        self.process.wait(timeout=30)

    def broken(self) -> list[str]:
        """What is wrong in the folder and the store now; the worker must have ended everything."""
        kept = {one.receipt.file_name: one.receipt.sha256 for one in results.receipts(self.database)}
        there = {}
        for path in self.out.iterdir():
            with suppress(FileNotFoundError):  # what is cleared up just now
                there[path.name] = hashlib.sha256(path.read_bytes()).hexdigest()
        found = [f"{name} lies about" for name in there if name.startswith(".")]
        found += [f"{name} has no receipt" for name in there if not name.startswith(".") and name not in kept]
        found += [f"{name} is not what its receipt says" for name, digest in kept.items() if there.get(name) not in (digest, None)]
        found += [f"{name} is gone" for name in kept if name not in there]
        done = [job for job in jobs.recent(self.database) if job.state is JobState.DONE]
        found += [f"{job.file_name} is done without a receipt" for job in done if job.file_name not in kept]
        return found


FAULTS: dict[str, Callable[[Soak, Job], tuple[JobState, ...]]] = {
    "the child is killed": Soak.kill_child, "the worker is killed": Soak.kill_worker, "both are killed": Soak.kill_both,
    "an orderly restart": Soak.restart, "killed while it rests": Soak.rest_and_restart, "the job is stopped": Soak.stop_it,
    "the folder goes away for a moment": Soak.folder_away, "the master is shortened": Soak.master_changed,
}


def soak(folder: Path, faults: int, seed: int, names: Sequence[str] = tuple(FAULTS)) -> dict[str, tuple[int, list[str]]]:
    """By fault, how often it was done and what did not hold; each of `names` at least once where there are so many."""
    dice = random.Random(seed)
    work = Soak(folder, dice)
    told: Counter[str] = Counter()
    wrong: dict[str, list[str]] = {name: [] for name in names}
    try:
        for number in range(faults):
            name = names[number] if number < len(names) else dice.choice(names)
            told[name] += 1
            job = work.queue()
            try:
                work.moment(job)
                right = FAULTS[name](work, job)
                state = work.ended(job)
                work.until(lambda: not [one for one in work.broken() if "lies about" in one], "a tidy folder")
                if state not in right:
                    problem = jobs.get(work.database, job.id).problem
                    wrong[name].append(f"ended {state}{f': {problem.what}' if problem else ''}")
            except AssertionError as error:
                wrong[name].append(str(error))
            wrong[name] += work.broken()
    finally:
        work.stop()
    return {name: (told[name], wrong[name]) for name in names}


def main() -> int:
    words = argparse.ArgumentParser()
    words.add_argument("--faults", type=int, default=200)
    words.add_argument("--seed", type=int, default=1)
    asked = words.parse_args()
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        found = soak(Path(scratch), asked.faults, asked.seed)
    print(f"| {asked.faults} faults, seed {asked.seed} | done | all held |\n|---|---|---|")
    for name, (count, wrong) in found.items():
        print(f"| {name} | {count} | {'yes' if not wrong else '; '.join(dict.fromkeys(wrong))} |")
    return 1 if any(wrong for _, wrong in found.values()) else 0


if __name__ == "__main__":
    sys.exit(main())
