"""What sayings came to on the films that they were tried on, kept by content, so that they can be summed up."""

from __future__ import annotations

import time

from ..core.parcel.sayings import Settled, Verdict
from .database import Changed, Database, queries

SQL = queries("verdicts")


def keep(database: Database, content_id: str, destination_id: str, verdict: Verdict) -> None:
    """Keep a verdict in place of an older one of the same film and destination; what is kept already is not written again."""
    key = {"content_id": content_id, "saying": verdict.saying, "destination_id": destination_id}
    text = verdict.model_dump_json()
    with database.reading() as connection:
        row = connection.execute(SQL["one"], key).fetchone()
    if row is None or row["verdict"] != text:
        with database.writing(Changed("verdict", content_id)) as connection:
            connection.execute(SQL["keep"], {**key, "verdict": text, "made_at": time.time()})


def by_saying(database: Database) -> dict[str, list[Settled]]:
    """By saying, what it did to each film that it was tried on: for several destinations the strongest of what it did."""
    with database.reading() as connection:
        rows = connection.execute(SQL["all"]).fetchall()
    films: dict[tuple[str, str], list[Settled]] = {}
    for row in rows:
        verdict = Verdict.model_validate_json(row["verdict"])
        films.setdefault((verdict.saying, row["content_id"]), []).append(verdict.outcome)
    found: dict[str, list[Settled]] = {}
    for (saying, _), outcomes in films.items():
        found.setdefault(saying, []).append(_of_film(outcomes))
    return found


def _of_film(outcomes: list[Settled]) -> Settled:
    if Settled.HELPS in outcomes and Settled.HARMS in outcomes:
        return Settled.DEPENDS
    return next((one for one in (Settled.DEPENDS, Settled.HELPS, Settled.HARMS) if one in outcomes), Settled.NO_DIFFERENCE)
