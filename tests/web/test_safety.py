"""Loopback only, our own page only, nothing from outside."""

from __future__ import annotations

import contextlib
import errno
import os
import pickle
import re
import socket
from pathlib import Path

import httpx
import pytest

from hardy_parcel import serve
from hardy_parcel.core.errors import BadInput, FolderUnusable
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.web.app import STATIC
from hardy_parcel.web.security import MOST_SESSIONS, Guard, Sessions

from ..service import Served


@pytest.mark.parametrize("host", ["evil.example", "127.0.0.1.evil.example", "[::2]", "localhost.evil.example:8640", ""])
def test_a_foreign_host_is_refused(served: Served, host: str) -> None:
    answer = served.http.get("/masters", headers={"host": host})
    assert answer.status_code in (400, 403)


@pytest.mark.parametrize("name", ["127.0.0.1", "localhost", "LOCALHOST", "[::1]"])
def test_names_of_this_machine_are_taken(served: Served, name: str) -> None:
    port = served.url.rsplit(":", 1)[1]
    assert served.http.get("/masters", headers={"host": f"{name}:{port}"}).status_code == 200


@pytest.mark.parametrize(
    "headers",
    [{"origin": "http://evil.example"}, {"origin": "http://127.0.0.1:1"}, {"origin": "null"}, {"sec-fetch-site": "cross-site"}],
)
def test_another_page_is_refused(served: Served, headers: dict) -> None:
    answer = served.http.post("/masters", json={"path": "/x"}, headers=headers)
    assert answer.status_code == 403
    assert answer.json()["code"] == "refused"


@pytest.mark.parametrize("path", ["/", "/api/masters", "/api/openapi.json", "/assets/nothing.js", "/api/events", "/api/uploads"])
@pytest.mark.parametrize("wrong", [{}, {"authorization": "Bearer no"}, {"cookie": "hardy-parcel-80=x"}])
def test_who_has_no_key_is_told_where_it_is(served: Served, path: str, wrong: dict) -> None:
    answer = httpx.get(f"{served.url}{path}", headers=wrong)
    assert answer.status_code == 401
    assert "start-key" in answer.text
    assert served.key not in answer.text
    assert "default-src 'none'" in answer.headers["content-security-policy"]


def test_the_printed_address_lets_a_browser_in_and_its_key_leaves_the_address(served: Served) -> None:
    with httpx.Client(base_url=served.url) as browser:
        assert browser.get("/?key=wrong").status_code == 401
        first = browser.get(f"/receipts?find=a+b&key={served.key}")
        assert (first.status_code, first.headers["location"]) == (303, "/receipts?find=a+b")
        told = first.headers["set-cookie"].lower()
        assert all(part in told for part in ("httponly", "samesite=strict", "path=/"))
        assert browser.get("/api/masters").status_code == 200


def test_a_browser_gets_a_session_and_never_the_key(served: Served) -> None:
    with httpx.Client(base_url=served.url) as browser:
        told = browser.get(f"/?key={served.key}").headers["set-cookie"]
        assert served.key not in told
        [session] = [value for name, value in browser.cookies.items() if name.startswith("hardy-parcel-")]
        name = next(iter(browser.cookies))
    assert httpx.get(f"{served.url}/api/masters", headers={"cookie": f"{name}={session}"}).status_code == 200
    assert httpx.get(f"{served.url}/api/masters", headers={"cookie": f"{name}={served.key}"}).status_code == 401
    assert httpx.get(f"{served.url}/?key={session}").status_code == 401, "a session buys no other"


def test_a_session_ends_with_the_service_that_began_it() -> None:
    first, second = Sessions(), Sessions()
    token = first.begin()
    assert (first.has(token), second.has(token), first.has("")) == (True, False, False)
    assert token.encode() not in pickle.dumps(list(first._hashes)), "only its hash is there"
    for _ in range(MOST_SESSIONS):
        last = first.begin()
    assert (first.has(token), first.has(last)) == (False, True)


@pytest.mark.parametrize("left", [b"", b"short", b"\xff\xfe" * 30, b"\n \n"])
def test_a_key_that_keeps_nobody_out_is_made_anew(tmp_path: Path, left: bytes) -> None:
    places = Places.of(tmp_path / "data")
    places.key_file.write_bytes(left)
    key = places.start_key()
    assert len(key) >= 32
    assert places.key_file.read_text() == key == places.start_key()
    assert places.key_file.stat().st_mode & 0o077 == 0
    assert [path.name for path in places.data.iterdir() if path.name.startswith("start-key")] == ["start-key"]


