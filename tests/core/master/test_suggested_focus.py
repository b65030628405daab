"""Where a crop is centred before the creator says so."""

from __future__ import annotations

import numpy as np
import pytest

from hardy_parcel.core.master.suggested_focus import SIDE, saliency, suggested_focus


def scene(x: float | None = None, y: float = 0.5, *, seed: int = 1) -> np.ndarray:
    """A soft sky with some noise, and a small figure at shares of width and height."""
    rng = np.random.default_rng(seed)
    luma = np.linspace(90, 150, SIDE)[:, None] + rng.normal(0, 2, (SIDE, SIDE))
    if x is not None:
        rows, columns = np.mgrid[:SIDE, :SIDE] / SIDE
        luma[(abs(columns - x) < 0.06) & (abs(rows - y) < 0.12)] = 30
        luma[(abs(columns - x) < 0.03) & (abs(rows - y + 0.09) < 0.03)] = 220
    return np.stack([luma.clip(0, 255), *np.full((2, SIDE, SIDE), 128)]).astype(np.uint8)


@pytest.mark.parametrize(("x", "y"), [(0.2, 0.5), (0.8, 0.5), (0.7, 0.25), (0.15, 0.85)])
def test_a_figure_at_the_side_stays_in_a_narrow_crop(x: float, y: float) -> None:
    focus = suggested_focus([scene(x, y, seed=seed) for seed in range(4)])
    assert abs(focus.x - x) < 0.16, "half of what the narrowest crop keeps"
    assert abs(focus.y - y) < 0.2


def test_the_middle_stays_where_nothing_else_holds_more() -> None:
    assert suggested_focus([scene(0.5)]) is None
    assert suggested_focus([scene(seed=seed) for seed in range(6)]) is None, "nothing stands out"
    assert suggested_focus([]) is None
    assert suggested_focus([np.full((3, SIDE, SIDE), 16, np.uint8)] * 3) is None, "a blank film"


def test_where_a_figure_stands_most_of_the_time_counts() -> None:
    focus = suggested_focus([scene(0.75, seed=1), scene(0.78, seed=2), scene(0.3, seed=3), scene(0.76, seed=4)])
    assert focus.x > 0.6


def test_what_stands_out_by_colour_alone_is_found_and_mirrors_with_its_frame() -> None:
    frame = np.full((3, SIDE, SIDE), 128, np.uint8)
    frame[2, 20:30, 48:56] = 180
    assert suggested_focus([frame]).x == pytest.approx(52 / SIDE, abs=0.16)
    assert saliency(frame).sum() == pytest.approx(1)
    assert np.allclose(saliency(frame[:, :, ::-1])[:, ::-1], saliency(frame))
