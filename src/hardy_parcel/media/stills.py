"""Still pictures: the poster strip of a master, and one picture at every station for the eye."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from ..core.facts import MasterFacts
from ..core.plan import VideoPlan
from ..core.screens import Raster
from .pictures import Treatment, pictures_at
from .trouble import writing

STRIP_PICTURES = 8
STRIP_HEIGHT = 144


def save(picture: av.VideoFrame, path: Path, *, raster: Raster) -> None:
    """Write a BT.709 limited-range picture as PNG or JPEG on a raster, its bars cut off, under a partial name first."""
    rgb = picture.reformat(
        width=raster.frame_width, height=raster.frame_height, format="rgb24", interpolation="BICUBIC",
        src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG,
    )
    if raster.size != (raster.frame_width, raster.frame_height):
        rows, columns = slice(raster.y, raster.y + raster.height), slice(raster.x, raster.x + raster.width)
        rgb = av.VideoFrame.from_ndarray(np.ascontiguousarray(rgb.to_ndarray()[rows, columns]), format="rgb24")
    partial = path.with_name(f"partial-{path.name}")
    with writing(path):
        rgb.save(str(partial))
        partial.replace(path)


def poster_strip(path: Path, facts: MasterFacts, look: VideoPlan, folder: Path) -> int:
    """Evenly spread pictures of a master as `0.jpg` … in `folder`; returns how many there are.

    `look` is any plan of this master that keeps the whole picture: it says how colours are to be read.
    """
    folder.mkdir(parents=True, exist_ok=True)
    video, duration = facts.video, facts.duration_s
    count = STRIP_PICTURES
    times = [duration * (2 * i + 1) / (2 * count) for i in range(count)]
    treatment = Treatment(video, look, frame=False)
    width = max(2, round(STRIP_HEIGHT * video.display_width / video.display_height))
    for number, picture in enumerate(pictures_at(path, times, start_s=video.start_s)):
        save(treatment(picture, number), folder / f"{number}.jpg", raster=Raster.whole(width, STRIP_HEIGHT))
    return count


def still(path: Path, *, index: int, frame_rate: Fraction, raster: Raster, target: Path) -> None:
    """Picture `index` of one of our own files on a raster."""
    at = (index + Fraction(1, 4)) / frame_rate
    save(next(iter(pictures_at(path, [at], start_s=Fraction(0)))), target, raster=raster)
