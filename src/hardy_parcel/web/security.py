"""Safety: only this machine's names, only our own page, nothing from outside."""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.datastructures import Headers
from starlette.types import ASGIApp, Receive, Scope, Send

from .problems import problem

LOOPBACK = {"127.0.0.1", "localhost", "[::1]"}
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
LARGEST_BODY = 1 << 20
LARGEST_PART = 1 << 26
UPLOADS = "/api/uploads/"


def _host_allowed(host: str) -> bool:
    name = host.rsplit(":", 1)[0] if not host.endswith("]") else host
    return name.lower() in LOOPBACK


class Guard:
    """Refuses foreign Host and Origin headers and large bodies, and sets the safety headers on every answer.

    The Host check defeats name rebinding, the Origin check requests from other pages in the same browser.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        refusal = self._refusal(headers)

        async def guarded(message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", []), *HEADERS]
            await send(message)

        if refusal:
            await problem(403, refusal, "refused")(scope, receive, guarded)
        elif int(headers.get("content-length") or 0) > (LARGEST_PART if scope["path"].startswith(UPLOADS) else LARGEST_BODY):
            await problem(413, "This request is too large.", "refused")(scope, receive, guarded)
        else:
            await self._app(scope, receive, guarded)

    def _refusal(self, headers: Headers) -> str | None:
        host, origin = headers.get("host", ""), headers.get("origin")
        if not _host_allowed(host):
            return "Hardy Parcel answers only at 127.0.0.1 or localhost."
        if origin is not None and urlsplit(origin).netloc.lower() != host.lower():
            return "Requests from another page are refused."
        if headers.get("sec-fetch-site", "same-origin") not in ("same-origin", "none"):
            return "Requests from another page are refused."
        return None
