"""The plan: every value that the encoders and the muxer get, each with its because."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from fractions import Fraction
from typing import Annotated, Generic, TypeVar

from pydantic import Field

from .errors import BadChoice
from .facts import ColourTags, Excerpt
from .framing import CENTRE, MOST_ZOOM, Focus, Framing, FramingMode, Wish
from .guidance import GuidanceUse
from .sheets import Codec, Container, Shape, SoundCodec
from .values import Model, Ratio

T = TypeVar("T")
MOST_CEILING_BPS = 800_000_000


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


def chosen(value: T, code: str, sentence: str, source: Source) -> Chosen[T]:
    """A value with its reason, in one line."""
    return Chosen(value=value, because=Because(code=code, sentence=sentence, source=source))


class Method(StrEnum):
    """How the picture gets into the parcel."""

    ENCODE = "encoded"
    REWRAP = "re-wrapped"
    UNTOUCHED = "untouched"


class RateControl(StrEnum):
    """How an encoder spends its bits; the last two leave it nothing to choose."""

    CONSTANT = "constant"
    ONE_PASS = "one pass"
    TWO_PASSES = "two passes"
    QUALITY = "constant quality"
    FIXED = "fixed by the codec"
    RECORDED = "as recorded"


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
    """What the creator decided for a parcel; None leaves it to the plan. Rates in bit/s, times in s, gain in dB, sizes in bytes.

    `focus` is this parcel's own, in place of the master's; `zoom` enlarges the kept part; `max_bytes` is a size that the
    packed file must not pass.
    """

    method: Method | None = None
    container: Container | None = None
    codec: Codec | None = None
    framing: FramingMode = FramingMode.FIT
    shape: Shape | None = None
    focus: Focus | None = None
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0
    sharpen: bool = False
    short_side_px: Annotated[int, Field(ge=64, le=4_320)] | None = None
    frame_rate: Annotated[Ratio, Field(ge=1, le=240)] | None = None
    rate_control: RateControl | None = None
    video_bitrate_bps: Annotated[int, Field(ge=50_000, le=400_000_000)] | None = None
    ceiling_bps: Annotated[int, Field(ge=50_000, le=MOST_CEILING_BPS)] | None = None
    buffer_s: Annotated[float, Field(ge=0.1, le=10)] | None = None
    quality: Annotated[int, Field(ge=1, le=63)] | None = None
    keyframe_interval_s: Annotated[float, Field(ge=0.1, le=20)] | None = None
    effort: Effort | None = None
    fast_start: bool | None = None
    picture: bool = True
    sound: bool = True
    sound_codec: SoundCodec | None = None
    sound_bitrate_bps: Annotated[int, Field(ge=16_000, le=512_000)] | None = None
    sample_rate_hz: Annotated[int, Field(ge=8_000, le=192_000)] | None = None
    channels: Annotated[int, Field(ge=1, le=2)] | None = None
    gain_db: Annotated[float, Field(ge=-60, le=40)] | None = None
    max_bytes: Annotated[int, Field(ge=1_000, le=1_000_000_000_000)] | None = None

    def wish(self, focus: Focus | None) -> Wish:
        """How the parcel is to be framed, around its own focus, else around the master's."""
        return Wish(
            mode=self.framing, shape=self.shape, focus=self.focus or focus or CENTRE, zoom=self.zoom,
            short_side_px=self.short_side_px,
        )

    def at_rate(self, bps: int, before_bps: int) -> Choices:
        """The same choices at another bit rate; a typed ceiling, meant against the rate it was typed for, moves along with it."""
        ceiling = None if self.ceiling_bps is None else min(MOST_CEILING_BPS, max(bps, round(self.ceiling_bps * bps / before_bps)))
        return self.model_copy(update={"video_bitrate_bps": bps, "ceiling_bps": ceiling})

    def only_framing(self) -> Choices:
        """The same shape and nothing else chosen: what is packed of the master, without how."""
        return Choices(framing=self.framing, shape=self.shape, focus=self.focus, zoom=self.zoom, method=self.method)


