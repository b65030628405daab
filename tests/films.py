"""Tiny made-up films for tests: a drifting shimmer with a moving square, a steady tone, and every kind of awkwardness."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from hardy_parcel.media.film import Planes, write_film


def shimmer(width: int, height: int, count: int, *, grain: float = 6.0, seed: int = 7) -> Iterator[Planes]:
    """A slope of grey with grain and a bright square that moves four pixels a picture."""
    random = np.random.default_rng(seed)
    slope = np.linspace(40, 180, width, dtype=np.float32)[None, :] + np.linspace(0, 30, height, dtype=np.float32)[:, None]
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    side = max(8, height // 5)
    for number in range(count):
        luma = slope + random.normal(0, grain, (height, width)).astype(np.float32)
        x = (4 * number) % max(1, width - side)
        luma[height // 3 : height // 3 + side, x : x + side] = 220
        yield np.clip(luma, 16, 235).astype(np.uint8), chroma, np.roll(chroma, 1)


def tone(seconds: float, *, hz: float = 440.0, peak: float = 0.1, channels: int = 2, rate: int = 48000) -> np.ndarray:
    wave = peak * np.sin(2 * np.pi * hz * np.arange(round(seconds * rate)) / rate)
    return np.tile(wave.astype(np.float32), (channels, 1))


def film(
    path: Path, *, width: int = 320, height: int = 180, rate: Fraction | int = 25, seconds: Fraction | float = 2,
    sound: np.ndarray | str | None = "tone", grain: float = 6.0, pictures: Iterator[Planes] | None = None,
) -> Path:
    """An ordinary film of the program's own making."""
    rate = Fraction(rate)
    count = round(Fraction(seconds) * rate)
    samples = tone(float(seconds)) if isinstance(sound, str) else sound
    write_film(
        path, width=width, height=height, frame_rate=rate, sound=samples, quality=16,
        pictures=pictures if pictures is not None else shimmer(width, height, count, grain=grain),
    )
    return path


def frame(planes: Planes, pts: int, time_base: Fraction) -> av.VideoFrame:
    luma = planes[0]
    packed = np.concatenate([plane.ravel() for plane in planes]).reshape(luma.shape[0] * 3 // 2, luma.shape[1])
    made = av.VideoFrame.from_ndarray(packed, format="yuv420p")
    made.pts, made.time_base = pts, time_base
    return made


def odd_film(
    path: Path, *, codec: str = "libx264", width: int = 320, height: int = 180, stamps_ms: list[int] | None = None,
    sample_aspect_ratio: Fraction = Fraction(1), options: dict[str, str] | None = None, seconds: int = 1, rate: int = 25,
    interlaced: bool = False, container: str | None = None,
) -> Path:
    """A film with awkward traits, without sound: uneven time stamps, pixel shape, interlacing, other codecs."""
    stamps = stamps_ms or [round(1000 * i / rate) for i in range(seconds * rate)]
    base = Fraction(1, 1000)
    with av.open(str(path), "w", format=container) as output:
        stream = output.add_stream(codec, rate=rate, options=options or {})
        stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
        stream.time_base = stream.codec_context.time_base = base
        stream.codec_context.sample_aspect_ratio = sample_aspect_ratio
        if interlaced:
            stream.codec_context.options = {**(options or {}), "flags": "+ildct", "x264-params": "tff=1"}
        for planes, stamp in zip(shimmer(width, height, len(stamps)), stamps, strict=True):
            picture = frame(planes, stamp, base)
            output.mux(stream.encode(picture))
        output.mux(stream.encode(None))
    return path


def sound_only(path: Path) -> Path:
    """A file with sound and no picture."""
    with av.open(str(path), "w") as output:
        stream = output.add_stream("aac", rate=48000, layout="stereo")
        samples = tone(1)
        for at in range(0, samples.shape[1], 1024):
            block = av.AudioFrame.from_ndarray(np.ascontiguousarray(samples[:, at : at + 1024]), format="fltp", layout="stereo")
            block.sample_rate, block.pts, block.time_base = 48000, at, Fraction(1, 48000)
            output.mux(stream.encode(block))
        output.mux(stream.encode(None))
    return path


def cut_short(source: Path, target: Path, share: float) -> Path:
    """The first part of a file's bytes."""
    data = source.read_bytes()
    target.write_bytes(data[: round(len(data) * share)])
    return target


SPOKEN = ((0.2, 0.9, "Gale warning, <i>all areas</i>"), (0.8, 1.3, "Ebb & flow\nat the skerry"), (1.5, 1.9, "Ende der Über­sicht"))
"""What the captioned film says: from, to (s), and the text as SubRip has it."""


def captioned(path: Path, of: Path, *, languages: tuple[str, ...] = ("eng",)) -> Path:
    """The film `of` in Matroska with SubRip captions, one track a language, whose packets are plain text."""
    with av.open(str(of)) as source, av.open(str(path), "w", format="matroska") as target:
        copies = {one.index: target.add_stream_from_template(one) for one in (source.streams.video[0], *source.streams.audio[:1])}
        texts = [target.add_stream("subrip") for _ in languages]
        for text, language in zip(texts, languages, strict=True):
            text.time_base, text.metadata["language"] = Fraction(1, 1000), language
            text.codec_context.time_base = Fraction(1, 1000)
            text.codec_context.subtitle_header = b"[Script Info]\r\n"
        for text in texts:
            for start, end, said in SPOKEN:
                packet = av.Packet(said.encode())
                packet.stream, packet.time_base = text, Fraction(1, 1000)
                packet.pts = packet.dts = round(start * 1000)
                packet.duration = round((end - start) * 1000)
                target.mux(packet)
        for packet in source.demux(list(source.streams.video[:1]) + list(source.streams.audio[:1])):
            if packet.dts is not None:
                packet.stream = copies[packet.stream.index]
                target.mux(packet)
    return path
