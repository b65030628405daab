"""Display size and exact frame rates."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.master.facts import COMMON_RATES, ColourTags, best_constant_rate, display_size


@pytest.mark.parametrize(
    ("width", "height", "sar", "rotation", "shown"),
    [
        (1920, 1080, Fraction(1), 0, (1920, 1080)),
        (1920, 1080, Fraction(1), 90, (1080, 1920)),
        (1920, 1080, Fraction(1), 270, (1080, 1920)),
        (1920, 1080, Fraction(1), 180, (1920, 1080)),
        (720, 576, Fraction(16, 15), 0, (768, 576)),
        (720, 576, Fraction(64, 45), 0, (1024, 576)),
        (1440, 1080, Fraction(4, 3), 0, (1920, 1080)),
        (720, 576, Fraction(16, 15), 90, (576, 768)),
    ],
)
def test_pixel_shape_comes_before_rotation(width, height, sar, rotation, shown) -> None:
    assert display_size(width=width, height=height, sample_aspect_ratio=sar, rotation_deg=rotation) == shown


@pytest.mark.parametrize("rate", COMMON_RATES)
def test_millisecond_time_stamps_still_give_the_exact_rate(rate: Fraction) -> None:
    pictures = 500
    span_ms = round(1000 * (pictures - 1) / rate)
    assert best_constant_rate(1000 * (pictures - 1) / span_ms) == rate


def test_an_uncommon_rate_stays_what_it_is() -> None:
    assert best_constant_rate(18.0) == 18
    assert best_constant_rate(15000 / 1001, tolerance=0.0001) == Fraction(15000, 1001)


def test_untagged_and_hdr_are_recognised() -> None:
    assert ColourTags().untagged
    assert ColourTags(range="tv").untagged
    assert not ColourTags(matrix="bt709").untagged
    assert ColourTags(transfer="smpte2084").hdr
    assert ColourTags(transfer="arib-std-b67").hdr
    assert not ColourTags(transfer="bt709").hdr
