"""Runs tasks in child processes and waits for them: how the command line reads, rehearses and packs."""

from __future__ import annotations

import json
import subprocess
import sys
import tempfile
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from typing import Any

from ..core.errors import Problem, UnreadableMaster

GRACE_S = 4.0
SILENCE_LIMIT_S = 300.0
"""Longer than this without a word and a child has hung."""
WATCH_S = 0.2

Hear = Callable[[str, Any], None]


class Child:
    """A child process that loads at once and then runs one task. A context manager; leaving it ends the child.

    A child that is left in the middle is asked to stop, so that it can clear up, and killed when it does not. It has a
    session of its own: an interrupt from the keyboard reaches only the parent.
    """

    def __init__(self) -> None:
        self._busy = False
        self._scratch = tempfile.TemporaryDirectory(prefix="hardy-parcel-")
        self._process = subprocess.Popen(
            [sys.executable, "-m", "hardy_parcel.work.child"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True,
            encoding="utf-8", start_new_session=True,
        )

    def __enter__(self) -> Child:
        return self

    def __exit__(self, *_: object) -> None:
        if self._busy:
            with suppress(OSError):  # its input stays open: at its end the child would leave without clearing up
                self._process.stdin.write("cancel\n")
                self._process.stdin.flush()
            with suppress(subprocess.TimeoutExpired):
                self._process.wait(timeout=GRACE_S)
        self._process.kill()
        self._process.wait()
        with suppress(OSError):
            self._process.stdin.close()
        self._process.stdout.close()
        self._scratch.cleanup()

    def run(self, task: dict[str, Any], *, hear: Hear = lambda kind, value: None, limit_s: float | None = None) -> dict[str, Any]:
        """The result of the task; `hear` gets what it says on the way.

        Its trouble is raised here. A child that dies, takes longer than `limit_s`, or says nothing for five minutes is
        an UnreadableMaster.
        """
        self._busy = True
        late, over = threading.Event(), threading.Event()
        began = heard = time.monotonic()

        def watch() -> None:
            while not over.wait(WATCH_S):
                now = time.monotonic()
                if now - heard > SILENCE_LIMIT_S or (limit_s is not None and now - began > limit_s):
                    late.set()
                    self._process.kill()
                    return

        threading.Thread(target=watch, daemon=True).start()
        try:
            with suppress(OSError):  # it may have died while it waited; then it says nothing either
                self._process.stdin.write(json.dumps({**task, "scratch": self._scratch.name}) + "\n")
                self._process.stdin.flush()
            for line in self._process.stdout:
                heard = time.monotonic()
                for kind, value in json.loads(line).items():
                    if kind == "result":
                        self._busy = False
                        return value
                    if kind == "problem":
                        self._busy = False
                        raise Problem.model_validate(value).error()
                    hear(kind, value)
        finally:
            over.set()
        self._busy = False
        if late.is_set():
            raise UnreadableMaster("Reading this file took too long, so it was given up.", "Export it again.", code="too_slow")
        raise UnreadableMaster(
            "This file brought its reader down.", "It is damaged, or made to do harm; export it again.", code="reader_died"
        )


def in_child(task: dict[str, Any], *, hear: Hear = lambda kind, value: None, limit_s: float | None = None) -> dict[str, Any]:
    """The result of one task in a child of its own; see `Child.run`."""
    with Child() as child:
        return child.run(task, hear=hear, limit_s=limit_s)
