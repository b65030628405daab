"""Recipes and several parcels at once, through a real server."""

from __future__ import annotations

import json
from collections.abc import Iterator

import pytest

from .. import films
from ..service import Served
from .test_api import problem

LANES = ["orrery-wide", "sprigg-upright", "earshelf-audio"]


@pytest.fixture(scope="module")
def masters(served: Served) -> tuple[dict, dict]:
    """An upright film at 30 and a very wide one at 24000/1001."""
    films.film(served.places.inbox / "Upright.mp4", width=108, height=192, rate=30, seconds=1)
    films.film(served.places.inbox / "Scope.mp4", width=478, height=200, rate="24000/1001", seconds=1)
    return served.master("Upright.mp4"), served.master("Scope.mp4")


@pytest.fixture
def upright(served: Served, masters) -> Iterator[str]:
    path = f"/masters/{masters[0]['id']}"
    served.show_only(masters[0], LANES)
    yield path
    for view in served.http.get("/recipes").json()["recipes"]:
        served.http.delete(f"/recipes/{view['recipe']['id']}").raise_for_status()


def lane(served: Served, path: str, destination: str) -> str:
    return served.parcel_path(path.rsplit("/", 1)[1], destination)


def shown(served: Served, path: str) -> list[str]:
    return [view["summary"]["destination"]["id"] for view in served.lanes(path.rsplit("/", 1)[1])]


def save(served: Served, path: str, name: str = "Weekly lamp") -> dict:
    answer = served.http.post("/recipes", json={"name": name, "master_id": path.rsplit("/", 1)[1]})
    assert answer.status_code == 201, answer.text
    return answer.json()


def choose(served: Served, path: str, destination: str, **choices) -> None:
    served.http.put(f"{lane(served, path, destination)}/choices", json=choices).raise_for_status()


def test_a_recipe_holds_the_set_and_its_intents(served: Served, upright: str) -> None:
    choose(served, upright, "sprigg-upright", framing="fill", effort="careful", video_bitrate_bps=900_000)
    view = save(served, upright)
    assert [part["destination_id"] for part in view["parts"]] == LANES
    told = {row["setting"]: row["says"] for row in view["parts"][1]["intent_rows"]}
    assert told.keys() == {"Framing", "Effort", "Bit rate"}
    assert "× guidance" in told["Bit rate"]


def test_it_is_renamed_starred_noted_duplicated_and_every_change_undone(served: Served, upright: str) -> None:
    one = save(served, upright)["recipe"]["id"]
    save(served, upright, "Another")
    served.http.put(f"/recipes/{one}", json={"name": "Zebra", "starred": True, "note": "for the series"}).raise_for_status()
    assert [view["recipe"]["name"] for view in served.http.get("/recipes").json()["recipes"]] == ["Zebra", "Another"]
    problem(served.http.put(f"/recipes/{one}", json={"name": "another"}), 409, "name_taken")
    copy = served.http.post(f"/recipes/{one}/duplicate").json()["recipe"]
    assert (copy["name"], copy["starred"]) == ("Zebra, copy", False)
    after = served.http.delete(f"/recipes/{copy['id']}").json()
    assert after["undo"] == "“Zebra, copy” is back"
    names = [[view["recipe"]["name"] for view in served.http.post("/recipes/undo").json()["recipes"]] for _ in range(3)]
    assert names == [["Zebra", "Another", "Zebra, copy"], ["Zebra", "Another"], ["Another", "Weekly lamp"]]


def test_applied_to_another_master_it_adapts_and_can_be_taken_back(served: Served, masters, upright: str) -> None:
    choose(served, upright, "sprigg-upright", framing="fill", video_bitrate_bps=900_000)
    one = save(served, upright)["recipe"]["id"]
    scope = f"/masters/{masters[1]['id']}"
    served.show_only(masters[1], ["fernpost-reel"])
    here = served.http.get(f"{scope}/recipes/{one}").json()
    assert not here["same"]
    adapts = {row["setting"]: row for row in here["parts"][1]["adapts"]}
    assert (adapts["Frame rate"]["before"], adapts["Frame rate"]["after"]) == ("30", "23.976")
    assert all(row["because"] for row in adapts.values())
    done = served.http.post(f"{scope}/recipes/{one}/apply").json()
    assert shown(served, scope) == LANES
    parcel = served.http.get(lane(served, scope, "sprigg-upright")).json()["summary"]
    assert parcel["choices"]["framing"] == "fill"
    assert parcel["plan"]["video"]["framing"]["value"]["mode"] == "fill"
    assert parcel["times_guidance"] == pytest.approx(here["recipe"]["parts"][1]["intent"]["times_guidance"], rel=0.05)
    assert served.http.get(f"{scope}/recipes/{one}").json()["same"]
    served.http.put(f"{scope}/parcels-state", json={"parcels": done["before"]["parcels"]}).raise_for_status()
    assert shown(served, scope) == ["fernpost-reel"]


