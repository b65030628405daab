"""Rehearsal values."""

from __future__ import annotations

import pytest

from hardy_parcel.core.condition import YARDSTICK_QUALITIES, YardstickMark
from hardy_parcel.core.rehearsal import Rehearsal, Station, Yardstick, between, find
from hardy_parcel.core.screens import Screen, ViewerLine

from ..builders import rehearsal


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
