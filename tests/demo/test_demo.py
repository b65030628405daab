"""The Skerry Point masters: made by us, the same every time, and fit to look at."""

from __future__ import annotations

import itertools
from fractions import Fraction

import numpy as np
import pytest

from hardy_parcel.demo import aurora, gale, interview, lamp, make, reel, tide

ROOMS = {"Gale over the skerry": gale, "Lamp room, upright": lamp, "Tide table explained": tide}


WOVEN = {"The 1987 reel": reel, "Keeper's interview": interview, "Aurora, north window": aurora}


def first(room, count: int = 2):
    return list(itertools.islice(room.pictures(), count))


@pytest.mark.parametrize("name", ROOMS)
def test_pictures_are_deterministic_legal_and_move(name: str) -> None:
    room = ROOMS[name]
    once, again = first(room), first(room)
    for (luma, blue, red), other in zip(once, again, strict=True):
        assert luma.shape == (room.HEIGHT, room.WIDTH)
        assert blue.shape == red.shape == (room.HEIGHT // 2, room.WIDTH // 2)
        assert luma.dtype == np.uint8
        assert luma.min() >= 16
        assert luma.max() <= 235
        assert luma.std() > 5
        for a, b in zip((luma, blue, red), other, strict=True):
            assert np.array_equal(a, b)
    if room is not tide:
        assert not np.array_equal(once[0][0], once[1][0])


@pytest.mark.parametrize("name", ROOMS)
def test_sound_is_deterministic_bounded_and_as_long_as_the_film(name: str) -> None:
    room = ROOMS[name]
    sound = room.sound()
    assert sound.shape == (2, room.SECONDS * 48000)
    assert 0.02 < np.abs(sound).max() <= 1
    assert np.array_equal(sound, room.sound())


def test_films_are_what_the_scenario_says() -> None:
    found = {film.name.removesuffix(".mp4"): film for film in make.FILMS}
    assert set(found) == set(ROOMS) | set(WOVEN)
    sizes = {name: (film.width, film.height, film.frame_rate) for name, film in found.items()}
    assert sizes["Gale over the skerry"] == (1920, 1080, Fraction(50))
    assert sizes["Lamp room, upright"] == (1080, 1920, Fraction(30))
    assert sizes["Tide table explained"] == (1280, 720, Fraction(25))


@pytest.mark.parametrize("name", WOVEN)
def test_the_awkward_masters_are_the_same_every_time(name: str) -> None:
    room = WOVEN[name]
    for planes, other in zip(first(room, 3), first(room, 3), strict=True):
        assert all(np.array_equal(a, b) for a, b in zip(planes, other, strict=True))
        assert planes[0].std() > 5
        assert planes[0].shape == first(room, 1)[0][0].shape
    sound = room.sound()
    assert np.array_equal(sound, room.sound())
    assert 0.02 < np.abs(sound).max() <= 1


def test_the_reel_is_woven_from_two_moments_and_barred() -> None:
    luma = first(reel, 1)[0][0]
    assert luma.shape == (576, 720)
    assert luma[: reel.BAR].max() == luma[-reel.BAR :].max() == 16
    inner = luma[reel.BAR : -reel.BAR].astype(float)
    combs = np.abs(inner[1:-1:2] - (inner[0:-2:2] + inner[2::2]) / 2).mean()
    within = np.abs(inner[2:-2:2] - (inner[0:-4:2] + inner[4::2]) / 2).mean()
    assert combs > 0
    assert within > 0
    assert reel.TRAITS.top_field_first


def test_the_interview_is_turned_uneven_and_too_loud() -> None:
    assert first(interview, 1)[0][0].shape == (720, 1280)
    steps = np.diff(interview.TRAITS.times_s)
    assert steps.max() > 1.8 * np.median(steps)
    assert np.mean(np.abs(interview.sound()) >= 0.979) > 0.001


def test_the_tide_table_ends_in_three_blank_silent_seconds() -> None:
    count = round(tide.SECONDS * tide.RATE)
    tail = itertools.islice(tide.pictures(), count - round(3 * tide.RATE), None)
    lumas = [luma for luma, _, _ in tail]
    assert len(lumas) == 75
    assert max(luma.max() for luma in lumas) <= 20
    assert np.abs(tide.sound()[:, -3 * 48000 :]).max() < 1e-3


def test_only_missing_films_are_made(tmp_path, monkeypatch) -> None:
    made: list[str] = []

    class Film:
        def __init__(self, name: str) -> None:
            self.name = name

        def make(self, folder):
            made.append(self.name)
            (folder / self.name).touch()

    monkeypatch.setattr(make, "FILMS", (Film("a.mp4"), Film("b.mp4")))
    (tmp_path / "a.mp4").touch()
    said: list[str] = []
    make.make_missing(tmp_path, said.append)
    assert made == ["b.mp4"]
    assert said == ["Made b.mp4"]
    make.make_missing(tmp_path, said.append)
    assert made == ["b.mp4"]
