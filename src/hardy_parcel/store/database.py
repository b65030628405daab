"""The SQLite file: connections, migrations, and queries by name."""

from __future__ import annotations

import hashlib
import os
import shutil
import sqlite3
import threading
import time
from collections.abc import Iterator
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from functools import cache
from importlib import resources
from pathlib import Path

from ..core.errors import DiskFull, HardyParcelError, NotFound, StoreTrouble
from .data_paths import DataPaths, bring_home, stands_at

BUSY_MS = 8000
KEPT_CHANGES = 1000
SPARE_BYTES = 1 << 16
"""A disk with less room than this is full, however an error calls it."""


@dataclass(frozen=True, slots=True)
class Changed:
    """What a transaction changes, for those who show it: a kind of thing and the id of the one, empty for any."""

    kind: str
    id: str


@cache
def queries(name: str) -> dict[str, str]:
    """The named statements of one .sql file: each follows a line `-- name: …`."""
    text = (resources.files(__package__) / "queries" / f"{name}.sql").read_text()
    parts = text.split("-- name: ")[1:]
    return {part.split("\n", 1)[0].strip(): part.split("\n", 1)[1].strip() for part in parts}


@contextmanager
def mapped(path: Path) -> Iterator[None]:
    """Raise SQLite's errors about a file as our own."""
    try:
        yield
    except sqlite3.Error as error:
        raise _told(getattr(error, "sqlite_errorname", ""), path) from error


def _told(name: str, path: Path) -> HardyParcelError:
    """Our error for one of SQLite's, by its name."""
    if name == "SQLITE_FULL" or (name.startswith("SQLITE_IOERR") and shutil.disk_usage(path.parent).free < SPARE_BYTES):
        return DiskFull(
            f"The disk of the data folder {path.parent} is full, so nothing could be kept.",
            "Free some space and try again.",
        )
    if name == "SQLITE_CONSTRAINT_FOREIGNKEY":
        return NotFound("What this belongs to is not stored any more.", "Look at the shelf again.")
    if name.startswith(("SQLITE_BUSY", "SQLITE_LOCKED")):
        return StoreTrouble(f"Another program has kept {path} locked.", "Close that program, then try again.")
    if name.startswith(("SQLITE_READONLY", "SQLITE_CANTOPEN", "SQLITE_PERM", "SQLITE_AUTH")):
        return StoreTrouble(
            f"{path} cannot be opened for writing.", "Change the permissions of it and of its folder, then try again."
        )
    if name.startswith(("SQLITE_CORRUPT", "SQLITE_NOTADB")):
        what = f"{path} is damaged and cannot be read."
        return StoreTrouble(
            what,
            "Put back a copy of it, or move it away to begin anew; masters and packed files are not touched by that.",
        )
    return StoreTrouble("What is kept could not be read or written.", "Try again; restart if it goes on.")


