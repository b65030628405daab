"""What a child said that measured, put together again without a database: for the command line."""

from __future__ import annotations

from pathlib import Path

from ..core.arrival.forecast import Probes
from ..core.arrival.journey import Journey
from ..core.arrival.probe import EffortProbe, HandlingProbe, UploadProbe
from ..core.arrival.rehearsal import (
    HandledUpload,
    PerfectUpload,
    Rehearsal,
    ScaledPicture,
    TrialEncode,
    perfect_upload,
    rehearsal_of,
)
from ..core.arrival.windows import Reel
from .messages import (
    UPLOAD_NAME,
    EffortProbed,
    EncodeMeasured,
    HandledMeasured,
    HandlingProbed,
    OnTheWay,
    PointReached,
    ReelChosen,
    RehearsedFiles,
    ScaledMeasured,
    UploadProbed,
)


class Measured:
    """Hears everything and keeps what was measured."""

    def __init__(self) -> None:
        self._reel: Reel | None = None
        self._scaled: ScaledPicture | None = None
        self._encodes: dict[str, TrialEncode] = {}
        self._handled: dict[str, HandledUpload] = {}
        self._points: list[PointReached] = []
        self._folders: dict[str, Path] = {}
        self._upload: UploadProbe | None = None
        self._effort: EffortProbe | None = None
        self._handling: HandlingProbe | None = None

    def hear(self, message: OnTheWay) -> None:
        """Keep what a message brings, if anything."""
        match message:
            case ReelChosen():
                self._reel = message.reel
            case ScaledMeasured():
                self._scaled = message.scaled
            case EncodeMeasured():
                self._encodes[message.encode.key] = message.encode
                self._folders[message.encode.key] = message.folder
            case HandledMeasured():
                self._handled[message.handled.key] = message.handled
                self._folders[message.handled.key] = message.folder
            case PointReached():
                self._points.append(message)
            case UploadProbed():
                self._upload = message.probe
            case EffortProbed():
                self._effort = message.probe
            case HandlingProbed():
                self._handling = message.probe

    def fitting(self, journey: Journey) -> dict[str, object]:
        """What a probe task need not try again for this way."""
        kept = {
            "scaled": (self._scaled, journey.probe_treated_key), "upload": (self._upload, journey.upload_probe_key),
            "handling": (self._handling, journey.handling_probe_key),
        }
        return {name: part for name, (part, key) in kept.items() if part and part.key == key}

    def probes(self) -> Probes | None:
        """What was probed; None when something of it was not."""
        if self._scaled is None or self._upload is None or self._effort is None:
            return None
        return Probes(scaled=self._scaled, upload=self._upload, effort=self._effort, handling=self._handling)

    def rehearsals(self, journey: Journey) -> list[Rehearsal]:
        """A rehearsal for every rate that was reached, in their order."""
        if self._reel is None or self._scaled is None:
            return []
        return [
            rehearsal_of(
                journey, self._scaled, self._encodes[point.encode_key],
                self._handled[point.handled_key] if point.handled_key else None, target_bps=point.target_bps, whole=self._reel.whole,
            )
            for point in self._points
        ]

    def files(self, target_bps: int) -> tuple[Reel, RehearsedFiles] | None:
        """The reel of the rehearsal at an upload rate (bit/s) and what it left on the disk; None when it was not reached."""
        point = next((one for one in self._points if one.target_bps == target_bps), None)
        if point is None or self._reel is None:
            return None
        return self._reel, RehearsedFiles(
            target_bps=target_bps, upload=self._folders[point.encode_key] / UPLOAD_NAME,
            renditions=self._folders[point.handled_key] if point.handled_key else None,
        )

    def perfect(self, journey: Journey) -> PerfectUpload | None:
        """What arrives of a perfect upload; None when it was not measured."""
        handled = self._handled.get(journey.perfect_key) if journey.renditions else None
        if self._reel is None or self._scaled is None or (journey.renditions and handled is None):
            return None
        return perfect_upload(journey, self._scaled, handled, whole=self._reel.whole)
