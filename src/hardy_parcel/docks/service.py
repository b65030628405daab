"""The stand-in platforms as a service of their own, on loopback.

    python -m hardy_parcel.docks.service FOLDER [--port PORT | --listening FD] [--cut-every SECONDS]

    POST, HEAD, PATCH /uploads[/<id>]     resumable upload by the tus protocol, over the line that its metadata names
    GET  /docks                           who takes files here
    GET  /parcels/<id>                    how far one is, and what viewers can have of it
    GET  /parcels/<id>/files/<file>       one of those files, by range

Metadata of an upload: `filename`, `filetype`, `dock` (a destination's id), `title`, `description`, `tags` (one a line), and of the line
`line_bps` and `line_unsteady`.

The first line of standard input is a secret: who has it not is refused, and who asks with a nonce is shown that it is had here. It ends
when its standard input ends, so it never outlives whoever started it.
"""

from __future__ import annotations

import argparse
import asyncio
import os
import shutil
import socket
import sys
import threading
import time
from collections.abc import AsyncIterator, Awaitable, Callable
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Annotated, Any

import uvicorn
from fastapi import FastAPI, HTTPException, Request
from fastapi import Path as PathParam
from fastapi.responses import FileResponse, JSONResponse, Response
from pydantic import ValidationError
from starlette.datastructures import Headers
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from tuspyserver import create_tus_router

from ..core.arrival.docked import DockedParcel, SentOver, unsteady_share
from ..core.errors import NotFound
from ..core.plan.carrying import LINE_EFFICIENCY
from ..core.values import Model, size_text
from ..processes.loopback import LOOPBACK, NONCE, PROOF, is_same, proof
from ..processes.scratch import Scratch
from .resumable import StreamedStorage, plain_upload
from .yard import KEEP_DAYS, Yard, words_of

HOST = "127.0.0.1"
SPARE_BYTES = 200_000_000
"""Room that uploads leave on the disk."""
LARGEST_BYTES = 1 << 41
MOST_UNFINISHED = 60
CUT_EVERY_S = 20.0
"""How long an unsteady line holds."""
UploadId = Annotated[str, PathParam(pattern="^[0-9a-f]{32}$")]


class DockHere(Model):
    """A dock, by its destination's id and name."""

    destination_id: str
    name: str


def make_docks(yard: Yard, *, secret: str, cut_every_s: float = CUT_EVERY_S) -> FastAPI:
    """The service over one yard, for those who have the secret; an unsteady line holds for so many seconds."""

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        maker = threading.Thread(target=yard.run, name="yard", daemon=True)
        maker.start()
        yield
        yard.close()
        await asyncio.to_thread(maker.join, 10)

    app = FastAPI(title="Stand-in docks", lifespan=lifespan, docs_url=None, redoc_url=None, openapi_url=None)

    @app.exception_handler(NotFound)
    async def not_found(request: Request, error: NotFound) -> JSONResponse:
        return JSONResponse({"detail": str(error)}, 404)

    @app.get("/docks")
    def docks() -> list[DockHere]:
        return [DockHere(destination_id=key, name=place.full_name) for key, place in yard.places().items()]

    @app.get("/parcels/{parcel_id}")
    def parcel(parcel_id: UploadId) -> DockedParcel:
        return yard.parcel(parcel_id)

    @app.get("/parcels/{parcel_id}/files/{name}")
    def file(parcel_id: UploadId, name: str) -> FileResponse:
        return FileResponse(yard.file(parcel_id, name))

    app.include_router(_tus(yard))
    app.add_middleware(OverTheLine, yard=yard, cut_every_s=cut_every_s)
    app.add_middleware(KnownOnly, secret=secret)
    return app


