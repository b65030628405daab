"""Framing through a real server: tried, kept, refused, and pictures exactly as they would be packed."""

from __future__ import annotations

import base64
import io
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from .. import films
from ..service import Served
from .test_api import problem

LANES = ["orrery-wide", "sprigg-upright", "kitewall-square", "fernpost-reel", "earshelf-audio"]


def lined():
    """A film of one grey with a white column at each fifth of its width and one white row in the middle."""
    luma = np.full((180, 320), 60, np.uint8)
    for fifth in range(1, 5):
        luma[:, fifth * 64 - 2 : fifth * 64 + 2] = 235
    luma[88:92] = 235
    chroma = np.full((90, 160), 128, np.uint8)
    for _ in range(50):
        yield luma, chroma, chroma


@pytest.fixture(scope="module")
def master(served: Served) -> dict:
    films.film(served.places.inbox / "Lined.mp4", seconds=2, pictures=lined())
    result = served.master("Lined.mp4")
    assert served.http.put(f"/masters/{result['id']}/destinations", json={"destinations": LANES}).status_code == 200
    return result


@pytest.fixture
def path(served: Served, master: dict):
    yield f"/masters/{master['id']}"
    usual = {key: {"framing": "fit", "shape": None, "focus": None, "zoom": 1} for key in LANES[:4]}
    wish = asked(served, f"/masters/{master['id']}", {"focus": None, "parcels": usual})
    served.http.put(f"/masters/{master['id']}/framing", json=wish).raise_for_status()


def lane(served: Served, path: str, destination: str) -> str:
    return served.parcel_path(path.rsplit("/", 1)[1], destination)


def asked(served: Served, path: str, wish: dict) -> dict:
    """A wish by destinations as one by parcels."""
    wishes = {
        lane(served, path, destination).rsplit("/", 1)[1]: item for destination, item in wish.get("parcels", {}).items()
    }
    return wish | {"parcels": wishes}


def by_id(view: dict) -> dict[str, dict]:
    return {shape["destination_id"]: shape for shape in view["shapes"]}


def test_every_shape_with_a_picture_is_there_at_once(served: Served, path: str) -> None:
    view = served.http.get(f"{path}/framing").json()
    assert [shape["destination_id"] for shape in view["shapes"]] == LANES[:4]
    shapes = by_id(view)
    assert (shapes["sprigg-upright"]["shape"], shapes["sprigg-upright"]["own"]) == ("9:16", False)
    assert shapes["orrery-wide"]["own"]
    assert [stand["screen"] for stand in shapes["kitewall-square"]["stands"]] == ["phone", "laptop", "tv"]
    assert (view["first_picture"], view["last_picture"]) == (0, 49)
    assert shapes["sprigg-upright"]["covered"]["bottom"] > 0


def test_a_try_changes_nothing_and_a_keep_changes_the_plan(served: Served, path: str) -> None:
    wish = {"focus": {"x": 0.2, "y": 0.5}, "parcels": {"sprigg-upright": {"framing": "fill"}}}
    before = served.http.get(f"{path}/framing").json()
    tried = by_id(served.http.post(f"{path}/framing/try", json=asked(served, path, wish)).json())["sprigg-upright"]
    assert served.http.get(f"{path}/framing").json() == before
    stored = by_id(served.http.put(f"{path}/framing", json=asked(served, path, wish)).json())["sprigg-upright"]
    assert stored == tried
    plan = served.http.get(lane(served, path, "sprigg-upright")).json()["summary"]["plan"]
    assert plan["video"]["framing"]["value"]["crop"] == stored["framing"]["crop"]
    assert stored["framing"]["crop"]["x"] == 64 - stored["framing"]["crop"]["width"] // 2 // 2 * 2


