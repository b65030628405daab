"""What a sheet would be if it were corrected by everything that its platform served so far."""

from __future__ import annotations

from ..core.arrival.learning import Correction, correct
from ..docks.catalogue import destination, sheets_now
from ..store import returned_files
from ..store.database import Database


def correction_now(database: Database, destination_id: str) -> Correction | None:
    """The newest sheet of a destination corrected by all returned files of it; None where none was measured."""
    place = destination(destination_id, database)
    records = [one for one in returned_files.of_destination(database, destination_id) if one.found]
    sheet = next((one for one in sheets_now(database) if one.id == place.sheet_id), None)
    if not records or sheet is None:
        return None
    found = [one.held_against for one in records if one.held_against]
    named = [(record.file_name, one.observation) for record, one in zip(records, found, strict=True)]
    return correct(sheet, place, named, [one.expected for one in found])
