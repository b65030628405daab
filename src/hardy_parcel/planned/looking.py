"""What there is to look at of a parcel: rehearsals whose pictures are still on the disk, and two parcels on the same pictures."""

from __future__ import annotations

import math
from collections.abc import Mapping
from dataclasses import dataclass
from pathlib import Path

from ..core.arrival.journey import Journey
from ..core.arrival.pairing import PairedPicture, ReelLookedAt, paired_pictures
from ..core.arrival.rehearsal import HandledUpload, TrialEncode
from ..core.arrival.screens import Screen, ViewerLine
from ..core.arrival.ticks import ticks
from ..core.arrival.windows import Reel
from ..core.errors import NotFound
from ..processes.messages import UPLOAD_NAME, LookTask, RehearsedFiles
from ..store import results
from ..store.database import Database
from ..store.places import Places
from .now import PlannedParcel

AS_IT_IS = 0
"""In place of an upload rate where the master is sent as it is."""


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptRehearsal:
    """A rehearsal with its files, its reel, the key that its pictures depend on, and condition on arrival on a laptop by place in the
    reel."""

    files: RehearsedFiles
    reel: Reel
    key: str
    measured: Mapping[int, float]

    @property
    def target_bps(self) -> int:
        return self.files.target_bps

    @property
    def folders(self) -> tuple[Path, ...]:
        """The folders of the cache that its files lie in."""
        upload, renditions = self.files.upload, self.files.renditions
        return tuple(folder for folder in (upload and upload.parent, renditions) if folder)


def kept_rehearsals(database: Database, now: PlannedParcel) -> list[KeptRehearsal]:
    """Those of a parcel's curve, by rising rate; of a master that is sent as it is the one there is, at `AS_IT_IS`."""
    journey = now.journey
    reel = results.measurement(database, Reel, journey.reel_key) if journey else None
    if journey is None or reel is None:
        return []
    if now.plan.copied:
        sent = _as_it_is(database, journey, reel)
        return [sent] if sent else []
    measured = {one.target_bps: {m.reel_index: m.arrived for m in one.moments} for one in results.rehearsals(database, journey)}
    found = []
    for place in results.points(database, journey.curve_key):
        uploads = results.folder_of(database, TrialEncode, place.encode_key)
        handled = results.folder_of(database, HandledUpload, place.handled_key) if place.handled_key else None
        if place.target_bps in measured and uploads and (handled or not place.handled_key):
            found.append(KeptRehearsal(
                files=RehearsedFiles(target_bps=place.target_bps, upload=uploads / UPLOAD_NAME, renditions=handled), reel=reel,
                key=place.handled_key or place.encode_key, measured=measured[place.target_bps],
            ))
    return found


def _as_it_is(database: Database, journey: Journey, reel: Reel) -> KeptRehearsal | None:
    if not journey.renditions:
        return KeptRehearsal(
            files=RehearsedFiles(target_bps=AS_IT_IS, upload=None, renditions=None), reel=reel, key=journey.perfect_key, measured={},
        )
    folder = results.folder_of(database, HandledUpload, journey.perfect_key)
    handled = results.measurement(database, HandledUpload, journey.perfect_key)
    if folder is None or handled is None:
        return None
    served = journey.served(Screen.LAPTOP, ViewerLine.GOOD)
    moments = next((one.moments for one in handled.renditions if one.made.name == served), ())
    return KeptRehearsal(
        files=RehearsedFiles(target_bps=AS_IT_IS, upload=None, renditions=folder), reel=reel, key=journey.perfect_key,
        measured={moment.reel_index: moment.condition for moment in moments},
    )


def kept_at(database: Database, now: PlannedParcel, target_bps: int) -> KeptRehearsal:
    """The one at an upload rate (bit/s); raises NotFound where none is, or its pictures were cleared away."""
    found = next((one for one in kept_rehearsals(database, now) if one.target_bps == target_bps), None)
    if found:
        return found
    if now.journey and target_bps in {place.target_bps for place in results.points(database, now.journey.curve_key)}:
        raise NotFound("The pictures of this rehearsal were cleared away to save room.", "Rehearse it again on the bench.")
    raise NotFound("Nothing was rehearsed at this bit rate.", "Rehearse it on the bench first.")


def own_rehearsal(database: Database, now: PlannedParcel) -> KeptRehearsal | None:
    """The rehearsal that shows a parcel best: at its own rate, else at the nearest one by ratio; None without any."""
    kept = kept_rehearsals(database, now)
    if not kept or now.plan.copied:
        return kept[0] if kept else None
    own = now.plan.picture.target_bps.value
    return min(kept, key=lambda one: abs(math.log(one.target_bps / own)))


def looked_at(now: PlannedParcel, kept: KeptRehearsal) -> ReelLookedAt:
    """A rehearsal's reel as its pictures are paired."""
    return ReelLookedAt(times_s=tuple(tick.master_s for tick in ticks(now.encoded, kept.reel)), measured=kept.measured)


def same_pictures(
    left: PlannedParcel, left_kept: KeptRehearsal, right: PlannedParcel, right_kept: KeptRehearsal
) -> tuple[PairedPicture, ...]:
    """Pictures of the master that two rehearsals have in common, in film order."""
    return paired_pictures(looked_at(left, left_kept), looked_at(right, right_kept))


def look_task(places: Places, now: PlannedParcel, kept: KeptRehearsal, index: int, screen: Screen, line: ViewerLine) -> LookTask:
    """What makes picture `index` of a rehearsal's reel at every station, in the folder where all who look at it find it."""
    return LookTask(
        path=now.path, facts=now.facts, plan=now.encoded, destination=now.place, reel=kept.reel, files=kept.files, index=index,
        screen=screen, line=line, folder=places.looks / kept.key / f"{index}-{screen}-{line}",
    )
