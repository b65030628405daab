"""What the product and its page are made of is listed and comes with its licences."""

from __future__ import annotations

import json
import re
from pathlib import Path

from ..service import Served

ROOT = Path(__file__).parents[2]


def test_every_package_and_font_is_named_with_its_version_and_licence(served: Served) -> None:
    text = served.http.get(f"{served.url}/notices.txt").text
    page, _, product = text.partition("In the product\n")
    for name, version in json.loads((ROOT / "frontend" / "package.json").read_text())["dependencies"].items():
        assert re.search(rf"(?m)^  {re.escape(name)} \d\S*: \S", page), f"{name} {version}"
    pinned = re.findall(
        r"(?m)^(av|fastapi|lxml|numpy|pydantic|watchfiles|uvicorn)==(\S+)", (ROOT / "requirements.txt").read_text()
    )
    assert len(pinned) == 7
    for name, version in pinned:
        assert re.search(rf"(?m)^  {name} {re.escape(version)}: \S", product), name
    assert "SIL OPEN FONT LICENSE Version 1.1" in text


def test_both_lock_files_pin_the_same_versions() -> None:
    first, second = (
        dict(re.findall(r"(?m)^([A-Za-z0-9_.-]+)(?:\[[^]]*\])?==(\S+)", (ROOT / name).read_text()))
        for name in ("requirements.txt", "requirements-dev.txt")
    )
    assert {name: second.get(name) for name in first} == first
