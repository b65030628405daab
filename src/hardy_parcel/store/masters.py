"""Masters on the shelf, their excerpt, and the creator's choices for each destination."""

from __future__ import annotations

import time
import uuid
from enum import StrEnum
from pathlib import Path
from sqlite3 import Row

from ..core.errors import NotFound
from ..core.facts import Excerpt, MasterFacts
from ..core.plan import Choices
from ..core.values import Model
from .database import Database, queries


class MasterState(StrEnum):
    READING = "reading"
    READY = "ready"
    UNREADABLE = "unreadable"
    GONE = "gone"


class Problem(Model):
    """An error as it is kept and shown: a code, what happened, what to do."""

    code: str
    what: str
    todo: str = ""


class Master(Model):
    """A master as it is known now."""

    id: str
    name: str
    path: str
    size_bytes: int
    state: MasterState
    facts: MasterFacts | None
    problem: Problem | None
    strip_pictures: int
    excerpt: Excerpt | None
    added_at: float
    revision: int


def _master(row: Row) -> Master:
    facts = MasterFacts.model_validate_json(row["facts"]) if row["facts"] else None
    chosen = row["in_s"] is not None and row["out_s"] is not None
    return Master(
        id=row["id"],
        name=Path(row["path"]).name,
        path=row["path"],
        size_bytes=row["size_bytes"],
        state=MasterState(row["state"]),
        facts=facts,
        problem=Problem.model_validate_json(row["problem"]) if row["problem"] else None,
        strip_pictures=row["strip_pictures"],
        excerpt=Excerpt(in_s=row["in_s"], out_s=row["out_s"]) if chosen else None,
        added_at=row["added_at"],
        revision=row["revision"],
    )


def shelf(database: Database) -> list[Master]:
    """Every master that is there, newest first."""
    with database.reading() as connection:
        return [_master(row) for row in connection.execute(queries("masters")["list"])]


def known(database: Database) -> dict[str, Row]:
    """Path to id, size, modification time and state of every master ever seen."""
    with database.reading() as connection:
        return {row["path"]: row for row in connection.execute(queries("masters")["known"])}


def get(database: Database, master_id: str) -> Master:
    """One master; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(queries("masters")["one"], {"id": master_id}).fetchone()
    if row is None:
        raise NotFound("There is no such master.", "Go back to the shelf.")
    return _master(row)


def add(database: Database, path: Path) -> str:
    """Put a file on the shelf (or note that it changed) and return its id; it still has to be read."""
    stat = path.stat()
    with database.writing() as connection:
        row = connection.execute(
            queries("masters")["add"],
            {
                "id": uuid.uuid4().hex[:12], "path": str(path), "size_bytes": stat.st_size,
                "modified_ns": stat.st_mtime_ns, "added_at": time.time(),
            },
        ).fetchone()
    return row["id"]


def set_ready(database: Database, master_id: str, facts: MasterFacts, strip_pictures: int) -> None:
    """Keep what reading found."""
    with database.writing() as connection:
        connection.execute(
            queries("masters")["ready"],
            {"id": master_id, "facts": facts.model_dump_json(), "strip_pictures": strip_pictures},
        )


def set_unreadable(database: Database, master_id: str, problem: Problem) -> None:
    """Keep why a master could not be read."""
    with database.writing() as connection:
        connection.execute(queries("masters")["unreadable"], {"id": master_id, "problem": problem.model_dump_json()})


def set_gone(database: Database, master_id: str) -> None:
    """Note that the file is not there any more."""
    with database.writing() as connection:
        connection.execute(queries("masters")["gone"], {"id": master_id})


def set_excerpt(database: Database, master_id: str, excerpt: Excerpt | None) -> None:
    """Keep the excerpt; None is the whole master."""
    values = {"in_s": str(excerpt.in_s), "out_s": str(excerpt.out_s)} if excerpt else {"in_s": None, "out_s": None}
    with database.writing() as connection:
        connection.execute(queries("masters")["excerpt"], {"id": master_id, **values})


def choices(database: Database, master_id: str) -> dict[str, Choices]:
    """The creator's choices by destination."""
    with database.reading() as connection:
        rows = connection.execute(queries("masters")["choices"], {"master_id": master_id}).fetchall()
    return {row["destination_id"]: Choices.model_validate_json(row["choices"]) for row in rows}


def choose(database: Database, master_id: str, destination_id: str, chosen: Choices) -> None:
    """Keep the creator's choices for one destination."""
    with database.writing() as connection:
        connection.execute(
            queries("masters")["choose"],
            {"master_id": master_id, "destination_id": destination_id, "choices": chosen.model_dump_json()},
        )
