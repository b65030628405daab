"""A real server over a data folder of its own, with its worker, and what it says of a blocked event loop."""

from __future__ import annotations

import asyncio
import os
import shutil
import socket
import sqlite3
import threading
import time
import traceback
from collections import deque
from collections.abc import Callable, Coroutine, Iterator
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import TypeVar

import httpx
import pytest
import uvicorn

from hardy_parcel.core.master.facts import Mending
from hardy_parcel.core.parcel.receipt import Receipt
from hardy_parcel.docks.catalogue import USUAL_LANES
from hardy_parcel.processes import nursery
from hardy_parcel.store import masters, settings
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.store.results import KeptReceipt
from hardy_parcel.web.app import make_app
from hardy_parcel.web.connections import KEEP_ALIVE_S, BoundedProtocol
from hardy_parcel.web.context import Context

Told = TypeVar("Told")
PATIENCE_S = 120
BLOCKED_S = 0.5


class Served:
    """A running service with a client that talks to it."""

    def __init__(self, places: Places, port: int) -> None:
        self.places, self.url, self.key = places, f"http://127.0.0.1:{port}", places.start_key()
        self.context: Context
        self.let_in = {"authorization": f"Bearer {self.key}"}
        self.http = httpx.Client(base_url=f"{self.url}/api", timeout=60, headers=self.let_in)

    def until(self, path: str, fits: Callable[[object], object], what: str, patience_s: float = PATIENCE_S) -> object:
        """The first answer of `path` that fits."""
        ends = time.monotonic() + patience_s
        while time.monotonic() < ends:
            answer = self.http.get(path)
            if answer.status_code == 200 and (value := fits(answer.json())):
                return value
            time.sleep(0.05)
        raise AssertionError(f"waited in vain for {what}")

    def master(self, name: str, state: str = "ready") -> dict:
        """A master on the shelf, once its reading has ended."""

        def fits(shelf) -> dict | None:
            master = next((m for m in shelf["masters"] if m["name"] == name), None)
            if not master or master["state"] != state:
                return None
            audio = (master["facts"] or {}).get("audio")
            return None if audio and audio["integrated_lufs"] is None else master

        return self.until("/masters", fits, f"{name} to be {state}")

    def lanes(self, master: dict | str) -> list[dict]:
        """The parcels of a master's lanes, each with all that is told of it, without those beside others."""
        answer = self.http.get(f"/masters/{master if isinstance(master, str) else master['id']}/lanes")
        answer.raise_for_status()
        ids = [view["lane"]["parcel"]["id"] for view in answer.json()["lanes"] if not view["lane"]["beside"]]
        return [self.http.get(f"/parcels/{one}").raise_for_status().json() for one in ids]

    def parcel_path(self, master: dict | str, destination: str = "orrery-wide") -> str:
        """The address of the first parcel for a destination."""
        rows = (
            self.http.get(f"/masters/{master if isinstance(master, str) else master['id']}/lanes")
            .raise_for_status()
            .json()["lanes"]
        )
        return f"/parcels/{next(view['lane']['parcel']['id'] for view in rows if view['lane']['destination_id'] == destination)}"

    def show_only(self, master: dict | str, destinations: list[str], choices: dict[str, dict] | None = None) -> None:
        """These lanes and no others, each as we would plan it but for `choices` by destination."""
        path = f"/masters/{master if isinstance(master, str) else master['id']}"
        self.http.put(f"{path}/parcels-state", json={"parcels": []}).raise_for_status()
        self.http.put(f"{path}/destinations", json={"destinations": destinations}).raise_for_status()
        for destination, wanted in (choices or {}).items():
            self.http.put(f"{self.parcel_path(master, destination)}/choices", json=wanted).raise_for_status()

    def as_new(self, master: dict) -> None:
        """Nothing chosen, mended, cut or under way on a master, and the usual lanes: what a test may have left is gone."""
        for job in self.http.get("/jobs").json():
            if (
                job["state"] in ("waiting", "running")
                and job["master_id"] == master["id"]
                and job["kind"] in ("pack", "rehearse")
            ):
                self.http.post(f"/jobs/{job['id']}/cancel").raise_for_status()
                self.ended(job)
        path = f"/masters/{master['id']}"
        for excerpt in self.http.get(path).json()["excerpts"]:
            self.http.delete(f"{path}/excerpts/{excerpt['number']}").raise_for_status()
        masters.mend(Database(self.places.database), master["id"], Mending())
        self.show_only(master, list(USUAL_LANES))

    def pack(self, master: dict, destination: str, choices: dict, excerpt: tuple[str, str] | None = None) -> str:
        """The id of the receipt of a master, or a part of it (s), packed for one destination."""
        cut = {"in_s": excerpt[0], "out_s": excerpt[1]} if excerpt else None
        self.http.put(f"/masters/{master['id']}/excerpt", json={"excerpt": cut}).raise_for_status()
        self.show_only(master, [destination], {destination: choices})
        path = self.parcel_path(master, destination)
        plan_key = self.http.get(path).json()["summary"]["plan_key"]
        job = self.http.post(f"{path}/pack", json={"plan_key": plan_key}).raise_for_status().json()
        assert self.ended(job)["state"] == "done"
        return job["id"]

    def sent(self, receipt: str, **how: object) -> dict:
        """What became of a packed file that was sent over a quick line, once nothing more comes of it."""
        self.http.post(f"/receipts/{receipt}/send", json={"quick": True, **how}).raise_for_status()

        def settled(view: dict) -> dict | None:
            latest = view["sendings"][0]
            return latest if latest["sending"]["state"] not in ("waiting", "sent") else None

        return self.until(f"/receipts/{receipt}/sendings", settled, "what comes back")

    def ended(self, job: dict) -> dict:
        def fits(jobs) -> dict | None:
            current = next(j for j in jobs if j["id"] == job["id"])
            return current if current["state"] not in ("waiting", "running") else None

        return self.until("/jobs", fits, "the job's end")


