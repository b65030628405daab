"""Log files: what went wrong on our side leaves a trace there, and nowhere on a screen. Each process has one of its own."""

from __future__ import annotations

import logging
import sys
from logging.handlers import RotatingFileHandler
from pathlib import Path

LARGEST_BYTES, KEPT_FILES = 1_000_000, 3
FORM = "%(asctime)s %(process)d %(levelname)s %(name)s: %(message)s"


def log_to_file(data: Path, who: str, *, verbose: bool = False) -> None:
    """Log warnings and errors of this process into `logs/<who>.log` of the data folder, and with `verbose` more to the terminal too."""
    folder = data / "logs"
    folder.mkdir(parents=True, exist_ok=True)
    root = logging.getLogger()
    logging.raiseExceptions = False  # a full disk takes no log, and the terminal is not the place for that
    file = RotatingFileHandler(folder / f"{who}.log", maxBytes=LARGEST_BYTES, backupCount=KEPT_FILES, delay=True)
    file.setLevel(logging.WARNING)
    handlers: list[logging.Handler] = [file]
    if verbose:
        handlers.append(logging.StreamHandler(sys.stderr))
    for handler in handlers:
        handler.setFormatter(logging.Formatter(FORM))
        root.addHandler(handler)
    root.setLevel(logging.INFO if verbose else logging.WARNING)
