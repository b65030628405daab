"""The bench under quick hands, and one film in one colour wherever it is shown."""

from __future__ import annotations

import re
import time
from fractions import Fraction

import numpy as np
from playwright.sync_api import Page, expect

from hardy_parcel.core.progress import JobProgress
from hardy_parcel.store import jobs
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind

from .. import films
from ..service import Served
from .conftest import serious_faults


def test_what_is_packed_is_what_was_chosen_however_quickly(page: Page, served: Served, gale_master: dict) -> None:
    """Twenty quick presses, then Pack: the packed rate is the one on screen, and one undo takes all of it back."""
    path = served.parcel_path(gale_master, "fernpost-reel")
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": {"in_s": "0", "out_s": "1/5"}})
    served.http.put(f"{path}/choices", json={})
    page.goto(served.parcel_path(gale_master, "fernpost-reel"))
    handle = page.get_by_role("slider", name="Upload bit rate")
    before = handle.get_attribute("aria-valuenow")
    handle.focus()
    for _ in range(20):
        page.keyboard.press("ArrowRight")
    shown = int(handle.get_attribute("aria-valuenow"))
    assert shown > int(before)
    expect(page.get_by_role("button", name="Pack this parcel")).to_be_disabled()
    page.get_by_role("button", name="Pack this parcel").click()
    dialog = page.get_by_role("dialog", name="Pack this parcel")
    dialog.get_by_role("button", name=re.compile("Pack (it|with care)")).click()
    expect(page.get_by_role("heading", name="Dispatch", exact=True)).to_be_visible()
    job = next(job for job in served.http.get("/jobs").json() if job["kind"] == "pack")
    served.ended(job)
    kept = served.http.get(path).json()["summary"]
    assert kept["plan"]["video"]["target_bps"]["value"] == shown
    receipt = next(one for one in served.http.get("/receipts").json() if one["job_id"] == job["id"])
    planned = next(row["planned"] for row in receipt["receipt"]["rows"] if row["code"] == "bitrate")
    assert planned == next(row["value"] for row in kept["slip"] if row["setting"] == "Bit rate")

    page.goto(served.parcel_path(gale_master, "fernpost-reel"))
    handle.focus()
    for _ in range(5):
        page.keyboard.press("ArrowLeft")
    expect(page.get_by_role("button", name="Undo")).to_be_visible()
    page.keyboard.press("Control+z")
    expect(handle).to_have_attribute("aria-valuenow", str(shown))
    expect(page.get_by_role("button", name="Undo")).to_be_hidden()
    served.http.put(f"{path}/choices", json={})
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": None})


def test_a_curve_comes_by_itself_and_e_takes_what_is_recommended(page: Page, served: Served, trying: dict) -> None:
    """Nobody asked for a rehearsal: sample clips are tested, and every rate is told with its evidence."""
    page.goto(served.parcel_path(trying, "fernpost-reel"))
    expect(page.get_by_text("Computed from sample clips of your video.")).to_be_visible(timeout=120_000)
    expect(page.get_by_text(re.compile("^arrives, "))).to_be_visible()
    expect(page.get_by_text(re.compile("probed ±"))).to_be_visible()
    page.get_by_role("button", name="Why more bits stop arriving").click()
    why = page.get_by_role("dialog", name="Why more bits stop arriving")
    expect(why.get_by_text(re.compile("even a perfect upload arrives at"))).to_be_visible()
    assert serious_faults(page) == []
    page.keyboard.press("Escape")
    expect(why).to_be_hidden()
    served.http.post("/tests/stop").raise_for_status()  # other ways that are tested meanwhile may be recommended instead
    path = served.parcel_path(trying, "fernpost-reel")
    served.until(path, lambda view: view["probing"] is None, "the stop")
    advice = served.http.get(path).json()["recommended"]
    page.reload()
    handle = page.get_by_role("slider", name="Upload bit rate")
    before = int(handle.get_attribute("aria-valuenow"))
    handle.press("e")
    if set(advice["part"]) == {"video_bitrate_bps"} and not advice["taken"]:
        expect(handle).not_to_have_attribute("aria-valuenow", str(before))
        assert abs(int(handle.get_attribute("aria-valuenow")) / advice["video_bps"] - 1) < 0.1
    else:
        expect(handle).to_have_attribute("aria-valuenow", str(before))


