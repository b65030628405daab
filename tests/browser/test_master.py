"""The Master screen and the grown-up shelf in a real browser: stepping, excerpts, remedies, uploads, the dark look."""

from __future__ import annotations

import re
import shutil
import struct
from pathlib import Path

import pytest
from playwright.sync_api import Page, Route, expect

from ..service import Served
from ..web.test_masters import CLIPS, checked
from .conftest import pick, serious_faults


@pytest.fixture(scope="module")
def ended(served: Served) -> dict:
    """A film with a blank tail."""
    CLIPS["blank_tail-yes-04"].make(served.places.inbox / "Ended.mp4")
    return checked(served, "Ended.mp4")


def test_stepping_by_button_and_by_key(page: Page, gale_master: dict) -> None:
    page.goto(f"/masters/{gale_master['id']}/master")
    stage = page.get_by_role("region", name="Picture")
    expect(stage.get_by_text("00:00:00:00")).to_be_visible()
    expect(stage.get_by_role("img")).to_have_js_property("naturalWidth", 320)
    stage.get_by_role("button", name="+1", exact=True).click()
    expect(stage.get_by_text("picture 1 of 99")).to_be_visible()
    expect(stage.get_by_text("00:00:00:01")).to_be_visible()
    stage.get_by_role("group").focus()
    page.keyboard.press("PageDown")
    expect(stage.get_by_text("00:00:01:01")).to_be_visible()
    page.keyboard.press("End")
    expect(stage.get_by_text("picture 99 of 99")).to_be_visible()
    expect(stage.get_by_text("0:01.98")).to_be_visible()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    expect(stage.get_by_text("00:00:01:44")).to_be_visible()
    assert serious_faults(page) == []


def test_the_film_plays(page: Page, gale_master: dict) -> None:
    page.goto(f"/masters/{gale_master['id']}/master")
    stage = page.get_by_role("region", name="Picture")
    expect(stage.get_by_text("00:00:00:00")).to_be_visible()
    stage.get_by_role("button", name="play").click()
    expect(stage.get_by_role("button", name="stop")).to_be_visible()
    expect(stage.get_by_role("button", name="play")).to_be_visible(timeout=20_000)
    expect(stage.get_by_text(re.compile(r"picture 9\d of 99"))).to_be_visible()


def test_a_film_that_the_browser_cannot_play_says_so(page: Page, served: Served) -> None:
    CLIPS["odd_size-yes-00"].make(served.places.inbox / "Odd.mkv")
    master = checked(served, "Odd.mkv")
    page.goto(f"/masters/{master['id']}/master")
    page.get_by_role("button", name="play").click()
    expect(page.get_by_text("This browser cannot play this file")).to_be_visible()
    page.get_by_role("button", name="+1", exact=True).click()
    expect(page.get_by_text("picture 1 of")).to_be_visible()


def test_a_blank_tail_is_jumped_to_and_trimmed(page: Page, served: Served, ended: dict) -> None:
    page.goto(f"/masters/{ended['id']}/master")
    checks = page.get_by_role("region", name="Checks")
    expect(page.get_by_text("Handle with care: blank tail")).to_be_visible()
    checks.get_by_role("button", name=re.compile(r"^0:0")).first.click()
    expect(page.get_by_role("region", name="Picture").get_by_text(re.compile(r"picture [1-9]\d* of"))).to_be_visible()
    checks.get_by_role("button", name="trim it").click()
    expect(checks.get_by_text("left out by the excerpt")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("Excerpt 1")).first).to_have_attribute("aria-pressed", "true")
    assert served.http.get(f"/masters/{ended['id']}").json()["excerpt"] is not None
    checks.get_by_role("button", name="undo").click()
    expect(checks.get_by_role("button", name="trim it")).to_be_visible()


