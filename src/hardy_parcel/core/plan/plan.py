"""The plan: every value that the encoders and the muxer get, each with its because."""

from __future__ import annotations

import hashlib
from enum import StrEnum
from fractions import Fraction
from functools import cached_property

from ..errors import BadChoice
from ..master.facts import CaptionTrack, ColourTags, Excerpt
from ..sheets.guidance import GuidanceUse
from ..stamps import Because, Chosen, Outcome, Source, Stamp
from ..trade.names import Codec, Container, SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model, Ratio
from .choices import Captions, Method
from .framing import Framing

NO_ENTRY: Chosen[str | None] = Chosen(
    value=None, because=Because(code="usual_entry", sentence="the one that this codec has in this container", source=Source.STANDARD)
)

NO_CAPTIONS: Chosen[Captions | None] = Chosen(
    value=None, because=Because(code="no_captions", sentence="the master has none", source=Source.MASTER)
)


class FieldOrder(StrEnum):
    """How pictures are deinterlaced, by which field was taken first."""

    NONE = "not deinterlaced"
    TOP_FIRST = "deinterlaced, top field first"
    BOTTOM_FIRST = "deinterlaced, bottom field first"


class CapOf(StrEnum):
    """Whose limit the file's size has to keep to."""

    CREATOR = "creator"
    SHEET = "sheet"
    QUOTA = "quota"


class CeilingRule(Model):
    """A ceiling of so many times the target, which stays below the peak (bit/s) that the destination's machines play."""

    times: float
    peak_bps: int


class VideoPlan(Model):
    """The picture. None stands where a codec has no such value, or where nothing is encoded.

    `keep_every` is the master's rate over the packed one: 2 keeps every second picture, 5/6 shows every fifth twice;
    `even_motion` whether motion stays as even as it was; `field_rate` that each field gave a picture, `fields_kept` that both
    stay woven into one; `dithered` that the samples were deeper in the master, `chroma_halved` that it had more of them for colour.
    `sharpen` is how much of the fine detail is added once more, None where nobody asked. `sample_entry` is the name
    under which the stream stands in its container, None for the usual one. `source_*` are what the
    master's colours are read as, `colour_labelled` what of them is not converted. `under_cap` says that the bit rate was
    lowered for the size cap, `beyond_levels` that no level of the codec suffices.
    """

    codec: Chosen[Codec]
    profile: Chosen[str]
    level: Chosen[str | None]
    beyond_levels: bool = False
    tier: str = ""
    sample_entry: Chosen[str | None] = NO_ENTRY
    framing: Chosen[Framing]
    deinterlace: Chosen[FieldOrder]
    field_rate: bool = False
    fields_kept: bool = False
    pixel_format: Chosen[str]
    dithered: bool = False
    chroma_halved: bool = False
    frame_rate: Chosen[Ratio]
    keep_every: Ratio
    even_motion: bool = True
    frames: int
    rate_control: Chosen[RateControl]
    target_bps: Chosen[int]
    under_cap: bool = False
    ceiling_bps: Chosen[int | None]
    buffer_bits: Chosen[int | None]
    ceiling_rule: CeilingRule | None = None
    quality: Chosen[int | None]
    keyframe_interval_frames: Chosen[int | None]
    effort: Chosen[Effort | None]
    colour: Chosen[ColourTags]
    source_matrix: str
    source_range: str
    source_primaries: str = "bt709"
    source_transfer: str = "bt709"
    colour_labelled: tuple[str, ...] = ()
    scaler: Chosen[str | None]
    sharpen: Chosen[float | None]

    @property
    def deep(self) -> bool:
        """Whether samples have 10 bits."""
        return "10" in self.pixel_format.value

    def ceiling_shares(self) -> tuple[float | None, float | None]:
        """Ceiling as a multiple of the target, and buffer in s at the ceiling: what two rates of one curve have in common.

        A buffer of our own is None, since a level may cut it short at the upper rates. A ceiling that a peak bounds is the multiple that
        it would be without: the peak itself is in `ceiling_rule`.
        """
        ceiling, buffer = self.ceiling_bps.value, self.buffer_bits.value
        times = None if ceiling is None else round(ceiling / self.target_bps.value, 2)
        if self.ceiling_rule:
            times = self.ceiling_rule.times
        own = self.buffer_bits.because.source is not Source.CREATOR
        return times, None if own or not ceiling or buffer is None else round(buffer / ceiling, 2)


class AudioPlan(Model):
    """The sound; `bitrate_bps` is that of the samples where nothing is lost, and None for FLAC, which decides itself.

    `master_*` are levels of the excerpt as mixed, before the gain; `target_lufs` and `limit_dbtp` what the sheet asks for.
    """

    codec: Chosen[SoundCodec]
    bitrate_bps: Chosen[int | None]
    under_cap: bool = False
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
    """Complete settings of a parcel; immutable before a frame is touched. `master_bytes` is known of what is not encoded.

    `fast_start` is None for a container without an index, `chapters` for a master without any,
    `captions` for one without text captions; `caption_tracks` are those that go along.
    """

    destination_id: str
    destination_name: str
    sheet_version: int
    master_content_id: str
    excerpt: Excerpt
    method: Chosen[Method]
    container: Chosen[Container]
    fast_start: Chosen[bool | None]
    chapters: Chosen[bool | None]
    captions: Chosen[Captions | None] = NO_CAPTIONS
    caption_tracks: tuple[CaptionTrack, ...] = ()
    size_cap: Chosen[int]
    cap_of: CapOf = CapOf.SHEET
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
    def sound(self) -> AudioPlan:
        """The plan of the sound; there must be one."""
        if self.audio is None:
            raise ValueError("this plan has no sound")
        return self.audio

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
        """Target as a multiple of the guidance's top; None without a picture."""
        return self.guidance.multiple_of(self.video.target_bps.value) if self.video and self.guidance else None

    def key(self) -> str:
        """Identity of the whole plan: what a creator saw, and what a wish to pack it must still find."""
        return self._key

    @cached_property
    def _key(self) -> str:
        return _digest(self.model_dump_json())


def _digest(*parts: object) -> str:
    return hashlib.sha256("|".join(map(str, parts)).encode()).hexdigest()[:20]


def duration_s(plan: Plan) -> Fraction:
    """Packed duration in s: whole pictures at the packed rate; of sound alone, the excerpt's."""
    if plan.video is None:
        return plan.excerpt.duration_s
    return Fraction(plan.video.frames) / plan.video.frame_rate.value
