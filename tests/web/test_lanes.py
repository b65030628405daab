"""The lanes of a master by the API: rows, what they are compared with, and what was packed."""

from __future__ import annotations

import threading
import time
from typing import Any

import pytest

from hardy_parcel.core.parcel.recommending import Aim
from hardy_parcel.core.progress import JobProgress
from hardy_parcel.planned import lanes_now, sharing
from hardy_parcel.store import jobs, settings
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.web import lane_routes

from ..service import Served


def rows(served: Served, master: dict, **query) -> list[dict]:
    result = served.http.get(f"/masters/{master['id']}/lanes", params=query).raise_for_status().json()
    return [view for view in result["lanes"] if not view["lane"]["beside"]]


def test_siblings_tell_how_they_differ_and_any_lane_may_be_the_one_that_is_compared_with(
    served: Served, gale_master: dict
) -> None:
    served.as_new(gale_master)
    path = served.parcel_path(gale_master)
    created = served.http.post(f"{path}/siblings", json={"part": {"codec": "hevc"}}).json()["summary"]["parcel"]["id"]
    first, second, *others = rows(served, gale_master)
    assert second["lane"]["parcel"]["id"] == created
    assert second["lane"]["difference"] == "HEVC"
    assert second["apart"]["of_id"] == first["lane"]["parcel"]["id"]
    assert second["apart"]["size_bytes"] < 0
    assert [item["apart"] for item in (first, *others)] == [None] * (1 + len(others))
    against = rows(served, gale_master, against=created)
    assert against[1]["apart"] is None
    assert {item["apart"]["of_id"] for item in against if item["apart"]} == {created}
    assert sum(1 for item in against if item["apart"]) == len(against) - 1
    assert not [seen for item in against if item["apart"] for seen in item["apart"]["seen"]], (
        "what was not tested tells no lanes apart"
    )
    for item in against:
        assert item["lane"]["recommended"] is None
        assert all(seen["at"] is None and len(seen["likely"]) == 2 for seen in item["lane"]["seen"]), (
            "a range and no figure"
        )
    assert rows(served, gale_master, against="nobody")[0]["apart"] is None
    served.as_new(gale_master)


def test_a_lane_tells_that_it_was_packed_and_whether_that_was_the_plan_of_now(
    served: Served, gale_master: dict
) -> None:
    served.show_only(gale_master, ["orrery-wide"], {"orrery-wide": {"effort": "quick", "short_side_px": 90}})
    [before] = rows(served, gale_master)
    assert before["packed"] is None
    job = (
        served.http.post(
            f"{served.parcel_path(gale_master)}/pack",
            json={"plan_key": before["lane"]["plan_key"], "file_name": None},
        )
        .raise_for_status()
        .json()
    )
    assert served.ended(job)["state"] == "done"
    [after] = rows(served, gale_master)
    assert (after["packed"]["job_id"], after["packed"]["as_now"]) == (job["id"], True)
    served.http.patch(
        f"{served.parcel_path(gale_master)}/choices", json={"video_bitrate_bps": 400_000}
    ).raise_for_status()
    assert rows(served, gale_master)[0]["packed"]["as_now"] is False
    served.as_new(gale_master)


def test_a_report_is_a_page_a_table_and_json(served: Served, gale_master: dict) -> None:
    served.as_new(gale_master)
    path = f"/masters/{gale_master['id']}/report"
    page = served.http.get(f"{path}.html").raise_for_status()
    assert page.headers["content-type"].startswith("text/html")
    assert "Gale.mp4" in page.text
    assert "style-src 'sha256-" in page.headers["content-security-policy"]
    assert len(page.headers.get_list("content-security-policy")) == 1
    assert "data:image/jpeg;base64," in page.text, "a picture of the strip"
    table = served.http.get(f"{path}.csv").raise_for_status()
    assert "attachment" in table.headers["content-disposition"]
    lanes = served.http.get(f"/masters/{gale_master['id']}/lanes").json()["lanes"]
    assert len(table.text.splitlines()) == 1 + 6 * len(lanes)
    words = served.http.get(f"{path}.json").raise_for_status().json()
    assert [item["lane"]["parcel"]["id"] for item in words["lanes"]] == [view["lane"]["parcel"]["id"] for view in lanes]
    assert served.http.get("/masters/nobody/report.html").status_code == 404


