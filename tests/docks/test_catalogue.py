"""The shipped sheets, and one's own over them."""

from __future__ import annotations

import pytest

from hardy_parcel.core.errors import NotFound
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.docks.shipped import shipped_destinations


def test_every_stand_in_ships() -> None:
    assert list(shipped_destinations()) == [
        "orrery-wide", "sprigg-upright", "kitewall-square", "kitewall-portrait", "kitewall-wide", "fernpost-reel", "handover-client",
        "earshelf-audio",
    ]
    for found in shipped_destinations().values():
        assert bool(found.placement.handling.tiers) is (found.sheet_id not in ("handover", "earshelf"))
        assert found.checked_on.year >= 2026


def test_limits_are_those_of_the_sheets() -> None:
    wide, upright = destination("orrery-wide").placement, destination("sprigg-upright").placement
    assert (wide.max_bytes, wide.max_duration_s, wide.max_frame_rate) == (24 * 10**9, 6 * 3600, 60)
    assert (upright.max_bytes, upright.max_duration_s, upright.max_frame_rate) == (380 * 10**6, 150, 30)
    assert (wide.audio.stereo_bps, wide.audio.target_lufs, wide.audio.turns) == (240_000, -15, "down")
    assert (upright.audio.stereo_bps, upright.audio.target_lufs, upright.audio.turns) == (176_000, -13, "both")


def test_an_unknown_destination_names_those_there_are() -> None:
    with pytest.raises(NotFound, match="orrery-wide, sprigg-upright, kitewall-square"):
        destination("somewhere-else")
