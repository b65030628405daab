"""Records beside packed files: written, and searched for what was packed already."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

from pydantic import ValidationError

from ..core.batch.packed_record import ENDING, PackedRecord, record_name
from ..core.parcel.receipt import Receipt
from ..core.plan.plan import Plan
from .files import write_anew

MOST_BYTES = 4 << 20
"""A larger file with the ending of a record is none."""


def write_record(folder: Path, content_id: str, plan: Plan, receipt: Receipt) -> Path:
    """Write a packed file's record beside it, without pictures, whole or not at all. Raises OSError."""
    record = PackedRecord(
        content_id=content_id,
        plan_key=plan.key(),
        destination_id=plan.destination_id,
        receipt=receipt.model_copy(update={"stills": None}),
    )
    path = folder / record_name(receipt.file_name)
    write_anew(path, record.model_dump_json(indent=2))
    return path


def packed_already(folder: Path, content_id: str, plan: Plan) -> Path | None:
    """The file in a folder that was packed from this content by this plan, and still has its size; None where there is none."""
    key = plan.key()
    for record in _records(folder):
        path = folder / record.receipt.file_name
        if record.is_of(content_id, key) and path.is_file() and path.stat().st_size == record.receipt.size_bytes:
            return path
    return None


def _records(folder: Path) -> Iterator[PackedRecord]:
    """The records in a folder; what can't be read as one is passed over."""
    for path in sorted(folder.glob(f"*{ENDING}")):
        try:
            if path.stat().st_size <= MOST_BYTES:
                yield PackedRecord.model_validate_json(path.read_bytes())
        except (OSError, ValidationError):
            continue
