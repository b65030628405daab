"""The sending side of the line: a file goes to a dock by the tus protocol, and what the dock serves of it is fetched."""

from __future__ import annotations

import hashlib
import json
import os
import time
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any, cast

import requests
from pydantic import ValidationError
from tusclient.client import TusClient
from tusclient.exceptions import TusCommunicationError

from ..core.arrival.docked import DockedParcel, DockState, OfferedFile
from ..core.errors import BadInput, DiskFull, DockAway, NotFound
from ..core.plan.carrying import LINE_EFFICIENCY
from ..processes.loopback import NONCE, PROOF, is_same, new_nonce, proof
from ..processes.messages import SendTask

ANSWER_S = 20.0
"""How long a dock may be silent when it is asked."""
LEAST_CHUNK, MOST_CHUNK, CHUNK_S = 16 << 10, 4 << 20, 0.5
"""Bytes that go in one request: what the line takes in half a second."""
PATIENCE_S, PAUSE_S = 30.0, 0.5
"""How long a line that is cut is tried again here, and how often, before the work is put back to wait."""
GONE = (404, 410)
os.environ["NO_PROXY"] = ",".join(filter(None, (os.environ.get("NO_PROXY"), "127.0.0.1", "localhost")))
"""Docks are on this machine: nothing of them goes through a proxy that the creator's browser needs."""
Said = Callable[[int, str], None]
"""Called with the bytes that are over there and what goes on; it may raise Cancelled."""


def send(task: SendTask, opened: Callable[[str], None], said: Said) -> str:
    """Send a file, or the rest of one that was begun, and return the id that it has at the dock. `opened` hears the upload's address.

    Raises BadInput with the dock's own words where it is refused before a byte went, NotFound where the file is gone or another one by
    now, DockAway where the dock does not answer for half a minute.
    """
    _still_ours(task)
    known = DockLink(task.address, task.secret)
    known.check()
    client = TusClient(f"{task.address}/uploads", headers=dict(known.headers))
    url, cut_at = task.upload_url, None
    while True:
        try:
            loader = cast(Any, client).uploader(
                str(task.path), chunk_size=_chunk(task), url=url or None, metadata=_metadata(task), retries=0,
            )
            if not url:
                url = loader.create_url()
                loader.set_url(url)
                opened(url)
            size = loader.get_file_size()
            while loader.offset < size:
                loader.upload_chunk()
                cut_at = None
                said(loader.offset, "sending")
            return url.rsplit("/", 1)[-1]
        except (TusCommunicationError, requests.RequestException) as error:
            status = getattr(error, "status_code", None)
            if status in GONE and url:
                if _arrived(known, there := url.rsplit("/", 1)[-1]):  # only the answer to the last of it was lost
                    return there
                url = ""  # forgotten over there: from the beginning
            elif status == 409 and not url:
                raise DockAway("The docks have too many uploads under way.", "It goes on by itself when some have ended.") from error
            elif status == 507:
                raise DockAway(_dock_says(error), "Free some space; it goes on by itself.") from error
            elif status and 400 <= status < 500 and status != 409:
                raise BadInput(_dock_says(error), "", code="dock_refused") from error
            cut_at = cut_at or time.monotonic()
            if time.monotonic() - cut_at > PATIENCE_S:
                raise _away(task.address) from error
            said(-1, "asking how much is there" if status == 409 else "the line is cut, trying again")
            time.sleep(PAUSE_S)


@dataclass(frozen=True, slots=True)
class DockLink:
    """Docks whose secret we have: nothing is sent to whoever answers at their address before it has shown that it has it too."""

    address: str
    secret: str

    @property
    def headers(self) -> dict[str, str]:
        return {"Authorization": f"Bearer {self.secret}"}

    def check(self) -> None:
        """Raises DockAway where nobody answers, or somebody else."""
        nonce = new_nonce()
        try:
            answer = requests.get(f"{self.address}/docks", headers={NONCE: nonce}, timeout=ANSWER_S)
        except requests.RequestException as error:
            raise _away(self.address) from error
        if not is_same(answer.headers.get(PROOF, ""), proof(self.secret, nonce)):
            raise DockAway(f"Another program answers at {self.address}, where the docks were.", "Start Hardy Parcel again.")


