"""Sound of the excerpt: cut, levelled, resampled, encoded, in step with the picture."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from itertools import chain
from pathlib import Path
from typing import cast

import av
import numpy as np

from ..core.errors import EncoderTrouble
from ..core.master.facts import MasterFacts
from ..core.plan.plan import AudioPlan, Plan, duration_s
from ..core.trade.names import SoundCodec
from .trouble import open_film, reading

PACKET_SAMPLES = 1024
DRIFT_S = 0.05


ENCODERS: dict[SoundCodec, tuple[str, str, dict[str, str]]] = {
    "aac": ("aac", "fltp", {"profile": "aac_low", "aac_coder": "fast"}),
    "opus": ("libopus", "flt", {"application": "audio", "vbr": "on", "frame_duration": "20"}),
    "mp3": ("libmp3lame", "fltp", {"compression_level": "2", "reservoir": "1"}),
    "flac": ("flac", "s16", {"compression_level": "8"}),
    "pcm": ("pcm_s24le", "s32", {}),
}
"""Library, sample format and options of each sound codec."""


def add_sound(container: av.container.OutputContainer, audio: AudioPlan) -> av.AudioStream:
    """An opened sound stream as the plan says; fails if the encoder left an option unused."""
    library, samples, options = ENCODERS[audio.codec.value]
    stream = cast(av.AudioStream, container.add_stream(library, rate=audio.sample_rate_hz.value))
    context = stream.codec_context
    context.layout = "stereo" if audio.channels.value == 2 else "mono"
    context.format = samples
    if audio.bitrate_bps.value is not None and audio.codec.value != "pcm":
        context.bit_rate = audio.bitrate_bps.value
    context.time_base = Fraction(1, audio.sample_rate_hz.value)
    context.options = dict(options)
    try:
        context.open()
    except (av.FFmpegError, ValueError) as error:
        raise EncoderTrouble("The sound encoder refused its settings.", "Choose another sample rate.") from error
    if context.options:
        raise EncoderTrouble(f"The sound encoder did not take: {', '.join(sorted(context.options))}.")
    return stream


def sound_blocks(path: Path, facts: MasterFacts, plan: Plan) -> Iterator[av.AudioFrame]:
    """The excerpt's sound in blocks of 1024 samples from time 0; missing sound is silence, surplus is cut."""
    audio = plan.sound
    rate, channels = audio.sample_rate_hz.value, audio.channels.value
    total = round(duration_s(plan) * rate)
    held = np.zeros((channels, 0), np.float32)
    sent = 0
    for samples in chain(_placed(path, facts, plan), (None,)):
        if samples is None:
            missing = max(0, total - sent - held.shape[1])
            samples = np.zeros((channels, missing), np.float32)
        held = np.concatenate([held, samples], axis=1)
        while sent < total and (held.shape[1] >= PACKET_SAMPLES or sent + held.shape[1] >= total):
            count = min(PACKET_SAMPLES, total - sent)
            yield _frame(held[:, :count], rate, sent)
            held, sent = held[:, count:], sent + count
        if sent >= total:
            return


def _frame(samples: np.ndarray, rate: int, at: int) -> av.AudioFrame:
    layout = "stereo" if samples.shape[0] == 2 else "mono"
    frame = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples), format="fltp", layout=layout)
    frame.sample_rate, frame.pts, frame.time_base = rate, at, Fraction(1, rate)
    return frame


def _placed(path: Path, facts: MasterFacts, plan: Plan) -> Iterator[np.ndarray]:
    """Levelled samples (channels × n) from the in point on; gaps in the time stamps become silence."""
    audio = plan.sound
    rate, channels = audio.sample_rate_hz.value, audio.channels.value
    gain = np.float32(10 ** (audio.gain_db.value / 20))
    zero = facts.video.start_s + plan.excerpt.in_s
    with reading(path), open_film(path) as container:
        stream = container.streams.audio[0]
        if plan.excerpt.in_s > 1:
            container.seek(int((zero - 1) / cast(Fraction, stream.time_base)), stream=stream, backward=True)
        resampler = av.AudioResampler(format="fltp", layout="stereo" if channels == 2 else "mono", rate=rate)
        position = 0  # samples from the in point that have been given out or skipped
        first = True
        for frame in _from_here(container, stream):
            if frame.pts is not None:
                stated = round((Fraction(frame.pts) * cast(Fraction, frame.time_base) - zero) * rate)
                if first:
                    position = min(0, stated)
                if stated - position > DRIFT_S * rate or (first and stated > 0):
                    yield np.zeros((channels, stated - max(0, position)), np.float32)
                    position = stated
                first = False
            for block in resampler.resample(frame):
                samples = block.to_ndarray() * gain
                skip = min(samples.shape[1], max(0, -position))
                position += samples.shape[1]
                if skip < samples.shape[1]:
                    yield samples[:, skip:]


def _from_here(container: av.container.InputContainer, stream: av.AudioStream) -> Iterator[av.AudioFrame]:
    """Frames from where a seek came out on. In a program stream that may be the middle of one, which cannot be decoded."""
    begun = False
    for packet in container.demux(stream):
        try:
            frames = packet.decode()
        except av.InvalidDataError:
            if begun:
                raise
            continue
        for frame in frames:
            begun = True
            yield frame
