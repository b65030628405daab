"""Rehearsal values."""

from __future__ import annotations

from fractions import Fraction

from hardy_parcel.core.arrival.rehearsal import Moment, Rehearsal, Station, find, suffers_most
from hardy_parcel.core.arrival.screens import Screen, ViewerLine

from ...builders import rehearsal


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
        Moment(reel_index=i, master_s=Fraction(i, 10), packed=value + 3, arrived=value) for i, value in enumerate(values)
    )


def test_the_worst_moments_are_told_in_film_order_and_apart() -> None:
    values = [80.0] * 120
    for index, value in ((30, 20.0), (31, 20.5), (90, 22.0), (5, 25.0)):
        values[index] = value
    found = suffers_most(rehearsal(5, 70, moments=moments(values)), count=3)
    assert [moment.reel_index for moment in found] == [5, 30, 90]
    assert found[1].condition == min(moment.condition for moment in found)
    assert {moment.target_bps for moment in found} == {5_000_000}


def test_without_moments_nothing_is_said_to_suffer() -> None:
    assert suffers_most(rehearsal(5, 70)) == ()
    assert len(suffers_most(rehearsal(5, 70, moments=moments([30.0])))) == 1
