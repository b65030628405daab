"""What was sent to platforms, and what came back of it."""

from __future__ import annotations

from functools import lru_cache
from sqlite3 import Row

from ..core.errors import NotFound
from ..core.parcel.sending import EvidencePlace, Sending
from .database import Changed, Database, queries

SQL = queries("sendings")
MOST_SHOWN = 200


def keep(
    database: Database, sending: Sending, evidence_key: str, *, content_id: str, place: EvidencePlace | None = None
) -> None:
    """Keep a sending as it is now. By its `evidence_key` what came back of it is found for every plan like it, of the same content, and by
    its `place`, which is given when it is first kept, for every rate of their curve."""
    arrived = sending.arrived_at is not None and bool(sending.files)
    measured = [Changed("measurement", content_id)] if arrived else []
    with database.writing(Changed("sending", sending.id), *measured) as connection:
        connection.execute(SQL["keep"], {
            "id": sending.id, "receipt_id": sending.receipt_id, "evidence_key": evidence_key, "sent_at": sending.sent_at,
            "arrived": int(arrived), "value": sending.model_dump_json(), "curve_key": place and place.curve_key,
            "target_bps": place and place.target_bps,
        })


def get(database: Database, sending_id: str) -> tuple[Sending, str]:
    """A sending with its evidence key; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["one"], {"id": sending_id}).fetchone()
    if row is None:
        raise NotFound("Nothing of this sending is known any more.", "Send the parcel again.")
    return _sending(row), row["evidence_key"]


def of_receipt(database: Database, receipt_id: str) -> list[Sending]:
    """Every sending of a packed parcel, latest first."""
    with database.reading() as connection:
        return [_sending(row) for row in connection.execute(SQL["of_receipt"], {"receipt_id": receipt_id})]


def latest(database: Database) -> dict[str, Sending]:
    """By receipt its latest sending."""
    with database.reading() as connection:
        return {row["receipt_id"]: _sending(row) for row in connection.execute(SQL["latest"], {"most": MOST_SHOWN})}


def returned(database: Database, evidence_key: str) -> Sending | None:
    """The latest sending of such an upload of which everything came back."""
    with database.reading() as connection:
        row = connection.execute(SQL["returned"], {"evidence_key": evidence_key}).fetchone()
    return _sending(row) if row else None


def returned_on_curve(database: Database, place: EvidencePlace) -> dict[int, Sending]:
    """By upload rate (bit/s), the latest sendings of this curve of which everything came back."""
    with database.reading() as connection:
        rows = connection.execute(SQL["returned_on_curve"], {"curve_key": place.curve_key})
        return {row["target_bps"]: _sending(row) for row in rows}


def ids(database: Database) -> set[str]:
    """Of everything that was ever sent."""
    with database.reading() as connection:
        return {row["id"] for row in connection.execute(SQL["ids"])}


def unfinished(database: Database) -> list[Sending]:
    """Those that go to a platform, or of which something is still to come back, oldest first."""
    with database.reading() as connection:
        return [_sending(row) for row in connection.execute(SQL["unfinished"])]


def _sending(row: Row) -> Sending:
    return _read(row["value"])


@lru_cache(maxsize=256)
def _read(text: str) -> Sending:
    return Sending.model_validate_json(text)
