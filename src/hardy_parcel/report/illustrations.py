"""Pictures in a report: they travel inside the page, so that it needs nothing beside it."""

from __future__ import annotations

import base64
from fractions import Fraction
from pathlib import Path

from ..core.values import seconds_text
from .report import ReportPicture

STATIONS = ("master", "packed", "arrived")


def address(path: Path, kind: str) -> str:
    """A file as a data address."""
    return f"data:{kind};base64,{base64.b64encode(path.read_bytes()).decode()}"


def pictures_in(folder: Path, master_s: Fraction) -> list[ReportPicture]:
    """The pictures of one moment (s) at every station as a laptop shows them; none where one is missing."""
    made = [(station, folder / f"{station}.png") for station in STATIONS]
    if not all(path.is_file() for _, path in made):
        return []
    words = f"{seconds_text(master_s)}, as a laptop shows it"
    return [ReportPicture(source=address(path, "image/png"), words=f"{station}, {words}") for station, path in made]
