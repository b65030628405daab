"""A packed parcel on its way to a platform: what goes along, how far it is, and what came back of it."""

from __future__ import annotations

from collections.abc import Sequence
from enum import StrEnum
from typing import NamedTuple

from ..arrival.docked import SentOver, Words
from ..arrival.journey import Journey, digest
from ..arrival.receiving import AS_IT_IS
from ..arrival.returned import ExpectedView, PackedMeasure, ReturnedFile, SeenView
from ..arrival.screens import Screen, ViewerLine
from ..plan.plan import Plan
from ..sheets.sheet import Destination
from ..values import Model


class SendingState(StrEnum):
    WAITING = "waiting"
    SENT = "sent"
    ARRIVED = "arrived"
    REFUSED = "refused"
    FAILED = "failed"


class Sending(Model):
    """One sending of a packed file. `upload_url` and `dock_id` name it on the other side; `refused` says why it was not taken, `trouble`
    what failed there. `expected` is what was known when it was sent, `files` what came back so far, `packed` the file itself measured
    on the same pictures. Times in s since 1970."""

    id: str
    receipt_id: str
    destination_id: str
    destination_name: str
    file_name: str
    size_bytes: int
    words: Words = Words()
    line: SentOver | None = None
    state: SendingState = SendingState.WAITING
    upload_url: str = ""
    dock_id: str = ""
    refused: tuple[str, ...] = ()
    trouble: str = ""
    expected: tuple[ExpectedView, ...] = ()
    packed: PackedMeasure | None = None
    files: tuple[ReturnedFile, ...] = ()
    sent_at: float
    arrived_at: float | None = None

    @property
    def told(self) -> Sending:
        """The same without what was measured picture by picture, which nobody is shown."""
        files = tuple(one.model_copy(update={"moments": (), "likenesses": ()}) for one in self.files)
        return self.model_copy(update={"files": files, "packed": None})

    def with_file(self, file: ReturnedFile) -> Sending:
        """The same with one more file, or with a newer measure of one that was there."""
        return self.model_copy(update={"files": (*(one for one in self.files if one.name != file.name), file)})


def evidence_key(plan: Plan, destination: Destination) -> str:
    """By what is found what came back of a plan: its very picture and where it went, whatever the sheet says that becomes of it there.
    Sound alone has none."""
    if plan.video is None:
        return ""
    if plan.copied:
        return digest(plan.master_content_id, plan.excerpt.in_s, plan.excerpt.out_s, "as it is", destination.id)
    return digest(Journey(plan, destination).encode_key, destination.id)


class EvidencePlace(NamedTuple):
    """Where what came back counts: the curve of its uploads, and its own upload rate (bit/s)."""

    curve_key: str
    target_bps: int


def evidence_place(plan: Plan, destination: Destination) -> EvidencePlace | None:
    """The curve on which what came back of a plan lies, and where; None for sound alone and for what goes as it is."""
    if plan.video is None or plan.copied:
        return None
    key = digest(Journey(plan, destination).upload_curve_key, destination.id)
    return EvidencePlace(key, plan.picture.target_bps.value)


def sending_sentence(sending: Sending, seen: Sequence[SeenView]) -> str:
    """How it stands with a sending, in a sentence or two."""
    name = sending.destination_name
    if sending.state is SendingState.REFUSED:
        return f"{name} refused it. {' '.join(sending.refused)}"
    if sending.state is SendingState.FAILED:
        return sending.trouble or f"{name} failed to make anything of it."
    if sending.state is SendingState.WAITING:
        return f"It goes to {name}."
    if not sending.files:
        return f"{name} has it and makes what viewers get."
    at = next((one for one in seen if (one.screen, one.line) == (Screen.LAPTOP, ViewerLine.GOOD)), None)
    unmeasured = next((one.unmeasured for one in sending.files if one.unmeasured), "")
    if at and sending.state is SendingState.SENT and at.file != AS_IT_IS:
        return f"So far {name} serves {at.file}, which is {at.condition:.0f} of 100 on a laptop; better ones may come."
    told = [f"On a laptop {name} shows {at.condition:.0f} of 100, {at.words}." if at else unmeasured]
    sound = next((one.sound for one in sending.files if one.sound), None)
    if sound and not at and not unmeasured:
        level = f" at {sound.integrated_lufs:.1f} LUFS".replace("-", "−") if sound.integrated_lufs is not None else ""
        told = [f"{name} serves it with {sound.bitrate_bps / 1000:.0f} kbit/s{level}."]
    return " ".join(filter(None, told))
