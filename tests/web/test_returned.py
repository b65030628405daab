"""From a file that a platform served to a corrected sheet, with docks whose handling was altered behind the program's back."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.docks.shipped import shipped_sheets
from hardy_parcel.media.handling import upload_pictures
from hardy_parcel.store.database import Changed, Database

from .. import films
from ..dock_process import DockProcess, docks_of
from ..service import Served

HARDER = 7
"""Quality steps by which the altered platform encodes harder than its sheet says."""


@pytest.fixture(scope="module")
def docks(served: Served, tmp_path_factory: pytest.TempPathFactory) -> Iterator[DockProcess]:
    [orrery] = [sheet for sheet in shipped_sheets() if sheet.id == "orrery"]
    [place] = orrery.placements
    harder = place.handling.model_copy(update={"tiers": tuple(
        tier.model_copy(update={"renditions": tuple(
            rule.model_copy(update={"quality": min(50, rule.quality + HARDER)}) for rule in tier.renditions
        )})
        for tier in place.handling.tiers
    )})
    altered = orrery.model_copy(update={"placements": (place.model_copy(update={"handling": harder}),)})
    with docks_of(served, tmp_path_factory.mktemp("docks"), sheets=[altered]) as process:
        yield process


@pytest.fixture(autouse=True, scope="module")
def the_sheet_that_ships(served: Served) -> Iterator[None]:
    """No versions of this sheet from other tests, and none left for them."""
    _forget_versions(served)
    yield
    _forget_versions(served)


def _forget_versions(served: Served) -> None:
    with Database(served.places.database).writing(Changed("sheets", "")) as connection:
        connection.execute("DELETE FROM sheets WHERE sheet_id = 'orrery'")


@pytest.fixture(scope="module")
def packed(served: Served) -> str:
    """A receipt of a film that begins calm and ends rough: of one that is alike from end to end nobody could tell a harder quality from a
    lower ceiling."""
    calm, rough = (films.shimmer(320, 180, 36, grain=grain, seed=5) for grain in (1.5, 11.0))
    films.film(served.places.inbox / "Calm and gale.mp4", pictures=itertools.chain(calm, rough), seconds=Fraction(72, 25))
    master = served.master("Calm and gale.mp4")
    return served.pack(master, "orrery-wide", {"effort": "quick", "video_bitrate_bps": 4_000_000})


def measured(served: Served, view: dict) -> dict:
    def settled(now: dict) -> dict | None:
        return now if now["record"]["found"] or now["record"]["problem"] else None

    return served.until(f"/returned/{view['record']['id']}", settled, "the measuring")


def test_a_sheet_is_corrected_from_what_its_platform_served(served: Served, docks: DockProcess, packed: str) -> None:
    sending = served.sent(packed)["sending"]
    [file] = sending["files"]
    begun = served.http.post(f"/sendings/{sending['id']}/files/{file['file']}/learn", json={}).raise_for_status().json()
    found = measured(served, begun)
    assert found["record"]["problem"] is None
    assert (found["words"], found["sure"]) == ([], "surely")
    [error] = found["correction"]["errors"]
    assert error["after"] < error["before"] / 2
    [quality] = [int(one["becomes"]) for one in found["correction"]["changes"] if one["what"] == "480p quality"]
    [was] = [int(one["was"]) for one in found["correction"]["changes"] if one["what"] == "480p quality"]
    assert abs(quality - was - HARDER) <= 2
    sheet = served.http.post(f"/returned/{found['record']['id']}/correct").raise_for_status().json()
    assert sheet["version"] == 2
    again = served.http.get(f"/returned/{found['record']['id']}").json()
    assert again["correction"]["changes"] == []
    assert served.http.post(f"/returned/{found['record']['id']}/correct").json()["code"] == "nothing_to_correct"
    assert served.http.delete(f"/returned/{found['record']['id']}").json() == []


def bring(served: Served, receipt: str, path: Path) -> dict:
    answer = served.http.post(f"/returned?receipt_id={receipt}&name={path.name}", content=path.read_bytes())
    return measured(served, answer.raise_for_status().json())


def test_a_file_that_is_no_returned_one_says_so(served: Served, packed: str, tmp_path: Path) -> None:
    mirrored = films.film(tmp_path / "Mirrored.mp4", pictures=_mirrored(served, packed), sound=None, seconds=1)
    found = bring(served, packed, mirrored)
    assert found["record"]["problem"]["code"] == "mirrored"
    other = bring(served, packed, films.film(tmp_path / "Other.mp4", pictures=films.shimmer(320, 180, 30, grain=60, seed=3), seconds=1))
    assert other["record"]["problem"]["code"] in ("another_film", "too_little")
    letter = tmp_path / "Letter.mp4"
    letter.write_bytes(b"not a film" * 2000)
    assert "cannot be read as a film" in bring(served, packed, letter)["sentence"]
    for view in served.http.get("/returned").json():
        served.http.delete(f"/returned/{view['id']}").raise_for_status()
    assert served.http.post("/returned?receipt_id=nothing&name=x.mp4", content=b"x").status_code == 404
    assert not list(served.places.arrivals.glob("returned-*"))


def _mirrored(served: Served, receipt: str):
    kept = next(one for one in served.http.get("/receipts").json() if one["job_id"] == receipt)["receipt"]
    for picture in upload_pictures(Path(kept["folder"]) / kept["file_name"]):
        rows = picture.to_ndarray(format="yuv420p")
        high, wide = picture.height, picture.width
        luma, chroma = rows[:high, ::-1], rows[high:].reshape(2, high // 2, wide // 2)[:, :, ::-1]
        yield luma, chroma[0], chroma[1]


def test_a_sheet_of_ones_own_is_led_from_a_help_page_to_a_forecast(served: Served, docks: DockProcess, packed: str, tmp_path: Path) -> None:
    """A copy of the sheet under another name, as if the platform were none of ours: what it serves is brought back by hand."""
    def path() -> dict:
        [found] = served.http.get("/sheets/lantern/trust").raise_for_status().json()
        return found

    made = served.http.post("/sheets", json={"id": "lantern", "name": "Lantern", "copy_of": None}).raise_for_status().json()
    assert (path()["next_step"], path()["trust"][:7]) == ("guidance", "Not yet")
    [orrery] = [sheet for sheet in shipped_sheets() if sheet.id == "orrery"]
    [place] = orrery.placements
    document = made["sheet"] | {"placements": [place.model_dump(mode="json") | {"id": "main"}]}
    assumed = served.http.post("/sheets/assume", json={"placement": document["placements"][0], "assumed": "middling"}).json()
    document["placements"][0]["handling"] = assumed
    served.http.put("/sheets/lantern", json={"document": document, "based_on": 1}).raise_for_status()
    assert path()["next_step"] == "sent"
    assert "± 12 points" in path()["trust"]

    receipt = served.pack(served.master("Calm and gale.mp4"), "lantern-main", {"effort": "quick", "video_bitrate_bps": 4_000_000})
    assert path()["next_step"] == "returned"
    assert [one["job_id"] for one in path()["parcels"]] == [receipt]
    sending = served.sent(packed)["sending"]  # the very film, by the platform that the sheet is about
    body = served.http.get(f"/sendings/{sending['id']}/files/{sending['files'][0]['file']}").content
    came = tmp_path / "Saved from its page.mp4"
    came.write_bytes(body)
    assert bring(served, receipt, came)["record"]["problem"] is None
    assert path()["next_step"] == "corrected"
    [record] = path()["returned"]
    served.http.post(f"/returned/{record['id']}/correct").raise_for_status()
    assert path()["next_step"] is None
    assert "bring back a second one" in path()["trust"]
    looked = served.http.get(f"/receipts/{receipt}/look").json()
    assert looked["measured"] == "measured on Saved from its page.mp4"
    assert looked["stations"][-1]["words"] == "brought back from Lantern · wide film"
    shown = f"/receipts/{receipt}/look/40/laptop/picture.bmp"
    assert served.http.get(shown, params={"station": looked["stations"][-1]["key"]}).content[:2] == b"BM"
    served.http.delete(f"/returned/{record['id']}").raise_for_status()
    served.http.delete("/sheets/lantern").raise_for_status()
