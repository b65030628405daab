"""Lowest sufficient level of each codec, from the tables of the standards. The frame rate counts."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from ..errors import BadChoice
from .names import Codec


@dataclass(frozen=True, slots=True, kw_only=True)
class Level:
    """Limits of a level in the codec's own units: luma samples (H.264: macroblocks), per picture and per s, bits."""

    name: str
    max_samples_per_s: int
    max_picture_samples: int
    max_side_px: float
    max_bitrate_bps: int
    max_buffer_bits: int
    tier: str = ""


def _table(rows: Sequence[tuple[str, int, int, int, int]], *, side: Callable[[int], float]) -> tuple[Level, ...]:
    return tuple(
        Level(
            name=name, max_samples_per_s=rate, max_picture_samples=picture, max_side_px=side(picture),
            max_bitrate_bps=bits * 1000, max_buffer_bits=buffer * 1000,
        )
        for name, rate, picture, bits, buffer in rows
    )


HIGH_PROFILE_FACTOR = 1.25
"""cpbBrVclFactor of the High profile over that of Main, Rec. ITU-T H.264 (08/2021) Table A-2."""

H264 = _table(
    (
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
    ),
    side=lambda macroblocks: math.sqrt(macroblocks * 8) * 16,
)
"""Rec. ITU-T H.264 (08/2021) Table A-1: macroblocks/s, macroblocks a frame, kbit/s and kbit for Main; the sides by A.3.1."""

HEVC_MAIN = _table(
    (
        ("1.0", 552_960, 36_864, 128, 350),
        ("2.0", 3_686_400, 122_880, 1_500, 1_500),
        ("2.1", 7_372_800, 245_760, 3_000, 3_000),
        ("3.0", 16_588_800, 552_960, 6_000, 6_000),
        ("3.1", 33_177_600, 983_040, 10_000, 10_000),
        ("4.0", 66_846_720, 2_228_224, 12_000, 12_000),
        ("4.1", 133_693_440, 2_228_224, 20_000, 20_000),
        ("5.0", 267_386_880, 8_912_896, 25_000, 25_000),
        ("5.1", 534_773_760, 8_912_896, 40_000, 40_000),
        ("5.2", 1_069_547_520, 8_912_896, 60_000, 60_000),
        ("6.0", 1_069_547_520, 35_651_584, 60_000, 60_000),
        ("6.1", 2_139_095_040, 35_651_584, 120_000, 120_000),
        ("6.2", 4_278_190_080, 35_651_584, 240_000, 240_000),
    ),
    side=lambda samples: math.sqrt(samples * 8),
)
"""Rec. ITU-T H.265 (08/2021) Tables A.8 and A.9, Main tier, factor 1000; the sides by A.4.1."""

HEVC_HIGH_TIER_KBIT = {
    "4.0": 30_000, "4.1": 50_000, "5.0": 100_000, "5.1": 160_000, "5.2": 240_000, "6.0": 240_000, "6.1": 480_000, "6.2": 800_000,
}
"""Tables A.8 and A.9, High tier: kbit/s of rate and kbit of buffer, which are the same figure from level 4 on."""

HEVC = (
    *(replace(level, tier="Main") for level in HEVC_MAIN),
    *(
        replace(level, tier="High", max_bitrate_bps=kbit * 1000, max_buffer_bits=kbit * 1000)
        for level in HEVC_MAIN for name, kbit in HEVC_HIGH_TIER_KBIT.items() if name == level.name
    ),
)
"""Every level of Main tier before any of High: machines play a higher level of Main far more often than High tier."""

VP9 = _table(
    (
        ("1.0", 829_440, 36_864, 200, 400),
        ("1.1", 2_764_800, 73_728, 800, 1_000),
        ("2.0", 4_608_000, 122_880, 1_800, 1_500),
        ("2.1", 9_216_000, 245_760, 3_600, 2_800),
        ("3.0", 20_736_000, 552_960, 7_200, 6_000),
        ("3.1", 36_864_000, 983_040, 12_000, 10_000),
        ("4.0", 83_558_400, 2_228_224, 18_000, 16_000),
        ("4.1", 160_432_128, 2_228_224, 30_000, 18_000),
        ("5.0", 311_951_360, 8_912_896, 60_000, 36_000),
        ("5.1", 588_251_136, 8_912_896, 120_000, 46_000),
        ("5.2", 1_176_502_272, 8_912_896, 180_000, 90_000),
        ("6.0", 1_176_502_272, 35_651_584, 180_000, 90_000),
        ("6.1", 2_353_004_544, 35_651_584, 240_000, 180_000),
        ("6.2", 4_706_009_088, 35_651_584, 480_000, 360_000),
    ),
    side={
        36_864: 512, 73_728: 768, 122_880: 960, 245_760: 1_344, 552_960: 2_048, 983_040: 2_752, 2_228_224: 4_160,
        8_912_896: 8_384, 35_651_584: 16_832,
    }.__getitem__,
)
"""VP9 Bitstream Superframe and Level definitions (draft, 2017-02): luma samples/s and a picture, kbit/s, kbit, longest side."""

