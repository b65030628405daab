"""What was measured and made: rehearsals, perfect uploads, speeds, receipts."""

from __future__ import annotations

import statistics
import time
from pathlib import Path

from ..core.arrival.rehearsal import PerfectUpload, Rehearsal
from ..core.arrival.windows import Reel
from ..core.parcel.receipt import Receipt
from ..core.plan.plan import Plan
from ..core.values import Model
from .database import Database, queries


class KeptReceipt(Model):
    """A receipt with what it belongs to."""

    job_id: str
    master_id: str
    master_name: str
    destination_id: str
    made_at: float
    receipt: Receipt


def rehearsals(database: Database, picture_key: str) -> list[Rehearsal]:
    """Rehearsals of one curve, by rising rate."""
    with database.reading() as connection:
        rows = connection.execute(queries("results")["rehearsals"], {"picture_key": picture_key}).fetchall()
    return [Rehearsal.model_validate_json(row["rehearsal"]) for row in rows]


def rehearsal(database: Database, picture_key: str, target_bps: int) -> tuple[Path, Rehearsal] | None:
    """One rehearsal and the folder with its files."""
    values = {"picture_key": picture_key, "target_bps": target_bps}
    with database.reading() as connection:
        row = connection.execute(queries("results")["rehearsal"], values).fetchone()
    return (Path(row["folder"]), Rehearsal.model_validate_json(row["rehearsal"])) if row else None


def keep_rehearsal(database: Database, found: Rehearsal, folder: Path) -> None:
    """Keep a rehearsal."""
    with database.writing() as connection:
        connection.execute(
            queries("results")["keep_rehearsal"],
            {
                "picture_key": found.picture_key, "target_bps": found.target_bps, "folder": str(folder),
                "rehearsal": found.model_dump_json(), "made_at": time.time(),
            },
        )


def perfect(database: Database, picture_key: str) -> tuple[Reel, PerfectUpload] | None:
    """The reel and the perfect upload of one curve."""
    with database.reading() as connection:
        row = connection.execute(queries("results")["perfect"], {"picture_key": picture_key}).fetchone()
    if row is None:
        return None
    return Reel.model_validate_json(row["reel"]), PerfectUpload.model_validate_json(row["perfect"])


def keep_perfect(database: Database, reel: Reel, found: PerfectUpload) -> None:
    """Keep the reel and the perfect upload of one curve."""
    with database.writing() as connection:
        connection.execute(
            queries("results")["keep_perfect"],
            {
                "picture_key": found.picture_key, "reel": reel.model_dump_json(),
                "perfect": found.model_dump_json(), "made_at": time.time(),
            },
        )


def keep_speed(database: Database, plan: Plan, pictures_per_s: float) -> None:
    """Remember how fast this machine packed, over all passes."""
    framing = plan.picture.framing.value
    with database.writing() as connection:
        connection.execute(
            queries("results")["keep_speed"],
            {
                **_speed_key(plan), "pixels_per_s": pictures_per_s * framing.width * framing.height, "measured_at": time.time(),
            },
        )


def _speed_key(plan: Plan) -> dict[str, str]:
    video = plan.picture
    return {"codec": video.codec.value, "effort": str(video.effort.value or "none"), "rate_control": str(video.rate_control.value)}


def packing_speed(database: Database, plan: Plan) -> float | None:
    """Pictures/s to expect for a plan from the last jobs of its effort on this machine; None without any."""
    if plan.video is None or plan.copied:
        return None
    with database.reading() as connection:
        rows = [row["pixels_per_s"] for row in connection.execute(queries("results")["speeds"], _speed_key(plan))]
    framing = plan.video.framing.value
    return statistics.median(rows) / (framing.width * framing.height) if rows else None


def keep_receipt(
    database: Database, *, job_id: str, master_id: str, master_name: str, plan: Plan, receipt: Receipt
) -> None:
    """Keep a receipt."""
    with database.writing() as connection:
        connection.execute(
            queries("results")["keep_receipt"],
            {
                "job_id": job_id, "master_id": master_id, "master_name": master_name,
                "destination_id": plan.destination_id, "receipt": receipt.model_dump_json(),
                "plan": plan.model_dump_json(), "made_at": time.time(),
            },
        )


def receipts(database: Database) -> list[KeptReceipt]:
    """Receipts, latest first."""
    with database.reading() as connection:
        rows = connection.execute(queries("results")["receipts"]).fetchall()
    return [
        KeptReceipt(
            job_id=row["job_id"], master_id=row["master_id"], master_name=row["master_name"],
            destination_id=row["destination_id"], made_at=row["made_at"],
            receipt=Receipt.model_validate_json(row["receipt"]),
        )
        for row in rows
    ]
