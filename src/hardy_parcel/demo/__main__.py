"""python -m hardy_parcel.demo FOLDER: make the Skerry Point masters there."""

from __future__ import annotations

import os
import sys
import threading
from pathlib import Path

from .make import make_missing


def _end_with_parent() -> None:
    """Leave when the program that started this one is gone: its end of our standard input closes."""
    sys.stdin.buffer.read()
    os._exit(0)


if __name__ == "__main__":
    if not sys.stdin.isatty():
        threading.Thread(target=_end_with_parent, daemon=True).start()
    os.nice(10)
    make_missing(Path(sys.argv[1]), lambda text: print(text, flush=True))
    os._exit(0)  # the thread above still holds standard input, which an ordinary exit would wait for
