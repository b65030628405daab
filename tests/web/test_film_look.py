"""A whole packed film looked at: any picture of it in every file, as that file decodes, and where it suffers."""

from __future__ import annotations

import io
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from hardy_parcel.core.arrival.screens import Raster
from hardy_parcel.media.pictures import own_picture
from hardy_parcel.media.stills import rgb

from ..dock_process import docks_of
from ..service import Served
from .test_api import problem


@pytest.fixture(scope="module")
def packed(served: Served, tmp_path_factory: pytest.TempPathFactory) -> str:
    """A receipt of one second of Gale, sent and come back."""
    receipt = served.pack(
        served.master("Gale.mp4"), "orrery-wide", {"effort": "quick", "video_bitrate_bps": 400_000}, excerpt=("1/2", "3/2"),
    )
    with docks_of(served, tmp_path_factory.mktemp("docks")):
        served.sent(receipt)
    return receipt


def shown(served: Served, receipt: str, number: int, station: str, screen: str = "laptop") -> np.ndarray:
    found = served.http.get(f"/receipts/{receipt}/look/{number}/{screen}/picture.bmp", params={"station": station}).raise_for_status()
    return np.asarray(Image.open(io.BytesIO(found.content))).astype(int)


def told(served: Served, receipt: str) -> dict:
    return served.http.get(f"/receipts/{receipt}/look").raise_for_status().json()


def test_every_picture_is_what_its_file_decodes_to(served: Served, packed: str) -> None:
    found = told(served, packed)
    assert (found["pictures"], found["frame_rate"]) == (50, "50")
    assert [one["key"] for one in found["stations"]][:2] == ["master", "packed"]
    assert "Orrery" in found["stations"][2]["name"]
    assert found["gone"] == []
    kept = next(one for one in served.http.get("/receipts").json() if one["job_id"] == packed)["receipt"]
    width, height = found["rasters"]["laptop"]
    for number in (0, 31, 30, 49):  # back as well as on
        own = rgb(own_picture(Path(kept["folder"]) / kept["file_name"], number, Fraction(50)), Raster.whole(width, height))
        assert np.abs(shown(served, packed, number, "packed") - own.astype(int)).max() <= 1
    master = rgb(own_picture(served.places.inbox / "Gale.mp4", 25 + 31, Fraction(50)), Raster.whole(width, height))
    assert np.abs(shown(served, packed, 31, "master") - master.astype(int)).max() <= 1
    apart = [np.abs(shown(served, packed, 31, "packed") - shown(served, packed, at, "master")).mean() for at in (27, 31, 35)]
    assert apart[1] == min(apart), "the same picture of both"
    arrived = shown(served, packed, 31, found["stations"][2]["key"])
    assert arrived.shape == (height, width, 3)
    assert apart[1] <= np.abs(arrived - shown(served, packed, 31, "master")).mean() < 30


def test_a_keyframe_comes_at_once_and_moments_tell_what_came_back(served: Served, packed: str) -> None:
    near = served.http.get(f"/receipts/{packed}/look/40/phone/picture.jpg", params={"station": "packed"}).raise_for_status()
    assert near.headers["content-type"] == "image/jpeg"
    assert Image.open(io.BytesIO(near.content)).size == tuple(told(served, packed)["rasters"]["phone"])
    found = told(served, packed)
    assert found["measured"] == "measured on what Orrery · wide film served"
    assert all(0 <= one["number"] < 50 and one["packed"] >= one["served"] - 3 for one in found["moments"])
    assert found["worst"] == min(found["moments"], key=lambda one: one["served"])["number"]


def test_a_map_tells_where_it_suffers(served: Served, packed: str) -> None:
    key = told(served, packed)["stations"][2]["key"]
    found = served.http.get(f"/receipts/{packed}/look/31/laptop/map", params={"station": key}).raise_for_status().json()
    rows = found["rows"]
    assert len({len(row) for row in rows}) == 1
    assert rows[found["worst"][0]][found["worst"][1]] == min(min(row) for row in rows)
    assert all(0 <= value <= 100 for row in rows for value in row)
    problem(served.http.get(f"/receipts/{packed}/look/31/laptop/map", params={"station": "master"}), 422, "no_map")


def test_what_is_not_there_is_said(served: Served, packed: str) -> None:
    problem(served.http.get(f"/receipts/{packed}/look/50/laptop/picture.bmp", params={"station": "packed"}), 404, "not_found")
    problem(served.http.get(f"/receipts/{packed}/look/0/laptop/picture.bmp", params={"station": "elsewhere"}), 404, "not_found")
    problem(served.http.get("/receipts/nothing/look"), 404, "not_found")
    kept = next(one for one in served.http.get("/receipts").json() if one["job_id"] == packed)["receipt"]
    path = Path(kept["folder"]) / kept["file_name"]
    path.rename(path.with_suffix(".away"))
    try:
        found = told(served, packed)
        assert found["stations"][0]["key"] == "master"
        assert "packed" not in [one["key"] for one in found["stations"]]
        assert found["gone"] == [f"{path.name} is not in its folder any more."]
    finally:
        path.with_suffix(".away").rename(path)
