"""Facts of a master: what its header says and what was measured on it."""

from __future__ import annotations

from enum import StrEnum
from fractions import Fraction
from typing import Annotated

from pydantic import Field, field_validator

from ..values import Model, Ratio, Rect


class Focus(Model):
    """What must stay in the picture, as shares of the active picture's width and height from its upper left corner."""

    x: Annotated[float, Field(ge=0, le=1)] = 0.5
    y: Annotated[float, Field(ge=0, le=1)] = 0.5


class FramingMode(StrEnum):
    """How a frame of another shape is filled: fit adds bars around the picture, fill crops it, blur sets it over an enlarged, blurred copy
    of itself."""

    FIT = "fit"
    FILL = "fill"
    BLUR = "blur"


def _even_down(value: int) -> int:
    return max(2, value - value % 2)


def active_picture(*, display_width: int, display_height: int, active: Rect | None = None) -> Rect:
    """The picture that counts: what is left without baked-in bars, or all of it but an odd line."""
    return active or Rect(x=0, y=0, width=_even_down(display_width), height=_even_down(display_height))


class Scan(StrEnum):
    """How the header says the picture was scanned."""

    PROGRESSIVE = "progressive"
    TOP_FIRST = "interlaced, top field first"
    BOTTOM_FIRST = "interlaced, bottom field first"
    UNKNOWN = "not stated"


class ColourTags(Model):
    """Colour tags by their H.273 names; None where the file is untagged."""

    primaries: str | None = None
    transfer: str | None = None
    matrix: str | None = None
    range: str | None = None

    @property
    def untagged(self) -> bool:
        return self.primaries is None and self.transfer is None and self.matrix is None

    @property
    def hdr(self) -> bool:
        """True for the two HDR transfers of BT.2100, PQ and HLG."""
        return self.transfer in ("smpte2084", "arib-std-b67")


class VideoFacts(Model):
    """The picture stream. Sizes in pixels, `display_*` after pixel shape and rotation.

    `sample_entry` is the name under which the stream stands in MP4 and MOV. `keyframes` are the numbers of the pictures, from
    0, at which reading may begin; empty where the file has no index of them, and where `intra` says that all are.
    """

    codec: str
    profile: str | None = None
    level: str | None = None
    sample_entry: str | None = None
    coded_width: int
    coded_height: int
    sample_aspect_ratio: Ratio = Fraction(1)
    rotation_deg: int = 0
    display_width: int
    display_height: int
    frame_rate: Ratio
    variable_rate: bool = False
    lowest_rate: float | None = None
    typical_rate: float | None = None
    highest_rate: float | None = None
    pictures: int | None = None
    scan: Scan = Scan.UNKNOWN
    pixel_format: str
    bit_depth: int = 8
    chroma: str = "4:2:0"
    colour: ColourTags = ColourTags()
    container_colour: ColourTags | None = None
    bitrate_bps: int | None = None
    start_s: Ratio = Fraction(0)
    keyframes: tuple[int, ...] = ()
    intra: bool = False

    def keyframe_at(self, at_s: Fraction) -> bool:
        """Whether the picture that starts at this time (s from the first picture) is a keyframe; the first one is."""
        return self.intra or at_s == 0 or round(at_s * self.frame_rate) in self.keyframes

    def keyframes_around(self, at_s: Fraction) -> tuple[Fraction, ...]:
        """Times in s of the last keyframe before and the first one after a time; fewer at the ends, none where they are unknown."""
        number = round(at_s * self.frame_rate)
        before = [item for item in self.keyframes if item <= number][-1:]
        after = [item for item in self.keyframes if item > number][:1]
        return tuple(item / self.frame_rate for item in (*before, *after))


class Heard(Model):
    """Integrated loudness (LUFS) and true peak (dBTP) of a part, mixed to so many channels; None where it is silent."""

    channels: int
    integrated_lufs: float | None
    true_peak_dbtp: float | None


