"""A few small frames of a film, by which the focus of its crops is suggested."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from ..core.master.facts import Focus, MasterFacts
from ..core.master.suggested_focus import SIDE, suggested_focus
from .inspect import picture_stream
from .luma import small_planes
from .trouble import open_film, reading

FRAMES = 6
MOST_PACKETS = 60
"""Packets that are read for one frame, where a keyframe cannot be decoded by itself."""


def focus_of(path: Path, facts: MasterFacts) -> Focus | None:
    """Where a crop of this film should be centred, upright as it is shown; None where the middle is as good.

    The keyframes before FRAMES evenly spread places are decoded; one that cannot be tells nothing.
    """
    video, frames = facts.video, []
    with reading(path), open_film(path) as container:
        stream = picture_stream(container, path)
        stream.thread_type = "SLICE"  # frame threads would decode ahead of every single frame
        for number in range(FRAMES):
            place_s = facts.duration_s * Fraction(2 * number + 1, 2 * FRAMES) + video.start_s
            try:
                frame = _keyframe(container, stream, place_s)
                planes = small_planes(frame, SIDE, SIDE) if frame else None
            except (av.FFmpegError, ValueError):
                continue
            if planes is not None:
                frames.append(np.rot90(planes, -(video.rotation_deg // 90), axes=(1, 2)))
    return suggested_focus(frames)


def _keyframe(container: Any, stream: Any, place_s: Fraction) -> av.VideoFrame | None:
    """The keyframe before a time stamp in s. The decoder is told that nothing follows, or it would wait for the frames between which this
    one might have to be sorted: two to three times the work."""
    container.seek(int(max(place_s, Fraction(0)) / stream.time_base), stream=stream, backward=True)
    try:
        for count, packet in enumerate(container.demux(stream)):
            frames = packet.decode()
            if not frames and packet.is_keyframe and packet.size:
                frames = stream.codec_context.decode(None)
            if frames:
                return frames[0]
            if count == MOST_PACKETS:
                break
    finally:
        stream.codec_context.flush_buffers()
    return None
