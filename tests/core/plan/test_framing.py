"""Size and shape: whatever the master, the frame is even, within the cap, and of an accepted shape."""

from __future__ import annotations

from dataclasses import replace
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.master.facts import Focus, FramingMode, active_picture
from hardy_parcel.core.plan.framing import CENTRE, MOST_ZOOM, Framing, Wish, choose_framing
from hardy_parcel.core.sheets.ladder import rungs
from hardy_parcel.core.values import Rect, even

from ...builders import FERNPOST, HANDOVER, ORRERY, SPRIGG

SIDES = st.integers(16, 8000)
MODES = st.sampled_from(FramingMode)
PLACES = st.sampled_from([ORRERY.placement, SPRIGG.placement])


def frame(width: int, height: int, mode: FramingMode = FramingMode.FIT, place=ORRERY) -> Framing:
    return choose_framing(place.placement, display_width=width, display_height=height, wish=Wish(mode=mode))


@given(SIDES, SIDES, MODES, PLACES)
def test_every_framing_is_lawful(width: int, height: int, mode: FramingMode, place) -> None:
    result = choose_framing(place, display_width=width, display_height=height, wish=Wish(mode=mode))
    crop, picture = result.crop, result.picture
    for value in (*crop.model_dump().values(), *picture.model_dump().values(), result.width, result.height):
        assert value % 2 == 0
        assert value >= 0
    assert crop.x + crop.width <= width
    assert crop.y + crop.height <= height
    assert picture.x + picture.width <= result.width
    assert picture.y + picture.height <= result.height
    assert max(result.width, result.height) <= place.max_long_side_px
    assert min(result.width, result.height) <= place.max_short_side_px


@given(SIDES, SIDES, MODES, PLACES)
def test_the_picture_is_not_squeezed(width: int, height: int, mode: FramingMode, place) -> None:
    """The picture keeps the crop's shape, but for the rounding of both to pairs of pixels."""
    result = choose_framing(place, display_width=width, display_height=height, wish=Wish(mode=mode))
    shape = result.crop.shape
    wide, high = result.picture.width, result.picture.height
    rounding = Fraction(wide, result.crop.width) + Fraction(wide, result.crop.height)
    assert abs(wide - high * shape) <= 2 + 2 * shape + rounding


@given(SIDES, SIDES, PLACES)
def test_fit_keeps_everything_and_enlarges_at_most_to_the_next_rung(width: int, height: int, place) -> None:
    result = choose_framing(place, display_width=width, display_height=height, wish=Wish(mode=FramingMode.FIT))
    assert (result.crop.width, result.crop.height) == (width - width % 2, height - height % 2)
    on_a_rung = result.mode is not None and min(result.width, result.height) in rungs(place.handling)
    most = Fraction(5, 4) if on_a_rung else 1
    assert result.picture.width <= result.crop.width * most + 2
    assert result.picture.height <= result.crop.height * most + 2


@given(SIDES, SIDES, PLACES, st.sampled_from([FramingMode.FIT, FramingMode.FILL, FramingMode.BLUR]))
def test_another_shape_comes_out_at_a_size_that_is_served(width: int, height: int, place, mode: FramingMode) -> None:
    result = choose_framing(place, display_width=width, display_height=height, wish=Wish(mode=mode))
    served, side = rungs(place.handling), min(result.width, result.height)
    if result.mode is not None and served and side > served[0]:
        assert any(abs(rung - side) <= 2 for rung in served)


def test_a_crop_between_two_rungs_goes_to_the_nearer_one() -> None:
    fit = Wish(shape=Fraction(9, 16), mode=FramingMode.FIT)
    upright = choose_framing(FERNPOST.placement, display_width=768, display_height=576, wish=fit)
    assert (upright.width, upright.height) == (720, 1280)
    scope = Wish(shape=Fraction(239, 100), mode=FramingMode.FILL)
    wide = choose_framing(FERNPOST.placement, display_width=1920, display_height=1080, wish=scope)
    assert (wide.width, wide.height) == (1720, 720)
    typed = choose_framing(
        FERNPOST.placement, display_width=768, display_height=576, wish=replace(fit, short_side_px=768)
    )
    assert (typed.width, typed.height) == (768, 1366), "what was typed stands"


@given(st.integers(200, 8000), st.integers(200, 8000))
def test_fill_leaves_no_bars(width: int, height: int) -> None:
    result = choose_framing(
        SPRIGG.placement, display_width=width, display_height=height, wish=Wish(mode=FramingMode.FILL)
    )
    assert not result.bars
    assert abs(Fraction(result.width, result.height) - Fraction(9, 16)) < Fraction(1, 100)


def test_an_accepted_shape_is_left_alone() -> None:
    assert frame(1920, 1080) == frame(1920, 1080, FramingMode.FILL)
    result = frame(1920, 1080)
    assert (result.width, result.height, result.mode, result.bars) == (1920, 1080, None, False)
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
    assert filled.kept_area(width=1920, height=1080) == pytest.approx(0.317, abs=0.001)


