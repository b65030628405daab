"""Two lanes on the same pictures, and one crop at several rates, by the API."""

from __future__ import annotations

import io
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image

from hardy_parcel.docks.catalogue import USUAL_LANES

from ..service import Served
from .test_api import problem

RATES = [300_000, 60_000]


@pytest.fixture(scope="module")
def gale_rehearsed(served: Served) -> Iterator[dict]:
    """Ten pictures of Gale for Orrery in H.264 at two rates, and a sibling of half the size and rate."""
    master = served.master("Gale.mp4")
    served.as_new(master)
    served.show_only(master, [*USUAL_LANES, "earshelf-audio"])
    served.http.put(f"/masters/{master['id']}/excerpt", json={"excerpt": {"in_s": "0", "out_s": "1/5"}}).raise_for_status()
    path = served.parcel_path(master)
    served.http.put(f"{path}/choices", json={"video_bitrate_bps": RATES[0]}).raise_for_status()
    smaller = {"short_side_px": 90, "frame_rate": "25", "video_bitrate_bps": RATES[0]}
    sibling = served.http.post(f"{path}/siblings", json={"part": smaller}).raise_for_status().json()
    right = sibling["summary"]["parcel"]["id"]
    jobs = [
        served.http.post(f"{path}/rehearse", json={"rates": RATES}).raise_for_status().json(),
        served.http.post(f"/parcels/{right}/rehearse", json={"rates": RATES[:1]}).raise_for_status().json(),
    ]
    assert [served.ended(job)["state"] for job in jobs] == ["done", "done"]
    yield {"master": master, "left": path.rsplit("/", 1)[1], "right": right}
    served.http.put(f"/masters/{master['id']}/excerpt", json={"excerpt": None}).raise_for_status()
    served.as_new(master)


def picture(served: Served, path: str) -> np.ndarray:
    found = served.http.get(path.removeprefix("/api")).raise_for_status()
    return np.asarray(Image.open(io.BytesIO(found.content)).convert("RGB")).astype(int)


def pair(served: Served, master: dict, left: str, right: str) -> dict:
    return served.http.get(f"/masters/{master['id']}/pair", params={"left": left, "right": right}).raise_for_status().json()


def parcel(served: Served, master: dict, destination: str) -> str:
    return served.parcel_path(master, destination).rsplit("/", 1)[1]


