"""Stand-ins for ways of moving a file to another device: one keeps it bit for bit, one does not."""

from __future__ import annotations

import shutil
from collections.abc import Callable
from enum import StrEnum
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from .trouble import open_film, reading, writing


class Courier(StrEnum):
    LOCKBOX = "lockbox"
    NATTERLINE = "natterline"


NATTERLINE_BYTES, NATTERLINE_WIDTH, NATTERLINE_QUALITY, NATTERLINE_SOUND_BPS = 23_000_000, 720, 30, 64_000
"""Natterline encodes anything larger anew, so wide at most, and as small as people in a hurry like it."""


def carry(path: Path, courier: Courier, target: Path, say: Callable[[float], None] = lambda share: None) -> bool:
    """Bring a file to `target`, which must not exist; whether it is still what it was. Raises NotFound, UnreadableMaster, DiskFull or
    FolderUnusable."""
    with reading(path):
        kept = courier is Courier.LOCKBOX or path.stat().st_size <= NATTERLINE_BYTES
    with writing(target):
        if kept:
            shutil.copyfile(path, target)
        else:
            _encode_small(path, target, say)
    return kept


def _encode_small(path: Path, target: Path, say: Callable[[float], None]) -> None:
    with reading(path), open_film(path) as source, av.open(str(target), "w", format="mp4") as container:
        pictures: Any = source.streams.video[0]
        sound: Any = next(iter(source.streams.audio), None)
        width = min(NATTERLINE_WIDTH, pictures.codec_context.width) // 2 * 2
        height = round(width * pictures.codec_context.height / pictures.codec_context.width / 2) * 2
        rate = pictures.average_rate or Fraction(25)
        film: Any = container.add_stream("libx264", rate=rate, options={"crf": str(NATTERLINE_QUALITY), "preset": "veryfast"})
        film.width, film.height, film.pix_fmt = width, height, "yuv420p"
        talk: Any = container.add_stream("aac", rate=44_100) if sound else None
        resampler = av.AudioResampler(format="fltp", layout="stereo", rate=44_100)
        if talk:
            talk.bit_rate, talk.layout = NATTERLINE_SOUND_BPS, "stereo"
        length = float(source.duration or 0) / 1_000_000 or 1.0
        for packet in source.demux([stream for stream in (pictures, sound) if stream]):
            for frame in packet.decode():
                if isinstance(frame, av.VideoFrame):
                    say(min(1.0, float(frame.time or 0) / length))
                    made = film.encode(frame.reformat(width=width, height=height, format="yuv420p"))
                elif isinstance(frame, av.AudioFrame):
                    made = [one for block in resampler.resample(frame) for one in talk.encode(block)]
                else:
                    continue
                for one in made:
                    container.mux(one)
        for stream in (film, talk):
            if stream:
                for one in stream.encode(None):
                    container.mux(one)
