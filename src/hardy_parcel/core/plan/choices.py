"""What a creator chooses for a parcel."""

from __future__ import annotations

from enum import StrEnum
from typing import Annotated

from pydantic import BeforeValidator, Field

from ..master.facts import Focus, FramingMode, MasterFacts
from ..sheets.sheet import Shape
from ..trade.names import Codec, Container, SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model, Ratio, mbps_text, read_bitrate
from .framing import MOST_ZOOM, Wish

MOST_CEILING_BPS = 800_000_000
LEAST_BPS, MOST_BPS = 50_000, 400_000_000


def _typed_rate(value: object) -> object:
    """A bit rate as it was typed, or as a number in bit/s; one that is out of range is said in the unit it is told in."""
    bps = read_bitrate(value) if isinstance(value, str) else value
    if isinstance(bps, (int, float)) and not isinstance(bps, bool) and not LEAST_BPS <= bps <= MOST_BPS:
        raise ValueError(f"must lie between {mbps_text(LEAST_BPS)} and {mbps_text(MOST_BPS)}")
    return bps


class Method(StrEnum):
    """How the picture gets into the parcel."""

    ENCODE = "encoded"
    REWRAP = "re-wrapped"
    UNTOUCHED = "untouched"
    SOUND_ANEW = "picture kept, sound anew"


class Captions(StrEnum):
    """Where a master's text captions go."""

    INSIDE = "inside"
    SRT = "beside, as SRT"
    WEBVTT = "beside, as WebVTT"
    LEFT_OUT = "left out"


BESIDE = {Captions.SRT: "srt", Captions.WEBVTT: "vtt"}
"""Those that stand in a file beside the film, by its extension: SubRip text, and WebVTT of the W3C."""


class Choices(Model):
    """What the creator decided for a parcel; None leaves it to the plan. Rates in bit/s, times in s, gain in dB, sizes in bytes.

    `focus` is this parcel's own, in place of the master's; `zoom` enlarges the kept part; `max_bytes` is a size that the
    packed file must not pass. `times_enough` asks for that multiple of what is enough, whatever that turns out to be; with a bit
    rate beside it that is what it has come to.
    """

    method: Method | None = None
    container: Container | None = None
    codec: Codec | None = None
    framing: FramingMode | None = None
    shape: Shape | None = None
    focus: Focus | None = None
    zoom: Annotated[float, Field(ge=1, le=MOST_ZOOM)] = 1.0
    sharpen: bool = False
    short_side_px: Annotated[int, Field(ge=64, le=4_320)] | None = None
    frame_rate: Annotated[Ratio, Field(ge=1, le=240)] | None = None
    rate_control: RateControl | None = None
    video_bitrate_bps: Annotated[int, BeforeValidator(_typed_rate), Field(ge=LEAST_BPS, le=MOST_BPS)] | None = None
    times_enough: Annotated[float, Field(ge=1, le=10)] | None = None
    ceiling_bps: Annotated[int, Field(ge=50_000, le=MOST_CEILING_BPS)] | None = None
    buffer_s: Annotated[float, Field(ge=0.1, le=10)] | None = None
    quality: Annotated[int, Field(ge=1, le=63)] | None = None
    keyframe_interval_s: Annotated[float, Field(ge=0.1, le=20)] | None = None
    effort: Effort | None = None
    fast_start: bool | None = None
    chapters: bool | None = None
    captions: Captions | None = None
    picture: bool = True
    sound: bool = True
    sound_codec: SoundCodec | None = None
    sound_bitrate_bps: Annotated[int, Field(ge=16_000, le=512_000)] | None = None
    sample_rate_hz: Annotated[int, Field(ge=8_000, le=192_000)] | None = None
    channels: Annotated[int, Field(ge=1, le=2)] | None = None
    gain_db: Annotated[float, Field(ge=-60, le=40)] | None = None
    max_bytes: Annotated[int, Field(ge=1_000, le=1_000_000_000_000)] | None = None

    def wish(self, facts: MasterFacts) -> Wish:
        """How the parcel is to be framed: as it says itself, else as its master does, around the focus of one of them."""
        return Wish(
            mode=self.framing or facts.mending.framing,
            shape=self.shape,
            focus=self.focus or facts.focus,
            zoom=self.zoom,
            short_side_px=self.short_side_px,
        )

    def at_rate(self, bps: int, before_bps: int) -> Choices:
        """The same choices at another bit rate; a typed ceiling, meant against the rate it was typed for, moves along with it."""
        ceiling = (
            None
            if self.ceiling_bps is None
            else min(MOST_CEILING_BPS, max(bps, round(self.ceiling_bps * bps / before_bps)))
        )
        return self.model_copy(update={"video_bitrate_bps": bps, "ceiling_bps": ceiling, "times_enough": None})

    def only_framing(self) -> Choices:
        """The same shape and nothing else chosen: what is packed of the master, without how."""
        return Choices(framing=self.framing, shape=self.shape, focus=self.focus, zoom=self.zoom, method=self.method)
