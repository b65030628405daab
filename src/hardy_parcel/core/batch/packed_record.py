"""The record that lies beside a packed file: of which content and by which plan it was made, with its receipt."""

from __future__ import annotations

from ..parcel.receipt import Receipt
from ..values import Model

ENDING = ".receipt.json"


class PackedRecord(Model):
    """What a file was made from. `verify` takes it as a receipt; `pack --skip-existing` looks for the same content and plan."""

    content_id: str
    plan_key: str
    destination_id: str
    receipt: Receipt

    def is_of(self, content_id: str, plan_key: str) -> bool:
        """Whether it is of this content, packed by this plan."""
        return (self.content_id, self.plan_key) == (content_id, plan_key)


def record_name(file_name: str) -> str:
    """The name of the record of a file, in the same folder."""
    return f"{file_name}{ENDING}"
