"""Finding the quality value at which a film has the size that is wanted, for an encoder that misses a rate but keeps a quality.

The first pass encodes the whole film quickly at one quality. Some of its groups of pictures, from easy to hard, are then encoded as
planned at qualities that this search asks for; what they need against the first pass, times what the film needed there, is what the
film will need (a ratio estimate, so that what the groups have in common with the rest of the film falls out).
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from ..trade.codecs import QualityScale

FIRST_QUALITY = 35
"""What the first pass is encoded at, in the middle of the scales; a whole value, while those of a search are counted in the parts that
the encoder takes: AV1's whole ones may be a third of the bits apart."""
SAMPLED_GROUPS = 8
MOST_QUALITIES, USUAL_TRIES = 9, 4
"""So many are tried at most, and on most films."""
NEAR, MOST_OVER = 0.03, 1.04
"""A search ends within 3 % of what is wanted; what is 4 % above it is taken where the next is coarser."""
USUAL_STEEPNESS, LEAST_STEEPNESS, FARTHEST = 0.055, 0.03, 12
"""By how much a whole value lowers the logarithm of the bits where nothing else is known, and how far beyond what is known one goes."""


def sampled_groups(costs: Sequence[float]) -> list[int]:
    """Numbers of a few groups that stand for all, from the cheapest to the dearest; rising, and all of them where they are few."""
    order = sorted(range(len(costs)), key=lambda n: costs[n])
    count = min(SAMPLED_GROUPS, len(order))
    return sorted(order[int((n + 0.5) * len(order) / count)] for n in range(count))


def next_quality(known: Mapping[int, float], wanted: float, scale: QualityScale) -> int | None:
    """The quality to try next, given bits at those tried; None when there is none better to be found. Qualities are in the scale's
    parts."""
    best, worst = scale.best * scale.parts, scale.worst * scale.parts
    if len(known) >= MOST_QUALITIES or any(abs(math.log(bits / wanted)) <= NEAR for bits in known.values()):
        return None
    over = [quality for quality, bits in known.items() if bits > wanted]
    under = [quality for quality, bits in known.items() if bits <= wanted]
    if over and under:
        fine, coarse = max(over), min(under)
        if coarse - fine <= 1:
            return None
        share = math.log(known[fine] / wanted) / math.log(known[fine] / known[coarse])
        bent = len(known) > 3  # noise that is kept below a quality and lost above it makes a cliff, which only halving finds
        return min(coarse - 1, max(fine + 1, (fine + coarse) // 2 if bent else round(fine + share * (coarse - fine))))
    end = min(known) if under else max(known)
    if end == (best if under else worst):
        return None
    step, farthest = math.log(known[end] / wanted) / _steepness(known, scale.parts), FARTHEST * scale.parts
    way = max(-farthest, min(-1, round(step))) if under else min(farthest, max(1, round(step)))
    return min(worst, max(best, end + way))


def _steepness(known: Mapping[int, float], parts: int) -> float:
    """By how much a part lowers the logarithm of the bits, from the two outermost that are known."""
    fine, coarse = min(known), max(known)
    if fine == coarse:
        return USUAL_STEEPNESS / parts
    return max(LEAST_STEEPNESS / parts, math.log(known[fine] / known[coarse]) / (coarse - fine))


def found_quality(known: Mapping[int, float], wanted: float) -> int:
    """The best of the tried qualities that needs no more than is wanted, or hardly; the coarsest where all need more."""
    return min((quality for quality, bits in known.items() if bits <= wanted * MOST_OVER), default=max(known))