def _tus(yard: Yard) -> Any:
    def before(metadata: dict[str, Any], info: dict[str, Any]) -> None:
        """Refused before a byte is sent: what is too large, or would pass the quota."""
        place = yard.place(metadata.get("dock", ""))
        try:
            words_of(metadata)
        except ValidationError as error:
            raise HTTPException(400, "The title, the description or a tag is too long") from error
        size, most = int(info.get("size") or 0), place.placement
        if size > most.max_bytes:
            raise HTTPException(413, f"{size_text(size)} is more than the {size_text(most.max_bytes)} that {place.sheet_name} takes.")
        left = (most.quota_bytes or 0) - yard.used_bytes(place)
        if most.quota_bytes and size > left:
            taken = f"the {size_text(most.quota_bytes)} that {place.sheet_name} takes in {most.quota_days or 7} days"
            raise HTTPException(413, f"{size_text(max(0, left))} are left of {taken}.")
        if sum(1 for _ in yard.uploads.glob("*.info")) >= MOST_UNFINISHED:
            raise HTTPException(409, "Too many uploads are under way here; finish some first")
        free = shutil.disk_usage(yard.uploads).free - yard.awaited_bytes() - SPARE_BYTES
        if size > free:
            raise HTTPException(507, f"{size_text(size)} do not fit: there is room for {size_text(max(0, free))} on the disk of the docks")

    async def before_creating(metadata: dict[str, Any], info: dict[str, Any]) -> None:
        await asyncio.to_thread(before, metadata, info)

    async def hook() -> Callable[[dict[str, Any], dict[str, Any]], Awaitable[None]]:
        return before_creating

    async def complete() -> Callable[[str, dict[str, Any]], Awaitable[None]]:
        async def done(path: str, metadata: dict[str, Any]) -> None:
            await asyncio.to_thread(yard.arrived, Path(path).name)
        return done

    return create_tus_router(
        prefix="uploads", files_dir=str(yard.uploads), max_size=LARGEST_BYTES, days_to_keep=KEEP_DAYS,
        auth=plain_upload,  # type: ignore[arg-type]  # it is depended on, so it may ask for the request
        storage=StreamedStorage(str(yard.uploads)),
        pre_create_dep=hook,  # type: ignore[arg-type]  # it is awaited, whatever its annotation says
        upload_complete_dep=complete,  # type: ignore[arg-type]
    )


class KnownOnly:
    """Our own program alone: no other host's name, no page of any browser, nobody without the secret. Whoever asks who is here, with a
    nonce, is shown that the secret is had here, and needs none."""

    def __init__(self, app: ASGIApp, secret: str) -> None:
        if not secret:
            raise ValueError("docks need a secret")
        self._app, self._secret = app, secret

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        if not LOOPBACK.fullmatch(headers.get("host", "")) or "origin" in headers:
            await Response("Only programs of this machine are answered here.", 403)(scope, receive, send)
            return
        if scope["path"] == "/docks" and (nonce := headers.get(NONCE)):
            await Response(status_code=204, headers={PROOF: proof(self._secret, nonce)})(scope, receive, send)
            return
        if not is_same(headers.get("authorization", "").removeprefix("Bearer "), self._secret):
            await Response("Only the program that started these docks is answered here.", 403)(scope, receive, send)
            return
        await self._app(scope, receive, send)


class OverTheLine:
    """Lets what is uploaded in only as fast as its line is, and cuts an unsteady one off every so often.

    What is read slowly here is sent slowly there, since the connection holds only so much.
    """

    def __init__(self, app: ASGIApp, yard: Yard, cut_every_s: float) -> None:
        self._app, self._yard, self._cut_every_s = app, yard, cut_every_s
        self._opened: dict[str, float] = {}

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        upload_id = scope.get("path", "").removeprefix("/uploads/")
        line = None
        if scope["type"] == "http" and scope["method"] == "PATCH":
            line = await asyncio.to_thread(self._yard.line_of, upload_id)
        if line is None:
            await self._app(scope, receive, send)
            return
        opened = self._opened.setdefault(upload_id, time.monotonic())
        due, cut = time.monotonic(), False

        async def slowly() -> Message:
            nonlocal due, cut
            message = await receive()
            if line.unsteady and time.monotonic() - opened > self._cut_every_s:
                self._opened.pop(upload_id, None)
                cut = True
                return {"type": "http.disconnect"}
            due = max(due, time.monotonic() - 0.05) + len(message.get("body", b"")) / _bytes_per_s(line, time.monotonic() - opened)
            await asyncio.sleep(max(0.0, due - time.monotonic()))
            return message

        async def unless_cut(message: Message) -> None:
            if not cut:
                await send(message)

        await self._app(scope, slowly, unless_cut)


def _bytes_per_s(line: SentOver, open_s: float) -> float:
    return line.rate_bps / 8 * LINE_EFFICIENCY * (unsteady_share(open_s) if line.unsteady else 1.0)


def main() -> int:
    words = argparse.ArgumentParser()
    words.add_argument("folder", type=Path)
    words.add_argument("--port", type=int, default=8641)
    words.add_argument("--listening", type=int, default=None)
    words.add_argument("--cut-every", type=float, default=CUT_EVERY_S)
    told = words.parse_args()
    os.umask(0o077)
    scratch = Scratch(told.folder.resolve() / "scratch", "docks").use_by_default()
    server = uvicorn.Server(uvicorn.Config(
        make_docks(Yard(told.folder.resolve()), secret=sys.stdin.readline().strip(), cut_every_s=told.cut_every), host=HOST, port=told.port,
        log_level="warning", timeout_graceful_shutdown=2,
    ))

    def watch() -> None:
        sys.stdin.read()
        server.should_exit = True

    threading.Thread(target=watch, daemon=True).start()
    server.run(None if told.listening is None else [socket.socket(fileno=told.listening)])
    scratch.close()
    return 0


if __name__ == "__main__":
    sys.exit(main())
