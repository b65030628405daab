"""Receipts over the API: saved, summed up, removed; what came back, and couriers."""

from __future__ import annotations

import io
import subprocess
from collections.abc import Iterator
from pathlib import Path

import pytest
from PIL import Image

from .. import films
from ..service import Served
from .test_api import problem


@pytest.fixture(scope="module")
def packed(served: Served) -> dict:
    """The receipt of a file that was packed."""
    films.film(served.places.inbox / "Swell.mp4", width=192, height=108, seconds=1)
    master = served.master("Swell.mp4")
    path = served.parcel_path(master, "fernpost-reel")
    view = served.http.get(path).json()
    job = served.ended(served.http.post(f"{path}/pack", json={"plan_key": view["summary"]["plan_key"]}).json())
    assert job["state"] == "done", job
    return next(one for one in served.http.get("/receipts").json() if one["job_id"] == job["id"])


def file_of(kept: dict) -> Path:
    return Path(kept["receipt"]["folder"]) / kept["receipt"]["file_name"]


def test_a_receipt_is_saved_as_text_and_as_json(served: Served, packed: dict) -> None:
    text = served.http.get(f"/receipts/{packed['job_id']}/slip.txt")
    assert packed["receipt"]["sha256"] in text.text
    assert "Swell.mp4" in text.text
    assert "attachment" in text.headers["content-disposition"]
    saved = served.http.get(f"/receipts/{packed['job_id']}/slip.json").json()
    assert saved == packed["receipt"]
    problem(served.http.get("/receipts/nothing/slip.txt"), 404, "not_found")


def test_the_list_of_checksums_is_what_the_standard_tool_takes(served: Served, packed: dict) -> None:
    folder = packed["receipt"]["folder"]
    written = served.http.post("/receipts/sums", json={"folder": folder})
    assert written.status_code == 201, written.text
    assert written.json()["files"] >= 1
    checked = subprocess.run(["sha256sum", "-c", "SHA256SUMS"], cwd=folder, capture_output=True, text=True)
    assert checked.returncode == 0, checked.stdout + checked.stderr
    assert f"{packed['receipt']['file_name']}: OK" in checked.stdout
    problem(served.http.post("/receipts/sums", json={"folder": "/etc"}), 422, "folder_unusable")
    problem(served.http.post("/receipts/sums", json={"folder": str(served.places.inbox)}), 422, "folder_unusable")
    problem(served.http.post("/receipts/sums", json={"folder": str(served.places.data)}), 422, "folder_unusable")
    (empty := served.places.data / "empty").mkdir(exist_ok=True)
    problem(served.http.post("/receipts/sums", json={"folder": str(empty)}), 422, "nothing_packed")


def test_a_receipt_tells_how_the_file_looks_with_its_poorest_picture(served: Served, packed: dict) -> None:
    told = packed["receipt"]
    assert told["judged"]["screen"] == "laptop"
    assert 60 < told["judged"]["condition"] <= 100
    assert (told["judged_pictures"] >= 4, told["stills"]) == (True, None)
    sizes = []
    for which in ("before", "after"):
        answer = served.http.get(f"/receipts/{packed['job_id']}/{which}.jpg")
        sizes.append(Image.open(io.BytesIO(answer.content)).size)
    assert sizes == [(192, 108), (192, 108)]
    assert "/stills" not in served.http.get("/receipts").text


