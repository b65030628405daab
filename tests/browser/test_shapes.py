"""Framing in a real browser: dragged and nudged for real, and what is shown is what is planned."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Locator, Page, expect

from .. import films
from ..service import Served
from .conftest import serious_faults

LANES = ["orrery-wide", "sprigg-upright", "kitewall-square"]


@pytest.fixture(scope="module")
def buoy(served: Served) -> dict:
    films.film(served.places.inbox / "Buoy.mp4", width=640, height=360, seconds=2)
    return served.master("Buoy.mp4")


@pytest.fixture
def path(served: Served, buoy: dict) -> str:
    result = f"/masters/{buoy['id']}"
    choices = {"sprigg-upright": {"framing": "fill"}, "kitewall-square": {"framing": "fill"}}
    served.show_only(buoy, LANES, choices)
    served.http.put(f"{result}/framing", json={"focus": {"x": 0.5, "y": 0.5}, "mode": None}).raise_for_status()
    return result


def shapes(served: Served, path: str) -> dict[str, dict]:
    return {shape["destination_id"]: shape for shape in served.http.get(f"{path}/framing").json()["shapes"]}


def crop(served: Served, path: str, one: str) -> dict:
    return shapes(served, path)[one]["framing"]["crop"]


def focus(page: Page) -> Locator:
    return page.get_by_role("button", name=re.compile("^Focus of all shapes"))


def drag(page: Page, grip: Locator, right: int, down: int, *, at: tuple[float, float] = (0.5, 0.5)) -> None:
    box = grip.bounding_box()
    x, y = box["x"] + box["width"] * at[0], box["y"] + box["height"] * at[1]
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + right / 2, y + down / 2, steps=4)
    page.mouse.move(x + right, y + down, steps=4)
    page.mouse.up()


def test_the_focus_is_dragged_and_every_shape_follows(page: Page, served: Served, path: str) -> None:
    before = crop(served, path, "sprigg-upright"), crop(served, path, "kitewall-square")
    page.goto(f"{path}/framing")
    expect(page.get_by_role("img", name="Picture 25")).to_be_visible()
    expect(focus(page)).to_have_accessible_name(re.compile("at 50 % and 50 %"))
    width = page.get_by_role("img", name="Picture 25").bounding_box()["width"]
    drag(page, focus(page), round(width / 4), 0)
    expect(focus(page)).to_have_accessible_name(re.compile("at 75 %|at 74.9 %|at 75.1 %"))
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    after = crop(served, path, "sprigg-upright"), crop(served, path, "kitewall-square")
    assert after[0]["x"] - before[0]["x"] == pytest.approx(160, abs=4)
    assert after[1]["x"] == 640 - after[1]["width"], "the square reaches the edge and stops there"
    page.get_by_role("button", name="Undo").click()
    expect(focus(page)).to_have_accessible_name(re.compile("at 50 % and 50 %"))
    assert (crop(served, path, "sprigg-upright"), crop(served, path, "kitewall-square")) == before
    page.keyboard.press("Control+Shift+Z")
    expect(focus(page)).to_have_accessible_name(re.compile("at 7"))


def test_the_focus_is_nudged_with_keys_and_one_undo_takes_a_run_of_them_back(
    page: Page, served: Served, path: str
) -> None:
    page.goto(f"{path}/framing")
    before = crop(served, path, "sprigg-upright")["x"]
    focus(page).focus()
    for _ in range(3):
        page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("ArrowLeft")
    expect(focus(page)).to_have_accessible_name(re.compile("at 40.3 %"))
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    assert crop(served, path, "sprigg-upright")["x"] == pytest.approx(before - 62, abs=2)
    page.keyboard.press("Control+z")
    expect(focus(page)).to_have_accessible_name(re.compile("at 50 %"))
    assert crop(served, path, "sprigg-upright")["x"] == before


def test_one_shape_is_placed_and_zoomed_by_hand_and_sent_back_to_the_focus(
    page: Page, served: Served, path: str
) -> None:
    page.goto(f"{path}/framing")
    page.get_by_role("button", name=re.compile("^Kitewall square post")).click()
    controls = page.get_by_role("region", name="Shape of Kitewall")
    expect(controls.get_by_text("Uses the shared focus point")).to_be_visible()
    upright = crop(served, path, "sprigg-upright")
    frame = page.get_by_role("group", name=re.compile("Frame 1:1 of Kitewall"))
    drag(page, frame, -60, 0, at=(0.5, 0.2))
    expect(controls.get_by_text("placed by hand")).to_be_visible()
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    moved = crop(served, path, "kitewall-square")
    assert moved["x"] < 140
    assert crop(served, path, "sprigg-upright") == upright
    frame.focus()
    for _ in range(4):
        page.keyboard.press("+")
    expect(controls.get_by_text("1.22 ×")).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Kitewall square post.*enlarged 3.6"))).to_be_visible()
    zoom = controls.get_by_role("slider", name="Zoom")
    for _ in range(28):
        zoom.press("ArrowRight")
    expect(controls.get_by_text("1.50 ×")).to_be_visible()
    controls.get_by_role("button", name="Use the shared focus point").click()
    expect(controls.get_by_text("Uses the shared focus point")).to_be_visible()
    served.until(f"{path}/framing", lambda _: shapes(served, path)["kitewall-square"]["own_focus"] is None, "the shared focus point")
    assert shapes(served, path)["kitewall-square"]["zoom"] == 1.5


def test_a_ratio_is_typed_taken_and_refused(page: Page, served: Served, path: str) -> None:
    page.goto(f"{path}/framing")
    page.get_by_role("button", name=re.compile("^Orrery wide film")).click()
    controls = page.get_by_role("region", name="Shape of Orrery")
    controls.get_by_text("Crop", exact=True).click()
    ratio = controls.get_by_label("Shape, such as")
    ratio.fill("2:1")
    ratio.press("Enter")
    expect(controls.get_by_text(re.compile("2:1 is your choice"))).to_be_visible()
    expect(page.get_by_role("button", name=re.compile("^Orrery wide film 2:1"))).to_be_visible()
    ratio.fill("9:16")
    ratio.press("Enter")
    expect(page.get_by_role("alert")).to_have_text("9:16 is not taken here. Choose one from 4:3 to 7:3.")
    assert shapes(served, path)["orrery-wide"]["shape"] == "2:1"


def test_what_is_shown_is_the_plans_crop_to_the_row(page: Page, served: Served, path: str) -> None:
    """The outline on the stage, read back from the page in the master's pixels, is the crop that is packed."""
    page.goto(f"{path}/framing")
    page.get_by_role("button", name=re.compile("^Kitewall square post")).click()
    picture = page.get_by_role("img", name=re.compile("^Picture"))
    expect(picture).to_be_visible()
    frame = page.get_by_role("group", name=re.compile("Frame 1:1"))
    expect(frame).to_be_visible()
    whole, box, cropped = picture.bounding_box(), frame.bounding_box(), crop(served, path, "kitewall-square")
    scale = 640 / whole["width"]
    result = [
        (box["x"] - whole["x"]) * scale,
        (box["y"] - whole["y"]) * scale,
        box["width"] * scale,
        box["height"] * scale,
    ]
    assert result == pytest.approx(
        [cropped["x"], cropped["y"], cropped["width"], cropped["height"]], abs=0.6
    )
    page.get_by_role("button", name="See it as packed").click()
    packed = page.get_by_role("dialog").get_by_role("img", name=re.compile("in the frame 1:1"))
    expect(packed).to_have_js_property("complete", True)
    frame_size = shapes(served, path)["kitewall-square"]["framing"]["width"]
    expect(packed).to_have_js_property("naturalWidth", frame_size)