def test_a_removed_lane_can_be_brought_back(served: Served, gale_master: dict) -> None:
    served.show_only(gale_master, ["orrery-wide", "sprigg-upright"], {"sprigg-upright": {"effort": "quick"}})
    path = f"/masters/{gale_master['id']}"
    sibling = served.http.post(f"{served.parcel_path(gale_master)}/siblings", json={"part": {"codec": "hevc"}}).json()[
        "summary"
    ]["parcel"]
    for gone in (served.parcel_path(gale_master, "sprigg-upright"), f"/parcels/{sibling['id']}"):
        before = served.http.get(f"{path}/parcels-state").raise_for_status().json()
        was = [(item["lane"]["parcel"]["id"], item["lane"]["plan_key"]) for item in rows(served, gale_master)]
        left = served.http.delete(gone).raise_for_status().json()
        assert len(rows(served, gale_master)) == len(was) - 1
        before["seen"] = {item["id"]: item["revision"] for item in left}
        served.http.put(f"{path}/parcels-state", json=before).raise_for_status()
        assert [(item["lane"]["parcel"]["id"], item["lane"]["plan_key"]) for item in rows(served, gale_master)] == was
    assert served.http.get("/masters/nobody/parcels-state").status_code == 404
    served.as_new(gale_master)


@pytest.fixture
def taken_for_tested(monkeypatch: pytest.MonkeyPatch) -> None:
    """What is supposed of a lane counts as tested, which would take a minute."""
    monkeypatch.setattr(sharing, "figure", lambda at: at)


def test_the_fewest_files_are_found_taken_packed_once_and_put_back(
    served: Served, gale_master: dict, taken_for_tested: None
) -> None:
    # a size of its own, which no other test has tried
    quick = {"effort": "quick", "short_side_px": 94, "method": "encoded"}
    served.show_only(
        gale_master, ["orrery-wide", "fernpost-reel", "sprigg-upright"], {"orrery-wide": quick, "fernpost-reel": quick}
    )
    path = f"/masters/{gale_master['id']}"
    result = served.http.get(f"{path}/fewest").raise_for_status().json()
    assert sum(len(file["serves"]) for file in result["files"]) == 3
    shared = next(file for file in result["files"] if len(file["serves"]) > 1)
    assert {item["name"] for item in shared["serves"]} == {"Orrery wide film", "Fernpost showreel"}
    single = next(file for file in result["files"] if len(file["serves"]) == 1)
    assert "its shape is not one that Sprigg takes" in single["sentence"]
    before = served.http.post(f"{path}/fewest").raise_for_status().json()["before"]
    views = rows(served, gale_master)
    source = next(item for item in views if item["lane"]["parcel"]["id"] == shared["parcel_id"])
    other = next(item for item in views if item["served_by"])
    assert other["served_by"] == f"{source['lane']['sheet_name']} {source['lane']['placement_name']}"
    assert other["lane"]["plan_key"] == source["lane"]["plan_key"]
    assert (other["lane"]["guidance_words"], bool(source["lane"]["guidance_words"])) == ("", True), (
        "it is planned by the other's guidance"
    )
    again = served.http.get(f"{path}/fewest").json()["files"]
    weighed, before_sharing = (
        [(file["parcel_id"], file["words"], file["serves"]) for file in item] for item in (again, result["files"])
    )
    assert weighed == before_sharing, "weighed as if every lane had its own"

    refused = served.http.post(f"/parcels/{other['lane']['parcel']['id']}/rehearse", json={})
    assert (refused.status_code, refused.json()["code"]) == (422, "shared_file")
    asked = {"plan_key": other["lane"]["plan_key"], "file_name": None}
    job = served.http.post(f"/parcels/{other['lane']['parcel']['id']}/pack", json=asked).raise_for_status().json()
    assert job["parcel_id"] == shared["parcel_id"]
    assert served.ended(job)["state"] == "done"
    receipt = next(item for item in served.http.get("/receipts").json() if item["job_id"] == job["id"])["receipt"]
    assert sorted(receipt["serves"]) == ["Fernpost · showreel", "Orrery · wide film"]
    assert {item["packed"]["job_id"] for item in rows(served, gale_master) if item["packed"]} == {job["id"]}
    assert sum(1 for item in rows(served, gale_master) if item["packed"]) == 2

    together = served.http.post(
        f"{path}/together", json={"part": {"effort": "quick"}, "times_guidance": None, "parcels": None}
    )
    assert together.raise_for_status().json()["refused"] == []
    assert not any(item["served_by"] for item in rows(served, gale_master)), "what is changed has a file of its own"
    served.http.put(f"{path}/parcels-state", json=together.json()["before"]).raise_for_status()
    assert any(item["served_by"] for item in rows(served, gale_master))
    changed = served.http.patch(
        f"/parcels/{other['lane']['parcel']['id']}/choices", json={"effort": "medium"}
    ).raise_for_status()
    assert changed.json()["summary"]["parcel"]["served_by"] is None, "a choice of its own is a file of its own"
    served.http.put(f"{path}/parcels-state", json={"parcels": before["parcels"]}).raise_for_status()
    assert not any(item["served_by"] for item in rows(served, gale_master))
    served.as_new(gale_master)


