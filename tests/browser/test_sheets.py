"""Rule sheets, lanes and choices in a real browser."""

from __future__ import annotations

import json
import re
from pathlib import Path

from playwright.sync_api import Page, expect

from ..service import Served
from ..web.test_sheets import with_guidance
from .conftest import choose_of_lane, serious_faults

TABLE = "Size\t24, 25, 30 fps\t50, 60 fps\n1080p\t8 Mbps\tplenty\n720p\t5 Mbps\t7.5 Mbps\nSee you at the lighthouse"


def test_a_sheet_is_made_pasted_into_kept_and_planned_with(page: Page, served: Served, gale_master: dict) -> None:
    page.goto("/sheets")
    expect(page.get_by_role("navigation", name="Sheets").get_by_role("link", name=re.compile("Earshelf"))).to_be_visible()
    page.get_by_role("button", name="Make a sheet").click()
    dialog = page.get_by_role("dialog", name="Make a sheet")
    dialog.get_by_label("Name").fill("Harbour Post")
    expect(dialog.get_by_text("harbour-post-")).to_be_visible()
    dialog.get_by_role("button", name="Make it").click()
    expect(page.get_by_role("heading", name="Harbour Post", level=2)).to_be_visible()
    expect(page.get_by_label("A table of sizes")).to_be_focused()
    expect(page.get_by_label("Widest shape")).to_have_value("4:1")
    page.get_by_label("Widest shape").fill("21:9")
    page.get_by_label("Widest shape").press("Tab")
    page.get_by_label("Longest film, s").fill("0")
    expect(page.get_by_text("must be more than 0")).to_be_visible()
    expect(page.get_by_role("button", name="Keep as version 2")).to_be_disabled()
    page.get_by_label("Longest film, s").fill("600")
    page.get_by_label("A table of sizes").fill(TABLE)
    expect(page.get_by_text("3 rows understood.")).to_be_visible()
    lost = page.get_by_role("list", name="Not understood").get_by_role("listitem")
    expect(lost).to_have_count(2)
    expect(lost.nth(1)).to_contain_text("See you at the lighthouse")
    page.get_by_label("A table of sizes").fill(f"{TABLE}\n2160p: 60 Mbps maximum\nMaximum file size: 2 GB")
    asked = page.get_by_role("list", name="Uncertain").get_by_role("listitem")
    expect(asked).to_have_count(1)
    expect(asked).to_contain_text("2160p: 60 Mbps maximum")
    asked.get_by_text("2160 standard: 60 Mbit/s").click()
    expect(page.get_by_text("files up to 2.0 GB")).to_be_visible()
    page.get_by_role("button", name="Take these", exact=True).click()
    expect(page.get_by_label("Longest long side, px")).to_have_value("3840")
    expect(page.get_by_label("Largest file, MB")).to_have_value("2000")
    page.get_by_label("Handling", exact=True).select_option("harsh")
    expect(page.get_by_text("forecasts will say “assumed”")).to_be_visible()
    assert serious_faults(page) == []
    page.get_by_role("button", name="Keep as version 2").click()
    expect(page.get_by_role("table").first.get_by_role("row", name="720 5 7.5")).to_be_visible()
    page.get_by_role("button", name=re.compile(r"^1 · ")).click()
    expect(page.get_by_text("placements.main.max_duration_s")).to_be_visible()
    assert serious_faults(page) == []

    page.goto(f"/masters/{gale_master['id']}")
    page.get_by_role("button", name="Destinations").click()
    dialog = page.get_by_role("dialog", name="Where it goes")
    dialog.get_by_role("checkbox", name=re.compile("Harbour Post")).check()
    dialog.get_by_role("checkbox", name=re.compile("Kitewall · square")).uncheck()
    dialog.get_by_role("button", name=re.compile("Show these")).click()
    lanes = page.get_by_role("table", name="Lanes")
    expect(lanes.get_by_role("link", name=re.compile("Harbour Post"))).to_be_visible()
    expect(lanes.get_by_text("square post")).to_be_hidden()
    lanes.get_by_role("link", name=re.compile("Harbour Post")).click()
    expect(page.get_by_text("How Harbour Post re-encodes is assumed, harsh")).to_be_visible()


def test_a_newer_sheet_says_what_it_would_change(page: Page, served: Served, gale_master: dict) -> None:
    made = with_guidance(served, "buoy", "Buoy")["sheet"]
    served.show_only(gale_master, ["orrery-wide", "fernpost-reel", "buoy-main"])
    path = served.parcel_path(gale_master, "buoy-main")
    served.http.put(f"{path}/choices", json={"effort": "quick"})
    made["placements"][0]["keyframe_interval_s"] = 1
    served.http.put("/sheets/buoy", json={"document": made, "based_on": 1})
    page.goto(served.parcel_path(gale_master, "buoy-main"))
    expect(page.get_by_text("Keyframes every 100 frames → every 50 frames")).to_be_visible()
    page.get_by_role("button", name="Plan with version 2").click()
    expect(page.get_by_text("every 50 frames")).to_be_visible()
    expect(page.get_by_role("button", name="Plan with version 2")).to_be_hidden()


