"""Recipes, several lanes at once, caps, sharpening and the sound's story in a real browser."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page, expect

from .. import films
from ..service import Served
from .conftest import pick, serious_faults

LANES = ["orrery-wide", "sprigg-upright"]


@pytest.fixture(scope="module")
def pair(served: Served) -> tuple[dict, dict]:
    films.film(served.places.inbox / "Pier.mp4", width=180, height=320, rate=30, seconds=2)
    films.film(served.places.inbox / "Horizon.mp4", width=478, height=200, rate="24000/1001", seconds=2)
    return served.master("Pier.mp4"), served.master("Horizon.mp4")


@pytest.fixture
def paths(served: Served, pair) -> Iterator[list[str]]:
    found = [f"/masters/{one['id']}" for one in pair]
    for one in pair:
        served.show_only(one, LANES)
    yield found
    for view in served.http.get("/recipes").json()["recipes"]:
        served.http.delete(f"/recipes/{view['recipe']['id']}").raise_for_status()


def test_lanes_change_together_are_saved_and_brought_to_another_master(page: Page, served: Served, paths: list[str]) -> None:
    pier, horizon = paths
    page.goto(pier)
    lanes = page.get_by_role("table", name="Lanes")
    page.get_by_role("button", name="Change all").click()
    page.get_by_label("Times the top of the guidance").fill("1.5")
    page.get_by_role("button", name="Take it").click()
    expect(lanes.get_by_text(re.compile(r"1\.5 ×|1\.49 ×|1\.51 ×"))).to_have_count(2)
    pick(page, "Framing of all", "fill, cropped")
    expect(page.get_by_role("status").filter(has_text="All lanes are changed.")).to_be_visible()
    page.keyboard.press("Escape")
    page.get_by_role("button", name="More…").click()
    page.get_by_role("menuitem", name="Recipes").click()
    dialog = page.get_by_role("dialog", name="Recipes")
    dialog.get_by_label("Save these lanes as").fill("Pier week")
    dialog.get_by_role("button", name="Save", exact=True).click()
    expect(dialog.get_by_text("Saved as “Pier week”.")).to_be_visible()
    expect(dialog.get_by_text("nothing differs: it is what these lanes say")).to_be_visible()
    assert serious_faults(page) == []

    page.goto(horizon)
    expect(lanes.get_by_text("1.5 ×")).to_have_count(0)
    page.keyboard.press("Escape")
    page.get_by_role("button", name="More…").click()
    page.get_by_role("menuitem", name="Recipes").click()
    expect(dialog.get_by_role("row", name=re.compile("^Frame rate 30 23.976"))).to_have_count(2)
    expect(dialog.get_by_text("Differs from what is chosen there now:").first).to_be_visible()
    dialog.get_by_role("button", name="Apply “Pier week”").click()
    expect(page.get_by_text("“Pier week” is applied.")).to_be_visible()
    expect(lanes.get_by_text(re.compile(r"1\.5 ×|1\.49 ×|1\.51 ×"))).to_have_count(2)
    page.get_by_role("button", name="Undo").click()
    expect(lanes.get_by_text(re.compile(r"1\.5 ×|1\.49 ×|1\.51 ×"))).to_have_count(0)


def test_recipes_are_kept_in_order_on_their_own_screen(page: Page, served: Served, pair, paths: list[str], tmp_path: Path) -> None:
    page.goto("/recipes")
    expect(page.get_by_role("heading", name="No recipes yet")).to_be_visible()
    for name in ("Alpha", "Beta"):
        served.http.post("/recipes", json={"name": name, "master_id": pair[0]["id"]}).raise_for_status()
    listed = page.get_by_role("navigation", name="Recipes")
    expect(listed.get_by_role("link")).to_have_count(2)
    page.get_by_role("button", name="Star Beta").click()
    expect(listed.get_by_role("link").first).to_contain_text("Beta")
    listed.get_by_role("link", name=re.compile("Beta")).click()
    title = page.get_by_label("Name", exact=True)
    title.fill("Alpha")
    title.press("Enter")
    expect(page.get_by_role("alert")).to_contain_text("There is a recipe “Alpha” already.")
    title.fill("Gamma")
    title.press("Enter")
    expect(listed.get_by_role("link", name=re.compile("Gamma"))).to_be_visible()
    page.get_by_role("button", name="Duplicate").click()
    expect(page.get_by_role("region", name="Gamma, copy")).to_be_visible()
    page.get_by_role("button", name="Delete").click()
    expect(listed.get_by_role("link", name=re.compile("Gamma, copy"))).to_be_hidden()
    page.get_by_role("button", name="Undo").click()
    expect(listed.get_by_role("link", name=re.compile("Gamma, copy"))).to_be_visible()
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Export").click()
    document = json.loads(Path(waiting.value.path()).read_text())
    (tmp_path / "friend.json").write_text(json.dumps(document | {"name": "From a friend"}))
    page.get_by_label("Recipe file").set_input_files(tmp_path / "friend.json")
    expect(page.get_by_role("region", name="From a friend")).to_be_visible()
    (tmp_path / "bad.json").write_text("nothing")
    page.get_by_label("Recipe file").set_input_files(tmp_path / "bad.json")
    expect(page.get_by_role("alert")).to_contain_text("is not JSON")
    assert serious_faults(page) == []


def test_a_cap_lowers_the_plan_says_so_and_offers_ways_out(page: Page, served: Served) -> None:
    films.film(served.places.inbox / "Long pier.mp4", width=320, height=200, rate=15, seconds=8)
    pier = served.parcel_path(served.master("Long pier.mp4"))
    page.goto(pier)
    page.get_by_text("every other value").click()
    limit = page.get_by_label("Size limit, MB")
    limit.fill("0.30")
    limit.press("Enter")
    slip = page.get_by_role("region", name="Packing slip")
    expect(slip.get_by_text("as much as surely fits under your limit of 300 kB")).to_be_visible()
    expect(page.get_by_text("little is left under the cap")).to_be_visible()
    ways = page.get_by_role("region", name="Other ways under the limit")
    expect(ways.get_by_role("row", name=re.compile("the first .* a shorter excerpt"))).to_be_visible()
    assert serious_faults(page) == []
    ways.get_by_role("row", name=re.compile("AV1")).get_by_role("button", name="Take it").click()
    expect(slip.get_by_text(re.compile("^AV1 Main"))).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(slip.get_by_text(re.compile("^H.264 High"))).to_be_visible()
    ways.get_by_role("row", name=re.compile("a shorter excerpt")).get_by_role("button", name="Take it").click()
    expect(ways).to_be_hidden()
    page.get_by_role("region", name="Choices").get_by_label("Excerpt").select_option("the whole master")
    limit.fill("0.001")
    limit.press("Enter")
    expect(page.get_by_text("held: over the size cap")).to_be_visible()
    expect(page.get_by_role("button", name="Pack this parcel")).to_be_disabled()
    served.http.put(f"{pier}/choices", json={}).raise_for_status()


def test_sharpening_is_shown_before_it_is_chosen(page: Page, served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master, "fernpost-reel")
    served.http.put(f"{path}/choices", json={"short_side_px": 90}).raise_for_status()
    page.goto(path)
    page.get_by_text("every other value").click()
    page.get_by_role("button", name="see what it does").click()
    dialog = page.get_by_role("dialog", name="Light sharpening")
    expect(dialog.get_by_alt_text("Without sharpening")).to_be_visible()
    expect(dialog.get_by_alt_text("With light sharpening")).to_be_visible()
    expect(dialog.get_by_text(re.compile("Picture \\d+, "))).to_be_visible()
    dialog.get_by_role("button", name="Sharpen lightly").click()
    expect(page.get_by_role("region", name="Packing slip").get_by_text("light, 0.35")).to_be_visible()
    served.http.put(f"{path}/choices", json={}).raise_for_status()


def test_the_receipt_shows_the_sound_before_and_after(page: Page, served: Served, pair) -> None:
    served.show_only(pair[0], ["earshelf-audio"])
    path = served.parcel_path(pair[0], "earshelf-audio")
    key = served.http.get(path).json()["summary"]["plan_key"]
    job = served.ended(served.http.post(f"{path}/pack", json={"plan_key": key}).json())
    assert job["state"] == "done", job["problem"]
    page.goto(f"/receipts#{job['id']}")
    panel = page.locator(f"#{job['id']}") if job["id"][0].isalpha() else page.locator(f"[id='{job['id']}']")
    sound = panel.get_by_role("region", name="Sound before and after")
    expect(sound.get_by_text(re.compile("master −2"))).to_be_visible()
    expect(sound.get_by_text(re.compile("asked for −17.0 LUFS, at most −2.0 dBTP"))).to_be_visible()
    expect(sound.get_by_role("img", name=re.compile("before −2.*after −17|before −2.*after −16.9"))).to_be_visible()
