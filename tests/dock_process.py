"""The stand-in platforms in a process of their own, for tests."""

from __future__ import annotations

import socket
import subprocess
import sys
import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from pathlib import Path

import httpx

from hardy_parcel.core.sheets.sheet import Sheet
from hardy_parcel.processes.loopback import new_secret
from hardy_parcel.store import settings
from hardy_parcel.store.database import Database

from .service import Served


class DockProcess:
    """A dock service over a folder, with `sheets` in place of those that ship. A context manager; leaving it ends the process."""

    def __init__(self, folder: Path, *, sheets: Sequence[Sheet] = (), cut_every_s: float | None = None) -> None:
        self.folder = folder
        self._more = [] if cut_every_s is None else ["--cut-every", str(cut_every_s)]
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.address = f"http://127.0.0.1:{self.port}"
        self.secret = new_secret()
        self.let_in = {"authorization": f"Bearer {self.secret}"}
        self.give_sheets(sheets)
        self.start()

    def give_sheets(self, sheets: Sequence[Sheet]) -> None:
        """Put these sheets in place of those that the docks go by."""
        (self.folder / "sheets").mkdir(exist_ok=True)
        for sheet in sheets:
            (self.folder / "sheets" / f"{sheet.id}.json").write_text(sheet.model_dump_json())

    def start(self) -> None:
        told = [sys.executable, "-m", "hardy_parcel.docks.service", str(self.folder), "--port", str(self.port), *self._more]
        self.process = subprocess.Popen(told, stdin=subprocess.PIPE, text=True)
        self.process.stdin.write(f"{self.secret}\n")
        self.process.stdin.flush()
        ends = time.monotonic() + 60
        while time.monotonic() < ends:
            try:
                httpx.get(f"{self.address}/docks", timeout=5, headers=self.let_in)
                return
            except httpx.TransportError:
                time.sleep(0.05)
        raise AssertionError("the docks did not start")

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()

    def __enter__(self) -> DockProcess:
        return self

    def __exit__(self, *_: object) -> None:
        self.process.terminate()
        try:
            self.process.wait(10)
        except subprocess.TimeoutExpired:
            self.kill()


@contextmanager
def docks_of(served: Served, folder: Path, *, sheets: Sequence[Sheet] = ()) -> Iterator[DockProcess]:
    """Docks that a service sends to, as long as they are needed."""
    database = Database(served.places.database)
    before = settings.docks(database)
    with DockProcess(folder, sheets=sheets) as process:
        settings.set_docks(database, settings.Docks(address=process.address, secret=process.secret))
        yield process
        settings.set_docks(database, before)


@contextmanager
def no_docks(served: Served) -> Iterator[None]:
    """A service that knows of no docks."""
    database = Database(served.places.database)
    before = settings.docks(database)
    settings.set_docks(database, None)
    yield
    settings.set_docks(database, before)
