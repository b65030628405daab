"""Whether a destination takes a file that was planned for another one."""

from __future__ import annotations

from fractions import Fraction

from ..sheets.sheet import Destination
from ..trade.codec_levels import TABLES, above
from ..trade.codecs import name_of
from ..trade.containers import CONTAINER_NAMES
from ..values import mbps_text, rate_text, size_text
from .carrying import file_size
from .plan import Plan, duration_s

SOUND_APART_LU = 1.0
"""By so much a file may be off the level that a sheet asks for."""


def not_taken(plan: Plan, destination: Destination) -> list[str]:
    """Why a destination would not take the file of this plan as it comes, each in a phrase; empty where it does."""
    place, name, video, found = destination.placement, destination.sheet_name, plan.video, list[str]()
    if plan.held:
        return ["it cannot be packed"]
    if video is None or not place.picture:
        return [] if video is None and not place.picture else [f"{name} takes sound only" if video else f"{name} wants a picture"]
    framing, codec = video.framing.value, video.codec.value
    if plan.container.value not in place.containers:
        found.append(f"{name} does not take {CONTAINER_NAMES[plan.container.value]}")
    if codec not in place.codecs:
        found.append(f"{name} does not take {name_of(codec)}")
    if video.deep and codec not in place.ten_bit:
        found.append(f"{name} takes no 10 bit of {name_of(codec)}")
    if not place.accepts_shape(Fraction(framing.width, framing.height)):
        found.append(f"its shape is not one that {name} takes")
    if max(framing.width, framing.height) > place.max_long_side_px or min(framing.width, framing.height) > place.max_short_side_px:
        found.append(f"it is larger than {name} takes")
    if video.frame_rate.value > place.max_frame_rate:
        found.append(f"{rate_text(video.frame_rate.value)} frames/s is more than {name} takes")
    most, level = place.max_level.get(codec), video.level.value
    if most and level and codec in TABLES and above(codec, level, most):
        found.append(f"its level {level} is above the {most} that {name}'s machines play")
    peak = video.ceiling_bps.value or video.target_bps.value
    if place.peak_bps and peak > place.peak_bps:
        found.append(f"its {mbps_text(peak)} at most is above the peak that {name}'s machines play")
    return found + _sound(plan, destination) + _limits(plan, destination)


def _sound(plan: Plan, destination: Destination) -> list[str]:
    audio, rule, name = plan.audio, destination.placement.audio, destination.sheet_name
    if audio is None:
        return []
    found = []
    if audio.codec.value not in rule.codecs:
        found.append(f"{name} does not take {name_of(audio.codec.value)} sound")
    if rule.target_lufs is not None and audio.expected_lufs is not None:
        off = audio.expected_lufs - rule.target_lufs
        if off > SOUND_APART_LU or (off < -SOUND_APART_LU and rule.turns == "both" and audio.target_lufs != rule.target_lufs):
            found.append(f"its sound is {abs(off):.0f} LU {'above' if off > 0 else 'below'} what {name} asks for")
    limit = rule.true_peak_limit_dbtp
    if limit is not None and audio.expected_peak_dbtp is not None and audio.expected_peak_dbtp > limit + 0.1:
        found.append(f"its peaks pass {name}'s limit")
    return found


def _limits(plan: Plan, destination: Destination) -> list[str]:
    place, name, worst = destination.placement, destination.sheet_name, file_size(plan).worst_bytes
    found = []
    if worst > place.max_bytes:
        found.append(f"its {size_text(worst)} at worst is more than {name} takes")
    if duration_s(plan) > place.max_duration_s:
        found.append(f"it is longer than the {place.max_duration_s} s that {name} takes")
    return found
