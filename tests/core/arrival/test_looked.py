"""Where a packed picture is found in the files of a film, and where on it it suffers."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.alignment import Alignment, Placing, Timing
from hardy_parcel.core.arrival.looked import LEAST_BLOCK_PX, LookedFile, SufferingMap, map_blocks


def aligned(*, speed: float, offset_s: float) -> Alignment:
    return Alignment(
        timing=Timing(speed=speed, offset_s=offset_s, off_frames=0.0, told=True), placing=Placing(scale_x=2, scale_y=2, left=0, top=0),
        alike=0.99, packed_width=640, packed_height=360, packed_s=10.0, packed_rate=25.0, returned_width=320, returned_height=180,
        returned_s=4.0, returned_rate=25.0,
    )


def test_a_file_shows_a_packed_picture_where_its_alignment_says() -> None:
    assert LookedFile(path=Path("packed.mp4")).time_s(Fraction(7, 3)) == Fraction(7, 3)
    quicker = LookedFile(path=Path("quicker.mp4"), alignment=aligned(speed=1.25, offset_s=2.0))
    assert quicker.time_s(Fraction(9, 2)) == 2
    assert quicker.time_s(Fraction(1)) is None, "that was trimmed"
    assert quicker.time_s(Fraction(8)) is None, "it has ended"


@pytest.mark.parametrize(("raster", "blocks"), [((1600, 900), (16, 9)), ((1920, 1080), (16, 9)), ((540, 960), (8, 15)), ((48, 30), (1, 1))])
def test_blocks_are_square_and_not_too_small(raster: tuple[int, int], blocks: tuple[int, int]) -> None:
    assert map_blocks(raster) == blocks
    assert all(side / count >= min(side, LEAST_BLOCK_PX) * 0.9 for side, count in zip(raster, blocks, strict=True))


def test_the_place_that_suffers_most_is_told() -> None:
    rows = [[80.0] * 6 for _ in range(3)]
    rows[2][5] = 41.2
    found = SufferingMap(rows=tuple(tuple(row) for row in rows))
    assert found.worst == (2, 5)
    assert found.sentence == "Suffers most at the lower right: 41 there, 80 for the middle one of all blocks."
    assert "in the middle:" in SufferingMap(rows=((80, 80, 80), (80, 20, 80), (80, 80, 80))).sentence
    assert SufferingMap(rows=((80, 76), (77, 79))).sentence.startswith("It is alike all over: 76")
