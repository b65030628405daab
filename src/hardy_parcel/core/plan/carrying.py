"""Arithmetic of carrying: size, upload time, data cost, encode time (rules §4)."""

from __future__ import annotations

import math
import statistics
from collections.abc import Mapping, Sequence
from typing import Annotated, Literal

from pydantic import Field

from ..trade.codecs import CODECS
from ..trade.containers import WRAPPINGS
from ..trade.names import Codec, SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model
from .choices import Method
from .encoder_settings import searches_quality
from .plan import AudioPlan, Plan, VideoPlan, duration_s
from .quality_search import SAMPLED_GROUPS, USUAL_TRIES

PACKET_SAMPLES: dict[SoundCodec, int] = {"aac": 1024, "opus": 960, "mp3": 1152, "flac": 4096, "pcm": 1024}
FLAC_SHARE, FLAC_WORST = 0.65, 1.02
"""FLAC over 16 bit PCM: a prior for speech and music, and what noise may reach."""
LINE_EFFICIENCY = 0.93
"""Share of a line's rate left for the file after TCP/IP and TLS framing (rules §4)."""


class Line(Model):
    """The creator's line and its price. `steadiness` is the share of the uplink that is there at bad times.

    `upload_minutes` is as long as an upload may take, at bad times too; nothing is refused for it.
    """

    uplink_mbps: Annotated[float, Field(ge=0.001, le=100_000)] = 9.6
    steadiness: Annotated[float, Field(ge=0.01, le=1)] = 0.8
    price_per_gb: Annotated[float, Field(ge=0, le=1000)] = 0.0
    currency: Annotated[str, Field(max_length=8)] = ""
    allowance_gb: Annotated[float, Field(ge=0.001, le=1_000_000)] | None = None
    upload_minutes: Annotated[float, Field(ge=0.1, le=100_000)] | None = None


class Size(Model):
    """File size in bytes: expected and worst case."""

    expected_bytes: int
    worst_bytes: int


class Carriage(Model):
    """What carrying costs: upload time range in s, price, and share of the allowance (0 to 1 and above)."""

    upload_s: float
    upload_slow_s: float
    price: float | None
    currency: str
    allowance_share: float | None


SpeedEvidence = Literal["sheet", "benchmark", "earlier jobs", "rehearsed"]


class Speed(Model):
    """How quickly this machine encodes a plan, in pictures/s over all passes; `band` is the share by which that may be off."""

    pictures_per_s: float
    band: float
    evidence: SpeedEvidence


class EncodeTime(Model):
    """Expected encode time in s with its evidence: a prior, this machine's benchmark, its earlier jobs, or this
    parcel's rehearsals; `band` is the share by which it may be off."""

    seconds: float
    evidence: SpeedEvidence
    band: float


SHORT_FILM_S = 0.8
"""Seconds at the target by which a first keyframe may put a film over it, however short it is; a second of noise at
320×180 and below came to 0.6 with H.264 in two passes."""


def worst_case(video: VideoPlan) -> float:
    """Video bits over target that a packed file may reach, by codec and control; `make constants` measures it.

    Under a ceiling that is the target, the full buffer may come on top once, which counts in a short film.
    """
    control = video.rate_control.value
    if control is RateControl.RECORDED:
        return 1.02
    seconds, target = float(video.frames / video.frame_rate.value), video.target_bps.value
    buffer = (video.buffer_bits.value or 0) / (target * seconds)
    usual = CODECS[video.codec.value].worst_case.get(control, 1.02)
    if control in (RateControl.CONSTANT, RateControl.QUALITY):
        return usual + buffer
    if control is RateControl.FIXED:
        return usual
    ceiling = video.ceiling_bps.value
    return usual + SHORT_FILM_S / seconds if ceiling is None else max(usual, min(usual + SHORT_FILM_S / seconds, ceiling / target + buffer))


def file_size(plan: Plan, *, achieved_share: float = 1.0) -> Size:
    """Size of the packed file; `achieved_share` is achieved ÷ asked video rate where a rehearsal has shown it."""
    if plan.method.value is Method.UNTOUCHED and plan.master_bytes is not None:
        return Size(expected_bytes=plan.master_bytes, worst_bytes=plan.master_bytes)
    seconds, wrapping = float(duration_s(plan)), WRAPPINGS[plan.container.value]
    expected = worst = wrapping.fixed
    if plan.audio:
        low, high, packets = _sound_bytes(plan.audio, seconds)
        expected, worst = expected + low + wrapping.sound * packets, worst + high + wrapping.sound * packets
    if plan.video:
        video, most = plan.video.target_bps.value * seconds / 8, worst_case(plan.video)
        expected += video * min(achieved_share, most) + wrapping.picture * plan.video.frames
        worst += video * most + wrapping.picture * plan.video.frames
    return Size(expected_bytes=round(expected), worst_bytes=max(round(expected), round(worst)))


def _sound_bytes(audio: AudioPlan, seconds: float) -> tuple[float, float, int]:
    """Bytes of sound expected and at worst, and its packets."""
    rate, codec = audio.sample_rate_hz.value, audio.codec.value
    packets = math.ceil(seconds * rate / PACKET_SAMPLES[codec])
    if audio.bitrate_bps.value is None:
        plain = seconds * rate * audio.channels.value * 2
        return plain * FLAC_SHARE, plain * FLAC_WORST, packets
    return audio.bitrate_bps.value * seconds / 8, audio.bitrate_bps.value * seconds / 8 * 1.02, packets


