"""Blank pictures, levels, detail, grain, and baked-in bars."""

from __future__ import annotations

import numpy as np
import pytest

from hardy_parcel.core.master.checks.bars import picture_inside_bars
from hardy_parcel.core.master.checks.picture import edges, grain, histogram, is_blank, spatial_information
from hardy_parcel.core.values import Rect

from .pictures import moved, texture

SIZE = (360, 640)


def small(luma: np.ndarray) -> np.ndarray:
    return luma.reshape(90, 4, 160, 4).mean(axis=(1, 3))


def blank(luma: np.ndarray, black: int = 16) -> bool:
    coded = np.clip(np.round(luma), 0, 255).astype(np.uint8)
    return is_blank(coded, small(coded), black=black)


def test_black_with_a_little_noise_is_blank_at_either_black() -> None:
    noise = np.random.default_rng(1).normal(0, 1.5, SIZE)
    assert blank(16 + noise)
    assert blank(noise, black=0)
    assert not blank(np.full(SIZE, 40.0))


def test_night_stars_and_credits_are_not_blank() -> None:
    night = np.full(SIZE, 17.0)
    night[200:] += np.linspace(0, 16, 160)[:, None]
    stars = np.full(SIZE, 16.0)
    stars[np.random.default_rng(2).integers(0, 360, 30), np.random.default_rng(3).integers(0, 640, 30)] = 170
    line = np.full(SIZE, 16.0)
    line[180:184, 300:340] = 200
    assert not blank(night)
    assert not blank(stars)
    assert not blank(line)


def test_spatial_information_and_histogram() -> None:
    assert spatial_information(np.full(SIZE, 90.0)) == 0
    assert spatial_information(texture()) > spatial_information(texture(slope=2.2)) > 1
    assert spatial_information(np.zeros((2, 2))) == 0
    assert histogram(np.full(SIZE, 77, np.uint8))[77] == 90 * 160


@pytest.mark.parametrize("deviation", [0.0, 1.0, 3.0, 6.0])
def test_grain_is_its_deviation_even_over_a_slope(deviation: float) -> None:
    luma = np.linspace(60, 180, 640)[None] + np.random.default_rng(4).normal(0, deviation, SIZE)
    assert grain(luma) == pytest.approx(deviation, abs=0.1 + 0.15 * deviation)
    assert grain(np.zeros((8, 8))) == 0


def film(*, top: int = 0, bottom: int = 0, left: int = 0, right: int = 0, count: int = 12, noise: float = 1.0, shade=None):
    rng = np.random.default_rng(5)
    ground = texture(6, 360, 640)
    found = []
    for i in range(count):
        luma = moved(ground, 9 * i, 4 * i)
        if shade is not None:
            luma = 16 + (luma - 16) * shade
        framed = np.full(SIZE, 16.0)
        inside = slice(top, 360 - bottom), slice(left, 640 - right)
        framed[inside] = luma[inside]
        found.append(edges(np.clip(framed + rng.normal(0, noise, SIZE), 0, 255).astype(np.uint8), i / 25, black=16))
    return found


@pytest.mark.parametrize(("bars", "found"), [
    ({"top": 45, "bottom": 45}, Rect(x=0, y=46, width=640, height=268)),
    ({"left": 80, "right": 80}, Rect(x=80, y=0, width=480, height=360)),
    ({"top": 20, "bottom": 20, "left": 16, "right": 12}, Rect(x=16, y=20, width=612, height=320)),
    ({"bottom": 30}, Rect(x=0, y=0, width=640, height=330)),
    ({"left": 8, "right": 8}, Rect(x=8, y=0, width=624, height=360)),
])
def test_bars_leave_the_active_picture(bars: dict[str, int], found: Rect) -> None:
    assert picture_inside_bars(film(**bars), black=16) == found


def test_no_bars() -> None:
    assert picture_inside_bars(film(), black=16) is None
    assert picture_inside_bars(film(top=2, bottom=2), black=16) is None
    assert picture_inside_bars([], black=16) is None


def test_a_part_with_bars_is_not_a_film_with_bars() -> None:
    assert picture_inside_bars([*film(count=8), *film(top=45, bottom=45, count=8)], black=16) is None


def test_a_single_picture_over_the_whole_frame_does_not_hide_bars() -> None:
    flash = edges(np.full(SIZE, 200, np.uint8), 3.0, black=16)
    assert picture_inside_bars([*film(top=45, bottom=45, count=14), flash], black=16).height == 268


def test_a_dark_sky_fades_in_and_is_no_bar() -> None:
    sky = np.clip((np.linspace(0, 1, 360)[:, None] - 0.3) * 2.2, 0, 1)
    assert picture_inside_bars(film(shade=sky), black=16) is None


def test_dark_pictures_say_nothing() -> None:
    dark = [edges(np.full(SIZE, 18, np.uint8), i, black=16) for i in range(10)]
    assert picture_inside_bars(dark, black=16) is None


@pytest.mark.parametrize("shape", ["disc", "ring", "diamond", "moving disc"])
def test_a_round_thing_on_black_has_no_bars_around_it(shape: str) -> None:
    """A planet, a lamp, a logo: the square around it is not an edge of a picture."""
    y, x = np.mgrid[:360, :640]
    rng, found = np.random.default_rng(6), []
    for i in range(12):
        middle = 320 + (8 * i if shape == "moving disc" else 0)
        far = np.hypot(x - middle, y - 180)
        inside = {"ring": (far < 140) & (far > 90), "diamond": np.abs(x - middle) + np.abs(y - 180) < 140}.get(shape, far < 140)
        luma = np.where(inside, 150 + 20 * np.sin(x / 9 + i), 16) + rng.normal(0, 1, SIZE)
        found.append(edges(np.clip(luma, 0, 255).astype(np.uint8), i / 25, black=16))
    assert picture_inside_bars(found, black=16) is None


def test_a_dark_picture_between_bars_keeps_them() -> None:
    """Seven of ten pictures may leave their edges in the dark."""
    lit, dim = film(top=45, bottom=45, count=6), film(top=45, bottom=45, count=6, shade=np.linspace(0, 1, 360)[:, None])
    assert picture_inside_bars([*lit, *dim], black=16).height == 268
