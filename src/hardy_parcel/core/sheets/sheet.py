"""Rule sheets: a platform's published guidance, limits and handling, as data."""

from __future__ import annotations

from datetime import date
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Literal

from pydantic import Field, StringConstraints, model_validator

from ..trade.names import Codec, Container, SoundCodec
from ..values import Model, OneLine, Ratio

Identifier = Annotated[str, StringConstraints(pattern=r"^[a-z][a-z0-9]*(-[a-z0-9]+)*$", max_length=60)]
PositiveInt = Annotated[int, Field(gt=0)]
Rate = Annotated[Ratio, Field(ge=1, le=1000)]
Shape = Annotated[Ratio, Field(ge=Fraction(1, 20), le=20)]
Side = Annotated[int, Field(ge=16, le=16_384)]
Bitrate = Annotated[int, Field(ge=1_000, le=4_000_000_000)]


Kept = Literal["chapters", "captions"]


class FrameRateClass(StrEnum):
    """Up to 30 frames/s is standard, above 30 to 60 is high."""

    STANDARD = "standard"
    HIGH = "high"


class GuidanceRow(Model):
    """One row of guidance: bit rates in bit/s for an output of this short side, class and codec."""

    short_side_px: Side
    frame_rate_class: FrameRateClass
    dynamic_range: Literal["sdr", "hdr"] = "sdr"
    codec: Literal["h264", "hevc", "vp9", "av1"] = "h264"
    low_bps: Bitrate
    high_bps: Bitrate

    @model_validator(mode="after")
    def _in_order(self) -> GuidanceRow:
        if self.low_bps > self.high_bps:
            raise ValueError("the low bit rate is above the high one")
        return self


class RenditionRule(Model):
    """One step of a platform's ladder: a quality target under a ceiling in bit/s."""

    short_side_px: Side
    codec: Literal["h264", "vp9", "av1"]
    quality: Annotated[int, Field(ge=0, le=63)]
    ceiling_standard_bps: Bitrate
    ceiling_high_bps: Bitrate

    def ceiling_bps(self, frame_rate_class: FrameRateClass) -> int:
        return self.ceiling_high_bps if frame_rate_class is FrameRateClass.HIGH else self.ceiling_standard_bps


class HandlingTier(Model):
    """The ladder for uploads whose short side is at most `up_to_short_side_px` (None: any)."""

    name: str
    up_to_short_side_px: PositiveInt | None = None
    renditions: Annotated[tuple[RenditionRule, ...], Field(min_length=1)]


class Assumed(StrEnum):
    """What a creator supposes of a platform whose re-encoding nobody has measured."""

    GENTLE = "gentle"
    MIDDLING = "middling"
    HARSH = "harsh"


class Handling(Model):
    """How a platform re-encodes an upload; an empty list of tiers means bit for bit.

    `assumed` marks a ladder that was supposed, not known. `sound_bps` is set where the sound itself is re-encoded.
    """

    tiers: tuple[HandlingTier, ...] = ()
    assumed: Assumed | None = None
    wrong_shape: Literal["bars", "crop", "refuse"] = "bars"
    frame_rate_cap: Rate | None = None
    buffer_s: Annotated[float, Field(ge=0.05, le=30)] = 2.0
    keyframe_s: Annotated[float, Field(ge=0.05, le=30)] = 2.0
    effort: Literal["quick"] = "quick"
    loudness: Literal["turns down", "both ways", "none"] = "none"
    sound_bps: Bitrate | None = None


class SoundRate(Model):
    """What is asked of the sound in one codec with so many channels, in bit/s; `low_bps` where it is a range."""

    codec: SoundCodec
    channels: Literal[1, 2]
    low_bps: Bitrate | None = None
    high_bps: Bitrate


