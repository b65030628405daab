"""Parcels: what a creator keeps of each, in the order of the lanes."""

from __future__ import annotations

import uuid
from collections.abc import Iterable, Mapping, Sequence
from sqlite3 import Connection, Row

from ..core.arrival.docked import Words
from ..core.errors import ChangedMeanwhile, NotFound
from ..core.master.facts import Excerpt
from ..core.parcel.parcel import Parcel
from ..core.plan.choices import Choices
from .database import Changed, Database, queries

SQL = queries("parcels")
MOST_PARCELS = 60
"""How many one master may have, put away ones included."""


def new_id() -> str:
    """An id that no parcel has."""
    return uuid.uuid4().hex[:12]


def _parcel(database: Database, row: Row) -> Parcel:
    excerpt = Excerpt(in_s=row["in_s"], out_s=row["out_s"]) if row["in_s"] is not None else None
    return Parcel(
        id=row["id"],
        master_id=row["master_id"],
        destination_id=row["destination_id"],
        sheet_version=row["sheet_version"],
        excerpt=excerpt,
        choices=Choices.model_validate_json(row["choices"]),
        name=row["name"],
        place=row["place"],
        sibling_of=row["sibling_of"],
        served_by=row["served_by"],
        shown=bool(row["shown"]),
        file_pattern=row["file_pattern"],
        folder=database.paths.full(row["folder"]),
        words=Words.model_validate_json(row["words"]),
        revision=row["revision"],
    )


def _points(excerpt: Excerpt | None) -> tuple[str | None, str | None]:
    return (str(excerpt.in_s), str(excerpt.out_s)) if excerpt else (None, None)


def _keep(database: Database, connection: Connection, parcel: Parcel) -> None:
    """Write a parcel where it differs from what is stored, so that its revision rises only then."""
    row = connection.execute(SQL["one"], {"id": parcel.id}).fetchone()
    if row and _parcel(database, row) == parcel.model_copy(update={"revision": row["revision"]}):
        return
    in_s, out_s = _points(parcel.excerpt)
    connection.execute(
        SQL["keep"],
        {
            "id": parcel.id,
            "master_id": parcel.master_id,
            "destination_id": parcel.destination_id,
            "sheet_version": parcel.sheet_version,
            "in_s": in_s,
            "out_s": out_s,
            "choices": parcel.choices.model_dump_json(exclude_defaults=True),
            "name": parcel.name,
            "place": parcel.place,
            "sibling_of": parcel.sibling_of,
            "served_by": parcel.served_by,
            "shown": int(parcel.shown),
            "file_pattern": parcel.file_pattern,
            "folder": database.paths.stored(parcel.folder),
            "words": parcel.words.model_dump_json(exclude_defaults=True),
        },
    )


def of_master(database: Database, master_id: str, *, put_away: bool = False) -> list[Parcel]:
    """The parcels of a master's lanes in their order; with `put_away` those too that are not shown."""
    with database.reading() as connection:
        found = [_parcel(database, row) for row in connection.execute(SQL["of_master"], {"master_id": master_id})]
    return [parcel for parcel in found if parcel.shown or put_away]


def get(database: Database, parcel_id: str) -> Parcel:
    """One parcel; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["one"], {"id": parcel_id}).fetchone()
    if row is None:
        raise NotFound("There is no such parcel.", "Go back to the lanes.")
    return _parcel(database, row)


def exists(database: Database, parcel_id: str) -> bool:
    """Whether any master has a parcel of this id."""
    with database.reading() as connection:
        return connection.execute(SQL["one"], {"id": parcel_id}).fetchone() is not None


def check_seen(database: Database, seen: Mapping[str, int]) -> None:
    """Refuse a change that was made from an older state: `seen` has the revision that was seen of each parcel by its id.

    To be called in the transaction that makes the change. Raises ChangedMeanwhile, also for a parcel that is gone.
    """
    for parcel_id, revision in seen.items():
        with database.reading() as connection:
            row = connection.execute(SQL["one"], {"id": parcel_id}).fetchone()
        if row is None or row["revision"] != revision:
            raise ChangedMeanwhile(
                "This parcel was changed elsewhere since then.", "Check what it says now, then make your change again."
            )


def keep(database: Database, parcel: Parcel) -> None:
    """Keep a parcel as it is now. What was read before belongs into the same `transaction`."""
    with database.writing(Changed("parcel", parcel.id), Changed("lanes", parcel.master_id)) as connection:
        _keep(database, connection, parcel)


def keep_all(database: Database, master_id: str, kept: Sequence[Parcel], *, removed: Iterable[str] = ()) -> None:
    """Keep several parcels of a master, and remove others, at once."""
    with database.writing(
        Changed("lanes", master_id), *(Changed("parcel", parcel.id) for parcel in kept)
    ) as connection:
        for parcel_id in removed:
            connection.execute(SQL["remove"], {"id": parcel_id})
        for parcel in kept:
            _keep(database, connection, parcel)


def make_first_lanes(database: Database, master_id: str, destinations: Sequence[str], excerpt: Excerpt | None) -> None:
    """Parcels for these destinations, but only if this master's lanes were never made."""
    with database.reading() as connection:
        made = connection.execute(SQL["has_lanes"], {"master_id": master_id}).fetchone()
    if made is None or made["has_lanes"]:
        return
    with database.writing(Changed("lanes", master_id)) as connection:
        if connection.execute(SQL["has_lanes"], {"master_id": master_id}).fetchone()["has_lanes"]:
            return
        for place, destination_id in enumerate(destinations):
            _keep(
                database,
                connection,
                Parcel(id=new_id(), master_id=master_id, destination_id=destination_id, excerpt=excerpt, place=place),
            )
        connection.execute(SQL["lanes_made"], {"master_id": master_id})


def move_excerpts(connection: Connection, master_id: str, before: Excerpt | None, after: Excerpt | None) -> None:
    """Parcels whose excerpt is `before` take `after` instead: they follow the master's chosen one."""
    (old_in, old_out), (in_s, out_s) = _points(before), _points(after)
    connection.execute(
        SQL["move_excerpts"],
        {
            "master_id": master_id,
            "old_in_s": old_in,
            "old_out_s": old_out,
            "in_s": in_s,
            "out_s": out_s,
        },
    )