def test_a_shape_placed_by_hand_does_not_follow_the_common_focus(served: Served, path: str) -> None:
    fill = {"framing": "fill"}
    alone = {**fill, "focus": {"x": 0.9, "y": 0.5}, "zoom": 1.5}
    wish = asked(served, path, {"parcels": {"sprigg-upright": alone, "kitewall-square": fill}})
    served.http.put(f"{path}/framing", json=wish).raise_for_status()
    before = by_id(served.http.get(f"{path}/framing").json())
    after = by_id(served.http.put(f"{path}/framing", json={"focus": {"x": 0.1, "y": 0.5}}).json())
    assert after["sprigg-upright"]["framing"] == before["sprigg-upright"]["framing"]
    assert after["kitewall-square"]["framing"]["crop"]["x"] < before["kitewall-square"]["framing"]["crop"]["x"]
    assert after["sprigg-upright"]["lost"]["left"] > 0.7


def test_a_typed_ratio_is_taken_or_refused_with_what_is_taken(served: Served, path: str) -> None:
    wide = {"parcels": {"fernpost-reel": {"framing": "fill", "shape": "2.39"}}}
    result = by_id(served.http.put(f"{path}/framing", json=asked(served, path, wide)).json())["fernpost-reel"]
    assert result["shape"] == "2.39:1"
    assert result["framing"]["width"] == pytest.approx(result["framing"]["height"] * 2.39, abs=2.4)
    wrong = {"parcels": {"orrery-wide": {"framing": "fill", "shape": "4:5"}}}
    tried = served.http.post(f"{path}/framing/try", json=asked(served, path, wrong)).json()
    assert "4:3 to 7:3" in tried["refused"][0]["why"]
    before = served.http.get(f"{path}/framing").json()
    problem(served.http.put(f"{path}/framing", json=asked(served, path, wrong)), 422, "shape_not_taken")
    assert served.http.get(f"{path}/framing").json() == before


@pytest.mark.parametrize(
    "wish",
    [
        {"focus": {"x": 1.2, "y": 0}},
        {"parcels": {"sprigg-upright": {"framing": "stretch"}}},
        {"parcels": {"sprigg-upright": {"framing": "fit", "zoom": 0.2}}},
        {"parcels": {"sprigg-upright": {"framing": "fit", "shape": "0:1"}}},
    ],
)
def test_an_impossible_wish_is_refused(served: Served, path: str, wish: dict) -> None:
    problem(served.http.put(f"{path}/framing", json=asked(served, path, wish)), 422, "bad_input")


def picture_of(answer) -> np.ndarray:
    assert answer.status_code == 200, answer.text
    return np.asarray(Image.open(io.BytesIO(answer.content)).convert("L"), float)


@pytest.mark.parametrize("mode", ["fit", "fill", "blur"])
def test_the_preview_is_the_packed_picture_to_the_row(served: Served, path: str, tmp_path: Path, mode: str) -> None:
    """Lines of the master stand in the preview where they stand in the packed file."""
    wish = {"parcels": {"kitewall-square": {"framing": mode, "focus": {"x": 0.4, "y": 0.5}, "zoom": 1.3}}}
    served.http.put(f"{path}/framing", json=asked(served, path, wish)).raise_for_status()
    preview = picture_of(served.http.get(f"{lane(served, path, 'kitewall-square')}/framed.jpg", params={"number": 10}))
    choices = served.http.get(lane(served, path, "kitewall-square")).json()["summary"]["choices"]
    quick = choices | {"effort": "quick", "video_bitrate_bps": 4_000_000}
    served.http.put(f"{lane(served, path, 'kitewall-square')}/choices", json=quick).raise_for_status()
    key = served.http.get(lane(served, path, "kitewall-square")).json()["summary"]["plan_key"]
    order = {"plan_key": key, "file_name": f"Square {mode}.mp4"}
    job = served.ended(served.http.post(f"{lane(served, path, 'kitewall-square')}/pack", json=order).json())
    assert job["state"] == "done", job["problem"]
    served.http.put(f"{lane(served, path, 'kitewall-square')}/choices", json={"framing": mode}).raise_for_status()
    with av.open(str(served.places.outbox / f"Square {mode}.mp4")) as container:
        frames = list(container.decode(video=0))
    packed = frames[10].to_ndarray(format="gray").astype(float)
    assert packed.shape == preview.shape

    def lines(picture: np.ndarray, axis: int) -> list[int]:
        level = picture.mean(axis=axis)
        bright = np.flatnonzero(level > level.mean() + 2 * level.std())
        return [int(bright[0]), int(bright[-1])]

    for axis in (0, 1):
        assert np.abs(np.subtract(lines(packed, axis), lines(preview, axis))).max() <= 1
    assert np.abs(packed - preview).mean() < 12


