"""The shipped sheets and how a bad one is refused."""

from __future__ import annotations

import json
from importlib import resources

import pytest

from hardy_parcel.core.errors import BadInput, NotFound
from hardy_parcel.docks.catalogue import destination, read_sheet, shipped_destinations


def sheet_document(name: str) -> dict:
    return json.loads((resources.files("hardy_parcel.docks") / "sheets" / f"{name}.json").read_text())


def test_both_destinations_ship() -> None:
    assert list(shipped_destinations()) == ["orrery-wide", "sprigg-upright"]
    for found in shipped_destinations().values():
        assert found.placement.handling.tiers
        assert found.checked_on.year >= 2026


def test_limits_are_those_of_the_sheets() -> None:
    wide, upright = destination("orrery-wide").placement, destination("sprigg-upright").placement
    assert (wide.max_bytes, wide.max_duration_s, wide.max_frame_rate) == (24 * 10**9, 6 * 3600, 60)
    assert (upright.max_bytes, upright.max_duration_s, upright.max_frame_rate) == (380 * 10**6, 150, 30)
    assert (wide.audio.stereo_bps, wide.audio.target_lufs, wide.audio.turns) == (240_000, -15, "down")
    assert (upright.audio.stereo_bps, upright.audio.target_lufs, upright.audio.turns) == (176_000, -13, "both")


def test_an_unknown_destination_names_those_there_are() -> None:
    with pytest.raises(NotFound, match="orrery-wide, sprigg-upright"):
        destination("somewhere-else")


@pytest.mark.parametrize(
    ("spoil", "path"),
    [
        (lambda d: d.update(colour="blue"), "colour"),
        (lambda d: d["placements"][0].update(max_bytes=0), "placements.0.max_bytes"),
        (lambda d: d["placements"][0]["guidance"][1].update(low_bps="lots"), "placements.0.guidance.1.low_bps"),
        (lambda d: d["placements"][0].update(usual_shape="9/0"), "placements.0.usual_shape"),
        (lambda d: d.update(id="Not An Id"), "id"),
        (lambda d: d.pop("checked_on"), "checked_on"),
    ],
)
def test_a_bad_sheet_is_refused_with_the_path(spoil, path: str) -> None:
    document = sheet_document("sprigg")
    spoil(document)
    with pytest.raises(BadInput, match=path):
        read_sheet(json.dumps(document), name="mine.json")


def test_a_document_that_is_no_json_is_refused() -> None:
    with pytest.raises(BadInput, match=r"mine\.json"):
        read_sheet("sheet: yes", name="mine.json")
