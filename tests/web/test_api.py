"""The service through a real server: shelf, plans, rehearsing, packing, looking."""

from __future__ import annotations

import json
from pathlib import Path

import pytest

from hardy_parcel.store import results
from hardy_parcel.store.database import Database

from .. import films
from ..service import Served

JSON = {"content-type": "application/json"}


def problem(answer, status: int, code: str | None = None) -> str:
    assert answer.status_code == status, answer.text
    assert answer.headers["content-type"] == "application/problem+json"
    body = answer.json()
    assert body["status"] == status
    assert code is None or body["code"] == code
    assert body["title"]
    assert "Error" not in body["detail"]
    return body["detail"]


def test_the_shelf_and_its_strip(served: Served, gale_master: dict) -> None:
    assert gale_master["facts"]["video"]["frame_rate"] == "50"
    strip = served.until(f"/masters/{gale_master['id']}", lambda master: master["strip"], "a first picture of the strip")
    picture = served.http.get(f"/masters/{gale_master['id']}/strip/{strip[0]}.jpg")
    assert picture.headers["content-type"] == "image/jpeg"
    assert len(picture.content) > 500
    problem(served.http.get(f"/masters/{gale_master['id']}/strip/99.jpg"), 404, "not_found")


def test_a_film_is_opened_where_it_lies(served: Served, tmp_path_factory) -> None:
    source = films.film(served.places.data.parent / "elsewhere.mp4", seconds=1)
    answer = served.http.post("/masters", json={"path": str(source)})
    assert answer.status_code == 201
    assert served.master("elsewhere.mp4")["path"] == str(source)
    assert source.exists()
    again = served.http.post("/masters", json={"path": str(source)})
    assert again.json()["id"] == answer.json()["id"]


@pytest.mark.parametrize(
    ("path", "code", "status"),
    [("/etc/passwd", "folder_unusable", 422), ("{data}/lost.mp4", "not_found", 404), ("{data}", "not_found", 404),
     ("{data}/inbox/../../../../../../etc/hosts", "folder_unusable", 422),
     ("a\0b", "not_found", 404), ("~nobody at all/x.mp4", "folder_unusable", 422),
     ("", "bad_input", 422)],
)
def test_what_cannot_be_opened(served: Served, path: str, code: str, status: int) -> None:
    problem(served.http.post("/masters", json={"path": path.format(data=served.places.data)}), status, code)


def test_bad_files_say_what_is_wrong(served: Served, gale: Path) -> None:
    (served.places.inbox / "letter.mp4").write_text("Dear keeper\n" * 200)
    films.cut_short(gale, served.places.inbox / "cut.mp4", 0.5)
    films.sound_only(served.places.inbox / "voice.mp4")
    expected = {"letter.mp4": "unreadable_master", "cut.mp4": "truncated", "voice.mp4": "no_picture"}
    for name, code in expected.items():
        master = served.master(name, "unreadable")
        assert master["problem"]["code"] == code
        assert master["problem"]["todo"]
        problem(served.http.get(f"/masters/{master['id']}/lanes"), 422, code)
    for name in expected:
        (served.places.inbox / name).unlink()


def test_plans_for_the_usual_destinations_and_as_it_is(served: Served, gale_master: dict) -> None:
    found = served.http.get(f"/masters/{gale_master['id']}/lanes").json()
    rows = [view["lane"] for view in found["lanes"]]
    lanes = [(row["destination_id"], row["method"]) for row in rows]
    assert [row["beside"] for row in rows] == [None, "as it is", None, None, None, "as it is"]
    assert len(found["sentences"]) == 6
    assert found["sentences"][0]["sentence"]
    assert lanes == [
        ("orrery-wide", "encoded"), ("orrery-wide", "untouched"), ("sprigg-upright", "encoded"), ("kitewall-square", "encoded"),
        ("fernpost-reel", "encoded"), ("fernpost-reel", "untouched"),
    ]
    wide, upright = (served.http.get(f"/parcels/{row['parcel']['id']}").json()["summary"] for row in (rows[0], rows[2]))
    assert wide["plan"]["video"]["frame_rate"]["value"] == "50"
    assert upright["plan"]["video"]["frame_rate"]["value"] == "25"
    assert {"setting", "value", "because", "source"} <= set(wide["slip"][0])
    assert wide["figures"]["encode"]["evidence"] in ("sheet", "earlier jobs")
    assert len(wide["seen"]) == 6