class Database:
    """One SQLite file. Readers are read-only; writing goes through short immediate transactions."""

    def __init__(self, path: Path) -> None:
        self.path = path
        self.paths = DataPaths(path.resolve().parent)
        self._kept = threading.local()
        path.parent.mkdir(parents=True, exist_ok=True)
        migrate(path)

    def _connect(self, *, read_only: bool, any_thread: bool = False) -> sqlite3.Connection:
        mode = "ro" if read_only else "rw"
        uri = f"{self.path.resolve().as_uri()}?mode={mode}"
        connection = sqlite3.connect(uri, uri=True, isolation_level=None, check_same_thread=not any_thread)
        _prepare(connection)
        return connection

    @contextmanager
    def reading(self) -> Iterator[sqlite3.Connection]:
        """The thread's read-only connection, or the connection of its transaction.

        It stays open: opening one for each read took half of the time of an answer while a handle is dragged.
        """
        with mapped(self.path):
            if (local := self._own_transaction) is not None:
                yield local
                return
            if not hasattr(self._kept, "reader"):
                self._kept.reader = self._connect(read_only=True)
            yield self._kept.reader

    @contextmanager
    def snapshot(self) -> Iterator[sqlite3.Connection]:
        """Like `reading`, but several statements see one state, whoever writes between them; this thread may not, since it would not see
        it."""
        with self.reading() as connection:
            if connection.in_transaction:
                yield connection
                return
            connection.execute("BEGIN")
            try:
                yield connection
            finally:
                connection.execute("COMMIT")

    @contextmanager
    def writing(self, *changed: Changed) -> Iterator[sqlite3.Connection]:
        """An immediate transaction with a new revision number; committed on leaving, rolled back on an error.

        `changed` is noted with it; what nobody shows, such as how far a job is, notes nothing. Inside `transaction` it is a part of that
        one, and an error that is caught there takes back this part alone.
        """
        if (local := self._own_transaction) is None:
            with self.transaction() as connection:
                yield connection
                note(connection, *changed)
            return
        with mapped(self.path):
            local.execute("SAVEPOINT part")
            try:
                yield local
                note(local, *changed)
            except BaseException:
                if local.in_transaction:  # a full disk may have ended it already
                    local.execute("ROLLBACK TO part")
                    local.execute("RELEASE part")
                raise
            local.execute("RELEASE part")

    @contextmanager
    def transaction(self) -> Iterator[sqlite3.Connection]:
        """Everything that this thread reads and writes inside is one immediate transaction.

        Whoever reads something, changes it and writes it back does so here: no other writer comes between. One inside another is a part
        of it.
        """
        if (local := self._own_transaction) is not None:
            yield local
            return
        if (reader := getattr(self._kept, "reader", None)) is not None and reader.in_transaction:
            raise RuntimeError("nothing is written while this thread reads one state")
        with mapped(self.path):
            connection = self._connect(read_only=False)
            try:
                connection.execute("BEGIN IMMEDIATE")
                connection.execute("UPDATE revision SET number = number + 1")
                self._kept.transaction = connection
                yield connection
                connection.execute("COMMIT")
            except BaseException:
                if connection.in_transaction:
                    connection.execute("ROLLBACK")
                raise
            finally:
                self._kept.transaction = None
                connection.close()

    @property
    def _own_transaction(self) -> sqlite3.Connection | None:
        return getattr(self._kept, "transaction", None)

    def checkpoint(self) -> None:
        """Bring everything that was written into the one file, as far as nobody reads older states; on an orderly stop."""
        with mapped(self.path), closing(self._connect(read_only=False)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")

    def revision(self) -> int:
        """The number of the last change."""
        with self.reading() as connection:
            return connection.execute("SELECT number FROM revision").fetchone()[0]


def note(connection: sqlite3.Connection, *changed: Changed) -> None:
    """Note what the transaction under way changes; what is forgotten then is older than `KEPT_CHANGES` revisions."""
    for item in changed:
        connection.execute("INSERT INTO changes SELECT number, ?, ? FROM revision", (item.kind, item.id))
    if changed:
        connection.execute("DELETE FROM changes WHERE revision < (SELECT number FROM revision) - ?", (KEPT_CHANGES,))


def changed_since(database: Database, revision: int) -> set[Changed]:
    """What was changed after `revision`, as far as it is remembered: over `KEPT_CHANGES` revisions."""
    with database.reading() as connection:
        rows = connection.execute("SELECT DISTINCT kind, id FROM changes WHERE revision > ?", (revision,))
        return {Changed(row["kind"], row["id"]) for row in rows}


class Watch:
    """Tells at next to no cost whether anything was written since it was asked last, whoever wrote it."""

    def __init__(self, database: Database) -> None:
        self._connection = database._connect(read_only=True, any_thread=True)
        self._path = database.path
        self._seen = -1

    def changed(self) -> bool:
        """True the first time, and after every write since."""
        with mapped(self._path):
            version = self._connection.execute("PRAGMA data_version").fetchone()[0]
        before, self._seen = self._seen, version
        return version != before

    def close(self) -> None:
        self._connection.close()


def _prepare(connection: sqlite3.Connection) -> None:
    connection.row_factory = sqlite3.Row
    connection.execute(f"PRAGMA busy_timeout = {BUSY_MS}")
    connection.execute("PRAGMA foreign_keys = ON")
    connection.execute("PRAGMA synchronous = NORMAL")


def migrate(path: Path) -> list[str]:
    """Apply the migrations that are pending; returns their names. Raises StoreTrouble for a changed or newer one."""
    with mapped(path):
        with suppress(OSError):  # SQLite says what is wrong with it; what it makes beside it has the same permissions
            os.close(
                os.open(path, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600)
            )  # closing one that is there would drop our locks
        connection = sqlite3.connect(path, isolation_level=None)
        try:
            _prepare(connection)
            connection.execute("PRAGMA journal_mode = WAL")
            connection.execute(
                "CREATE TABLE IF NOT EXISTS migrations"
                " (name TEXT PRIMARY KEY, checksum TEXT NOT NULL, applied_at REAL NOT NULL) STRICT"
            )
            every = (resources.files(__package__) / "migrations").iterdir()
            files = sorted((item for item in every if item.name.endswith(".sql")), key=lambda item: item.name)
            _none_newer(connection, {f.name for f in files})
            applied = [f.name for f in files if _apply(connection, f.name, f.read_text())]
            _find_moved_folder(connection, path.resolve().parent)
            return applied
        finally:
            connection.close()


def _find_moved_folder(connection: sqlite3.Connection, folder: Path) -> None:
    """Let what is stored be found where the data folder is now."""
    if stands_at(connection, folder):
        return
    connection.execute("BEGIN IMMEDIATE")
    try:
        bring_home(connection, folder)
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise


def _none_newer(connection: sqlite3.Connection, ours: set[str]) -> None:
    """Raises StoreTrouble where something was applied that this version knows nothing of; nothing is touched then."""
    applied = {row["name"] for row in connection.execute("SELECT name FROM migrations")}
    if newer := sorted(applied - ours):
        what = f"What is stored was written by a newer Hardy Parcel ({newer[-1].removesuffix('.sql')})."
        raise StoreTrouble(what, "Use that version, or give another data folder.")


def _apply(connection: sqlite3.Connection, name: str, text: str) -> bool:
    checksum = hashlib.sha256(text.encode()).hexdigest()
    connection.execute("BEGIN IMMEDIATE")
    try:
        row = connection.execute("SELECT checksum FROM migrations WHERE name = ?", (name,)).fetchone()
        if row is None:
            for statement in statements(text):
                connection.execute(statement)
            connection.execute("INSERT INTO migrations VALUES (?, ?, ?)", (name, checksum, time.time()))
        elif row["checksum"] != checksum:
            raise StoreTrouble(f"The stored data was made by a different {name}.", "Use the version that made it.")
        connection.execute("COMMIT")
    except BaseException:
        connection.execute("ROLLBACK")
        raise
    return row is None


def statements(text: str) -> Iterator[str]:
    """The statements of a script, one by one."""
    pending = ""
    for line in text.splitlines(keepends=True):
        pending += line
        if sqlite3.complete_statement(pending):
            yield pending.strip()
            pending = ""
    if pending.strip():
        raise StoreTrouble("A migration ends in the middle of a statement.")
