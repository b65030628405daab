"""A ladder: one crop of one picture as it arrives at several upload rates, and the first that is visibly worse."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from ..values import Model, mbps_text
from .condition import NOTICEABLE_STEP, impairment_words

MOST_RUNGS = 5
CROP = (184, 224)
"""Width and height of a crop in pixels of the viewer's screen: six of them stand beside each other on a page of 1280."""


class Rung(Model):
    """A crop as it arrives at an upload rate (bit/s): its own condition, and that in words."""

    target_bps: int
    condition: float
    words: str
    first_visible: bool = False


class RateLadder(Model):
    """Rungs by falling rate; `sentence` says where damage is first seen, against the rung of the highest rate."""

    rungs: tuple[Rung, ...]
    sentence: str


def rates_of_ladder(known: Sequence[int], own_bps: int) -> tuple[int, ...]:
    """At most five of the known rates (bit/s), falling: the highest, the lowest, the one nearest to a plan's own, and others evenly
    between them by ratio."""
    rates = sorted(set(known))
    if len(rates) <= MOST_RUNGS:
        return tuple(reversed(rates))
    kept = {rates[0], rates[-1], min(rates, key=lambda rate: abs(math.log(rate / own_bps)))}
    while len(kept) < MOST_RUNGS:  # the one farthest from all that are kept already
        kept.add(max(set(rates) - kept, key=lambda rate: (min(abs(math.log(rate / other)) for other in kept), rate)))
    return tuple(sorted(kept, reverse=True))


def rate_ladder(conditions: Mapping[int, float]) -> RateLadder:
    """A ladder from the crop's condition by upload rate (bit/s).

    The first visible step is the highest rate at which the crop lies a noticeable step or more below that of the highest rate.
    """
    falling = sorted(conditions, reverse=True)
    best = conditions[falling[0]] if falling else 0.0
    visible = next((rate for rate in falling if best - conditions[rate] >= NOTICEABLE_STEP), None)
    rungs = tuple(
        Rung(
            target_bps=rate, condition=round(conditions[rate], 1), words=impairment_words(conditions[rate]), first_visible=rate == visible,
        )
        for rate in falling
    )
    return RateLadder(rungs=rungs, sentence=_sentence(rungs))


def _sentence(rungs: Sequence[Rung]) -> str:
    if len(rungs) < 2:
        return "One rate alone makes no ladder: rehearse more."
    top, last = rungs[0], rungs[-1]
    visible = next((number for number, rung in enumerate(rungs) if rung.first_visible), None)
    if visible is None:
        lost = max(0.0, top.condition - min(rung.condition for rung in rungs))
        return (
            f"Nothing is visibly lost in this crop down to {mbps_text(last.target_bps)}: it arrives at most {lost:.1f} points below what"
            f" {mbps_text(top.target_bps)} brings; {NOTICEABLE_STEP:.0f} would be noticed."
        )
    rung, before = rungs[visible], rungs[visible - 1]
    still = f" At {mbps_text(before.target_bps)} it is still {before.condition:.0f}." if before is not top else ""
    return (
        f"In this crop {mbps_text(rung.target_bps)} is the first to be visibly worse: {rung.condition:.0f} against {top.condition:.0f} at"
        f" {mbps_text(top.target_bps)}.{still}"
    )
