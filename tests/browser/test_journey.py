"""The whole journey in a real browser: from the shelf to the receipt, by mouse and by keyboard."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from ..conftest import SMALL_PIXELS_PER_DEGREE
from ..service import Served
from .conftest import choose_of_lane, serious_faults

LAPTOP_PX = round(80 / 3 * SMALL_PIXELS_PER_DEGREE)
"""A laptop's screen, 80/3° across."""


def test_from_opening_a_master_to_its_receipt(page: Page, served: Served, gale_master: dict) -> None:
    page.goto("/")
    page.get_by_role("link", name=re.compile("Gale")).first.click()
    expect(page.get_by_role("heading", name="Gale")).to_be_visible()
    lanes = page.get_by_role("table", name="Lanes")
    expect(lanes.get_by_role("link", name=re.compile("Orrery"))).to_be_visible()
    expect(lanes.get_by_role("link", name=re.compile("Sprigg"))).to_be_visible()

    page.get_by_role("textbox", name="out point").fill("0.2")
    page.get_by_role("textbox", name="out point").press("Enter")
    expect(page.get_by_text("0:00.20 will be packed")).to_be_visible()

    lane = lanes.get_by_role("row").filter(has_text="Orrery")
    choose_of_lane(page, lane, "Rehearse it")
    expect(page.get_by_role("complementary", name="Dispatch")).to_be_visible()
    lane.get_by_role("link").first.click()
    expect(page.get_by_role("heading", name=re.compile("Gale.*Orrery"))).to_be_visible()
    # five, and those that a test before has rehearsed on this curve
    expect(page.get_by_text(re.compile("[5-9] points rehearsed"))).to_be_visible(timeout=150_000)
    expect(page.get_by_text(re.compile("^arrives, "))).to_be_visible()

    slip = page.get_by_role("region", name="Packing slip")
    rate = slip.locator("dt:text-is('Bit rate') + dd > .mono")
    before = rate.inner_text()
    handle = page.get_by_role("slider", name="Upload bit rate")
    box = handle.bounding_box()
    page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.down()
    page.mouse.move(box["x"] - 120, box["y"] + 20, steps=6)
    page.mouse.up()
    expect(rate).not_to_have_text(before)
    expect(slip.get_by_text(re.compile("your choice"))).to_be_visible()
    expect(slip.get_by_text(f"we would have taken {before}")).to_be_visible()
    dragged = handle.get_attribute("aria-valuenow")
    handle.focus()
    page.keyboard.press("ArrowRight")
    expect(handle).not_to_have_attribute("aria-valuenow", dragged)
    page.keyboard.press("Control+z")
    expect(handle).to_have_attribute("aria-valuenow", dragged)
    page.keyboard.press("Control+z")
    expect(rate).to_have_text(before)
    page.keyboard.press("Control+Shift+z")
    expect(handle).to_have_attribute("aria-valuenow", dragged)

    page.get_by_role("button", name="Pack this parcel").click()
    dialog = page.get_by_role("dialog", name="Pack this parcel")
    dialog.get_by_label("File name").fill("Gale for the harbour board")
    dialog.get_by_role("button", name=re.compile("Pack (it|with care)")).click()
    expect(page.get_by_role("heading", name="Dispatch", exact=True)).to_be_visible()
    page.get_by_role("link", name="Receipt", exact=True).first.click()
    receipt = page.get_by_role("region", name="Gale for the harbour board.mp4")
    expect(receipt.get_by_text("Measured on the file")).to_be_visible()
    expect(receipt.get_by_text("SHA-256")).to_be_visible()
    assert (served.places.outbox / "Gale for the harbour board.mp4").stat().st_size > 1000
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": None})


def test_the_pictures_are_compared_on_the_same_raster(page: Page, served: Served, gale_master: dict) -> None:
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": {"in_s": "0", "out_s": "1/5"}})
    path = served.parcel_path(gale_master, "orrery-wide")
    served.http.put(f"{path}/choices", json={})
    job = served.http.post(f"{path}/rehearse", json={"rates": [300_000]}).json()
    served.ended(job)
    page.goto(served.parcel_path(gale_master, "orrery-wide") + "/look")
    left, right = page.get_by_alt_text("the picture as master"), page.get_by_alt_text("the picture as arrived")
    for picture in (left, right):
        expect(picture).to_have_js_property("complete", True)
        expect(picture).to_have_js_property("naturalWidth", LAPTOP_PX)
    wipe = page.get_by_role("slider", name="Wipe")
    wipe.focus()
    page.keyboard.press("Home")
    expect(wipe).to_have_attribute("aria-valuenow", "0")
    moments = page.get_by_role("slider", name="Measured picture")
    moments.focus()
    page.keyboard.press("End")
    expect(page.get_by_text(re.compile("picture 10 of 10"))).to_be_visible()
    assert serious_faults(page) == []
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": None})


