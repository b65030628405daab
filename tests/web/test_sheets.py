"""Rule sheets and what follows from them, through a real server."""

from __future__ import annotations

import json
from datetime import date

import pytest

from hardy_parcel.core.sheets.sheet_documents import blank_sheet, write_sheet

from ..service import Served
from .test_api import problem


@pytest.fixture
def tern(served: Served) -> dict:
    """A sheet of one's own, made anew for every test."""
    made = [one["sheet"]["id"] for one in served.http.get("/sheets").json()]
    name = next(f"tern-{letter}" for letter in "abcdefghijklmnop" if f"tern-{letter}" not in made and served.http.get(
        f"/sheets/tern-{letter}/versions/1").status_code == 404)
    return with_guidance(served, name, "Tern Post")


def with_guidance(served: Served, name: str, words: str) -> dict:
    """A sheet from nothing, with one row of guidance in its first version."""
    blank = blank_sheet(sheet_id=name, name=words, today=date(2026, 11, 25))
    document = json.loads(write_sheet(blank))
    document["placements"][0]["guidance"] = [
        {
            "short_side_px": 1080, "frame_rate_class": "standard", "dynamic_range": "sdr", "codec": "h264", "low_bps": 6_000_000,
            "high_bps": 8_000_000,
        }
    ]
    answer = served.http.post("/sheets/import", json={"text": json.dumps(document)})
    assert answer.status_code == 201
    return answer.json()


def changed(view: dict, **changes) -> dict:
    """The document of a sheet whose first placement is changed."""
    document = json.loads(json.dumps(view["sheet"]))
    document["placements"][0].update(changes)
    return document


def test_the_shipped_sheets_are_told(served: Served) -> None:
    views = {view["sheet"]["id"]: view for view in served.http.get("/sheets").json()}
    assert list(views)[:6] == ["orrery", "sprigg", "kitewall", "fernpost", "handover", "earshelf"]
    assert all(views[name]["shipped"] for name in ("orrery", "earshelf"))
    assert len(views["kitewall"]["placements"]) == 3
    assert views["orrery"]["placements"][0]["grids"][0]["rows"][0] == {"short_side_px": 2160, "standard": "22.7–29.5", "high": "34.1–44.3"}
    ids = [one["id"] for one in served.http.get("/destinations").json()]
    assert "kitewall-portrait" in ids
    assert served.http.get("/sheets/schema.json").json()["title"] == "Hardy Parcel rule sheet"
    problem(served.http.get("/sheets/moon"), 404, "not_found")
    problem(served.http.delete("/sheets/orrery"), 422, "ships")


def test_a_sheet_is_copied_changed_compared_and_brought_back(served: Served) -> None:
    copy = served.http.post("/sheets", json={"id": "my-sprigg", "name": "My Sprigg", "copy_of": "sprigg"}).json()
    assert copy["sheet"]["placements"] == served.http.get("/sheets/sprigg").json()["sheet"]["placements"]
    path = "/sheets/my-sprigg"
    kept = served.http.put(path, json={"document": changed(copy, max_duration_s=200), "based_on": 1}).json()
    assert (kept["sheet"]["version"], len(kept["versions"])) == (2, 2)
    detail = problem(served.http.put(path, json={"document": changed(copy, max_duration_s=300), "based_on": 1}), 409, "newer_version")
    assert "version 2 by now" in detail
    same = served.http.put(path, json={"document": kept["sheet"], "based_on": 2}).json()
    assert same["sheet"]["version"] == 2, "nothing changed, so nothing is kept"
    old = served.http.get(f"{path}/versions/1").json()
    assert old["changes"] == [{"path": "placements.upright.max_duration_s", "before": "150", "after": "200"}]
    back = served.http.post(f"{path}/versions/1/bring-back").json()
    assert (back["sheet"]["version"], back["sheet"]["placements"][0]["max_duration_s"]) == (3, 150)
    problem(served.http.post("/sheets", json={"id": "my-sprigg", "name": "Again"}), 409, "name_taken")
    assert "my-sprigg" not in [one["sheet"]["id"] for one in served.http.delete(path).json()]
    problem(served.http.get(path), 404, "not_found")


