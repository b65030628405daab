"""Two lanes on the same pictures, and one crop at several rates: by the API and in a real browser."""

from __future__ import annotations

import io
import re
import shutil
from collections.abc import Iterator

import numpy as np
import pytest
from PIL import Image
from playwright.sync_api import Page, expect

from hardy_parcel.docks.catalogue import USUAL_LANES

from ..service import Served
from ..web.test_api import problem
from .conftest import serious_faults

RATES = [300_000, 60_000]


@pytest.fixture(scope="module")
def gale_rehearsed(served: Served) -> Iterator[dict]:
    """Ten pictures of Gale for Orrery in H.264 at two rates, and a sibling of half the size and rate."""
    master = served.master("Gale.mp4")
    served.as_new(master)
    served.show_only(master, [*USUAL_LANES, "earshelf-audio"])
    served.http.put(f"/masters/{master['id']}/excerpt", json={"excerpt": {"in_s": "0", "out_s": "1/5"}}).raise_for_status()
    path = served.parcel_path(master)
    served.http.put(f"{path}/choices", json={"video_bitrate_bps": RATES[0], "effort": "quick"}).raise_for_status()
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


def pictures_key(served: Served, parcel_id: str, rate: int) -> str:
    """The key of a rehearsal's pictures at an upload rate (bit/s)."""
    every = served.http.get(f"/parcels/{parcel_id}/look").raise_for_status().json()["rehearsals"]
    return next(one["pictures_key"] for one in every if one["target_bps"] == rate)


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
        picture(served, f"/parcels/{one}/look/{RATES[0]}/{found[side]['pictures_key']}/{shown[f'{side}_index']}/laptop/good/master.png")
        for one, side in ((left, "left"), (right, "right"))
    ]
    assert np.abs(masters[0] - masters[1]).max() <= 1, "it is the same picture of the master"
    sentence = next(one["sentence"] for one in found["sentences"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert sentence.startswith("On a laptop ")
    seen = next(one for one in found["apart"]["seen"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert seen["evidence"] == "rehearsed"
    assert ("give or take" in sentence) is seen["told"]


def test_master_and_arrival_are_flipped_subtracted_and_looked_at_closely(page: Page, served: Served, gale_rehearsed: dict) -> None:
    page.goto(f"/parcels/{gale_rehearsed['left']}/look?rate={RATES[1]}&picture=4")
    page.get_by_role("radio", name="Flip").press("Space")
    expect(page.locator(".name")).to_have_text(["arrived"])
    page.keyboard.press("f")
    expect(page.locator(".name")).to_have_text(["master"])
    page.keyboard.press("d")
    page.get_by_role("radio", name="× 4", exact=True).press("Space")
    canvas = page.get_by_role("img", name="the difference, 4 times amplified")
    expect(canvas).to_have_js_property("width", 320)
    expect(page.locator(".over")).to_have_count(0)
    base = f"/parcels/{gale_rehearsed['left']}/look/{RATES[1]}/{pictures_key(served, gale_rehearsed['left'], RATES[1])}/4/laptop/good"
    master, arrived = (picture(served, f"{base}/{station}.png") for station in ("master", "arrived"))
    size = canvas.evaluate("one => [one.width, one.height]")
    drawn = canvas.evaluate("one => Array.from(one.getContext('2d').getImageData(0, 0, one.width, one.height).data)")
    seen = np.array(drawn).reshape(size[1], size[0], 4)[..., :3]
    assert np.abs(seen - np.clip(128 + 4 * (arrived - master), 0, 255)).max() <= 4, "one code value, amplified"
    assert serious_faults(page) == []

    page.get_by_role("radio", name="Wipe", exact=True).press("Space")
    page.get_by_role("radio", name="2:1").press("Space")
    shown = page.get_by_alt_text("the picture as arrived")
    assert shown.evaluate("one => one.getBoundingClientRect().width") == pytest.approx(640, abs=1)
    before = shown.evaluate("one => one.getBoundingClientRect().x")
    box = page.locator(".stage").bounding_box()
    page.mouse.move(box["x"] + box["width"] * 0.8, box["y"] + box["height"] * 0.6)
    page.mouse.down()
    page.mouse.move(box["x"] + box["width"] * 0.8 - 40, box["y"] + box["height"] * 0.6)
    page.mouse.up()
    both = [page.get_by_alt_text(f"the picture as {one}").evaluate("one => one.getBoundingClientRect().x") for one in ("arrived", "master")]
    assert both == [pytest.approx(before - 40, abs=1)] * 2, "panned together"
    page.locator(".stage").dblclick()
    expect(page.get_by_role("radio", name="Fit")).to_be_checked()


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
    looks = f"/parcels/{copy}/look/0/{found['left']['pictures_key']}/4/laptop/good"
    stations = {station: picture(served, f"{looks}/{station}.png") for station in ("master", "packed", "arrived")}
    assert (stations["master"] == stations["packed"]).all()
    assert (stations["arrived"] != stations["master"]).any()
    served.http.delete(f"/parcels/{copy}").raise_for_status()


def test_a_report_shows_worst_moments_that_nobody_has_looked_at(served: Served, gale_rehearsed: dict) -> None:
    page = served.http.get(f"/masters/{gale_rehearsed['master']['id']}/report.html").raise_for_status().text
    pictures = re.findall(r"data:image/png;base64,[^\"]+", page)
    assert len(pictures) >= 6, "two lanes at three stations"
    assert len(set(pictures)) >= 5, "of which they may share the master's"


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
        key = pictures_key(served, gale_rehearsed["left"], rate)
        arrived = picture(served, f"/parcels/{gale_rehearsed['left']}/look/{rate}/{key}/{found['index']}/laptop/good/arrived.png")
        assert (picture(served, f"{found['pictures']}/{rate}.png") == arrived[y : y + height, x : x + width]).all()
    corner = served.http.get(path, params={**seen, "index": 3, "x": 0, "y": 0}).raise_for_status().json()
    assert (corner["crop"][:2], corner["index"]) == ([0, 0], 3)
    assert served.http.get(path, params={**seen, "index": 3, "x": 0, "y": 0}).json() == corner
    problem(served.http.get(path, params={**seen, "index": 9999}), 404, "not_found")
    problem(served.http.get(path, params={**seen, "x": "nan", "y": 0}), 422, "bad_input")
    problem(served.http.get(f"{found['pictures'].removeprefix('/api')}/5.png"), 404, "not_found")
    upright = parcel(served, gale_rehearsed["master"], "sprigg-upright")
    problem(served.http.get(f"/parcels/{upright}/ladder", params=seen), 404, "not_found")


def test_two_lanes_are_chosen_among_the_lanes_and_seen_side_by_side_and_wiped(page: Page, gale_rehearsed: dict) -> None:
    page.goto(f"/masters/{gale_rehearsed['master']['id']}")
    lanes = page.get_by_role("table", name="Lanes")
    for box in (0, 1):
        lanes.get_by_role("checkbox", name=re.compile("^Choose ")).nth(box).press("Space")
    page.get_by_role("button", name="See the two on the same pictures").click()
    expect(page.get_by_role("heading", name=re.compile("two lanes on the same pictures"))).to_be_visible()
    both = page.get_by_role("figure")
    expect(both).to_have_count(2)
    for number in (0, 1):
        expect(both.nth(number).get_by_role("img")).to_have_js_property("naturalWidth", 320)
    expect(page.get_by_text(re.compile("picture \\d of 5 in common · differs most"))).to_be_visible()
    strip = page.get_by_role("slider", name="Measured picture")
    strip.focus()
    page.keyboard.press("End")
    expect(page.get_by_text("picture 5 of 5 in common")).to_be_visible()
    sources = [both.nth(number).get_by_role("img").get_attribute("src") for number in (0, 1)]
    for source, place in zip(sources, (8, 4), strict=True):
        assert re.search(f"/look/{RATES[0]}/[0-9a-f]{{20}}/{place}/", source)
    page.get_by_role("radio", name="Over each other").press("Space")
    wipe = page.get_by_role("slider", name="Wipe")
    wipe.focus()
    page.keyboard.press("Home")
    expect(wipe).to_have_attribute("aria-valuenow", "0")
    assert serious_faults(page) == []
    page.get_by_role("button", name="Swap").click()
    expect(page).to_have_url(re.compile(f"left={gale_rehearsed['right']}&right={gale_rehearsed['left']}"))


def test_a_lane_without_a_picture_is_rehearsed_from_there(page: Page, served: Served, gale_rehearsed: dict) -> None:
    master = gale_rehearsed["master"]
    square = parcel(served, master, "kitewall-square")
    served.http.patch(f"/parcels/{square}/choices", json={"short_side_px": 64, "video_bitrate_bps": RATES[0]}).raise_for_status()
    page.goto(f"/masters/{master['id']}/pair?left={gale_rehearsed['left']}&right={square}")
    expect(page.get_by_text("Kitewall square post was not rehearsed yet, so there is no picture of it.")).to_be_visible()
    assert serious_faults(page) == []
    page.get_by_role("button", name="Rehearse Kitewall square post").click()
    expect(page.get_by_role("figure")).to_have_count(2, timeout=40_000)
    expect(page.get_by_role("radio", name="Over each other")).to_be_disabled()


def test_a_ladder_is_looked_at_and_its_crop_moved(page: Page, gale_rehearsed: dict) -> None:
    page.goto(f"/parcels/{gale_rehearsed['left']}/look")
    page.get_by_role("radio", name="Ladder of rates").press("Space")
    rungs = page.get_by_role("list", name="The same crop at every rate").get_by_role("listitem")
    expect(rungs).to_have_count(1 + len(RATES))
    expect(rungs.nth(1)).to_contain_text("0.30 Mbit/s")
    for number in range(1 + len(RATES)):
        expect(rungs.nth(number).get_by_role("img")).not_to_have_js_property("naturalWidth", 0)
    place = page.get_by_role("slider", name=re.compile("Place of the crop"))
    before = place.get_attribute("aria-valuetext")
    place.focus()
    page.keyboard.press("ArrowRight" if int(before.split()[0]) <= 50 else "ArrowLeft")
    expect(place).not_to_have_attribute("aria-valuetext", before)
    page.get_by_role("button", name="Back to where rates differ most").click()
    expect(place).to_have_attribute("aria-valuetext", before)
    strip = page.get_by_role("slider", name="Measured picture")
    strip.focus()
    page.keyboard.press("End")
    expect(page.get_by_text("picture 10 of 10 measured")).to_be_visible()
    assert serious_faults(page) == []


def test_what_was_cleared_away_to_save_room_is_made_again_when_it_is_asked_for(served: Served, gale_rehearsed: dict) -> None:
    master, left, right = gale_rehearsed["master"], gale_rehearsed["left"], gale_rehearsed["right"]
    for kind in ("encodes", "handled"):
        shutil.rmtree(served.places.rehearsals / kind)
    key = pictures_key(served, right, RATES[0])
    gone = pair(served, master, left, right)
    assert [side["shown_bps"] for side in (gone["left"], gone["right"])] == [None, None]
    problem(served.http.get(f"/parcels/{right}/look/{RATES[0]}/{key}/2/phone/slow/arrived.png"), 404, "not_found")
    job = served.http.post(f"/parcels/{right}/rehearse", json={"rates": RATES[:1]}).raise_for_status().json()
    assert served.ended(job)["state"] == "done"
    assert pair(served, master, left, right)["right"]["shown_bps"] == RATES[0]
    served.http.get(f"/parcels/{right}/look/{RATES[0]}/{key}/2/phone/slow/arrived.png").raise_for_status()
