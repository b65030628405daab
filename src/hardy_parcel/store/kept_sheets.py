"""Rule sheets that the creator keeps: every version of every sheet."""

from __future__ import annotations

import sqlite3
import time
from functools import lru_cache

from ..core.errors import NameTaken
from ..core.sheets.sheet import Sheet
from ..core.sheets.sheet_documents import write_sheet
from .database import Changed, Database, queries

SQL = queries("sheets")


@lru_cache(maxsize=256)
def _read(document: str) -> Sheet:
    """A kept document, read once for as long as it is the same: sheets never change."""
    return Sheet.model_validate_json(document)


def newest(database: Database) -> list[Sheet]:
    """The newest kept version of every sheet that was not removed."""
    with database.reading() as connection:
        removed = {row["sheet_id"] for row in connection.execute(SQL["removed"])}
        rows = connection.execute(SQL["newest"]).fetchall()
    sheets = [_read(row["document"]) for row in rows]
    return [sheet for sheet in sheets if sheet.id not in removed]


def removed(database: Database) -> set[str]:
    """Ids of sheets that were taken away."""
    with database.reading() as connection:
        return {row["sheet_id"] for row in connection.execute(SQL["removed"])}


def versions(database: Database, sheet_id: str) -> list[Sheet]:
    """Every kept version of one sheet, oldest first."""
    with database.reading() as connection:
        rows = connection.execute(SQL["versions"], {"sheet_id": sheet_id}).fetchall()
    return [_read(row["document"]) for row in rows]


def keep(database: Database, sheet: Sheet) -> Sheet:
    """Keep a sheet under its version, which must be a new one; raises NameTaken when somebody was faster.

    One that was removed is in use again.
    """
    values = {"sheet_id": sheet.id, "version": sheet.version, "document": write_sheet(sheet), "kept_at": time.time()}
    with database.writing(Changed("sheets", "")) as connection:
        try:
            connection.execute(SQL["keep"], values)
        except sqlite3.IntegrityError as error:
            raise NameTaken(
                f"{sheet.name} already has a version {sheet.version}.", "Look at it again, then make your change.", code="newer_version"
            ) from error
        connection.execute(SQL["put_back"], {"sheet_id": sheet.id})
    return sheet


def remove(database: Database, sheet_id: str) -> None:
    """Take a sheet out of use; its versions stay for the parcels that were planned with them."""
    with database.writing(Changed("sheets", "")) as connection:
        connection.execute(SQL["remove"], {"sheet_id": sheet_id})
