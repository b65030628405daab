"""The table of a batch: each video on each destination with its result, the ones that need a decision first."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from enum import StrEnum

from ..master.checks.stamping import CheckStamp, Remedy
from ..stamps import Outcome, Stamp
from ..values import Model

UNATTENDED = frozenset({Remedy.TRIM, Remedy.REMOVE_BARS, Remedy.DEINTERLACE, Remedy.TURN_DOWN})
"""Remedies that need no further answer; a constant rate and a reading of colours are chosen by a person."""
WRONG_SHAPE = "wrong_shape"
"""The code of a frame whose shape differs from the video's."""


class AttentionLevel(StrEnum):
    """How much a video or a cell needs a person: it can't be packed, should be looked at, or needs nothing."""

    HELD = "held"
    CHECK = "check"
    CLEAR = "clear"


class Concern(Model):
    """One thing that needs a decision. `remedy` would fix it on the video; with `fixable` no further answer is needed for that."""

    code: str
    level: AttentionLevel
    matter: str
    sentence: str
    remedy: Remedy | None = None
    remedy_words: str = ""
    fixable: bool = False


class BatchCell(Model):
    """One video on one destination.

    `result` is what is sent in words, sizes are in bytes and times in s. `condition` and `band` are on a laptop with a good line, in
    points; None where nothing was tested or where the band is too wide. `surprises` are what may not be expected of the file,
    and `refused` says why the destination can't be planned.
    """

    destination_id: str
    name: str
    plan_key: str = ""
    result: str = ""
    size_bytes: float | None = None
    encode_s: float | None = None
    upload_s: float | None = None
    condition: float | None = None
    band: float | None = None
    concerns: tuple[Concern, ...] = ()
    surprises: tuple[str, ...] = ()
    refused: str = ""

    @property
    def level(self) -> AttentionLevel:
        """Held where it can't be packed, else the highest level of its concerns."""
        return AttentionLevel.HELD if self.refused else highest(concern.level for concern in self.concerns)


class BatchRow(Model):
    """One video with its cells. `problem` says why nothing can be planned for it; `level` is the highest of all that it holds."""

    master_id: str
    name: str
    cells: tuple[BatchCell, ...] = ()
    concerns: tuple[Concern, ...] = ()
    problem: str = ""
    level: AttentionLevel


class SharedConcern(Model):
    """The same concern on several videos, with a fix for all of them at once where there is one.

    With `asks_framing` the fix is to say how frames of another shape are filled.
    """

    code: str
    matter: str
    level: AttentionLevel
    master_ids: tuple[str, ...]
    remedy: Remedy | None = None
    remedy_words: str = ""
    fixable: bool = False
    asks_framing: bool = False


class BatchTable(Model):
    """All rows, held ones first and then the ones to check; sums are over cells that can be packed."""

    rows: tuple[BatchRow, ...]
    shared: tuple[SharedConcern, ...]
    parcels: int
    size_bytes: float
    encode_s: float
    upload_s: float


RANK = {AttentionLevel.HELD: 0, AttentionLevel.CHECK: 1, AttentionLevel.CLEAR: 2}


def highest(levels: Iterable[AttentionLevel]) -> AttentionLevel:
    """The level that needs a person most; clear where there is none."""
    return min(levels, key=RANK.__getitem__, default=AttentionLevel.CLEAR)


def master_concerns(stamps: Sequence[CheckStamp]) -> tuple[Concern, ...]:
    """What a video's checks found that is not fixed yet, held findings first."""
    open_stamps = [stamp for stamp in stamps if stamp.outcome is not Outcome.CLEARED and not stamp.done]
    concerns = [
        Concern(
            code=stamp.code,
            level=AttentionLevel.HELD if stamp.outcome is Outcome.HELD else AttentionLevel.CHECK,
            matter=stamp.matter,
            sentence=stamp.seen,
            remedy=stamp.remedy,
            remedy_words=stamp.remedy_words,
            fixable=stamp.remedy in UNATTENDED,
        )
        for stamp in open_stamps
    ]
    return tuple(sorted(concerns, key=lambda concern: RANK[concern.level]))


def plan_concerns(
    stamps: Sequence[Stamp], master_findings: Sequence[Concern], *, is_framed: bool
) -> tuple[Concern, ...]:
    """What a plan's own checks say, without what the video's checks say already.

    With `is_framed` the creator has said how frames of another shape are filled, so their shape is no concern any more.
    """
    codes = {concern.code for concern in master_findings} | ({WRONG_SHAPE} if is_framed else set())
    return tuple(
        Concern(
            code=stamp.code,
            level=AttentionLevel.HELD if stamp.outcome is Outcome.HELD else AttentionLevel.CHECK,
            matter=stamp.matter,
            sentence=stamp.sentence,
        )
        for stamp in stamps
        if stamp.outcome is not Outcome.CLEARED and stamp.code not in codes
    )


def batch_row(master_id: str, name: str, cells: Sequence[BatchCell], concerns: Sequence[Concern]) -> BatchRow:
    """A video's row with the level of all that it holds."""
    levels = [*(cell.level for cell in cells), *(concern.level for concern in concerns)]
    return BatchRow(master_id=master_id, name=name, cells=tuple(cells), concerns=tuple(concerns), level=highest(levels))


def unplanned_row(master_id: str, name: str, problem: str) -> BatchRow:
    """The row of a video for which nothing can be planned."""
    return BatchRow(master_id=master_id, name=name, problem=problem, level=AttentionLevel.HELD)


def batch_table(rows: Sequence[BatchRow]) -> BatchTable:
    """The rows in the order in which they need a person, with what several of them share and what all of them come to."""
    ordered = sorted(rows, key=lambda row: (RANK[row.level], not row.problem, -_count(row), row.name.casefold()))
    cells = [cell for row in ordered for cell in row.cells if cell.level is not AttentionLevel.HELD]
    return BatchTable(
        rows=tuple(ordered),
        shared=shared_concerns(ordered),
        parcels=len(cells),
        size_bytes=sum(cell.size_bytes or 0 for cell in cells),
        encode_s=sum(cell.encode_s or 0 for cell in cells),
        upload_s=sum(cell.upload_s or 0 for cell in cells),
    )


def _count(row: BatchRow) -> int:
    """How many things of a video need a decision."""
    return len({concern.code for concern in (*row.concerns, *(item for cell in row.cells for item in cell.concerns))})


def shared_concerns(rows: Sequence[BatchRow]) -> tuple[SharedConcern, ...]:
    """Concerns by their code, the most frequent first within a level; each video counts once."""
    concerns: dict[str, Concern] = {}
    owners: dict[str, list[str]] = {}
    for row in rows:
        for concern in (*row.concerns, *(concern for cell in row.cells for concern in cell.concerns)):
            concerns.setdefault(concern.code, concern)
            if row.master_id not in owners.setdefault(concern.code, []):
                owners[concern.code].append(row.master_id)
    shared = [
        SharedConcern(
            code=code,
            matter=concern.matter,
            level=concern.level,
            master_ids=tuple(owners[code]),
            remedy=concern.remedy,
            remedy_words=concern.remedy_words,
            fixable=concern.fixable,
            asks_framing=code == WRONG_SHAPE,
        )
        for code, concern in concerns.items()
    ]
    return tuple(sorted(shared, key=lambda item: (RANK[item.level], -len(item.master_ids), item.matter)))
