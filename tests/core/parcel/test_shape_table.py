"""Destinations against shapes."""

from __future__ import annotations

from fractions import Fraction

from hardy_parcel.core.master.facts import Focus, FramingMode, Mending
from hardy_parcel.core.parcel.shape_table import shape_question, shape_table
from hardy_parcel.docks.catalogue import destination

from ...builders import EARSHELF, FERNPOST, ORRERY, SPRIGG, facts
from .test_lane import row

SQUARE = destination("kitewall-square")


def test_every_lane_stands_in_its_place_and_empty_places_say_why() -> None:
    lanes = [
        row(name="wide"),
        row(place=SPRIGG, name="upright"),
        row(place=SQUARE, name="square"),
        row(None, place=EARSHELF, name="sound"),
    ]
    table = shape_table(lanes, [ORRERY, SPRIGG, SQUARE, EARSHELF])
    assert [column.words for column in table.columns] == ["wide 16:9", "square 1:1", "upright 9:16"]
    assert [item.sheet_name for item in table.rows] == ["Orrery", "Sprigg", "Kitewall"], "sound alone has no shape"
    ids = [lane.parcel.id for lane in lanes]
    assert [table.rows[n].cells[m].parcels for n, m in ((0, 0), (1, 2), (2, 1))] == [(ids[0],), (ids[1],), (ids[2],)]
    for item, placement in zip(table.rows, (ORRERY, SPRIGG, SQUARE), strict=True):
        for cell, column in zip(item.cells, table.columns, strict=True):
            assert bool(cell.parcels) != bool(cell.why_empty)
            assert bool(cell.tries) == (not cell.parcels and placement.placement.accepts_shape(column.ratio))
    assert table.rows[1].cells[0].why_empty == "takes 9:16 only"


def test_shapes_that_are_nearly_one_share_a_column_and_siblings_share_a_place() -> None:
    lanes = [
        row(name="first"),
        row(name="second", of="80first", shape=Fraction(16 * 101, 9 * 100)),
        row(place=FERNPOST, name="reel"),
    ]
    table = shape_table(lanes, [ORRERY, FERNPOST])
    assert len(table.columns) == 1
    assert table.rows[0].cells[0].parcels == (lanes[0].parcel.id, lanes[1].parcel.id)


def test_nothing_makes_an_empty_table() -> None:
    assert shape_table([], []).rows == ()


def test_placements_of_one_platform_share_a_row() -> None:
    portrait = destination("kitewall-portrait")
    table = shape_table([row(place=SQUARE, name="square"), row(place=portrait, name="portrait")], [SQUARE, portrait])
    assert [column.words for column in table.columns] == ["square 1:1", "upright 4:5"]
    assert [len(cell.parcels) for cell in table.rows[0].cells] == [1, 1]


def test_a_shape_that_is_taken_can_be_tried_from_a_parcel_that_is_there() -> None:
    lanes = [row(name="wide"), row(place=FERNPOST, name="reel", shape=Fraction(4, 3))]
    table = shape_table(lanes, [ORRERY, FERNPOST])
    assert [column.words for column in table.columns] == ["wide 16:9", "wide 4:3"]
    assert (table.rows[0].cells[1].why_empty, table.rows[0].cells[1].tries) == ("not tried", lanes[0].parcel.id)


def test_a_film_is_asked_once_how_frames_of_another_shape_are_filled() -> None:
    lanes = [
        row(name="wide"),
        row(place=SPRIGG, name="upright"),
        row(place=SQUARE, name="square"),
        row(None, place=EARSHELF, name="sound"),
    ]
    asked = shape_question(lanes, facts())
    assert asked == (
        "2 destinations show another shape than this video. The picture is cropped around the middle; 68% of it is cut away for Sprigg."
    )
    side = Focus(x=0.2)
    assert "around what stands out" in shape_question(lanes, facts().model_copy(update={"suggested_focus": side}))
    assert "around the focus" in shape_question(lanes, facts().model_copy(update={"mending": Mending(focus=side)}))
    assert shape_question(lanes, facts().model_copy(update={"mending": Mending(framing=FramingMode.FILL)})) == ""
    assert shape_question([lanes[0], lanes[3]], facts()) == "", "nothing is cropped"
    assert shape_question([lanes[0], row(place=SPRIGG, framing="fill")], facts()) == "", "every lane says so itself"
    barred = row(place=SQUARE, name="barred").model_copy(update={"kept_area": 1.0})
    assert shape_question([lanes[1], barred], facts()).startswith("Sprigg shows another shape"), "slim bars lose nothing"
    assert shape_question(lanes[1:2], facts()).startswith("Sprigg shows another shape than this video.")
