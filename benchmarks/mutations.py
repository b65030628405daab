"""Valid requests spoilt at random: no answer may be a fault of ours, nor take longer than two seconds.

    python -m benchmarks.mutations [how many requests] [seed]

Documents are what the service itself tells: sheets, recipes, choices, settings, parcels. Of each a few places are replaced, doubled,
nested, emptied or taken away before it is sent to where it belongs; texts are cut and spliced.
"""

from __future__ import annotations

import copy
import json
import random
import statistics
import sys
import time
from collections import Counter
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import urlencode

import httpx
from tests import films

from .service import service_of_its_own

SLOW_S = 2.0
THREADS = 2
NASTY: tuple[Any, ...] = (
    None, True, -1, 0, 1, 1e-300, 1e300, float("inf"), float("-inf"), float("nan"), 10**20,
    -(10**20), "", " ", "a" * 5000, "\ud800", "a\x00b",
    "\x1b[2J", "1/0", "0/1", "1/99999999999", "9" * 400, "../../etc/passwd", "~nobody/x", "/dev/zero", [], {}, [[]], [None] * 300, {"": ""},
    {"a": {"a": {"a": {}}}}, "encoded", "h264", "2026-02-30", "16:9", "<table>" + "<td>" * 200, "7,500 kbps" * 40,
    "\u202e\u0301" * 50, 0.1, "None",
)


@dataclass(frozen=True, slots=True, kw_only=True)
class Asked:
    """One kind of request with a body that is taken; of a GET it is what stands in the address."""

    method: str
    path: str
    body: Any


@dataclass(slots=True, kw_only=True)
class Found:
    """What came back: statuses, times in s, and what was wrong."""

    statuses: Counter[int] = field(default_factory=Counter)
    took: list[float] = field(default_factory=list)
    wrong: list[str] = field(default_factory=list)


def seeds(http: httpx.Client, master_id: str, parcel: str) -> list[Asked]:
    """Every kind of request that carries a document, with one that is valid."""
    get = lambda path: http.get(path).raise_for_status().json()  # noqa: E731
    sheet, machine = get("/sheets/orrery")["sheet"], get("/machine")
    recipe = http.post("/recipes", json={"name": "Spoilt", "master_id": master_id}).raise_for_status().json()["recipe"]
    state, choices = get(f"{parcel}"), get(f"{parcel}")["summary"]["choices"]
    master = f"/masters/{master_id}"
    line = {"line": machine["line"], "output_folder": None, "cache_gb": 20, "probing": False, "file_pattern": "{master}", "folders": []}
    wish = {"shape": "9:16", "framing": "fill", "focus": {"x": 0.5, "y": 0.5}, "zoom": 1.2}
    table = "size\t24, 25, 30\t48, 50, 60\n2160p\t22.7-29.5 Mbps\t34 Mbps\n1080p\t7-9.1\t10.5\nstereo\t240 kbps\n"
    kept = state["summary"]["parcel"]
    return [
        Asked(method="POST", path="/sheets/check", body={"document": sheet}),
        Asked(method="POST", path="/sheets/import", body={"text": json.dumps(sheet)}),
        Asked(method="POST", path="/sheets/paste", body={"text": table}),
        Asked(method="PUT", path="/sheets/nobody", body={"sheet": sheet}),
        Asked(method="POST", path="/recipes/import", body={"text": json.dumps(recipe)}),
        Asked(method="PUT", path=f"/recipes/{recipe['id']}", body={"name": "Spoilt", "note": "x", "file_pattern": "{master}"}),
        Asked(method="PATCH", path=f"{parcel}/choices", body={"video_bitrate_bps": 900_000, "effort": "quick", "framing": "fill"}),
        Asked(method="PUT", path=f"{parcel}/choices", body=choices),
        Asked(method="PATCH", path=parcel, body={"name": "another", "excerpt": {"in_s": "0", "out_s": "1"}, "move_excerpt": True}),
        Asked(method="PUT", path=f"{master}/parcels-state", body={"parcels": [kept]}),
        Asked(method="PUT", path=f"{master}/framing", body=wish),
        Asked(method="POST", path=f"{master}/framing/try", body=wish),
        Asked(method="POST", path=f"{master}/together", body={"part": {"effort": "quick"}, "times_guidance": 1.2, "parcels": None}),
        Asked(method="PUT", path=f"{master}/excerpt", body={"excerpt": {"in_s": "0", "out_s": "1"}}),
        Asked(method="PUT", path=f"{master}/destinations", body={"destinations": ["fernpost-reel", "orrery-wide"]}),
        Asked(method="PUT", path="/machine", body=line),
        Asked(method="PUT", path="/dispatch", body={"start_at": None, "after": "nothing"}),
        Asked(method="PUT", path="/dispatch/order", body={"jobs": ["a", "b"]}),
        Asked(method="POST", path=f"{parcel}/pack", body={"plan_key": "x", "file_name": "a.mp4", "folder": "/tmp"}),
        Asked(method="POST", path="/masters", body={"path": "/tmp/x.mp4"}),
        Asked(method="POST", path="/receipts/sums", body={"folder": "/tmp"}),
        Asked(method="GET", path=f"{parcel}/at", body={"video_bitrate_bps": 900_000}),
        Asked(method="GET", path=f"{parcel}/last-look", body={"folder": "/tmp"}),
        Asked(method="GET", path=f"{parcel}/look", body={"screen": "laptop", "line": "good", "video_bitrate_bps": 900_000}),
        Asked(method="GET", path=f"{master}/packing", body={"parcel": [kept["id"]]}),
        Asked(method="GET", path=f"{master}/lanes", body={"against": kept["id"]}),
        Asked(method="GET", path=f"{master}/pair", body={"left": kept["id"], "right": kept["id"]}),
    ]