class AudioRule(Model):
    """Sound: codecs in order of preference, rates in bit/s, target in LUFS, limit in dBTP.

    `stereo_low_bps` and `mono_low_bps` are the lower ends where the guidance is a range; `by_codec` goes before both where
    a platform asks for another rate in another codec.
    """

    codecs: Annotated[tuple[SoundCodec, ...], Field(min_length=1)] = ("aac",)
    stereo_bps: Bitrate
    mono_bps: Bitrate
    stereo_low_bps: Bitrate | None = None
    mono_low_bps: Bitrate | None = None
    by_codec: Annotated[tuple[SoundRate, ...], Field(max_length=20)] = ()
    sample_rates_hz: Annotated[tuple[Annotated[int, Field(ge=8_000, le=192_000)], ...], Field(min_length=1)] = (48000,)
    target_lufs: Annotated[float, Field(ge=-70, le=0)] | None = None
    true_peak_limit_dbtp: Annotated[float, Field(ge=-30, le=0)] | None = None
    turns: Literal["down", "both"] = "both"

    def asked(self, codec: SoundCodec, channels: int) -> tuple[int | None, int]:
        """Lower end, where there is one, and upper end in bit/s for a codec and one or two channels."""
        own = next((one for one in self.by_codec if (one.codec, one.channels) == (codec, channels)), None)
        if own:
            return own.low_bps, own.high_bps
        return (self.stereo_low_bps, self.stereo_bps) if channels == 2 else (self.mono_low_bps, self.mono_bps)


class Margins(Model):
    """What a platform's own page may cover of a picture, as shares of the frame's width and height."""

    left: Annotated[float, Field(ge=0, le=0.45)] = 0.0
    top: Annotated[float, Field(ge=0, le=0.45)] = 0.0
    right: Annotated[float, Field(ge=0, le=0.45)] = 0.0
    bottom: Annotated[float, Field(ge=0, le=0.45)] = 0.0


class Placement(Model):
    """One placement of a platform: what it takes, its limits, its guidance and its handling.

    Without `picture` it is an audio feed, and codecs and guidance for pictures are left empty. `guidance_factors`
    multiply the H.264 rows for a codec that has none of its own; `hdr_factor` does so for high dynamic range.
    `covered` is what its page lays over the picture. `max_level`, `max_tier` (of HEVC) and `peak_bps` are what the weakest
    machine that must play it can do. `ten_bit` are the codecs that it takes in 10 bit too.
    """

    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=80), OneLine]
    picture: bool = True
    narrowest: Shape = Fraction(1, 4)
    widest: Shape = Fraction(4)
    usual_shape: Shape = Fraction(16, 9)
    usual_short_side_px: Side = 1080
    max_long_side_px: Side = 16_384
    max_short_side_px: Side = 16_384
    max_frame_rate: Annotated[Ratio, Field(ge=1, le=1000)] = Fraction(60)
    codecs: tuple[Codec, ...] = ()
    containers: Annotated[tuple[Container, ...], Field(min_length=1)]
    max_bytes: PositiveInt
    quota_bytes: PositiveInt | None = None
    quota_days: Annotated[int, Field(gt=0, le=366)] | None = None
    max_duration_s: PositiveInt
    keyframe_interval_s: Annotated[float, Field(ge=0.05, le=20)] = 2.0
    covered: Margins | None = None
    max_level: dict[Codec, Annotated[str, StringConstraints(pattern=r"^\d\.\d$")]] = {}
    ten_bit: tuple[Codec, ...] = ("hevc", "vp9", "av1", "vc3")
    max_tier: Literal["Main", "High"] | None = None
    peak_bps: Bitrate | None = None
    keeps: tuple[Kept, ...] = ()
    guidance: tuple[GuidanceRow, ...] = ()
    guidance_factors: dict[Codec, Annotated[float, Field(ge=0.05, le=4)]] = {}
    hdr_factor: Annotated[float, Field(ge=0.05, le=4)] | None = None
    audio: AudioRule
    handling: Handling

    @model_validator(mode="after")
    def _fits_together(self) -> Placement:
        if self.picture and not self.codecs:
            raise ValueError("a placement with a picture names at least one codec")
        if not self.picture and (self.codecs or self.guidance):
            raise ValueError("an audio feed has no picture codecs and no picture guidance")
        if self.narrowest > self.widest:
            raise ValueError("the narrowest shape is wider than the widest")
        if not self.accepts_shape(self.usual_shape):
            raise ValueError("the usual shape is not one that is taken")
        if self.max_short_side_px > self.max_long_side_px:
            raise ValueError("the longest short side is longer than the longest long side")
        seen = [(row.short_side_px, row.frame_rate_class, row.dynamic_range, row.codec) for row in self.guidance]
        if len(set(seen)) < len(seen):
            raise ValueError("two guidance rows are for the same short side, class, range and codec")
        return self

    @property
    def complete(self) -> bool:
        """Whether anything can be planned for it: a picture needs guidance."""
        return bool(self.guidance) or not self.picture

    @property
    def re_encodes(self) -> bool:
        """Whether the picture is encoded again there; else a viewer's machine plays the very file."""
        return bool(self.handling.tiers)

    def accepts_shape(self, shape: Fraction) -> bool:
        """True when width ÷ height lies within what the placement takes (half a pixel in 1080 spared)."""
        spare = Fraction(1, 1000)
        return self.narrowest * (1 - spare) <= shape <= self.widest * (1 + spare)


