"""The files that were sent to the stand-ins: how far each is, and the making of what viewers get of them, one after the other.

It has a folder of its own and knows sheets and files, nothing of how a file was planned and of no creator's data.

    uploads/       what is on its way, kept by the tus server
    parcels/<id>/  parcel.json and the renditions
    sheets/        rule sheets (JSON) beside those that ship, or in their place
"""

from __future__ import annotations

import json
import logging
import os
import queue
import shutil
import threading
import time
from collections.abc import Mapping
from contextlib import suppress
from pathlib import Path
from typing import Any

from pydantic import ValidationError

from ..core.arrival.docked import DockedParcel, DockState, OfferedFile, SentOver, Words
from ..core.errors import HardyParcelError, NotFound
from ..core.sheets.sheet import Destination, destinations
from ..core.sheets.sheet_documents import read_sheet
from ..core.values import Model
from ..processes.client import ENDED, Child
from ..processes.messages import Docked, DockTask, Failed, ProgressMade, RenditionMade
from .shipped import shipped_sheets

KEEP_DAYS = 14
DAY_S = 24 * 3600
UNFINISHED_S = 3600
"""How long an upload that nobody goes on with is kept."""
MOST_TRIES = 3
WAIT_S = 0.5
log = logging.getLogger(__name__)


class KeptParcel(Model):
    """A parcel that arrived whole: what is told of it, when it came (s since 1970), and how often its making was begun."""

    parcel: DockedParcel
    came_at: float
    tries: int = 0


