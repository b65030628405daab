"""What each codec and container can do: the tables that a plan chooses from."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import NamedTuple

from .names import CODEC_NAMES, Codec, Container, SoundCodec
from .rate_control import RateControl

CONSTANT, ONE_PASS, TWO_PASSES = RateControl.CONSTANT, RateControl.ONE_PASS, RateControl.TWO_PASSES
QUALITY, FIXED = RateControl.QUALITY, RateControl.FIXED


@dataclass(frozen=True, slots=True, kw_only=True)
class CodecTraits:
    """A picture codec as we encode it. `controls` in order of preference; `worst_case` is video bits over target.

    `deep` is the profile and pixel format of 10 bit, None where the encoder here has none. `qualities` are the scale's lowest
    and highest value and the usual one; lower is better. `ceiling_kept` tells whether the encoder keeps a ceiling in one pass;
    `least` is the smallest width and height in px that it takes. `searched` are the best and the worst quality between which the first
    of two passes finds the one that has the size; None where the encoder itself knows two passes. `loose_control` is the quickest that does
    not look worse where the size need not be met; None where that is the first of `controls`.
    """

    profile: str
    pixel_format: str
    deep: tuple[str, str] | None = None
    containers: tuple[Container, ...]
    controls: tuple[RateControl, ...]
    worst_case: dict[RateControl, float]
    qualities: tuple[int, int, int] | None
    ceiling_kept: bool = True
    least: tuple[int, int] = (2, 2)
    searched: QualityScale | None = None
    loose_control: RateControl | None = None


class QualityScale(NamedTuple):
    """The best and the worst quality that an encoder is asked for, and the parts of a whole value that it takes."""

    best: int
    worst: int
    parts: int


CODECS: dict[Codec, CodecTraits] = {
    "h264": CodecTraits(
        profile="High", pixel_format="yuv420p", deep=("High 10", "yuv420p10le"), containers=("mp4", "mov", "mkv"),
        controls=(TWO_PASSES, ONE_PASS, CONSTANT, QUALITY),
        worst_case={TWO_PASSES: 1.04, ONE_PASS: 1.15}, qualities=(10, 40, 19), loose_control=ONE_PASS,
    ),
    "hevc": CodecTraits(
        profile="Main", pixel_format="yuv420p", deep=("Main 10", "yuv420p10le"), containers=("mp4", "mov", "mkv"),
        controls=(TWO_PASSES, ONE_PASS, QUALITY),
        worst_case={TWO_PASSES: 1.08, ONE_PASS: 1.15}, qualities=(10, 40, 21), least=(16, 16),
    ),
    "vp9": CodecTraits(
        profile="Profile 0", pixel_format="yuv420p", containers=("webm", "mkv", "mp4"),
        controls=(TWO_PASSES, QUALITY, ONE_PASS),
        worst_case={TWO_PASSES: 1.15, ONE_PASS: 1.6, QUALITY: 1.3}, qualities=(10, 55, 31), ceiling_kept=False,
        searched=QualityScale(best=4, worst=63, parts=1),
    ),
    "av1": CodecTraits(
        profile="Main", pixel_format="yuv420p", deep=("Main", "yuv420p10le"), containers=("mp4", "webm", "mkv"),
        controls=(TWO_PASSES, QUALITY, ONE_PASS),
        worst_case={TWO_PASSES: 1.15, ONE_PASS: 1.6, QUALITY: 1.35}, qualities=(10, 55, 30), ceiling_kept=False,
        least=(64, 64), searched=QualityScale(best=4, worst=63, parts=4),
    ),
    "vc3": CodecTraits(
        profile="HR HQ", pixel_format="yuv422p", deep=("HR HQX", "yuv422p10le"), containers=("mov",),
        controls=(FIXED,), worst_case={FIXED: 1.0}, qualities=None, ceiling_kept=False,
        least=(256, 120),
    ),
}


RATE_AGAINST_H264: dict[str, float] = {
    "h264": 1.0, "hevc": 0.65, "vp9": 0.70, "av1": 0.55, "vp8": 1.2, "mpeg4": 1.4, "mpeg2video": 1.7, "mpeg1video": 2.0,
}
"""Bits that a codec needs for what H.264 shows with one: our own figures (rules §2), rough ones for older codecs."""


def vc3_frame_bytes(width: int, height: int) -> int:
    """Bytes of every VC-3 picture in its resolution-independent HQ form (compression id 1272), SMPTE ST 2019-1.

    28672 ÷ 255 bytes a macroblock, rounded to 4096, at least 8192.
    """
    macroblocks = -(-width // 16) * -(-height // 16)
    exact = macroblocks * 28672 // 255
    return max(8192, (exact + 2048) // 4096 * 4096)


def vc3_bps(width: int, height: int, frame_rate: Fraction) -> int:
    """Bit rate of VC-3 HQ at this size (px) and rate (1/s): every picture has the same size."""
    return round(vc3_frame_bytes(width, height) * 8 * frame_rate)


@dataclass(frozen=True, slots=True, kw_only=True)
class SoundTraits:
    """A sound codec: containers beside a picture and alone, whether it loses anything, rates it takes in Hz."""

    name: str
    beside: tuple[Container, ...]
    alone: Container
    lossless: bool = False
    rates_hz: tuple[int, ...] = (48000, 44100)


SOUND_CODECS: dict[SoundCodec, SoundTraits] = {
    "aac": SoundTraits(name="AAC", beside=("mp4", "mov", "mkv"), alone="m4a"),
    "opus": SoundTraits(name="Opus", beside=("webm", "mkv", "mp4"), alone="ogg", rates_hz=(48000,)),
    "mp3": SoundTraits(name="MP3", beside=("mp4", "mov", "mkv"), alone="mp3"),
    "flac": SoundTraits(name="FLAC", beside=("mkv", "mp4"), alone="flac", lossless=True),
    "pcm": SoundTraits(name="PCM", beside=("mov", "mkv"), alone="wav", lossless=True),
}
"""PCM is written as 24 bit, little-endian, or as the master's 16 bit; FLAC as 16 bit."""

PCM_BITS = 24


def name_of(codec: str) -> str:
    """A codec's name for reading."""
    if codec in SOUND_CODECS:
        return SOUND_CODECS[codec].name
    return CODEC_NAMES.get(codec, codec.upper())


def takes(container: Container, codec: Codec, sound: SoundCodec | None) -> bool:
    """Whether a container holds this picture and sound together."""
    return container in CODECS[codec].containers and (sound is None or container in SOUND_CODECS[sound].beside)


PROBED_QUALITIES: dict[Codec, tuple[int, int, int]] = {
    "h264": (15, 25, 35), "hevc": (16, 26, 36), "vp9": (20, 38, 55), "av1": (20, 38, 56),
}
"""Quality values of each codec's own scale that span what uploads are made at, best first."""
BASE_CODEC: Codec = "h264"
"""What most test encodes are made in, as it is the quickest by far; another codec is told from it by one window."""
