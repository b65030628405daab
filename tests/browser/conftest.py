"""Headless Chromium on the real page; a console error or a page error fails the test."""

from __future__ import annotations

import json
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
import requests
from playwright.sync_api import Browser, Locator, Page, expect, sync_playwright

from hardy_parcel.web.security import cookie_name

from ..service import Served

AXE = Path(__file__).parents[2] / "frontend" / "node_modules" / "axe-core" / "axe.min.js"
expect.set_options(timeout=25_000)  # a busy machine is slow, not wrong
FLAGS = ["--no-sandbox", "--disable-gpu", "--disable-background-networking"]


@pytest.fixture(scope="session")
def browser() -> Iterator[Browser]:
    path = shutil.which("chromium")
    assert path, "Chromium is missing; 'make test' installs it or says how."
    with sync_playwright() as playwright:
        found = playwright.chromium.launch(executable_path=path, args=FLAGS)
        yield found
        found.close()


@pytest.fixture
def page(browser: Browser, served: Served) -> Iterator[Page]:
    context = browser.new_context(base_url=served.url, viewport={"width": 1280, "height": 800}, reduced_motion="reduce")
    session = requests.get(served.url, params={"key": served.key}, allow_redirects=False, timeout=30).cookies[cookie_name(served.url)]
    context.add_cookies([{"name": cookie_name(served.url), "value": session, "url": served.url}])
    opened = context.new_page()
    opened.set_default_timeout(60_000)
    said: list[str] = []
    asked: list[str] = []
    opened.on("pageerror", lambda error: said.append(str(error)))
    opened.on("console", lambda message: said.append(message.text) if message.type == "error" else None)
    opened.on("request", lambda request: asked.append(request.url))
    yield opened
    context.close()
    expected = [text for text in said if "the server responded with a status of 4" not in text]
    assert expected == []
    assert [url for url in asked if not url.startswith((served.url, "data:", "blob:"))] == []


def serious_faults(page: Page) -> list[str]:
    """What axe-core finds that is serious or critical, in words."""
    page.evaluate(AXE.read_text())
    found = page.evaluate("axe.run(document, {resultTypes: ['violations']})")
    return [
        f"{fault['id']}: {json.dumps([node['html'][:140] for node in fault['nodes']])}"
        for fault in found["violations"]
        if fault["impact"] in ("serious", "critical")
    ]


def choose_of_lane(page: Page, row: Locator, name: str) -> None:
    """One of the things that a lane's menu offers."""
    row.get_by_role("button", name="What to do with").click()
    page.get_by_role("menuitem", name=name).click()


def pick(page: Page, menu: str, option: str) -> None:
    """An option of a menu, by keyboard."""
    page.get_by_role("combobox", name=menu).press("Enter")
    page.get_by_role("option", name=option).click()
