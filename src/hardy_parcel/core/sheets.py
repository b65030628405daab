"""Rule sheets: a platform's published guidance, limits and handling, as data."""

from __future__ import annotations

from datetime import date
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field, StringConstraints

from .values import Model, Ratio

Identifier = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9]*(-[a-z0-9]+)*$", max_length=60)]
PositiveInt = Annotated[int, Field(gt=0)]
Rate = Annotated[Ratio, Field(gt=0)]


class FrameRateClass(StrEnum):
    """Up to 30 frames/s is standard, above 30 to 60 is high."""

    STANDARD = "standard"
    HIGH = "high"


class GuidanceRow(Model):
    """One row of guidance: bit rates in bit/s for an output of this short side, class and codec."""

    short_side_px: PositiveInt
    frame_rate_class: FrameRateClass
    dynamic_range: Literal["sdr", "hdr"] = "sdr"
    codec: Literal["h264", "hevc", "vp9", "av1"] = "h264"
    low_bps: PositiveInt
    high_bps: PositiveInt


class RenditionRule(Model):
    """One step of a platform's ladder: a quality target under a ceiling in bit/s."""

    short_side_px: PositiveInt
    codec: Literal["h264", "vp9"]
    quality: Annotated[int, Field(ge=0, le=63)]
    ceiling_standard_bps: PositiveInt
    ceiling_high_bps: PositiveInt

    def ceiling_bps(self, frame_rate_class: FrameRateClass) -> int:
        return self.ceiling_high_bps if frame_rate_class is FrameRateClass.HIGH else self.ceiling_standard_bps


class HandlingTier(Model):
    """The ladder for uploads whose short side is at most `up_to_short_side_px` (None: any)."""

    name: str
    up_to_short_side_px: PositiveInt | None = None
    renditions: Annotated[tuple[RenditionRule, ...], Field(min_length=1)]


class Handling(Model):
    """How a platform re-encodes an upload; an empty list of tiers means bit for bit."""

    tiers: tuple[HandlingTier, ...] = ()
    wrong_shape: Literal["bars", "crop", "refuse"] = "bars"
    frame_rate_cap: Rate | None = None
    buffer_s: Annotated[float, Field(gt=0)] = 2.0
    keyframe_s: Annotated[float, Field(gt=0)] = 2.0
    effort: Literal["quick"] = "quick"
    loudness: Literal["turns down", "both ways", "none"] = "none"


class AudioRule(Model):
    """Sound beside video: rates in bit/s, target in LUFS, limit in dBTP."""

    codec: Literal["aac"] = "aac"
    stereo_bps: PositiveInt
    mono_bps: PositiveInt
    sample_rates_hz: tuple[PositiveInt, ...] = (48000,)
    target_lufs: Annotated[float, Field(le=0)] | None = None
    true_peak_limit_dbtp: Annotated[float, Field(le=0)] | None = None
    turns: Literal["down", "both"] = "both"


class Placement(Model):
    """One placement of a platform: what it takes, its limits, its guidance and its handling."""

    id: Identifier
    name: str
    narrowest: Rate
    widest: Rate
    usual_shape: Rate
    usual_short_side_px: PositiveInt
    max_long_side_px: PositiveInt
    max_short_side_px: PositiveInt
    max_frame_rate: Rate
    codecs: tuple[Literal["h264", "hevc", "vp9", "av1"], ...]
    containers: tuple[Literal["mp4", "mov", "webm", "mkv"], ...]
    max_bytes: PositiveInt
    max_duration_s: PositiveInt
    keyframe_interval_s: Annotated[float, Field(gt=0, le=20)] = 2.0
    guidance: Annotated[tuple[GuidanceRow, ...], Field(min_length=1)]
    audio: AudioRule
    handling: Handling

    def accepts_shape(self, shape: Fraction) -> bool:
        """True when width ÷ height lies within what the placement takes (half a pixel in 1080 spared)."""
        spare = Fraction(1, 1000)
        return self.narrowest * (1 - spare) <= shape <= self.widest * (1 + spare)


class Sheet(Model):
    """A platform's rules with the date they were checked and where they came from."""

    schema_version: Literal[1] = 1
    id: Identifier
    name: str
    kind: str
    version: PositiveInt
    checked_on: date
    source: str
    placements: Annotated[tuple[Placement, ...], Field(min_length=1)]


class Destination(Model):
    """One placement of one sheet; its id is `<sheet>-<placement>`."""

    id: Identifier
    sheet_id: Identifier
    sheet_name: str
    sheet_version: int
    checked_on: date
    kind: str
    placement: Placement


def destinations(sheets: list[Sheet]) -> dict[str, Destination]:
    """Every destination of the sheets by its id, in the sheets' order."""
    return {
        f"{sheet.id}-{place.id}": Destination(
            id=f"{sheet.id}-{place.id}",
            sheet_id=sheet.id,
            sheet_name=sheet.name,
            sheet_version=sheet.version,
            checked_on=sheet.checked_on,
            kind=sheet.kind,
            placement=place,
        )
        for sheet in sheets
        for place in sheet.placements
    }