def test_several_excerpts(page: Page, ended: dict) -> None:
    page.goto(f"/masters/{ended['id']}/master")
    strip = page.get_by_role("region", name="Film strip")
    page.get_by_role("button", name="another excerpt from here").click()
    chosen = page.get_by_role("button", name=re.compile(r"Excerpt \d")).last
    expect(page.locator(".chip[aria-pressed=true]")).to_contain_text("Excerpt")
    out = strip.get_by_role("slider", name="Out point")
    before = out.get_attribute("aria-valuenow")
    held: list[Route] = []
    page.route(re.compile(r"/excerpt$"), lambda route: held.append(route))
    out.focus()
    page.keyboard.press("ArrowRight")
    expect(out).not_to_have_attribute("aria-valuenow", before)
    typed = page.get_by_role("textbox", name="in point")
    typed.fill("0.2")
    with page.expect_response(re.compile(r"/excerpt$")):  # its answer comes while something else is being typed
        held[0].continue_()
    page.unroute(re.compile(r"/excerpt$"))
    expect(typed).to_have_value("0.2")
    typed.press("Enter")
    expect(strip.get_by_role("slider", name="In point")).to_have_attribute("aria-valuetext", "0:00.20")
    page.get_by_role("button", name="Whole master").click()
    expect(page.get_by_role("button", name="Whole master")).to_have_attribute("aria-pressed", "true")
    count = page.get_by_role("button", name=re.compile(r"^Drop Excerpt")).count()
    page.get_by_role("button", name=re.compile(r"^Drop Excerpt")).last.click()
    expect(page.get_by_role("button", name=re.compile(r"^Drop Excerpt"))).to_have_count(count - 1)
    expect(chosen if count > 1 else page.get_by_role("button", name="Whole master")).to_be_visible()


def padded(source: Path, target: Path, size: int) -> Path:
    """A film with a large free box behind it."""
    data = source.read_bytes()
    target.write_bytes(data + struct.pack(">I4s", size, b"free") + bytes(size - 8))
    return target


def test_a_film_is_chosen_sent_and_put_on_the_shelf(page: Page, served: Served, gale: Path, tmp_path: Path) -> None:
    shutil.copy(gale, tmp_path / "Sent from the page.mp4")
    page.goto("/")
    page.get_by_label("Videos for the shelf").set_input_files(tmp_path / "Sent from the page.mp4")
    arriving = page.get_by_role("list", name="Arriving")
    expect(arriving.get_by_text("arrived whole; on the shelf")).to_be_visible(timeout=20_000)
    expect(page.get_by_role("heading", name="Sent from the page")).to_be_visible()
    arriving.get_by_role("button", name="fine").click()
    page.get_by_role("button", name="Remove from shelf: Sent from the page").click()
    dialog = page.get_by_role("dialog")
    expect(dialog).to_contain_text("Its copy in the inbox is deleted")
    dialog.get_by_role("button", name="Remove from shelf").click()
    expect(page.get_by_role("heading", name="Sent from the page")).to_be_hidden()
    assert not (served.places.inbox / "Sent from the page.mp4").exists()


def test_films_may_be_dropped_anywhere(page: Page) -> None:
    page.goto("/machine")
    page.get_by_role("heading").first.wait_for()
    page.evaluate("""() => {
        const carried = new DataTransfer()
        carried.items.add(new File(['not a film'], 'Letter.txt'))
        window.dispatchEvent(new DragEvent('dragover', { dataTransfer: carried, cancelable: true }))
        window.carried = carried
    }""")
    expect(page.get_by_text("Let go to put it on the shelf")).to_be_visible()
    page.evaluate("window.dispatchEvent(new DragEvent('drop', { dataTransfer: window.carried, cancelable: true }))")
    expect(page.get_by_role("heading", name="Shelf")).to_be_visible()
    expect(page.get_by_role("list", name="Arriving").get_by_role("alert")).to_contain_text("is not a film by its name")
    page.get_by_role("button", name="give up").click()
    expect(page.get_by_role("list", name="Arriving")).to_be_hidden()


