"""Every test of the web room fails when something blocks the event loop."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from ..service import Slow


@pytest.fixture(autouse=True)
def nothing_blocks_the_event_loop(slow: Slow) -> Iterator[None]:
    slow.said.clear()
    yield
    assert slow.said == [], "something blocks the event loop"