class Yard:
    """What was sent. `run` makes renditions until `close`; whatever was under way when a yard ended is made anew by the next."""

    def __init__(self, folder: Path) -> None:
        self.folder = folder
        for place in (self.uploads, self._parcels, folder / "sheets"):
            place.mkdir(parents=True, exist_ok=True, mode=0o700)
        self._lock = threading.Lock()
        self._ended = threading.Event()
        self._waiting = threading.Event()
        self._child: Child | None = None

    @property
    def uploads(self) -> Path:
        return self.folder / "uploads"

    @property
    def _parcels(self) -> Path:
        return self.folder / "parcels"

    def places(self) -> dict[str, Destination]:
        """Every dock by its destination's id, as its sheet is now: those that ship, and over them those of the folder."""
        known = {sheet.id: sheet for sheet in shipped_sheets()}
        for path in sorted((self.folder / "sheets").glob("*.json")):
            try:
                sheet = read_sheet(path.read_text(), name=path.name)
                known[sheet.id] = sheet
            except (OSError, UnicodeDecodeError, HardyParcelError):
                log.exception("the sheet %s cannot be used", path)
        return destinations(list(known.values()))

    def place(self, destination_id: str) -> Destination:
        """One dock; raises NotFound."""
        if found := self.places().get(destination_id):
            return found
        raise NotFound(f"There is no dock for {destination_id}.", "Send it to another one.")

    def used_bytes(self, place: Destination) -> int:
        """What is used of a dock's quota by what was taken within its days."""
        since = time.time() - (place.placement.quota_days or KEEP_DAYS) * DAY_S
        counted = (DockState.WAITING, DockState.MAKING, DockState.READY)
        return sum(
            kept.parcel.size_bytes for kept in self._every()
            if kept.parcel.destination_id == place.id and kept.came_at > since and kept.parcel.state in counted
        )

    def line_of(self, upload_id: str) -> SentOver | None:
        """The line that an upload comes over; None where it said nothing of one."""
        metadata = self._info(upload_id).get("metadata", {})
        with suppress(ValidationError):
            return SentOver.model_validate({"rate_bps": metadata.get("line_bps"), "unsteady": metadata.get("line_unsteady") == "yes"})
        return None

    def parcel(self, parcel_id: str) -> DockedParcel:
        """How far a parcel is; raises NotFound for one that was never sent, or long ago."""
        if kept := self._kept(parcel_id):
            return kept.parcel
        info = self._info(parcel_id)
        if not info:
            raise NotFound("There is no such parcel here.", "Send it again.")
        return _told(parcel_id, info, DockState.ARRIVING)

    def file(self, parcel_id: str, name: str) -> Path:
        """A file that viewers can have by now; raises NotFound."""
        kept = self._kept(parcel_id)
        if kept and any(one.file == name for one in kept.parcel.offered):
            return self._renditions(parcel_id) / name
        raise NotFound("There is no such file here.", "Ask what there is.")

    def arrived(self, upload_id: str) -> None:
        """Take over an upload that is whole: its file stays where it is until everything is made of it."""
        with self._lock:
            if self._kept(upload_id) is None and (info := self._info(upload_id)):
                (self._parcels / upload_id).mkdir(exist_ok=True)
                self._keep(KeptParcel(parcel=_told(upload_id, info, DockState.WAITING), came_at=time.time()))
        self._waiting.set()

    def run(self) -> None:
        """Make what viewers get, parcel by parcel in the order they came, until closed."""
        self._take_over()
        while not self._ended.is_set():
            self._end_unfinished()
            todo = [kept for kept in self._every() if not kept.parcel.settled]
            if todo:
                kept = min(todo, key=lambda one: one.came_at)
                try:
                    self._make(kept)
                except Exception:  # whatever it is, the parcels behind it go on
                    log.exception("%s could not be made", kept.parcel.id)
                    failed = kept.parcel.model_copy(update={"state": DockState.FAILED, "trouble": "The dock could not work on it."})
                    self._keep(kept.model_copy(update={"parcel": failed}))
                continue
            self._waiting.clear()
            self._waiting.wait(WAIT_S * 20)

    def close(self) -> None:
        """End what is being made; it is made anew by whoever comes next."""
        self._ended.set()
        self._waiting.set()
        if child := self._child:
            child.kill()

    def _take_over(self) -> None:
        """After a start: what arrived whole but was not taken over, and what nobody will ask for any more."""
        for path in self.uploads.glob("*.info"):
            info = self._info(path.stem)
            if info and info.get("offset") == info.get("size"):
                self.arrived(path.stem)
        for kept in self._every():
            if kept.came_at < time.time() - KEEP_DAYS * DAY_S:
                shutil.rmtree(self._parcels / kept.parcel.id, ignore_errors=True)

    def _end_unfinished(self) -> None:
        """Give up uploads that nobody has sent anything of for an hour."""
        before = time.time() - UNFINISHED_S
        for path in list(self.uploads.glob("*.info")):
            both = (path, path.with_suffix(""))
            with suppress(OSError):
                last = max(file.stat().st_mtime for file in both if file.exists())
                if last < before and self._kept(path.stem) is None:
                    for file in both:
                        file.unlink(missing_ok=True)

    def awaited_bytes(self) -> int:
        """What uploads that are under way will still bring."""
        every = (self._info(path.stem) for path in self.uploads.glob("*.info"))
        return sum(max(0, int(info.get("size") or 0) - int(info.get("offset") or 0)) for info in every if info)

    def _make(self, kept: KeptParcel) -> None:
        parcel, tries = kept.parcel, kept.tries + 1
        folder, upload = self._renditions(parcel.id), self.uploads / parcel.id
        parcel = parcel.model_copy(update={"state": DockState.MAKING, "offered": (), "share": 0.0})
        self._keep(kept.model_copy(update={"parcel": parcel, "tries": tries}))
        shutil.rmtree(folder, ignore_errors=True)
        folder.mkdir()
        ending = Path(parcel.file_name).suffix
        film = folder.parent / f"upload{ending if ending[1:].isalnum() and len(ending) < 12 else ''}"
        try:
            place = self.place(parcel.destination_id)
            if not film.exists():
                os.link(upload, film)
            found = self._rendered(film, place, folder, kept.model_copy(update={"parcel": parcel, "tries": tries}))
        except HardyParcelError as error:
            found = Failed(problem=error.problem())
        except OSError:
            log.exception("%s could not be made", parcel.id)
            found = Failed(problem=HardyParcelError("The dock could not work on it.", "Send it again.").problem())
        if self._ended.is_set() or (found is None and tries < MOST_TRIES):
            return
        now = self._kept(parcel.id)
        parcel = now.parcel if now else parcel
        if isinstance(found, Docked):
            state = DockState.REFUSED if found.refused else DockState.READY
            parcel = parcel.model_copy(update={"state": state, "refused": found.refused, "share": 1.0, "doing": ""})
        elif isinstance(found, Failed) and found.problem.kind in ("unreadable_master", "bad_input", "not_found"):
            parcel = parcel.model_copy(update={"state": DockState.REFUSED, "refused": (found.problem.what,), "doing": ""})
        else:
            what = found.problem.what if isinstance(found, Failed) else "The dock ended several times while it worked on it."
            parcel = parcel.model_copy(update={"state": DockState.FAILED, "trouble": what, "doing": ""})
        self._keep(kept.model_copy(update={"parcel": parcel, "tries": tries}))
        for path in (film, upload, self.uploads / f"{parcel.id}.info"):
            path.unlink(missing_ok=True)

    def _rendered(self, film: Path, place: Destination, folder: Path, kept: KeptParcel) -> Docked | Failed | None:
        """What a confined child makes of a file; None where it died."""
        parcel = kept.parcel
        with Child() as child:
            self._child = child
            child.start(DockTask(path=film, destination=place, folder=folder, used_bytes=self._used_before(place, kept)))
            while not self._ended.is_set():
                try:
                    message = child.messages.get(timeout=WAIT_S)
                except queue.Empty:
                    continue
                if message is ENDED:
                    return None
                if isinstance(message, (Docked, Failed)):
                    return message
                if isinstance(message, ProgressMade):
                    parcel = parcel.model_copy(update={"doing": message.progress.doing, "share": message.progress.share})
                elif isinstance(message, RenditionMade):
                    one = message.rendered
                    offered = OfferedFile(
                        name=one.name, file=one.path.name, width=one.width, height=one.height, size_bytes=one.size_bytes,
                    )
                    parcel = parcel.model_copy(update={"offered": (*parcel.offered, offered)})
                self._keep(kept.model_copy(update={"parcel": parcel}))
        return None

    def _used_before(self, place: Destination, kept: KeptParcel) -> int:
        return max(0, self.used_bytes(place) - kept.parcel.size_bytes)

    def _renditions(self, parcel_id: str) -> Path:
        return self._parcels / parcel_id / "renditions"

    def _every(self) -> list[KeptParcel]:
        found = (self._kept(path.name) for path in self._parcels.iterdir())
        return [kept for kept in found if kept]

    def _kept(self, parcel_id: str) -> KeptParcel | None:
        with suppress(OSError, ValidationError):
            return KeptParcel.model_validate_json((self._parcels / parcel_id / "parcel.json").read_text())
        return None

    def _keep(self, kept: KeptParcel) -> None:
        path = self._parcels / kept.parcel.id / "parcel.json"
        partial = path.with_suffix(".partial")
        partial.write_text(kept.model_dump_json())
        partial.replace(path)

    def _info(self, upload_id: str) -> Mapping[str, Any]:
        with suppress(OSError, ValueError):
            found = json.loads((self.uploads / f"{upload_id}.info").read_text())
            if isinstance(found, dict):
                return {**found, "offset": (self.uploads / upload_id).stat().st_size}  # how far it is, whatever was noted
        return {}


def _told(parcel_id: str, info: Mapping[str, Any], state: DockState) -> DockedParcel:
    metadata = info.get("metadata", {})
    size = int(info.get("size") or 0)
    return DockedParcel(
        id=parcel_id, destination_id=metadata.get("dock", ""), file_name=Path(metadata.get("filename", "film")).name,
        words=words_of(metadata), state=state, size_bytes=size, received_bytes=min(size, int(info.get("offset") or 0)),
    )


def words_of(metadata: Mapping[str, Any]) -> Words:
    """Title, description and tags that came along; raises ValidationError where they are longer than they may be."""
    tags = tuple(tag for tag in str(metadata.get("tags", "")).split("\n") if tag)
    return Words(title=str(metadata.get("title", "")), description=str(metadata.get("description", "")), tags=tags)
