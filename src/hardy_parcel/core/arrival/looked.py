"""Looking at a whole packed film: where a packed picture is found in every file of it, and where on a picture it suffers."""

from __future__ import annotations

import math
from fractions import Fraction
from pathlib import Path
from statistics import median

from ..values import Model
from .alignment import Alignment
from .condition import NOTICEABLE_STEP

BLOCKS, LEAST_BLOCK_PX = 144, 64
"""A map has about so many blocks, none smaller than this: the scale judges detail of up to 16 px."""


class LookedFile(Model):
    """A file of a packed film. One that a platform served in its own way has an `alignment` on the packed one; all others show its
    pictures one for one, or every second or third."""

    path: Path
    alignment: Alignment | None = None

    def time_s(self, packed_s: Fraction) -> Fraction | None:
        """When this file shows what the packed one shows at a time, both in s from the first picture; None where it does not."""
        if self.alignment is None:
            return packed_s
        timing = self.alignment.timing
        at = (packed_s - Fraction(timing.offset_s)) / Fraction(timing.speed)
        return at if 0 <= at < Fraction(self.alignment.returned_s) else None


def map_blocks(raster: tuple[int, int]) -> tuple[int, int]:
    """How many blocks a map of a raster (px) has across and down; they are as square as may be."""
    side = max(LEAST_BLOCK_PX, math.sqrt(raster[0] * raster[1] / BLOCKS))
    return max(1, round(raster[0] / side)), max(1, round(raster[1] / side))


class SufferingMap(Model):
    """Condition 0–100 of a picture by blocks, rows of columns."""

    rows: tuple[tuple[float, ...], ...]

    @property
    def worst(self) -> tuple[int, int]:
        """Row and column of the block that suffers most, the first of equals."""
        return min(
            ((row, column) for row, values in enumerate(self.rows) for column in range(len(values))),
            key=lambda place: self.rows[place[0]][place[1]],
        )

    @property
    def even(self) -> bool:
        """Whether no two blocks are a noticeable step apart."""
        every = [value for row in self.rows for value in row]
        return max(every) - min(every) < NOTICEABLE_STEP

    @property
    def sentence(self) -> str:
        """Where it suffers, such as “Suffers most at the lower right: 41 there, 83 for the middle one of all blocks.”"""
        row, column = self.worst
        low, middle = self.rows[row][column], median(value for values in self.rows for value in values)
        if self.even:
            return f"It is alike all over: {low:.0f} where it is worst, {middle:.0f} for the middle one of all blocks."
        place = _place((row + 0.5) / len(self.rows), (column + 0.5) / len(self.rows[0]))
        return f"Suffers most {place}: {low:.0f} there, {middle:.0f} for the middle one of all blocks."


def _place(down: float, across: float) -> str:
    """Where a place is, by thirds of the height and the width."""
    high = ("upper", "", "lower")[min(2, int(down * 3))]
    side = ("left", "", "right")[min(2, int(across * 3))]
    if high and side:
        return f"at the {high} {side}"
    if side:
        return f"on the {side}"
    return {"upper": "at the top", "lower": "at the bottom"}.get(high, "in the middle")
