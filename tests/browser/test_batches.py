"""Ten videos for two destinations, from the shelf to the queue; what is selected, undone and removed together."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from .. import films
from ..service import Served
from .conftest import pick, serious_faults

MOST_CLICKS = 13


@pytest.fixture(scope="module")
def ten(served: Served) -> list[dict]:
    """Ten short videos, one of them upright, with one lane each."""
    for number in range(10):
        upright = number == 3
        films.film(
            served.places.inbox / f"Week {number}.mp4",
            width=108 if upright else 192,
            height=192 if upright else 108,
            seconds=1,
        )
    masters = [served.master(f"Week {number}.mp4") for number in range(10)]
    for master in masters:
        served.show_only(master, ["fernpost-reel"])
    return masters


@pytest.fixture(scope="module")
def recipe(served: Served, ten: list[dict]) -> str:
    served.show_only(ten[0], ["orrery-wide", "kitewall-square"])
    document = {"name": "Weekly ferry", "master_id": ten[0]["id"]}
    view = served.http.post("/recipes", json=document).raise_for_status().json()
    served.show_only(ten[0], ["fernpost-reel"])
    return view["recipe"]["name"]


class Clicks:
    """Clicks and counts them."""

    def __init__(self) -> None:
        self.count = 0

    def __call__(self, where: Locator) -> None:
        where.click()
        self.count += 1


def box(page: Page, name: str) -> Locator:
    """The part of a card that one clicks to select it."""
    return page.locator("article", has=page.get_by_role("heading", name=name)).locator(".el-checkbox")


def bar(page: Page) -> Locator:
    return page.get_by_role("region", name="Selected videos")


def lanes(served: Served, master: dict) -> list[str]:
    return [view["summary"]["destination"]["id"] for view in served.lanes(master)]


def test_ten_videos_get_a_recipe_and_are_packed_in_few_clicks(
    page: Page, served: Served, ten: list[dict], recipe: str
) -> None:
    page.goto("/")
    page.get_by_label("Search").fill("Week")
    expect(page.locator("article")).to_have_count(10)
    click = Clicks()
    click(bar(page).get_by_text("Select all 10"))
    expect(bar(page)).to_contain_text("10 selected")
    click(bar(page).get_by_role("button", name="Apply recipe"))
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text(recipe)  # the only one there is
    expect(dialog.get_by_role("row", name=re.compile("Week 3"))).to_contain_text("another shape")
    expect(dialog).to_contain_text("20 parcels")
    assert all(lanes(served, master) == ["fernpost-reel"] for master in ten), "a preview changes nothing"
    click(dialog.get_by_role("button", name="Apply to 10 videos"))
    expect(dialog.get_by_role("button", name="Pack 20 parcels")).to_be_enabled()
    assert all(lanes(served, master) == ["orrery-wide", "kitewall-square"] for master in ten)
    click(dialog.get_by_role("button", name="Pack 20 parcels"))
    page.wait_for_url("**/dispatch")
    assert click.count <= MOST_CLICKS
    batch = page.get_by_role("region", name="10 videos")
    expect(batch).to_contain_text("of 20 packed")
    batch.get_by_role("button", name="Pause batch").click()
    expect(batch.get_by_role("button", name="Resume batch")).to_be_visible()
    batch.get_by_role("button", name="Stop batch").click()
    page.get_by_role("tooltip").get_by_role("button", name="Stop batch").click()
    expect(batch.get_by_role("button", name="Pause batch")).to_have_count(0)
    assert serious_faults(page) == []


def test_a_range_is_selected_with_shift_and_one_undo_restores_all(page: Page, served: Served, ten: list[dict]) -> None:
    for master in ten[:5]:
        served.show_only(master, ["fernpost-reel"])
    page.goto("/")
    page.get_by_label("Search").fill("Week")
    pick(page, "Sorted", "by name")
    box(page, "Week 0").click()
    box(page, "Week 4").click(modifiers=["Shift"])
    expect(bar(page)).to_contain_text("5 selected")
    bar(page).get_by_role("button", name="Choose destinations").click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_text("Orrery, wide film").click()
    dialog.get_by_text("Sprigg, upright short").click()
    dialog.get_by_role("button", name="Blurred background").click()
    dialog.get_by_role("button", name="Apply to 5 videos").click()
    dialog.get_by_role("button", name="Not yet").click()
    assert lanes(served, ten[4]) == ["orrery-wide", "sprigg-upright"]
    assert served.http.get(f"/masters/{ten[1]['id']}").json()["facts"]["mending"]["framing"] == "blur"
    bar(page).get_by_role("button", name="Undo").click()
    expect(bar(page)).to_contain_text("as before")
    assert all(lanes(served, master) == ["fernpost-reel"] for master in ten[:5])
    assert served.http.get(f"/masters/{ten[1]['id']}").json()["facts"]["mending"]["framing"] is None
    assert lanes(served, ten[5]) == ["orrery-wide", "kitewall-square"]


def test_selecting_goes_by_keys_and_what_is_selected_is_removed(page: Page, served: Served, ten: list[dict]) -> None:
    page.goto("/")
    page.get_by_label("Search").fill("Week")
    page.get_by_role("checkbox", name="Select Week 8").focus()
    page.keyboard.press("Space")
    page.get_by_role("checkbox", name="Select Week 9").focus()
    page.keyboard.press("Space")
    expect(bar(page)).to_contain_text("2 selected")
    bar(page).get_by_role("button", name="Remove").click()
    page.get_by_role("tooltip").get_by_role("button", name="Remove").click()
    expect(page.locator("article")).to_have_count(8)
    left = {master["id"] for master in served.http.get("/masters").json()["masters"]}
    assert {ten[8]["id"], ten[9]["id"]}.isdisjoint(left)
