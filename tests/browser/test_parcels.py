"""Ways tried beside one another in a real browser."""

from __future__ import annotations

import re

import pytest
from playwright.sync_api import Page, expect

from .. import films
from ..service import Served
from .conftest import serious_faults


@pytest.fixture(scope="module")
def spray(served: Served) -> dict:
    films.film(served.places.inbox / "Spray, a long afternoon at the harbour wall.mp4", width=192, height=108, seconds=2)
    return served.master("Spray, a long afternoon at the harbour wall.mp4")


def test_another_way_stands_beside_the_first_with_what_sets_it_apart(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["fernpost-reel"])
    page.goto(f"/masters/{spray['id']}")
    lanes = page.get_by_role("table", name="Lanes")
    lanes.get_by_role("button", name="Try another way").click()
    page.get_by_role("region", name="Choices").get_by_label("Codec", exact=True).select_option("hevc")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Fernpost, showreel · HEVC")
    assert serious_faults(page) == []
    page.get_by_role("heading", level=1).get_by_role("link").click()
    expect(lanes.get_by_role("link", name="HEVC", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Pack 2 parcels")).to_be_visible()
    assert serious_faults(page) == []

    page.get_by_role("button", name="Pack 2 parcels").click()
    expect(page.get_by_text(re.compile("parcels are being packed|One parcel is being packed|Nothing is under way"))).to_be_visible()
    jobs = [job for job in served.http.get("/jobs").json() if job["kind"] == "pack" and job["master_id"] == spray["id"]]
    assert [served.ended(job)["state"] for job in jobs] == ["done", "done"]

    page.goto(f"/masters/{spray['id']}")
    row = lanes.get_by_role("row").filter(has=page.get_by_role("link", name="HEVC", exact=True))
    row.hover()
    row.get_by_role("button", name="Remove").click()
    expect(lanes.get_by_role("link", name="HEVC", exact=True)).to_be_hidden()
    expect(lanes.get_by_role("button", name="Remove")).to_have_count(0)


def test_a_parcel_takes_another_excerpt_than_its_lane_beside_it(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["fernpost-reel"])
    made = served.http.post(f"/masters/{spray['id']}/excerpts", json={"excerpt": {"in_s": "1", "out_s": "2"}, "title": "The splash"})
    made.raise_for_status()
    served.http.put(f"/masters/{spray['id']}/chosen-excerpt", json={"number": None}).raise_for_status()
    first = served.parcel_path(spray, "fernpost-reel")
    page.goto(first)
    page.get_by_role("button", name="Try another way").click()
    page.wait_for_url(lambda url: not url.endswith(first))
    excerpt = page.get_by_role("region", name="Choices").get_by_label("Excerpt")
    excerpt.select_option("The splash")
    expect(page.get_by_role("heading", level=1)).to_contain_text("0:01 to 0:02")
    assert served.http.get(first).json()["summary"]["parcel"]["excerpt"] is None
    other = served.lanes(spray)[1]["summary"]
    assert (other["parcel"]["excerpt"], other["difference"]) == ({"in_s": "1", "out_s": "2"}, "0:01 to 0:02")
