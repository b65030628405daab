"""Parcels with ids of their own: siblings beside one another, other excerpts, removing, names, all packed together."""

from __future__ import annotations

import time

import pytest

from .. import films
from ..service import Served
from .test_api import problem


@pytest.fixture(scope="module")
def master(served: Served) -> dict:
    films.film(served.places.inbox / "Wave.mp4", width=192, height=108, seconds=2)
    return served.master("Wave.mp4")


@pytest.fixture
def first(served: Served, master: dict) -> str:
    """The one lane there is, without choices."""
    served.show_only(master, ["fernpost-reel"])
    return served.parcel_path(master, "fernpost-reel")


def sibling(served: Served, path: str, **asked) -> dict:
    answer = served.http.post(f"{path}/siblings", json=asked)
    assert answer.status_code == 201, answer.text
    return answer.json()["summary"]


def test_two_excerpts_two_shapes_and_two_codecs_stand_side_by_side_and_are_packed_together(
    served: Served, master: dict, first: str
) -> None:
    early, late = {"in_s": "0", "out_s": "1/2"}, {"in_s": "1", "out_s": "3/2"}
    served.http.patch(first, json={"excerpt": early, "move_excerpt": True}).raise_for_status()
    found = [
        sibling(served, first, excerpt=late), sibling(served, first, part={"framing": "fill", "shape": "1:1"}),
        sibling(served, first, part={"codec": "hevc"}),
    ]
    assert [one["difference"] for one in found] == ["0:01 to 0:01.5", "fill, cropped, 1:1", "HEVC"]
    lanes = served.lanes(master)
    assert [lane["summary"]["parcel"]["sibling_of"] for lane in lanes] == [None, *[first.rsplit("/", 1)[1]] * 3]
    assert [lane["summary"]["difference"] for lane in lanes] == ["", *(one["difference"] for one in found)]
    jobs = [
        served.http.post(f"/parcels/{lane['summary']['parcel']['id']}/pack", json={"plan_key": lane["summary"]["plan_key"]}).json()
        for lane in lanes
    ]
    ended = [served.ended(job) for job in jobs]
    assert [job["state"] for job in ended] == ["done"] * 4
    assert len({job["file_name"] for job in ended}) == 4
    kept = {one["parcel_id"]: one["receipt"] for one in served.http.get("/receipts").json() if one["master_id"] == master["id"]}
    for lane in lanes:
        receipt = kept[lane["summary"]["parcel"]["id"]]
        assert {row["match"] for row in receipt["rows"]} <= {"as planned", "explained"}
        assert receipt["file_name"] in {job["file_name"] for job in ended}


def test_a_sibling_stands_behind_the_siblings_that_are_there(served: Served, master: dict, first: str) -> None:
    served.http.put(f"/masters/{master['id']}/destinations", json={"destinations": ["fernpost-reel", "earshelf-audio"]})
    one = sibling(served, first)
    assert one["difference"] == ""
    other = sibling(served, f"/parcels/{one['parcel']['id']}", part={"effort": "careful"}, name="the careful one")
    assert other["parcel"]["sibling_of"] == first.rsplit("/", 1)[1]
    ids = [lane["summary"]["parcel"]["id"] for lane in served.lanes(master)]
    assert ids[:3] == [first.rsplit("/", 1)[1], one["parcel"]["id"], other["parcel"]["id"]]
    assert other["parcel"]["name"] == "the careful one"
    renamed = served.http.patch(f"/parcels/{other['parcel']['id']}", json={"name": " slow "}).json()["summary"]
    assert renamed["parcel"]["name"] == "slow"


def test_a_sibling_is_removed_for_good_and_a_first_lane_is_put_away(served: Served, master: dict, first: str) -> None:
    one = sibling(served, first, part={"codec": "hevc"})["parcel"]["id"]
    served.http.put(f"{first}/choices", json={"effort": "quick"})
    assert [left["id"] for left in served.http.delete(f"/parcels/{one}").json()] == [first.rsplit("/", 1)[1]]
    problem(served.http.get(f"/parcels/{one}"), 404, "not_found")
    problem(served.http.delete(first), 422, "last_lane")
    served.http.put(f"/masters/{master['id']}/destinations", json={"destinations": ["fernpost-reel", "earshelf-audio"]})
    assert [left["destination_id"] for left in served.http.delete(first).json()] == ["earshelf-audio"]
    served.http.put(f"/masters/{master['id']}/destinations", json={"destinations": ["fernpost-reel", "earshelf-audio"]})
    assert served.lanes(master)[0]["summary"]["choices"]["effort"] == "quick"


