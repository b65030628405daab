"""The inbox: files that come, change and go."""

from __future__ import annotations

import logging
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from sqlite3 import Row

from ..core.errors import FolderUnusable, HardyParcelError
from ..store import masters, settings
from ..store.database import Database
from ..store.masters import MasterState
from ..store.places import MASTER_ENDINGS, Places, is_text

log = logging.getLogger(__name__)
Size = tuple[int, int]
"""Bytes, and when the file was modified, in ns."""


class Inbox:
    """Watches a folder by looking at it; what stands still for a look is taken."""

    def __init__(self, database: Database, places: Places, take: Callable[[Path], None]) -> None:
        self._database, self._places, self._folder, self._take = database, places, places.inbox, take
        self._sizes: dict[str, Size] = {}
        self._refused: set[str] = set()

    def scan(self) -> None:
        """Notice files that came, changed or went. One that cannot be taken does not keep the others from the shelf."""
        known = masters.known(self._database)
        seen = self._seen()
        for name, state in seen.items():
            try:
                self._notice(Path(name), state, known.get(name))
            except (OSError, ValueError, HardyParcelError):
                if name not in self._refused:
                    log.exception("%r could not be taken from the inbox", name)
                self._refused.add(name)
        self._sizes = seen
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
