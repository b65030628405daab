"""Reads a packed file back, to its end, with nothing taken from the plan."""

from __future__ import annotations

import hashlib
import struct
from fractions import Fraction
from pathlib import Path

import av

from ..core.errors import PackedFileWrong, UnreadableMaster
from ..core.receipt import PackedFacts
from .inspect import inspect
from .trouble import reading


def read_back(path: Path) -> PackedFacts:
    """Facts of a packed file after decoding all of it; raises PackedFileWrong when it does not play to the end."""
    try:
        facts = inspect(path)
        with reading(path), av.open(str(path)) as container:
            stream = container.streams.video[0]
            size = keyframe = longest = number = 0
            duration = Fraction(0)
            for packet in container.demux(stream):
                if packet.size:
                    size += packet.size
                    duration += Fraction(packet.duration or 0) * packet.time_base
                    if packet.is_keyframe:
                        longest, keyframe = max(longest, number - keyframe), number
                    number += 1
            longest = max(longest, number - keyframe)
            pictures = _decoded(path)
    except UnreadableMaster as error:
        raise PackedFileWrong("The packed file does not play to its end.", "It was not kept; try again.") from error
    return PackedFacts(
        facts=facts,
        video_bitrate_bps=round(size * 8 / float(duration)) if duration else 0,
        pictures=pictures,
        longest_keyframe_distance=longest,
        index_first=index_first(path),
    )


def _decoded(path: Path) -> int:
    with reading(path), av.open(str(path)) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        return sum(1 for _ in container.decode(stream))


def index_first(path: Path) -> bool:
    """Whether an MP4's index (moov) stands before its media data (mdat), per ISO/IEC 14496-12 clause 4.2."""
    with open(path, "rb") as file:
        while header := file.read(8):
            if len(header) < 8:
                return False
            size, kind = struct.unpack(">I4s", header)
            if kind in (b"moov", b"mdat"):
                return kind == b"moov"
            body = struct.unpack(">Q", file.read(8))[0] - 16 if size == 1 else size - 8
            file.seek(body, 1)
    return False


def sha256(path: Path) -> str:
    """SHA-256 of a file's content, in hex."""
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
