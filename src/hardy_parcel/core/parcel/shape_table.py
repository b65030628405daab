"""Platforms against shapes: which lanes stand where, and why a place is empty."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction

from ..master.facts import MasterFacts
from ..sheets.sheet import Destination
from ..values import Model, Ratio, shape_text
from .lane import Lane, shape_words

ALIKE = Fraction(1, 50)
"""Shapes that differ by less than this share stand in one column."""
LITTLE = 0.02
"""Share of the picture that may be cut away unasked."""


class ShapeColumn(Model):
    """One shape, width over height, and its name."""

    ratio: Ratio
    words: str


class ShapeCell(Model):
    """What a platform has in one shape: parcels of its lanes, or why there are none; a parcel that a sibling of this shape could be
    made from where one would be taken."""

    parcels: tuple[str, ...] = ()
    why_empty: str = ""
    tries: str | None = None


class ShapeRow(Model):
    """A platform, with all its placements that have a lane, and a cell for every column."""

    sheet_name: str
    cells: tuple[ShapeCell, ...]


class ShapeTable(Model):
    """Platforms down in the order of their lanes, shapes across from wide to upright. Sound alone has no place in it."""

    columns: tuple[ShapeColumn, ...]
    rows: tuple[ShapeRow, ...]


def shape_table(lanes: Sequence[Lane], destinations: Sequence[Destination]) -> ShapeTable:
    """The lanes that have a picture, by platform and shape; `destinations` are theirs.

    Columns are the shapes of the lanes and those that their destinations usually show.
    """
    places = {item.id: item for item in destinations}
    pictured = [(lane, places[lane.destination_id]) for lane in lanes if lane.ratio is not None and not lane.beside]
    wanted = [lane.ratio for lane, _ in pictured if lane.ratio] + [
        destination.placement.usual_shape for _, destination in pictured
    ]
    columns: list[Fraction] = []
    for ratio in sorted(wanted, reverse=True):
        if not any(_alike(ratio, column) for column in columns):
            columns.append(ratio)
    rows = []
    for name in dict.fromkeys(lane.sheet_name for lane, _ in pictured):
        of_platform = [(lane, destination) for lane, destination in pictured if lane.sheet_name == name]
        rows.append(ShapeRow(sheet_name=name, cells=tuple(_cell(column, of_platform) for column in columns)))
    return ShapeTable(
        columns=tuple(ShapeColumn(ratio=ratio, words=shape_words(ratio)) for ratio in columns), rows=tuple(rows)
    )


def shape_question(lanes: Sequence[Lane], facts: MasterFacts) -> str:
    """What is asked once of a film: how frames of another shape are to be filled, with what a crop would lose; empty where no lane needs an
    answer or it was given."""
    other = [
        lane
        for lane in lanes
        if lane.framing and lane.framing.mode and _lost(lane) >= LITTLE and not lane.parcel.choices.framing
    ]
    if not other or facts.mending.framing:
        return ""
    worst = max(other, key=_lost)
    many = f"{len(other)} destinations show" if len(other) > 1 else f"{worst.sheet_name} shows"
    around = "the focus" if facts.mending.focus else "what stands out" if facts.suggested_focus else "the middle"
    most = f"{_lost(worst):.0%} of it is cut away" + (f" for {worst.sheet_name}" if len(other) > 1 else "")
    return f"{many} another shape than this video. The picture is cropped around {around}; {most}."


def _lost(lane: Lane) -> float:
    """Share of the picture that is cut away."""
    return 0.0 if lane.kept_area is None else 1 - lane.kept_area


def _alike(item: Fraction, other: Fraction) -> bool:
    return abs(item - other) <= ALIKE * max(item, other)


def _cell(column: Fraction, of_platform: Sequence[tuple[Lane, Destination]]) -> ShapeCell:
    if parcels := [lane.parcel.id for lane, _ in of_platform if lane.ratio and _alike(lane.ratio, column)]:
        return ShapeCell(parcels=tuple(parcels))
    if taking := next((lane for lane, destination in of_platform if destination.placement.accepts_shape(column)), None):
        return ShapeCell(why_empty="not tried", tries=taking.parcel.id)
    return ShapeCell(why_empty=f"takes {' and '.join(dict.fromkeys(_taken(destination) for _, destination in of_platform))} only")


def _taken(destination: Destination) -> str:
    low, high = shape_text(destination.placement.narrowest), shape_text(destination.placement.widest)
    return low if low == high else f"{low} to {high}"
