"""The one client of child processes: for the worker, for single pictures, and for the command line.

    stdin   a task a line; "cancel" asks the one under way to stop, "rest" to wait until "go on"; its end means that whoever started
            the child is gone
    stdout  messages a line: on the way, then the outcome or what failed

A child is a copy of a process that has everything loaded (see `nursery`). It has a session of its own: an interrupt from the keyboard
reaches only the parent.
"""

from __future__ import annotations

import logging
import queue
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from typing import cast

from pydantic import ValidationError

from ..core.errors import HardyParcelError, UnreadableMaster
from .messages import MESSAGE, OUTCOMES, Failed, Message, OnTheWay, Outcome, Task
from .nursery import forked

log = logging.getLogger(__name__)
GRACE_S = 4.0
SILENCE_LIMIT_S = 300.0
"""Longer than this without a word and a child has hung."""
WATCH_S = 0.2

Hear = Callable[[OnTheWay], None]
ENDED = None
"""What stands in the queue behind the last message of a child that has ended."""


class Child:
    """A child process. A context manager; leaving it ends the child.

    A child that is left in the middle of its work is asked to stop, so that it can clear up, and killed when it does not.
    """

    def __init__(self, within: Path | None = None) -> None:
        """Start a child whose temporary files have a folder of their own, `within` another if one is given."""
        self._scratch = tempfile.TemporaryDirectory(prefix="hardy-parcel-", dir=within)
        self._busy = False
        self.messages: queue.Queue[Message | None] = queue.Queue()
        self._process = forked(self._scratch.name)
        threading.Thread(target=self._read, daemon=True).start()
        threading.Thread(target=self._overhear, daemon=True).start()

    def _read(self) -> None:
        with self._process.stdout as said:
            for line in said:
                with suppress(ValidationError):  # a child that is killed may leave half a line
                    self.messages.put(MESSAGE.validate_json(line))
        self.messages.put(ENDED)

    def _overhear(self) -> None:
        """What a child complains of, its libraries included, goes into the log of whoever started it."""
        with self._process.stderr as complaints:
            for line in complaints:
                log.warning("child %d: %s", self._process.pid, line.rstrip())

    def __enter__(self) -> Child:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    @property
    def pid(self) -> int:
        return self._process.pid

    @property
    def alive(self) -> bool:
        return self._process.alive

    def start(self, task: Task) -> None:
        """Give the child its work; what comes of it comes into `messages`."""
        self._busy = True
        self._write(task.model_dump_json())

    def cancel(self) -> None:
        """Ask the child to stop what it does."""
        self._write("cancel")

    def rest(self) -> None:
        """Ask the child to leave the processor to others until it may go on."""
        self._write("rest")

    def go_on(self) -> None:
        """Let a child that rests go on."""
        self._write("go on")

    def _write(self, line: str) -> None:
        with suppress(OSError, ValueError):  # it may have died; then it says nothing either
            self._process.stdin.write(line + "\n")
            self._process.stdin.flush()

    def kill(self) -> None:
        """End the child at once."""
        self._process.kill()

    def close(self, *, grace_s: float = GRACE_S) -> None:
        """End the child, letting it clear up first if it is at work."""
        if self._busy and self.alive:
            self.cancel()
            self._process.wait(grace_s)
        self._process.bury()
        self._scratch.cleanup()

    def run(self, task: Task, *, hear: Hear = lambda message: None, limit_s: float | None = None) -> Outcome:
        """The outcome of one task; `hear` gets what is said on the way.

        The first task of a child decides which files it can reach: all others must be of the same ones.

        Its trouble is raised here as itself. A child that dies, takes longer than `limit_s`, or says nothing for five minutes is an
        UnreadableMaster.
        """
        self.start(task)
        began = heard = time.monotonic()
        while True:
            try:
                message = self.messages.get(timeout=WATCH_S)
            except queue.Empty:
                now = time.monotonic()
                if now - heard > SILENCE_LIMIT_S or (limit_s is not None and now - began > limit_s):
                    self.kill()
                    raise too_slow() from None
                continue
            heard = time.monotonic()
            if message is ENDED:
                self._busy = False
                raise UnreadableMaster(
                    "This file brought its reader down.", "It is damaged, or made to do harm; export it again.", code="reader_died"
                )
            if isinstance(message, Failed):
                self._busy = False
                raise message.problem.error()
            if isinstance(message, OUTCOMES):
                self._busy = False
                return cast(Outcome, message)
            hear(cast(OnTheWay, message))


def too_slow() -> HardyParcelError:
    """The error of a reading that was given up."""
    return UnreadableMaster("Reading this file took too long, so it was given up.", "Export it again.", code="too_slow")


def in_child(task: Task, *, hear: Hear = lambda message: None, limit_s: float | None = None) -> Outcome:
    """The outcome of one task in a child of its own; see `Child.run`."""
    with Child() as child:
        return child.run(task, hear=hear, limit_s=limit_s)
