"""A real server over a data folder of its own, with its worker, and what it says of a blocked event loop."""

from __future__ import annotations

import asyncio
import logging
import shutil
import socket
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import httpx
import pytest
import uvicorn

from hardy_parcel.store.places import Places
from hardy_parcel.web.app import make_app

PATIENCE_S = 120
BLOCKED_S = 0.5


class Served:
    """A running service with a client that talks to it."""

    def __init__(self, places: Places, port: int) -> None:
        self.places, self.url = places, f"http://127.0.0.1:{port}"
        self.http = httpx.Client(base_url=f"{self.url}/api", timeout=60)

    def until(self, path: str, fits: Callable[[object], object], what: str) -> object:
        """The first answer of `path` that fits."""
        ends = time.monotonic() + PATIENCE_S
        while time.monotonic() < ends:
            answer = self.http.get(path)
            if answer.status_code == 200 and (found := fits(answer.json())):
                return found
            time.sleep(0.05)
        raise AssertionError(f"waited in vain for {what}")

    def master(self, name: str, state: str = "ready") -> dict:
        """A master on the shelf, once its reading has ended."""
        def fits(shelf) -> dict | None:
            found = next((m for m in shelf["masters"] if m["name"] == name), None)
            if not found or found["state"] != state:
                return None
            audio = (found["facts"] or {}).get("audio")
            return None if audio and audio["integrated_lufs"] is None else found

        return self.until("/masters", fits, f"{name} to be {state}")

    def lanes(self, master: dict | str) -> list[dict]:
        """The lanes of a master, without those beside others."""
        found = self.http.get(f"/masters/{master if isinstance(master, str) else master['id']}/parcels")
        found.raise_for_status()
        return [view for view in found.json()["lanes"] if not view["beside"]]

    def parcel_path(self, master: dict | str, destination: str = "orrery-wide") -> str:
        """The address of the first parcel for a destination."""
        lane = next(one for one in self.lanes(master) if one["summary"]["destination"]["id"] == destination)
        return f"/parcels/{lane['summary']['parcel']['id']}"

    def show_only(self, master: dict | str, destinations: list[str], choices: dict[str, dict] | None = None) -> None:
        """These lanes and no others, each as we would plan it but for `choices` by destination."""
        path = f"/masters/{master if isinstance(master, str) else master['id']}"
        self.http.put(f"{path}/parcels-state", json={"parcels": []}).raise_for_status()
        self.http.put(f"{path}/destinations", json={"destinations": destinations}).raise_for_status()
        for destination, wanted in (choices or {}).items():
            self.http.put(f"{self.parcel_path(master, destination)}/choices", json=wanted).raise_for_status()

    def ended(self, job: dict) -> dict:
        def fits(jobs) -> dict | None:
            found = next(j for j in jobs if j["id"] == job["id"])
            return found if found["state"] not in ("waiting", "running") else None

        return self.until("/jobs", fits, "the job's end")


class Slow(logging.Handler):
    """Collects what the event loop says of callbacks that took too long."""

    def __init__(self) -> None:
        super().__init__()
        self.said: list[str] = []

    def emit(self, record: logging.LogRecord) -> None:
        if "took" in record.getMessage():
            self.said.append(record.getMessage())


@pytest.fixture(scope="session")
def slow() -> Iterator[Slow]:
    handler = Slow()
    logging.getLogger("asyncio").addHandler(handler)
    yield handler
    logging.getLogger("asyncio").removeHandler(handler)


@pytest.fixture(scope="session")
def served(tmp_path_factory: pytest.TempPathFactory, gale: Path, slow: Slow) -> Iterator[Served]:
    """One service for a whole run, with a film on its shelf."""
    folder = tmp_path_factory.mktemp("served")
    places = Places.of(folder / "data", also=(folder,))
    shutil.copy(gale, places.inbox / "Gale.mp4")
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    server = uvicorn.Server(uvicorn.Config(make_app(places), host="127.0.0.1", port=port, log_level="error", timeout_graceful_shutdown=1))

    async def serve() -> None:
        asyncio.get_running_loop().slow_callback_duration = BLOCKED_S
        await server.serve()

    thread = threading.Thread(target=lambda: asyncio.run(serve(), debug=True), daemon=True)
    thread.start()
    found = Served(places, port)
    ends = time.monotonic() + PATIENCE_S
    while not server.started:
        assert time.monotonic() < ends, "the service did not start"
        time.sleep(0.02)
    yield found
    server.should_exit = True
    thread.join(timeout=20)
    assert not thread.is_alive()


@pytest.fixture(scope="session")
def gale_master(served: Served) -> dict:
    return served.master("Gale.mp4")