def test_bad_documents_are_refused_with_their_paths(served: Served, tern: dict) -> None:
    spoiled = changed(tern, max_bytes=-3, colour="blue")
    found = {fault["path"] for fault in served.http.post("/sheets/check", json={"document": spoiled}).json()}
    assert found == {"placements.0.max_bytes", "placements.0.colour"}
    detail = problem(served.http.put(f"/sheets/{tern['sheet']['id']}", json={"document": spoiled, "based_on": 1}), 422, "bad_sheet")
    assert "placements.0.colour: there is no such field" in detail
    problem(served.http.post("/sheets/import", json={"text": "{"}), 422, "bad_sheet")
    place = tern["sheet"]["placements"][0]
    for sheet_id, placement_id in (("gale-post", "wide-x"), ("gale", "post-wide-x")):
        document = tern["sheet"] | {"id": sheet_id, "placements": [place | {"id": placement_id}]}
        answer = served.http.post("/sheets/import", json={"text": json.dumps(document)})
    assert "gale-post-wide-x is another sheet's already" in problem(answer, 422, "bad_sheet")


def test_documents_and_guidance_go_out_and_in(served: Served, tern: dict) -> None:
    name = tern["sheet"]["id"]
    document = served.http.get(f"/sheets/{name}/document.json")
    assert f'filename="{name}.json"' in document.headers["content-disposition"]
    kept = served.http.post("/sheets/import", json={"text": document.text}).json()
    assert (kept["sheet"]["version"], kept["sheet"]["placements"]) == (2, tern["sheet"]["placements"])
    table = served.http.get(f"/sheets/{name}/main/guidance.csv").text
    rows = served.http.post("/sheets/paste", json={"text": table}).json()["rows"]
    assert rows == tern["sheet"]["placements"][0]["guidance"]
    problem(served.http.get(f"/sheets/{name}/attic/guidance.csv"), 404, "not_found")
    told = served.http.post("/sheets/paste", json={"text": "1080p 8 Mbps\nbanana"}).json()
    assert (len(told["rows"]), told["not_understood"][0]["text"]) == (1, "banana")
    asked = served.http.post("/sheets/paste", json={"text": "1080p: 20 Mbps maximum\n2160p: 40 Mbps"}).json()
    assert asked["asked"][0]["text"] == "1080p: 20 Mbps maximum"
    taken = {"rows": asked["rows"] + asked["asked"][0]["rows"], "limits": asked["limits"]}
    told = served.http.post("/sheets/take", json={"draft": tern["sheet"]["placements"][0], "taken": taken}).json()
    assert [row["short_side_px"] for row in told["draft"]["guidance"]] == [2160, 1080]
    assert told["draft"]["max_long_side_px"] >= 3840
    harsh = served.http.post("/sheets/assume", json={"placement": tern["sheet"]["placements"][0], "assumed": "harsh"}).json()
    assert harsh["assumed"] == "harsh"


def chosen(served: Served, master: dict) -> list[str]:
    return [view["summary"]["destination"]["id"] for view in served.lanes(master)]


