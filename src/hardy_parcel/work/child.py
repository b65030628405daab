"""The child process: takes tasks from standard input, says what comes of them on standard output (see `processes.client`)."""

from __future__ import annotations

import logging
import os
import queue
import sys
import threading
import time
from collections.abc import Callable, Mapping
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..core.errors import Cancelled, HardyParcelError, UnreadableMaster
from ..core.progress import JobProgress
from ..core.values import Model
from ..media.likeness import compiled_loops
from ..processes.confine import READING, confine
from ..processes.messages import TASK, Failed, Outcome, ProgressMade, Task
from .tasks import TASKS

EVERY_S = 0.2
COMPARING = frozenset(
    {"rehearse", "probe", "pack", "look", "ladder", "film_look", "compare", "handoff", "arrive", "returned"}
)
"""Kinds of tasks that compare pictures."""
log = logging.getLogger(__name__)


class Voice:
    """Speaks to whoever started this child: progress a few times a second, everything else at once; notices a wish to stop."""

    def __init__(self) -> None:
        self._stop, self._may_go_on = threading.Event(), threading.Event()
        self._may_go_on.set()
        self.rested_s = 0.0
        self._lock = threading.Lock()
        self._last = 0.0
        self.tasks: queue.Queue[str] = queue.Queue()

    def listen(self) -> None:
        """Follow standard input until it ends, which ends this process too."""
        for line in sys.stdin:
            wish = line.strip()
            if wish == "cancel":
                self._stop.set()
                self._may_go_on.set()
            elif wish == "rest":
                self._may_go_on.clear()
            elif wish == "go on":
                self._may_go_on.set()
            else:
                self.rested_s = 0.0
                self._stop.clear()  # here, in the order of the lines: a wish to stop that follows must not be lost
                self._may_go_on.set()
                self.tasks.put(line)
        os._exit(3)

    def say(self, message: Model) -> None:
        """Send one message."""
        with self._lock:
            sys.stdout.write(message.model_dump_json() + "\n")
            sys.stdout.flush()

    def due(self) -> bool:
        """Whether it is time for progress. Rests here while that is wished, since an encoder that gets no pictures takes no processor.

        Raises Cancelled when a stop was asked for. `rested_s` tells how long was rested in all.
        """
        if not self._may_go_on.is_set():
            began = time.monotonic()
            self._may_go_on.wait()
            self.rested_s += time.monotonic() - began
        if self._stop.is_set():
            raise Cancelled("Stopped.", "Nothing was kept of the unfinished part.")
        return time.monotonic() - self._last >= EVERY_S

    def progress(self, progress: JobProgress) -> None:
        """Send progress if it is due."""
        if self.due():
            self._last = time.monotonic()
            self.say(ProgressMade(progress=progress))


Tasks = Mapping[str, Callable[[Any, Any], Outcome]]


def outcome_of(task: Task, voice: Any, tasks: Tasks = TASKS) -> Outcome | Failed:
    """What comes of one task: its outcome, or what failed in words fit to be shown."""
    try:
        return tasks[task.kind](task, voice)
    except HardyParcelError as error:
        return Failed(problem=error.problem())
    except MemoryError:
        what, todo = "This file needs more memory than one job may have.", "Export it again at a usual size."
        return Failed(problem=UnreadableMaster(what, todo, code="too_large").problem())
    except Exception:
        log.exception("the task %s failed", task.kind)
        if task.kind in READING:
            what, todo = "This file cannot be read: it is not made as films are.", "It may be damaged; export it again."
            return Failed(problem=UnreadableMaster(what, todo).problem())
        ours = HardyParcelError("Something went wrong on our side.", "Try again; the details are in the log.")
        return Failed(problem=ours.problem())


def main(scratch: str) -> int:
    """Work on what is told on standard input, with temporary files in a folder of its own, until that ends.

    The first task decides what this process can reach; only then are threads started, so that it holds for all of them.
    """
    logging.basicConfig(stream=sys.stderr, format="%(asctime)s child %(process)d %(name)s: %(message)s")
    voice = Voice()
    confined = False
    while line := voice.tasks.get() if confined else sys.stdin.readline():
        task = _read(line, voice)
        if task is None:
            continue
        if not confined:
            if task.kind in COMPARING:
                compiled_loops()
            confine(task, Path(scratch))
            threading.Thread(target=voice.listen, daemon=True).start()
            confined = True
        voice.say(outcome_of(task, voice))
    return 3


def _read(line: str, voice: Voice) -> Task | None:
    """A task from its line; None for what is no task, which is said."""
    try:
        return TASK.validate_json(line)
    except ValidationError:
        log.exception("a task could not be read")
        voice.say(Failed(problem=HardyParcelError("This work could not be understood.", "Start it again.").problem()))
        return None
