"""Rehearsal values."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.condition import YARDSTICK_QUALITIES, YardstickMark
from hardy_parcel.core.arrival.rehearsal import Moment, Rehearsal, Station, Yardstick, between, find, suffers_most
from hardy_parcel.core.arrival.screens import Screen, ViewerLine

from ...builders import rehearsal


def yardstick(width: int, top_db: float) -> Yardstick:
    marks = tuple(YardstickMark(quality=q, xpsnr_db=top_db - i) for i, q in enumerate(YARDSTICK_QUALITIES))
    return Yardstick(raster=(width, width * 9 // 16), marks=marks)


def test_a_yardstick_between_two_rasters() -> None:
    narrow, wide = yardstick(480, 50.0), yardstick(1920, 46.0)
    middle = between(narrow, wide, (960, 540))
    assert [mark.xpsnr_db for mark in middle.marks] == pytest.approx([48.0, 47.0, 46.0, 45.0, 44.0])
    assert between(narrow, wide, (480, 270)) is narrow
    assert between(narrow, wide, (1920, 1080)) is wide


def test_arrivals_are_found_by_station_screen_and_line() -> None:
    found = rehearsal(5, 70).arrivals
    assert find(found, Station.ARRIVED, Screen.TV, ViewerLine.SLOW).line is ViewerLine.SLOW
    assert find(found, Station.PACKED, Screen.TV, ViewerLine.SLOW).condition == 97
    assert find((), Station.PACKED, Screen.TV, ViewerLine.SLOW) is None


def test_a_rehearsal_survives_storage() -> None:
    kept = rehearsal(5, 70)
    assert Rehearsal.model_validate_json(kept.model_dump_json()) == kept


def moments(values: list[float]) -> tuple[Moment, ...]:
    return tuple(
        Moment(reel_index=i, master_s=Fraction(i, 10), packed_db=db + 3, arrived_db=db) for i, db in enumerate(values)
    )


def test_the_worst_moments_are_told_in_film_order_and_apart() -> None:
    values = [40.0] * 120
    for index, db in ((30, 20.0), (31, 20.5), (90, 22.0), (5, 25.0)):
        values[index] = db
    marks = list(yardstick(1600, 50.0).marks)
    found = suffers_most(rehearsal(5, 70, moments=moments(values)), marks, count=3)
    assert [moment.reel_index for moment in found] == [5, 30, 90]
    assert found[1].condition == min(moment.condition for moment in found)
    assert {moment.target_bps for moment in found} == {5_000_000}


def test_without_moments_or_a_yardstick_nothing_is_said_to_suffer() -> None:
    marks = list(yardstick(1600, 50.0).marks)
    assert suffers_most(rehearsal(5, 70), marks) == ()
    assert suffers_most(rehearsal(5, 70, moments=moments([30.0, 31.0])), []) == ()
    assert len(suffers_most(rehearsal(5, 70, moments=moments([30.0])), marks)) == 1