MIDDLE = """async (element) => {
  const canvas = document.createElement('canvas')
  const film = element.tagName === 'VIDEO'
  const [width, height] = film ? [element.videoWidth, element.videoHeight] : [element.naturalWidth, element.naturalHeight]
  canvas.width = width; canvas.height = height
  const paint = canvas.getContext('2d')
  paint.drawImage(element, 0, 0)
  return [...paint.getImageData(width / 2, height / 2, 1, 1).data].slice(0, 3)
}"""


def test_a_film_has_one_colour_on_every_picture_of_it(page: Page, served: Served) -> None:
    """Teal, BT.709: the playing film, the stepped picture, the strip and the framed preview agree within three code values."""
    planes = np.full((180, 320), 119, np.uint8), np.full((90, 160), 139, np.uint8), np.full((90, 160), 96, np.uint8)
    films.film(served.places.inbox / "Teal.mp4", seconds=Fraction(2), sound=None, pictures=iter([planes] * 50))
    master = served.master("Teal.mp4")
    served.until(f"/masters/{master['id']}", lambda found: len(found["strip"]) > 8, "its strip")
    page.goto(f"/masters/{master['id']}/master")
    stage = page.get_by_role("region", name="Picture")
    stepped = stage.get_by_role("img")
    expect(stepped).to_have_js_property("complete", True)
    colours = {"stepped": stepped.evaluate(MIDDLE)}
    strip = page.locator(".strip img").first
    expect(strip).to_have_js_property("complete", True)
    colours["strip"] = strip.evaluate(MIDDLE)
    colours["framed"] = page.evaluate(
        f"""async (address) => {{
          const picture = new Image()
          picture.src = address
          await picture.decode()
          return await ({MIDDLE})(picture)
        }}""",
        f"/api{served.parcel_path(master)}/framed.jpg?number=3",
    )
    stage.get_by_role("button", name="play").click()
    film = stage.locator("video")
    film.evaluate("element => new Promise(done => element.readyState > 1 ? done() : element.onloadeddata = done)")
    colours["playing"] = film.evaluate(MIDDLE)
    far = max(abs(a - b) for one in colours.values() for a, b in zip(one, colours["playing"], strict=True))
    assert far <= 3, colours


PAINTED = """(token) => {
  const canvas = document.querySelector('.curve canvas')
  if (!canvas || canvas.width < 100) return 0
  const hex = getComputedStyle(document.documentElement).getPropertyValue(token).trim()
  const want = [1, 3, 5].map(at => parseInt(hex.slice(at, at + 2), 16))
  const data = canvas.getContext('2d').getImageData(0, 0, canvas.width, canvas.height).data
  let count = 0
  for (let i = 0; i < data.length; i += 4) if (want.every((value, c) => Math.abs(data[i + c] - value) < 2) && data[i + 3] > 250) count++
  return count > 60
}"""


def test_the_chart_follows_the_look(page: Page, served: Served, gale_master: dict) -> None:
    """Its axis is drawn in the second ink of the look that is worn, at once when that changes."""
    page.goto(served.parcel_path(gale_master, "orrery-wide"))
    page.wait_for_function(PAINTED, arg="--second-ink")
    page.get_by_role("button", name=re.compile("^night")).click()
    page.wait_for_function(PAINTED, arg="--second-ink")
    page.get_by_role("button", name=re.compile("^day")).click()
    page.wait_for_function(PAINTED, arg="--second-ink")


def test_a_page_that_is_gone_withdraws_what_waits_to_be_tested_for_its_film(page: Page, served: Served, gale_master: dict) -> None:
    page.goto(f"/masters/{gale_master['id']}")
    expect(page.get_by_role("table", name="Lanes")).to_be_visible()
    waiting = jobs.add(
        Database(served.places.database), JobKind.PROBE, title="Waits for its hour", task=JobProgress(), master_id=gale_master["id"],
        not_before=time.time() + 3600,
    )
    page.goto("/receipts")  # of the same site: a browser gives a page half a second for its last words where it goes elsewhere

    def withdrawn(found) -> bool:
        return waiting.id not in [job["id"] for job in found if job["state"] == "waiting"]

    served.until("/jobs", withdrawn, "the test to be withdrawn")