def test_a_file_is_shown_where_a_desktop_does_it(served: Served, packed: dict, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setenv("DBUS_SESSION_BUS_ADDRESS", "unix:path=/nowhere")
    assert served.http.post(f"/receipts/{packed['job_id']}/show").json() == {"shown": False}


def test_what_comes_back_is_found_by_itself(served: Served, packed: dict) -> None:
    content = file_of(packed).read_bytes()
    found = served.http.post("/handoff?name=IMG%201.mp4", content=content).json()
    assert (found["outcome"], found["job_id"]) == ("same_bytes", packed["job_id"])
    assert "bit for bit" in found["sentence"]
    problem(served.http.post("/handoff?name=letter.mp4", content=b"Dear keepers,"), 422, "unreadable_master")
    assert not list(served.places.cache.glob("hardy-parcel-*")), "nothing of it stays"


def test_couriers_say_what_they_do(served: Served, packed: dict) -> None:
    found = served.http.post(f"/receipts/{packed['job_id']}/carry", json={"courier": "lockbox"}).json()
    assert found["outcome"] == "same_bytes"
    problem(served.http.post(f"/receipts/{packed['job_id']}/carry", json={"courier": "pigeon"}), 422, "bad_input")


def test_the_file_is_played_and_a_receipt_that_is_removed_leaves_it(served: Served, packed: dict) -> None:
    path = file_of(packed)
    assert served.http.get(f"/receipts/{packed['job_id']}/file").content == path.read_bytes()
    left = served.http.delete(f"/receipts/{packed['job_id']}").json()
    assert packed["job_id"] not in {one["job_id"] for one in left}
    assert path.is_file()
    problem(served.http.delete(f"/receipts/{packed['job_id']}"), 404, "not_found")


@pytest.mark.parametrize("headers", [
    {"Host": "127.0.0.1:8640@elsewhere"}, {"Host": "127.0.0.1:8640:1"}, {"Host": "localhost.elsewhere"}, {"Origin": "http://["},
    {"Origin": "null"}, {"Origin": "http://127.0.0.1:1@elsewhere"},
])
def test_who_is_somebody_else_is_refused_whatever_it_looks_like(served: Served, headers: dict) -> None:
    problem(served.http.get("/receipts", headers=headers), 403, "refused")


@pytest.fixture
def settings(served: Served) -> Iterator[dict]:
    """What Line & machine keeps; put back afterwards."""
    view = served.http.get("/machine").json()
    kept = {name: view[name] for name in ("line", "cache_gb", "probing", "file_pattern", "folders")} | {"output_folder": None}
    yield kept
    served.http.put("/machine", json=kept)


def test_names_follow_the_pattern_and_folders_what_was_allowed(served: Served, settings: dict, tmp_path_factory) -> None:
    drive = tmp_path_factory.mktemp("drive")
    films.film(served.places.inbox / "Ebb.mp4", width=192, height=108, seconds=1)
    path = served.parcel_path(served.master("Ebb.mp4"), "fernpost-reel")
    changed = served.http.put("/machine", json=settings | {"file_pattern": "{number} {master} {size}"})
    assert changed.json()["example_name"] == "03 Gale over the skerry 1080p.mp4"
    view = served.http.get(path).json()
    assert view["final_name"].startswith("0")
    assert view["final_name"].endswith(" Ebb 108p.mp4")
    body = {"plan_key": view["summary"]["plan_key"], "folder": str(drive)}
    served.places.added.clear()
    outside = next(one for one in (Path("/opt"), Path("/srv"), Path("/mnt")) if one.is_dir())
    problem(served.http.post(f"{path}/pack", json=body | {"folder": str(outside)}), 422, "folder_unusable")
    assert served.http.put("/machine", json=settings | {"folders": [str(drive)]}).json()["folders"] == [str(drive)]
    job = served.ended(served.http.post(f"{path}/pack", json=body).json())
    assert job["state"] == "done", job
    assert (drive / job["file_name"]).is_file()
    for wrong in ("/etc", "/", "/home", "drive", "/nowhere/at/all", "/usr/share"):
        problem(served.http.put("/machine", json=settings | {"folders": [wrong]}), 422, "folder_unusable")
    assert served.http.get("/machine").json()["folders"] == [str(drive)], "what is refused changes nothing"
    problem(served.http.put("/machine", json=settings | {"file_pattern": "{film}"}), 422, "bad_pattern")
