"""The inbox: files that come, change and go. The system says when something moved there; a look now and then finds what it did not say."""

from __future__ import annotations

import logging
import threading
import time
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from sqlite3 import Row

import watchfiles

from ..core.errors import FolderUnusable, HardyParcelError
from ..store import masters, settings
from ..store.database import Database
from ..store.masters import MasterState
from ..store.places import MASTER_ENDINGS, Places, is_text

log = logging.getLogger(__name__)
Size = tuple[int, int]
"""Bytes, and when the file was modified, in ns."""
STEP_MS = 1000  # how often the package itself wakes up
STIRRED_S, QUIET_S = 1.0, 20.0
"""Between two looks while something moves there, and while nothing does: films outside of the inbox go unseen, and some drives of a
network say nothing."""


class Inbox:
    """Watches a folder; what stands still from one look to the next is taken."""

    def __init__(self, database: Database, places: Places, take: Callable[[Path], None]) -> None:
        self._database, self._places, self._folder, self._take = database, places, places.inbox, take
        self._sizes: dict[str, Size] = {}
        self._refused: set[str] = set()
        self._stirred, self._closed = threading.Event(), threading.Event()
        self._told, self._still, self._scanned = False, False, -QUIET_S

    def watch(self) -> None:
        """Let the system say when something moves in the folder, until `close`. Where it cannot, the looks stay frequent."""
        self._told = True
        threading.Thread(target=self._listen, name="inbox", daemon=True).start()

    def close(self) -> None:
        """Stop listening."""
        self._closed.set()

    def due(self) -> bool:
        """Whether it is time for another look."""
        stirs = self._stirred.is_set() or not self._still or not self._told
        return time.monotonic() - self._scanned >= (STIRRED_S if stirs else QUIET_S)

    def _listen(self) -> None:
        try:
            said = watchfiles.watch(
                self._folder, recursive=False, watch_filter=None, debounce=STEP_MS, step=STEP_MS, stop_event=self._closed,
                raise_interrupt=False,
            )
            for _ in said:
                self._stirred.set()
        except (OSError, RuntimeError):  # none left to give, or a folder that cannot be watched
            log.warning("the system does not say what moves in the inbox; it is looked at every second instead", exc_info=True)
        self._told = False

    def scan(self) -> None:
        """Notice files that came, changed or went. One that cannot be taken does not keep the others from the shelf."""
        self._stirred.clear()
        self._scanned = time.monotonic()
        known = masters.known(self._database)
        seen = self._seen()
        for name, state in seen.items():
            try:
                self._notice(Path(name), state, known.get(name))
            except (OSError, ValueError, HardyParcelError):
                if name not in self._refused:
                    log.exception("%r could not be taken from the inbox", name)
                self._refused.add(name)
        self._still, self._sizes = seen == self._sizes, seen
        for name, row in known.items():
            if row["state"] != MasterState.GONE and not Path(name).exists():
                masters.set_gone(self._database, row["id"])

    def _seen(self) -> dict[str, Size]:
        found: dict[str, Size] = {}
        for path in sorted(self._folder.iterdir()):
            if path.suffix.lower() in MASTER_ENDINGS and not path.name.startswith(".") and is_text(path.name):
                with suppress(OSError, FolderUnusable):
                    if path.is_symlink():  # as far as the creator allowed, and no further
                        self._places.allow(settings.load(self._database).folders)
                        self._places.within(path)
                    if path.is_file():
                        stat = path.stat()
                        found[str(path)] = (stat.st_size, stat.st_mtime_ns)
        return found

    def _notice(self, path: Path, state: Size, row: Row | None) -> None:
        before, same = self._sizes.get(str(path)), row is not None and (row["size_bytes"], row["modified_ns"]) == state
        if before == state and (row is None or not same or row["arriving"] or row["state"] == MasterState.GONE):
            self._take(path)
        elif before is not None and before != state and not same:
            masters.add(self._database, path, arriving=True)