def test_the_effect_of_sharpening_is_shown_scaled_down_or_not(served: Served, path: str) -> None:
    for choices in ({"short_side_px": 120}, {}):
        served.http.put(f"{lane(served, path, 'fernpost-reel')}/choices", json=choices).raise_for_status()
        effect = served.http.get(f"{lane(served, path, 'fernpost-reel')}/sharpening").json()
        pictures = (Image.open(io.BytesIO(base64.b64decode(effect[key].split(",")[1]))) for key in ("off", "on"))
        off, on = (np.asarray(picture.convert("L"), float) for picture in pictures)
        assert off.shape == on.shape == (effect["height"], effect["width"])
        assert np.abs(np.diff(on, axis=1)).mean() > 1.03 * np.abs(np.diff(off, axis=1)).mean()
        assert effect["why"]
    served.http.put(f"{lane(served, path, 'fernpost-reel')}/choices", json={}).raise_for_status()


def test_a_picture_beyond_the_end_is_the_last_one_and_as_it_is_has_none(served: Served, path: str) -> None:
    assert (
        picture_of(
            served.http.get(f"{lane(served, path, 'sprigg-upright')}/framed.jpg", params={"number": 90_000})
        ).shape[0]
        > 300
    )
    served.http.put(f"{lane(served, path, 'fernpost-reel')}/choices", json={"method": "untouched"}).raise_for_status()
    problem(served.http.get(f"{lane(served, path, 'fernpost-reel')}/framed.jpg"), 422, "as_it_is")
    problem(served.http.get(f"{lane(served, path, 'earshelf-audio')}/framed.jpg"), 422, "no_picture")
    assert "fernpost-reel" not in by_id(served.http.get(f"{path}/framing").json())
    served.http.put(f"{lane(served, path, 'fernpost-reel')}/choices", json={}).raise_for_status()


def test_the_excerpt_bounds_what_can_be_stepped_through(served: Served, path: str) -> None:
    served.http.put(
        f"{path}/excerpt", json={"excerpt": {"in_s": "1/2", "out_s": str(Fraction(3, 2))}}
    ).raise_for_status()
    view = served.http.get(f"{path}/framing").json()
    assert (view["first_picture"], view["last_picture"]) == (12, 37)
    served.http.put(f"{path}/excerpt", json={"excerpt": None}).raise_for_status()


def test_one_answer_serves_all_shapes_that_say_nothing_and_typed_rates_move_along(
    served: Served, path: str, master: dict
) -> None:
    served.show_only(
        master, ["orrery-wide", "sprigg-upright", "kitewall-square"], {"kitewall-square": {"framing": "fill"}}
    )
    upright = served.parcel_path(master, "sprigg-upright")
    lanes = served.http.get(f"{path}/lanes").json()
    assert lanes["shape_question"].startswith("Sprigg shows another shape")
    served.http.patch(f"{upright}/choices", json={"video_bitrate_bps": 900_000}).raise_for_status()
    guided = served.http.get(upright).json()["summary"]["plan"]["guidance"]["high_bps"]
    shapes = by_id(served.http.put(f"{path}/framing", json={"mode": "fit"}).raise_for_status().json())
    assert [shapes[name]["framing"]["mode"] for name in ("orrery-wide", "sprigg-upright", "kitewall-square")] == [
        None,
        "fit",
        "fill",
    ]
    assert served.http.get(f"{path}/lanes").json()["shape_question"] == ""
    plan = served.http.get(upright).json()["summary"]["plan"]
    assert plan["video"]["target_bps"]["value"] / plan["guidance"]["high_bps"] == pytest.approx(
        900_000 / guided, rel=0.02
    )
    back = served.http.put(f"{path}/framing", json={"mode": None}).raise_for_status().json()
    assert (back["mode"], by_id(back)["sprigg-upright"]["framing"]["mode"]) == (None, "fill")
    served.show_only(master, LANES)