AV1 = _table(
    (
        ("2.0", 4_423_680, 147_456, 1_500, 1_500),
        ("2.1", 8_363_520, 278_784, 3_000, 3_000),
        ("3.0", 19_975_680, 665_856, 6_000, 6_000),
        ("3.1", 31_950_720, 1_065_024, 10_000, 10_000),
        ("4.0", 70_778_880, 2_359_296, 12_000, 12_000),
        ("4.1", 141_557_760, 2_359_296, 20_000, 20_000),
        ("5.0", 267_386_880, 8_912_896, 30_000, 30_000),
        ("5.1", 534_773_760, 8_912_896, 40_000, 40_000),
        ("5.2", 1_069_547_520, 8_912_896, 60_000, 60_000),
        ("6.0", 1_069_547_520, 35_651_584, 60_000, 60_000),
        ("6.1", 2_139_095_040, 35_651_584, 100_000, 100_000),
        ("6.2", 4_278_190_080, 35_651_584, 160_000, 160_000),
    ),
    side={
        147_456: 2_048, 278_784: 2_816, 665_856: 4_352, 1_065_024: 5_504, 2_359_296: 6_144, 8_912_896: 8_192, 35_651_584: 16_384,
    }.__getitem__,
)
"""AV1 Bitstream & Decoding Process Specification v1.0.0 errata 1, Annex A.3: MaxDisplayRate, MaxPicSize, MainMbps, and
MaxHSize as the longest side; the buffer is one second at the level's rate. Levels 5.3 and 6.3 differ from their
neighbours in decode rate alone, which one picture a frame never reaches."""

TABLES: dict[Codec, tuple[Level, ...]] = {"h264": H264, "hevc": HEVC, "vp9": VP9, "av1": AV1}


def most_buffer_bits(codec: Codec, level: Level) -> int:
    """The largest buffer that a level lets a stream have, as we encode it."""
    return int(level.max_buffer_bits * (HIGH_PROFILE_FACTOR if codec == "h264" else 1))


def lowest_level(
    *, codec: Codec = "h264", width: int, height: int, frame_rate: Fraction, ceiling_bps: int, buffer_bits: int,
    most: str | None = None, tier: str | None = None,
) -> Level:
    """The lowest level that carries frames of this size (px) at this rate (1/s), ceiling (bit/s) and buffer (bit).

    H.264 is counted in macroblocks with the High profile's factor. HEVC takes High tier where no level of Main tier does,
    or none up to `most`, the highest that is played; never where only Main `tier` is. Raises BadChoice when no level does;
    VC-3 has none to look for.
    """
    unit, factor = (16, HIGH_PROFILE_FACTOR) if codec == "h264" else (1, 1.0)
    wide, high = math.ceil(width / unit), math.ceil(height / unit)
    samples_per_s = wide * high * frame_rate
    fitting = [
        level for level in TABLES[codec]
        if wide * high <= level.max_picture_samples
        and max(wide, high) * unit <= level.max_side_px
        and samples_per_s <= level.max_samples_per_s
        and ceiling_bps <= level.max_bitrate_bps * factor
        and buffer_bits <= level.max_buffer_bits * factor
        and (tier != "Main" or level.tier != "High")
    ]
    played = [level for level in fitting if most is None or not above(codec, level.name, most)]
    if fitting:
        return (played or fitting)[0]
    raise BadChoice(
        f"No {'H.264' if codec == 'h264' else codec.upper()} level carries {width}×{height} at {float(frame_rate):g} frames/s"
        f" and {ceiling_bps / 1e6:.1f} Mbit/s.",
        "Choose a smaller frame, a lower frame rate or a lower bit rate.",
        code="no_level",
    )


def above(codec: Codec, level: str, most: str) -> bool:
    """Whether `level` stands above `most` in the codec's own table."""
    names = list(dict.fromkeys(known.name for known in TABLES[codec]))
    return level in names and most in names and names.index(level) > names.index(most)
