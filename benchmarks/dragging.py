"""What a tick of the handle costs in the service, of 15 ms, on a lane that was rehearsed. Prints ratios."""

from __future__ import annotations

import statistics
import sys
import time
from collections.abc import Callable
from fractions import Fraction
from typing import Any

import httpx
from tests.films import shimmer

from hardy_parcel.demo import gale
from hardy_parcel.media.film import write_film

from .films import SIZE, scene
from .service import service_of_its_own

BAR_S = 0.015
TICKS = 300


def until(http: httpx.Client, path: str, fits: Callable[[Any], Any]) -> Any:
    """The first answer of `path` that fits."""
    while not (found := fits(http.get(path).json())):
        time.sleep(0.2)
    return found


def main(*, small: bool = False) -> None:
    with service_of_its_own() as (_, http, data):
        film = data / "inbox" / "Gale.mp4"
        pictures = shimmer(*SIZE, 10) if small else scene(gale, 2)
        write_film(film, width=SIZE[0], height=SIZE[1], frame_rate=Fraction(25), pictures=pictures, sound=None, quality=14)
        master = until(http, "/masters", lambda shelf: next((m["id"] for m in shelf["masters"] if m["state"] == "ready"), None))
        lane = http.get(f"/masters/{master}/lanes").raise_for_status().json()["lanes"][0]["lane"]["parcel"]["id"]
        http.post(f"/parcels/{lane}/rehearse", json={"rates": [1_000_000] if small else []}).raise_for_status()
        until(http, "/jobs", lambda jobs: all(job["state"] not in ("waiting", "running") for job in jobs))
        ticks = []
        for number in range(5 if small else TICKS):
            began = time.perf_counter()
            http.get(f"/parcels/{lane}/at", params={"video_bitrate_bps": 1_000_000 + 10_000 * number}).raise_for_status()
            ticks.append(time.perf_counter() - began)
        least, middle, most = (pick(ticks) / BAR_S for pick in (min, statistics.median, max))
        print(f"a tick of the handle: {middle:.2f} of the bar of 15 ms (least {least:.2f}, most {most:.2f})")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