BEAT_S = 0.05
BEGINNINGS = iter(range(14))  # tenths of a second of the shared film, each given out once


class Slow:
    """Collects callbacks that kept a service's event loop for too long on a machine as busy as this one.

    A thread that only sleeps tells when every thread was kept waiting; and where more work waits than there are cores, all takes
    as many times longer. Loops are timed from outside, since their own debug mode takes a stack for every callback.
    """

    def __init__(self) -> None:
        self.said: list[str] = []
        self.threads: set[int] = set()
        self._late: deque[tuple[float, float]] = deque(maxlen=400)
        threading.Thread(target=self._beat, daemon=True).start()

    def _beat(self) -> None:
        while True:
            before = time.monotonic()
            time.sleep(BEAT_S)
            self._late.append((time.monotonic(), time.monotonic() - before - BEAT_S))

    def timed(self, run: Callable[[asyncio.Handle], None]) -> Callable[[asyncio.Handle], None]:
        """What runs a loop's callbacks, with a watch beside it."""

        def run_timed(handle: asyncio.Handle) -> None:
            began = time.monotonic()
            run(handle)
            took = time.monotonic() - began
            if took > BLOCKED_S and threading.get_ident() in self.threads:
                self._judge(handle, began, took)

        return run_timed

    def _judge(self, handle: asyncio.Handle, began: float, took_s: float) -> None:
        starved = sum(late for at, late in tuple(self._late) if at >= began - 2 * BEAT_S)
        crowded = max(1.0, os.getloadavg()[0] / (os.cpu_count() or 1))
        if took_s - starved > BLOCKED_S * crowded:
            self.said.append(f"{handle!r} took {took_s:.2f} s")


