"""Rule sheets: those that ship, and over them what the creator keeps."""

from __future__ import annotations

import statistics
from collections.abc import Callable

from ..core.errors import BadInput, NotFound
from ..core.parcel.recipe_documents import USUAL_SPAN
from ..core.plan.plan import Plan
from ..core.sheets.sheet import Destination, Sheet, destination_at, destination_ids, destinations
from ..store import kept_sheets
from ..store.database import Database
from .shipped import shipped_sheets

USUAL_LANES = ("orrery-wide", "sprigg-upright", "kitewall-square", "fernpost-reel")


def sheets_now(database: Database | None) -> list[Sheet]:
    """The newest version of every sheet in use: the shipped ones first, then one's own. Without a database, as shipped."""
    kept = {sheet.id: sheet for sheet in kept_sheets.newest(database)} if database else {}
    gone = kept_sheets.removed(database) if database else set()
    shipped = [kept.pop(sheet.id, sheet) for sheet in shipped_sheets() if sheet.id not in gone]
    return [*shipped, *kept.values()]


def versions_of(database: Database, sheet_id: str) -> list[Sheet]:
    """Every version of one sheet, oldest first, the shipped one included; raises NotFound for none."""
    found = {sheet.version: sheet for sheet in shipped_sheets() if sheet.id == sheet_id}
    found |= {sheet.version: sheet for sheet in kept_sheets.versions(database, sheet_id)}
    if not found:
        raise NotFound(f"There is no rule sheet '{sheet_id}'.", "Choose another one.")
    return [found[version] for version in sorted(found)]


def destinations_now(database: Database | None) -> dict[str, Destination]:
    """Every destination in use by its id."""
    return destinations(sheets_now(database))


def guidance_span(database: Database) -> Callable[[str], float]:
    """Top over lowest of a destination's guidance, by its id, as its sheet has it now."""
    known = destinations_now(database)

    def span(destination_id: str) -> float:
        place = known.get(destination_id)
        spans = [row.high_bps / row.low_bps for row in place.placement.guidance] if place else []
        return statistics.median(spans) if spans else USUAL_SPAN

    return span


def destination(destination_id: str, database: Database | None = None) -> Destination:
    """The destination of this id; raises NotFound naming those there are."""
    sheets = sheets_now(database)
    places = ((sheet, place) for sheet in sheets for place in sheet.placements if place.complete)
    if found := next((one for one in places if destination_id == f"{one[0].id}-{one[1].id}"), None):
        return destination_at(*found)
    raise NotFound(f"There is no destination '{destination_id}'.", f"Choose one of: {', '.join(destinations(sheets))}.")


def destination_of(database: Database, destination_id: str, version: int | None) -> Destination:
    """The destination as one version of its sheet has it; the newest when that version, or the placement in it, is gone."""
    now = destination(destination_id, database)
    if version is None or version == now.sheet_version:
        return now
    sheet = next((one for one in versions_of(database, now.sheet_id) if one.version == version), None)
    return destinations([sheet]).get(destination_id, now) if sheet else now


def place_of(database: Database, plan: Plan, destination_id: str | None) -> Destination:
    """Where a packed file goes: as its sheet was when it was planned, or to another one that it serves."""
    if destination_id and destination_id != plan.destination_id:
        return destination(destination_id, database)
    return destination_of(database, plan.destination_id, plan.sheet_version)


def check_new(database: Database, sheet: Sheet) -> Sheet:
    """The sheet as the next version of its id; raises BadInput when one of its destinations is another sheet's."""
    others = {one for known in sheets_now(database) if known.id != sheet.id for one in destination_ids(known)}
    if taken := sorted(others & destination_ids(sheet)):
        what = f"The destination {taken[0]} is another sheet's already."
        raise BadInput(what, "Give the sheet or its placement another id.", code="bad_sheet")
    try:
        newest = versions_of(database, sheet.id)[-1].version
    except NotFound:
        newest = 0
    return sheet.model_copy(update={"version": newest + 1})