def test_a_key_that_cannot_be_written_lets_nobody_in(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    places = Places.of(tmp_path / "data")

    def full(*_: object) -> None:
        raise OSError(errno.ENOSPC, "No space left on device")

    with monkeypatch.context() as patch:
        patch.setattr(os, "fsync", full)
        with pytest.raises(FolderUnusable):
            places.start_key()
    assert not places.key_file.exists()
    assert len(places.start_key()) >= 32
    for key in ("", "short"):
        with pytest.raises(ValueError, match="too short"):
            Guard(lambda *_: None, key=key, key_file=places.key_file)


def test_an_address_with_the_key_leads_nowhere_else(served: Served) -> None:
    answer = httpx.get(f"{served.url}//elsewhere.example/x?key={served.key}")
    assert answer.headers["location"].startswith("/elsewhere.example")


def test_what_is_kept_is_for_its_owner_alone(served: Served) -> None:
    served.master("Gale.mp4")
    assert served.places.data.stat().st_mode & 0o077 == 0
    for file in (served.places.key_file, served.places.database):
        assert file.stat().st_mode & 0o077 == 0, file.name


def test_a_folder_with_other_things_keeps_its_permissions(tmp_path: Path) -> None:
    tmp_path.chmod(0o755)
    (tmp_path / "something").touch()
    for _ in range(2):
        Database(Places.of(tmp_path).database)
        assert tmp_path.stat().st_mode & 0o777 == 0o755


def test_our_own_page_is_taken(served: Served) -> None:
    assert served.http.get("/masters", headers={"origin": served.url, "sec-fetch-site": "same-origin"}).status_code == 200


def test_every_answer_carries_the_policy(served: Served) -> None:
    for answer in (served.http.get("/masters"), served.http.get("/nothing"), httpx.get(served.url, headers=served.let_in)):
        policy = answer.headers["content-security-policy"]
        assert "default-src 'none'" in policy
        assert "unsafe" not in policy
        assert "http" not in policy
        assert answer.headers["x-content-type-options"] == "nosniff"


def test_a_huge_request_is_refused(served: Served) -> None:
    answer = served.http.post("/masters", content=b'{"path": "' + b"x" * (2 << 20) + b'"}', headers={"content-type": "application/json"})
    assert answer.status_code == 413


def test_a_huge_request_in_chunks_is_refused_as_it_comes(served: Served) -> None:
    """A body sent in chunks does not say how long it is; it is counted instead, and not read on."""
    sent = 0

    def chunks():
        nonlocal sent
        for _ in range(64):
            sent += 1 << 20
            yield b"x" * (1 << 20)

    with contextlib.suppress(httpx.TransportError):  # the service may close the line before all is sent
        answer = served.http.post("/sheets/paste", content=chunks(), headers={"content-type": "application/json"})
        assert answer.status_code == 413
        assert answer.headers["x-content-type-options"] == "nosniff"
    assert sent <= 64 << 20
    assert served.http.get("/masters").status_code == 200


@pytest.mark.parametrize("length", ["-1", "1e3", "9" * 30])
def test_a_length_that_is_none_is_refused(served: Served, length: str) -> None:
    host, port = "127.0.0.1", int(served.url.rsplit(":", 1)[1])
    with socket.create_connection((host, port), timeout=20) as line:
        line.sendall(f"POST /api/masters HTTP/1.1\r\nhost: {host}:{port}\r\ncontent-length: {length}\r\n\r\n".encode())
        assert line.recv(64).split()[1] in (b"400", b"413")


def test_static_files_stay_inside_their_folder(served: Served) -> None:
    for path in ("/assets/../../../pyproject.toml", "/assets/%2e%2e/%2e%2e/__init__.py", "/favicon.svg/../../app.py"):
        answer = httpx.get(f"{served.url}{path}", headers=served.let_in)
        assert "import" not in answer.text.split("<script")[0]


def test_the_built_page_asks_nobody_else() -> None:
    """No address of another machine in what is shipped, but for names of XML vocabularies and links in comments."""
    allowed = {"www.w3.org", "127.0.0.1", "localhost"}
    for file in Path(STATIC).rglob("*"):
        if file.suffix in (".html", ".css"):
            hosts = set(re.findall(r"(?:https?:)?//([a-z0-9.-]+\.[a-z]{2,})", file.read_text()))
            assert hosts <= allowed, file.name


def test_a_taken_port_is_said_plainly(served: Served, tmp_path: Path) -> None:
    port = int(served.url.rsplit(":", 1)[1])
    with pytest.raises(BadInput, match=f"Port {port} is in use"):
        serve.run(data=tmp_path / "other", port=port, demo=False)


def test_a_second_service_on_one_data_folder_is_refused(places: Places) -> None:
    held = places.claim()
    with pytest.raises(FolderUnusable, match="Another Hardy Parcel is serving from"):
        serve.run(data=places.data, port=0, demo=False)
    os.close(held)
    os.close(places.claim())


def test_more_pages_than_can_be_told_are_refused(served: Served, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hardy_parcel.web.happenings.MOST_LISTENERS", 0)
    answer = served.http.get("/events")
    assert (answer.status_code, answer.json()["code"]) == (503, "crowded")
