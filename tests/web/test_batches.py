"""Many videos together, through a real server: previewed, changed, undone, packed, tried again and removed."""

from __future__ import annotations

import csv
import io
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from hardy_parcel.store import jobs
from hardy_parcel.store.database import Database

from .. import films
from ..service import Served
from .test_api import problem

LANES = ["orrery-wide", "sprigg-upright"]


def with_blank_tail():
    """A second and a half of shimmer, then a second and a half of black."""
    yield from films.shimmer(192, 108, 38)
    black, chroma = np.full((108, 192), 16, np.uint8), np.full((54, 96), 128, np.uint8)
    for _ in range(37):
        yield black, chroma, chroma


@pytest.fixture(scope="module")
def videos(served: Served) -> list[dict]:
    """Two wide ones, an upright one, and one that ends black; all checked through."""
    inbox = served.places.inbox
    films.film(inbox / "Ferry one.mp4", width=192, height=108, seconds=1)
    films.film(inbox / "Ferry two.mp4", width=192, height=108, seconds=1, rate=30)
    films.film(inbox / "Lamp.mp4", width=108, height=192, seconds=1)
    films.film(inbox / "Tide.mp4", width=192, height=108, seconds=3, sound=None, pictures=with_blank_tail())
    names = ["Ferry one.mp4", "Ferry two.mp4", "Lamp.mp4", "Tide.mp4"]
    masters = [served.master(name) for name in names]
    for master in masters:
        served.until(f"/masters/{master['id']}", lambda view: view["picture_checked"], "the checks")
        served.show_only(master, ["fernpost-reel"])
    return masters


def ids(videos: list[dict]) -> list[str]:
    return [video["id"] for video in videos]


def shown(served: Served, master: dict) -> list[str]:
    return [view["summary"]["destination"]["id"] for view in served.lanes(master)]


@pytest.fixture
def recipe(served: Served, videos: list[dict]):
    """A recipe for two destinations, made on the first video, whose lanes are then as before."""
    served.show_only(videos[0], LANES, {"orrery-wide": {"effort": "quick"}})
    view = (
        served.http.post("/recipes", json={"name": "Ferry weekly", "master_id": videos[0]["id"]})
        .raise_for_status()
        .json()
    )
    served.show_only(videos[0], ["fernpost-reel"])
    yield view["recipe"]["id"]
    served.http.delete(f"/recipes/{view['recipe']['id']}").raise_for_status()


def test_a_recipe_is_previewed_on_every_video_and_nothing_is_kept(
    served: Served, videos: list[dict], recipe: str
) -> None:
    table = (
        served.http.post("/batches/preview", json={"masters": ids(videos), "recipe_id": recipe})
        .raise_for_status()
        .json()
    )
    assert {row["master_id"] for row in table["rows"]} == set(ids(videos))
    for row in table["rows"]:
        assert [cell["destination_id"] for cell in row["cells"]] == LANES
        for cell in row["cells"]:
            assert cell["size_bytes"] > 0
            assert cell["encode_s"] > 0
            assert cell["plan_key"]
            assert cell["condition"] is None, "nothing was tested"
    assert table["parcels"] == sum(
        not any(concern["level"] == "held" for concern in cell["concerns"])
        for row in table["rows"]
        for cell in row["cells"]
    )
    shape = next(item for item in table["shared"] if item["code"] == "wrong_shape")
    assert len(shape["master_ids"]) == 4, "three wide ones for the upright lane, the upright one for the wide lane"
    assert shape["asks_framing"]
    blank = next(item for item in table["shared"] if item["code"] == "blank_tail")
    assert (blank["master_ids"], blank["fixable"]) == ([videos[3]["id"]], True)
    assert all(shown(served, video) == ["fernpost-reel"] for video in videos)


def test_a_recipe_is_applied_to_all_and_one_undo_restores_all(served: Served, videos: list[dict], recipe: str) -> None:
    applied = (
        served.http.post("/batches/apply", json={"masters": ids(videos), "recipe_id": recipe}).raise_for_status().json()
    )
    assert applied["refused"] == []
    assert all(shown(served, video) == LANES for video in videos)
    assert served.lanes(videos[1])[0]["summary"]["choices"]["effort"] == "quick"
    served.http.post("/batches/undo", json={"before": applied["before"]}).raise_for_status()
    assert all(shown(served, video) == ["fernpost-reel"] for video in videos)


