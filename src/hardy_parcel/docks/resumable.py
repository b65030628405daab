"""Resumable uploads as both ends of our line take them: written as they come, their length said at once, trouble of the disk told."""

from __future__ import annotations

import asyncio
import contextlib
import errno
import os
from collections.abc import AsyncIterator, Iterator
from typing import Any

from fastapi import HTTPException, Request
from tuspyserver.storage.local import LocalFileStorage

WRITE_BYTES = 1 << 20
FULL = (errno.ENOSPC, errno.EDQUOT, errno.EFBIG)
"""What a disk answers that takes no more: it is full, the account's share of it is, or no file may be so large."""
UNKNOWN_TYPE = "application/octet-stream"


class StreamedStorage(LocalFileStorage):
    """Writes every mebibyte, where the package's own storage holds a whole request in memory.

    How far an upload has come is what lies on the disk, and nothing else: neither what was counted nor what was noted. So a part that
    broke off, for whatever reason, is sent again from the first byte that is not there.
    """

    async def append(self, uid: str, chunk: bytes) -> None:
        await super().append(uid, chunk)
        if len(self._pending[uid]) >= WRITE_BYTES:
            await self._write_pending(uid)

    async def flush(self, uid: str) -> None:
        await self._write_pending(uid, durable=True)

    async def _write_pending(self, uid: str, *, durable: bool = False) -> None:
        data = bytes(self._pending.pop(uid, b""))
        if data or durable:
            await asyncio.to_thread(self._write, uid, data, durable)

    def _write(self, uid: str, data: bytes, durable: bool) -> None:
        with disk_trouble():
            self._ensure_dir()
            with open(self._path(uid), "ab", buffering=0) as file:  # unbuffered, so that whatever was written is a beginning of the data
                left = memoryview(data)
                while left:
                    left = left[file.write(left) or 0 :]
                if durable:
                    os.fsync(file.fileno())

    async def read_info(self, uid: str) -> dict[str, Any] | None:
        info: dict[str, Any] | None = await super().read_info(uid)
        if info is None:
            return None
        info["offset"] = min(await self.size(uid), info.get("size") or 0)
        info.setdefault("metadata", {}).setdefault("filetype", UNKNOWN_TYPE)  # without one the package refuses to say how far it is
        return info

    async def write_info(self, uid: str, data: dict[str, Any]) -> None:
        with disk_trouble():
            await super().write_info(uid, data)

    async def create(self, uid: str) -> None:
        with disk_trouble():
            await super().create(uid)

    @contextlib.asynccontextmanager
    async def lock(self, uid: str) -> AsyncIterator[None]:  # type: ignore[override]  # the package forgets its decorator
        with disk_trouble():
            await asyncio.to_thread(self._ensure_dir)
        async with super().lock(uid):
            self._pending.pop(uid, None)  # what a part that broke off left here was never written
            yield


@contextlib.contextmanager
def disk_trouble() -> Iterator[None]:
    """A disk that is full or fails in the middle is said so; what arrived before stays, and the upload can go on."""
    try:
        yield
    except OSError as error:
        if error.errno in FULL:
            raise HTTPException(507, "The disk is full; free some space and drop the film again to go on") from error
        raise HTTPException(500, "The disk could not be written; check it, then drop the film again to go on") from error


def plain_upload(request: Request) -> None:
    """Uploads say their length at once and come in one piece: promised later, or put together from others, they escape every bound."""
    told = request.headers
    if "upload-defer-length" in told or "upload-concat" in told or (request.method == "PATCH" and "upload-length" in told):
        raise HTTPException(400, "An upload here says its length when it begins and is one file")
    overridden = "x-http-method-override" in told
    length = told.get("upload-length", "")
    if request.method == "POST" and not overridden and not (length.isascii() and length.isdigit() and int(length[:20]) > 0):
        raise HTTPException(400, "An upload needs its length in bytes in Upload-Length")