def test_a_parcel_of_its_own_excerpt_does_not_follow_the_masters(served: Served, master: dict, first: str) -> None:
    own = {"in_s": "0", "out_s": "1"}
    one = sibling(served, first, excerpt=own)["parcel"]["id"]
    path = f"/masters/{master['id']}/excerpt"
    served.http.put(path, json={"excerpt": {"in_s": "1", "out_s": "2"}}).raise_for_status()
    assert served.http.get(first).json()["summary"]["parcel"]["excerpt"] == {"in_s": "1", "out_s": "2"}
    view = served.http.get(f"/parcels/{one}").json()
    assert view["summary"]["parcel"]["excerpt"] == own
    assert [(named["name"], named["chosen"]) for named in view["excerpts"]][-1] == ("this parcel’s own", True)
    moved = served.http.patch(f"/parcels/{one}", json={"excerpt": None, "move_excerpt": True}).json()
    assert moved["summary"]["parcel"]["excerpt"] is None
    served.http.put(path, json={"excerpt": None}).raise_for_status()


@pytest.mark.parametrize(
    ("asked", "code"),
    [({"part": {"codec": "mp7"}}, "bad_setting"), ({"part": {"codec": "vp9"}}, "not_taken"),
     ({"excerpt": {"in_s": "1", "out_s": "90"}}, "bad_choice"), ({"name": "x" * 81}, "bad_input")],
)
def test_a_sibling_that_cannot_be_is_refused_and_nothing_is_added(served: Served, master: dict, first: str, asked: dict, code: str) -> None:
    problem(served.http.post(f"{first}/siblings", json=asked), 422, code)
    assert len(served.lanes(master)) == 1


def test_a_master_has_so_many_parcels_and_no_more(served: Served, master: dict, first: str) -> None:
    state = served.http.get(first).json()["summary"]["parcel"]
    many = [state | {"id": f"p{number}", "sibling_of": state["id"] if number else None, "place": number} for number in range(60)]
    served.http.put(f"/masters/{master['id']}/parcels-state", json={"parcels": many}).raise_for_status()
    assert "60 parcels" in problem(served.http.post("/parcels/p0/siblings", json={}), 422, "bad_choice")
    problem(served.http.put(f"/masters/{master['id']}/destinations", json={"destinations": ["fernpost-reel", "earshelf-audio"]}), 422,
            "bad_choice")


def test_other_ways_are_told_only_where_a_limit_ruins_the_picture(served: Served, first: str) -> None:
    assert served.http.get(f"{first}/cap-ways").json() == []
    served.http.put(f"{first}/choices", json={"max_bytes": 40_000}).raise_for_status()
    ways = served.http.get(f"{first}/cap-ways").json()
    assert "codec" in {way["kind"] for way in ways}
    served.http.put(f"{first}/choices", json={}).raise_for_status()


def test_the_queue_rests_is_put_in_order_begins_at_an_hour_and_is_taken_up_again(served: Served, master: dict, first: str) -> None:
    lanes = [first, *(f"/parcels/{sibling(served, first, name=name)['parcel']['id']}" for name in ("two", "three"))]

    def packed(path: str) -> dict:
        answer = served.http.post(f"{path}/pack", json={"plan_key": served.http.get(path).json()["summary"]["plan_key"]})
        assert answer.status_code == 202, answer.text
        return answer.json()

    begins = time.time() + 3600
    assert served.http.put("/dispatch", json={"start_at": begins, "after": "sleep"}).json() | {"kept_awake": None} == {
        "start_at": begins, "after": "sleep", "kept_awake": None,
    }
    jobs = [packed(path) for path in lanes]
    assert {job["not_before"] for job in jobs} == {begins}
    assert all(job["file_name"] and job["expected_s"] > 0 for job in jobs)
    order = [jobs[2]["id"], jobs[0]["id"], jobs[1]["id"]]
    waiting = [job["id"] for job in served.http.put("/dispatch/order", json={"jobs": order}).json() if job["id"] in order]
    assert waiting == order
    for job in jobs[:2]:
        assert served.http.post(f"/jobs/{job['id']}/pause").json()["paused"]
    served.http.put("/dispatch", json={"after": "nothing"})
    assert served.ended(jobs[2])["state"] == "done"
    assert served.http.get("/jobs").json()[0]["state"] == "waiting", "what rests is not begun"
    assert not served.http.post(f"/jobs/{jobs[0]['id']}/resume").json()["paused"]
    assert served.ended(jobs[0])["state"] == "done"
    served.http.post(f"/jobs/{jobs[1]['id']}/cancel")
    assert served.ended(jobs[1])["state"] == "cancelled"
    again = served.http.post(f"/jobs/{jobs[1]['id']}/again")
    assert again.status_code == 201
    assert served.ended(again.json())["state"] == "done"
    problem(served.http.post(f"/jobs/{again.json()['id']}/again"), 422, "not_failed")
    problem(served.http.post("/jobs/nothing/again"), 404, "not_found")
    problem(served.http.put("/dispatch", json={"start_at": -1}), 422, "bad_input")
    problem(served.http.put("/dispatch", json={"start_at": time.time() + 367 * 24 * 3600}), 422, "bad_input")
    served.http.put("/dispatch", json={"start_at": time.time() + 360 * 24 * 3600}).raise_for_status()
    served.http.put("/dispatch", json={"start_at": None}).raise_for_status()


