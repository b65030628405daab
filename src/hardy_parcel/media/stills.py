"""Still pictures: the poster strip of a master, and one picture at every station for the eye."""

from __future__ import annotations

import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace

from ..core.facts import MasterFacts
from ..core.plan import VideoPlan
from ..core.screens import Raster
from ..core.strip import STRIP_PICTURES, strip_order
from .inspect import picture_stream
from .pictures import Treatment, pictures_at
from .trouble import open_film, reading, writing

STRIP_HEIGHT = 144
EXACT_FOR_S = 1.5


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


def poster_strip(path: Path, facts: MasterFacts, look: VideoPlan, folder: Path) -> Iterator[int]:
    """Evenly spread pictures of a master as `0.jpg` … in `folder`, coarsely first; yields how many there are.

    `look` is any plan of this master that keeps the whole picture: it says how colours are to be read. After a second
    and a half the rest are the keyframes before their places, which cost one decoded picture each.
    """
    folder.mkdir(parents=True, exist_ok=True)
    video, duration = facts.video, facts.duration_s
    treatment = Treatment(video, look, frame=False)
    width = max(2, round(STRIP_HEIGHT * video.display_width / video.display_height))
    raster = Raster.whole(width, STRIP_HEIGHT)
    with reading(path), open_film(path) as container:
        stream = picture_stream(container, path)
        stream.thread_type = "SLICE"  # frame threads would decode ahead of every single picture
        ends = time.monotonic() + EXACT_FOR_S
        for done, number in enumerate(strip_order()):
            at = duration * (2 * number + 1) / (2 * STRIP_PICTURES)
            exactly = at if time.monotonic() < ends else None
            picture = _near(container, stream, at + video.start_s, exactly, video.start_s)
            if picture is None:
                continue
            save(treatment(picture, number), folder / f"{number}.jpg", raster=raster)
            yield done + 1


def _near(container, stream, place: Fraction, exactly: Fraction | None, start_s: Fraction) -> av.VideoFrame | None:
    """The keyframe before a time stamp in s, or the picture shown at `exactly` s; None where nothing can be decoded."""
    container.seek(int(max(place, Fraction(0)) / stream.time_base), stream=stream, backward=True)
    shown = None
    for frame in container.decode(stream):
        stamp = frame.pts if frame.pts is not None else frame.dts or 0
        if shown is not None and exactly is not None and stamp * (frame.time_base or stream.time_base) - start_s > exactly:
            return shown
        shown = frame
        if exactly is None:
            return shown
    return shown


def still(path: Path, *, index: int, frame_rate: Fraction, raster: Raster, target: Path) -> None:
    """Picture `index` of one of our own files on a raster."""
    at = (index + Fraction(1, 4)) / frame_rate
    save(next(iter(pictures_at(path, [at], start_s=Fraction(0)))), target, raster=raster)