class OnTheLoop:
    """Notes whatever waits for the database, for another process or for a disk on the thread of the service's event loop.

    How long it took does not matter: what is quick here holds up every page where a disk is slow or a lock is held.
    """

    def __init__(self, said: list[str]) -> None:
        self._said, self.thread = said, 0
        self._put_back: list[Callable[[], None]] = []
        for owner, name in (
            (sqlite3, "connect"),
            (Database, "reading"),
            (Database, "transaction"),
            (nursery, "_ask"),
            (shutil, "disk_usage"),
            (shutil, "rmtree"),
            (KeptReceipt, "model_validate_json"),
            (Receipt, "model_validate_json"),
        ):
            self._watch(owner, name)

    def _watch(self, owner: object, name: str) -> None:
        own = getattr(owner, name)

        def watched(*given: object, **told: object) -> object:
            if threading.get_ident() == self.thread:
                self._said.append(f"{name} on the event loop:\n{''.join(traceback.format_stack(limit=8))}")
            return own(*given, **told)

        setattr(owner, name, watched)
        self._put_back.append(lambda: setattr(owner, name, own))

    def close(self) -> None:
        for put_back in self._put_back:
            put_back()


@pytest.fixture(scope="session")
def slow() -> Iterator[Slow]:
    watch = Slow()
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(asyncio.Handle, "_run", watch.timed(asyncio.Handle._run))
        yield watch


@pytest.fixture(scope="module")
def served(tmp_path_factory: pytest.TempPathFactory, gale: Path, slow: Slow) -> Iterator[Served]:
    """A service of a module's own, with a film on its shelf: what one module leaves behind changes no other, whatever their order."""
    folder = tmp_path_factory.mktemp("served")
    places = Places.of(folder / "data", also=(folder,))
    shutil.copy(gale, places.inbox / "Gale.mp4")
    settings.save(Database(places.database), settings.Settings(probing=False))  # a test that wants it asks for it
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    app = make_app(places, key=places.start_key())
    config = uvicorn.Config(
        app,
        host="127.0.0.1",
        port=port,
        log_level="error",
        timeout_graceful_shutdown=1,
        timeout_keep_alive=KEEP_ALIVE_S,
        http=BoundedProtocol,
    )
    server = uvicorn.Server(config)

    on_the_loop = OnTheLoop(slow.said)

    async def serve() -> None:
        on_the_loop.thread = threading.get_ident()
        slow.threads.add(on_the_loop.thread)
        await server.serve()

    thread = threading.Thread(target=lambda: asyncio.run(serve()), daemon=True)
    thread.start()
    service = Served(places, port)
    service.context = app.state.context
    ends = time.monotonic() + PATIENCE_S
    while not server.started:
        assert time.monotonic() < ends, "the service did not start"
        time.sleep(0.02)
    yield service
    server.should_exit = True
    thread.join(timeout=20)
    on_the_loop.close()
    slow.threads.discard(on_the_loop.thread)
    assert not thread.is_alive()


@pytest.fixture
def gale_master(served: Served) -> dict:
    """The shared film, as new for each test."""
    master = served.master("Gale.mp4")
    served.as_new(master)
    return master


@pytest.fixture
def trying(served: Served, gale_master: dict) -> Iterator[dict]:
    """A short excerpt of the shared film, each time another one so that nothing is known of it, with probing switched on."""
    for job in served.http.get("/jobs").json():  # probing gives way to what other tests may have left under way
        if job["state"] in ("waiting", "running") and job["kind"] in ("pack", "rehearse"):
            served.http.post(f"/jobs/{job['id']}/cancel").raise_for_status()
            served.ended(job)
    machine = served.http.get("/machine").json()
    told = {"line": machine["line"], "output_folder": None, "cache_gb": machine["cache_gb"]}
    served.http.put("/machine", json={**told, "probing": True}).raise_for_status()
    begins = next(BEGINNINGS)
    excerpt = {"in_s": f"{begins / 10}", "out_s": f"{begins / 10 + 0.6:.1f}"}
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": excerpt}).raise_for_status()
    served.show_only(gale_master, ["fernpost-reel"], {"fernpost-reel": {"effort": "quick"}})
    yield gale_master
    served.http.put("/machine", json={**told, "probing": False}).raise_for_status()


def in_a_loop(story: Coroutine[object, object, Told]) -> Told:
    """What a story comes to in an event loop of its own, on a thread where no browser's loop runs."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, story).result()