def places(value: Any, at: tuple[Any, ...] = ()) -> list[tuple[Any, ...]]:
    """Where something stands in a document, itself not."""
    inside = list(value.items()) if isinstance(value, dict) else list(enumerate(value)) if isinstance(value, list) else []
    found = []
    for key, part in inside:
        found += [(*at, key), *places(part, (*at, key))]
    return found


def spoilt(body: Any, rng: random.Random) -> Any:
    """The document with one to three of its places made wrong, or maybe not wrong."""
    made = copy.deepcopy(body)
    for _ in range(rng.choice((1, 1, 2, 3))):
        every = places(made)
        if not every:
            return rng.choice(NASTY)
        place = rng.choice(every)
        holder = made
        for key in place[:-1]:
            holder = holder[key]
        key, act = place[-1], rng.randrange(7)
        if act == 0:
            del holder[key]
        elif act == 1 and isinstance(holder, list):
            holder.extend([copy.deepcopy(holder[key])] * rng.choice((1, 40, 400)))
        elif act == 2 and isinstance(holder, dict):
            holder[rng.choice(("x", "", "__class__", "schema_version"))] = copy.deepcopy(holder[key])
        elif act == 3 and isinstance(holder[key], str) and holder[key]:
            text = holder[key]
            cut = rng.randrange(len(text))
            spliced = text[:cut] + rng.choice(("\x00", "−", "ß", ",")) + text[cut:]
            holder[key] = rng.choice((text[:cut], text[cut:] + text[:cut], text * 20, spliced))
        elif act == 4 and isinstance(holder[key], (int, float)) and not isinstance(holder[key], bool):
            holder[key] = holder[key] * rng.choice((-1, 0, 1e-9, 1e9, 1.0000001))
        else:
            holder[key] = copy.deepcopy(rng.choice(NASTY))
    return made


def attack(http: httpx.Client, every: list[Asked], count: int, seed: int) -> Found:
    """Send so many spoilt requests, and note what came back."""
    found = Found()

    def one(number: int) -> None:
        rng = random.Random(seed * 1_000_003 + number)
        asked = rng.choice(every)
        wrong = spoilt(asked.body, rng)
        body = json.dumps(wrong, ensure_ascii=rng.random() < 0.5).encode("utf-8", "surrogatepass")
        began = time.monotonic()
        if asked.method == "GET":
            told = wrong if isinstance(wrong, dict) else {"x": wrong}
            query = urlencode({str(key): value for key, value in told.items()}, doseq=True, errors="surrogatepass")[:20_000]
            answer = http.get(f"{asked.path}?{query}")
        else:
            answer = http.request(asked.method, asked.path, content=body, headers={"content-type": "application/json"})
        took = time.monotonic() - began
        found.statuses[answer.status_code] += 1
        found.took.append(took)
        if answer.status_code >= 500 and answer.status_code not in (503, 507):
            found.wrong.append(f"{answer.status_code} {asked.method} {asked.path} {body[:3000]!r}")
        if took > SLOW_S:
            found.wrong.append(f"{took:.1f} s {asked.method} {asked.path} {body[:3000]!r}")
        if answer.status_code >= 400 and "content-security-policy" not in answer.headers:
            found.wrong.append(f"no safety headers: {asked.method} {asked.path}")

    with ThreadPoolExecutor(THREADS) as pool:
        list(pool.map(one, range(count)))
    return found


def until(act: Callable[[], Any], patience_s: float = 120) -> Any:
    ends = time.monotonic() + patience_s
    while not (found := act()):
        if time.monotonic() > ends:
            raise TimeoutError
        time.sleep(0.2)
    return found


def ready(http: httpx.Client) -> dict[str, Any] | None:
    return next((one for one in http.get("/masters").json()["masters"] if one["state"] == "ready"), None)


def main() -> int:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 20_000
    seed = int(sys.argv[2]) if len(sys.argv) > 2 else 1
    with service_of_its_own() as (service, http, data):
        http.put("/machine", json={"line": {}, "probing": False}).raise_for_status()
        films.film(Path(data) / "inbox" / "Calm.mp4", width=192, height=108, seconds=2)
        master = until(partial(ready, http))
        lanes = until(lambda: http.get(f"/masters/{master['id']}/lanes").json()["lanes"])
        parcel = f"/parcels/{lanes[0]['lane']['parcel']['id']}"
        found = attack(http, seeds(http, master["id"], parcel), count, seed)
        alive = service.poll() is None and http.get("/masters").status_code == 200
    for line in found.wrong[:40]:
        print(line)
    told = ", ".join(f"{number} × {status}" for status, number in sorted(found.statuses.items()))
    print(f"{count} requests: {told}; median {statistics.median(found.took) * 1e3:.0f} ms, slowest {max(found.took):.2f} s;"
          f" {len(found.wrong)} wrong; the service is {'up' if alive else 'DOWN'}")
    return 0 if alive and not found.wrong else 1


if __name__ == "__main__":
    sys.exit(main())