def test_applying_leaves_a_masters_own_focus_and_gain(served: Served, upright: str) -> None:
    choose(served, upright, "sprigg-upright", framing="fill")
    one = save(served, upright)["recipe"]["id"]
    choose(served, upright, "sprigg-upright", framing="fit", focus={"x": 0.2, "y": 0.3}, gain_db=-2)
    served.http.post(f"{upright}/recipes/{one}/apply").raise_for_status()
    choices = served.http.get(lane(served, upright, "sprigg-upright")).json()["summary"]["choices"]
    assert (choices["framing"], choices["focus"], choices["gain_db"]) == ("fill", {"x": 0.2, "y": 0.3}, -2)


def test_what_differs_is_told_and_an_update_ends_it(served: Served, upright: str) -> None:
    one = save(served, upright)["recipe"]["id"]
    choose(served, upright, "orrery-wide", codec="hevc")
    here = served.http.get(f"{upright}/recipes/{one}").json()
    assert [(row["setting"], row["before"], row["after"]) for row in here["parts"][0]["differs"]] == [("Codec", "left to the plan", "HEVC")]
    served.http.post(f"/recipes/{one}/update", json={"master_id": upright.rsplit("/", 1)[1]}).raise_for_status()
    assert served.http.get(f"{upright}/recipes/{one}").json()["same"]


def test_it_goes_out_as_json_and_comes_back(served: Served, upright: str) -> None:
    one = save(served, upright)["recipe"]["id"]
    text = served.http.get(f"/recipes/{one}/document.json").text
    problem(served.http.post("/recipes/import", json={"text": text}), 409, "name_taken")
    renamed = json.dumps(json.loads(text) | {"name": "From a friend"})
    found = served.http.post("/recipes/import", json={"text": renamed}).json()["recipe"]
    assert found["id"] == "from-a-friend"
    assert found["parts"] == json.loads(json.dumps(served.http.get("/recipes").json()["recipes"][1]["recipe"]["parts"]))
    assert "is not JSON" in problem(served.http.post("/recipes/import", json={"text": "{"}), 422, "bad_recipe")
    assert served.http.get("/recipes/schema.json").json()["title"] == "Recipe"


def test_a_part_for_a_destination_that_is_gone_is_left_out(served: Served, upright: str) -> None:
    document = {"id": "x", "name": "Gone", "parts": [
        {"destination_id": "nowhere-wide", "intent": {}}, {"destination_id": "sprigg-upright", "intent": {"framing": "blur"}},
    ]}
    one = served.http.post("/recipes/import", json={"text": json.dumps(document)}).json()["recipe"]["id"]
    here = served.http.get(f"{upright}/recipes/{one}").json()
    assert here["parts"][0]["missing"]
    assert [bool(part["missing"]) for part in here["parts"]] == [True, False]
    alone = {"id": "x", "name": "All gone", "parts": document["parts"][:1]}
    other = served.http.post("/recipes/import", json={"text": json.dumps(alone)}).json()["recipe"]["id"]
    problem(served.http.post(f"{upright}/recipes/{other}/apply"), 422, "no_lanes")


def test_all_lanes_change_together_and_who_cannot_says_why(served: Served, upright: str) -> None:
    done = served.http.post(f"{upright}/together", json={"part": {"framing": "fill", "effort": "quick"}, "times_guidance": 0.5}).json()
    assert done["refused"] == []
    views = {v["summary"]["destination"]["id"]: v["summary"] for v in served.lanes(upright.rsplit("/", 1)[1])}
    for one in LANES[:2]:
        assert views[one]["times_guidance"] == pytest.approx(0.5, abs=0.03)
        assert views[one]["choices"]["effort"] == "quick"
    refused = served.http.post(f"{upright}/together", json={"part": {"codec": "av1"}}).json()["refused"]
    assert [(one["name"], "AV1" in one["why"]) for one in refused] == [("Sprigg · upright short", True)]
    assert served.http.get(lane(served, upright, "orrery-wide")).json()["summary"]["choices"]["codec"] == "av1"
    served.http.put(f"{upright}/parcels-state", json={"parcels": done["before"]["parcels"]}).raise_for_status()
    assert served.http.get(lane(served, upright, "orrery-wide")).json()["summary"]["choices"]["codec"] is None
    problem(served.http.post(f"{upright}/together", json={"part": {"zoom": 99}}), 422, "bad_setting")


