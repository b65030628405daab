"""Resumable uploads as both ends of our line take them: written as they come, their length said at once, a full disk told."""

from __future__ import annotations

import asyncio
import contextlib
import errno
import os
from collections.abc import AsyncIterator, Iterator

from fastapi import HTTPException, Request
from tuspyserver.storage.local import LocalFileStorage

WRITE_BYTES = 1 << 20


class StreamedStorage(LocalFileStorage):
    """The package's own storage holds a whole request in memory; this one writes every mebibyte.

    What was written but not recorded when the service died is cut off before the upload goes on.
    """

    async def append(self, uid: str, chunk: bytes) -> None:
        await super().append(uid, chunk)
        if len(self._pending[uid]) >= WRITE_BYTES:
            data = bytes(self._pending.pop(uid))
            await asyncio.to_thread(self._write, uid, data)

    def _write(self, uid: str, data: bytes) -> None:
        with room(), open(self._path(uid), "ab") as file:
            file.write(data)

    @contextlib.asynccontextmanager
    async def lock(self, uid: str) -> AsyncIterator[None]:  # type: ignore[override]  # the package forgets its decorator
        async with super().lock(uid):
            self._pending.pop(uid, None)
            info = await self.read_info(uid)
            if info:
                await asyncio.to_thread(self._cut, uid, int(info["offset"]))
            yield

    def _cut(self, uid: str, offset: int) -> None:
        path = self._path(uid)
        if os.path.exists(path) and os.path.getsize(path) > offset:
            os.truncate(path, offset)


@contextlib.contextmanager
def room() -> Iterator[None]:
    """A disk that is full in the middle is said so; what arrived before is kept, and the upload can go on."""
    try:
        yield
    except OSError as error:
        if error.errno not in (errno.ENOSPC, errno.EDQUOT):
            raise
        raise HTTPException(507, "The disk is full; free some space and drop the film again to go on") from error


def plain_upload(request: Request) -> None:
    """Uploads say their length at once and come in one piece: promised later, or put together from others, they escape every bound."""
    told = request.headers
    if "upload-defer-length" in told or "upload-concat" in told or (request.method == "PATCH" and "upload-length" in told):
        raise HTTPException(400, "An upload here says its length when it begins and is one file")
    overridden = "x-http-method-override" in told
    length = told.get("upload-length", "")
    if request.method == "POST" and not overridden and not (length.isascii() and length.isdigit() and int(length[:20]) > 0):
        raise HTTPException(400, "An upload needs its length in bytes in Upload-Length")