def test_undoing_leaves_a_video_that_was_changed_since(served: Served, videos: list[dict]) -> None:
    applied = (
        served.http.post("/batches/apply", json={"masters": ids(videos[:2]), "destinations": LANES})
        .raise_for_status()
        .json()
    )
    served.http.patch(f"{served.parcel_path(videos[0])}/choices", json={"effort": "careful"}).raise_for_status()
    undone = served.http.post("/batches/undo", json={"before": applied["before"]}).raise_for_status().json()
    assert [refusal["master_id"] for refusal in undone["refused"]] == [videos[0]["id"]]
    assert shown(served, videos[0]) == LANES
    assert shown(served, videos[1]) == ["fernpost-reel"]
    served.show_only(videos[0], ["fernpost-reel"])


def test_what_asks_no_answer_is_fixed_for_all_and_undone_for_all(served: Served, videos: list[dict]) -> None:
    fixed = served.http.post("/batches/fix", json={"masters": ids(videos)}).raise_for_status().json()
    assert [state["master_id"] for state in fixed["before"]] == [videos[3]["id"]]
    cut = served.http.get(f"/masters/{videos[3]['id']}").json()["excerpt"]
    assert float(Fraction(cut["out_s"])) == pytest.approx(1.52, abs=0.1)
    served.http.post("/batches/undo", json={"before": fixed["before"]}).raise_for_status()
    assert served.http.get(f"/masters/{videos[3]['id']}").json()["excerpt"] is None


def test_lanes_and_a_cut_are_undone_together_from_the_earliest_state(served: Served, videos: list[dict]) -> None:
    tide = videos[3]["id"]
    applied = (
        served.http.post("/batches/apply", json={"masters": [tide], "destinations": LANES}).raise_for_status().json()
    )
    fixed = served.http.post("/batches/fix", json={"masters": [tide], "remedies": ["trim"]}).raise_for_status().json()
    assert served.lanes(videos[3])[0]["summary"]["parcel"]["excerpt"] is not None, "lanes follow the cut"
    stale = served.http.post("/batches/undo", json={"before": applied["before"]}).raise_for_status().json()
    assert [refusal["master_id"] for refusal in stale["refused"]] == [tide], "the cut has changed the lanes since"
    together = applied["before"][0] | {key: fixed["before"][0][key] for key in ("excerpt", "excerpt_changed")}
    together["parcels"]["seen"] = fixed["before"][0]["parcels"]["seen"]
    undone = served.http.post("/batches/undo", json={"before": [together]}).raise_for_status().json()
    assert undone["refused"] == []
    assert shown(served, videos[3]) == ["fernpost-reel"]
    assert served.http.get(f"/masters/{tide}").json()["excerpt"] is None


def test_a_shape_that_was_decided_is_no_concern_and_its_loss_is_named(served: Served, videos: list[dict]) -> None:
    request = {"masters": [videos[0]["id"]], "destinations": ["sprigg-upright"]}
    before = served.http.post("/batches/preview", json=request).raise_for_status().json()
    assert "wrong_shape" in {item["code"] for item in before["shared"]}
    assert "cut away" in " ".join(before["rows"][0]["cells"][0]["surprises"])
    fixed = (
        served.http.post("/batches/fix", json={"masters": request["masters"], "framing": "fit"})
        .raise_for_status()
        .json()
    )
    after = served.http.post("/batches/preview", json=request).raise_for_status().json()
    assert "wrong_shape" not in {item["code"] for item in after["shared"]}
    assert "bars" in " ".join(after["rows"][0]["cells"][0]["surprises"])
    served.http.post("/batches/undo", json={"before": fixed["before"]}).raise_for_status()


def test_how_frames_are_filled_is_said_for_all_at_once(served: Served, videos: list[dict]) -> None:
    request = {"masters": ids(videos[:3]), "framing": "blur"}
    fixed = served.http.post("/batches/fix", json=request).raise_for_status().json()
    facts = [served.http.get(f"/masters/{video['id']}").json()["facts"] for video in videos]
    assert [fact["mending"]["framing"] for fact in facts] == ["blur"] * 3 + [None]
    served.http.post("/batches/undo", json={"before": fixed["before"]}).raise_for_status()
    assert served.http.get(f"/masters/{videos[0]['id']}").json()["facts"]["mending"]["framing"] is None


