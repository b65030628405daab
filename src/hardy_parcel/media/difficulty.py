"""How hard each part of an excerpt is to code, from a small quick test encode."""

from __future__ import annotations

import itertools
from bisect import bisect_left
from fractions import Fraction
from pathlib import Path
from typing import Any

from av.video.frame import PictureType

from ..core.arrival.ticks import Tick, ticks
from ..core.arrival.windows import Stretch, sample_by_difficulty
from ..core.master.checks.evidence import Difficulty
from ..core.master.facts import VideoFacts
from ..core.plan.encoder_settings import EncoderSettings
from ..core.plan.plan import Plan
from ..core.values import even
from .encode import encoder
from .pictures import treated
from .trouble import open_film, reading

SMALL_LONG_SIDE = 320
DECODE_PIXELS = 3e9
"""Pixels of the master that may be decoded for this; beyond it only every n-th stretch is looked at."""
SAMPLED_STRETCHES = 48
SAMPLE_PICTURES = 12


def stretches(
    master: Path,
    video: VideoFacts,
    plan: Plan,
    segment_s: Fraction,
    known: tuple[Difficulty, ...] = (),
    *,
    most: int | None = None,
    pictures: int = SAMPLE_PICTURES,
) -> list[Stretch]:
    """The excerpt in stretches of `segment_s` with their difficulty, in film order.

    Each stretch starts with a keyframe, so its bits are its own. Long films are sampled: a dozen pictures of up to 48
    stretches, which are chosen by what the checks found (`known`) so that easy and hard ones have their share. With `most`
    never more than so many stretches are looked at, `pictures` of each.
    """
    rate = plan.picture.frame_rate.value
    per_stretch = max(1, round(segment_s * rate))
    every = ticks(plan)
    groups = [every[i : i + per_stretch] for i in range(0, len(every), per_stretch)]
    if len(groups) > 1 and len(groups[-1]) < per_stretch:
        groups.pop()
    pixels = video.coded_width * video.coded_height * len(every) * plan.picture.keep_every
    sampled = most is not None or pixels > DECODE_PIXELS
    if sampled and len(groups) > (most or SAMPLED_STRETCHES):
        places = [float(plan.excerpt.in_s + Fraction(group[0].index) / rate) for group in groups]
        measured = [(second.at_s, second.level) for second in known]
        groups = [groups[i] for i in sample_by_difficulty(places, measured, most=most or SAMPLED_STRETCHES)]
    looked_at = [_sample(group, pictures) if sampled else group for group in groups]
    bits = _bits(master, video, plan, looked_at)
    return [
        Stretch(
            start_s=plan.excerpt.in_s + Fraction(group[0].index) / rate,
            end_s=plan.excerpt.in_s + Fraction(group[-1].index + 1) / rate,
            difficulty=size / (len(seen) / float(rate)),
        )
        for group, seen, size in zip(groups, looked_at, bits, strict=True)
    ]


def stored_stretches(master: Path, plan: Plan, segment_s: Fraction, *, least: int) -> list[Stretch]:
    """Pieces of the excerpt in film order that begin with a keyframe of the file, and what the file spends on each (bits/s).

    Nothing is decoded: sizes are read from the file's index. Where that names fewer than `least` such pieces, as many stand in
    the middle of equal parts of the excerpt, of one difficulty.
    """
    excerpt, result = plan.excerpt, list[Stretch]()
    with reading(master), open_film(master) as container:
        stream = container.streams.video[0]
        base = Fraction(stream.time_base or 1)
        # read while the file is open: an entry is a view of its memory
        entries = [(entry.timestamp, entry.size, entry.is_keyframe) for entry in stream.index_entries]
    times = [(at - entries[0][0]) * base for at, _, _ in entries]
    sums = list(itertools.accumulate((size for _, size, _ in entries), initial=0))
    for placement, (_, _, is_keyframe) in enumerate(entries):
        start = times[placement]
        if is_keyframe and excerpt.in_s <= start <= excerpt.out_s - segment_s:
            bits = 8 * (sums[bisect_left(times, start + segment_s)] - sums[placement])
            result.append(Stretch(start_s=start, end_s=start + segment_s, difficulty=bits / float(segment_s)))
    if len(result) >= least:
        return result
    room = excerpt.duration_s - segment_s
    places = [excerpt.in_s + room * (2 * number + 1) / (2 * least) for number in range(least)]
    return [Stretch(start_s=start, end_s=start + segment_s, difficulty=1.0) for start in places]


def _sample(group: list[Tick], pictures: int) -> list[Tick]:
    start = max(0, (len(group) - pictures) // 2)
    return group[start : start + pictures]


def _bits(master: Path, video: VideoFacts, plan: Plan, groups: list[list[Tick]]) -> list[int]:
    """Bits of each group in one test encode at about 320 px across; a group always starts with a keyframe."""
    crop = plan.picture.framing.value.crop
    scale = min(1.0, SMALL_LONG_SIDE / max(crop.width, crop.height))
    width, height = even(crop.width * scale), even(crop.height * scale)
    settings = EncoderSettings(
        library="libx264",
        width=width,
        height=height,
        frame_rate=plan.picture.frame_rate.value,
        options={
            "preset": "ultrafast",
            "crf": "26",
            "g": "100000",
            "sc_threshold": "0",
            "bf": "0",
            "rc-lookahead": "0",
        },
    )
    context = encoder(settings)
    starts: set[int] = set()
    owner: list[int] = []
    bits = [0] * len(groups)
    for number, group in enumerate(groups):
        starts.add(len(owner))
        owner += [number] * len(group)

    def count(packets: list[Any]) -> None:
        for packet in packets:
            bits[owner[packet.pts]] += packet.size * 8

    flat = [tick for group in groups for tick in group]
    for i, picture in enumerate(treated(master, video, plan, flat, frame=False)):
        small = picture.reformat(width=width, height=height, interpolation="FAST_BILINEAR")
        small.pts, small.time_base = i, 1 / plan.picture.frame_rate.value
        small.pict_type = PictureType.I if i in starts else PictureType.NONE
        count(context.encode(small))
    count(context.encode(None))
    return bits
