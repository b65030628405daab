"""Connections that ask for nothing: the service answers others all the same, and lets go of them."""

from __future__ import annotations

import asyncio
import contextlib
import resource
import socket
import threading
import time

import httpx
import pytest
import uvicorn
from uvicorn.server import ServerState

from hardy_parcel.web import connections
from hardy_parcel.web.connections import BoundedProtocol, raise_open_files

from .. import service
from ..service import Served, Slow, in_a_loop


def connect(served: Served) -> socket.socket:
    return socket.create_connection(("127.0.0.1", int(served.url.rsplit(":", 1)[1])), timeout=20)


def ended(line: socket.socket) -> bool:
    """Whether the other side has closed a connection, without an answer."""
    with contextlib.suppress(ConnectionError):
        return line.recv(1) == b""
    return True


def answered(served: Served) -> bool:
    with httpx.Client(base_url=served.url, timeout=20, headers=served.let_in) as fresh:
        return fresh.get("/api/dispatch").status_code == 200


def test_hundreds_of_half_open_connections_keep_nobody_out(served: Served) -> None:
    with contextlib.ExitStack() as stack:
        lines = [stack.enter_context(connect(served)) for _ in range(300)]
        for line in lines[:150]:
            with contextlib.suppress(OSError):
                line.sendall(b"GET / HTTP/1.1\r\nhost: 127")
        assert answered(served)
        assert len(BoundedProtocol.waiting) <= connections.MOST_WAITING
        assert ended(lines[0]), "the one that waited longest went first"
    assert answered(served)


class Line(asyncio.Transport):
    """A connection of one peer, as far as a protocol asks; its end is told in a later round, as the system does."""

    def __init__(self) -> None:
        super().__init__({"peername": ("192.0.2.7", 4000), "sockname": ("192.0.2.1", 80)})
        self.aborted = False

    def abort(self) -> None:
        self.aborted = True

    def close(self) -> None:
        pass


def test_connections_that_are_accepted_in_one_round_do_not_count_once_they_were_let_go() -> None:
    async def accept() -> list[Line]:
        config, lines = uvicorn.Config(lambda: None, log_config=None), [Line() for _ in range(300)]
        config.load()
        for line in lines:
            BoundedProtocol(config, ServerState(), {}).connection_made(line)
        for protocol in [waits for waits in BoundedProtocol.waiting if waits._peer == "192.0.2.7"]:
            protocol.connection_lost(None)
        return lines

    lines = in_a_loop(accept())
    assert lines[0].aborted
    assert not lines[-1].aborted, "the newest one may speak, however many came with it"
    assert "192.0.2.7" not in BoundedProtocol.by_peer


@pytest.mark.parametrize("sent", [b"", b"GET / HTTP/1.1\r\nhost: 127.0.0.1\r\n"])
def test_headers_have_a_deadline_however_slowly_they_trickle(
    served: Served, monkeypatch: pytest.MonkeyPatch, sent: bytes
) -> None:
    monkeypatch.setattr(connections, "HEADERS_S", 0.4)
    with connect(served) as line:
        began = time.monotonic()
        line.sendall(sent)
        with contextlib.suppress(OSError):
            for _ in range(40):
                if not sent:
                    break
                line.sendall(b"x-more: 1\r\n")
                time.sleep(0.05)
        assert ended(line)
        assert 0.3 < time.monotonic() - began < 10


def test_a_second_request_of_a_connection_has_its_deadline_too(served: Served, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(connections, "HEADERS_S", 0.4)
    port = served.url.rsplit(":", 1)[1]
    with connect(served) as line:
        line.sendall(f"GET /api/nothing HTTP/1.1\r\nhost: 127.0.0.1:{port}\r\n\r\n".encode())
        assert line.recv(12).startswith(b"HTTP/1.1 401")
        line.sendall(b"GET /api/nothing HTTP/1.1\r\nhost:")
        ends = time.monotonic() + 10
        with contextlib.suppress(ConnectionError):
            while line.recv(4096):
                assert time.monotonic() < ends


def test_one_peer_has_so_many_connections_and_no_more(served: Served, monkeypatch: pytest.MonkeyPatch) -> None:
    before = sum(BoundedProtocol.by_peer.values())
    monkeypatch.setattr(connections, "MOST_OF_A_PEER", before + 3)
    with contextlib.ExitStack() as stack:
        lines = [stack.enter_context(connect(served)) for _ in range(4)]
        assert ended(lines[3])
    ends = time.monotonic() + 10
    while sum(BoundedProtocol.by_peer.values()) > before:
        assert time.monotonic() < ends, "what was closed is not counted any more"
        time.sleep(0.02)
    assert answered(served)


def test_the_service_may_have_more_open_files_than_it_was_given() -> None:
    soft, hard = resource.getrlimit(resource.RLIMIT_NOFILE)
    try:
        resource.setrlimit(resource.RLIMIT_NOFILE, (min(soft, 1_024), hard))
        assert raise_open_files() == min(connections.OPEN_FILES, hard)
    finally:
        resource.setrlimit(resource.RLIMIT_NOFILE, (soft, hard))


def test_an_idle_connection_outlives_the_clients_own_patience() -> None:
    usual = httpx.Client()._transport._pool._keepalive_expiry  # type: ignore[attr-defined]
    assert usual is not None
    assert 2 * usual < connections.KEEP_ALIVE_S, (
        "else a client may send in the moment in which its connection is closed"
    )


def test_a_callback_that_keeps_a_services_loop_is_noticed_and_another_threads_is_not(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    monkeypatch.setattr(service.os, "getloadavg", lambda: (0.0, 0.0, 0.0))
    watch = Slow()

    async def story(here: bool) -> None:
        if here:
            watch.threads.add(threading.get_ident())
        time.sleep(service.BLOCKED_S * 1.5)  # noqa: ASYNC251  what is to be noticed

    monkeypatch.setattr(asyncio.Handle, "_run", watch.timed(asyncio.Handle._run))
    in_a_loop(story(here=False))
    assert watch.said == []
    in_a_loop(story(here=True))
    assert len(watch.said) == 1
