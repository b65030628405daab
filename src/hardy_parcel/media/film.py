"""Writes a film from planes and samples: how the program makes masters of its own."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from ..core.encoder_settings import EncoderSettings
from .encode import add_video
from .trouble import writing

Planes = tuple[np.ndarray, np.ndarray, np.ndarray]
"""Y (height × width), Cb and Cr (half of each), uint8, BT.709 limited range."""
SOUND_BLOCK = 1024


def write_film(
    path: Path, *, width: int, height: int, frame_rate: Fraction, pictures: Iterator[Planes], sound: np.ndarray | None,
    quality: int, sample_rate_hz: int = 48000,
) -> None:
    """An MP4 of high-quality H.264 and AAC; `sound` is channels × samples, float32 in −1…1.

    Written under a partial name that no inbox takes for a film, then renamed.
    """
    settings = EncoderSettings(
        library="libx264", width=width, height=height, frame_rate=frame_rate,
        options={"preset": "veryfast", "crf": str(quality), "g": str(round(frame_rate)), "threads": "2"},
    )
    partial = path.with_name(f".{path.name}.partial")
    with writing(path):
        with av.open(str(partial), "w", format="mp4", options={"movflags": "+faststart"}) as container:
            video = add_video(container, settings)
            audio = None
            if sound is not None:
                audio = container.add_stream("aac", rate=sample_rate_hz, options={"b": "256000"})
                audio.codec_context.layout = "stereo" if sound.shape[0] == 2 else "mono"
            at = 0
            for number, planes in enumerate(pictures):
                for packet in video.encode(_frame(planes, number, frame_rate)):
                    container.mux(packet)
                until = round((number + 1) / frame_rate * sample_rate_hz)
                while audio is not None and at < min(until, sound.shape[1]):
                    block = np.ascontiguousarray(sound[:, at : at + SOUND_BLOCK])
                    at += block.shape[1]
                    container.mux(audio.encode(_sound(block, at - block.shape[1], sample_rate_hz)))
            for stream in (video, audio) if audio is not None else (video,):
                container.mux(stream.encode(None))
        partial.replace(path)


def _frame(planes: Planes, number: int, frame_rate: Fraction) -> av.VideoFrame:
    luma, blue, red = planes
    packed = np.concatenate([luma.ravel(), blue.ravel(), red.ravel()]).reshape(luma.shape[0] * 3 // 2, luma.shape[1])
    frame = av.VideoFrame.from_ndarray(packed, format="yuv420p")
    frame.pts, frame.time_base = number, 1 / frame_rate
    return frame


def _sound(block: np.ndarray, at: int, rate: int) -> av.AudioFrame:
    frame = av.AudioFrame.from_ndarray(block, format="fltp", layout="stereo" if block.shape[0] == 2 else "mono")
    frame.sample_rate, frame.pts, frame.time_base = rate, at, Fraction(1, rate)
    return frame
