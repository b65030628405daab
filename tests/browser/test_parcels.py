"""Ways tried beside one another in a real browser."""

from __future__ import annotations

import re
from fractions import Fraction

import pytest
from playwright.sync_api import Page, expect

from hardy_parcel.planned import sharing

from .. import films
from ..service import Served
from .conftest import choose_of_lane, pick, serious_faults


@pytest.fixture(scope="module")
def spray(served: Served) -> dict:
    films.film(served.places.inbox / "Spray, a long afternoon at the harbour wall.mp4", width=192, height=108, seconds=2)
    return served.master("Spray, a long afternoon at the harbour wall.mp4")


def test_another_way_stands_beside_the_first_with_what_sets_it_apart(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["fernpost-reel"])
    page.goto(f"/masters/{spray['id']}")
    lanes = page.get_by_role("table", name="Lanes")
    choose_of_lane(page, lanes.get_by_role("row").nth(1), "Try another option…")
    options = page.get_by_role("dialog", name="Try another option")
    expect(options.get_by_role("listitem").filter(has_text="HEVC")).to_contain_text("first figure in about 0:")
    assert serious_faults(page) == []
    options.get_by_role("button", name="Try it: HEVC").click()
    expect(lanes.get_by_role("link", name="HEVC", exact=True)).to_be_visible()
    expect(page.get_by_role("button", name="Pack 2 parcels")).to_be_visible()
    assert serious_faults(page) == []

    page.get_by_role("button", name="Pack 2 parcels").click()
    dialog = page.get_by_role("dialog", name="Pack 2 parcels")
    expect(dialog.get_by_role("listitem")).to_have_count(2)
    expect(dialog.get_by_text("are free there")).to_be_visible()
    assert serious_faults(page) == []
    dialog.get_by_role("button", name=re.compile("Pack (them|with care)")).click()
    expect(page.get_by_text(re.compile("parcels are packed or wait|One parcel is packed or waits|Nothing is being packed"))).to_be_visible()
    jobs = [job for job in served.http.get("/jobs").json() if job["kind"] == "pack" and job["master_id"] == spray["id"]]
    assert [served.ended(job)["state"] for job in jobs] == ["done", "done"]

    page.goto(f"/masters/{spray['id']}")
    row = lanes.get_by_role("row").filter(has=page.get_by_role("link", name="HEVC", exact=True))
    expect(row.get_by_text(re.compile("no difference that can be told|not known yet"))).to_be_visible()
    expect(row.get_by_role("link", name=re.compile(r"^packed "))).to_be_visible()
    choose_of_lane(page, lanes.get_by_role("row").nth(1), "Compare the others with this")
    expect(lanes.get_by_text("the others are compared with this")).to_be_visible()
    choose_of_lane(page, row, "Remove")
    expect(lanes.get_by_role("link", name="HEVC", exact=True)).to_be_hidden()
    lanes.get_by_role("row").nth(1).get_by_role("button", name="What to do with").click()
    expect(page.get_by_role("menuitem", name="Try another option…")).to_be_visible()
    expect(page.get_by_role("menuitem", name="Remove")).to_have_count(0)


def test_lanes_are_sorted_shown_and_hidden(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["orrery-wide", "sprigg-upright", "kitewall-square"])
    page.goto(f"/masters/{spray['id']}")
    rows = page.get_by_role("table", name="Lanes").get_by_role("row")
    named = rows.get_by_role("link", name=re.compile("Orrery|Sprigg|Kitewall"))
    expect(named).to_have_text([re.compile("Orrery"), re.compile("Sprigg"), re.compile("Kitewall")])
    pick(page, "Order of the lanes", "destination")
    expect(named).to_have_text([re.compile("Kitewall"), re.compile("Orrery"), re.compile("Sprigg")])
    choose_of_lane(page, rows.filter(has_text="Sprigg"), "Hide here")
    expect(named).to_have_text([re.compile("Kitewall"), re.compile("Orrery")])
    page.get_by_role("button", name="Showing 2 of 3").click()
    page.get_by_role("checkbox", name="square 1:1").press("Space")
    expect(named).to_have_text([re.compile("Kitewall")])
    assert serious_faults(page) == []
    page.get_by_role("checkbox", name="square 1:1").press("Space")
    page.get_by_role("button", name="Show again").click()
    expect(named).to_have_count(3)
    page.keyboard.press("Escape")
    rows.filter(has_text="Sprigg").get_by_role("checkbox").press("Space")
    expect(page.get_by_role("button", name="Pack one parcel")).to_be_visible()
    page.get_by_role("button", name="Change the chosen one").click()
    page.get_by_label("Size limit in megabytes").fill("2")
    page.get_by_role("button", name="Set it").click()
    expect(page.get_by_text("The chosen lane is changed.")).to_be_visible()
    limits = [view["summary"]["choices"]["max_bytes"] for view in served.lanes(spray)]
    assert limits == [None, 2_000_000, None]


def test_shapes_stand_beside_one_another_and_an_empty_place_says_why(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["orrery-wide", "sprigg-upright", "fernpost-reel"])
    page.goto(f"/masters/{spray['id']}")
    page.get_by_role("radio", name="Shapes").press("Space")
    table = page.get_by_role("table", name="Lanes by shape")
    expect(table.get_by_role("row", name=re.compile("^Sprigg")).get_by_text("takes 9:16 only")).to_be_visible()
    reel = table.get_by_role("row", name=re.compile("^Fernpost"))
    reel.get_by_role("button", name="Try it").click()
    expect(reel.get_by_role("link")).to_have_count(2)
    assert [view["summary"]["choices"]["shape"] for view in served.lanes(spray)][-1] == "9/16"
    assert serious_faults(page) == []
    page.get_by_role("radio", name="Rows").press("Space")
    expect(page.get_by_role("table", name="Lanes")).to_be_visible()