def test_the_excerpt_is_stepped_through(page: Page, path: str) -> None:
    page.goto(f"{path}/framing")
    expect(page.get_by_role("img", name="Picture 25")).to_be_visible()
    page.get_by_role("button", name="+1 frame").click()
    expect(page.get_by_role("img", name="Picture 26")).to_be_visible()
    page.get_by_role("slider", name="Place in the excerpt").press("End")
    expect(page.get_by_role("img", name="Picture 49")).to_be_visible()
    expect(page.get_by_text("0:01.96")).to_be_visible()


@pytest.mark.parametrize("look", ["light", "dark"])
def test_no_serious_fault_when_framing(page: Page, path: str, look: str) -> None:
    page.add_init_script(f"localStorage.setItem('look', '{look}')")
    page.goto(f"{path}/framing")
    expect(page.get_by_role("img", name="Picture 25")).to_be_visible()
    assert serious_faults(page) == []


def test_without_a_picture_to_frame_the_way_on_is_said(page: Page, served: Served, path: str) -> None:
    served.http.put(f"{path}/destinations", json={"destinations": ["earshelf-audio"]}).raise_for_status()
    page.goto(f"{path}/framing")
    expect(page.get_by_role("heading", name="Nothing to frame")).to_be_visible()
    page.get_by_role("link", name="Choose a destination").click()
    expect(page.get_by_role("table", name="Lanes")).to_be_visible()


def test_a_film_is_asked_once_how_frames_of_another_shape_are_filled(page: Page, served: Served, path: str) -> None:
    served.show_only(path.rsplit("/", 1)[1], ["orrery-wide", "sprigg-upright", "kitewall-square"])
    page.goto(path)
    expect(
        page.get_by_text("2 destinations show another shape than this video. The picture is cropped around the focus")
    ).to_be_visible()
    answer = page.get_by_role("radiogroup", name="Frames of another shape")
    answer.get_by_text("Blurred background").click()
    expect(answer).to_be_hidden()
    modes = {name: shape["framing"]["mode"] for name, shape in shapes(served, path).items()}
    assert modes == {"orrery-wide": None, "sprigg-upright": "blur", "kitewall-square": "blur"}
    page.goto(f"{path}/framing")
    expect(answer.get_by_role("radio", name="Blurred background")).to_be_checked()
    answer.get_by_text("Bars").click()
    expect(answer.get_by_role("radio", name="Bars")).to_be_checked()
    page.get_by_role("button", name="Undo").click()
    expect(answer.get_by_role("radio", name="Blurred background")).to_be_checked()
    assert serious_faults(page) == []
