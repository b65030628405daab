"""Paths below the data folder are stored without it, so that the folder can be moved or renamed and everything is still found.

In a column of its own such a path is relative (`inbox/Gale.mp4`). Inside JSON it begins with a mark, since only the mark tells there that
a text is a path.
"""

from __future__ import annotations

import json
import logging
import sqlite3
from pathlib import Path

MARK = "data-folder:"
SETTING = "data_folder"
COLUMNS = (("masters", "path"), ("measurements", "folder"), ("parcels", "folder"))
"""Columns that are one path each, by table."""
DOCUMENTS = (
    ("jobs", "task"),
    ("receipts", "receipt"),
    ("returned_files", "value"),
    ("recipes", "document"),
    ("settings", "value"),
)
"""Columns of JSON, or of text, in which paths stand."""
log = logging.getLogger(__name__)


class DataPaths:
    """How paths are written into and read from the store of one data folder, which is resolved."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        self._inside = f"{folder}/".replace("//", "/")
        self._in_json = _json_text(self._inside)

    def stored(self, path: Path | str) -> str:
        """A path as a column has it: relative below the data folder, else as it is. Empty text stays empty."""
        return str(path).removeprefix(self._inside)

    def full(self, stored: str) -> str:
        """A path from its column; empty text stays empty."""
        return f"{self._inside}{stored}" if stored and not stored.startswith("/") else stored

    def stored_json(self, text: str) -> str:
        """JSON text in which every path below the data folder begins with the mark instead."""
        return text.replace(f'"{self._in_json}', f'"{MARK}')

    def full_json(self, text: str) -> str:
        """The JSON text that was stored, with whole paths."""
        return text.replace(f'"{MARK}', f'"{self._in_json}')

    def full_text(self, text: str) -> str:
        """One path that was taken out of stored JSON."""
        return f"{self._inside}{text.removeprefix(MARK)}" if text.startswith(MARK) else text


def _json_text(text: str) -> str:
    """A text as it stands inside JSON, without its quotes."""
    return json.dumps(text, ensure_ascii=False)[1:-1]


def stands_at(connection: sqlite3.Connection, folder: Path) -> bool:
    """Whether the data folder is noted to be where it is."""
    row = connection.execute("SELECT value FROM settings WHERE name = ?", (SETTING,)).fetchone()
    return bool(row and row["value"] == str(folder))


def bring_home(connection: sqlite3.Connection, folder: Path) -> None:
    """Rewrite what was stored when the data folder was elsewhere, or by a version that stored whole paths.

    Runs inside a transaction. Does nothing where the folder is where it was.
    """
    if stands_at(connection, folder):
        return
    row = connection.execute("SELECT value FROM settings WHERE name = ?", (SETTING,)).fetchone()
    former = [row["value"]] if row else _inferred(connection, folder)
    for placement in dict.fromkeys([*former, str(folder)]):
        _rewrite(connection, f"{placement}/".replace("//", "/"))
    if former and former[0] != str(folder):
        log.warning("the data folder was at %s before; what was stored there is found at %s now", former[0], folder)
    connection.execute(
        "INSERT INTO settings (name, value) VALUES (?, ?) ON CONFLICT (name) DO UPDATE SET value = excluded.value",
        (SETTING, str(folder)),
    )


def _inferred(connection: sqlite3.Connection, folder: Path) -> list[str]:
    """Where the data folder was when that was not noted yet: where the inbox was whose films are not there any more."""
    places = []
    for row in connection.execute("SELECT path FROM masters WHERE path LIKE '/%/inbox/%' ORDER BY added_at DESC"):
        placement = row["path"].rsplit("/inbox/", 1)[0]
        if (
            placement != str(folder)
            and not Path(placement).exists()
            and (folder / "inbox" / Path(row["path"]).name).exists()
        ):
            places.append(placement)
    return [max(set(places), key=places.count)] if places else []


def _rewrite(connection: sqlite3.Connection, inside: str) -> None:
    cut = {"inside": inside, "length": len(inside)}
    _drop_unused_doubles(connection, cut)
    for table, column in COLUMNS:
        connection.execute(
            f"UPDATE OR IGNORE {table} SET {column} = substr({column}, :length + 1) WHERE substr({column}, 1, :length) = :inside",
            cut,
        )
    words = {"old": f'"{_json_text(inside)}', "new": f'"{MARK}'}
    for table, column in DOCUMENTS:
        connection.execute(
            f"UPDATE {table} SET {column} = replace({column}, :old, :new) WHERE instr({column}, :old) > 0", words
        )
    connection.execute(
        "UPDATE settings SET value = substr(value, :length + 1) WHERE name = 'output_folder' AND substr(value, 1, :length) = :inside",
        cut,
    )


def _drop_unused_doubles(connection: sqlite3.Connection, cut: dict[str, object]) -> None:
    """A film that was seen at its new place before its old entry was brought home has two: the one nobody has worked on goes."""
    unused = "has_lanes = 0 AND excerpt_number IS NULL AND mending IS NULL"
    inside_folder = "substr(path, 1, :length) = :inside"
    connection.execute(
        f"DELETE FROM masters WHERE {unused} AND {inside_folder} AND substr(path, :length + 1) IN (SELECT path FROM masters)",
        cut,
    )
    connection.execute(
        f"DELETE FROM masters WHERE {unused} AND path IN (SELECT substr(path, :length + 1) FROM masters WHERE {inside_folder})",
        cut,
    )
