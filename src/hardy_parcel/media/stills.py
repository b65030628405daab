"""Still pictures: the poster strip of a master, and one picture at every station for the eye."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
from av.video.reformatter import ColorRange, Colorspace

from ..core.facts import MasterFacts
from ..core.framing import Rect
from ..core.plan import VideoPlan
from .pictures import Treatment, add_source, pictures_at
from .trouble import writing

STRIP_PICTURES = 8
STRIP_HEIGHT = 144


def save(picture: av.VideoFrame, path: Path, *, width: int, height: int) -> None:
    """Write a BT.709 limited-range picture as PNG or JPEG at this size, under a partial name first."""
    rgb = picture.reformat(
        width=width, height=height, format="rgb24", interpolation="BICUBIC",
        src_colorspace=Colorspace.ITU709, dst_colorspace=Colorspace.ITU709,
        src_color_range=ColorRange.MPEG, dst_color_range=ColorRange.JPEG,
    )
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
        save(treatment(picture, number), folder / f"{number}.jpg", width=width, height=STRIP_HEIGHT)
    return count


def still(path: Path, *, index: int, frame_rate: Fraction, picture: Rect, raster: tuple[int, int], target: Path) -> None:
    """Picture `index` of one of our own files, cut to `picture` and scaled to `raster` px."""
    at = (index + Fraction(1, 4)) / frame_rate
    frame = next(iter(pictures_at(path, [at], start_s=Fraction(0))))
    save(cut(frame, picture, frame_rate), target, width=raster[0], height=raster[1])


def cut(frame: av.VideoFrame, picture: Rect, frame_rate: Fraction) -> av.VideoFrame:
    """`picture` of a frame."""
    if (frame.width, frame.height) == (picture.width, picture.height):
        return frame
    graph = av.filter.Graph()
    source = add_source(
        graph, width=frame.width, height=frame.height, pixel_format=frame.format.name, frame_rate=frame_rate
    )
    crop = graph.add("crop", f"w={picture.width}:h={picture.height}:x={picture.x}:y={picture.y}")
    sink = graph.add("buffersink")
    graph.link_nodes(source, crop, sink)
    graph.configure()
    frame.pts, frame.time_base = 0, 1 / frame_rate
    source.push(frame)
    return sink.pull()
