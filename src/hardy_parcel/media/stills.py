"""Still pictures: the poster strip of a master, and one picture at every station for the eye.

The library's own writers of stills are not used: its JPEG says BT.601 by its file format whatever matrix the samples have, and
its PNG carries a gamma that browsers darken. Here samples become RGB by BT.709, and RGB is what is written, untagged.
"""

from __future__ import annotations

import io
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np
from av.video.reformatter import ColorRange, Interpolation
from PIL import Image

from ..core.arrival.screens import Raster
from ..core.master.facts import MasterFacts
from ..core.master.strip import STRIP_PICTURES, strip_order
from ..core.plan.plan import VideoPlan
from .inspect import picture_stream
from .pictures import Treatment
from .trouble import open_film, reading, writing

STRIP_HEIGHT = 144
EXACT_FOR_S = 1.5


KR, KB = 0.2126, 0.0722
"""Luma's share of red and blue, Rec. ITU-R BT.709-6 item 3.2."""
_LUMA, _CHROMA, _KG = 255 / 219, 255 / 224, 1 - KR - KB
_MATRIX = np.array([
    [_LUMA, 0, 2 * (1 - KR) * _CHROMA],
    [_LUMA, -2 * (1 - KB) * KB / _KG * _CHROMA, -2 * (1 - KR) * KR / _KG * _CHROMA],
    [_LUMA, 2 * (1 - KB) * _CHROMA, 0],
])
TO_RGB = np.hstack([_MATRIX, _MATRIX @ [[-16], [-128], [-128]]])
"""From Y′, Cb and Cr of limited range, and 1, to R′, G′ and B′ of full range."""
JPEG_QUALITY, PNG_EFFORT = 92, 1
WELL = Interpolation.BICUBIC | Interpolation.ACCURATE_RND | Interpolation.FULL_CHR_H_INP


def rgb(picture: av.VideoFrame, raster: Raster) -> np.ndarray:
    """Rows × columns × 3 of uint8, full range, of a BT.709 limited-range picture on a raster, its bars cut off.

    Luma and chroma are scaled as they are; the matrix is then applied in floating point and rounded once.
    """
    full = picture.reformat(
        width=raster.frame_width, height=raster.frame_height, format="yuv444p", interpolation=WELL,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.MPEG,
    ).to_ndarray()
    rows, columns = slice(raster.y, raster.y + raster.height), slice(raster.x, raster.x + raster.width)
    samples = cv2.merge([plane[rows, columns] for plane in full]).astype(np.float32)  # of whole numbers it would be rounded twice
    exact = np.asarray(cv2.transform(samples, TO_RGB))
    return np.asarray(cv2.convertScaleAbs(np.maximum(exact, 0, out=exact)))


def encoded(picture: av.VideoFrame, ending: str, raster: Raster) -> bytes:
    """The bytes of a still file, `ending` being jpg, png or bmp: chroma is kept whole, and no profile or gamma is written."""
    found = io.BytesIO()
    image = Image.fromarray(rgb(picture, raster))
    if ending == "png":
        image.save(found, "PNG", compress_level=PNG_EFFORT)
    elif ending == "bmp":  # large, and there at once: packing a picture takes longer than all else that is done to it
        image.save(found, "BMP")
    else:
        image.save(found, "JPEG", quality=JPEG_QUALITY, subsampling=0)
    return found.getvalue()


def save(picture: av.VideoFrame, path: Path, *, raster: Raster) -> None:
    """Write a picture as PNG, JPEG or BMP, by the path's ending, under a partial name first."""
    partial = path.with_name(f"partial-{path.name}")
    with writing(path):
        partial.write_bytes(encoded(picture, path.suffix.lstrip("."), raster))
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


def _near(container: Any, stream: Any, place: Fraction, exactly: Fraction | None, start_s: Fraction) -> av.VideoFrame | None:
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
