"""The first of two passes for an encoder that misses a rate: which quality gives the film its size."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Protocol

import av

from ..core.plan.encoder_settings import packing_settings
from ..core.plan.plan import Plan
from ..core.plan.quality_search import FIRST_QUALITY, MOST_QUALITIES, found_quality, next_quality, sampled_groups
from ..core.trade.codecs import CODECS, QualityScale
from .encode import encoded, encoder


class Pictures(Protocol):
    """Treated pictures of a film, `count` from the `first` on, as often as they are wanted."""

    def __call__(self, first: int = 0, count: int | None = None, /) -> Iterator[av.VideoFrame]: ...


def quality_that_has_the_size(plan: Plan, pictures: Pictures, count: int, say: Callable[[int], None]) -> float:
    """The quality value, as finely as the encoder takes it, at which `count` pictures come nearest to the plan's rate and hardly above it.

    `say` hears of pictures done, `count` of them when all is done, and may raise. Raises EncoderTrouble.
    """
    video = plan.picture
    group = video.keyframe_interval_frames.value or 1
    wanted = video.target_bps.value * count / float(video.frame_rate.value)

    def told(done: float) -> None:
        say(min(count, round(done)))

    scale = CODECS[video.codec.value].searched or QualityScale(best=1, worst=1, parts=1)
    first = _bits(plan, FIRST_QUALITY, pictures(), group, lambda sent: told(sent / 2), first=True)
    whole = first[: count // group] or first  # a shorter last group is like no other
    chosen = sampled_groups(whole)
    looked_at = sum(first[n] for n in chosen)
    known: dict[int, float] = {}

    def needed(quality: int) -> float:
        bits = 0
        for place, number in enumerate(chosen):
            start = count / 2 * (1 + (len(known) + place / len(chosen)) / MOST_QUALITIES)
            some = pictures(number * group, min(group, count - number * group))
            bits += sum(_bits(plan, quality / scale.parts, some, group, partial(_beyond, told, start)))
        return sum(first) * bits / max(1, looked_at)

    quality: int | None = next_quality({FIRST_QUALITY * scale.parts: sum(first)}, wanted, scale) or FIRST_QUALITY * scale.parts
    while quality is not None:
        known[quality] = needed(quality)
        quality = next_quality(known, wanted, scale)
    told(count)
    return found_quality(known, wanted) / scale.parts


def _beyond(told: Callable[[float], None], start: float, sent: int) -> None:
    """Trials are told by group, since how many there will be is not known."""
    told(start)


def _bits(
    plan: Plan, quality: float, pictures: Iterator[av.VideoFrame], group: int, say: Callable[[int], None], *, first: bool = False
) -> list[int]:
    """Bits of every group of so many pictures at one quality."""
    settings = packing_settings(plan, encode_pass=1 if first else 2, quality=quality)
    bits: dict[int, int] = {}
    for sent, packets in encoded(encoder(settings), pictures):
        for packet in packets:
            number = round((packet.pts or 0) * (packet.time_base or 1 / settings.frame_rate) * settings.frame_rate) // group
            bits[number] = bits.get(number, 0) + packet.size * 8
        say(sent)
    return [bits[number] for number in sorted(bits)]