def test_codec_and_size_are_picked_with_their_reasons_and_taken_back(page: Page, served: Served, gale_master: dict) -> None:
    served.http.put(served.parcel_path(gale_master, "fernpost-reel") + "/choices", json={})
    page.goto(served.parcel_path(gale_master, "fernpost-reel"))
    choices, slip = page.get_by_role("region", name="Choices"), page.get_by_role("region", name="Packing slip")
    choices.get_by_label("Codec", exact=True).select_option("av1")
    expect(slip.get_by_text(re.compile("^AV1 Main, level"))).to_be_visible()
    expect(slip.get_by_text(re.compile("we would have taken H.264 High"))).to_be_visible()
    choices.get_by_label("Effort").select_option("quick")
    expect(slip.get_by_text(re.compile("we would have taken medium"))).to_be_visible()
    slip.get_by_text("what the encoder is told").click()
    expect(slip.get_by_text("libsvtav1")).to_be_visible()
    expect(slip.get_by_role("img", name=re.compile("Guidance: .*extended from rows 720 and 1080"))).to_be_visible()
    assert serious_faults(page) == []
    page.get_by_role("button", name="Undo").click()
    expect(choices.get_by_label("Effort")).to_have_value("medium")
    page.get_by_role("button", name="Redo").click()
    expect(choices.get_by_label("Effort")).to_have_value("quick")
    page.get_by_text("every other value").click()
    page.get_by_label("Keyframes every, s").fill("0,5")
    page.get_by_label("Keyframes every, s").press("Enter")
    expect(slip.get_by_text("every 25 frames")).to_be_visible()
    page.get_by_label("Gain, dB").fill("−3")
    page.get_by_label("Gain, dB").press("Enter")
    expect(slip.get_by_text(re.compile("^−3.0 dB"))).to_be_visible()
    page.get_by_label("Channels").fill("7")
    page.get_by_label("Channels").press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("channels")
    page.get_by_role("button", name="Back to our plan").click()
    expect(choices.get_by_label("Codec", exact=True)).to_have_value("h264")


def test_as_it_is_is_a_lane_that_can_be_taken(page: Page, served: Served, gale_master: dict) -> None:
    master = gale_master["id"]
    served.http.put(f"/masters/{master}/destinations", json={"destinations": ["orrery-wide", "earshelf-audio"]})
    page.goto(f"/masters/{master}")
    lanes = page.get_by_role("table", name="Lanes")
    lane = lanes.get_by_role("row").filter(has_text="as it is")
    expect(lane.get_by_text("the master, untouched")).to_be_visible()
    choose_of_lane(page, lane, "Send it as it is")
    expect(lanes.get_by_role("link", name=re.compile("Orrery"))).to_be_visible()
    expect(lanes.get_by_text("as it is", exact=True)).to_be_hidden()
    lanes.get_by_role("link", name=re.compile("Orrery")).click()
    expect(page.get_by_text("no generation is lost on our side").first).to_be_visible()
    page.get_by_role("region", name="Choices").get_by_label("Sent").select_option("")
    expect(page.get_by_role("slider", name="Upload bit rate")).to_be_visible()
    page.goto(served.parcel_path(master, "earshelf-audio"))
    expect(page.get_by_text("Earshelf takes sound only")).to_be_visible()
    expect(page.get_by_text(re.compile("^Sound alone, AAC at 160 kbit/s"))).to_be_visible()
    assert serious_faults(page) == []
    usual = ["orrery-wide", "sprigg-upright", "kitewall-square", "fernpost-reel"]
    served.http.put(f"/masters/{master}/destinations", json={"destinations": usual})


def test_packing_all_lanes_asks_once_about_care(page: Page, served: Served, gale_master: dict) -> None:
    master = gale_master["id"]
    served.http.put(f"/masters/{master}/destinations", json={"destinations": ["sprigg-upright", "kitewall-square"]})
    page.goto(f"/masters/{master}")
    page.get_by_role("button", name="Pack 2 parcels").click()
    dialog = page.get_by_role("dialog", name="Pack 2 parcels")
    expect(dialog.get_by_text("Sprigg, upright short")).to_be_visible()
    expect(dialog.get_by_text("another shape").first).to_be_visible()
    dialog.get_by_role("button", name="Not yet").click()
    expect(dialog).to_be_hidden()
    square = served.parcel_path(master, "kitewall-square").rsplit("/", 1)[1]
    assert not [job for job in served.http.get("/jobs").json() if job["kind"] == "pack" and job["parcel_id"] == square]
    usual = ["orrery-wide", "sprigg-upright", "kitewall-square", "fernpost-reel"]
    served.http.put(f"/masters/{master}/destinations", json={"destinations": usual})


def test_a_bad_sheet_is_not_imported_and_says_why(page: Page, tmp_path: Path) -> None:
    (tmp_path / "bad.json").write_text(json.dumps({"id": "x", "placements": "all"}))
    page.goto("/sheets")
    page.get_by_role("button", name="Import JSON").wait_for()
    page.get_by_label("A rule sheet to import").set_input_files(tmp_path / "bad.json")
    expect(page.get_by_role("alert")).to_contain_text("name: is missing")
    expect(page.get_by_role("alert")).to_contain_text("placements")
