"""The rule sheets that ship with the program."""

from __future__ import annotations

from functools import cache
from importlib import resources

from pydantic import ValidationError

from ..core.errors import BadInput, NotFound
from ..core.sheets import Destination, Sheet, destinations


def read_sheet(text: str, *, name: str) -> Sheet:
    """A sheet from its JSON text; raises BadInput naming the path and the reason of every error."""
    try:
        return Sheet.model_validate_json(text)
    except ValidationError as error:
        faults = "; ".join(f"{'.'.join(map(str, fault['loc'])) or 'document'}: {fault['msg']}" for fault in error.errors())
        raise BadInput(f"The rule sheet {name} cannot be used: {faults}.", "Correct it and try again.") from error


@cache
def shipped_destinations() -> dict[str, Destination]:
    """Every destination of the shipped sheets by its id, in the order they are offered."""
    folder = resources.files(__package__) / "sheets"
    files = sorted((item for item in folder.iterdir() if item.name.endswith(".json")), key=lambda item: item.name)
    return destinations([read_sheet(item.read_text(), name=item.name) for item in files])


def destination(destination_id: str) -> Destination:
    """The destination of this id; raises NotFound naming those there are."""
    known = shipped_destinations()
    if destination_id not in known:
        raise NotFound(f"There is no destination '{destination_id}'.", f"Choose one of: {', '.join(known)}.")
    return known[destination_id]
