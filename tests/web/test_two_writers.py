"""Two windows that change the same thing: both changes stay, or the later one is told."""

from __future__ import annotations

import threading
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor

import httpx
import pytest

from hardy_parcel.planned.now import PlannedParcel

from ..service import Served
from .test_api import problem


@pytest.fixture
def path(served: Served, gale_master: dict) -> str:
    return served.parcel_path(gale_master)


@pytest.fixture
def at_once(monkeypatch: pytest.MonkeyPatch) -> Iterator[Callable[..., list[httpx.Response]]]:
    """Sends two changes so that the second arrives while the first has read what it changes and not yet kept it."""
    reading, second_sent = threading.Event(), threading.Event()
    local = PlannedParcel.choosing

    def slowly(self: PlannedParcel, *args: object) -> PlannedParcel:
        first = not reading.is_set()
        reading.set()
        if first:
            second_sent.wait(10)
        return local(self, *args)

    monkeypatch.setattr(PlannedParcel, "choosing", slowly)

    def send(first: Callable[[], httpx.Response], second: Callable[[], httpx.Response]) -> list[httpx.Response]:
        with ThreadPoolExecutor(2) as pool:
            item = pool.submit(first)
            assert reading.wait(10)
            other = pool.submit(second)
            finished, _ = threading.Event().wait(0.3), second_sent.set()
            assert not finished
            return [item.result(), other.result()]

    yield send
    second_sent.set()


def test_choices_and_a_name_changed_at_once_all_stay(served: Served, path: str, at_once: Callable) -> None:
    answers = at_once(
        lambda: served.http.patch(f"{path}/choices", json={"effort": "quick"}),
        lambda: served.http.patch(path, json={"name": "The wave"}),
    )
    assert [item.status_code for item in answers] == [200, 200]
    parcel = served.http.get(path).json()["summary"]["parcel"]
    assert (parcel["choices"]["effort"], parcel["name"]) == ("quick", "The wave")


def test_two_choices_changed_at_once_both_stay(served: Served, path: str, at_once: Callable) -> None:
    answers = at_once(
        lambda: served.http.patch(f"{path}/choices", json={"effort": "quick"}),
        lambda: served.http.patch(f"{path}/choices", json={"container": "mkv"}),
    )
    assert [item.status_code for item in answers] == [200, 200]
    choices = served.http.get(path).json()["summary"]["choices"]
    assert (choices["effort"], choices["container"]) == ("quick", "mkv")


def test_whole_choices_from_an_older_state_are_refused(served: Served, path: str) -> None:
    before = served.http.get(path).json()["summary"]
    seen = {"seen": before["parcel"]["revision"]}
    served.http.patch(f"{path}/choices", json={"effort": "quick"}).raise_for_status()
    whole = {**before["choices"], "container": "mkv"}
    problem(served.http.put(f"{path}/choices", json=whole, params=seen), 409, "changed_meanwhile")
    problem(served.http.patch(f"{path}/choices", json={"container": "mkv"}, params=seen), 409, "changed_meanwhile")
    current = served.http.get(path).json()["summary"]
    assert (current["choices"]["effort"], current["choices"]["container"]) == ("quick", None)
    served.http.put(
        f"{path}/choices",
        json={**current["choices"], "container": "mkv"},
        params={"seen": current["parcel"]["revision"]},
    ).raise_for_status()


def test_putting_lanes_back_is_refused_once_one_was_changed_since(served: Served, gale_master: dict, path: str) -> None:
    together = f"/masters/{gale_master['id']}/together"
    before = served.http.post(together, json={"part": {"effort": "quick"}}).raise_for_status().json()["before"]
    served.http.patch(f"{path}/choices", json={"container": "mkv"}).raise_for_status()
    back = f"/masters/{gale_master['id']}/parcels-state"
    problem(served.http.put(back, json=before), 409, "changed_meanwhile")
    assert served.http.get(path).json()["summary"]["choices"]["container"] == "mkv"
    before = served.http.post(together, json={"part": {"effort": "careful"}}).raise_for_status().json()["before"]
    served.http.put(back, json=before).raise_for_status()
    assert served.http.get(path).json()["summary"]["choices"]["effort"] == "quick"


def test_a_recipe_that_another_window_changed_is_not_overwritten(served: Served, gale_master: dict) -> None:
    created = (
        served.http.post("/recipes", json={"name": "Two windows", "master_id": gale_master["id"]})
        .raise_for_status()
        .json()
    )
    item = f"/recipes/{created['recipe']['id']}"
    served.http.put(item, json={"note": "from the first", "seen": created["changed_at"]}).raise_for_status()
    problem(
        served.http.put(item, json={"note": "from the second", "seen": created["changed_at"]}), 409, "changed_meanwhile"
    )
    stored = served.http.put(item, json={"starred": True}).raise_for_status().json()["recipe"]
    assert (stored["note"], stored["starred"]) == ("from the first", True)
    served.http.delete(item).raise_for_status()