def test_upright_into_wide_stands_between_bars_at_its_own_size() -> None:
    result = frame(1080, 1920, place=ORRERY)
    assert Fraction(result.width, result.height) == Fraction(16, 9)
    assert (result.height, result.picture.height) == (1080, 1080)
    assert result.picture.x == (1920 - result.picture.width) // 2


@given(SIDES, SIDES, MODES, PLACES, st.integers(64, 4320))
def test_a_wanted_short_side_is_met_within_the_cap(
    width: int, height: int, mode: FramingMode, place, side: int
) -> None:
    result = choose_framing(place, display_width=width, display_height=height, wish=Wish(mode=mode, short_side_px=side))
    assert result.width % 2 == result.height % 2 == 0
    assert max(result.width, result.height) <= place.max_long_side_px
    assert min(result.width, result.height) <= max(place.max_short_side_px, 2)
    assert result.picture.x + result.picture.width <= result.width
    assert result.picture.y + result.picture.height <= result.height
    capped = (
        max(result.width, result.height) >= place.max_long_side_px - 2
        or min(result.width, result.height) >= place.max_short_side_px - 2
    )
    assert capped or abs(min(result.width, result.height) - side) <= 2


def test_sizes_down_and_up() -> None:
    def size(side: int | None, place=ORRERY, **kind) -> tuple[int, int, float]:
        result = choose_framing(
            place.placement,
            display_width=1920,
            display_height=1080,
            wish=Wish(mode=kind.get("mode", FramingMode.FIT), short_side_px=side),
        )
        return result.width, result.height, round(result.enlargement(), 2)

    assert size(None) == (1920, 1080, 1.0)
    assert size(720) == (1280, 720, 0.67)
    assert size(1440) == (2560, 1440, 1.33)
    assert size(9000) == (3840, 2160, 2.0)
    assert size(720, SPRIGG) == (720, 1280, 0.38)
    assert size(720, SPRIGG, mode=FramingMode.FILL) == (720, 1280, 1.18)


SHAPES = st.one_of(
    st.sampled_from(
        [Fraction(1), Fraction(4, 5), Fraction(9, 16), Fraction(16, 9), Fraction(2), Fraction(239, 100), Fraction(3, 4)]
    ),
    st.fractions(Fraction(1, 3), Fraction(3), max_denominator=400),
)
FOCUSES = st.builds(Focus, x=st.floats(0, 1), y=st.floats(0, 1))
ZOOMS = st.floats(1, MOST_ZOOM)
OPEN = FERNPOST.placement.model_copy(update={"narrowest": Fraction(1, 20), "widest": Fraction(20)})