def test_a_rate_that_is_tried_is_not_kept_and_a_choice_is(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master, "sprigg-upright")
    tried = served.http.get(f"{path}/at", params={"video_bitrate_bps": 700_000}).json()
    assert (tried["bitrate_bps"], tried["held"], len(tried["arrivals"])) == (700_000, False, 6)
    assert tried["guidance_words"]
    assert served.http.get(path).json()["summary"]["choices"]["video_bitrate_bps"] is None
    kept = served.http.put(f"{path}/choices", json={"video_bitrate_bps": 700_000}).json()["summary"]
    assert kept["plan"]["video"]["target_bps"]["because"]["source"] == "creator"
    assert (kept["figures"]["size"], kept["guidance_words"]) == (tried["figures"]["size"], tried["guidance_words"])
    assert served.http.get(path).json()["summary"]["choices"] == kept["choices"]
    served.http.put(f"{path}/choices", json={})
    problem(served.http.get(f"{path}/at", params={"video_bitrate_bps": 1}), 422, "bad_input")


@pytest.mark.parametrize("choices", [{"video_bitrate_bps": 1}, {"framing": "stretch"}, {"colour": "blue"}, {"video_bitrate_bps": "lots"}])
def test_impossible_choices_are_refused_and_nothing_changes(served: Served, gale_master: dict, choices: dict) -> None:
    path = served.parcel_path(gale_master)
    before = served.http.get(path).json()["summary"]["choices"]
    detail = problem(served.http.put(f"{path}/choices", json=choices), 422, "bad_input")
    assert next(iter(choices)) in detail
    assert served.http.get(path).json()["summary"]["choices"] == before


def test_the_excerpt_goes_with_the_master(served: Served, gale_master: dict) -> None:
    path = f"/masters/{gale_master['id']}/excerpt"
    assert served.http.put(path, json={"excerpt": {"in_s": "0.5", "out_s": "3/2"}}).json()["excerpt"] == {"in_s": "1/2", "out_s": "3/2"}
    assert served.http.get(served.parcel_path(gale_master)).json()["summary"]["plan"]["video"]["frames"] == 50
    problem(served.http.put(path, json={"excerpt": {"in_s": "1", "out_s": "9"}}), 422, "bad_choice")
    problem(served.http.put(path, json={"excerpt": {"in_s": "1", "out_s": "1"}}), 422, "bad_choice")
    assert served.http.put(path, json={"excerpt": None}).json()["excerpt"] is None


def seen(served: Served, master: dict, destination: str = "orrery-wide") -> dict:
    """The key of the plan as it is shown now: what a wish to pack must carry."""
    return {"plan_key": served.http.get(served.parcel_path(master, destination)).json()["summary"]["plan_key"]}


def test_only_the_plan_that_was_shown_is_packed(served: Served, gale_master: dict) -> None:
    path, before = served.parcel_path(gale_master), seen(served, gale_master)
    served.http.put(f"{path}/choices", json={"video_bitrate_bps": 350_000})
    problem(served.http.post(f"{path}/pack", json=before), 409, "plan_changed")
    assert not [job for job in served.http.get("/jobs").json() if job["kind"] == "pack" and job["state"] == "waiting"]
    problem(served.http.post(f"{path}/pack", json={}), 422, "bad_input")
    served.http.put(f"{path}/choices", json={})
    assert seen(served, gale_master) == before


def test_some_choices_are_changed_and_what_they_release_goes_back_to_the_plan(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master)
    served.http.put(f"{path}/choices", json={"video_bitrate_bps": 400_000, "ceiling_bps": 500_000, "container": "mkv"})
    faster = served.http.patch(f"{path}/choices", json={"video_bitrate_bps": 800_000}).json()["summary"]["choices"]
    assert (faster["ceiling_bps"], faster["container"]) == (1_000_000, "mkv")
    other = served.http.patch(f"{path}/choices", json={"codec": "vp9"}).json()["summary"]["choices"]
    assert (other["codec"], other["container"], other["ceiling_bps"]) == ("vp9", None, None)
    assert 400_000 < other["video_bitrate_bps"] < 800_000, "as much against the guidance as before"
    for wrong in ({"codec": "mp7"}, {"colour": "blue"}, {"video_bitrate_bps": -1}):
        problem(served.http.patch(f"{path}/choices", json=wrong), 422, "bad_setting")
    assert served.http.get(path).json()["summary"]["choices"] == other
    served.http.put(f"{path}/choices", json={})


