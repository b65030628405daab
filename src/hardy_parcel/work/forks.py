"""A process that has everything loaded and gives out copies of itself: a child is there in hundredths of a second instead of seconds.

    python -m hardy_parcel.work.forks FD [--compares]

FD is one end of a Unix socket; see `processes.nursery` for the other. With --compares it also loads what comparing pictures needs,
which takes half a second, and some seconds more the first time on a machine.
"""

from __future__ import annotations

import gc
import json
import os
import signal
import socket
import sys
import time
import traceback
from contextlib import suppress

from ..media.likeness import compiled_loops
from . import child

MOST_BYTES = 65_536
BURIAL_S = 1.0


def serve(wishes: socket.socket) -> None:
    """Answer wishes, one message each, until the other side is gone.

    {"do": "fork", "scratch", "cwd"} with the ends of three pipes, for standard input, output and error: its process id
    {"do": "alive", "pid"}: whether it still runs
    {"do": "bury", "pid"}: it is to end; until it has, nobody else is given its process id
    """
    ending = set[int]()
    while True:
        data, ends, _, _ = socket.recv_fds(wishes, MOST_BYTES, 3)
        if not data:
            return
        wish, answer = json.loads(data), 0
        if wish["do"] == "fork":
            answer = os.fork()
            if not answer:
                wishes.close()
                _become(wish, ends)
            for end in ends:
                os.close(end)
        elif wish["do"] == "alive":
            with suppress(ChildProcessError):
                answer = int(os.waitid(os.P_PID, wish["pid"], os.WEXITED | os.WNOHANG | os.WNOWAIT) is None)
        elif wish["do"] == "bury":
            ending.add(wish["pid"])
        ending = {pid for pid in ending if not _gone(pid, BURIAL_S if wish["do"] == "bury" else 0.0)}
        with suppress(OSError):
            wishes.send(str(answer).encode())


def _gone(pid: int, patience_s: float) -> bool:
    """Whether a copy has ended and the system holds nothing of it any more; one that a dead disk holds up is asked again later."""
    ends = time.monotonic() + patience_s
    while True:
        try:
            if os.waitpid(pid, os.WNOHANG)[0]:
                return True
        except ChildProcessError:
            return True
        if time.monotonic() >= ends:
            return False
        time.sleep(0.002)


def _become(wish: dict[str, str], ends: list[int]) -> None:
    """Go on as a child, and never return."""
    code = 1
    try:
        signal.signal(signal.SIGINT, signal.default_int_handler)
        os.setsid()
        for number, end in enumerate(ends):
            os.dup2(end, number)
            os.close(end)
        os.chdir(wish["cwd"])
        code = child.main(wish["scratch"])
    except SystemExit as ended:
        code = int(ended.code or 0)
    except BaseException:
        traceback.print_exc()
    finally:
        with suppress(Exception):
            sys.stdout.flush()
        os._exit(code)


def main() -> int:
    signal.signal(signal.SIGINT, signal.SIG_IGN)  # an interrupt from the keyboard is for whoever started this
    if "--compares" in sys.argv:
        compiled_loops()
    gc.freeze()  # what is loaded stays shared
    with socket.socket(fileno=int(sys.argv[1])) as wishes:
        serve(wishes)
    return 0


if __name__ == "__main__":
    sys.exit(main())