def test_fit_and_fill(page: Page, served: Served, gale_master: dict) -> None:
    page.goto(served.parcel_path(gale_master, "sprigg-upright"))
    framing = page.get_by_role("radiogroup", name="Framing")
    expect(framing.get_by_role("radio", name="As all shapes")).to_be_checked()
    framing.get_by_text("Crop").click()
    expect(framing.get_by_role("radio", name="Crop")).to_be_checked()
    expect(page.get_by_text("care: much is cropped")).to_be_visible()
    framing.get_by_text("Bars").click()
    expect(page.get_by_text("care: much is cropped")).to_be_hidden()


def test_in_and_out_points_by_keyboard(page: Page, served: Served, gale_master: dict) -> None:
    page.goto(f"/masters/{gale_master['id']}")
    page.get_by_role("slider", name="Out point").focus()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("0:01.90 will be packed")).to_be_visible()
    page.get_by_role("button", name="take the whole master").click()
    expect(page.get_by_text("0:02.00 will be packed")).to_be_visible()


def test_line_and_machine_change_every_figure(page: Page, served: Served, gale_master: dict) -> None:
    page.goto("/machine")
    page.get_by_label("Uplink").fill("1")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("Every figure follows")).to_be_visible()
    slow = served.lanes(gale_master)[0]["summary"]["figures"]
    page.get_by_label("Uplink").fill("9.6")
    page.get_by_label("Parcels go to").fill("/etc")
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_role("alert")).to_contain_text("outside the folders")
    page.get_by_label("Parcels go to").fill(str(served.places.outbox))
    page.get_by_role("button", name="Keep").click()
    expect(page.get_by_text("Every figure follows")).to_be_visible()
    quick = served.lanes(gale_master)[0]["summary"]["figures"]
    assert slow["carriage"]["upload_s"] > 9 * quick["carriage"]["upload_s"]


def test_the_machine_is_measured_from_the_page_and_stopped(page: Page) -> None:
    page.goto("/machine")
    page.get_by_role("button", name="Measure").click()
    page.get_by_role("button", name="Stop").click()
    expect(page.get_by_role("button", name="Measure")).to_be_visible()


def test_trouble_is_said_with_a_way_on(page: Page) -> None:
    page.goto("/masters/nobody")
    expect(page.get_by_role("alert")).to_contain_text("There is no such master. Go back to the shelf.")
    page.goto("/")
    page.get_by_label("Open a file by its path").fill("/etc/passwd")
    page.get_by_role("button", name="Open").click()
    expect(page.get_by_role("alert")).to_contain_text("outside the folders that Hardy Parcel may use")
    page.goto("/somewhere/else/entirely/odd")
    expect(page.get_by_role("link", name="Shelf").first).to_be_visible()


def test_no_serious_fault_on_any_screen(page: Page, served: Served, gale_master: dict) -> None:
    master = gale_master["id"]
    for path in ("/", f"/masters/{master}", *(served.parcel_path(master, one) for one in ("orrery-wide", "sprigg-upright")),
                 "/sheets", "/dispatch", "/receipts", "/machine", "/nowhere"):
        page.goto(path)
        page.wait_for_load_state("networkidle") if path == "/nowhere" else page.get_by_role("main").locator("h1, h2").first.wait_for()
        assert serious_faults(page) == [], path


def test_the_whole_page_can_be_walked_by_keyboard(page: Page, gale_master: dict) -> None:
    page.goto("/")
    page.get_by_role("heading", name="Gale").first.wait_for()
    page.keyboard.press("Tab")
    expect(page.get_by_role("link", name="To the content")).to_be_focused()
    for _ in range(20):
        page.keyboard.press("Tab")
        if "Gale" in page.evaluate("document.activeElement.textContent"):
            break
    page.keyboard.press("Enter")
    expect(page.get_by_role("table", name="Lanes")).to_be_visible()
