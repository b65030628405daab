"""The rule sheets that ship, as data: all that a stand-in platform knows of what it is to do."""

from __future__ import annotations

from functools import cache
from importlib import resources

from ..core.sheets.sheet import Destination, Sheet, destinations
from ..core.sheets.sheet_documents import read_sheet

ORDER = ("orrery", "sprigg", "kitewall", "fernpost", "handover", "earshelf")
"""In which the shipped ones are offered."""


@cache
def shipped_sheets() -> tuple[Sheet, ...]:
    """Every shipped sheet, in the order they are offered."""
    folder = resources.files(__package__) / "sheets"
    files = {item.name.removesuffix(".json"): item for item in folder.iterdir() if item.name.endswith(".json")}
    names = sorted(files, key=lambda name: (ORDER.index(name) if name in ORDER else len(ORDER), name))
    return tuple(read_sheet(files[name].read_text(), name=name) for name in names)


@cache
def shipped_destinations() -> dict[str, Destination]:
    """Every destination of the shipped sheets by its id, in the order they are offered."""
    return destinations(list(shipped_sheets()))
