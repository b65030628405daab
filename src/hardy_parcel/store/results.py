"""What was measured and made: measurements by their keys, points of curves, speeds, receipts."""

from __future__ import annotations

import time
from dataclasses import dataclass
from functools import lru_cache, partial
from pathlib import Path
from sqlite3 import Row
from typing import Any, TypeVar

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
from ..core.errors import NotFound
from ..core.lately import LatelyMade
from ..core.parcel.receipt import Receipt
from ..core.plan.carrying import Speed, speed_from_benchmark, speed_from_history
from ..core.plan.plan import Plan
from ..core.trade.names import Codec
from ..core.values import Model
from .database import Changed, Database, queries

SQL = queries("results")
Measured = TypeVar("Measured", bound=Model)
KINDS: dict[type[Model], str] = {
    Reel: "reel",
    ScaledPicture: "scaled",
    TrialEncode: "encode",
    HandledUpload: "handled",
    UploadProbe: "upload_probe",
    EffortProbe: "effort_probe",
    HandlingProbe: "handling_probe",
}


class KeptReceipt(Model):
    """A receipt with what it belongs to; no parcel where that is gone."""

    job_id: str
    master_id: str
    master_name: str
    destination_id: str
    parcel_id: str | None
    made_at: float
    receipt: Receipt


@dataclass(frozen=True, slots=True)
class BenchmarkSpeed:
    """Pixels/s that a codec encoded at when the machine was measured, and when that was (s since 1970)."""

    pixels_per_s: float
    measured_at: float


@dataclass(frozen=True, slots=True, kw_only=True)
class CurvePlace:
    """Where the measurements of one point of a curve are kept."""

    target_bps: int
    encode_key: str
    handled_key: str | None


def measurement(database: Database, kind: type[Measured], key: str) -> Measured | None:
    """One measurement by its key."""
    found = _row(database, kind, key)
    return _read(kind, found["value"]) if found else None


@lru_cache(maxsize=1024)
def _read(kind: type[Measured], text: str) -> Measured:
    """A measurement from its text; a handle that is dragged asks for the same ones tick by tick."""
    return kind.model_validate_json(text)


def folder_of(database: Database, kind: type[Model], key: str) -> Path | None:
    """Where the files of a measurement are, as long as they are there."""
    found = _row(database, kind, key)
    folder = Path(database.paths.full(found["folder"])) if found and found["folder"] else None
    return folder if folder and folder.is_dir() else None


def measured_folders(database: Database) -> set[Path]:
    """The folders of all measurements that have files."""
    with database.reading() as connection:
        return {Path(database.paths.full(row["folder"])) for row in connection.execute(SQL["folders"])}


def _row(database: Database, kind: type[Model], key: str) -> Row | None:
    with database.reading() as connection:
        return connection.execute(SQL["measurement"], {"kind": KINDS[kind], "key": key}).fetchone()


def keep_measurement(database: Database, content_id: str, key: str, found: Model, folder: Path | None = None) -> None:
    """Keep a measurement of a film under its key."""
    with database.writing(Changed("measurement", content_id)) as connection:
        connection.execute(
            SQL["keep_measurement"],
            {
                "kind": KINDS[type(found)],
                "key": key,
                "value": found.model_dump_json(),
                "folder": database.paths.stored(folder) if folder else None,
                "made_at": time.time(),
            },
        )


def keep_point(database: Database, content_id: str, curve_key: str, place: CurvePlace) -> None:
    """Keep where a point of a film's curve is measured."""
    with database.writing(Changed("measurement", content_id)) as connection:
        connection.execute(
            SQL["keep_point"],
            {
                "curve_key": curve_key,
                "target_bps": place.target_bps,
                "encode_key": place.encode_key,
                "handled_key": place.handled_key,
            },
        )


def points(database: Database, curve_key: str) -> list[CurvePlace]:
    """The points of a curve, by rising rate."""
    with database.reading() as connection:
        return [CurvePlace(**dict(row)) for row in connection.execute(SQL["points"], {"curve_key": curve_key})]


