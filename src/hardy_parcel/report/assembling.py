"""A report of a master from what is kept of it."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from pathlib import Path

from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadChoice, HardyParcelError
from ..core.master.strip import strip_key
from ..planned.lanes_now import LaneNow, apart_of, lanes_now
from ..planned.looking import look_task, looked_at, own_rehearsal
from ..planned.now import planned_lanes, readable
from ..processes.messages import LookTask
from ..store import settings
from ..store.database import Database
from ..store.places import Places
from .illustrations import address, pictures_in
from .report import Report, ReportPicture, make_report, report_lane

Look = Callable[[LookTask], object]
"""Makes pictures to look at, in a child process."""


def report_of(database: Database, places: Places, master_id: str, *, look: Look, against: str | None = None) -> Report:
    """Everything that is known of a master's lanes now; `look` makes pictures of worst moments that nobody has looked at yet.

    Raises NotFound or BadInput.
    """
    _, facts = readable(database, master_id)
    every = planned_lanes(database, master_id)
    if not every:
        raise BadChoice("This master has no lanes to report.", "Choose destinations first.", code="no_lanes")
    found = lanes_now(database, every, settings.load(database).line)
    differ = apart_of([one.lane for one in found], against)
    lanes = [
        report_lane(
            one.lane, destination=one.now.place, plan=one.now.plan, ours=one.now.ours(), seen=one.seen,
            apart=None if one.lane.beside else differ.get(one.lane.parcel.id), pictures=_pictures(database, places, one, look),
        )
        for one in found
    ]
    return make_report(facts, every[0].plan, lanes, poster=_poster(places.strip(strip_key(facts))))


def _poster(folder: Path) -> str | None:
    """A picture from the middle of the strip, where it was made."""
    made = sorted(folder.glob("*.jpg"), key=lambda path: int(path.stem)) if folder.is_dir() else []
    return address(made[len(made) // 2], "image/jpeg") if made else None


def _pictures(database: Database, places: Places, one: LaneNow, look: Look) -> list[ReportPicture]:
    """The worst moment at every station as a laptop with a good line shows it; none before something was rehearsed."""
    lane = one.lane
    if lane.copied or lane.target_bps is None or one.now.plan.video is None:
        return []
    kept = own_rehearsal(database, one.now)
    if kept is None or not kept.measured:
        return []
    worst = min(kept.measured, key=lambda place: kept.measured[place])
    task = look_task(places, one.now, kept, worst, Screen.LAPTOP, ViewerLine.GOOD)
    at_s = looked_at(one.now, kept).times_s[worst]
    if not pictures_in(task.folder, at_s):
        with suppress(HardyParcelError):  # a report is worth having without them
            look(task)
    return pictures_in(task.folder, at_s)
