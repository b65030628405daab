"""What happens is told to every page that listens, from its greeting on; while nobody listens, nobody looks."""

from __future__ import annotations

import asyncio
from collections.abc import AsyncIterator
from contextlib import suppress
from pathlib import Path

import pytest

from hardy_parcel.processes.messages import BenchmarkTask
from hardy_parcel.store import jobs
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.web import happenings
from hardy_parcel.web.happenings import Event, Happenings

from ..service import in_a_loop


def add(database: Database, title: str) -> None:
    jobs.add(database, JobKind.BENCHMARK, title=title, task=BenchmarkTask(), master_id=None)


async def next_event(page: AsyncIterator[Event]) -> Event:
    return await asyncio.wait_for(anext(page), 20)


@pytest.fixture
def database(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Database:
    monkeypatch.setattr(happenings, "POLL_S", 0.01)
    monkeypatch.setattr(happenings, "QUIET_POLL_S", 0.01)
    return Database(tmp_path / "hardy-parcel.sqlite3")


def test_a_page_is_told_what_happens_from_its_greeting_on(database: Database) -> None:
    looks: list[int] = []

    class Counting(Happenings):
        def since(self, revision: int) -> tuple[int, list[Event]]:
            looks.append(revision)
            return super().since(revision)

    async def story() -> list[str]:
        events = Counting(database)
        following = asyncio.create_task(events.follow())
        await asyncio.sleep(0.1)
        await asyncio.to_thread(add, database, "before anybody listened")
        await asyncio.sleep(0.2)
        assert looks == [], "nobody listens"
        page = events.listen()
        assert (await next_event(page))["event"] == "hello"
        await asyncio.to_thread(add, database, "right after the greeting")
        told = [(await next_event(page))["data"]]
        await page.aclose()
        await asyncio.to_thread(add, database, "while nobody listened")
        await asyncio.sleep(0.2)
        second = events.listen()
        assert (await next_event(second))["event"] == "hello"
        await asyncio.to_thread(add, database, "for the second page")
        told.append((await next_event(second))["data"])
        await second.aclose()
        following.cancel()
        with suppress(asyncio.CancelledError):
            await following
        return told

    first, last = in_a_loop(story())
    assert "right after the greeting" in first
    assert "for the second page" in last
