"""Writes a film from planes and samples: how the program makes masters of its own."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import cast

import av
import numpy as np

from ..core.master.facts import ColourTags
from ..core.plan.encoder_settings import EncoderSettings
from .encode import add_video, tag_colours
from .trouble import writing

Planes = tuple[np.ndarray, np.ndarray, np.ndarray]
"""Y (height × width), Cb and Cr (half of each), uint8, BT.709 limited range."""
SOUND_BLOCK = 1024
PHONE_CLOCK_HZ = 90_000
HD = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")


@dataclass(frozen=True, slots=True, kw_only=True)
class Traits:
    """What a made-up master has of other machines: pixel shape, fields, a turn, uneven times (s), other colour tags."""

    sample_aspect_ratio: Fraction = Fraction(1)
    top_field_first: bool = False
    turned_deg: int = 0
    times_s: tuple[float, ...] | None = None
    colour: ColourTags = HD


def write_film(
    path: Path, *, width: int, height: int, frame_rate: Fraction, pictures: Iterator[Planes], sound: np.ndarray | None,
    quality: int, sample_rate_hz: int = 48000, traits: Traits | None = None,
) -> None:
    """An MP4 of high-quality H.264 and AAC; `sound` is channels × samples, float32 in −1…1.

    Written under a partial name that no inbox takes for a film, then renamed. `traits` are for masters that were made
    elsewhere and otherwise than we would.
    """
    traits = traits or Traits()
    settings = EncoderSettings(
        library="libx264", width=width, height=height, frame_rate=frame_rate,
        options={"preset": "veryfast", "crf": str(quality), "g": str(round(frame_rate)), "threads": "2"},
    )
    partial = path.with_name(f".{path.name}.partial")
    with writing(path):
        with av.open(str(partial), "w", format="mp4", options={"movflags": "+faststart"}) as container:
            video = _add_video(container, settings, traits)
            audio = None
            if sound is not None:
                audio = container.add_stream("aac", rate=sample_rate_hz, options={"b": "256000"})
                audio.codec_context.layout = "stereo" if sound.shape[0] == 2 else "mono"
            at = 0
            for number, planes in enumerate(pictures):
                frame = _frame(planes, number, frame_rate)
                until = round((number + 1) / frame_rate * sample_rate_hz)
                if traits.times_s is not None:
                    frame.pts, frame.time_base = round(traits.times_s[number] * PHONE_CLOCK_HZ), Fraction(1, PHONE_CLOCK_HZ)
                    until = round(traits.times_s[number] * sample_rate_hz) + sample_rate_hz // 20
                container.mux(video.encode(frame))
                while audio is not None and sound is not None and at < min(until, sound.shape[1]):
                    block = np.ascontiguousarray(sound[:, at : at + SOUND_BLOCK])
                    at += block.shape[1]
                    container.mux(audio.encode(_sound(block, at - block.shape[1], sample_rate_hz)))
            for stream in (video, audio) if audio is not None else (video,):
                container.mux(stream.encode(None))
        partial.replace(path)


def _add_video(container: av.container.OutputContainer, settings: EncoderSettings, traits: Traits) -> av.VideoStream:
    if traits == Traits():
        return add_video(container, settings)
    stream = cast(av.VideoStream, container.add_stream(settings.library, rate=settings.frame_rate, options=settings.options))
    context = stream.codec_context
    context.width, context.height, context.pix_fmt = settings.width, settings.height, settings.pixel_format
    stream.time_base = context.time_base = (
        1 / settings.frame_rate if traits.times_s is None else Fraction(1, PHONE_CLOCK_HZ)
    )
    context.sample_aspect_ratio = traits.sample_aspect_ratio
    tag_colours(context, traits.colour)
    if traits.top_field_first:
        context.options = {**settings.options, "flags": "+ildct+ilme", "x264-params": "tff=1"}
    if traits.turned_deg:
        stream.set_display_rotation(traits.turned_deg)
    return stream


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
