"""What a platform tells of a file that it was sent, and what goes along with the file: the same for both sides of the line."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import Field

from ..values import Model

RATE_AROUND_S = 6.0
"""An unsteady line swings once in so many seconds."""
LEAST_SHARE, MOST_SHARE = 0.25, 1.25
"""Between which shares of its rate."""


class Words(Model):
    """What is told of a film beside the file: its title, a description and tags."""

    title: Annotated[str, Field(max_length=300)] = ""
    description: Annotated[str, Field(max_length=5000)] = ""
    tags: Annotated[tuple[Annotated[str, Field(min_length=1, max_length=60)], ...], Field(max_length=40)] = ()

    @property
    def empty(self) -> bool:
        return not (self.title or self.description or self.tags)


class SentOver(Model):
    """The line that a file is sent over: bit/s, and whether that swings and is cut off every so often."""

    rate_bps: Annotated[float, Field(gt=0, le=1e12)]
    unsteady: bool = False


class DockState(StrEnum):
    ARRIVING = "arriving"
    WAITING = "waiting"
    MAKING = "making"
    READY = "ready"
    REFUSED = "refused"
    FAILED = "failed"


class OfferedFile(Model):
    """A file that viewers can have by now: its name among the renditions, the name of the file, its size in px (0 for sound) and bytes."""

    name: str
    file: str
    width: int = 0
    height: int = 0
    size_bytes: int


class DockedParcel(Model):
    """How far a file is at a platform. `refused` says why it was not taken, each reason a sentence, and `trouble` what failed there;
    `offered` grows while it is being made, smallest first."""

    id: str
    destination_id: str
    file_name: str
    words: Words = Words()
    state: DockState
    size_bytes: int
    received_bytes: int
    doing: str = ""
    share: float = 0.0
    refused: tuple[str, ...] = ()
    trouble: str = ""
    offered: tuple[OfferedFile, ...] = ()

    @property
    def settled(self) -> bool:
        """Whether nothing more comes of it."""
        return self.state in (DockState.READY, DockState.REFUSED, DockState.FAILED)


def unsteady_share(at_s: float) -> float:
    """What an unsteady line gives of its rate at a time (s since it was opened): a swing between two shares."""
    phase = at_s % RATE_AROUND_S / RATE_AROUND_S
    return LEAST_SHARE + (MOST_SHARE - LEAST_SHARE) * abs(2 * phase - 1)