def test_destinations_are_chosen_by_master(served: Served, gale_master: dict) -> None:
    path, usual = f"/masters/{gale_master['id']}/destinations", chosen(served, gale_master)
    first = served.parcel_path(gale_master)
    served.http.put(f"{first}/choices", json={"effort": "careful"}).raise_for_status()
    served.http.put(path, json={"destinations": ["earshelf-audio"]}).raise_for_status()
    assert chosen(served, gale_master) == ["earshelf-audio"]
    problem(served.http.delete(served.parcel_path(gale_master, "earshelf-audio")), 422, "last_lane")
    kept = served.http.put(path, json={"destinations": ["earshelf-audio", "orrery-wide", "orrery-wide"]}).json()
    assert [one["destination_id"] for one in kept] == ["earshelf-audio", "orrery-wide"]
    assert served.parcel_path(gale_master) == first
    views = served.lanes(gale_master)
    assert views[1]["summary"]["choices"]["effort"] == "careful", "what is put away comes back as it was"
    assert (views[0]["summary"]["plan"]["video"], views[0]["summary"]["lowest_bps"]) == (None, None)
    problem(served.http.put(path, json={"destinations": ["moon"]}), 404, "not_found")
    problem(served.http.post(served.parcel_path(gale_master, "earshelf-audio") + "/rehearse", json={}), 422, "no_picture")
    served.http.put(f"{first}/choices", json={})
    served.http.put(path, json={"destinations": usual}).raise_for_status()


def test_a_parcel_remembers_its_sheet_and_says_what_a_newer_one_would_change(served: Served, gale_master: dict, tern: dict) -> None:
    name = tern["sheet"]["id"]
    usual = chosen(served, gale_master)
    lanes = f"/masters/{gale_master['id']}/destinations"
    served.http.put(lanes, json={"destinations": [*usual, f"{name}-main"]}).raise_for_status()
    path = served.parcel_path(gale_master, f"{name}-main")
    first = served.http.put(f"{path}/choices", json={"effort": "quick"}).json()
    assert first["news"] is None
    assert "assumed, middling" in first["summary"]["seen"][0]["sentence"]
    row = tern["sheet"]["placements"][0]["guidance"][0] | {"low_bps": 9_000_000, "high_bps": 11_000_000}
    served.http.put(f"/sheets/{name}", json={"document": changed(tern, guidance=[row]), "based_on": 1})
    view = served.http.get(path).json()
    assert view["summary"]["plan"]["sheet_version"] == 1
    assert (view["news"]["planned_with"], view["news"]["newest"]) == (1, 2)
    assert "Bit rate" in {change["setting"] for change in view["news"]["changes"]}
    taken = served.http.post(f"{path}/newest-sheet").json()
    assert (taken["news"], taken["summary"]["plan"]["sheet_version"]) == (None, 2)
    assert taken["summary"]["choices"]["effort"] == "quick"
    served.http.put(lanes, json={"destinations": usual}).raise_for_status()


def test_choices_are_offered_refused_and_put_beside_ours(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master, "fernpost-reel")
    view = served.http.put(f"{path}/choices", json={"codec": "av1", "effort": "quick"}).json()
    offered = {one["key"]: one for one in view["offers"]}
    assert [offer["value"] for offer in offered["codec"]["offers"]] == ["h264", "hevc", "av1"]
    assert offered["codec"]["value"] == "av1"
    typed = {one["key"]: one for one in view["typed"]}
    assert (typed["video_bitrate_bps"]["text"], typed["video_bitrate_bps"]["unit"]) == ("", "Mbit/s")
    assert view["told"]["encoder"] == "libsvtav1"
    row = next(row for row in view["summary"]["slip"] if row["setting"] == "Codec")
    assert row["instead"].startswith("H.264 High")
    detail = problem(served.http.put(f"{path}/choices", json={"codec": "vp9"}), 422, "not_taken")
    assert "does not take VP9" in detail
    assert served.http.get(path).json()["summary"]["choices"]["codec"] == "av1"
    asked = served.http.put(f"{path}/choices", json={"method": "untouched"}).json()
    assert asked["summary"]["plan"]["method"]["value"] == "untouched"
    job = served.http.post(f"{path}/pack", json={"plan_key": served.http.get(path).json()["summary"]["plan_key"]}).json()
    done = served.until("/receipts", lambda kept: next((one for one in kept if one["job_id"] == job["id"]), None), "the copy")
    assert {row["match"] for row in done["receipt"]["rows"]} == {"as planned"}
    served.http.put(f"{path}/choices", json={})
