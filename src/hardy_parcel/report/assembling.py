"""A report of a master from what is kept of it."""

from __future__ import annotations

import base64
from pathlib import Path

from ..core.arrival.moments import nearest_rehearsal, suffers_most
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadChoice
from ..core.master.strip import strip_key
from ..core.values import seconds_text
from ..planned.lanes_now import LaneNow, apart_of, lanes_now
from ..planned.now import planned_lanes, readable
from ..store import results, settings
from ..store.database import Database
from ..store.places import Places
from .report import Report, ReportPicture, make_report, report_lane

STATIONS = ("master", "packed", "arrived")


def report_of(database: Database, places: Places, master_id: str, *, against: str | None = None) -> Report:
    """Everything that is known of a master's lanes now; pictures are those that were made to look at. Raises NotFound or BadInput."""
    _, facts = readable(database, master_id)
    every = planned_lanes(database, master_id)
    if not every:
        raise BadChoice("This master has no lanes to report.", "Choose destinations first.", code="no_lanes")
    found = lanes_now(database, every, settings.load(database).line)
    differ = apart_of([one.lane for one in found], against)
    lanes = [
        report_lane(
            one.lane, destination=one.now.place, plan=one.now.plan, ours=one.now.ours(), seen=one.seen,
            apart=None if one.lane.beside else differ.get(one.lane.parcel.id), pictures=_pictures(database, places, one),
        )
        for one in found
    ]
    return make_report(facts, every[0].plan, lanes, poster=_poster(places.strip(strip_key(facts))))


def _poster(folder: Path) -> str | None:
    """A picture from the middle of the strip, where it was made."""
    made = sorted(folder.glob("*.jpg"), key=lambda path: int(path.stem)) if folder.is_dir() else []
    return _address(made[len(made) // 2], "image/jpeg") if made else None


def _address(path: Path, kind: str) -> str:
    return f"data:{kind};base64,{base64.b64encode(path.read_bytes()).decode()}"


def _pictures(database: Database, places: Places, one: LaneNow) -> list[ReportPicture]:
    """The worst moment at every station as it was looked at on a laptop with a good line; none where nobody has looked yet."""
    journey, lane = one.now.journey, one.lane
    if journey is None or lane.copied or lane.target_bps is None:
        return []
    nearest = nearest_rehearsal(lane.target_bps, results.rehearsals(database, journey))
    if nearest is None:
        return []
    place = next((one for one in results.points(database, journey.curve_key) if one.target_bps == nearest.target_bps), None)
    for moment in suffers_most(nearest):
        if place is None:
            break
        folder = places.looks / (place.handled_key or place.encode_key) / f"{moment.reel_index}-{Screen.LAPTOP}-{ViewerLine.GOOD}"
        made = [(station, folder / f"{station}.png") for station in STATIONS]
        if all(path.is_file() for _, path in made):
            words = f"{seconds_text(moment.master_s)}, as a laptop shows it"
            return [ReportPicture(source=_address(path, "image/png"), words=f"{station}, {words}") for station, path in made]
    return []