class AudioFacts(Model):
    """The first sound stream. Loudness per ITU-R BS.1770-5; None where the sound is silent.

    `mixes` are the levels of the chosen excerpt, as it is and mixed to fewer or more channels; empty before it was heard.
    `alike` says that both of two channels carry the same.
    """

    codec: str
    sample_rate_hz: int
    channels: int
    layout: str
    bitrate_bps: int | None = None
    integrated_lufs: float | None = None
    loudness_range_lu: float | None = None
    true_peak_dbtp: float | None = None
    start_s: Ratio = Fraction(0)
    mixes: tuple[Heard, ...] = ()
    alike: bool = False

    def heard_as(self, channels: int) -> Heard:
        """Levels of the excerpt mixed to so many channels; those of the whole sound where no others are known."""
        usual = Heard(channels=channels, integrated_lufs=self.integrated_lufs, true_peak_dbtp=self.true_peak_dbtp)
        return next((mix for mix in self.mixes if mix.channels == channels), usual)


class ColourReading(StrEnum):
    """How a creator says that an untagged master is to be read."""

    SD_LIMITED = "601 limited"
    SD_FULL = "601 full"
    HD_LIMITED = "709 limited"
    HD_FULL = "709 full"

    @property
    def tags(self) -> ColourTags:
        """The reading as tags; the primaries are not meant by it."""
        matrix, extent = self.value.split()
        named = {"601": "smpte170m", "709": "bt709", "full": "pc", "limited": "tv"}
        return ColourTags(primaries="bt709", transfer="bt709", matrix=named[matrix], range=named[extent])

    @property
    def words(self) -> str:
        matrix, extent = self.value.split()
        return f"BT.{matrix}, {extent} range"


class Mending(Model):
    """What the creator wants mended when the master is packed; the file itself is never touched.

    `remove_bars` is the active picture in display pixels. `deinterlace` is a field order, or PROGRESSIVE to leave fields as
    they are; None leaves it to what was measured. `focus` is what no crop may lose, `colour` how an untagged master is read.
    `framing` is how frames of another shape are filled where a parcel does not say; None before the creator was asked. `kept` are the
    codes of findings that are meant to be so.
    """

    remove_bars: Rect | None = None
    deinterlace: Scan | None = None
    constant_rate: Ratio | None = None
    turn_down: bool = False
    focus: Focus | None = None
    framing: FramingMode | None = None
    colour: ColourReading | None = None
    kept: tuple[str, ...] = ()


class CaptionTrack(Model):
    """One stream of captions: its codec, its language as the file says it, and whether it is text; else it is pictures."""

    codec: str
    language: str = ""
    text: bool = True


class FileFacts(Model):
    """What a file's header says, whatever streams it has. `content_id` changes when the file's content does."""

    name: str
    content_id: str
    container: str
    size_bytes: int
    duration_s: Ratio
    bitrate_bps: int
    video: VideoFacts | None = None
    audio: AudioFacts | None = None
    sound_streams: int = 0
    chapters: int = 0
    captions: tuple[CaptionTrack, ...] = ()
    timecode: str | None = None
    edit_list: bool = False
    fast_start: bool | None = None

    @field_validator("captions", mode="before")
    @classmethod
    def _counted(cls, value: object) -> object:
        """Facts kept by an earlier version only count them; what they are is known when the file is read again."""
        return (CaptionTrack(codec="not stated", text=False),) * value if isinstance(value, int) else value

    @property
    def text_captions(self) -> tuple[CaptionTrack, ...]:
        """Captions that are text, which can be carried elsewhere."""
        return tuple(track for track in self.captions if track.text)

    @property
    def sound_late_s(self) -> Fraction | None:
        """How much later the sound starts than the picture, in s; negative when it starts earlier."""
        return self.audio.start_s - self.video.start_s if self.audio and self.video else None

    @property
    def carries(self) -> str:
        """What else is in the file, in words; empty when nothing is."""
        counted = ((self.chapters, "chapters"), (len(self.captions), "caption streams"))
        carried = [f"{count} {word if count > 1 else word[:-1]}" for count, word in counted if count]
        if self.timecode:
            carried.append(f"time code from {self.timecode}")
        if self.edit_list:
            carried.append("an edit list that trims")
        return ", ".join(carried)


