"""Size and shape: whatever the master, the frame is even, within the cap, and of an accepted shape."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.framing import Framing, FramingMode, choose_framing

from ..builders import ORRERY, SPRIGG

SIDES = st.integers(16, 8000)
MODES = st.sampled_from(FramingMode)
PLACES = st.sampled_from([ORRERY.placement, SPRIGG.placement])


def frame(width: int, height: int, mode: FramingMode = FramingMode.FIT, place=ORRERY) -> Framing:
    return choose_framing(place.placement, display_width=width, display_height=height, mode=mode)


@given(SIDES, SIDES, MODES, PLACES)
def test_every_framing_is_lawful(width: int, height: int, mode: FramingMode, place) -> None:
    found = choose_framing(place, display_width=width, display_height=height, mode=mode)
    crop, picture = found.crop, found.picture
    for value in (*crop.model_dump().values(), *picture.model_dump().values(), found.width, found.height):
        assert value % 2 == 0
        assert value >= 0
    assert crop.x + crop.width <= width
    assert crop.y + crop.height <= height
    assert picture.x + picture.width <= found.width
    assert picture.y + picture.height <= found.height
    assert max(found.width, found.height) <= place.max_long_side_px
    assert min(found.width, found.height) <= place.max_short_side_px


@given(SIDES, SIDES, MODES, PLACES)
def test_the_picture_is_not_squeezed(width: int, height: int, mode: FramingMode, place) -> None:
    """The picture keeps the crop's shape, but for the rounding of both to pairs of pixels."""
    found = choose_framing(place, display_width=width, display_height=height, mode=mode)
    shape = found.crop.shape
    wide, high = found.picture.width, found.picture.height
    rounding = Fraction(wide, found.crop.width) + Fraction(wide, found.crop.height)
    assert abs(wide - high * shape) <= 2 + 2 * shape + rounding


@given(SIDES, SIDES, PLACES)
def test_fit_keeps_everything_and_never_enlarges(width: int, height: int, place) -> None:
    found = choose_framing(place, display_width=width, display_height=height, mode=FramingMode.FIT)
    assert (found.crop.width, found.crop.height) == (width - width % 2, height - height % 2)
    assert found.picture.width <= found.crop.width + 2
    assert found.picture.height <= found.crop.height + 2


@given(st.integers(200, 8000), st.integers(200, 8000))
def test_fill_leaves_no_bars(width: int, height: int) -> None:
    found = choose_framing(SPRIGG.placement, display_width=width, display_height=height, mode=FramingMode.FILL)
    assert not found.bars
    assert abs(Fraction(found.width, found.height) - Fraction(9, 16)) < Fraction(1, 100)


def test_an_accepted_shape_is_left_alone() -> None:
    assert frame(1920, 1080) == frame(1920, 1080, FramingMode.FILL)
    found = frame(1920, 1080)
    assert (found.width, found.height, found.mode, found.bars) == (1920, 1080, None, False)
    assert frame(1081, 811).width == 1080
    assert (frame(7680, 4320).width, frame(7680, 4320).height) == (3840, 2160)


def test_wide_into_upright_by_fit_and_by_fill() -> None:
    fitted, filled = frame(1920, 1080, place=SPRIGG), frame(1920, 1080, FramingMode.FILL, place=SPRIGG)
    assert (fitted.width, fitted.height) == (1080, 1920)
    assert (fitted.picture.width, fitted.picture.height, fitted.picture.x) == (1080, 608, 0)
    assert fitted.picture.y == 656
    assert (filled.width, filled.height) == (1080, 1920)
    assert (filled.crop.width, filled.crop.height, filled.crop.x) == (608, 1080, 656)
    assert filled.enlargement() == pytest.approx(1.78, abs=0.01)
    assert filled.kept_area(display_width=1920, display_height=1080) == pytest.approx(0.317, abs=0.001)


def test_upright_into_wide_stands_between_bars_at_its_own_size() -> None:
    found = frame(1080, 1920, place=ORRERY)
    assert Fraction(found.width, found.height) == Fraction(16, 9)
    assert (found.height, found.picture.height) == (1080, 1080)
    assert found.picture.x == (1920 - found.picture.width) // 2


@given(SIDES, SIDES, MODES, PLACES, st.integers(64, 4320))
def test_a_wanted_short_side_is_met_within_the_cap(width: int, height: int, mode: FramingMode, place, side: int) -> None:
    found = choose_framing(place, display_width=width, display_height=height, mode=mode, short_side_px=side)
    assert found.width % 2 == found.height % 2 == 0
    assert max(found.width, found.height) <= place.max_long_side_px
    assert min(found.width, found.height) <= max(place.max_short_side_px, 2)
    assert found.picture.x + found.picture.width <= found.width
    assert found.picture.y + found.picture.height <= found.height
    capped = max(found.width, found.height) >= place.max_long_side_px - 2 or min(found.width, found.height) >= place.max_short_side_px - 2
    assert capped or abs(min(found.width, found.height) - side) <= 2


def test_sizes_down_and_up() -> None:
    def size(side: int | None, place=ORRERY, **kind) -> tuple[int, int, float]:
        found = choose_framing(
            place.placement, display_width=1920, display_height=1080, mode=kind.get("mode", FramingMode.FIT), short_side_px=side,
        )
        return found.width, found.height, round(found.enlargement(), 2)

    assert size(None) == (1920, 1080, 1.0)
    assert size(720) == (1280, 720, 0.67)
    assert size(1440) == (2560, 1440, 1.33)
    assert size(9000) == (3840, 2160, 2.0)
    assert size(720, SPRIGG) == (720, 1280, 0.38)
    assert size(720, SPRIGG, mode=FramingMode.FILL) == (720, 1280, 1.18)