def rehearsals(database: Database, journey: Journey) -> list[Rehearsal]:
    """Rehearsals of the curve that this plan lies on, by rising rate."""
    scaled = measurement(database, ScaledPicture, journey.treated_key)
    reel = measurement(database, Reel, journey.reel_key)
    if scaled is None or reel is None:
        return []
    found = []
    for point in points(database, journey.curve_key):
        encode = measurement(database, TrialEncode, point.encode_key)
        handled = measurement(database, HandledUpload, point.handled_key) if point.handled_key else None
        if encode and (handled or not point.handled_key):
            found.append(
                _rehearsed.of(
                    (journey.curve_key, point.target_bps),
                    (scaled, encode, handled, reel),
                    partial(
                        rehearsal_of, journey, scaled, encode, handled, target_bps=point.target_bps, whole=reel.whole
                    ),
                )
            )
    return found


_rehearsed: LatelyMade[Rehearsal] = LatelyMade(512)
_perfect: LatelyMade[PerfectUpload] = LatelyMade(256)


def perfect(database: Database, journey: Journey) -> PerfectUpload | None:
    """What arrives of a perfect upload on this way; None before it was measured."""
    scaled = measurement(database, ScaledPicture, journey.treated_key)
    reel = measurement(database, Reel, journey.reel_key)
    handled = measurement(database, HandledUpload, journey.perfect_key) if journey.renditions else None
    if scaled is None or reel is None or (journey.renditions and handled is None):
        return None
    make = partial(perfect_upload, journey, scaled, handled, whole=reel.whole)
    return _perfect.of((journey.curve_key, journey.perfect_key), (scaled, handled, reel), make)


def probes(database: Database, journey: Journey) -> Probes | None:
    """What was probed of this way, once all of it is known."""
    scaled = measurement(database, ScaledPicture, journey.probe_treated_key)
    upload = measurement(database, UploadProbe, journey.upload_probe_key)
    effort = measurement(database, EffortProbe, journey.effort_key)
    handling = measurement(database, HandlingProbe, journey.handling_probe_key) if journey.renditions else None
    if scaled is None or upload is None or effort is None or (journey.renditions and handling is None):
        return None
    return Probes(scaled=scaled, upload=upload, effort=effort, handling=handling)


def keep_speed(database: Database, plan: Plan, pictures_per_s: float) -> None:
    """Remember how fast this machine encoded when it did nothing else, over all passes."""
    with database.writing(Changed("speed", "")) as connection:
        key = _speed_key(plan)
        connection.execute(
            SQL["keep_speed"], {**key, "pixels_per_s": pictures_per_s * key["pixels"], "measured_at": time.time()}
        )


def _speed_key(plan: Plan) -> dict[str, Any]:
    video = plan.picture
    framing = video.framing.value
    return {
        "codec": video.codec.value,
        "effort": str(video.effort.value or "none"),
        "rate_control": str(video.rate_control.value),
        "pixels": framing.width * framing.height,
    }


def packing_speed(database: Database, plan: Plan) -> Speed | None:
    """The speed to expect for a plan on this machine, from the last jobs of its codec, effort and about its size.

    Without any, from the machine's benchmark; None without that.
    """
    if plan.video is None or plan.copied:
        return None
    key = _speed_key(plan)
    with database.reading() as connection:
        rows = [row["pixels_per_s"] for row in connection.execute(SQL["speeds"], key)]
    known = speed_from_history([row / key["pixels"] for row in rows])
    return known or speed_from_benchmark(plan, {codec: one.pixels_per_s for codec, one in benchmark(database).items()})


def keep_benchmark(database: Database, codec: Codec, pixels_per_s: float) -> None:
    """Remember how fast a codec encodes here in one pass at effort medium."""
    with database.writing(Changed("settings", "")) as connection:
        values = {"codec": codec, "pixels_per_s": pixels_per_s, "measured_at": time.time()}
        connection.execute(SQL["keep_benchmark"], values)


PROBING = {"codec": "tests", "effort": "none", "rate_control": "none", "pixels": 1}
"""What tests of sample clips are kept as among the speeds."""


