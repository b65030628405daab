"""How far each placement of a sheet can be trusted, by what is known of it now."""

from __future__ import annotations

from dataclasses import dataclass

from ..core.arrival.trusting import TrustPath, trust_path
from ..core.parcel.returned_file import ReturnedRecord
from ..core.sheets.sheet import Sheet
from ..docks.shipped import shipped_sheets
from ..store import results, returned_files
from ..store.database import Database
from ..store.results import KeptReceipt
from .learning_now import correction_now


@dataclass(frozen=True, slots=True, kw_only=True)
class TrustNow:
    """One placement's path, with its parcels and what came back of them, latest first."""

    destination_id: str
    placement: str
    path: TrustPath
    receipts: tuple[KeptReceipt, ...]
    returned: tuple[ReturnedRecord, ...]


def trust_now(database: Database, sheet: Sheet) -> list[TrustNow]:
    """Of every placement that takes a picture."""
    shipped = {one.id: one for one in shipped_sheets()}
    every, found = results.receipts(database, every=True), []
    for place in sheet.placements:
        if not place.picture:
            continue
        destination_id = f"{sheet.id}-{place.id}"
        records = list(reversed(returned_files.of_destination(database, destination_id)))
        measured = [one for one in records if one.found]
        correction = correction_now(database, destination_id) if measured else None  # a sheet that asks for nothing is none yet
        receipts = tuple(one for one in every if one.destination_id == destination_id and one.receipt.pictures)
        own = shipped.get(sheet.id)
        same = own is not None and any(one.id == place.id and one.handling == place.handling for one in own.placements)
        found.append(TrustNow(
            destination_id=destination_id, placement=place.name, receipts=receipts, returned=tuple(records),
            path=trust_path(
                sheet.name, place, packed=len(receipts), returned=len(measured), changes=len(correction.changes) if correction else 0,
                errors=correction.errors if correction else (), ours=same,
            ),
        ))
    return found