def carriage(size_bytes: int, line: Line) -> Carriage:
    """Upload time = bytes × 8 ÷ (uplink × 0.93), slower by the line's steadiness; price by decimal gigabytes."""
    seconds = size_bytes * 8 / (line.uplink_mbps * 1e6 * LINE_EFFICIENCY)
    gigabytes = size_bytes / 1e9
    return Carriage(
        upload_s=seconds,
        upload_slow_s=seconds / line.steadiness,
        price=gigabytes * line.price_per_gb if line.price_per_gb else None,
        currency=line.currency,
        allowance_share=gigabytes / line.allowance_gb if line.allowance_gb else None,
    )


def bytes_of_hour(line: Line) -> int:
    """What the line carries in an hour of usual times."""
    return round(line.uplink_mbps * 1e6 * LINE_EFFICIENCY * 3600 / 8)


def bytes_in(line: Line, seconds: float) -> int:
    """What the line surely carries in so many s, at bad times too, in whole kB."""
    return int(line.uplink_mbps * 1e6 * LINE_EFFICIENCY * line.steadiness * seconds / 8 / 1000) * 1000


PRIOR_PIXELS_PER_S: dict[Codec, dict[Effort, float]] = {
    "h264": {Effort.QUICK: 24e6, Effort.MEDIUM: 10e6, Effort.CAREFUL: 7e6},
    "hevc": {Effort.QUICK: 13e6, Effort.MEDIUM: 8e6, Effort.CAREFUL: 7e6},
    "vp9": {Effort.QUICK: 5e6, Effort.MEDIUM: 5e6, Effort.CAREFUL: 3e6},
    "av1": {Effort.QUICK: 25e6, Effort.MEDIUM: 15e6, Effort.CAREFUL: 8e6},
    "vc3": dict.fromkeys(Effort, 29e6),
}
"""Pixels/s in one pass, reading and treating included, before anything was packed on this machine. Measured on a second of
breaking water at 1080p50 on two cores; H.264 lies between that and flat graphics at 720p. `make constants` measures it again."""
FIRST_PASS_SHARE = {Effort.QUICK: 1.1, Effort.MEDIUM: 0.5, Effort.CAREFUL: 0.4}
SEARCH_SHARE = {Effort.QUICK: 0.7, Effort.MEDIUM: 0.55, Effort.CAREFUL: 0.35}
"""First pass over second in time, and where it only begins a search for a quality; `make constants` measures them."""


COPY_BYTES_PER_S = 80e6
SOUND_SECONDS_PER_S = 60.0
"""Priors for moving streams without encoding, and for encoding sound alone."""


PRIOR_BAND, BENCHMARK_BAND, HISTORY_BAND = 0.6, 0.4, 0.2
"""Shares by which an encode time may be off; a history that scatters more says so."""


def speed_from_history(pictures_per_s: Sequence[float], evidence: SpeedEvidence = "earlier jobs") -> Speed | None:
    """The speed that a plan was or would have been encoded at before, and how far that scatters; None without any."""
    if not pictures_per_s:
        return None
    usual = statistics.median(pictures_per_s)
    scatter = max(max(one / usual, usual / one) - 1 for one in pictures_per_s)
    return Speed(pictures_per_s=usual, band=round(min(PRIOR_BAND, max(HISTORY_BAND, scatter)), 2), evidence=evidence)


def speed_from_benchmark(plan: Plan, pixels_per_s: Mapping[Codec, float]) -> Speed | None:
    """The speed of a plan by what this machine's benchmark gave in one pass at effort medium; None where its codec was not tried."""
    video = plan.video
    if video is None or plan.copied or video.codec.value not in pixels_per_s:
        return None
    prior, framing = PRIOR_PIXELS_PER_S[video.codec.value], video.framing.value
    pixels = pixels_per_s[video.codec.value] * prior[_effort(video)] / prior[Effort.MEDIUM]
    per_picture = framing.width * framing.height * passes(video)
    return Speed(pictures_per_s=pixels / per_picture, band=BENCHMARK_BAND, evidence="benchmark")


def _effort(video: VideoPlan) -> Effort:
    return video.effort.value or Effort.MEDIUM


def passes(video: VideoPlan) -> float:
    """All passes over the last one in time."""
    if searches_quality(video):
        tried = SAMPLED_GROUPS * (video.keyframe_interval_frames.value or 1) * USUAL_TRIES
        return 1 + SEARCH_SHARE[_effort(video)] + min(USUAL_TRIES, tried / max(1, video.frames))
    return 1 + FIRST_PASS_SHARE[_effort(video)] if video.rate_control.value is RateControl.TWO_PASSES else 1.0


def encode_time(plan: Plan, speed: Speed | None) -> EncodeTime:
    """Encode time in s from what is known of this machine, or from a prior with a wide band."""
    video = plan.video
    if video is None:
        return EncodeTime(seconds=1 + float(duration_s(plan)) / SOUND_SECONDS_PER_S, evidence="sheet", band=PRIOR_BAND)
    if plan.copied:
        return EncodeTime(seconds=0.5 + file_size(plan).expected_bytes / COPY_BYTES_PER_S, evidence="sheet", band=PRIOR_BAND)
    if speed:
        return EncodeTime(seconds=video.frames / speed.pictures_per_s, evidence=speed.evidence, band=speed.band)
    framing = video.framing.value
    seconds = video.frames * framing.width * framing.height / PRIOR_PIXELS_PER_S[video.codec.value][_effort(video)]
    return EncodeTime(seconds=seconds * passes(video), evidence="sheet", band=PRIOR_BAND)
