"""Where children come from: one process that has everything loaded, and of which each child is a copy."""

from __future__ import annotations

import atexit
import json
import os
import signal
import socket
import subprocess
import sys
import threading
import time
from contextlib import suppress
from dataclasses import dataclass
from typing import TextIO

POLL_S = 0.01
PATIENCE_S = 90.0
"""How long loading may take; who does not answer for so long is started anew."""


@dataclass(slots=True, kw_only=True)
class Forked:
    """A child process and this side's ends of its pipes."""

    pid: int
    stdin: TextIO
    stdout: TextIO
    stderr: TextIO
    buried: bool = False

    @property
    def alive(self) -> bool:
        return not self.buried and bool(_ask({"do": "alive", "pid": self.pid}))

    def kill(self) -> None:
        """End it at once, however it stands."""
        if self.alive:
            with suppress(ProcessLookupError):
                os.kill(self.pid, signal.SIGKILL)

    def wait(self, timeout_s: float) -> bool:
        """Whether it has ended within a time."""
        ends = time.monotonic() + timeout_s
        while self.alive:
            if time.monotonic() > ends:
                return False
            time.sleep(POLL_S)
        return True

    def bury(self) -> None:
        """Kill it, and give back what the system holds of it."""
        self.kill()
        if not self.buried:
            self.buried = True
            _ask({"do": "bury", "pid": self.pid})
        with suppress(OSError, ValueError):
            self.stdin.close()


_lock = threading.Lock()
_line: socket.socket | None = None
_process: subprocess.Popen[bytes] | None = None


def prepare(*, compares: bool = False) -> None:
    """Begin to load what children need, so that the first one is there sooner; with `compares` also what comparing pictures needs."""
    with _lock:
        _opened(*(["--compares"] if compares else []))


def close() -> None:
    """End it; children that are still at work end once their own pipes are closed."""
    with _lock:
        _drop()


def _drop() -> None:
    global _line, _process
    if _line:
        _line.close()
    if _process:
        _process.kill()
        _process.wait()
    _line = _process = None


def forked(scratch: str) -> Forked:
    """A new child; where what it is a copy of has died, another is started first."""
    pipes = [os.pipe() for _ in range(3)]
    theirs = [pipes[0][0], pipes[1][1], pipes[2][1]]
    ours = [pipes[0][1], pipes[1][0], pipes[2][0]]
    try:
        wish: dict[str, object] = {"do": "fork", "scratch": scratch, "cwd": _here()}
        pid = _ask(wish, theirs) or _ask(wish, theirs)
        if not pid:
            raise OSError("no child process could be started")
    except BaseException:
        for end in ours:
            os.close(end)
        raise
    finally:
        for end in theirs:
            os.close(end)
    return Forked(
        pid=pid,
        stdin=open(ours[0], "w", encoding="utf-8", errors="replace"),
        stdout=open(ours[1], encoding="utf-8", errors="replace"),
        stderr=open(ours[2], encoding="utf-8", errors="replace"),
    )


def _here() -> str:
    try:
        return os.getcwd()
    except FileNotFoundError:  # it was removed under us
        return "/"


def _opened(*wanted: str) -> socket.socket:
    global _line, _process
    if _line is None:
        ours, theirs = socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
        _process = subprocess.Popen(
            [sys.executable, "-m", "hardy_parcel.work.forks", str(theirs.fileno()), *wanted],
            pass_fds=[theirs.fileno()],
            stdin=subprocess.DEVNULL,
            stdout=subprocess.DEVNULL,
            start_new_session=True,
            env={**os.environ, "OPENBLAS_NUM_THREADS": "1"},  # threads would not live on in a copy
        )
        theirs.close()
        ours.settimeout(PATIENCE_S)
        _line = ours
        atexit.register(close)
    return _line


def _ask(wish: dict[str, object], ends: list[int] | None = None) -> int:
    """The answer to one wish; 0 where there is nobody to answer any more."""
    with _lock:
        if _line is None and wish["do"] != "fork":
            return 0
        line = _opened()
        with suppress(OSError):
            socket.send_fds(line, [json.dumps(wish).encode()], ends or [])
            if answer := line.recv(64):
                return int(answer)
        _drop()  # it has died
        return 0