def test_a_parcel_takes_another_excerpt_than_its_lane_beside_it(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["fernpost-reel"])
    made = served.http.post(f"/masters/{spray['id']}/excerpts", json={"excerpt": {"in_s": "1", "out_s": "2"}, "title": "The splash"})
    made.raise_for_status()
    served.http.put(f"/masters/{spray['id']}/chosen-excerpt", json={"number": None}).raise_for_status()
    first = served.parcel_path(spray, "fernpost-reel")
    page.goto(first)
    page.get_by_role("button", name="Try another option").click()
    page.get_by_role("button", name="Try it: the same, to change by hand").click()
    page.wait_for_url(lambda url: not url.endswith(first))
    excerpt = page.get_by_role("region", name="Choices").get_by_label("Excerpt")
    excerpt.select_option("The splash")
    expect(page.get_by_role("heading", level=1)).to_contain_text("0:01 to 0:02")
    assert served.http.get(first).json()["summary"]["parcel"]["excerpt"] is None
    other = served.lanes(spray)[1]["summary"]
    assert (other["parcel"]["excerpt"], other["difference"]) == ({"in_s": "1", "out_s": "2"}, "0:01 to 0:02")


def test_lanes_share_files_and_each_is_packed_once(
    page: Page, served: Served, spray: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(sharing, "figure", lambda at: at)  # what is supposed counts as tested, which would take a minute
    quick = {"effort": "quick", "short_side_px": 90, "method": "encoded"}
    served.show_only(spray, ["orrery-wide", "fernpost-reel", "sprigg-upright"], {"orrery-wide": quick, "fernpost-reel": quick})
    page.goto(f"/masters/{spray['id']}")
    expect(page.get_by_text("2 files serve all 3 lanes within what a viewer notices")).to_be_visible()
    page.get_by_role("button", name="See how").click()
    dialog = page.get_by_role("dialog", name="The fewest files")
    expect(dialog.get_by_text(re.compile("^One .* serves Orrery wide film and Fernpost showreel"))).to_be_visible()
    assert serious_faults(page) == []
    dialog.get_by_role("button", name="Let them share these files").click()
    lanes = page.get_by_role("table", name="Lanes")
    expect(lanes.get_by_text(re.compile("^in the file of"))).to_have_count(1)
    expect(page.get_by_role("button", name="Pack 2 parcels")).to_be_visible()
    page.get_by_role("button", name="Undo").click()
    expect(lanes.get_by_text(re.compile("^in the file of"))).to_have_count(0)
    expect(page.get_by_role("button", name="Pack 3 parcels")).to_be_visible()


def test_a_larger_frame_that_is_treated_better_stands_beside_its_lane_until_a_lane_has_it(page: Page, served: Served) -> None:
    films.film(served.places.inbox / "Jetty.mp4", width=440, height=330, seconds=Fraction(1, 2))
    jetty = served.master("Jetty.mp4")
    served.show_only(jetty, ["orrery-wide"])
    own, *beside = served.http.get(f"/masters/{jetty['id']}/lanes").json()["lanes"]
    larger = next(view for view in beside if view["lane"]["beside"] == "larger")
    assert larger["lane"]["parcel"]["id"] == own["lane"]["parcel"]["id"]
    assert (larger["lane"]["framing"]["width"], larger["lane"]["framing"]["height"]) == (640, 480)
    assert larger["brings"] == [], "what was not tested advises nothing"
    page.goto(f"/masters/{jetty['id']}")
    lanes = page.get_by_role("table", name="Lanes")
    row = lanes.get_by_role("row").filter(has_text="go up to 640×480")
    expect(row).to_contain_text("not tested yet")
    assert serious_faults(page) == []
    page.get_by_role("button", name="Show…").click()
    under = page.get_by_role("checkbox", name=re.compile("^The original file and"))
    under.press("Space")
    expect(row).to_be_hidden()
    under.press("Space")
    expect(row).to_be_visible()
    page.keyboard.press("Escape")
    choose_of_lane(page, row, "Keep both")
    expect(lanes.get_by_role("link", name="480 lines", exact=True)).to_be_visible()
    expect(row).to_be_hidden()
    served.show_only(jetty, ["orrery-wide"])
    page.reload()
    choose_of_lane(page, row, "Go up to it")
    expect(page.get_by_role("status").filter(has_text="Orrery gets the larger frame.")).to_be_visible()
    expect(lanes.get_by_role("row").nth(1)).to_contain_text("640×480")
    page.get_by_role("button", name="Undo").click()
    expect(row).to_be_visible()


def test_the_report_that_is_served_has_its_looks(page: Page, served: Served, spray: dict) -> None:
    served.show_only(spray, ["orrery-wide"])
    page.goto(f"/api/masters/{spray['id']}/report.html")
    expect(page.get_by_role("heading", level=1)).to_contain_text("Spray")
    assert page.evaluate("getComputedStyle(document.querySelector('table')).borderCollapse") == "collapse"
    assert page.evaluate("document.querySelector('.edge').getBoundingClientRect().height") > 3