class VideoPlan(Model):
    """The picture. None stands where a codec has no such value, or where nothing is encoded.

    `keep_every` is the master's rate over the packed one: 2 keeps every second picture, 5/6 shows every fifth twice.
    `sharpen` is the share of what the scaler took from fine detail that is put back, 0 for none.
    """

    codec: Chosen[Codec]
    profile: Chosen[str]
    level: Chosen[str | None]
    tier: str = ""
    framing: Chosen[Framing]
    deinterlace: Chosen[FieldOrder]
    field_rate: bool = False
    pixel_format: Chosen[str]
    frame_rate: Chosen[Ratio]
    keep_every: Ratio
    frames: int
    rate_control: Chosen[RateControl]
    target_bps: Chosen[int]
    ceiling_bps: Chosen[int | None]
    buffer_bits: Chosen[int | None]
    quality: Chosen[int | None]
    keyframe_interval_frames: Chosen[int | None]
    effort: Chosen[Effort | None]
    colour: Chosen[ColourTags]
    source_matrix: str
    source_range: str
    scaler: Chosen[str | None]
    sharpen: Chosen[float]


    def ceiling_shares(self) -> tuple[float | None, float | None]:
        """Ceiling as a multiple of the target, and buffer in s at the ceiling: what two rates of one curve have in common."""
        ceiling, buffer = self.ceiling_bps.value, self.buffer_bits.value
        times = None if ceiling is None else round(ceiling / self.target_bps.value, 2)
        return times, None if not ceiling or buffer is None else round(buffer / ceiling, 2)


class AudioPlan(Model):
    """The sound; `bitrate_bps` is that of the samples where nothing is lost, and None for FLAC, which decides itself.

    `master_*` are levels of the excerpt as mixed, before the gain; `target_lufs` and `limit_dbtp` what the sheet asks for.
    """

    codec: Chosen[SoundCodec]
    bitrate_bps: Chosen[int | None]
    sample_rate_hz: Chosen[int]
    channels: Chosen[int]
    gain_db: Chosen[float]
    copied: bool = False
    expected_lufs: float | None = None
    expected_peak_dbtp: float | None = None
    master_lufs: float | None = None
    master_peak_dbtp: float | None = None
    target_lufs: float | None = None
    limit_dbtp: float | None = None


class Plan(Model):
    """Complete settings of a parcel; immutable before a frame is touched. `master_bytes` is known of what is not encoded."""

    destination_id: str
    destination_name: str
    sheet_version: int
    master_content_id: str
    excerpt: Excerpt
    method: Chosen[Method]
    container: Chosen[Container]
    fast_start: Chosen[bool]
    chapters: Chosen[bool]
    size_cap: Chosen[int]
    video: VideoPlan | None
    no_picture_because: Because | None = None
    audio: AudioPlan | None
    no_audio_because: Because | None = None
    guidance: GuidanceUse | None
    stamps: tuple[Stamp, ...]
    master_bytes: int | None = None

    @property
    def held(self) -> tuple[Stamp, ...]:
        return tuple(stamp for stamp in self.stamps if stamp.outcome is Outcome.HELD)

    @property
    def picture(self) -> VideoPlan:
        """The picture's plan, of a parcel that is known to have one; raises BadChoice for an audio feed."""
        if self.video is None:
            raise BadChoice(f"{self.destination_name} takes no picture.", "Choose a destination for films.", code="no_picture")
        return self.video

    @property
    def copied(self) -> bool:
        """Whether the picture goes in without being encoded again."""
        return self.method.value is not Method.ENCODE

    @property
    def times_guidance(self) -> float | None:
        """Target as a multiple of the middle of the guidance (its geometric mean); None without a picture."""
        return self.video.target_bps.value / self.guidance.middle_bps if self.video and self.guidance else None

    def key(self) -> str:
        """Identity of the whole plan: what a creator saw, and what a wish to pack it must still find."""
        return _digest(self.model_dump_json())

    def picture_key(self) -> str:
        """Identity of everything but the bit rate: plans with one key lie on one survival curve."""
        video = self.picture
        return _digest(
            self.way_key(), self.method.value, video.codec.value, video.rate_control.value, video.quality.value,
            video.keyframe_interval_frames.value, video.effort.value, *video.ceiling_shares(),
        )

    def way_key(self) -> str:
        """Identity of what a perfect upload would carry: the treated picture and where it goes, however it is encoded."""
        video = self.picture
        return _digest(
            self.master_content_id, self.destination_id, self.sheet_version, self.excerpt.in_s, self.excerpt.out_s,
            video.framing.value.model_dump_json(), video.frame_rate.value, video.keep_every,
            video.colour.value.model_dump_json(), video.source_matrix, video.source_range, video.deinterlace.value,
            video.field_rate, video.sharpen.value,
        )


def _digest(*parts: object) -> str:
    return hashlib.sha256("|".join(map(str, parts)).encode()).hexdigest()[:20]


def duration_s(plan: Plan) -> Fraction:
    """Packed duration in s: whole pictures at the packed rate; of sound alone, the excerpt's."""
    if plan.video is None:
        return plan.excerpt.duration_s
    return Fraction(plan.video.frames) / plan.video.frame_rate.value
