"""What a platform makes of an upload, and what a viewer gets."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.screens import Screen, ViewerLine, frame_raster, picture_raster, rendition_for
from hardy_parcel.core.master.facts import FramingMode
from hardy_parcel.core.plan.framing import Wish, choose_framing
from hardy_parcel.core.sheets.ladder import renditions_for

from ...builders import ORRERY, SPRIGG


def ladder(width: int, height: int, rate: int = 25, place=ORRERY):
    return renditions_for(place, width=width, height=height, frame_rate=Fraction(rate))


def test_the_low_tier_is_capped_h264() -> None:
    made = ladder(1920, 1080)
    assert [(r.short_side_px, r.codec, r.quality, r.ceiling_bps) for r in made] == [
        (1080, "h264", 25, 3_200_000),
        (720, "h264", 25, 1_700_000),
        (480, "h264", 25, 800_000),
    ]
    assert [(r.width, r.height) for r in made] == [(1920, 1080), (1280, 720), (854, 480)]
    assert made[0].buffer_bits == 6_400_000
    assert made[0].keyframe_interval_frames == 50


def test_high_rates_get_higher_ceilings() -> None:
    assert [r.ceiling_bps for r in ladder(1920, 1080, 50)] == [4_800_000, 2_550_000, 1_200_000]


def test_going_up_a_tier_is_handled_as_vp9() -> None:
    made = ladder(2560, 1440)
    assert {r.codec for r in made} == {"vp9"}
    assert [r.ceiling_bps for r in made] == [6_500_000, 2_900_000, 1_500_000, 700_000]
    assert ladder(3840, 2160)[0].ceiling_bps == 13_000_000


def test_nothing_is_enlarged_and_small_uploads_are_still_served() -> None:
    assert [(r.width, r.height) for r in ladder(640, 360)] == [(640, 360)]
    assert ladder(640, 360)[0].ceiling_bps == 800_000


def test_the_upright_platform_halves_above_its_rate_cap() -> None:
    made = ladder(1080, 1920, 60, SPRIGG)
    assert {(r.frame_rate, r.keep_every) for r in made} == {(Fraction(30), 2)}
    assert [(r.width, r.height) for r in made] == [(1080, 1920), (720, 1280), (540, 960)]
    assert [r.ceiling_bps for r in made] == [2_300_000, 1_200_000, 700_000]
    assert made[0].phrase == "1080p H264 up to 2.3 Mbit/s"


def test_a_destination_without_handling_makes_nothing() -> None:
    place = SPRIGG.placement.model_copy(update={"handling": SPRIGG.placement.handling.model_copy(update={"tiers": ()})})
    assert ladder(1080, 1920, 30, SPRIGG.model_copy(update={"placement": place})) == []


@given(st.integers(60, 2160).map(lambda n: 2 * (n // 2)), st.sampled_from([25, 30, 50, 60, 120]))
def test_renditions_are_even_and_ordered(side: int, rate: int) -> None:
    made = ladder(side * 16 // 9, side, rate)
    assert made
    for rendition in made:
        assert rendition.width % 2 == rendition.height % 2 == 0
        assert min(rendition.width, rendition.height) <= side
    assert [r.ceiling_bps for r in made] == sorted((r.ceiling_bps for r in made), reverse=True)


@pytest.mark.parametrize("size", [(1920, 1080), (1280, 720), (1440, 1080), (1920, 804), (1080, 1080), (3840, 2160)])
@pytest.mark.parametrize("screen", list(Screen))
def test_usual_shapes_meet_their_reference_to_a_fifteenth_of_a_pixel(size, screen: Screen) -> None:
    framing = choose_framing(SPRIGG.placement, display_width=size[0], display_height=size[1])
    found, picture = picture_raster(screen, framing), framing.picture
    for edge, row in ((found.y, picture.y), (found.y + found.height, picture.y + picture.height)):
        assert abs(edge - Fraction(found.frame_height * row, framing.height)) < Fraction(1, 15)


@pytest.mark.parametrize(
    ("screen", "size", "raster"),
    [
        (Screen.PHONE, (1920, 1080), (960, 540)),
        (Screen.LAPTOP, (1920, 1080), (1600, 900)),
        (Screen.TV, (1920, 1080), (1920, 1080)),
        (Screen.TV, (3840, 2160), (1920, 1080)),
        (Screen.PHONE, (1080, 1920), (540, 960)),
        (Screen.LAPTOP, (1080, 1920), (506, 900)),
        (Screen.LAPTOP, (1080, 1080), (900, 900)),
        (Screen.TV, (1920, 804), (1920, 804)),
    ],
)
def test_the_raster_is_an_angle_not_a_pixel_count(screen: Screen, size, raster) -> None:
    assert frame_raster(screen, *size) == raster


def test_bars_are_left_out_of_the_comparison() -> None:
    framing = choose_framing(SPRIGG.placement, display_width=1920, display_height=1080, wish=Wish(mode=FramingMode.FIT))
    found = picture_raster(Screen.PHONE, framing)
    assert (found.size, found.x, found.y) == ((540, 304), 0, 328)
    assert (found.frame_width, found.frame_height) == (540, 960)


@given(st.integers(64, 4000), st.integers(64, 4000), st.sampled_from([ORRERY, SPRIGG]), st.sampled_from(Screen))
def test_the_picture_meets_its_reference_on_the_raster(width: int, height: int, place, screen: Screen) -> None:
    """Whatever the master, its edges fall within half a raster pixel of their place; for usual shapes, on it."""
    framing = choose_framing(place.placement, display_width=width, display_height=height)
    found, picture = picture_raster(screen, framing), framing.picture
    assert found.frame_width % 2 == found.frame_height % 2 == 0
    for frame, start, extent, whole, at, size in (
        (found.frame_width, found.x, found.width, framing.width, picture.x, picture.width),
        (found.frame_height, found.y, found.height, framing.height, picture.y, picture.height),
    ):
        assert 0 <= start <= start + extent <= frame
        assert abs(start - Fraction(frame * at, whole)) <= Fraction(1, 2)
        assert abs(start + extent - Fraction(frame * (at + size), whole)) <= Fraction(1, 2)
    target = frame_raster(screen, framing.width, framing.height)
    assert abs(found.frame_width - target[0]) <= 0.03 * target[0]
    assert abs(found.frame_height - target[1]) <= 0.03 * target[1]


def test_the_rendition_a_viewer_gets() -> None:
    wide, upright = ladder(3840, 2160), ladder(1080, 1920, 30, SPRIGG)
    assert rendition_for(Screen.PHONE, ViewerLine.GOOD, wide).short_side_px == 1080
    assert rendition_for(Screen.LAPTOP, ViewerLine.GOOD, wide).short_side_px == 1080
    assert rendition_for(Screen.TV, ViewerLine.GOOD, wide).short_side_px == 2160
    assert rendition_for(Screen.TV, ViewerLine.SLOW, wide).ceiling_bps <= 1_500_000
    assert rendition_for(Screen.PHONE, ViewerLine.GOOD, upright).short_side_px == 1080
    assert rendition_for(Screen.LAPTOP, ViewerLine.GOOD, upright).short_side_px == 720
    assert rendition_for(Screen.TV, ViewerLine.GOOD, ladder(1280, 720)).short_side_px == 720
    assert rendition_for(Screen.PHONE, ViewerLine.SLOW, ladder(1920, 1080)).short_side_px == 480
