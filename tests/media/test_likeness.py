"""The parts of condition on a made picture, against vectors that were computed apart from this program."""

from __future__ import annotations

import numpy as np
import pytest

from hardy_parcel.core.arrival.condition import condition
from hardy_parcel.media.likeness import detail_kept, information_kept, levels, moved, movement, seen, stilled

WIDTH, HEIGHT = 480, 270
MOVED = 8.45643


def picture(shift: int) -> np.ndarray:
    """Waves, a board of light and dark fields, and grain, all by whole numbers."""
    y, x = np.mgrid[:HEIGHT, :WIDTH].astype(np.int64)
    x = x + shift
    board = np.where((x // 32 + y // 24) % 2 == 1, 1, -1)
    waves = np.floor(128 + 50 * np.sin(x / 7) * np.cos(y / 11) + 30 * board + 0.5).astype(np.int64)
    return np.clip(waves + ((x * 73856093) ^ (y * 19349663)) % 17 - 8, 0, 255)


def blurred(a: np.ndarray) -> np.ndarray:
    padded = np.pad(a, 1, mode="edge")
    return (sum(padded[i : i + HEIGHT, j : j + WIDTH] for i in range(3) for j in range(3)) + 4) // 9


def halved(a: np.ndarray) -> np.ndarray:
    small = (a.reshape(HEIGHT // 2, 2, WIDTH // 2, 2).sum(axis=(1, 3)) + 2) // 4
    return small.repeat(2, 0).repeat(2, 1)


REFERENCE = picture(3)
VECTORS = [
    ("identical", REFERENCE, 1.0, 1.0, 100.0),
    ("blurred", blurred(REFERENCE), 0.89895, 0.95724, 83.79),
    ("quantised", (REFERENCE + 6) // 12 * 12, 0.97837, 0.97762, 99.35),
    ("halved", halved(REFERENCE), 0.91255, 0.95981, 86.96),
    ("brighter", np.clip(REFERENCE + 6, 0, 255), 1.0, 0.99999, 100.0),
]


@pytest.mark.parametrize(("judged", "detail", "information", "expected"), [row[1:] for row in VECTORS], ids=[row[0] for row in VECTORS])
def test_the_vectors(judged: np.ndarray, detail: float, information: float, expected: float) -> None:
    assert REFERENCE.mean() == pytest.approx(127.9124, abs=1e-3)
    reference, picture_levels = seen(levels(REFERENCE)), levels(judged)
    d, v = detail_kept(reference, picture_levels), information_kept(reference, picture_levels)
    assert d == pytest.approx(detail, abs=0.002)
    assert v == pytest.approx(information, abs=0.002)
    assert condition(d, v, MOVED) == pytest.approx(expected, abs=0.4)


def test_movement_is_the_smaller_of_the_changes_into_and_out_of_a_picture() -> None:
    before, middle, after = (stilled(levels(picture(shift))) for shift in (0, 3, 5))
    into, out_of = moved(before, middle), moved(middle, after)
    assert (into, out_of) == pytest.approx((12.43055, 8.45643), abs=0.01)
    assert movement(into, out_of) == out_of
    assert movement(None, out_of) == out_of
    assert movement(None, None) == 0
    assert movement(90.0, 80.0) == 20


def test_a_flat_picture_keeps_everything() -> None:
    flat = levels(np.full((96, 160), 90, np.uint8))
    assert detail_kept(seen(flat), flat) == 1
    assert information_kept(seen(flat), flat) == pytest.approx(1)
    noisy = flat + np.random.default_rng(1).normal(0, 4, flat.shape).astype(np.float32)
    assert information_kept(seen(flat), noisy) < 1


@pytest.mark.parametrize("size", [(17, 31), (54, 96), (91, 160), (270, 480)])
def test_any_size_can_be_judged(size: tuple[int, int]) -> None:
    luma = levels(np.random.default_rng(2).integers(0, 255, size).astype(np.uint8))
    assert detail_kept(seen(luma), luma) == 1
    assert information_kept(seen(luma), luma) == 1
    assert detail_kept(seen(luma), luma * 0.5) < 1
