"""The boxes of an MP4 or MOV file (ISO/IEC 14496-12): what the demultiplexer keeps to itself.

Only the index is walked; no sample is read, and a file that breaks off or lies about its sizes ends the walk.
"""

from __future__ import annotations

import struct
from collections.abc import Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

CONTAINERS = {b"moov", b"mdia", b"minf", b"stbl", b"edts"}
DELAY_S = 0.5
"""An edit that starts later than this into the media trims something; less is the reordering of pictures or priming."""
MOST_BOXES = 4000
VISUAL_ENTRY = 78
"""Bytes of a VisualSampleEntry before its own boxes (clause 12.1.3)."""


@dataclass(slots=True, kw_only=True)
class BoxFacts:
    """`index_first` None means that no index was found; `colour` is (primaries, transfer, matrix, full range)."""

    is_mp4: bool = False
    index_first: bool | None = None
    media_found: bool = False
    edit_list: bool = False
    colour: tuple[int, int, int, bool | None] | None = None


def read_boxes(path: Path) -> BoxFacts:
    """What the boxes say; `is_mp4` is False for any other kind of file."""
    facts = BoxFacts()
    size = path.stat().st_size
    with open(path, "rb") as file:
        for seen, (kind, start, end) in enumerate(_boxes(file, 0, size)):
            if seen == 0 and kind not in (b"ftyp", b"moov", b"mdat", b"wide", b"free", b"skip", b"pnot"):
                return facts
            facts.is_mp4 = True
            if kind == b"mdat":
                facts.media_found = True
            elif kind == b"moov":
                facts.index_first = not facts.media_found
                _index(file, start, min(end, size), facts)
            if seen > MOST_BOXES:
                break
    return facts


def _boxes(file: BinaryIO, start: int, end: int) -> Iterator[tuple[bytes, int, int]]:
    """Kind, start and end of the content of every box between two places."""
    while start + 8 <= end:
        file.seek(start)
        head = file.read(16)
        if len(head) < 8:
            return
        length, kind = struct.unpack(">I4s", head[:8])
        content = start + 8
        if length == 1 and len(head) == 16:
            length, content = struct.unpack(">Q", head[8:])[0], start + 16
        elif length == 0:
            length = end - start
        if length < content - start:
            return
        yield kind, content, start + length
        start += length


@dataclass(slots=True)
class _Track:
    edits: int = 0
    starts_at: int = 0
    timescale: int = 0

    @property
    def trims(self) -> bool:
        """Whether the edit list does more than play everything from its first moment (clause 8.6.6)."""
        return self.edits > 1 or (self.timescale > 0 and self.starts_at > DELAY_S * self.timescale)


def _index(file: BinaryIO, start: int, end: int, facts: BoxFacts, track: _Track | None = None, depth: int = 0) -> None:
    for count, (kind, inner, after) in enumerate(_boxes(file, start, end)):
        if count > MOST_BOXES or depth > 8:
            return
        after = min(after, end)
        if kind == b"trak":
            inside = _Track()
            _index(file, inner, after, facts, inside, depth + 1)
            facts.edit_list |= inside.trims
        elif kind in CONTAINERS:
            _index(file, inner, after, facts, track, depth + 1)
        elif kind == b"elst" and track:
            _edits(_start(file, inner, after), track)
        elif kind == b"mdhd" and track:
            head = _start(file, inner, after)
            place = 20 if head[:1] == b"\x01" else 12
            if len(head) >= place + 4:
                track.timescale = struct.unpack_from(">I", head, place)[0]
        elif kind == b"stsd" and facts.colour is None:
            facts.colour = _colour(file, inner, after)


def _start(file: BinaryIO, start: int, end: int) -> bytes:
    file.seek(start)
    return file.read(min(end - start, 32))


def _edits(head: bytes, track: _Track) -> None:
    """Edits that show something; an empty one (media time −1) only delays the track."""
    if len(head) < 20:
        return
    count = struct.unpack_from(">I", head, 4)[0]
    long = head[0] == 1 and len(head) >= 24
    media_time = struct.unpack_from(">q", head, 16)[0] if long else struct.unpack_from(">i", head, 12)[0]
    track.edits = count - 1 if media_time == -1 else count
    track.starts_at = max(0, media_time)


def _colour(file: BinaryIO, start: int, end: int) -> tuple[int, int, int, bool | None] | None:
    """The `colr` box of the first visual sample entry (clause 12.1.5)."""
    for _, entry, entry_end in _boxes(file, start + 8, end):
        for kind, inner, after in _boxes(file, entry + VISUAL_ENTRY, min(entry_end, end)):
            if kind == b"colr" and after - inner >= 10:
                file.seek(inner)
                form, *codes = struct.unpack(">4sHHH", file.read(10))
                if form == b"nclx":
                    return codes[0], codes[1], codes[2], bool(file.read(1)[:1] > b"\x7f")
                if form == b"nclc":
                    return codes[0], codes[1], codes[2], None
        return None
    return None


def end_presentation_at(path: Path, seconds: Fraction) -> None:
    """Let the picture of a written MP4 or MOV end at `seconds`: its edit list shows no more of it (ISO/IEC 14496-12 clause 8.6.6).

    Any other kind of file, or one without an edit list, is left as it is.
    """
    with open(path, "r+b") as file:
        size = path.stat().st_size
        movie = next(((start, end) for kind, start, end in _boxes(file, 0, size) if kind == b"moov"), None)
        if movie is None:
            return
        header = next((start for kind, start, _ in _boxes(file, *movie) if kind == b"mvhd"), None)
        if header is None:
            return
        timescale = struct.unpack(">I", _at(file, header + (20 if _at(file, header, 1) == b"\x01" else 12), 4))[0]
        for kind, start, end in _boxes(file, *movie):
            if kind == b"trak" and _shows_pictures(file, start, end):
                for inner, inside, after in _boxes(file, start, end):
                    if inner == b"edts":
                        for last, where, _ in _boxes(file, inside, after):
                            if last == b"elst":
                                _shorten(file, where, round(seconds * timescale))


def _at(file: BinaryIO, place: int, count: int) -> bytes:
    file.seek(place)
    return file.read(count)


def _shows_pictures(file: BinaryIO, start: int, end: int) -> bool:
    for kind, inside, after in _boxes(file, start, end):
        if kind == b"mdia":
            return any(inner == b"hdlr" and _at(file, where + 8, 4) == b"vide" for inner, where, _ in _boxes(file, inside, after))
    return False


def _shorten(file: BinaryIO, elst: int, units: int) -> None:
    """Give the last edit of a list what is left of `units` of the movie's clock."""
    long = _at(file, elst, 1) == b"\x01"
    count = struct.unpack(">I", _at(file, elst + 4, 4))[0]
    each, form = (20, ">Q") if long else (12, ">I")
    before = sum(struct.unpack(form, _at(file, elst + 8 + each * one, 8 if long else 4))[0] for one in range(count - 1))
    file.seek(elst + 8 + each * (count - 1))
    file.write(struct.pack(form, max(0, units - before)))