def test_a_batch_is_packed_paused_resumed_and_told_as_one(served: Served, videos: list[dict]) -> None:
    packed = (
        served.http.post("/batches", json={"masters": ids(videos[:2]), "title": "Ferries"}).raise_for_status().json()
    )
    assert packed["refused"] == []
    batch = packed["batch"]["id"]
    assert packed["batch"]["progress"]["parcels"] == 2
    served.http.post(f"/batches/{batch}/pause").raise_for_status()
    served.http.post(f"/batches/{batch}/resume").raise_for_status()
    view = served.until(
        f"/batches/{batch}",
        lambda masters: masters if masters["progress"]["counts"]["done"] == 2 else None,
        "both files",
    )
    assert view["progress"]["share"] == 1
    assert view["progress"]["left_s"] is None
    sizes = [
        stored["receipt"]["size_bytes"]
        for stored in served.http.get("/receipts").json()
        if stored["job_id"] in view["receipts"]
    ]
    assert view["progress"]["bytes_done"] == view["progress"]["bytes_expected"] == sum(sizes)
    assert len(view["receipts"]) == 2
    assert served.http.get("/batches").json()[0]["title"] == "Ferries"
    _is_reported(served, batch, view["receipts"])
    again = served.http.post("/batches", json={"masters": ids(videos[:2])}).raise_for_status().json()
    assert (again["batch"], again["already"]) == (None, 2), "packed by exactly these plans"
    receipt = next(
        kept["receipt"] for kept in served.http.get("/receipts").json() if kept["job_id"] == view["receipts"][0]
    )
    (Path(receipt["folder"]) / receipt["file_name"]).unlink()
    anew = served.http.post("/batches", json={"masters": ids(videos[:2])}).raise_for_status().json()
    assert anew["batch"]["progress"]["parcels"] == 1, "a file that is gone is packed again"
    served.http.post(f"/batches/{anew['batch']['id']}/stop").raise_for_status()


def _is_reported(served: Served, batch: str, jobs_with_receipts: list[str]) -> None:
    """The report names every file with its checksum, in each of its forms."""
    receipts = [
        stored["receipt"] for stored in served.http.get("/receipts").json() if stored["job_id"] in jobs_with_receipts
    ]
    page = served.http.get(f"/batches/{batch}/report.html").raise_for_status()
    assert "script-src" not in page.headers["content-security-policy"]
    assert "default-src 'none'" in page.headers["content-security-policy"]
    rows = list(csv.DictReader(io.StringIO(served.http.get(f"/batches/{batch}/report.csv").text)))
    assert {row["sha256"] for row in rows} == {receipt["sha256"] for receipt in receipts}
    assert {row["state"] for row in rows} == {"done"}
    assert len(served.http.get(f"/batches/{batch}/report.json").json()["rows"]) == 2
    sums = served.http.get(f"/batches/{batch}/SHA256SUMS").text
    for receipt in receipts:
        assert receipt["file_name"] in page.text
        assert f"{receipt['sha256']}  {receipt['file_name']}\n" in sums


def test_what_failed_is_tried_again_and_counts_once(served: Served, videos: list[dict]) -> None:
    packed = served.http.post("/batches", json={"masters": [videos[2]["id"]]}).raise_for_status().json()
    batch = packed["batch"]["id"]
    served.until(
        f"/batches/{batch}",
        lambda view: not view["progress"]["counts"]["waiting"] and not view["progress"]["counts"]["running"],
        "the file",
    )
    database = Database(served.places.database)
    with database.writing() as connection:
        connection.execute("UPDATE jobs SET state = 'failed' WHERE batch_id = ?", (batch,))
    assert len(served.http.get(f"/batches/{batch}").json()["progress"]["failures"]) == 1
    view = served.http.post(f"/batches/{batch}/again").raise_for_status().json()
    assert view["progress"]["failures"] == []
    assert view["progress"]["parcels"] == 1
    stopped = served.http.post(f"/batches/{batch}/stop").raise_for_status().json()
    assert stopped["progress"]["parcels"] == 1
    for job in jobs.recent(database):
        if job.batch_id == batch:
            served.ended(job.model_dump())


def test_videos_are_tested_together_where_testing_is_on(served: Served, videos: list[dict]) -> None:
    assert served.http.post("/batches/test", json={"masters": ids(videos)}).raise_for_status().json()["tests"] == 0, (
        "testing is off"
    )


def test_bad_wishes_get_a_sentence(served: Served, videos: list[dict]) -> None:
    problem(served.http.post("/batches/apply", json={"masters": ids(videos)}), 422, "bad_choice")
    problem(served.http.post("/batches/preview", json={"masters": ["nobody"]}), 404, "not_found")
    problem(
        served.http.post("/batches/apply", json={"masters": ids(videos), "destinations": ["nowhere"]}), 404, "not_found"
    )
    problem(served.http.get("/batches/nobody"), 404, "not_found")
    assert served.http.post("/batches/preview", json={"masters": []}).status_code == 422


def test_videos_are_removed_together(served: Served, videos: list[dict]) -> None:
    removed = served.http.post("/batches/remove", json={"masters": ids(videos[2:])}).raise_for_status().json()
    assert removed == {"removed": 2, "files_deleted": 0}
    left = {master["id"] for master in served.http.get("/masters").json()["masters"]}
    assert left.isdisjoint(ids(videos[2:]))
    assert set(ids(videos[:2])) <= left