@st.composite
def actives(draw) -> tuple[int, int, Rect | None]:
    """A master's display size and, some of the time, the active picture in it."""
    width, height = draw(st.integers(64, 8000)), draw(st.integers(64, 8000))
    if draw(st.booleans()):
        return width, height, None
    left, top = draw(st.integers(0, width // 4)) // 2 * 2, draw(st.integers(0, height // 4)) // 2 * 2
    wide, high = (width - 2 * left) // 2 * 2, (height - 2 * top) // 2 * 2
    return width, height, Rect(x=left, y=top, width=wide, height=high)


def framed(master, shape, mode, focus=CENTRE, zoom=1.0, place=OPEN, side=None) -> tuple[Framing, Rect]:
    width, height, active = master
    result = choose_framing(
        place,
        display_width=width,
        display_height=height,
        active=active,
        wish=Wish(mode=mode, shape=shape, focus=focus, zoom=zoom, short_side_px=side),
    )
    return result, active_picture(display_width=width, display_height=height, active=active)


@given(actives(), SHAPES, MODES, FOCUSES, ZOOMS)
def test_the_crop_lies_in_the_active_picture_and_is_even(master, shape, mode, focus, zoom) -> None:
    result, active = framed(master, shape, mode, focus, zoom)
    crop = result.crop
    assert all(value % 2 == 0 for value in crop.model_dump().values())
    assert active.x <= crop.x
    assert active.y <= crop.y
    assert crop.x + crop.width <= active.x + active.width
    assert crop.y + crop.height <= active.y + active.height


@given(actives(), SHAPES, FOCUSES, ZOOMS)
def test_a_crop_keeps_the_ratio_within_half_a_pixel_at_either_edge(master, shape, focus, zoom) -> None:
    """Even sides cannot do better than the nearest even number: a pixel in all, half of it at either edge."""
    result, _ = framed(master, shape, FramingMode.FILL, focus, zoom)
    if result.mode is not None:
        assert abs(result.crop.width - result.crop.height * Fraction(result.width, result.height)) / 2 <= Fraction(1, 2)


@given(
    st.integers(320, 4000),
    st.integers(320, 4000),
    FOCUSES,
    st.floats(1, 2),
    st.sampled_from(
        [Fraction(1), Fraction(4, 5), Fraction(9, 16), Fraction(16, 9), Fraction(2), Fraction(3, 4), Fraction(4, 3)]
    ),
)
def test_in_usual_shapes_the_whole_ratio_is_within_half_a_pixel(width, height, focus, zoom, shape) -> None:
    result, _ = framed((width, height, None), shape, FramingMode.FILL, focus, zoom, side=1080)
    if result.mode is not None:
        assert abs(result.crop.width - result.crop.height * shape) <= Fraction(1, 2)


@given(actives(), SHAPES, st.sampled_from([FramingMode.FIT, FramingMode.BLUR]), FOCUSES, ZOOMS)
def test_picture_and_bars_make_up_the_frame_exactly(master, shape, mode, focus, zoom) -> None:
    result, _ = framed(master, shape, mode, focus, zoom)
    picture = result.picture
    right, below = result.width - picture.x - picture.width, result.height - picture.y - picture.height
    assert min(picture.x, picture.y, right, below) >= 0
    assert picture.x + picture.width + right == result.width
    assert abs(picture.x - right) <= 2
    assert abs(picture.y - below) <= 2
    assert picture.width == result.width or picture.height == result.height
    assert result.width == even(result.height * shape) or result.height == even(result.width / shape)


@given(actives(), SHAPES, MODES, ZOOMS, st.floats(0, 1), st.floats(0, 1))
def test_moving_the_focus_moves_the_crop_and_changes_nothing_else(master, shape, mode, zoom, one, other) -> None:
    first, _ = framed(master, shape, mode, Focus(x=one, y=0.5), zoom)
    second, _ = framed(master, shape, mode, Focus(x=other, y=0.5), zoom)
    assert (first.width, first.height, first.picture) == (second.width, second.height, second.picture)
    assert (first.crop.width, first.crop.height, first.crop.y) == (second.crop.width, second.crop.height, second.crop.y)
    assert (first.crop.x <= second.crop.x) if one <= other else (first.crop.x >= second.crop.x)


@given(actives(), SHAPES, st.floats(1, 4))
def test_a_closer_zoom_keeps_less(master, shape, zoom) -> None:
    far, _ = framed(master, shape, FramingMode.FILL, zoom=zoom)
    near, _ = framed(master, shape, FramingMode.FILL, zoom=zoom * 2)
    assert near.crop.width <= far.crop.width
    assert near.crop.height <= far.crop.height


def test_fit_zoomed_as_far_as_the_shapes_differ_is_fill() -> None:
    """A zoom takes the bars away bit by bit; where the last of them goes, the window fits inside."""
    master = (1920, 1080, None)
    whole, _ = framed(master, Fraction(1), FramingMode.FIT)
    some, _ = framed(master, Fraction(1), FramingMode.FIT, zoom=1.4)
    none, _ = framed(master, Fraction(1), FramingMode.FIT, zoom=16 / 9)
    fill, _ = framed(master, Fraction(1), FramingMode.FILL)
    assert [f.bars for f in (whole, some, none)] == [True, True, False]
    assert whole.crop.width == 1920 > some.crop.width > none.crop.width == fill.crop.width == 1080
    assert some.picture.height > whole.picture.height


def test_the_focus_is_kept_and_clamped_at_the_edges() -> None:
    def at(x: float) -> Rect:
        return framed((1920, 1080, None), Fraction(9, 16), FramingMode.FILL, Focus(x=x))[0].crop

    assert at(0.0).x == 0
    assert at(1.0).x == 1920 - at(1.0).width
    assert abs(at(0.3).x + at(0.3).width / 2 - 0.3 * 1920) <= 2


def test_the_focus_counts_from_the_active_picture() -> None:
    active = Rect(x=240, y=60, width=1440, height=960)
    left, _ = framed((1920, 1080, active), Fraction(9, 16), FramingMode.FILL, Focus(x=0))
    right, _ = framed((1920, 1080, active), Fraction(9, 16), FramingMode.FILL, Focus(x=1))
    assert (left.crop.x, left.crop.y) == (240, 60)
    assert right.crop.x + right.crop.width == 1680


def test_a_shape_that_is_not_taken_is_refused_and_says_which_are() -> None:
    with pytest.raises(BadChoice, match="9:16") as refused:
        choose_framing(SPRIGG.placement, display_width=1920, display_height=1080, wish=Wish(shape=Fraction(1)))
    assert refused.value.code == "shape_not_taken"
    with pytest.raises(BadChoice, match="4:3 to 2.333:1|4:3 to 7:3"):
        choose_framing(ORRERY.placement, display_width=1920, display_height=1080, wish=Wish(shape=Fraction(1)))


def test_where_nothing_is_encoded_again_a_crop_is_not_enlarged() -> None:
    """A smaller upload gets a poorer ladder only where there is a ladder."""
    still, _ = framed((1280, 720, None), Fraction(1), FramingMode.FILL, place=HANDOVER.placement)
    ladder, _ = framed((1280, 720, None), Fraction(1), FramingMode.FILL)
    assert (still.width, still.enlargement()) == (720, 1.0)
    assert (ladder.width, ladder.enlargement()) == (1080, 1.5)


def test_a_zoom_into_the_own_shape_is_a_crop() -> None:
    result = choose_framing(HANDOVER.placement, display_width=1920, display_height=1080, wish=Wish(zoom=1.5))
    assert (result.mode, result.width, result.height, result.crop.x, result.crop.y) == (
        FramingMode.FILL,
        1280,
        720,
        320,
        180,
    )
