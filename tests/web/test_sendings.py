"""From a packed parcel to what viewers get of it, through real docks, and what that makes of its lane."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from hardy_parcel.store import sendings
from hardy_parcel.store.database import Database

from ..dock_process import DockProcess, docks_of, no_docks
from ..service import Served


@pytest.fixture(scope="module")
def docks(served: Served, tmp_path_factory: pytest.TempPathFactory) -> Iterator[DockProcess]:
    with docks_of(served, tmp_path_factory.mktemp("docks")) as process:
        yield process


@pytest.fixture
def packed(served: Served, gale_master: dict) -> str:
    """The id of a receipt of one second of the shared film, packed quickly for Orrery."""
    return served.pack(gale_master, "orrery-wide", {"effort": "quick", "video_bitrate_bps": 300_000}, ("0", "1"))


def test_what_is_sent_comes_back_measured_and_replaces_the_forecast(
    served: Served, docks: DockProcess, gale_master: dict, packed: str
) -> None:
    words = {"title": "Gale", "description": "At Skerry Point.", "tags": ["gale", "sea"]}
    found = served.sent(packed, words=words)
    sending = found["sending"]
    assert (sending["state"], sending["words"]) == ("arrived", words)
    [file] = sending["files"]
    assert (file["name"], file["width"], file["unmeasured"]) == ("180p h264", 320, "")
    kept = sendings.of_receipt(Database(served.places.database), packed)[0]
    assert [len(one.moments) for one in (*kept.files, kept.packed)] == [50, 50]
    assert file["moments"] == []
    every = {(screen, line) for screen in ("phone", "laptop", "tv") for line in ("good", "slow")}
    assert {(one["screen"], one["line"]) for one in found["seen"]} == every
    assert all((one["expected"], one["words"]) == (None, "was not tested before") for one in found["seen"]), "a guess is no forecast"
    view = served.http.get(served.parcel_path(gale_master)).json()
    laptop = next(one for one in view["summary"]["seen"] if (one["screen"], one["line"]) == ("laptop", "good"))
    told = next(one for one in found["seen"] if (one["screen"], one["line"]) == ("laptop", "good"))
    assert laptop["at"]["evidence"] == "returned"
    assert laptop["at"]["condition"] == pytest.approx(told["condition"], abs=0.06)
    changed = served.http.patch(f"{served.parcel_path(gale_master)}/choices", json={"video_bitrate_bps": 420_000}).raise_for_status().json()
    on_curve = next(one for one in changed["summary"]["seen"] if (one["screen"], one["line"]) == ("laptop", "good"))["curve"]["points"]
    at_sent = [point for point in on_curve if point["bitrate_bps"] == 300_000]
    assert [(point["evidence"], round(point["condition"] - told["condition"], 1)) for point in at_sent] == [("returned", 0.0)]
    served.http.patch(f"{served.parcel_path(gale_master)}/choices", json={"video_bitrate_bps": 300_000}).raise_for_status()
    played = served.http.get(f"/sendings/{sending['id']}/files/{file['file']}", headers={"range": "bytes=0-99"})
    assert (played.status_code, len(played.content)) == (206, 100)
    again = served.http.get(f"/receipts/{packed}/sendings").json()
    assert again["words"] == words
    assert all(one["expected"] is None for one in again["sendings"][0]["seen"]), "what came back is no forecast of itself"
    assert [one["destination_id"] for one in again["choices"]] == ["orrery-wide"]
    recipe = served.http.post("/recipes", json={"name": "Sent", "master_id": gale_master["id"]}).raise_for_status().json()["recipe"]
    assert recipe["words"] == words | {"title": ""}, "a title is of one film"
    served.http.delete(f"/recipes/{recipe['id']}").raise_for_status()


def test_a_refusal_is_told_with_its_reasons(served: Served, docks: DockProcess, packed: str) -> None:
    """The dock knows only the file: sent where it does not belong it is refused there."""
    found = served.sent(packed, destination_id="earshelf-audio")
    assert found["sending"]["state"] == "refused"
    assert found["sending"]["refused"][0].startswith("Earshelf takes sound alone")


def test_docks_that_are_away_are_waited_for(served: Served, docks: DockProcess, packed: str) -> None:
    docks.kill()
    served.http.post(f"/receipts/{packed}/send", json={"quick": True}).raise_for_status()
    twice = served.http.post(f"/receipts/{packed}/send", json={})
    assert (twice.status_code, twice.json()["code"]) == (422, "on_its_way")
    docks.start()
    found = served.until(
        f"/receipts/{packed}/sendings", lambda view: view["sendings"][0]["sending"]["state"] == "arrived" and view["sendings"][0], "it"
    )
    assert found["sending"]["files"]


def test_without_docks_nothing_is_sent(served: Served, packed: str) -> None:
    with no_docks(served):
        refused = served.http.post(f"/receipts/{packed}/send", json={})
        assert (refused.status_code, refused.json()["code"]) == (422, "no_docks")
        assert served.http.get(f"/receipts/{packed}/sendings").json()["docks"] is False
    assert served.http.post("/receipts/nothing/send", json={}).status_code == 404


def test_words_that_are_too_long_are_refused(served: Served, packed: str) -> None:
    assert served.http.post(f"/receipts/{packed}/send", json={"words": {"title": "x" * 301}}).status_code == 422
