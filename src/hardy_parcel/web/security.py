"""Safety: only this machine's names, only our own page and those who have the key, nothing from outside."""

from __future__ import annotations

import hashlib
import hmac
import logging
import re
import secrets
import threading
from collections import OrderedDict
from contextlib import suppress
from html import escape
from pathlib import Path
from urllib.parse import parse_qs, quote, urlencode

from starlette.datastructures import Headers
from starlette.requests import cookie_parser
from starlette.responses import HTMLResponse, RedirectResponse, Response
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from ..processes.loopback import LOOPBACK
from .problems import problem

POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self'; img-src 'self' data: blob:; font-src 'self'; "
    "connect-src 'self'; media-src 'self'; worker-src 'self'; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
HEADERS = (
    (b"content-security-policy", POLICY.encode()),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-opener-policy", b"same-origin"),
    (b"cross-origin-resource-policy", b"same-origin"),
)
KEY = "key"
KEPT_S = 30 * 24 * 3600
"""How long a browser keeps its session at most; it ends with the service in any case."""
MOST_SESSIONS = 200
LEAST_KEY = 16
LOCKED = (Path(__file__).parent / "locked.html").read_text()
LOCKED_POLICY = "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'"
LARGEST_BODY = 1 << 20
LARGEST_PART = 1 << 26
LARGEST_FILM = 1 << 42
UPLOADS, WHOLE_FILES = "/api/uploads/", ("/api/handoff", "/api/returned")
"""What comes in parts, and what comes whole: bounded by the disk."""


def cookie_name(host: str) -> str:
    """Cookies do not know ports, so each service on a machine has one of its own."""
    port = re.search(r":([0-9]+)$", host)
    return f"hardy-parcel-{port[1] if port else 80}"


class Sessions:
    """Who was let in since the service began, by hashes: what a browser keeps is worth nothing once the service has ended, whoever listens
    at its port then. Of too many the oldest goes."""

    def __init__(self) -> None:
        self._hashes: OrderedDict[bytes, None] = OrderedDict()
        self._lock = threading.Lock()

    def begin(self) -> str:
        """A new session's token, which is not kept here."""
        token = secrets.token_urlsafe(32)
        with self._lock:
            self._hashes[_hash(token)] = None
            while len(self._hashes) > MOST_SESSIONS:
                self._hashes.popitem(last=False)
        return token

    def has(self, token: str) -> bool:
        """Whether a token is one of a session that goes on."""
        with self._lock:
            return bool(token) and _hash(token) in self._hashes


def _hash(token: str) -> bytes:
    return hashlib.sha256(token.encode()).digest()


class _TooLarge(Exception):
    """More came than was allowed; only ever seen in this module."""


class _Counted:
    """Counts a body as it comes: one sent in chunks does not say beforehand how long it is."""

    def __init__(self, receive: Receive, send: Send, most: int) -> None:
        self._receive, self._send, self._left = receive, send, most
        self.answered = self.over = False

    async def receive(self) -> Message:
        message = await self._receive()
        self._left -= len(message.get("body", b""))
        if self._left < 0:
            self.over = True
            raise _TooLarge
        return message

    async def send(self, message: Message) -> None:
        if self.over and not self.answered:  # whatever was made of the broken body: ours is the answer
            return
        self.answered = self.answered or message["type"] == "http.response.start"
        await self._send(message)


log = logging.getLogger(__name__)


class Guard:
    """Refuses foreign Host and Origin headers, those without the key and large bodies, and sets the safety headers on every answer that
    brings none of its own.

    The Host check defeats name rebinding, the Origin check requests from other pages in the same browser, and the key other accounts of
    the machine, which reach the same port. The address that `serve` prints brings the key, which buys a session: a cookie that no other
    site can send holds that one. A script gives the key itself with each request.
    """

    def __init__(self, app: ASGIApp, *, key: str, key_file: Path) -> None:
        if len(key) < LEAST_KEY:
            raise ValueError("the start key is too short to keep anybody out")
        self._app, self._key, self._key_file = app, key, key_file
        self._sessions = Sessions()

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(headers)

        async def guarded(message: Message) -> None:
            if message["type"] == "http.response.start":
                told = message.get("headers", [])
                own = {name.lower() for name, _ in told}  # a page that needs another policy brings it, no less strict
                message["headers"] = [*told, *(one for one in HEADERS if one[0] not in own)]
            await send(message)

        if refusal:
            await problem(403, refusal, "refused")(scope, receive, guarded)
            return
        if not self._is_let_in(headers):
            await self._let_in(scope, headers)(scope, receive, guarded)
            return
        most = LARGEST_FILM if scope["path"] in WHOLE_FILES else LARGEST_PART if scope["path"].startswith(UPLOADS) else LARGEST_BODY
        length = headers.get("content-length", "0")
        if not length.isascii() or not length.isdigit() or int(length[:20]) > most:
            await problem(413, "This request is too large.", "refused")(scope, receive, guarded)
            return
        counted = _Counted(receive, guarded, most)
        try:
            with suppress(_TooLarge):
                await self._app(scope, counted.receive, counted.send)
        except Exception:  # answered here, so that it has the safety headers and the connection stays
            log.exception("%s %s failed", scope["method"], scope["path"])
            if not counted.answered:
                what = "Something went wrong on our side. Try again; the details are in the log."
                await problem(500, what, "trouble")(scope, receive, guarded)
        if counted.over and not counted.answered:
            await problem(413, "This request is too large.", "refused")(scope, receive, guarded)

    def _is_key(self, told: str) -> bool:
        return hmac.compare_digest(told.encode(), self._key.encode())

    def _is_let_in(self, headers: Headers) -> bool:
        kept = cookie_parser(headers.get("cookie", "")).get(cookie_name(headers.get("host", "")), "")
        return self._sessions.has(kept) or self._is_key(headers.get("authorization", "").removeprefix("Bearer "))

    def _let_in(self, scope: Scope, headers: Headers) -> Response:
        """With the key in the address, a cookie and the same address without it; else what to do."""
        given = parse_qs(scope["query_string"].decode("latin-1"))
        if scope["method"] == "GET" and self._is_key("".join(given.pop(KEY, []))):
            rest = f"?{urlencode(given, doseq=True)}" if given else ""
            answer = RedirectResponse(f"/{quote(scope['path'].lstrip('/'))}{rest}", status_code=303)
            answer.set_cookie(
                cookie_name(headers["host"]), self._sessions.begin(), max_age=KEPT_S, httponly=True, samesite="strict", path="/",
            )
            return answer
        what = "Hardy Parcel does not know this browser, or was started again since."
        do = f"Open the address that was printed when it was started; its key is kept in {self._key_file}."
        if scope["path"].startswith("/api/"):
            return problem(401, f"{what} {do}", "locked")
        page = LOCKED.replace("WHAT", escape(what)).replace("DO", escape(do))
        return HTMLResponse(page, status_code=401, headers={"content-security-policy": LOCKED_POLICY, "cache-control": "no-store"})

    def _refusal(self, headers: Headers) -> str | None:
        host, origin = headers.get("host", ""), headers.get("origin")
        if not LOOPBACK.fullmatch(host):
            return "Hardy Parcel answers only at 127.0.0.1 or localhost."
        if origin is not None and origin.lower() not in (f"http://{host.lower()}", f"https://{host.lower()}"):
            return "Requests from another page are refused."
        if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return "Requests from another page are refused."
        return None
