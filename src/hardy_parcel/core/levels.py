"""Lowest sufficient H.264 level: Rec. ITU-T H.264 (08/2021) Table A-1 and A.3.3."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

from .errors import BadChoice


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """Limits of a level: macroblocks/s, macroblocks a frame, kbit/s and kbit (factor 1 of the table)."""

    name: str
    max_macroblocks_per_s: int
    max_frame_macroblocks: int
    max_bitrate_kbps: int
    max_buffer_kbit: int


TABLE_A_1 = tuple(
    Level(
        name=name,
        max_macroblocks_per_s=rate,
        max_frame_macroblocks=frame,
        max_bitrate_kbps=bits,
        max_buffer_kbit=buffer,
    )
    for name, rate, frame, bits, buffer in (
        ("1.0", 1_485, 99, 64, 175),
        ("1.1", 3_000, 396, 192, 500),
        ("1.2", 6_000, 396, 384, 1_000),
        ("1.3", 11_880, 396, 768, 2_000),
        ("2.0", 11_880, 396, 2_000, 2_000),
        ("2.1", 19_800, 792, 4_000, 4_000),
        ("2.2", 20_250, 1_620, 4_000, 4_000),
        ("3.0", 40_500, 1_620, 10_000, 10_000),
        ("3.1", 108_000, 3_600, 14_000, 14_000),
        ("3.2", 216_000, 5_120, 20_000, 20_000),
        ("4.0", 245_760, 8_192, 20_000, 25_000),
        ("4.1", 245_760, 8_192, 50_000, 62_500),
        ("4.2", 522_240, 8_704, 50_000, 62_500),
        ("5.0", 589_824, 22_080, 135_000, 135_000),
        ("5.1", 983_040, 36_864, 240_000, 240_000),
        ("5.2", 2_073_600, 36_864, 240_000, 240_000),
        ("6.0", 4_177_920, 139_264, 240_000, 240_000),
        ("6.1", 8_355_840, 139_264, 480_000, 480_000),
        ("6.2", 16_711_680, 139_264, 800_000, 800_000),
    )
)

HIGH_PROFILE_FACTOR = 1250
"""cpbBrVclFactor of the High profile in bits, Table A-2."""


def lowest_level(*, width: int, height: int, frame_rate: Fraction, ceiling_bps: int, buffer_bits: int) -> Level:
    """The lowest High-profile level that carries frames of this size (px) at this rate (1/s).

    Checks MaxMBPS, MaxFS, the side limit Sqrt(MaxFS × 8) of A.3.1, and MaxBR and MaxCPB with the factor of
    Table A-2. Raises BadChoice when no level does.
    """
    wide, high = math.ceil(width / 16), math.ceil(height / 16)
    for level in TABLE_A_1:
        side_limit = math.sqrt(level.max_frame_macroblocks * 8)
        if (
            wide * high <= level.max_frame_macroblocks
            and max(wide, high) <= side_limit
            and wide * high * frame_rate <= level.max_macroblocks_per_s
            and ceiling_bps <= level.max_bitrate_kbps * HIGH_PROFILE_FACTOR
            and buffer_bits <= level.max_buffer_kbit * HIGH_PROFILE_FACTOR
        ):
            return level
    raise BadChoice(
        f"No H.264 level carries {width}×{height} at {float(frame_rate):g} frames/s and this bit rate.",
        "Choose a smaller frame, a lower frame rate or a lower bit rate.",
        code="no_level",
    )
