"""One master through a real server: checks, remedies, excerpts, single pictures, and leaving the shelf."""

from __future__ import annotations

import base64
import io
import shutil
from pathlib import Path

import pytest
from benchmarks.detector_clips import every_clip
from PIL import Image

from .. import films
from ..service import Served
from .test_api import problem

CLIPS = {clip.name: clip for clip in every_clip()}


def checked(served: Served, name: str) -> dict:
    """A master once picture and sound are measured."""
    served.master(name)

    def through(shelf) -> dict | None:
        found = next(m for m in shelf["masters"] if m["name"] == name)
        sound = found["sound_checked"] or found["facts"]["audio"] is None
        return found if found["picture_checked"] and sound else None

    return served.until("/masters", through, f"the checks of {name}")


@pytest.fixture(scope="module")
def tail(served: Served) -> dict:
    CLIPS["blank_tail-yes-00"].make(served.places.inbox / "Tail.mp4")
    return checked(served, "Tail.mp4")


@pytest.fixture(scope="module")
def reel(served: Served) -> dict:
    CLIPS["interlaced-yes-00"].make(served.places.inbox / "Reel.mp4")
    return checked(served, "Reel.mp4")


def stamp(master: dict, code: str) -> dict:
    return next(s for s in master["stamps"] if s["code"] == code)


def test_a_blank_tail_is_trimmed_in_one_click_and_taken_back(served: Served, tail: dict) -> None:
    found = stamp(tail, "blank_tail")
    assert (found["outcome"], found["remedy"], found["done"]) == ("handle with care", "trim", False)
    path = f"/masters/{tail['id']}"
    trimmed = served.http.put(f"{path}/remedies", json={"remedy": "trim"}).json()
    assert trimmed["excerpt"] == found["excerpt"]
    assert stamp(trimmed, "blank_tail")["outcome"] == "cleared"
    plan = served.http.get(served.parcel_path(tail)).json()["summary"]["plan"]
    assert plan["excerpt"] == found["excerpt"]
    back = served.http.put(f"{path}/remedies", json={"remedy": "trim", "on": False}).json()
    assert back["excerpt"] is None
    detail = problem(served.http.put(f"{path}/remedies", json={"remedy": "remove_bars"}), 422, "bad_choice")
    assert "Nothing was found" in detail


def test_deinterlacing_reaches_the_plan(served: Served, reel: dict) -> None:
    assert "top field first" in stamp(reel, "interlaced")["seen"]
    served.http.put(f"/masters/{reel['id']}/remedies", json={"remedy": "deinterlace"})
    parcel = served.http.get(served.parcel_path(reel)).json()["summary"]
    assert parcel["plan"]["video"]["deinterlace"]["value"] == "deinterlaced, top field first"
    assert any(row["setting"] == "Scan" for row in parcel["slip"])


def test_what_is_told_of_a_master(served: Served, tail: dict) -> None:
    told = served.http.get(f"/masters/{tail['id']}/checks").json()
    assert told["sentence"].startswith("Handle with care: blank tail")
    assert {row["name"] for row in told["facts"]} >= {"File", "Picture", "Frame rate", "Scan", "Loudness"}
    assert told["pictures_seen"] == told["pictures_in_film"] == told["last_picture"] + 1
    assert len(told["envelope_lufs"]) > 10
    assert told["difficulty"][0]["spatial"] > 0
    assert told["jobs"] == []
    assert served.http.post(f"/masters/{tail['id']}/checks").status_code == 202


def test_several_excerpts_each_become_a_parcel(served: Served, gale_master: dict) -> None:
    path = f"/masters/{gale_master['id']}"
    first = served.http.post(f"{path}/excerpts", json={"excerpt": {"in_s": "0", "out_s": "1/2"}, "title": "The wave"})
    assert first.status_code == 201
    second = served.http.post(f"{path}/excerpts", json={"excerpt": {"in_s": "1", "out_s": "2"}})
    numbers = [first.json()["excerpt_number"], second.json()["excerpt_number"]]
    keys = []
    for number in (*numbers, None):
        chosen = served.http.put(f"{path}/chosen-excerpt", json={"number": number}).json()
        assert chosen["excerpt_number"] == number
        keys.append(served.http.get(served.parcel_path(gale_master)).json()["summary"]["plan"]["excerpt"])
    assert [key["out_s"] for key in keys] == ["1/2", "2", "2"]
    problem(served.http.put(f"{path}/chosen-excerpt", json={"number": 77}), 404, "not_found")
    problem(served.http.post(f"{path}/excerpts", json={"excerpt": {"in_s": "3", "out_s": "2"}}), 422, "bad_choice")
    for number in numbers:
        left = served.http.delete(f"{path}/excerpts/{number}").json()
    assert not {kept["number"] for kept in left["excerpts"]} & set(numbers)


