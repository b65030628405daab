"""Removing a video from the shelf."""

from __future__ import annotations

from pathlib import Path

from ..store import jobs, masters
from ..store.database import Database
from ..store.places import Places


def remove_master(database: Database, places: Places, master_id: str) -> bool:
    """Remove a master from the shelf and stop its jobs; gives whether its file was deleted.

    Only a copy that was uploaded here is deleted; every other file stays. Raises NotFound.
    """
    master = masters.get(database, master_id)
    path = Path(master.path)
    is_ours = master.uploaded and path.parent == places.inbox
    for job in jobs.open_of(database, master_id):
        jobs.ask_cancel(database, job.id)
    masters.remove(database, master_id)
    if is_ours:
        path.unlink(missing_ok=True)
    return is_ours
