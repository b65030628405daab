"""Testing clips for all lanes of a video."""

from __future__ import annotations

from ..store.database import Database
from ..store.jobs import Job
from ..store.places import Places
from .lanes_now import larger_frame
from .now import planned_lanes
from .probes import LAST, queue_probes


def queue_tests(database: Database, places: Places, master_id: str) -> list[Job]:
    """Queue tests for every lane of a master that lacks them and was not tested in vain, then for larger frames beside them.

    Gives the jobs that bring each lane's first figure, none where all is known or testing is switched off.
    """
    lanes = planned_lanes(database, master_id)
    queued = [queue_probes(database, places, lane) for lane in lanes]
    for lane in lanes:
        if lane.parcel.sibling_of is None and (larger := larger_frame(database, lanes, lane)):
            frame = larger.plan.picture.framing.value
            queued.append(queue_probes(database, places, larger, rank=LAST, way=f"{frame.width}×{frame.height}"))
    return list({job.id: job for job in queued if job}.values())
