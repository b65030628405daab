"""Connections that ask for nothing must not keep others out: the web server's own protocol waits for headers for ever."""

from __future__ import annotations

import asyncio
import resource
from collections import OrderedDict
from contextlib import suppress
from typing import ClassVar

import h11
from uvicorn.protocols.http.h11_impl import H11Protocol

HEADERS_S = 10.0
"""How long a connection may take for the headers of a request."""
MOST_WAITING = 64
"""Connections whose headers are not there yet; of more the one that waits longest is closed."""
MOST_OF_A_PEER = 256
KEEP_ALIVE_S = 60
"""How long an idle connection stays open: longer than usual clients keep theirs, or one of them may send just as it is closed."""
OPEN_FILES = 8_192
"""Open files that this process may have, where the system lets it."""


class BoundedProtocol(H11Protocol):
    """HTTP as the server speaks it, with a deadline for headers and a bound on the connections of one peer."""

    waiting: ClassVar[OrderedDict[BoundedProtocol, None]] = OrderedDict()
    by_peer: ClassVar[dict[str, int]] = {}
    _deadline: asyncio.TimerHandle | None = None
    _peer: str | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        super().connection_made(transport)
        peer = self.client[0] if self.client else ""
        if self.by_peer.get(peer, 0) >= MOST_OF_A_PEER:
            transport.abort()
            return
        self._peer = peer
        self.by_peer[peer] = self.by_peer.get(peer, 0) + 1
        self._wait()

    def connection_lost(self, exc: Exception | None) -> None:
        self._go_on()
        self._leave()
        super().connection_lost(exc)

    def _leave(self) -> None:
        """Count no more among the peer's connections."""
        if self._peer is not None:
            self.by_peer[self._peer] -= 1
            if not self.by_peer[self._peer]:
                del self.by_peer[self._peer]
            self._peer = None

    def data_received(self, data: bytes) -> None:
        super().data_received(data)
        if self.conn.their_state is h11.IDLE and self.conn.trailing_data[0]:
            self._wait()
        else:
            self._go_on()

    def _wait(self) -> None:
        """Begin to wait for headers, or go on waiting: what trickles in moves no deadline."""
        if self._deadline is not None:
            return
        self._deadline = self.loop.call_later(HEADERS_S, self._give_up)
        self.waiting[self] = None
        while len(self.waiting) > MOST_WAITING:
            next(iter(self.waiting))._give_up()

    def _go_on(self) -> None:
        if self._deadline is not None:
            self._deadline.cancel()
            self._deadline = None
        self.waiting.pop(self, None)

    def _give_up(self) -> None:
        self._go_on()
        self._leave()  # at once: its end is told a round later, and hundreds may be accepted in the same round
        self.transport.abort()


def raise_open_files() -> int:
    """Let this process have more open files, as far as the system lets it; returns how many it may have now."""
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    wanted = OPEN_FILES if hard == resource.RLIM_INFINITY else min(hard, OPEN_FILES)
    if soft != resource.RLIM_INFINITY and soft < wanted:
        with suppress(ValueError, OSError):
            resource.setrlimit(resource.RLIMIT_NOFILE, (wanted, hard))
    return resource.getrlimit(resource.RLIMIT_NOFILE)[0]
