"""Sending a packed file from its receipt, what comes back beside it, watching it, and learning from it."""

from __future__ import annotations

import re
from collections.abc import Iterator

import pytest
from playwright.sync_api import Page, expect

from hardy_parcel.store.database import Changed, Database

from ..dock_process import DockProcess, docks_of, no_docks
from ..service import Served
from .conftest import serious_faults


@pytest.fixture(scope="module")
def docks(served: Served, tmp_path_factory: pytest.TempPathFactory) -> Iterator[DockProcess]:
    with docks_of(served, tmp_path_factory.mktemp("docks")) as process:
        yield process


@pytest.fixture
def packed(served: Served, gale_master: dict) -> dict:
    """The receipt of a second of the shared film."""
    job = served.pack(gale_master, "orrery-wide", {"effort": "quick", "video_bitrate_bps": 800_000}, ("0.2", "1.2"))
    return next(one for one in served.http.get("/receipts").json() if one["job_id"] == job)


def test_from_a_receipt_to_what_viewers_get_and_what_it_teaches(served: Served, docks: DockProcess, packed: dict, page: Page) -> None:
    name = packed["receipt"]["file_name"]
    page.goto("/receipts")
    page.get_by_role("button", name=f"Send {name}", exact=True).click()
    dialog = page.get_by_role("dialog")
    dialog.get_by_label("Title").fill("Gale over the skerry")
    dialog.get_by_label("Tags").fill("gale")
    dialog.get_by_label("Tags").press("Enter")
    assert serious_faults(page) == []
    dialog.get_by_role("button", name="Send", exact=True).click()
    sent = page.get_by_role("region", name="Sent to Orrery")
    expect(sent).to_contain_text("On a laptop Orrery · wide film shows", timeout=150_000)
    expect(sent.get_by_role("row", name="laptop, good line")).to_contain_text("returned")
    assert serious_faults(page) == []

    sent.get_by_role("button", name="learn from it").click()
    expect(page.get_by_role("heading", name="The sheet, corrected")).to_be_visible(timeout=150_000)  # it is measured on three screens
    expect(page.get_by_text("Nothing but encoding: every picture is where it was, whole.")).to_be_visible()
    assert serious_faults(page) == []
    page.get_by_role("button", name="Forget").click()
    page.get_by_role("button", name="Forget it").click()
    expect(page.get_by_role("heading", name="Receipts")).to_be_visible()

    page.goto(f"/receipts#{packed['job_id']}")
    page.get_by_role("link", name="Watch it as viewers do").click()
    expect(page.get_by_role("heading", name="Gale over the skerry")).to_be_visible()
    page.get_by_text("0.5 Mbit/s").click()
    film = page.locator("video")
    film.evaluate("film => { film.muted = true; return film.play() }")
    expect(film).not_to_have_js_property("currentTime", 0)
    assert serious_faults(page) == []

    page.goto(f"/receipts#{packed['job_id']}")
    page.get_by_role("link", name="Look at it beside the master").click()
    pictures = page.locator("img.picture")
    expect(pictures).to_have_count(2)
    place = page.get_by_role("status").filter(has_text="picture")
    page.get_by_role("slider", name="Picture", exact=True).fill("20")
    expect(place).to_contain_text("picture 21 of 50")
    page.get_by_role("heading", level=1).click()
    page.keyboard.press("Shift+ArrowRight")
    page.keyboard.press("ArrowLeft")
    expect(place).to_contain_text("picture 30 of 50")
    expect(pictures.first).to_have_attribute("src", re.compile("/29/laptop/picture.bmp"))
    for number in range(2):
        expect(pictures.nth(number)).not_to_have_js_property("naturalWidth", 0, timeout=20_000)
    page.keyboard.press("m")
    expect(page.get_by_text("blocks. At its worst")).to_be_visible(timeout=60_000)
    assert serious_faults(page) == []
    page.get_by_role("slider", name="Picture", exact=True).fill("0")
    page.get_by_role("button", name="Play in step").click()
    films = page.locator("video.picture")
    expect(films.first).not_to_have_js_property("currentTime", 0, timeout=60_000)
    apart = films.evaluate_all("([arrived, master]) => Math.abs(master.currentTime - 0.2 - arrived.currentTime)")
    assert apart < 0.3
    expect(page.get_by_role("button", name="Play in step")).to_be_visible(timeout=60_000)  # it ends by itself
    with Database(served.places.database).writing(Changed("sending", "")) as connection:  # other tests forecast the same film
        connection.execute("DELETE FROM sendings")


def test_without_docks_the_dialog_says_so(served: Served, packed: dict, page: Page) -> None:
    with no_docks(served):
        page.goto("/receipts")
        page.get_by_role("button", name=f"Send {packed['receipt']['file_name']}", exact=True).click()
        expect(page.get_by_role("dialog").get_by_role("alert")).to_contain_text("No stand-in platforms are running")