def test_packing_from_request_to_receipt(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master)
    served.http.put(f"{path}/choices", json={"video_bitrate_bps": 400_000})
    view = served.http.get(path).json()
    asked = {"plan_key": view["summary"]["plan_key"], "file_name": view["final_name"]}
    job = served.http.post(f"{path}/pack", json=asked).json()
    assert job["state"] == "waiting"
    clash = served.http.post(f"{path}/pack", json=asked)
    assert "will have, a file" in problem(clash, 409, "name_taken")
    done = served.ended(job)
    assert (done["state"], done["file_name"]) == ("done", view["final_name"])
    kept = served.http.get("/receipts").json()[0]
    assert kept["job_id"] == job["id"]
    assert {row["match"] for row in kept["receipt"]["rows"]} <= {"as planned", "explained"}
    assert (served.places.outbox / view["final_name"]).stat().st_size == kept["receipt"]["size_bytes"]
    problem(served.http.post(f"{path}/pack", json=asked), 409, "name_taken")
    after = served.http.get(path).json()
    assert after["name_taken"]
    assert after["final_name"].endswith("(2).mp4")
    served.http.put(f"{path}/choices", json={})


def test_names_are_made_portable(served: Served, gale_master: dict) -> None:
    asked = seen(served, gale_master) | {"file_name": "../../up: and away?.mp4"}
    job = served.http.post(f"{served.parcel_path(gale_master)}/pack", json=asked).json()
    served.http.post(f"/jobs/{job['id']}/cancel")
    assert served.ended(job)["state"] in ("cancelled", "done")
    assert not (served.places.data.parent / "up and away.mp4").exists()


