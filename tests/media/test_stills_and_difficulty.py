"""Poster strips, stills, and how hard each part is to code."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest
from PIL import Image

from hardy_parcel.core.planning import make_plan
from hardy_parcel.core.screens import Raster
from hardy_parcel.core.strip import STRIP_PICTURES
from hardy_parcel.media.difficulty import stretches
from hardy_parcel.media.film import Planes
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.stills import STRIP_HEIGHT, poster_strip, still

from .. import films
from ..builders import ORRERY


def test_a_strip_of_evenly_spread_pictures(gale: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hardy_parcel.media.stills.EXACT_FOR_S", 100)  # however slow the machine
    facts = inspect(gale)
    told = list(poster_strip(gale, facts, make_plan(facts, ORRERY).video, tmp_path / "strip"))
    assert told == list(range(1, STRIP_PICTURES + 1))
    pictures = [tmp_path / "strip" / f"{i}.jpg" for i in range(STRIP_PICTURES)]
    assert Image.open(pictures[0]).size == (256, STRIP_HEIGHT)
    squares = [np.asarray(Image.open(p).convert("L")).max(axis=0).argmax() for p in pictures]
    assert len(set(squares)) > 4


def test_a_very_short_master_still_has_a_strip(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=Fraction(1, 25), sound=None)
    facts = inspect(source)
    strip = poster_strip(source, facts, make_plan(facts, ORRERY).video, tmp_path / "strip")
    assert len(list(strip)) == STRIP_PICTURES


def test_a_still_is_cut_and_scaled_with_the_right_colours(tmp_path: Path) -> None:
    """A BT.709 red of luma 63, Cb 102, Cr 240 comes out as red, and the bars are cut off."""
    luma = np.full((180, 320), 16, np.uint8)
    blue, red = np.full((90, 160), 128, np.uint8), np.full((90, 160), 128, np.uint8)
    luma[40:140], blue[20:70], red[20:70] = 63, 102, 240
    source = films.film(tmp_path / "a.mp4", seconds=Fraction(3, 25), sound=None, pictures=iter([(luma, blue, red)] * 3))
    still(
        source, index=1, frame_rate=Fraction(25), raster=Raster(frame_width=160, frame_height=90, x=0, y=20, width=160, height=50),
        target=tmp_path / "x.png",
    )
    picture = np.asarray(Image.open(tmp_path / "x.png")).astype(int)
    assert picture.shape == (50, 160, 3)
    assert picture[25, 80, 0] > 240
    assert picture[25, 80, 1:].max() < 16
    assert not (tmp_path / "partial-x.png").exists()


def uneven(width: int, height: int, count: int) -> Iterator[Planes]:
    """A still first half, a noisy second."""
    quiet = next(iter(films.shimmer(width, height, 1, grain=0)))
    yield from (quiet for _ in range(count // 2))
    yield from films.shimmer(width, height, count - count // 2, grain=30)


def test_the_noisy_half_is_the_hard_one(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=8, sound=None, pictures=uneven(320, 180, 200))
    facts = inspect(source)
    found = stretches(source, facts.video, make_plan(facts, ORRERY), Fraction(1))
    assert [s.start_s for s in found] == [Fraction(i) for i in range(8)]
    assert [s.end_s for s in found] == [Fraction(i + 1) for i in range(8)]
    assert max(s.difficulty for s in found[:4]) < 0.5 * min(s.difficulty for s in found[4:])


def test_a_long_film_is_sampled(tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr("hardy_parcel.media.difficulty.DECODE_PIXELS", 0)
    monkeypatch.setattr("hardy_parcel.media.difficulty.SAMPLED_STRETCHES", 4)
    source = films.film(tmp_path / "a.mp4", seconds=8, sound=None, pictures=uneven(320, 180, 200))
    facts = inspect(source)
    found = stretches(source, facts.video, make_plan(facts, ORRERY), Fraction(1))
    assert len(found) == 4
    assert found[0].difficulty < found[-1].difficulty
