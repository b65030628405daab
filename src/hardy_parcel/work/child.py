"""The child process of one job: its task on standard input, events as JSON lines on standard output.

    python -m hardy_parcel.work.child
    stdin   first line the task; later "cancel"; its end means that the worker is gone
    stdout  {"progress": …} and what the task sends on the way, then {"result": …} or {"problem": …}

A child may wait for its task with everything loaded, so that a job starts at once.
"""

from __future__ import annotations

import json
import os
import resource
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from typing import Any

from ..core.errors import Cancelled, HardyParcelError, UnreadableMaster
from ..store.jobs import JobProgress
from .tasks import TASKS

EVERY_S = 0.2
READING_MEMORY, WORKING_MEMORY = 6 << 30, 16 << 30
"""Address space for one child: reading a file of unknown origin, and encoding large pictures with look-ahead."""
READING = {"inspect", "strip", "check", "listen", "look"}


class Voice:
    """Speaks to the worker: progress a few times a second, everything else at once; notices a wish to stop."""

    def __init__(self) -> None:
        self._stop = threading.Event()
        self._lock = threading.Lock()
        self._last = 0.0

    def listen(self) -> None:
        """Follow standard input until it ends, which ends this process too."""
        for line in sys.stdin:
            if line.strip() == "cancel":
                self._stop.set()
        os._exit(3)

    def say(self, kind: str, value: Any) -> None:
        """Send one event."""
        with self._lock:
            sys.stdout.write(json.dumps({kind: value}) + "\n")
            sys.stdout.flush()

    def fail(self, error: HardyParcelError) -> None:
        """Send the error that ended the task."""
        self.say("problem", error.problem().model_dump(mode="json"))

    def progress(self, progress: JobProgress) -> None:
        """Send progress if it is time; raises Cancelled when a stop was asked for."""
        if self._stop.is_set():
            raise Cancelled("Stopped.", "Nothing was kept of the unfinished part.")
        now = time.monotonic()
        if now - self._last >= EVERY_S:
            self._last = now
            self.say("progress", progress.model_dump(mode="json"))


def run(task: dict[str, Any], voice: Voice, tasks: dict[str, Callable] = TASKS) -> int:
    """Run one task; the exit code is 0 when it ended with a result."""
    try:
        voice.say("result", tasks[task["kind"]](task, voice))
        return 0
    except HardyParcelError as error:
        voice.fail(error)
    except MemoryError:
        what, todo = "This file needs more memory than one job may have.", "Export it again at a usual size."
        voice.fail(UnreadableMaster(what, todo, code="too_large"))
    except Exception as error:
        print(f"{type(error).__name__}: {error}", file=sys.stderr)
        import traceback

        traceback.print_exc()
        if task["kind"] in READING:
            voice.fail(UnreadableMaster("This file cannot be read: it is not made as films are.", "It may be damaged; export it again."))
            return 1
        voice.fail(HardyParcelError("Something went wrong on our side.", "Try again; the details are in the worker's log."))
    return 1


def confine(task: dict[str, Any]) -> None:
    """Limits of this process: memory, no core dumps, a lower priority for long work, temporary files where they are cleared."""
    reading = task["kind"] in READING
    memory = READING_MEMORY if reading else WORKING_MEMORY
    resource.setrlimit(resource.RLIMIT_AS, (memory, memory))
    resource.setrlimit(resource.RLIMIT_CORE, (0, 0))
    if not reading:
        os.nice(5)
    elif task["kind"] in ("check", "listen"):
        os.nice(2)
    if task.get("scratch"):
        os.environ["TMPDIR"] = tempfile.tempdir = task["scratch"]


def main() -> int:
    line = sys.stdin.readline()
    if not line:
        return 0
    task = json.loads(line)
    confine(task)
    voice = Voice()
    threading.Thread(target=voice.listen, daemon=True).start()
    return run(task, voice)


if __name__ == "__main__":
    code = main()
    sys.stdout.flush()
    os._exit(code)