class MasterFacts(FileFacts):
    """Everything known of a master, a file with a picture, and what is to be mended on packing.

    `suggested_focus` is where its crops are centred until the creator says otherwise; None is the middle.
    """

    video: VideoFacts
    measured_scan: Scan | None = None
    suggested_focus: Focus | None = None
    mending: Mending = Mending()

    @property
    def active(self) -> Rect:
        """The picture that counts, in display pixels: without baked-in bars where they are removed."""
        return active_picture(
            display_width=self.video.display_width,
            display_height=self.video.display_height,
            active=self.mending.remove_bars,
        )

    @property
    def focus(self) -> Focus:
        """What crops are centred on: the creator's choice, else what is suggested, else the middle."""
        return self.mending.focus or self.suggested_focus or Focus()

    @property
    def scan(self) -> Scan:
        """How the picture was scanned: as measured where that told something, else as flagged."""
        measured = self.measured_scan
        return measured if measured and measured is not Scan.UNKNOWN else self.video.scan


INTERLACED = (Scan.TOP_FIRST, Scan.BOTTOM_FIRST)


class Excerpt(Model):
    """In point (inclusive) to out point (exclusive), seconds from the first picture."""

    in_s: Ratio
    out_s: Ratio

    @property
    def duration_s(self) -> Fraction:
        return self.out_s - self.in_s


def display_size(*, width: int, height: int, sample_aspect_ratio: Fraction, rotation_deg: int) -> tuple[int, int]:
    """Square-pixel size in px as a viewer should see it: pixel shape first, then rotation.

    Pixels are squared by changing the width, so that no scan line is lost or invented.
    """
    square = max(1, round(width * sample_aspect_ratio))
    return (height, square) if rotation_deg % 180 == 90 else (square, height)


COMMON_RATES = tuple(
    Fraction(n, d)
    for n, d in (
        (10, 1),
        (12, 1),
        (25, 2),
        (15, 1),
        (24000, 1001),
        (24, 1),
        (25, 1),
        (30000, 1001),
        (30, 1),
        (48, 1),
        (50, 1),
        (60000, 1001),
        (60, 1),
        (100, 1),
        (120000, 1001),
        (120, 1),
    )
)
"""Frame rates in 1/s that cameras, editors and SMPTE ST 428-11 / ST 2036-1 use."""


def usual_rate(typical: float) -> Fraction:
    """The common rate for a film of variable rate whose pictures typically come `typical` times a second.

    Uneven times cannot tell 30 from 30000/1001, so whole rates go before their neighbours.
    """
    near = [rate for rate in COMMON_RATES if abs(float(rate) - typical) <= 0.03 * typical]
    whole = [rate for rate in near if rate.denominator == 1]
    return min(whole or near or COMMON_RATES, key=lambda rate: abs(float(rate) - typical))


def best_constant_rate(measured: float, *, tolerance: float = 0.004, rounding: float = 1e-7) -> Fraction:
    """The common rate nearest to `measured` (1/s) if within `tolerance`, else the simplest ratio within `rounding`.

    A time base in whole milliseconds blurs 24000/1001 to 23.98 or 24.01; the nearest common rate is the exact one.
    Both margins are shares of the rate.
    """
    nearest = min(COMMON_RATES, key=lambda rate: abs(float(rate) - measured))
    if abs(float(nearest) - measured) <= tolerance * measured:
        return nearest
    for denominator in (*range(1, 13), 1001, *range(13, 1001)):
        ratio = Fraction(round(measured * denominator), denominator)
        if ratio and abs(float(ratio) - measured) <= rounding * measured:
            return ratio
    return Fraction(measured).limit_denominator(1001)
