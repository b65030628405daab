"""Containers: their names, what they can hold beside streams, and what they add to a file."""

from __future__ import annotations

from dataclasses import dataclass

from .names import Container

CONTAINER_NAMES: dict[Container, str] = {
    "mp4": "MP4", "mov": "MOV", "mkv": "MKV", "webm": "WebM", "m4a": "M4A", "mp3": "MP3", "ogg": "Ogg", "flac": "FLAC", "wav": "WAV",
}
FAST_START = ("mp4", "mov", "m4a")
"""Containers whose index may stand first or last; the others keep theirs along the way or need none."""
HVC1_IN = ("mp4", "mov")
"""Containers that name HEVC by where its parameter sets stand."""
CHAPTERS_IN = ("mp4", "mov", "mkv", "webm", "m4a")
CAPTIONS_IN: dict[Container, str] = {"mp4": "mov_text", "mov": "mov_text", "mkv": "subrip", "webm": "webvtt"}
"""Containers that hold text captions, and as what: 3GPP TS 26.245 timed text, SubRip text, WebVTT."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Wrapping:
    """Bytes that a container adds: once, for every picture, for every packet of sound."""

    fixed: float
    picture: float
    sound: float


MP4_LIKE = Wrapping(fixed=1_000, picture=21.9, sound=4.8)
MATROSKA_LIKE = Wrapping(fixed=1_000, picture=9.5, sound=9.5)
WRAPPINGS: dict[Container, Wrapping] = {
    "mp4": MP4_LIKE, "mov": MP4_LIKE, "m4a": MP4_LIKE, "mkv": MATROSKA_LIKE, "webm": MATROSKA_LIKE,
    "mp3": Wrapping(fixed=500, picture=0, sound=0), "ogg": Wrapping(fixed=500, picture=0, sound=3.0),
    "flac": Wrapping(fixed=8_300, picture=0, sound=0), "wav": Wrapping(fixed=100, picture=0, sound=0),
}
"""Container overhead, file size less the sum of its packets; `make constants` measures it."""