def _arrived(docks: DockLink, dock_id: str) -> bool:
    """Whether a dock has a parcel of this id whole."""
    try:
        return ask(docks, dock_id).state is not DockState.ARRIVING
    except (NotFound, DockAway):
        return False


def _still_ours(task: SendTask) -> None:
    """Raises NotFound where the file is gone, or is no more what was packed."""
    try:
        with open(task.path, "rb") as file:
            same = hashlib.file_digest(file, "sha256").hexdigest() == task.sha256
    except OSError as error:
        raise NotFound(f"{task.path.name} is not in its folder any more.", "Put it back, or pack it again.") from error
    if not same:
        raise NotFound(f"{task.path.name} was changed since it was packed.", "Pack it again.", code="changed")


def _chunk(task: SendTask) -> int:
    rate = task.line.rate_bps / 8 * LINE_EFFICIENCY if task.line else MOST_CHUNK
    return int(min(MOST_CHUNK, max(LEAST_CHUNK, rate * CHUNK_S)))


def _metadata(task: SendTask) -> dict[str, str]:
    words = task.words
    told = {
        "filename": task.path.name, "filetype": "application/octet-stream", "dock": task.destination_id, "title": words.title,
        "description": words.description, "tags": "\n".join(words.tags),
    }
    if task.line:
        told |= {"line_bps": str(task.line.rate_bps), "line_unsteady": "yes" if task.line.unsteady else "no"}
    return {key: value for key, value in told.items() if value}


def _dock_says(error: Exception) -> str:
    content = getattr(error, "response_content", None)
    with suppress(ValueError, TypeError, AttributeError):
        detail = json.loads(content or b"").get("detail")
        if isinstance(detail, str):
            return detail
    return "The dock refused this file without a reason."


def _away(address: str) -> DockAway:
    return DockAway(f"The docks at {address} do not answer.", "It goes on by itself when they do.")


def ask(docks: DockLink, dock_id: str) -> DockedParcel:
    """How far a parcel is at its dock. Raises DockAway, or NotFound where the dock knows nothing of it."""
    try:
        answer = requests.get(f"{docks.address}/parcels/{dock_id}", headers=docks.headers, timeout=ANSWER_S)
        if answer.status_code in GONE:
            raise NotFound("The dock knows nothing of this parcel any more.", "Send it again.")
        answer.raise_for_status()
        return DockedParcel.model_validate_json(answer.content)
    except (requests.RequestException, ValidationError) as error:
        raise _away(docks.address) from error


def fetch(docks: DockLink, dock_id: str, offered: OfferedFile, target: Path, said: Callable[[float], None]) -> None:
    """Fetch one file that is served, going on where a try before ended; `said` hears the share that is here.

    Raises DockAway, DiskFull, or what `said` raises.
    """
    partial = target.with_name(f".{target.name}.partial")
    have = partial.stat().st_size if partial.exists() else 0
    if have < offered.size_bytes:
        headers = docks.headers | ({"Range": f"bytes={have}-"} if have else {})
        try:
            with requests.get(
                f"{docks.address}/parcels/{dock_id}/files/{offered.file}", headers=headers, stream=True, timeout=ANSWER_S
            ) as answer:
                answer.raise_for_status()
                with open(partial, "ab" if have and answer.status_code == 206 else "wb") as file:
                    for block in answer.iter_content(1 << 18):
                        file.write(block)
                        said(file.tell() / max(1, offered.size_bytes))
        except requests.RequestException as error:
            raise _away(docks.address) from error
        except OSError as error:
            raise DiskFull("What came back could not be written.", "Free some space; it goes on by itself.") from error
    if partial.stat().st_size != offered.size_bytes:
        partial.unlink()
        raise _away(docks.address)
    partial.replace(target)
