"""Copies of everything that is stored, made while it is in use, and put back again. Films and packed files are no part of them."""

from __future__ import annotations

import os
import sqlite3
import time
from contextlib import closing, suppress
from pathlib import Path

from ..core.errors import BadInput, DiskFull, NameTaken, NotFound, StoreTrouble
from .database import mapped, migrate
from .files import flush
from .places import Places


def back_up(database: Path, target: Path) -> int:
    """Copy a store into a new file while it is in use; returns its bytes. The file has its name only when it is whole.

    Raises NotFound without a store, NameTaken where the file is there already, DiskFull, StoreTrouble.
    """
    if not database.is_file():
        raise NotFound(f"There is nothing stored in {database.parent}.", "Give the data folder with --data.")
    if target.exists():
        raise NameTaken(f"{target} is there already.", "Give another name; nothing was overwritten.")
    partial = target.with_name(f".{target.name}.partial")
    try:
        _copy(database, partial)
        _check(partial)
        partial.replace(target)
        flush(target.parent)
    except OSError as error:
        raise _unwritable(target) from error
    finally:
        partial.unlink(missing_ok=True)
    return target.stat().st_size


def restore(copy: Path, places: Places) -> Path | None:
    """Put a copy in place of what is stored in a data folder that nobody serves from; returns where what was there before is now.

    Raises NotFound without the copy, BadInput where it is none of ours or damaged, StoreTrouble where it is of a newer version,
    FolderUnusable while a service uses the folder.
    """
    if not copy.is_file():
        raise NotFound(f"There is no file {copy}.", "Check the name and the folder.")
    _check(copy)
    held = [places.claim(), places.claim("working")]
    partial = places.database.with_name(f".{places.database.name}.partial")
    former = None
    try:
        partial.unlink(missing_ok=True)
        _copy(copy, partial)
        migrate(partial)  # refused here, with everything still as it was, where it is of a newer version
        with closing(sqlite3.connect(partial)) as connection:
            connection.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        if places.database.is_file():
            former = _free_name(places.database)
            back_up(places.database, former)
        for ending in ("-wal", "-shm"):  # they belong to the file that goes
            Path(f"{places.database}{ending}").unlink(missing_ok=True)
        partial.replace(places.database)
        flush(places.data)
    except OSError as error:
        raise _unwritable(places.database) from error
    finally:
        for path in (partial, Path(f"{partial}-wal"), Path(f"{partial}-shm")):
            path.unlink(missing_ok=True)
        for item in held:
            os.close(item)
    return former


def _free_name(database: Path) -> Path:
    """Where a store that is replaced is kept, beside the new one."""
    name = f"{database.name} before {time.strftime('%Y-%m-%d %H.%M.%S')}"
    every = (database.with_name(name if number == 1 else f"{name} ({number})") for number in range(1, 1_000))
    return next(path for path in every if not path.exists())


def _copy(source: Path, target: Path) -> None:
    with suppress(FileExistsError):
        os.close(os.open(target, os.O_CREAT | os.O_EXCL | os.O_RDWR, 0o600))
    uri = f"{source.resolve().as_uri()}?mode=ro"
    with mapped(target), closing(sqlite3.connect(uri, uri=True)) as reader, closing(sqlite3.connect(target)) as writer:
        reader.backup(writer)  # one state of the store, however much is written meanwhile
        writer.execute("PRAGMA journal_mode = DELETE")
    flush(target)


def _check(path: Path) -> None:
    """Raises BadInput where a file is no store of ours, or is damaged."""
    refused = BadInput(
        f"{path} is not a backup of Hardy Parcel, or is damaged.", "Choose another file.", code="bad_backup"
    )
    try:
        with closing(sqlite3.connect(f"{path.resolve().as_uri()}?mode=ro", uri=True)) as connection:
            if connection.execute("PRAGMA quick_check").fetchone()[0] != "ok":
                raise refused
            connection.execute("SELECT name FROM migrations LIMIT 1").fetchone()
            connection.execute("SELECT id FROM masters LIMIT 1").fetchone()
    except sqlite3.Error as error:
        raise refused from error


def _unwritable(target: Path) -> DiskFull | StoreTrouble:
    with suppress(OSError):
        result = os.statvfs(target.parent)
        if result.f_bavail * result.f_frsize < 1 << 20:
            return DiskFull(f"The disk of {target.parent} is full.", "Free some space and try again.")
    return StoreTrouble(f"{target} cannot be written.", "Choose another folder, or change its permissions.")
