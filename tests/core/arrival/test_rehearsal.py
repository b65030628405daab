"""Rehearsal values."""

from __future__ import annotations

from hardy_parcel.core.arrival.rehearsal import Rehearsal, Station, find
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
