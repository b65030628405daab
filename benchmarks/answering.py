"""Shelf and Lanes asked for fifty times a second while two jobs run.  python -m benchmarks.answering [seconds]

Requests go out at their times whatever became of those before, as many open pages would ask, each of which was answered once before.
Prints the middle and the 95th of a hundred answers against the bar of 100 ms, and how many failed; then what the service takes of a core
when nobody asks for anything.
"""

from __future__ import annotations

import statistics
import sys
import time
from concurrent.futures import ThreadPoolExecutor
from functools import partial
from pathlib import Path

import httpx
import numpy as np
from tests import films

from .mutations import until
from .service import service_of_its_own

EACH_SECOND, BAR_S = 50, 0.100
FILMS = 6
IDLE_S = 20.0


def busy_s(pids: list[int]) -> dict[int, float]:
    """Processor time of each of these processes so far, in s; one that is gone is not among them."""
    found = {}
    for pid in pids:
        stat = Path(f"/proc/{pid}/stat")
        if stat.exists():
            fields = stat.read_text().rsplit(")", 1)[1].split()
            found[pid] = (int(fields[11]) + int(fields[12])) / 100
    return found


def family(pid: int) -> list[int]:
    """A process and all below it."""
    found = [pid]
    for one in found:
        children = Path(f"/proc/{one}/task/{one}/children")
        found += [int(child) for child in children.read_text().split()] if children.exists() else []
    return found


def ready(http: httpx.Client, count: int) -> list[dict]:
    every = http.get("/masters").json()["masters"]
    return every if len(every) == count and all(one["state"] == "ready" for one in every) else []


def nothing_open(http: httpx.Client) -> bool:
    return not [job for job in http.get("/jobs").json() if job["state"] in ("waiting", "running")]


def main(*, small: bool = False) -> None:
    seconds = 1 if small else int(next((word for word in sys.argv[1:] if not word.startswith("-")), 20))
    count, idle_s, long_s = (2, 1.0, 4) if small else (FILMS, IDLE_S, 20)
    with service_of_its_own() as (service, http, data):
        http.put("/machine", json={"line": {}, "probing": False}).raise_for_status()
        for number in range(count):
            films.film(data / "inbox" / f"Film {number}.mp4", width=640, height=360, seconds=long_s if number == 0 else 2)
        every = until(partial(ready, http, count))
        lanes = {one["id"]: http.get(f"/masters/{one['id']}/lanes").json()["lanes"] for one in every}
        until(partial(nothing_open, http))
        time.sleep(0.5 if small else 4)  # what comes after a check, and the end of those who made it
        until(partial(nothing_open, http))
        before = busy_s(family(service.pid))
        time.sleep(idle_s)
        idle = sum(now - before.get(pid, 0.0) for pid, now in busy_s(family(service.pid)).items()) / idle_s
        long = next(one["id"] for one in every if one["name"] == "Film 0.mp4")
        for act in ("pack", "rehearse"):
            parcel = lanes[long][0]["lane"]["parcel"]["id"]
            key = http.get(f"/parcels/{parcel}").json()["summary"]["plan_key"]
            http.post(f"/parcels/{parcel}/{act}", json={"plan_key": key} if act == "pack" else {}).raise_for_status()
        time.sleep(0.5 if small else 3)
        paths = [path for one in every for path in ("/masters", f"/masters/{one['id']}/lanes")]
        for path in paths:
            http.get(path).raise_for_status()
        began = time.monotonic()

        def ask(number: int) -> tuple[float, bool]:
            due = began + number / EACH_SECOND
            time.sleep(max(0.0, due - time.monotonic()))
            answer = http.get(paths[number % len(paths)])
            return time.monotonic() - due, answer.status_code == 200

        with ThreadPoolExecutor(24) as pool:
            found = list(pool.map(ask, range(seconds * EACH_SECOND)))
        running = [job["kind"] for job in http.get("/jobs").json() if job["state"] == "running"]
    took = [one for one, _ in found]
    most = float(np.percentile(took, 95))
    print(f"{len(found)} answers, {EACH_SECOND} a second, while there run: {', '.join(running) or 'nothing any more'}; middle "
          f"{statistics.median(took) * 1e3:.0f} ms, 95th of a hundred {most * 1e3:.0f} ms, {most / BAR_S:.2f} of the bar, "
          f"{sum(not good for _, good in found)} failed")
    print(f"when nobody asks: {idle:.1%} of a core")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