def test_rehearsing_looking_and_stopping(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master)
    short = {"in_s": "0", "out_s": "1/5"}
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": short})
    job = served.http.post(f"{path}/rehearse", json={"rates": [300_000]}).json()
    same = served.http.post(f"{path}/rehearse", json={"rates": [300_000]}).json()
    assert same["id"] == job["id"]
    under_way = served.http.get(path).json()["rehearsing"]
    if under_way is None:  # ten small pictures may be through by now
        assert next(j for j in served.http.get("/jobs").json() if j["id"] == job["id"])["state"] == "done"
    else:
        assert under_way["id"] == job["id"]
    assert served.ended(job)["state"] == "done"
    tried = served.http.get(f"{path}/at", params={"video_bitrate_bps": 300_000}).json()
    arrival = next(one for one in tried["arrivals"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert arrival["at"]["evidence"] == "rehearsed"
    bench = served.http.get(path).json()
    view = bench["summary"]
    seen = next(s for s in view["seen"] if (s["screen"], s["line"]) == ("laptop", "good"))
    assert seen["curve"]["perfect"] is not None
    assert bench["over_time"]["evidence"] == "rehearsed"
    assert bench["over_time"]["suffers"]
    look = served.http.get(f"{path}/look").json()
    moment, key = look["rehearsals"][0]["moments"][0]["reel_index"], look["rehearsals"][0]["pictures_key"]
    assert bench["over_time"]["suffers"][0]["pictures_key"] == key
    for station in ("master", "packed", "arrived"):
        picture = served.http.get(f"{path}/look/300000/{key}/{moment}/phone/good/{station}.png")
        assert picture.content.startswith(b"\x89PNG")
    problem(served.http.get(f"{path}/look/300000/{key}/9999/phone/good/master.png"), 404, "not_found")
    problem(served.http.get(f"{path}/look/400000/{key}/{moment}/phone/good/master.png"), 404, "not_found")
    address = f"{path}/look/300000/{key}/{moment}/phone/good/packed.png"
    packed = served.http.get(address)
    assert "max-age" in packed.headers["cache-control"]
    served.http.patch(f"{path}/choices", json={"sharpen": True}).raise_for_status()
    assert not served.http.get(f"{path}/look").json()["rehearsals"], "what was rehearsed without sharpening is another picture"
    problem(served.http.get(address), 404)
    again = served.http.post(f"{path}/rehearse", json={"rates": [300_000]}).json()
    assert served.ended(again)["state"] == "done"
    [sharpened] = served.http.get(f"{path}/look").json()["rehearsals"]
    assert sharpened["pictures_key"] != key
    problem(served.http.get(address), 404, "other_pictures")
    assert served.http.get(address.replace(key, sharpened["pictures_key"])).content != packed.content
    served.http.patch(f"{path}/choices", json={"sharpen": False}).raise_for_status()
    stopped = served.http.post(f"{path}/rehearse", json={"rates": [500_000, 600_000, 700_000]}).json()
    assert served.http.post(f"/jobs/{stopped['id']}/cancel").json()["cancel_asked"]
    assert served.ended(stopped)["state"] == "cancelled"
    served.http.put(f"/masters/{gale_master['id']}/excerpt", json={"excerpt": None})


def test_line_and_machine(served: Served) -> None:
    kept = served.http.get("/machine").json()
    assert kept["output_folder"] == str(served.places.outbox)
    other = served.places.data / "other"
    other.mkdir(exist_ok=True)
    line = {"uplink_mbps": 4.8, "steadiness": 0.5, "price_per_gb": 2.0, "currency": "£", "allowance_gb": 10}
    saved = served.http.put("/machine", json={"line": line, "output_folder": str(other), "cache_gb": 3}).json()
    assert (saved["output_folder"], saved["cache_gb"]) == (str(other), 3)
    assert saved["hour_bytes"] == 4.8e6 * 0.93 * 3600 / 8
    problem(served.http.put("/machine", json={"line": line, "cache_gb": 0}), 422, "bad_input")
    problem(served.http.put("/machine", json={"line": line, "output_folder": "/etc"}), 422, "folder_unusable")
    problem(served.http.put("/machine", json={"line": line, "output_folder": str(other / "lost")}), 422, "folder_unusable")
    problem(served.http.put("/machine", json={"line": {**line, "uplink_mbps": 0}}), 422, "bad_input")
    assert served.http.get("/machine").json() == saved
    back = served.http.put("/machine", json={"line": kept["line"], "output_folder": None}).json()
    assert back["output_folder"] == str(served.places.outbox)


def test_the_machine_is_measured_once_at_a_time(served: Served) -> None:
    path = "/machine/benchmark"
    before = served.http.get(path).json()
    assert before["job"] is None
    asked = served.http.post(path)
    assert asked.status_code == 202
    assert served.http.post(path).json()["job"]["id"] == asked.json()["job"]["id"]
    assert served.http.post(f"/jobs/{asked.json()['job']['id']}/cancel").json()["cancel_asked"]
    served.until(path, lambda view: view["job"] is None, "the measuring to stop")
    results.keep_benchmark(Database(served.places.database), "h264", 2 * 1920 * 1080)
    (speed,) = [one for one in served.http.get(path).json()["speeds"] if one["codec"] == "h264"]
    assert (speed["name"], speed["pictures_per_s"]) == ("H.264", 2)


@pytest.mark.parametrize(
    "path", ["/masters/nobody", "/masters/nobody/lanes", "/jobs/none/cancel", "/nothing", "/parcels/nobody", "/parcels/nobody/look"]
)
def test_what_is_not_there(served: Served, path: str) -> None:
    answer = served.http.post(path) if path.endswith("cancel") else served.http.get(path)
    problem(answer, 404, "not_found")


def test_an_unknown_destination(served: Served, gale_master: dict) -> None:
    path = f"/masters/{gale_master['id']}/destinations"
    assert "orrery-wide" in problem(served.http.put(path, json={"destinations": ["moon"]}), 404, "not_found")


def test_events_tell_what_changes(served: Served, gale_master: dict) -> None:
    path = served.parcel_path(gale_master, "sprigg-upright")
    key = seen(served, gale_master, "sprigg-upright")
    with served.http.stream("GET", "/events") as stream:
        lines = stream.iter_lines()
        assert next(line for line in lines if line.startswith("event")) == "event: hello"
        assert next(lines) == "data: {}"
        job = served.http.post(f"{path}/pack", json=key).json()
        # Other jobs of this service are told of as well.
        next(line for line in lines if line.startswith("data: {") and json.loads(line[6:])["id"] == job["id"])
        queue = {"kind": "queue", "id": gale_master["id"]}
        next(line for line in lines if line.startswith("data: [") and queue in json.loads(line[6:]))
        served.http.post(f"/jobs/{job['id']}/cancel")
        served.ended(job)
        served.http.put(f"{path}/choices", json={"effort": "quick"})
        told = []
        for line in lines:
            if line.startswith("data: ["):
                told += json.loads(line[6:])
            if {"kind": "parcel", "id": path.rsplit("/", 1)[1]} in told:
                break
        assert {"kind": "lanes", "id": gale_master["id"]} in told
    served.http.put(f"{path}/choices", json={})


def test_the_page_answers_at_every_address_of_its_own(served: Served) -> None:
    import httpx

    for path in ("/", "/masters/abc", "/dispatch"):
        page = httpx.get(f"{served.url}{path}", headers=served.let_in)
        assert page.status_code == 200
        assert '<div id="app">' in page.text
