"""Crops of a picture, judged by themselves."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from hardy_parcel.core.arrival.screens import Raster
from hardy_parcel.media.crops import Crop, MasterCrop, condition_map, crop_around, luma_on, suffers_most

from .. import films

SIZE = (64, 48)


@pytest.fixture
def luma() -> np.ndarray:
    """A picture of waves of all lengths, less 128."""
    x = np.arange(320)[None, :] + np.arange(180)[:, None] * 0.7
    return (60 * np.sin(x * x / 900)).astype(np.float32)


def test_the_same_crop_is_whole_and_a_smoothed_one_is_not(luma: np.ndarray) -> None:
    crop = crop_around(0.5, 0.5, raster=(320, 180), size=SIZE)
    master = MasterCrop.of(crop, [luma], 0)
    assert master.condition(luma) == pytest.approx(100, abs=0.01)
    smoother = (luma + np.roll(luma, 1, axis=1)) / 2
    smoothest = (smoother + np.roll(smoother, 3, axis=1)) / 2
    assert 90 > master.condition(smoother) > master.condition(smoothest)


def test_only_the_crop_is_judged(luma: np.ndarray) -> None:
    crop = Crop(x=0, y=0, width=64, height=48)
    elsewhere = luma.copy()
    elsewhere[100:, 100:] = 0
    assert MasterCrop.of(crop, [luma], 0).condition(elsewhere) == pytest.approx(100, abs=0.01)


def test_movement_hides_loss_and_a_cut_is_none(luma: np.ndarray) -> None:
    crop = crop_around(0.5, 0.5, raster=(320, 180), size=SIZE)
    moving = [np.roll(luma, 4 * step, axis=1) for step in (-1, 0, 1)]
    smoother = (luma + np.roll(luma, 1, axis=1)) / 2
    still, moved = MasterCrop.of(crop, [luma] * 3, 1), MasterCrop.of(crop, moving, 1)
    assert (still.movement, moved.movement > 5) == (0, True)
    assert moved.condition(smoother) > still.condition(smoother)
    assert MasterCrop.of(crop, [luma, luma, np.flip(luma)], 1).movement == 0


@pytest.mark.parametrize(("at", "place"), [((0.5, 0.5), (128, 66)), ((0, 0), (0, 0)), ((1, 1), (256, 132)), ((0.25, 0.9), (48, 132))])
def test_a_crop_lies_around_its_place_and_inside(at: tuple[float, float], place: tuple[int, int]) -> None:
    crop = crop_around(*at, raster=(320, 180), size=SIZE)
    assert (crop.x, crop.y, crop.width, crop.height) == (*place, *SIZE)
    small = crop_around(*at, raster=(40, 180), size=SIZE)
    assert (small.x, small.width) == (0, 40)


@pytest.mark.parametrize("place", [(0, 0), (256, 132), (130, 60)])
def test_the_part_is_found_on_which_two_rates_differ(luma: np.ndarray, place: tuple[int, int]) -> None:
    left, top = place
    part = slice(top, top + 48), slice(left, left + 64)
    best, worst = luma * 0.8, luma * 0.8  # what both have lost is no difference
    worst[part] = 0
    found = suffers_most([luma], 0, best, worst, size=SIZE)
    assert abs(found.x - left) <= SIZE[0] // 2
    assert abs(found.y - top) <= SIZE[1] // 2


def test_luma_stands_on_a_raster_without_its_bars(tmp_path) -> None:
    shade = np.full((180, 320), 40, np.uint8)
    shade[40:140] = 200
    chroma = np.full((90, 160), 128, np.uint8)
    picture = films.frame((shade, chroma, chroma), 0, Fraction(1, 25))
    seen = luma_on(picture, Raster(frame_width=160, frame_height=90, x=0, y=20, width=160, height=50))
    assert seen.shape == (50, 160)
    assert seen.dtype == np.float32
    assert np.abs(seen[3:-3] - 72).max() < 1


@pytest.mark.parametrize(("row", "column"), [(0, 0), (1, 2), (2, 4)])
def test_a_map_shows_the_block_that_was_smoothed(luma: np.ndarray, row: int, column: int) -> None:
    across, down = 5, 3
    smoothed = luma.copy()
    rows, columns = slice(row * 60, row * 60 + 60), slice(column * 64, column * 64 + 64)
    smoothed[rows, columns] = ((luma + np.roll(luma, 2, axis=1)) / 2)[rows, columns]
    found = np.array(condition_map([luma], 0, smoothed, (across, down)))
    assert found.shape == (down, across)
    assert np.unravel_index(found.argmin(), found.shape) == (row, column)
    assert np.median(found) > 97, "blocks beside it see a little of it"