SCHEMA_VERSION: Literal[1] = 1
OLD_AFTER_DAYS = 180


class Sheet(Model):
    """A platform's rules with the date they were checked and where they came from."""

    schema_version: Literal[1] = SCHEMA_VERSION
    id: Identifier
    name: Annotated[str, Field(min_length=1, max_length=80), OneLine]
    kind: Annotated[str, Field(max_length=80), OneLine]
    version: PositiveInt
    checked_on: date
    source: Annotated[str, Field(max_length=2_000)]
    placements: Annotated[tuple[Placement, ...], Field(min_length=1, max_length=20)]

    @model_validator(mode="after")
    def _one_of_each(self) -> Sheet:
        ids = [place.id for place in self.placements]
        if len(set(ids)) < len(ids):
            raise ValueError("two placements have the same id")
        return self


class Destination(Model):
    """One placement of one sheet; its id is `<sheet>-<placement>`."""

    id: Annotated[str, StringConstraints(max_length=130)]
    sheet_id: Identifier
    sheet_name: str
    sheet_version: int
    checked_on: date
    kind: str
    placement: Placement

    @property
    def full_name(self) -> str:
        """Sheet and placement, as a creator reads it."""
        return f"{self.sheet_name} · {self.placement.name}"

    @property
    def assumption(self) -> str:
        """What to know where its handling is assumed, a sentence; empty where it is published or measured."""
        assumed = self.placement.handling.assumed
        if not assumed:
            return ""
        return f"How {self.sheet_name} re-encodes is assumed, {assumed}; a file that it served back would tell."


def destination_ids(sheet: Sheet) -> set[str]:
    """The ids of a sheet's placements, those that nothing can be planned for yet included."""
    return {f"{sheet.id}-{place.id}" for place in sheet.placements}


def destinations(sheets: list[Sheet]) -> dict[str, Destination]:
    """Every destination of the sheets by its id, in the sheets' order; a placement without guidance is none yet."""
    found = (destination_at(sheet, place) for sheet in sheets for place in sheet.placements if place.complete)
    return {one.id: one for one in found}


def destination_at(sheet: Sheet, place: Placement) -> Destination:
    """The destination that one placement of a sheet is."""
    return Destination(
        id=f"{sheet.id}-{place.id}",
        sheet_id=sheet.id,
        sheet_name=sheet.name,
        sheet_version=sheet.version,
        checked_on=sheet.checked_on,
        kind=sheet.kind,
        placement=place,
    )