def test_a_sibling_is_another_way_to_serve_its_first_and_needs_no_file_beside_it(
    served: Served, gale_master: dict, taken_for_tested: None
) -> None:
    served.show_only(gale_master, ["orrery-wide", "sprigg-upright"])
    served.http.post(f"{served.parcel_path(gale_master)}/siblings", json={"part": {"codec": "hevc"}}).raise_for_status()
    result = served.http.get(f"/masters/{gale_master['id']}/fewest").raise_for_status().json()
    assert result["now_files"] == 2
    assert sorted(item["name"] for file in result["files"] for item in file["serves"]) == [
        "Orrery wide film",
        "Sprigg upright short",
    ]
    served.as_new(gale_master)


def test_where_nothing_can_be_shared_that_is_said(served: Served, gale_master: dict, taken_for_tested: None) -> None:
    served.show_only(gale_master, ["orrery-wide", "sprigg-upright"])
    path = f"/masters/{gale_master['id']}/fewest"
    assert served.http.get(path).json()["sentence"] == "Every one of the 2 lanes needs a file of its own."
    refused = served.http.post(path)
    assert (refused.status_code, refused.json()["code"]) == (422, "nothing_to_share")
    served.as_new(gale_master)


def test_lanes_are_told_again_until_something_changes(
    served: Served, gale_master: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    path = f"/masters/{gale_master['id']}/lanes"
    first = served.http.get(path).json()
    created = []
    put_together = lane_routes.view_of_lanes
    monkeypatch.setattr(lane_routes, "view_of_lanes", lambda *given: created.append(given) or put_together(*given))
    assert served.http.get(path).json() == first
    assert created == [], "it was told already"
    name = served.parcel_path(gale_master)
    served.http.patch(name, json={"name": "another"}).raise_for_status()
    again = served.http.get(path).json()
    assert again["lanes"][0]["lane"]["parcel"]["name"] == "another"
    served.http.patch(name, json={"name": ""}).raise_for_status()
    assert served.http.get(path).json()["lanes"][0]["lane"]["parcel"]["name"] == ""
    assert len(created) >= 2


def test_lanes_are_all_of_one_state_whatever_is_stored_meanwhile(
    served: Served, gale_master: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    served.show_only(gale_master, ["orrery-wide"])
    database, advised_for = Database(served.places.database), []
    settings.set_aim(database, "orrery-wide", Aim.SAFE)
    put_together = lanes_now.lane_now

    def while_another_writes(*given: Any, **more: Any) -> Any:
        other = threading.Thread(target=settings.set_aim, args=(database, "orrery-wide", Aim.BEST))
        other.start()
        other.join()
        return put_together(*given, **more)

    with monkeypatch.context() as patch:
        patch.setattr(lanes_now, "lane_now", while_another_writes)
        patch.setattr(
            lanes_now, "recommended", lambda database, current, every, aims: advised_for.append(aims["orrery-wide"])
        )
        [row] = rows(served, gale_master)
    assert [row["aim"], *advised_for] == ["safe", "safe"]
    assert [row["aim"] for row in rows(served, gale_master)] == ["best quality"]
    settings.set_aim(database, "orrery-wide", Aim.SAFE)
    served.as_new(gale_master)


def test_what_is_told_again_says_how_far_the_work_is_by_now(
    served: Served, gale_master: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    served.show_only(gale_master, ["orrery-wide"])
    database, parcel_id = Database(served.places.database), served.parcel_path(gale_master).rsplit("/", 1)[1]
    job = jobs.add(
        database,
        JobKind.PACK,
        title="Waits for its hour",
        task=JobProgress(),
        master_id=gale_master["id"],
        parcel_id=parcel_id,
        not_before=time.time() + 3600,
    )
    try:
        [row] = rows(served, gale_master)
        assert (row["packing"]["id"], row["packing"]["progress"]) == (job.id, None)
        monkeypatch.setattr(
            lane_routes, "view_of_lanes", lambda *given: pytest.fail("nothing that is shown has changed")
        )
        with database.writing() as connection:  # as a job says how far it is, which changes nothing else
            connection.execute(
                "UPDATE jobs SET progress = ? WHERE id = ?", (JobProgress(share=0.75).model_dump_json(), job.id)
            )
        [again] = rows(served, gale_master)
        assert again["packing"]["progress"]["share"] == 0.75
    finally:
        jobs.ask_cancel(database, job.id)
        served.as_new(gale_master)