def keep_probing_speed(database: Database, times_usual: float) -> None:
    """Remember how many times as fast as usual a test of sample clips was."""
    with database.writing(Changed("speed", "")) as connection:
        connection.execute(SQL["keep_speed"], {**PROBING, "pixels_per_s": times_usual, "measured_at": time.time()})


def probing_speed(database: Database) -> float:
    """How many times as fast as usual the last tests of sample clips were: the middle one of three; 1 before there were any."""
    with database.reading() as connection:
        last = sorted(row["pixels_per_s"] for row in connection.execute(SQL["speeds"], PROBING).fetchmany(3))
    return float(last[len(last) // 2]) if last else 1.0


def benchmark(database: Database) -> dict[Codec, BenchmarkSpeed]:
    """What the machine's benchmark gave, by codec; empty before it was run."""
    with database.reading() as connection:
        return {
            row["codec"]: BenchmarkSpeed(row["pixels_per_s"], row["measured_at"])
            for row in connection.execute(SQL["benchmark"])
        }


def keep_receipt(
    database: Database,
    *,
    job_id: str,
    master_id: str,
    master_name: str,
    parcel_id: str | None,
    plan: Plan,
    receipt: Receipt,
) -> None:
    """Keep a receipt."""
    with database.writing(Changed("receipt", job_id)) as connection:
        connection.execute(
            SQL["keep_receipt"],
            {
                "job_id": job_id,
                "master_id": master_id,
                "master_name": master_name,
                "destination_id": plan.destination_id,
                "parcel_id": parcel_id,
                "receipt": database.paths.stored_json(receipt.model_dump_json()),
                "plan": plan.model_dump_json(),
                "made_at": time.time(),
            },
        )


@dataclass(frozen=True, slots=True, kw_only=True)
class LastPacked:
    """When a parcel was packed last (s since 1970), by which job, and the key of the plan that it had then."""

    job_id: str
    made_at: float
    plan_key: str


def packed_last(database: Database, master_id: str) -> dict[str, LastPacked]:
    """By parcel of a master, its last packing; parcels that were never packed are not among them."""
    with database.reading() as connection:
        rows = connection.execute(SQL["packed_last"], {"master_id": master_id}).fetchall()
    return {
        row["parcel_id"]: LastPacked(job_id=row["job_id"], made_at=row["made_at"], plan_key=_plan_key(row["plan"]))
        for row in rows
    }


@lru_cache(maxsize=128)
def _plan_key(text: str) -> str:
    return Plan.model_validate_json(text).key()


MOST_SHOWN = 200


def receipts(database: Database, *, every: bool = False) -> list[KeptReceipt]:
    """Receipts, latest first: as many as are shown, or all of them."""
    with database.reading() as connection:
        return [
            _receipt(database, row)
            for row in connection.execute(SQL["receipts"], {"most": -1 if every else MOST_SHOWN})
        ]


def receipt(database: Database, job_id: str) -> KeptReceipt:
    """The receipt of a job; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["receipt"], {"job_id": job_id}).fetchone()
    if row is None:
        raise NotFound("There is no such receipt.", "Look on Receipts.")
    return _receipt(database, row)


def packed_plan(database: Database, job_id: str) -> Plan:
    """The plan that a receipt's file was packed by; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["receipt"], {"job_id": job_id}).fetchone()
    if row is None:
        raise NotFound("There is no such receipt.", "Look on Receipts.")
    return Plan.model_validate_json(row["plan"])


def remove_receipt(database: Database, job_id: str) -> None:
    """Take a receipt away."""
    with database.writing(Changed("receipt", job_id)) as connection:
        connection.execute(SQL["remove_receipt"], {"job_id": job_id})


def _receipt(database: Database, row: Row) -> KeptReceipt:
    return KeptReceipt(
        job_id=row["job_id"],
        master_id=row["master_id"],
        master_name=row["master_name"],
        parcel_id=row["parcel_id"],
        destination_id=row["destination_id"],
        made_at=row["made_at"],
        receipt=Receipt.model_validate_json(database.paths.full_json(row["receipt"])),
    )