def test_what_is_enough_goes_to_all_lanes_and_into_a_recipe(served: Served, upright: str) -> None:
    """Known or not: a lane stands at the top of its guidance until it is."""
    wanted = {"times_enough": 1.2, "video_bitrate_bps": None}
    assert served.http.post(f"{upright}/together", json={"part": wanted}).json()["refused"] == []
    for view in served.lanes(upright.rsplit("/", 1)[1]):
        summary = view["summary"]
        assert (summary["choices"]["times_enough"], summary["choices"]["video_bitrate_bps"]) == (1.2, None)
        if summary["plan"]["video"]:
            assert summary["plan"]["video"]["target_bps"]["because"]["sentence"].endswith("until it is known what is enough")
    part = save(served, upright)["recipe"]["parts"][0]
    assert (part["intent"]["times_enough"], part["intent"]["times_guidance"]) == (1.2, None)
    served.http.post(f"{upright}/together", json={"part": {}, "times_guidance": 0.5}).raise_for_status()
    with_picture = [view["summary"] for view in served.lanes(upright.rsplit("/", 1)[1]) if view["summary"]["plan"]["video"]]
    assert {summary["choices"]["times_enough"] for summary in with_picture} == {None}


def test_a_recipe_holds_several_parcels_of_one_destination(served: Served, masters, upright: str) -> None:
    first = lane(served, upright, "sprigg-upright")
    sibling = served.http.post(f"{first}/siblings", json={"part": {"effort": "quick"}}).json()
    assert sibling["summary"]["difference"] == "quick effort"
    one = save(served, upright)["recipe"]["id"]
    scope = f"/masters/{masters[1]['id']}"
    served.show_only(masters[1], ["fernpost-reel"])
    served.http.post(f"{scope}/recipes/{one}/apply").raise_for_status()
    assert shown(served, scope) == ["orrery-wide", "sprigg-upright", "sprigg-upright", "earshelf-audio"]
    efforts = [view["summary"]["choices"]["effort"] for view in served.lanes(masters[1]["id"])]
    assert efforts == [None, None, "quick", None]
    assert served.http.get(f"{scope}/recipes/{one}").json()["same"]


def test_only_a_masters_own_parcels_are_put_back(served: Served, masters, upright: str) -> None:
    served.show_only(masters[1], ["fernpost-reel"])
    theirs = [view["summary"]["parcel"] for view in served.lanes(masters[1]["id"])]
    problem(served.http.put(f"{upright}/parcels-state", json={"parcels": theirs}), 422, "bad_setting")
    stolen = [theirs[0] | {"master_id": masters[0]["id"]}]
    problem(served.http.put(f"{upright}/parcels-state", json={"parcels": stolen}), 422, "bad_setting")
    assert shown(served, upright) == LANES


def test_what_is_not_there_is_not_found(served: Served, upright: str) -> None:
    for answer in (
        served.http.put("/recipes/none", json={}), served.http.delete("/recipes/none"), served.http.get(f"{upright}/recipes/none"),
        served.http.post("/recipes", json={"name": "x", "master_id": "none"}),
    ):
        problem(answer, 404, "not_found")


def test_names_folder_and_words_go_with_a_recipe(served: Served, gale_master: dict) -> None:
    folder = served.places.data.parent / "fridays"
    folder.mkdir()
    made = served.http.post("/recipes", json={"name": "Named", "master_id": gale_master["id"]}).json()["recipe"]
    path = f"/recipes/{made['id']}"
    words = {"title": "", "description": "Every Friday.", "tags": ["skerry"]}
    wanted = {"file_pattern": "{number} {master}", "folder": str(folder), "words": words}
    assert served.http.put(path, json=wanted).json()["recipe"] | wanted == served.http.put(path, json=wanted).json()["recipe"]
    for bad in ({"file_pattern": "{nothing}"}, {"folder": "/etc"}, {"folder": str(served.places.inbox)}):
        assert served.http.put(path, json=bad).status_code == 422
    here = f"/masters/{gale_master['id']}{path}"
    assert not served.http.get(here).json()["same"]
    served.http.post(f"{here}/apply").raise_for_status()
    assert served.http.get(here).json()["same"]
    parcel = served.http.get(served.parcel_path(gale_master)).json()
    assert (parcel["output_folder"], parcel["final_name"]) == (str(folder), "01 Gale.mp4")
    copy = served.http.post("/recipes", json={"name": "Named again", "master_id": gale_master["id"]}).json()["recipe"]
    assert {key: copy[key] for key in wanted} == wanted
    for one in (made, copy):
        served.http.delete(f"/recipes/{one['id']}").raise_for_status()
