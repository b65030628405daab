"""Crops of a picture on a viewer's screen, judged against the same crop of the master."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import av
import numpy as np
from av.video.reformatter import ColorRange, Interpolation

from ..core.arrival.condition import condition
from ..core.arrival.screens import Raster
from .likeness import CENTRE_SHARE, ReferencePicture, detail_kept, information_kept, levels, moved, movement, seen, stilled
from .luma import rows_of

SCALED = Interpolation.BICUBIC | Interpolation.ACCURATE_RND


def luma_on(picture: av.VideoFrame, raster: Raster) -> np.ndarray:
    """Luma `levels` of a picture as it stands on a raster, its bars cut off: rows × columns of float32."""
    scaled = picture.reformat(
        width=raster.frame_width, height=raster.frame_height, format="yuv420p", interpolation=SCALED,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.MPEG,
    )
    rows = rows_of(scaled.planes[0])
    return levels(rows[raster.y : raster.y + raster.height, raster.x : raster.x + raster.width])


@dataclass(frozen=True, slots=True, kw_only=True)
class Crop:
    """A part of a raster, in px."""

    x: int
    y: int
    width: int
    height: int

    def of(self, luma: np.ndarray) -> np.ndarray:
        return np.ascontiguousarray(luma[self.y : self.y + self.height, self.x : self.x + self.width])


def crop_around(x: float, y: float, *, raster: tuple[int, int], size: tuple[int, int]) -> Crop:
    """The crop of at most `size` whose middle is nearest to a place, given in shares of the raster's width and height."""
    width, height = min(size[0], raster[0]), min(size[1], raster[1])
    left, top = round(x * raster[0] - width / 2), round(y * raster[1] - height / 2)
    return Crop(x=min(max(0, left), raster[0] - width), y=min(max(0, top), raster[1] - height), width=width, height=height)


@dataclass(frozen=True, slots=True, kw_only=True)
class MasterCrop:
    """What is computed once of a crop of the master: the picture itself and its movement towards its neighbours."""

    crop: Crop
    picture: ReferencePicture
    movement: float

    @classmethod
    def of(cls, crop: Crop, pictures: Sequence[np.ndarray], place: int) -> MasterCrop:
        """From the luma of a picture and its neighbours, the picture itself at `place` among them."""
        own = [stilled(crop.of(luma)) for luma in pictures]
        into = moved(own[place - 1], own[place]) if place > 0 else None
        out_of = moved(own[place], own[place + 1]) if place + 1 < len(own) else None
        return cls(crop=crop, picture=seen(crop.of(pictures[place])), movement=movement(into, out_of))

    def condition(self, luma: np.ndarray) -> float:
        """Condition 0–100 of the same crop of another picture's luma, by the scale that whole pictures are judged by."""
        judged = self.crop.of(luma)
        return condition(detail_kept(self.picture, judged), information_kept(self.picture, judged), self.movement)


def condition_map(
    pictures: Sequence[np.ndarray], place: int, judged: np.ndarray, blocks: tuple[int, int]
) -> tuple[tuple[float, ...], ...]:
    """Condition 0–100 of each block of a picture, rows of columns, `blocks` being how many there are across and down.

    `pictures` are the master's luma at `place` and beside it, all of one raster. Every block is judged as a crop whose central part it
    is, since the scale looks at that; at the picture's borders the crop is pushed inwards.
    """
    height, width = judged.shape
    across, down = blocks
    size = min(width, math.ceil(width / across / CENTRE_SHARE)), min(height, math.ceil(height / down / CENTRE_SHARE))

    def of_block(column: int, row: int) -> float:
        crop = crop_around((column + 0.5) / across, (row + 0.5) / down, raster=(width, height), size=size)
        return round(MasterCrop.of(crop, pictures, place).condition(judged), 1)

    return tuple(tuple(of_block(column, row) for column in range(across)) for row in range(down))


def suffers_most(
    pictures: Sequence[np.ndarray], place: int, best: np.ndarray, worst: np.ndarray, *, size: tuple[int, int]
) -> Crop:
    """The crop, of those half a crop apart, where `worst` lies farthest below `best`; the first of equals.

    `pictures` are the master's luma at `place` and beside it, all of one raster.
    """
    height, width = worst.shape
    places = list(_places(crop_around(0.5, 0.5, raster=(width, height), size=size), width, height))

    def lost(crop: Crop) -> float:
        master = MasterCrop.of(crop, pictures, place)
        return master.condition(best) - master.condition(worst)

    return max(places, key=lost)


def _places(one: Crop, width: int, height: int) -> Iterator[Crop]:
    for y in _starts(height, one.height):
        for x in _starts(width, one.width):
            yield Crop(x=x, y=y, width=one.width, height=one.height)


def _starts(length: int, part: int) -> list[int]:
    """Where parts begin that overlap by half or a little more, the last at the end."""
    free = length - part
    count = -(-free // max(1, part // 2)) + 1
    return [round(free * number / max(1, count - 1)) for number in range(count)]
