"""The boxes of an MP4, made by hand: colour, edits, order, and nonsense of every kind."""

from __future__ import annotations

import struct
from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import UnreadableMaster
from hardy_parcel.media.boxes import read_boxes
from hardy_parcel.media.trouble import open_film, reading
from hardy_parcel.media.verify import read_back

from .. import films


def box(kind: bytes, *content: bytes) -> bytes:
    data = b"".join(content)
    return struct.pack(">I4s", 8 + len(data), kind) + data


FTYP = box(b"ftyp", b"isom", bytes(4))


def track(*, edits: list[tuple[int, int]] = (), timescale: int = 1000, colour: bytes = b"", long: bool = False) -> bytes:
    entry = box(b"avc1", bytes(78), box(b"colr", colour)) if colour else box(b"avc1", bytes(78))
    table = box(b"stbl", box(b"stsd", bytes(4), struct.pack(">I", 1), entry))
    form = ">qqI" if long else ">iiI"
    listed = b"".join(struct.pack(form, length, at, 1 << 16) for length, at in edits)
    elst = box(b"edts", box(b"elst", bytes([int(long), 0, 0, 0]), struct.pack(">I", len(edits)), listed)) if edits else b""
    head = box(b"mdhd", bytes(12), struct.pack(">II", timescale, 0), bytes(4))
    return box(b"trak", elst, box(b"mdia", head, box(b"minf", table)))


def told(tmp_path: Path, *parts: bytes):
    path = tmp_path / "a.mp4"
    path.write_bytes(b"".join(parts))
    return read_boxes(path)


def test_where_the_index_stands(tmp_path: Path) -> None:
    assert told(tmp_path, FTYP, box(b"moov"), box(b"mdat", bytes(50))).index_first is True
    last = told(tmp_path, FTYP, box(b"mdat", bytes(50)), box(b"moov"))
    assert (last.index_first, last.media_found) == (False, True)
    assert told(tmp_path, FTYP, box(b"mdat", bytes(50))).index_first is None
    assert not told(tmp_path, b"RIFF", bytes(200)).is_mp4
    assert not told(tmp_path, b"").is_mp4


@pytest.mark.parametrize(("edits", "trims"), [
    ([(5000, 0)], False), ([(5000, 40)], False), ([(5000, 900)], True), ([(1000, 0), (2000, 3000)], True),
    ([(500, -1), (5000, 0)], False), ([], False),
])
@pytest.mark.parametrize("long", [False, True])
def test_an_edit_list_that_trims(tmp_path: Path, edits: list[tuple[int, int]], trims: bool, long: bool) -> None:
    """The delay of reordered pictures and an empty edit before the track are no trimming."""
    assert told(tmp_path, FTYP, box(b"moov", track(edits=edits, long=long))).edit_list is trims


@pytest.mark.parametrize(("content", "colour"), [
    (b"nclx" + struct.pack(">HHH", 9, 16, 9) + b"\x80", (9, 16, 9, True)),
    (b"nclx" + struct.pack(">HHH", 1, 1, 1) + b"\0", (1, 1, 1, False)),
    (b"nclc" + struct.pack(">HHH", 6, 1, 6), (6, 1, 6, None)), (b"prof" + bytes(20), None), (b"nclx", None),
])
def test_the_colour_of_the_container(tmp_path: Path, content: bytes, colour: object) -> None:
    assert told(tmp_path, FTYP, box(b"moov", track(colour=content))).colour == colour


def test_a_long_box_and_one_to_the_end(tmp_path: Path) -> None:
    wide = struct.pack(">I4sQ", 1, b"mdat", 16 + 40) + bytes(40)
    assert told(tmp_path, FTYP, wide, box(b"moov")).index_first is False
    rest = struct.pack(">I4s", 0, b"mdat") + bytes(40)
    assert told(tmp_path, FTYP, box(b"moov"), rest).index_first is True


@given(st.binary(max_size=600), st.integers(0, 2**32 - 1))
def test_nonsense_ends_the_walk(tmp_path_factory: pytest.TempPathFactory, noise: bytes, size: int) -> None:
    path = tmp_path_factory.mktemp("boxes") / "a.mp4"
    path.write_bytes(FTYP + struct.pack(">I4s", size, b"moov") + noise + track(edits=[(1, 2)])[: len(noise)])
    read_boxes(path)


@pytest.mark.parametrize(("name", "content"), [
    ("playlist.mp4", "#EXTM3U\n#EXT-X-TARGETDURATION:1\n#EXTINF:1,\n{other}\n#EXT-X-ENDLIST\n"),
    ("script.mp4", "ffconcat version 1.0\nfile '{other}'\n"),
    ("captions.mp4", "1\n00:00:00,000 --> 00:00:02,000\nThe lamp is lit.\n"),
])
def test_a_file_that_names_other_files_is_not_opened(tmp_path: Path, gale: Path, name: str, content: str) -> None:
    path = tmp_path / name
    path.write_text(content.format(other=gale))
    with pytest.raises(UnreadableMaster, match="cannot be read as a film"), reading(path):
        open_film(path)


def test_a_box_of_size_nought_ends_the_walk_also_when_a_packed_file_is_read_back(tmp_path: Path) -> None:
    """It lasts to the end of the file (ISO/IEC 14496-12 clause 4.2); a program stream begins with what looks like one."""
    found = told(tmp_path, FTYP, struct.pack(">I4s", 0, b"mdat"), bytes(64))
    assert (found.is_mp4, found.media_found, found.index_first) == (True, True, None)
    stream = tmp_path / "program.mpg"
    stream.write_bytes(struct.pack(">I4s", 0, b"\xba\x44\x00\x04") + bytes(100_000))
    assert not read_boxes(stream).is_mp4
    source = films.film(tmp_path / "own.mp4", width=64, height=64, rate=25, seconds=Fraction(8, 25), sound=None)
    assert read_back(source).index_first is (read_boxes(source).index_first is True)
    mpeg = films.odd_film(tmp_path / "own.mpg", width=64, height=64, container="mpeg")
    assert read_back(mpeg).index_first is False
