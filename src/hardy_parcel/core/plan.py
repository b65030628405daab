"""The plan: every value that the encoders and the muxer get, each with its because."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Generic, Literal, TypeVar

from pydantic import Field

from .facts import ColourTags, Excerpt
from .framing import Framing, FramingMode
from .guidance import GuidanceUse
from .values import Model, Ratio

T = TypeVar("T")


class Source(StrEnum):
    """Where a reason comes from."""

    SHEET = "sheet"
    MEASURED = "measurement"
    STANDARD = "standard"
    MASTER = "master"
    CREATOR = "creator"
    PROGRAM = "program"


class Because(Model):
    """Why a value is what it is: a code for programs, a sentence for people, and the source."""

    code: str
    sentence: str
    source: Source


class Chosen(Model, Generic[T]):
    """A value and its reason."""

    value: T
    because: Because


class RateControl(StrEnum):
    TWO_PASSES = "two passes"
    ONE_PASS = "one pass"


class Effort(StrEnum):
    """Named encoder efforts; the encoder's own preset names stay inside `encoder_settings`."""

    QUICK = "quick"
    MEDIUM = "medium"
    CAREFUL = "careful"


class FieldOrder(StrEnum):
    """How pictures are deinterlaced, by which field was taken first."""

    NONE = "not deinterlaced"
    TOP_FIRST = "deinterlaced, top field first"
    BOTTOM_FIRST = "deinterlaced, bottom field first"


class Outcome(StrEnum):
    CLEARED = "cleared"
    CARE = "handle with care"
    HELD = "held"


class Stamp(Model):
    """A check's outcome with what was seen."""

    code: str
    outcome: Outcome
    matter: str
    sentence: str


class Choices(Model):
    """What the creator decided for a parcel; None leaves it to the plan."""

    video_bitrate_bps: Annotated[int, Field(ge=50_000, le=400_000_000)] | None = None
    framing: FramingMode = FramingMode.FIT
    rate_control: RateControl | None = None
    effort: Effort | None = None


class VideoPlan(Model):
    codec: Chosen[Literal["h264"]]
    profile: Chosen[Literal["high"]]
    level: Chosen[str]
    framing: Chosen[Framing]
    deinterlace: Chosen[FieldOrder] = Chosen(
        value=FieldOrder.NONE, because=Because(code="not_deinterlaced", sentence="pictures are packed line for line", source=Source.MASTER)
    )
    pixel_format: Chosen[Literal["yuv420p"]]
    frame_rate: Chosen[Ratio]
    keep_every: int
    frames: int
    rate_control: Chosen[RateControl]
    target_bps: Chosen[int]
    ceiling_bps: Chosen[int]
    buffer_bits: Chosen[int]
    keyframe_interval_frames: Chosen[int]
    effort: Chosen[Effort]
    colour: Chosen[ColourTags]
    source_matrix: str
    source_range: str
    scaler: Chosen[Literal["bicubic"]]


class AudioPlan(Model):
    codec: Chosen[Literal["aac"]]
    bitrate_bps: Chosen[int]
    sample_rate_hz: Chosen[int]
    channels: Chosen[int]
    gain_db: Chosen[float]
    expected_lufs: float | None = None
    expected_peak_dbtp: float | None = None


class Plan(Model):
    """Complete settings of a parcel; immutable before a frame is touched."""

    destination_id: str
    destination_name: str
    sheet_version: int
    master_content_id: str
    excerpt: Excerpt
    container: Chosen[Literal["mp4"]]
    fast_start: Chosen[bool]
    video: VideoPlan
    audio: AudioPlan | None
    no_audio_because: Because | None = None
    guidance: GuidanceUse
    stamps: tuple[Stamp, ...]

    @property
    def held(self) -> tuple[Stamp, ...]:
        return tuple(stamp for stamp in self.stamps if stamp.outcome is Outcome.HELD)

    @property
    def times_guidance(self) -> float:
        """Target as a multiple of the middle of the guidance (its geometric mean)."""
        return self.video.target_bps.value / (self.guidance.low_bps * self.guidance.high_bps) ** 0.5

    def picture_key(self) -> str:
        """Identity of everything but the bit rate: plans with one key lie on one survival curve."""
        video = self.video
        parts: tuple[object, ...] = (
            self.master_content_id, self.destination_id, self.sheet_version, self.excerpt.in_s, self.excerpt.out_s,
            video.codec.value, video.framing.value.model_dump_json(), video.frame_rate.value, video.keep_every,
            video.rate_control.value, video.keyframe_interval_frames.value, video.effort.value,
            video.colour.value.model_dump_json(), video.source_matrix, video.source_range, video.scaler.value,
        )
        if video.deinterlace.value is not FieldOrder.NONE:
            parts += (video.deinterlace.value,)
        return hashlib.sha256("|".join(map(str, parts)).encode()).hexdigest()[:20]


def duration_s(plan: Plan) -> Fraction:
    """Packed duration in s: whole pictures at the packed rate."""
    return Fraction(plan.video.frames) / plan.video.frame_rate.value