def test_an_upload_survives_a_reload(page: Page, served: Served, gale: Path, tmp_path: Path) -> None:
    source = padded(gale, tmp_path / "Half way.mp4", 20 << 20)
    parts: list[str] = []

    def only_the_first(route: Route) -> None:
        if route.request.method == "PATCH":
            parts.append(route.request.headers["upload-offset"])
            if len(parts) > 1:
                return  # never answered
        route.continue_()

    page.route("**/api/uploads/*", only_the_first)
    page.goto("/")
    with page.expect_response(lambda response: response.request.method == "PATCH"):  # kept, and not just on its way
        page.get_by_label("Videos for the shelf").set_input_files(source)
    expect(page.get_by_text("8.4 MB of")).to_be_visible(timeout=20_000)
    page.goto("/")  # before what waits is let go, or the rest would be sent after all
    page.unroute("**/api/uploads/*", only_the_first)
    expect(page.get_by_text("left half-way; drop the same file again")).to_be_visible()
    offsets: list[str] = []
    page.on("request", lambda request: offsets.append(request.headers["upload-offset"]) if request.method == "PATCH" else None)
    page.get_by_label("Videos for the shelf").set_input_files(source)
    expect(page.get_by_text("arrived whole; on the shelf")).to_be_visible(timeout=40_000)
    assert int(offsets[0]) >= 8 << 20
    name = "Half way.mp4"
    assert (served.places.inbox / name).read_bytes() == source.read_bytes()
    master = next(m for m in served.http.get("/masters").json()["masters"] if m["name"] == name)
    served.http.delete(f"/masters/{master['id']}")


def test_a_pause_and_going_on(page: Page, served: Served, gale: Path, tmp_path: Path) -> None:
    source = padded(gale, tmp_path / "Paused.mp4", 30 << 20)
    page.route("**/api/uploads/*", lambda route: route.continue_() if route.request.headers.get("upload-offset", "0") == "0" else None)
    page.goto("/")
    page.get_by_label("Videos for the shelf").set_input_files(source)
    arriving = page.get_by_role("list", name="Arriving")
    expect(arriving.get_by_text("8.4 MB of")).to_be_visible(timeout=20_000)
    arriving.get_by_role("button", name="pause").click()
    expect(arriving.get_by_text("paused", exact=True)).to_be_visible()
    page.unroute("**/api/uploads/*")
    arriving.get_by_role("button", name="go on").click()
    expect(arriving.get_by_text("arrived whole; on the shelf")).to_be_visible(timeout=40_000)
    master = next(m for m in served.http.get("/masters").json()["masters"] if m["name"] == "Paused.mp4")
    served.http.delete(f"/masters/{master['id']}")


def test_the_shelf_is_searched_and_sorted(page: Page, ended: dict, gale_master: dict) -> None:
    page.goto("/")
    expect(page.get_by_role("heading", name="Ended")).to_be_visible()
    page.get_by_label("Search").fill("blank tail")
    expect(page.get_by_role("heading", name="Gale", exact=True)).to_be_hidden()
    expect(page.get_by_role("heading", name="Ended")).to_be_visible()
    page.get_by_label("Search").fill("nothing like it")
    page.get_by_role("button", name="Show all").click()
    pick(page, "Sorted", "by name")
    names = page.get_by_role("list", name="Masters").get_by_role("heading").all_inner_texts()
    assert names == sorted(names, key=str.lower)


def test_the_dark_look_is_chosen_kept_and_readable(page: Page, ended: dict) -> None:
    page.goto("/")
    page.get_by_role("button", name="night").click()
    expect(page.locator("html")).to_have_attribute("data-look", "dark")
    master = f"/masters/{ended['id']}"
    for path in ("/", f"{master}/master", master, f"{master}/orrery-wide", "/dispatch", "/machine"):
        page.goto(path)
        page.get_by_role("main").locator("h1, h2").first.wait_for()
        expect(page.locator("html")).to_have_attribute("data-look", "dark")
        assert serious_faults(page) == [], path
    page.get_by_role("button", name="day").click()
    expect(page.locator("html")).to_have_attribute("data-look", "light")
