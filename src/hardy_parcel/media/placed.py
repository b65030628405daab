"""Pictures cut and scaled to fractions of a pixel, as alignment finds them, and what a file's packets cost picture by picture."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from PIL import Image

from ..core.arrival.alignment import Alignment
from .luma import rows_of
from .pictures import Picture
from .trouble import open_film, reading

Box = tuple[float, float, float, float]
"""Left, top, right and bottom in px."""
BLACK, GREY = (16, 128, 128), (126, 128, 128)


def cut_out(picture: Picture, box: Box, size: tuple[int, int]) -> Picture:
    """The part of a picture within a box, scaled once to a size in px (even); the box may lie between pixels but not beyond the edges."""
    shown = picture if picture.format.name == "yuv420p" else picture.reformat(format="yuv420p")
    made = av.VideoFrame(size[0], size[1], "yuv420p")
    for number, plane in enumerate(shown.planes):
        half = 1 if number == 0 else 2
        rows = np.ascontiguousarray(rows_of(plane)[: plane.height, : plane.width])
        left, top, right, bottom = (side / half for side in box)
        inside = max(0.0, left), max(0.0, top), min(float(plane.width), right), min(float(plane.height), bottom)
        scaled = Image.fromarray(rows).resize((size[0] // half, size[1] // half), Image.Resampling.BICUBIC, box=inside)
        _write(made, number, np.asarray(scaled))
    return made


def as_returned(picture: Picture, alignment: Alignment) -> Picture:
    """A packed picture as the returned file shows it: cut and scaled, with black where a border was added."""
    width, height = alignment.returned_width // 2 * 2, alignment.returned_height // 2 * 2
    if alignment.whole_frame:
        return picture.reformat(width=width, height=height, format="yuv420p", interpolation="BICUBIC")
    place, shown = alignment.placing, alignment.shown
    x0, x1 = (round((side - place.left) / place.scale_x / 2) * 2 for side in (shown[0], shown[2]))
    y0, y1 = (round((side - place.top) / place.scale_y / 2) * 2 for side in (shown[1], shown[3]))
    x0, y0, x1, y1 = max(0, x0), max(0, y0), min(width, x1), min(height, y1)
    inner = cut_out(picture, shown, (x1 - x0, y1 - y0))
    made = av.VideoFrame(width, height, "yuv420p")
    for number, plane in enumerate(inner.planes):
        half = 1 if number == 0 else 2
        rows = np.full((height // half, width // half), BLACK[number], np.uint8)
        rows[y0 // half : y1 // half, x0 // half : x1 // half] = rows_of(plane)[: plane.height, : plane.width]
        _write(made, number, rows)
    return made


def laid_back(picture: Picture, alignment: Alignment) -> Picture:
    """A returned picture as it lies in the packed frame: at that frame's size with grey where nothing came back, or as it is where it shows
    all of it."""
    if alignment.whole_frame:
        return picture
    size, place = (alignment.packed_width, alignment.packed_height), alignment.placing
    left, top, right, bottom = (round(side / 2) * 2 for side in alignment.shown)
    across = (left - place.left) / place.scale_x, (right - place.left) / place.scale_x
    down = (top - place.top) / place.scale_y, (bottom - place.top) / place.scale_y
    inner = cut_out(picture, (across[0], down[0], across[1], down[1]), (right - left, bottom - top))
    made = av.VideoFrame(size[0], size[1], "yuv420p")
    for number, plane in enumerate(inner.planes):
        half = 1 if number == 0 else 2
        rows = np.full((size[1] // half, size[0] // half), GREY[number], np.uint8)
        rows[top // half : bottom // half, left // half : right // half] = rows_of(plane)[: plane.height, : plane.width]
        _write(made, number, rows)
    return made


def _write(picture: Picture, number: int, rows: np.ndarray) -> None:
    plane = picture.planes[number]
    whole = np.zeros((plane.height, plane.line_size), np.uint8)
    whole[:, : plane.width] = rows
    plane.update(whole.tobytes())


@dataclass(frozen=True, slots=True, kw_only=True)
class PictureBits:
    """What each picture of a film costs, by its number in the order they are shown, and which are keyframes."""

    bits: np.ndarray
    keys: np.ndarray

    @property
    def over_other(self) -> float:
        """What all pictures cost on average over what those cost that are no keyframes; 1 where there are no others."""
        others = self.bits[~self.keys]
        return float(self.bits.mean() / others.mean()) if len(others) and others.mean() > 0 else 1.0

    def of_others(self, first: int, count: int) -> float:
        """Mean bits of the pictures of a stretch that are no keyframes; of all of them where every one is."""
        part, keys = self.bits[first : first + count], self.keys[first : first + count]
        return float((part[~keys] if (~keys).any() else part).mean()) if len(part) else 0.0


def picture_bits(path: Path, rate: Fraction, start_s: Fraction) -> PictureBits:
    """The packets of a film's picture as they are shown."""
    found: dict[int, tuple[int, bool]] = {}
    with reading(path), open_film(path) as film:
        stream = film.streams.video[0]
        for packet in film.demux(stream):
            if packet.size and packet.pts is not None:
                number = round((packet.pts * (stream.time_base or Fraction(1)) - start_s) * rate)
                before = found.get(number, (0, False))
                found[number] = before[0] + packet.size * 8, before[1] or packet.is_keyframe
    numbers = sorted(found)
    return PictureBits(
        bits=np.array([found[number][0] for number in numbers], float), keys=np.array([found[number][1] for number in numbers], bool),
    )
