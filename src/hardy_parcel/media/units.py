"""Coded pictures and sound without what containers put around them, so that the same stream is known in any of them.

NAL units (ITU-T H.264 Annex B and H.265 Annex B) stand behind their lengths in MP4 and Matroska and behind start codes in a transport
stream, which also repeats parameter sets and delimiters. AAC has a header before each frame there (ADTS, ISO/IEC 14496-3).
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Callable, Iterator

START_CODE = re.compile(rb"\x00\x00\x01")
CODED: dict[str, Callable[[int], bool]] = {
    "h264": lambda first: first & 0x1F in range(1, 6), "hevc": lambda first: (first >> 1) & 0x3F < 32,
}
"""By codec, whether a NAL unit of this first byte is a part of a coded picture; all others may be repeated, moved or left out."""
LENGTH_AT = {"h264": 4, "hevc": 21}
"""Where in the decoder's configuration of MP4 the last two bits say in how many bytes lengths are, less one."""


def length_bytes(codec: str, configuration: bytes) -> int | None:
    """In how many bytes lengths of NAL units are; None where they stand behind start codes."""
    at = LENGTH_AT[codec]
    return None if configuration[:1] != b"\x01" or len(configuration) <= at else (configuration[at] & 3) + 1


def coded_picture(codec: str, length: int | None, packet: bytes) -> Iterator[bytes]:
    """The parts of a coded picture in a packet of H.264 or HEVC, whatever wraps them."""
    for unit in _after_lengths(packet, length) if length else _after_start_codes(packet):
        if unit and CODED[codec](unit[0]):
            yield unit.rstrip(b"\x00")


def _after_lengths(packet: bytes, length: int) -> Iterator[bytes]:
    at = 0
    while at + length <= len(packet):
        size = int.from_bytes(packet[at : at + length], "big")
        yield packet[at + length : at + length + size]
        at += length + size


def _after_start_codes(packet: bytes) -> Iterator[bytes]:
    starts = [found.end() for found in START_CODE.finditer(packet)]
    for start, following in itertools.pairwise([*starts, len(packet) + 3]):
        yield packet[start : following - 3]


def coded_sound(packet: bytes) -> bytes:
    """A frame of AAC without the header that stands before it in a transport stream."""
    if len(packet) < 7 or packet[0] != 0xFF or packet[1] & 0xF6 != 0xF0:
        return packet
    size = (packet[3] & 3) << 11 | packet[4] << 3 | packet[5] >> 5
    return packet[7 if packet[1] & 1 else 9 :] if size == len(packet) else packet
