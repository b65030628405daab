"""The one folder for scratch data: each process has a place of its own in it, and removes what a killed one left.

<root>/<name>-<random>/            everything that the process and its children write for a while
<root>/<name>-<random>/.lock       held as long as the process lives
<root>/<name>-<random>/.elsewhere  how names of unfinished files in other folders begin, one a line: they go with it
"""

from __future__ import annotations

import atexit
import fcntl
import os
import shutil
import tempfile
import time
from contextlib import suppress
from pathlib import Path

LOCK, ELSEWHERE = ".lock", ".elsewhere"
BEING_MADE_S = 60.0


class Scratch:
    """The place of one process. Once it is used by default, all temporary files of the process and of what it starts lie there."""

    def __init__(self, root: Path, name: str) -> None:
        """Make it, after what killed processes left in `root` is removed."""
        sweep(root)
        root.mkdir(parents=True, exist_ok=True, mode=0o700)
        self.folder = Path(tempfile.mkdtemp(prefix=f"{name}-", dir=root))
        self._lock = os.open(self.folder / LOCK, os.O_RDWR | os.O_CREAT, 0o600)  # not handed on to children
        fcntl.flock(self._lock, fcntl.LOCK_EX)
        self._before: str | None = None
        atexit.register(self.close)

    def use_by_default(self) -> Scratch:
        """Let every temporary file of this process, and of those that it starts, lie here."""
        self._before = os.environ.get("TMPDIR")
        os.environ["TMPDIR"] = tempfile.tempdir = str(self.folder)
        return self

    def elsewhere(self, beginning: Path) -> None:
        """Note that files whose names begin like this one are unfinished: whoever finds this process killed removes them."""
        with open(self.folder / ELSEWHERE, "a", encoding="utf-8") as file:
            file.write(f"{beginning}\n")

    def close(self) -> None:
        """Remove it. Unfinished files elsewhere are left to those who write them: they clear up when they end in order."""
        atexit.unregister(self.close)
        if tempfile.tempdir == str(self.folder):
            tempfile.tempdir = None
            os.environ.pop("TMPDIR", None)
            if self._before is not None:
                os.environ["TMPDIR"] = self._before
        shutil.rmtree(self.folder, ignore_errors=True)
        with suppress(OSError):
            os.close(self._lock)


def sweep(root: Path) -> list[Path]:
    """Remove the places of processes that are gone, and what they left elsewhere; the places that went."""
    gone = []
    with suppress(OSError):
        for folder in sorted(root.iterdir()):
            if folder.is_dir() and _is_left(folder):
                _remove_elsewhere(folder)
                shutil.rmtree(folder, ignore_errors=True)
                gone.append(folder)
    return gone


def _is_left(folder: Path) -> bool:
    """Whether nobody holds the lock of a place. One without a lock is just being made, unless it is old."""
    try:
        lock = os.open(folder / LOCK, os.O_RDWR)
    except FileNotFoundError:
        return time.time() - folder.stat().st_mtime > BEING_MADE_S
    except OSError:
        return False
    try:
        fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        return False
    finally:
        os.close(lock)
    return True


def _remove_elsewhere(folder: Path) -> None:
    with suppress(OSError, UnicodeDecodeError):
        for line in (folder / ELSEWHERE).read_text(encoding="utf-8").splitlines():
            beginning = Path(line)
            with suppress(OSError):
                for path in beginning.parent.iterdir():
                    if path.name.startswith(beginning.name):
                        path.unlink(missing_ok=True)


def users_root() -> Path:
    """Where commands that have no data folder put their scratch data: the account's own cache (XDG Base Directory Specification)."""
    return Path(os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache") / "hardy-parcel" / "scratch"
