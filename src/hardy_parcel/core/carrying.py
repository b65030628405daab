"""Arithmetic of carrying: size, upload time, data cost, encode time (rules §4)."""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from .plan import Effort, Plan, RateControl, duration_s
from .values import Model

MP4_FIXED_BYTES = 1_000
MP4_BYTES_PER_PICTURE = 21.9
MP4_BYTES_PER_SOUND_PACKET = 4.8
"""Container overhead of an MP4, file size less the sum of its packets; `make constants` measures it."""

AAC_PACKET_SAMPLES = 1024
LINE_EFFICIENCY = 0.93
"""Share of a line's rate left for the file after TCP/IP and TLS framing (rules §4)."""

WORST_CASE = {RateControl.TWO_PASSES: 1.04, RateControl.ONE_PASS: 1.15}
"""Video bits over target that a packed file may reach; `make constants` measures it."""


class Line(Model):
    """The creator's line and its price. `steadiness` is the share of the uplink that is there at bad times."""

    uplink_mbps: Annotated[float, Field(gt=0, le=100_000)] = 9.6
    steadiness: Annotated[float, Field(gt=0, le=1)] = 0.8
    price_per_gb: Annotated[float, Field(ge=0, le=1000)] = 0.0
    currency: Annotated[str, Field(max_length=8)] = ""
    allowance_gb: Annotated[float, Field(gt=0, le=1_000_000)] | None = None


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


class EncodeTime(Model):
    """Expected encode time in s with its evidence."""

    seconds: float
    evidence: Literal["sheet", "rehearsed"]
    band: float


def file_size(plan: Plan, *, achieved_share: float = 1.0) -> Size:
    """Size of the packed file; `achieved_share` is achieved ÷ asked video rate where a rehearsal has shown it."""
    seconds = float(duration_s(plan))
    video = plan.video.target_bps.value * seconds / 8
    sound, packets = 0.0, 0
    if plan.audio:
        sound = plan.audio.bitrate_bps.value * seconds / 8
        packets = math.ceil(seconds * plan.audio.sample_rate_hz.value / AAC_PACKET_SAMPLES)
    container = MP4_FIXED_BYTES + MP4_BYTES_PER_PICTURE * plan.video.frames + MP4_BYTES_PER_SOUND_PACKET * packets
    worst = WORST_CASE[plan.video.rate_control.value]
    expected = video * min(achieved_share, worst) + sound + container
    return Size(
        expected_bytes=round(expected), worst_bytes=max(round(expected), round(video * worst + sound * 1.02 + container))
    )


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


PRIOR_PIXELS_PER_S = {Effort.QUICK: 41e6, Effort.MEDIUM: 15e6, Effort.CAREFUL: 7e6}
"""H.264 pixels/s before anything was measured here: 720p at 45 and 15 frames/s on two cores at 2.5 GHz."""
FIRST_PASS_SHARE = {Effort.QUICK: 1.1, Effort.MEDIUM: 0.5, Effort.CAREFUL: 0.4}
"""First pass over second in time; `make constants` measures it."""


def encode_time(plan: Plan, *, measured_fps: float | None) -> EncodeTime:
    """Encode time in s from measured pictures/s over both passes, or from a prior with a wide band."""
    if measured_fps:
        return EncodeTime(seconds=plan.video.frames / measured_fps, evidence="rehearsed", band=0.2)
    framing = plan.video.framing.value
    seconds = plan.video.frames * framing.width * framing.height / PRIOR_PIXELS_PER_S[plan.video.effort.value]
    passes = 1 + FIRST_PASS_SHARE[plan.video.effort.value] if plan.video.rate_control.value is RateControl.TWO_PASSES else 1.0
    return EncodeTime(seconds=seconds * passes, evidence="sheet", band=0.6)