def test_the_last_look_tells_what_changes_and_what_room_there_is(served: Served, gale_master: dict, tmp_path_factory) -> None:
    path = served.parcel_path(gale_master, "sprigg-upright")
    look = served.http.get(f"{path}/last-look").json()
    assert "Frame rate" in {row["matter"] for row in look["rows"] if row["changes"]}
    assert (look["room"]["enough"], look["room"]["awaited_bytes"]) == (True, 0)
    assert served.http.get(f"{path}/last-look", params={"folder": "/nowhere"}).json()["room"] is None


def test_several_parcels_are_named_before_they_are_packed(served: Served, gale_master: dict) -> None:
    found = served.http.get(f"/masters/{gale_master['id']}/lanes").json()["lanes"]
    ids = [view["lane"]["parcel"]["id"] for view in found if not view["lane"]["beside"]]
    served.http.put("/machine", json={"line": {}, "probing": False, "file_pattern": "{master}"}).raise_for_status()
    together = served.http.get(f"/masters/{gale_master['id']}/packing", params={"parcel": ids[:3]}).json()
    served.http.put("/machine", json={"line": {}, "probing": False}).raise_for_status()
    assert [one["parcel_id"] for one in together["parcels"]] == ids[:3]
    assert [one["name"] for one in together["parcels"]] == ["Gale.mp4", "Gale (2).mp4", "Gale (3).mp4"]
    assert [room["enough"] for room in together["rooms"]] == [True]


def test_a_folder_chosen_when_packing_stays_the_parcels(served: Served, gale_master: dict) -> None:
    served.show_only(gale_master, ["handover-client"], {"handover-client": {"method": "untouched"}})
    path, own = served.parcel_path(gale_master, "handover-client"), served.places.data.parent / "for the client"
    own.mkdir()
    key = served.http.get(path).json()["summary"]["plan_key"]
    job = served.http.post(f"{path}/pack", json={"plan_key": key, "folder": str(own)}).json()
    assert served.ended(job)["state"] == "done"
    again = served.http.get(path).json()
    assert again["output_folder"] == str(own)
    assert again["name_taken"]
    own.rename(own.with_name("away"))
    assert served.http.get(path).json()["output_folder"] == str(own)
    answer = served.http.post(f"{path}/pack", json={"plan_key": key})
    assert (answer.status_code, answer.json()["code"]) == (422, "folder_unusable")


def test_there_has_to_be_room_for_what_waits_too(served: Served, gale_master: dict, monkeypatch: pytest.MonkeyPatch) -> None:
    path = served.parcel_path(gale_master, "orrery-wide")
    waiting = {str(served.places.outbox): 10**15}
    monkeypatch.setattr("hardy_parcel.web.packing_routes.jobs.awaited_bytes", lambda database: waiting)
    room = served.http.get(f"{path}/last-look").json()["room"]
    assert (room["enough"], room["awaited_bytes"]) == (False, 10**15)
    key = served.http.get(path).json()["summary"]["plan_key"]
    answer = served.http.post(f"{path}/pack", json={"plan_key": key})
    assert (answer.status_code, "what waits already" in answer.json()["detail"]) == (507, True)
