"""What a platform makes of an upload, and what a viewer gets."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.framing import FramingMode, choose_framing
from hardy_parcel.core.ladder import renditions_for
from hardy_parcel.core.screens import Screen, ViewerLine, frame_raster, picture_raster, rendition_for

from ..builders import ORRERY, SPRIGG


def ladder(width: int, height: int, rate: int = 25, place=ORRERY):
    return renditions_for(place, width=width, height=height, frame_rate=Fraction(rate))


def test_the_low_tier_is_capped_h264() -> None:
    made = ladder(1920, 1080)
    assert [(r.short_side_px, r.codec, r.quality, r.ceiling_bps) for r in made] == [
        (1080, "h264", 25, 3_200_000), (720, "h264", 25, 1_700_000), (480, "h264", 25, 800_000),
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
    framing = choose_framing(SPRIGG.placement, display_width=1920, display_height=1080, mode=FramingMode.FIT)
    assert picture_raster(Screen.PHONE, framing) == (540, 304)


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
