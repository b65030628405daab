"""What rehearsals leave on the disk, kept within a bound: oldest first, never what is in use."""

from __future__ import annotations

import shutil
import time
from dataclasses import dataclass
from pathlib import Path

from ..store import settings
from ..store.database import Database
from ..store.places import Places

IN_USE_S = 600.0
"""A folder that was written or read this lately is taken to be in use."""
TREATED_S = 1800.0
"""Treated pictures are large and soon made again: they go when nobody used them for so long, whatever room there is."""


TREATED, BROUGHT = "treated", "returned-"


@dataclass(frozen=True, slots=True, kw_only=True)
class CachedFolder:
    """A folder of the cache: its bytes, and when it was written to or marked as used last, in s since 1970."""

    path: Path
    size_bytes: int
    used_at: float


def cached_folders(places: Places) -> list[CachedFolder]:
    """Every folder that may be removed by itself: uploads, renditions, treated reels, pictures looked at, what platforms served. What was
    brought back by hand is the creator's, and stays until it is forgotten."""
    roots = [*(places.rehearsals / kind for kind in ("encodes", "handled", "perfect", TREATED)), places.looks, places.arrivals]
    found = [path for root in roots if root.is_dir() for path in root.iterdir() if path.is_dir()]
    return [_measured(path) for path in found if not path.name.startswith(BROUGHT)]


def _measured(path: Path) -> CachedFolder:
    size, used = 0, path.stat().st_mtime
    for file in path.rglob("*"):
        if file.is_file():
            stat = file.stat()
            size, used = size + stat.st_size, max(used, stat.st_mtime)
    return CachedFolder(path=path, size_bytes=size, used_at=used)


def cache_bytes(places: Places) -> int:
    """Bytes that rehearsals take on the disk now."""
    return sum(folder.size_bytes for folder in cached_folders(places))


class Cache:
    """Keeps the cache within what the creator set. What is removed can be made, or sent, again: its measurements stay."""

    def __init__(self, database: Database, places: Places) -> None:
        self._database, self._places = database, places

    def tidy(self) -> list[Path]:
        """Remove the folders used longest ago until the rest is within the bound; returns those that went."""
        most = settings.load(self._database).cache_gb * 1e9
        folders = sorted(cached_folders(self._places), key=lambda folder: folder.used_at)
        total, gone, now = sum(folder.size_bytes for folder in folders), [], time.time()
        for folder in folders:
            idle = now - folder.used_at
            if idle < IN_USE_S or (total <= most and not (folder.path.parent.name == TREATED and idle > TREATED_S)):
                continue
            shutil.rmtree(folder.path, ignore_errors=True)
            total -= folder.size_bytes
            gone.append(folder.path)
        return gone
