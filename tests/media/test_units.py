"""Coded pictures and sound, whatever containers put around them."""

from __future__ import annotations

import pytest

from hardy_parcel.media.units import coded_picture, coded_sound, length_bytes

SLICES = [bytes([0x65, 1, 2, 0, 3]), bytes([0x41, 9, 9])]
APART = [bytes([0x67, 66]), bytes([0x68, 7]), bytes([0x09, 0xF0]), bytes([0x06, 5])]
"""Parameter sets, a delimiter and information beside the picture."""


@pytest.mark.parametrize("length", [2, 4])
def test_lengths_and_start_codes_hold_the_same_parts_of_a_picture(length: int) -> None:
    behind_lengths = b"".join(len(unit).to_bytes(length, "big") + unit for unit in (APART[3], *SLICES))
    behind_codes = b"".join(b"\0\0\0\1" + unit for unit in (*APART[:3], SLICES[0])) + b"\0\0\1" + SLICES[1]
    assert list(coded_picture("h264", length, behind_lengths)) == list(coded_picture("h264", None, behind_codes)) == SLICES


def test_a_packet_that_breaks_off_is_read_as_far_as_it_goes() -> None:
    assert list(coded_picture("h264", 4, (9).to_bytes(4, "big") + SLICES[1] + b"\0")) == [SLICES[1]]
    assert list(coded_picture("h264", 4, b"\0\0")) == list(coded_picture("hevc", None, b"")) == []


def test_parts_of_a_picture_are_told_by_codec() -> None:
    slice_of_hevc, parameters = bytes([0x26, 1, 175]), bytes([0x40, 1, 12])
    packet = b"\0\0\1" + parameters + b"\0\0\1" + slice_of_hevc
    assert list(coded_picture("hevc", None, packet)) == [slice_of_hevc]


def test_where_lengths_are_is_read_from_the_configuration() -> None:
    assert length_bytes("h264", bytes([1, 66, 0, 30, 0xFF, 0xE1])) == 4
    assert length_bytes("h264", bytes([1, 66, 0, 30, 0xFD, 0xE1])) == 2
    assert length_bytes("hevc", bytes([1, *[0] * 20, 0x0F, 0])) == 4
    assert length_bytes("hevc", b"\0\0\0\1" + bytes(30)) is length_bytes("h264", b"") is None


def test_a_header_before_sound_is_left_out() -> None:
    frame = bytes([0x21, 1, 2, 3])
    size = 7 + len(frame)
    header = bytes([0xFF, 0xF1, 0x4C, 0x80 | size >> 11, size >> 3 & 255, (size & 7) << 5 | 0x1F, 0xFC])
    assert coded_sound(header + frame) == coded_sound(frame) == frame
    assert coded_sound(header + frame + b"more") == header + frame + b"more", "what only looks like a header is left"
