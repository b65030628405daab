"""Reads a packed file back, to its end, with nothing taken from the plan."""

from __future__ import annotations

import filecmp
import hashlib
from collections.abc import Callable
from fractions import Fraction
from pathlib import Path
from typing import Any

from ..core.errors import PackedFileWrong, UnreadableMaster
from ..core.parcel.buffers import buffer_needed, peak_bps
from ..core.parcel.receipt import PackedFacts
from .boxes import read_boxes
from .inspect import read_file
from .loudness import measure_sound
from .trouble import open_film, reading


def read_back(
    path: Path, *, master: Path | None = None, through_bps: int | None = None, say: Callable[[int], None] = lambda pictures: None
) -> PackedFacts:
    """Facts of a packed file after decoding all of it; raises PackedFileWrong when it does not play to the end.

    With `master` it is also compared with that file, byte for byte; with `through_bps` it is told how large a buffer it needs where
    its picture comes at that rate. `say` hears of pictures decoded, and may raise.
    """
    try:
        facts, heard = read_file(path, loudness=False), None
        if facts.audio:
            loudness, heard, _ = measure_sound(path, start_s=facts.video.start_s if facts.video else Fraction(0))
            facts = facts.model_copy(update={"audio": facts.audio.model_copy(update=loudness.as_facts())})
        size = longest = pictures = 0
        duration, sizes = Fraction(0), list[tuple[float, int]]()
        if facts.video:
            size, duration, longest, sizes = _packets(path)
        if facts.video or facts.audio:
            pictures = _decoded(path, say if facts.video else lambda blocks: None, picture=facts.video is not None)
    except UnreadableMaster as error:
        raise PackedFileWrong("The packed file does not play to its end.", "It was not kept; try again.") from error
    return PackedFacts(
        facts=facts,
        video_bitrate_bps=round(size * 8 / float(duration)) if duration else 0,
        pictures=pictures if facts.video else 0,
        longest_keyframe_distance=longest,
        peak_bps=peak_bps(sizes) if sizes else 0,
        buffer_needed_bits=buffer_needed(sizes, through_bps) if sizes and through_bps else None,
        index_first=read_boxes(path).index_first is True,
        heard=heard,
        identical=None if master is None else filecmp.cmp(path, master, shallow=False),
    )


def _packets(path: Path) -> tuple[int, Fraction, int, list[tuple[float, int]]]:
    """Bytes and seconds of picture, the longest distance between keyframes in pictures, and when each is decoded (s) with its bits."""
    size = keyframe = longest = number = 0
    sizes: list[tuple[float, int]] = []
    first = last = None
    with reading(path), open_film(path) as container:
        stream = container.streams.video[0]
        rate = stream.average_rate or stream.guessed_rate or Fraction(25)
        for packet in container.demux(stream):
            if not packet.size or packet.pts is None:
                continue
            size += packet.size
            sizes.append((float((packet.pts if packet.dts is None else packet.dts) * packet.time_base), packet.size * 8))
            at = packet.pts * packet.time_base
            first, last = min(at, first if first is not None else at), max(at, last if last is not None else at)
            if packet.is_keyframe:
                longest, keyframe = max(longest, number - keyframe), number
            number += 1
    duration = last - first + 1 / rate if first is not None and last is not None else Fraction(0)
    return size, Fraction(duration), max(longest, number - keyframe), sizes


def _decoded(path: Path, say: Callable[[int], None], *, picture: bool) -> int:
    number = 0
    with reading(path), open_film(path) as container:
        stream: Any = container.streams.video[0] if picture else container.streams.audio[0]
        stream.thread_type = "AUTO"
        for number, _ in enumerate(container.decode(stream), 1):
            say(number)
    return number


def sha256(path: Path) -> str:
    """SHA-256 of a file's content, in hex."""
    with open(path, "rb") as file:
        return hashlib.file_digest(file, "sha256").hexdigest()
