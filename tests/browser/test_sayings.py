"""Sayings in a real browser: what may be tried, and why something says nothing here."""

from __future__ import annotations

import re

from playwright.sync_api import Page, expect

from ..service import Served
from .conftest import serious_faults


def test_a_saying_is_tried_on_ones_own_film_and_kept_as_a_lane(page: Page, served: Served, gale_master: dict) -> None:
    served.show_only(gale_master, ["orrery-wide", "earshelf-audio"], {"orrery-wide": {"effort": "quick", "short_side_px": 90}})
    page.goto(f"/masters/{gale_master['id']}")
    page.get_by_role("button", name="More…").click()
    page.get_by_role("menuitem", name="Sayings, tried on this film").click()
    sayings = page.get_by_role("list", name="Sayings")
    double = sayings.get_by_role("listitem").filter(has_text="Send twice what they ask for")
    expect(sayings.get_by_role("listitem")).to_have_count(11)
    assert serious_faults(page) == []
    if double.get_by_role("button", name="Try it on this film").is_visible():  # a test before may have tried it
        double.get_by_role("button", name="Try it on this film").click()
    expect(double.get_by_text(re.compile("No difference that can be told|It arrives"))).to_be_visible(timeout=240_000)
    expect(page.get_by_text(re.compile("^On this film"))).to_be_visible()
    double.get_by_role("button", name="Keep as a lane").click()
    expect(page.get_by_role("table", name="Lanes").get_by_role("link", name="Send twice what they ask for")).to_be_visible()
    served.as_new(gale_master)


def test_where_no_lane_has_a_picture_nothing_can_be_tried(page: Page, served: Served, gale_master: dict) -> None:
    served.show_only(gale_master, ["earshelf-audio"])
    page.goto(f"/masters/{gale_master['id']}/sayings")
    expect(page.get_by_text("No lane of this master has a picture to try anything on.")).to_be_visible()
    served.as_new(gale_master)