def test_two_lanes_meet_on_the_same_pictures(served: Served, gale_rehearsed: dict) -> None:
    left, right = gale_rehearsed["left"], gale_rehearsed["right"]
    found = pair(served, gale_rehearsed["master"], left, right)
    assert (found["left"]["parcel_id"], found["right"]["parcel_id"]) == (left, right)
    assert [side["shown_bps"] for side in (found["left"], found["right"])] == [RATES[0], RATES[0]]
    assert found["same_shape"]
    pictures = found["pictures"]
    assert [one["left_index"] for one in pictures] == [0, 2, 4, 6, 8], "every second one of twice as many"
    assert [one["right_index"] for one in pictures] == [0, 1, 2, 3, 4]
    assert all(one["left"] is not None for one in pictures)
    apart = [abs(one["left"] - one["right"]) for one in pictures if one["right"] is not None]
    assert abs(pictures[found["telling"]]["left"] - pictures[found["telling"]]["right"]) == max(apart)
    shown = pictures[-1]
    masters = [
        picture(served, f"/parcels/{one}/look/{RATES[0]}/{shown[f'{side}_index']}/laptop/good/master.png")
        for one, side in ((left, "left"), (right, "right"))
    ]
    assert np.abs(masters[0] - masters[1]).max() <= 1, "it is the same picture of the master"
    sentence = next(one["sentence"] for one in found["sentences"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert sentence.startswith("On a laptop ")
    seen = next(one for one in found["apart"]["seen"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert seen["evidence"] == "rehearsed"
    assert ("give or take" in sentence) is seen["told"]


def test_a_lane_that_was_not_rehearsed_has_no_picture_yet_and_others_are_refused(served: Served, gale_rehearsed: dict) -> None:
    master, left = gale_rehearsed["master"], gale_rehearsed["left"]
    path = f"/masters/{master['id']}/pair"
    found = pair(served, master, left, parcel(served, master, "sprigg-upright"))
    assert (found["right"]["shown_bps"], found["pictures"], found["same_shape"]) == (None, [], False)
    problem(served.http.get(path, params={"left": left, "right": "nobody"}), 404, "not_found")
    sound = parcel(served, master, "earshelf-audio")
    problem(served.http.get(path, params={"left": left, "right": sound}), 422, "no_picture")


def test_the_master_as_it_is_can_be_seen_beside_what_is_encoded(served: Served, gale_rehearsed: dict) -> None:
    left = gale_rehearsed["left"]
    made = served.http.post(f"/parcels/{left}/siblings", json={"part": {"method": "untouched", "video_bitrate_bps": None}})
    copy = made.raise_for_status().json()["summary"]["parcel"]["id"]
    job = served.http.post(f"/parcels/{copy}/rehearse", json={"rates": []}).raise_for_status().json()
    assert served.ended(job)["state"] == "done"
    found = pair(served, gale_rehearsed["master"], copy, left)
    assert found["left"]["shown_bps"] == 0
    assert len(found["pictures"]) == 10
    assert all(one["left"] is not None for one in found["pictures"])
    looks = f"/parcels/{copy}/look/0/4/laptop/good"
    stations = {station: picture(served, f"{looks}/{station}.png") for station in ("master", "packed", "arrived")}
    assert (stations["master"] == stations["packed"]).all()
    assert (stations["arrived"] != stations["master"]).any()
    served.http.delete(f"/parcels/{copy}").raise_for_status()


def test_a_ladder_shows_one_crop_at_every_rate_and_marks_the_first_visible_step(served: Served, gale_rehearsed: dict) -> None:
    path = f"/parcels/{gale_rehearsed['left']}/ladder"
    seen = {"screen": "laptop", "line": "good"}
    found = served.http.get(path, params=seen).raise_for_status().json()
    rungs = found["ladder"]["rungs"]
    assert [rung["target_bps"] for rung in rungs] == RATES
    assert rungs[0]["condition"] > rungs[1]["condition"]
    assert rungs[1]["first_visible"] is (rungs[0]["condition"] - rungs[1]["condition"] >= 6)
    x, y, width, height = found["crop"]
    whole = picture(served, f"{found['pictures']}/whole.png")
    master = picture(served, f"{found['pictures']}/master.png")
    assert list(whole.shape[1::-1]) == found["raster"]
    assert np.abs(master - whole[y : y + height, x : x + width]).max() <= 1
    look = served.http.get(f"/parcels/{gale_rehearsed['left']}/look").json()
    lowest = next(one for one in look["rehearsals"] if one["target_bps"] == RATES[1])["moments"]
    assert found["index"] == min(lowest, key=lambda moment: moment["arrived"])["reel_index"], "the picture that suffers most"
    for rate in RATES:
        arrived = picture(served, f"/parcels/{gale_rehearsed['left']}/look/{rate}/{found['index']}/laptop/good/arrived.png")
        assert (picture(served, f"{found['pictures']}/{rate}.png") == arrived[y : y + height, x : x + width]).all()
    corner = served.http.get(path, params={**seen, "index": 3, "x": 0, "y": 0}).raise_for_status().json()
    assert (corner["crop"][:2], corner["index"]) == ([0, 0], 3)
    assert served.http.get(path, params={**seen, "index": 3, "x": 0, "y": 0}).json() == corner
    problem(served.http.get(path, params={**seen, "index": 9999}), 404, "not_found")
    problem(served.http.get(path, params={**seen, "x": "nan", "y": 0}), 422, "bad_input")
    problem(served.http.get(f"{found['pictures'].removeprefix('/api')}/5.png"), 404, "not_found")
    upright = parcel(served, gale_rehearsed["master"], "sprigg-upright")
    problem(served.http.get(f"/parcels/{upright}/ladder", params=seen), 404, "not_found")
