"""The drives of folders that parcels are written to: nothing is ever written where a drive is missing."""

from __future__ import annotations

import os
from pathlib import Path

from ..core.errors import FolderUnusable
from ..core.parcel.drive import Drive
from .database import Database, queries

SQL = queries("drives")


def drive_of(folder: Path) -> Drive:
    """The drive that a folder lies on. Raises OSError where the folder is not there."""
    result, at = os.statvfs(folder), folder.resolve()
    while not os.path.ismount(at):
        at = at.parent
    return Drive(mount_point=str(at), file_system_id=result.f_fsid, total_bytes=result.f_blocks * result.f_frsize)


def check_same(folder: Path, before: Drive) -> None:
    """Raises FolderUnusable where a folder lies on another drive than before."""
    try:
        current = drive_of(folder)
    except OSError as error:
        raise away(folder) from error
    if not current.is_same(before):
        raise away(folder)


def note_used(database: Database, folder: Path) -> Drive:
    """The drive of a folder that is to be written to, noted for the next time.

    Raises FolderUnusable where the folder is only the empty place at which its drive is mounted. Another drive that was put in its place
    is taken.
    """
    try:
        current = drive_of(folder)
        empty = next(folder.iterdir(), None) is None
    except OSError as error:
        raise away(folder) from error
    key = {"folder": database.paths.stored(folder)}
    with database.reading() as connection:
        row = connection.execute(SQL["one"], key).fetchone()
    before = Drive.model_validate_json(row["value"]) if row else None
    if before and empty and current.lies_above(before):
        raise away(folder)
    if before != current:
        with database.writing() as connection:
            connection.execute(SQL["set"], {**key, "value": current.model_dump_json()})
    return current


def away(folder: Path) -> FolderUnusable:
    """The refusal to write below an empty mount point."""
    return FolderUnusable(
        f"The drive of {folder} is not connected, or another one is in its place.",
        "Connect it, or choose another output folder.",
        code="drive_away",
    )
