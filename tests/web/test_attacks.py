"""What nobody sends by mistake: each gets a clear refusal, quickly, with the safety headers, and nothing is kept of it."""

from __future__ import annotations

import json

import pytest
from benchmarks.mutations import attack, seeds

from .. import films
from ..service import Served
from .test_api import problem

SURROGATE, NUL = '"\\ud800"', '"a\\u0000b"'
REFUSED = {
    "an endless size limit": ("PATCH", "{parcel}/choices", '{"max_bytes": Infinity}'),
    "a choice that is no number": ("PATCH", "{parcel}/choices", '{"times_enough": NaN}'),
    "twenty digits": ("PATCH", "{parcel}/choices", '{"video_bitrate_bps": 99999999999999999999}'),
    "a hair of a shape": ("PATCH", "{parcel}/choices", '{"shape": "1/99999999999999999999"}'),
    "half a letter for a name": ("PATCH", "{parcel}", f'{{"name": {SURROGATE}}}'),
    "half a letter in what was": (
        "PUT", "{master}/parcels-state", f'{{"parcels": [{{"id": {SURROGATE}, "master_id": "m", "destination_id": "x"}}]}}',
    ),
    "half a letter for a file": ("POST", "{parcel}/pack", f'{{"plan_key": "x", "file_name": {SURROGATE}}}'),
    "half a letter for a recipe": ("POST", "/recipes", f'{{"master_id": "x", "name": {SURROGATE}}}'),
    "half a letter in an order": ("PUT", "/dispatch/order", f'{{"jobs": [{SURROGATE}]}}'),
    "an hour that never comes": ("PUT", "/dispatch", '{"start_at": Infinity}'),
    "an uplink of next to nothing": ("PUT", "/machine", '{"line": {"uplink_mbps": 1e-300}}'),
    "a folder of nobody": ("POST", "/masters", '{"path": "~nobody/x"}'),
    "a path with an end in it": ("PUT", "/machine", f'{{"line": {{}}, "output_folder": {NUL}}}'),
    "half a letter for a folder": ("POST", "/receipts/sums", f'{{"folder": {SURROGATE}}}'),
    "a folder with an end in it": ("POST", "/receipts/sums", f'{{"folder": {NUL}}}'),
    "a very long name": ("PUT", "/machine", json.dumps({"line": {}, "output_folder": "/root/" + "a" * 3000})),
    "an excerpt of thirty digits": ("DELETE", "{master}/excerpts/" + "9" * 30, ""),
    "a film with a name of 300 letters": ("POST", "/masters", json.dumps({"path": "~/" + "a" * 300 + ".mp4"})),
    "a film with a name of 360 bytes": ("POST", "/masters", json.dumps({"path": "~/" + "€" * 120 + ".mp4"})),
    "what is not JSON": ("POST", "/sheets/check", "{"),
    "what is nested too deep": ("POST", "/sheets/check", '{"document":' + "[" * 5000 + "]" * 5000 + "}"),
}


@pytest.fixture(scope="module")
def parcel(served: Served) -> str:
    films.film(served.places.inbox / "Calm.mp4", width=192, height=108, seconds=1)
    return served.parcel_path(served.master("Calm.mp4"), "fernpost-reel")


def _master(served: Served, parcel: str) -> str:
    return served.http.get(parcel).json()["summary"]["parcel"]["master_id"]


@pytest.mark.parametrize("what", REFUSED)
def test_what_cannot_be_meant_is_refused(served: Served, parcel: str, what: str) -> None:
    method, path, body = REFUSED[what]
    before = served.http.get(parcel).json()["summary"]["choices"]
    where = path.format(parcel=parcel, master=f"/masters/{_master(served, parcel)}")
    answer = served.http.request(method, where, content=body.encode(), headers={"content-type": "application/json"})
    assert 400 <= answer.status_code < 500, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    assert "content-security-policy" in answer.headers
    assert served.http.get(parcel).json()["summary"]["choices"] == before


def test_control_characters_in_a_name_become_spaces(served: Served, parcel: str) -> None:
    answer = served.http.patch(parcel, json={"name": "a\x00b\x1b[31mc"})
    assert answer.json()["summary"]["parcel"]["name"] == "a b [31mc"
    served.http.patch(parcel, json={"name": ""})


def test_of_documents_full_of_faults_the_first_are_told(served: Served) -> None:
    rows = [{"guidance": [{} for _ in range(20)]} for _ in range(200)]
    faults = served.http.post("/sheets/check", json={"document": {"placements": [{"id": str(n)} for n in range(700)]}}).json()
    assert 50 < len(faults) < 60
    assert "more of the kind" in faults[-1]["why"]
    told = problem(served.http.post("/sheets/import", json={"text": json.dumps({"placements": rows})}), 422, "bad_sheet")
    assert len(told) < 6000
    table = "<table>" + "<tr>" + "<td colspan=50 rowspan=50>1080p 8 Mbit/s</td>" * 300 + "</tr></table>"
    pasted = served.http.post("/sheets/paste", json={"text": table})
    assert pasted.status_code == 200
    assert all(line["text"].count("|") < 60 for line in pasted.json()["not_understood"])


def test_values_near_nothing_are_refused_in_a_sheet(served: Served) -> None:
    document = served.http.get("/sheets/orrery").json()["sheet"]
    document["placements"][0]["max_frame_rate"] = "1/10000"
    document["placements"][0]["handling"]["buffer_s"] = 1e-9
    faults = {fault["path"] for fault in served.http.post("/sheets/check", json={"document": document}).json()}
    assert faults == {"placements.0.max_frame_rate", "placements.0.handling.buffer_s"}


def test_requests_spoilt_at_random_are_no_fault_of_ours(served: Served, parcel: str) -> None:
    """The small form of what `make hostile` does twenty thousand times."""
    machine = served.http.get("/machine").json()
    master = served.http.get(parcel).json()["summary"]["parcel"]["master_id"]
    found = attack(served.http, seeds(served.http, master, parcel), 250, seed=7)
    assert found.wrong == []
    assert sum(found.statuses.values()) == 250
    assert found.statuses[422] > 50
    served.http.put("/machine", json={"line": machine["line"], "probing": False}).raise_for_status()
    for recipe in served.http.get("/recipes").json()["recipes"]:
        if recipe["recipe"]["made_on"] == "Calm.mp4":
            served.http.delete(f"/recipes/{recipe['recipe']['id']}").raise_for_status()
