"""A packed film with everything beside which it can be looked at: its master, and what platforms served of it."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ..core.arrival.journey import Journey, digest
from ..core.arrival.looked import LookedFile
from ..core.arrival.returned import ReturnedFile, served
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadInput, NotFound
from ..core.master.facts import MasterFacts
from ..core.parcel.sending import Sending
from ..core.plan.plan import Plan
from ..core.sheets.sheet import Destination
from ..core.values import Model, Ratio, mbps_text
from ..docks.catalogue import place_of
from ..store import masters, results, returned_files, sendings
from ..store.database import Database
from ..store.places import Places
from ..store.results import KeptReceipt

MASTER, PACKED = "master", "packed"


class FilmMoment(Model):
    """A measured packed picture: its number, its time in the master (s), and condition 0–100 on a laptop, packed and as served."""

    number: int
    master_s: Ratio
    packed: float | None
    served: float | None

    @property
    def condition(self) -> float:
        """As served where that is known, else as packed."""
        known = self.packed if self.served is None else self.served
        return 100.0 if known is None else known


@dataclass(frozen=True, slots=True, kw_only=True)
class FilmStation:
    """One file of the film. At `film` it can be played, where packed time t (s) is t × `pace` + `from_s` of its own time."""

    key: str
    name: str
    words: str
    file: LookedFile
    film: str
    from_s: float = 0.0
    pace: float = 1.0

    def version(self) -> str:
        """A name of the file as it is now, and of how it lies on the packed one; empty where it is not there."""
        try:
            stat = self.file.path.stat()
        except OSError:
            return ""
        return digest(self.file.model_dump_json(), stat.st_mtime_ns, stat.st_size)


@dataclass(frozen=True, slots=True, kw_only=True)
class LookedFilm:
    """A packed film to be looked at. `facts` are its master's, None where that is gone; `gone` says what is not there any more, and
    `measured` where the moments come from."""

    kept: KeptReceipt
    plan: Plan
    place: Destination
    master: Path | None
    facts: MasterFacts | None
    stations: tuple[FilmStation, ...]
    gone: tuple[str, ...]
    moments: tuple[FilmMoment, ...]
    measured: str

    def station(self, key: str) -> FilmStation | None:
        """One of its files; None where it is not there, or not any more."""
        return next((one for one in self.stations if one.key == key), None)

    @property
    def worst(self) -> int:
        """The number of the picture that suffers most, as far as any was measured; of what was never sent what its receipt says."""
        poorest_s = self.kept.receipt.poorest_s
        if self.moments:
            return min(self.moments, key=lambda one: one.condition).number
        return _number(self.plan, Fraction(poorest_s)) if poorest_s is not None else 0


def looked_film(database: Database, places: Places, receipt_id: str) -> LookedFilm:
    """Everything to look at of a receipt. Raises NotFound without it, BadInput where it has no picture or no file is left."""
    kept, plan = results.receipt(database, receipt_id), results.packed_plan(database, receipt_id)
    if plan.video is None:
        raise BadInput(f"{kept.receipt.file_name} has sound alone.", "Choose a parcel with a picture.", code="no_picture")
    stations, gone = list[FilmStation](), list[str]()
    master, facts = _master(database, kept, plan)
    if master and facts:
        stations.append(FilmStation(
            key=MASTER, name="master", words="the master", file=LookedFile(path=master), film=f"/api/masters/{kept.master_id}/film",
            from_s=float(plan.excerpt.in_s),
        ))
    else:
        gone.append(f"The master {kept.master_name} is not there any more, so nothing can be looked at beside it.")
    packed = Path(kept.receipt.folder) / kept.receipt.file_name
    if packed.is_file():
        stations.append(FilmStation(
            key=PACKED, name="packed", words="the packed file", file=LookedFile(path=packed), film=f"/api/receipts/{receipt_id}/file",
        ))
    else:
        gone.append(f"{packed.name} is not in its folder any more.")
    latest: dict[str, Sending] = {}
    for sending in sendings.of_receipt(database, receipt_id):
        if sending.files:
            latest.setdefault(sending.destination_id, sending)
    for sending in latest.values():
        stations += _sent(places, sending, place_of(database, plan, sending.destination_id).sheet_name)
    stations += _brought(database, receipt_id)
    if not stations:
        raise BadInput(f"Nothing is left of {packed.name} to be looked at.", "Pack it again.", code="gone")
    moments, measured = _moments(database, plan, next(iter(latest.values()), None), receipt_id)
    return LookedFilm(
        kept=kept, plan=plan, place=place_of(database, plan, None), master=master, facts=facts, stations=tuple(stations),
        gone=tuple(gone), moments=moments, measured=measured,
    )


def _master(database: Database, kept: KeptReceipt, plan: Plan) -> tuple[Path | None, MasterFacts | None]:
    try:
        master = masters.get(database, kept.master_id)
    except NotFound:
        return None, None
    facts = master.facts
    here = isinstance(facts, MasterFacts) and facts.content_id == plan.master_content_id and Path(master.path).is_file()
    return (Path(master.path), facts) if here else (None, None)


def _sent(places: Places, sending: Sending, sheet_name: str) -> list[FilmStation]:
    """What came back of a sending and lies over the packed picture as it is, best first."""
    found = []
    for one in sorted(sending.files, key=lambda one: -one.short_side_px):
        path = places.arrivals / sending.id / one.file
        if one.likenesses and path.is_file():
            found.append(FilmStation(
                key=f"{sending.id}-{one.file}", name=f"{sheet_name} {_spelt(one.name)}",
                words=f"{one.width}×{one.height} at {mbps_text(one.video_bps)}", file=LookedFile(path=path),
                film=f"/api/sendings/{sending.id}/files/{one.file}",
            ))
    return found


def _spelt(name: str) -> str:
    return name.replace("h264", "H.264").replace("vp9", "VP9")


def _brought(database: Database, receipt_id: str) -> list[FilmStation]:
    """What was brought back by hand, where it lies in the packed film."""
    found = []
    for one in returned_files.every(database):
        if one.receipt_id == receipt_id and one.own and one.found and Path(one.path).is_file():
            alignment = one.found.alignment
            found.append(FilmStation(
                key=f"returned-{one.id}", name=one.file_name, words=f"brought back from {one.destination_name}",
                file=LookedFile(path=Path(one.path), alignment=alignment), film=f"/api/returned/{one.id}/file",
                from_s=-alignment.timing.offset_s / alignment.timing.speed, pace=1 / alignment.timing.speed,
            ))
    return found


def _moments(database: Database, plan: Plan, sending: Sending | None, receipt_id: str) -> tuple[tuple[FilmMoment, ...], str]:
    """Measured pictures in film order: of what came back, else of what was rehearsed at this very rate, and which of the two."""
    if sending and sending.packed:
        best = _best(plan, place_of(database, plan, sending.destination_id), sending.files)
        seen = {one.reel_index: one.condition for one in best.moments} if best else {}
        return tuple(
            FilmMoment(number=one.reel_index, master_s=one.master_s, packed=one.condition, served=seen.get(one.reel_index))
            for one in sending.packed.moments
        ), f"measured on what {sending.destination_name} served"
    brought = [one for one in returned_files.every(database) if one.receipt_id == receipt_id and one.found]
    if brought and brought[0].found:
        return tuple(
            FilmMoment(number=_number(plan, one.master_s), master_s=one.master_s, packed=None, served=one.seen[Screen.LAPTOP])
            for one in brought[0].found.observation.windows
        ), f"measured on {brought[0].file_name}"
    rehearsed = results.rehearsals(database, Journey(plan, place_of(database, plan, None))) if not plan.copied else []
    own = next((one for one in rehearsed if one.target_bps == plan.picture.target_bps.value), None)
    if own is None:
        return (), ""
    return tuple(
        FilmMoment(number=_number(plan, one.master_s), master_s=one.master_s, packed=one.packed, served=one.arrived)
        for one in own.moments
    ), "rehearsed"


def _best(plan: Plan, place: Destination, files: Sequence[ReturnedFile]) -> ReturnedFile | None:
    return served(Journey(plan, place), files, Screen.LAPTOP, ViewerLine.GOOD)


def _number(plan: Plan, master_s: Fraction) -> int:
    """Which packed picture shows a time of the master."""
    number = math.floor((master_s - plan.excerpt.in_s) * plan.picture.frame_rate.value)
    return min(max(0, number), plan.picture.frames - 1)