def test_pictures_come_near_at_once_and_exact_after(served: Served, gale_master: dict) -> None:
    path = f"/masters/{gale_master['id']}/picture"
    near = served.http.get(path, params={"number": 70, "exact": False}).json()
    assert near["number"] <= 70
    for number in (70, 71, 69, 0):
        told = served.http.get(path, params={"number": number}).json()
        assert (told["number"], told["exact"]) == (number, True)
        assert told["at_s"] == pytest.approx(number / 50)
    assert told["timecode"] == "00:00:00:00"
    kind, data = told["picture"].split(",")
    assert kind == "data:image/jpeg;base64"
    assert Image.open(io.BytesIO(base64.b64decode(data))).size == (320, 180)
    problem(served.http.get(path, params={"number": -1}), 422, "bad_input")


def test_the_film_is_served_in_parts(served: Served, gale_master: dict, gale: Path) -> None:
    part = served.http.get(f"/masters/{gale_master['id']}/film", headers={"range": "bytes=100-199"})
    assert part.status_code == 206
    assert part.content == gale.read_bytes()[100:200]
    assert part.headers["content-type"] == "video/mp4"


def test_leaving_the_shelf_never_deletes_a_file_that_was_not_uploaded(served: Served, gale: Path) -> None:
    path = served.places.inbox / "Leaving.mp4"
    shutil.copy(gale, path)
    master = served.master("Leaving.mp4")
    assert served.http.delete(f"/masters/{master['id']}").json() == {"file_deleted": False}
    assert path.exists()
    problem(served.http.get(f"/masters/{master['id']}"), 404, "not_found")
    assert "Leaving.mp4" not in {m["name"] for m in served.http.get("/masters").json()["masters"]}
    again = served.http.post("/masters", json={"path": str(path)}).json()
    assert again["id"] == master["id"]
    served.master("Leaving.mp4")
    served.http.delete(f"/masters/{master['id']}")
    path.unlink()


def test_a_stepper_that_was_killed_is_opened_again(served: Served, tmp_path: Path) -> None:
    films.film(served.places.inbox / "Killed.mp4", seconds=1, sound=None)
    master = served.master("Killed.mp4")
    path = f"/masters/{master['id']}/picture"
    assert served.http.get(path).status_code == 200
    served.context.steppers.open[master["id"]].child.kill()
    answers = [served.http.get(path, params={"number": 3}) for _ in range(3)]
    assert answers[-1].json()["number"] == 3


def test_an_untagged_master_is_shown_and_read_in_each_way(served: Served) -> None:
    CLIPS["untagged_colour-yes-00"].make(served.places.inbox / "Untagged.mp4")
    master = checked(served, "Untagged.mp4")
    path, found = f"/masters/{master['id']}", stamp(master, "untagged_colour")
    assert (found["remedy"], found["done"]) == ("read_colour", False)
    assert found["readings"] == ["601 limited", "601 full", "709 limited", "709 full"]

    def picture(**params: str) -> str:
        return served.http.get(f"{path}/picture", params={"number": 3, **params}).json()["picture"]

    shown = {reading: picture(reading=reading) for reading in found["readings"]}
    assert len(set(shown.values())) == 4, "each looks otherwise"
    read = served.http.put(f"{path}/remedies", json={"remedy": "read_colour", "reading": "601 full"}).json()
    assert stamp(read, "untagged_colour")["remedy_words"] == "read as BT.601, full range"
    assert picture() == shown["601 full"], "and so it is seen from then on"

    def strip() -> bytes:
        there = served.until(path, lambda one: one if len(one["strip"]) == 24 else None, "the strip is made")
        return served.http.get(f"{path}/strip/3.jpg", params={"of": there["strip_key"]}).content

    in_another_light = strip()
    plan = served.http.get(served.parcel_path(read)).json()["summary"]["plan"]
    assert plan["video"]["colour"]["because"]["sentence"].startswith("your reading, BT.601, full range")
    back = served.http.put(f"{path}/remedies", json={"remedy": "read_colour", "on": False}).json()
    assert not stamp(back, "untagged_colour")["done"]
    assert back["strip_key"] != read["strip_key"]
    assert strip() != in_another_light, "the strip is made anew too"
