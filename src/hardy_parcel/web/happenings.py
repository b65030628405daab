"""What happens, told to every open page: one look at the database for all of them, and only what is new."""

from __future__ import annotations

import asyncio
import json
import logging
import time
from collections.abc import AsyncIterator

from ..store import jobs
from ..store.database import Database, Watch, changed_since

POLL_S, QUIET_POLL_S, QUIET_AFTER_S = 0.25, 0.5, 5.0
"""Between two looks, and once nothing was written for a while."""
MOST_WAITING = 200
"""Events that a page may be behind; one that does not listen is let go and asks for everything when it is back."""
MOST_LISTENERS = 100
log = logging.getLogger(__name__)
Event = dict[str, str]


class Happenings:
    """Looks whether anything was written, and hands what changed to all who listen.

    `job` comes with a job as it is now, progress included; `changed` with a list of kinds and ids of what else changed.
    """

    def __init__(self, database: Database) -> None:
        self._database = database
        self._listeners: set[asyncio.Queue[Event | None]] = set()
        self._revision = 0

    async def follow(self) -> None:
        """Look again and again while somebody listens, until cancelled."""
        watch = await asyncio.to_thread(Watch, self._database)
        try:
            await asyncio.to_thread(watch.changed)
            self._revision = await asyncio.to_thread(self._database.revision)
            wrote = time.monotonic()
            while True:
                await asyncio.sleep(POLL_S if time.monotonic() - wrote < QUIET_AFTER_S else QUIET_POLL_S)
                if not self._listeners:
                    continue
                try:
                    if not await asyncio.to_thread(watch.changed):
                        continue
                    now, events = await asyncio.to_thread(self.since, self._revision)
                except Exception:  # whatever could not be read this time must not end the telling for every page
                    log.exception("what changed could not be read")
                    continue
                self._revision, wrote = now, time.monotonic()
                for listener in list(self._listeners):
                    self._hand(listener, events)
        finally:
            watch.close()

    def since(self, revision: int) -> tuple[int, list[Event]]:
        """The newest revision, and what changed after an older one: jobs, then the rest in one event."""
        now = self._database.revision()
        events = [{"event": "job", "data": job.model_dump_json()} for job in jobs.changed_since(self._database, revision)]
        changed = sorted((one.kind, one.id) for one in changed_since(self._database, revision) if one.kind != "job")
        if changed:
            events.append({"event": "changed", "data": json.dumps([{"kind": kind, "id": one} for kind, one in changed])})
        return now, events

    def _hand(self, listener: asyncio.Queue[Event | None], events: list[Event]) -> None:
        if listener.qsize() + len(events) > MOST_WAITING:
            self._listeners.discard(listener)
            listener.put_nowait(None)
            return
        for event in events:
            listener.put_nowait(event)

    @property
    def crowded(self) -> bool:
        """Whether as many pages listen as are let."""
        return len(self._listeners) >= MOST_LISTENERS

    async def listen(self) -> AsyncIterator[Event]:
        """What happens from now on; first a greeting, upon which a page asks for everything that it shows."""
        listener: asyncio.Queue[Event | None] = asyncio.Queue()
        if not self._listeners:  # nobody was told anything meanwhile, and nobody has to be
            self._revision = await asyncio.to_thread(self._database.revision)
        self._listeners.add(listener)
        try:
            yield {"event": "hello", "data": "{}"}
            while (event := await listener.get()) is not None:
                yield event
        finally:
            self._listeners.discard(listener)
