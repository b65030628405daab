"""Files that platforms served, and what was measured of each."""

from __future__ import annotations

from functools import lru_cache

from ..core.errors import NotFound
from ..core.parcel.returned_file import ReturnedRecord
from ..core.parcel.sending import EvidencePlace
from .database import Changed, Database, queries

SQL = queries("returned")


def keep(
    database: Database, record: ReturnedRecord, place: EvidencePlace | None = None, *, content_id: str = ""
) -> None:
    """Keep a returned file as it is known now. By its `place`, which is given when it is first kept, it is found for every rate of its
    curve; once it is measured it changes what is known of a film's `content_id`."""
    measured = [Changed("measurement", content_id)] if content_id else []
    with database.writing(Changed("returned", record.id), *measured) as connection:
        connection.execute(
            SQL["keep"],
            {
                "id": record.id,
                "destination_id": record.destination_id,
                "added_at": record.added_at,
                "value": database.paths.stored_json(record.model_dump_json()),
                "curve_key": place and place.curve_key,
                "target_bps": place and place.target_bps,
            },
        )


def on_curve(database: Database, place: EvidencePlace) -> list[tuple[int, ReturnedRecord]]:
    """Those of one curve with their upload rates (bit/s), in the order they came."""
    with database.reading() as connection:
        rows = connection.execute(SQL["on_curve"], {"curve_key": place.curve_key})
        return [(row["target_bps"], _read(database.paths.full_json(row["value"]))) for row in rows]


def get(database: Database, returned_id: str) -> ReturnedRecord:
    """One returned file; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["one"], {"id": returned_id}).fetchone()
    if row is None:
        raise NotFound("Nothing is known of this file.", "Bring it back again.")
    return _read(database.paths.full_json(row["value"]))


def ids(database: Database) -> set[str]:
    """Of every returned file."""
    with database.reading() as connection:
        return {row["id"] for row in connection.execute(SQL["ids"])}


def every(database: Database) -> list[ReturnedRecord]:
    """All of them, latest first."""
    with database.reading() as connection:
        return [_read(database.paths.full_json(row["value"])) for row in connection.execute(SQL["every"])]


def unmeasured(database: Database) -> list[ReturnedRecord]:
    """Those that were neither measured yet nor refused, in the order they came."""
    with database.reading() as connection:
        return [_read(database.paths.full_json(row["value"])) for row in connection.execute(SQL["unmeasured"])]


def of_destination(database: Database, destination_id: str) -> list[ReturnedRecord]:
    """Those that one destination served, in the order they came."""
    with database.reading() as connection:
        return [
            _read(database.paths.full_json(row["value"]))
            for row in connection.execute(SQL["of_destination"], {"destination_id": destination_id})
        ]


def remove(database: Database, returned_id: str) -> None:
    """Forget one."""
    with database.writing(Changed("returned", returned_id)) as connection:
        connection.execute(SQL["remove"], {"id": returned_id})


@lru_cache(maxsize=256)
def _read(text: str) -> ReturnedRecord:
    """As one object as long as it is the same, so that what is computed from it is kept with it."""
    return ReturnedRecord.model_validate_json(text)
