"""Which parts of an excerpt stand for the whole, and the reel that joins them (rules §6, traps)."""

from __future__ import annotations

import math
from dataclasses import dataclass
from fractions import Fraction

import numpy as np

from ..values import Model, Ratio

REEL_PIXELS = 560e6
"""Pixels a reel may have, about a minute of medium-effort H.264 on two cores; see docs/decisions.md."""
PROBE_REEL_PIXELS = 209e6
PROBE_PICTURES = 20
QUICK_PICTURES, QUICK_WINDOWS = 6, 4
"""Pictures of a window of quick probes, of which one is compared, and how many windows they have; see docs/accuracy.md."""
MOST_PROBE_WINDOWS = 24
"""Pixels of a probe reel, some 100 pictures of 1080p, pictures of one of its windows, and how many of these it has at most: each
has pictures that are compared, on rasters that do not shrink with the frame."""
LONGEST_REEL_S = 24
FEWEST_SEGMENTS, MOST_SEGMENTS = 3, 12
MEASURED_PICTURES = 40
RUN_PICTURES = 5
LEAD_IN = Fraction(1, 10)
"""Of a segment: enough for an encoder to settle, and so little that what happens in time with the keyframes is seen as it is."""


class ReelSegment(Model):
    """Master time [start_s, end_s); pictures before `measure_from_s` are lead-in and are not measured."""

    start_s: Ratio
    measure_from_s: Ratio
    end_s: Ratio


class Reel(Model):
    """Segments in film order. `whole` is true when they are the whole excerpt and nothing is left out.

    Of the pictures after the lead-ins only evenly spread runs of `run_pictures` are measured, about `most_measured` in all,
    unless `measure_all` is set.
    """

    segments: tuple[ReelSegment, ...]
    whole: bool
    measure_all: bool = False
    most_measured: int = MEASURED_PICTURES
    run_pictures: int = RUN_PICTURES

    @property
    def duration_s(self) -> Fraction:
        return sum((s.end_s - s.start_s for s in self.segments), Fraction(0))


@dataclass(frozen=True, slots=True, kw_only=True)
class Stretch:
    """A piece of the excerpt with its coding difficulty in bits/s of a small test encode."""

    start_s: Fraction
    end_s: Fraction
    difficulty: float


def whole_reel(in_s: Fraction, out_s: Fraction, *, measure_all: bool = False) -> Reel:
    """The reel that is the excerpt itself, measured from its first picture."""
    segment = ReelSegment(start_s=in_s, measure_from_s=in_s, end_s=out_s)
    return Reel(segments=(segment,), whole=True, measure_all=measure_all)


def spread(eligible: list[bool], *, most: int = MEASURED_PICTURES, run_length: int = RUN_PICTURES) -> list[bool]:
    """At most about `most` of the eligible pictures, in evenly spread runs of neighbours, five as a rule.

    A run covers several pictures of each coding type, and XPSNR, which looks back in time, needs neighbours.
    """
    order = [i for i, flag in enumerate(eligible) if flag]
    if len(order) <= most:
        return list(eligible)
    picked = [False] * len(eligible)
    runs = max(1, most // run_length)
    for run in range(runs):
        middle = order[int((run + 0.5) * len(order) / runs)]
        low = high = middle
        while high - low + 1 < run_length:
            grown = False
            if high + 1 < len(eligible) and eligible[high + 1]:
                high, grown = high + 1, True
            if high - low + 1 < run_length and low > 0 and eligible[low - 1]:
                low, grown = low - 1, True
            if not grown:
                break
        picked[low : high + 1] = [True] * (high - low + 1)
    return picked


def segment_count(*, width: int, height: int, frame_rate: Fraction, segment_s: Fraction, smaller: int = 1) -> int:
    """How many segments the reel may have for this frame size (px) and rate (1/s), or for one `smaller` times as large."""
    seconds = min(LONGEST_REEL_S, REEL_PIXELS / (width * height * smaller**2 * float(frame_rate)))
    return max(FEWEST_SEGMENTS, min(MOST_SEGMENTS, math.floor(seconds / float(segment_s))))


def probe_segments(*, width: int, height: int, smaller: int = 1) -> int:
    """How many windows a probe reel may have beside its run-in: four at 1080p, more of smaller frames and three of larger ones."""
    return max(
        3, min(MOST_PROBE_WINDOWS, math.floor(PROBE_REEL_PIXELS / (width * height * smaller**2 * PROBE_PICTURES)) - 1)
    )


def in_windows(in_s: Fraction, out_s: Fraction, *, segment_s: Fraction) -> Reel:
    """A short excerpt, all of it, as windows that follow one another; what is left over at its end belongs to the last."""
    count = max(1, math.floor((out_s - in_s) / segment_s))
    edges = [*(in_s + segment_s * n for n in range(count)), out_s]
    segments = tuple(ReelSegment(start_s=a, measure_from_s=a, end_s=b) for a, b in zip(edges, edges[1:], strict=False))
    return Reel(segments=segments, whole=False)


def sample_by_difficulty(places_s: list[float], known: list[tuple[float, float]], *, most: int) -> list[int]:
    """Which of the stretches at `places_s` (s) are looked at, at most `most`, in film order.

    `known` are (time in s, difficulty) of the seconds that the checks measured. The stretches are sorted by the
    difficulty nearest to them and every n-th is taken, so that the sample has the film's share of easy and hard ones;
    without anything known they are taken evenly.
    """
    count = len(places_s)
    if count <= most:
        return list(range(count))
    order = list(range(count))
    if known:
        times, levels = np.array([t for t, _ in known]), np.array([level for _, level in known])
        order.sort(key=lambda i: (float(levels[int(np.argmin(np.abs(times - places_s[i])))]), i))
    step = count / most
    return sorted(order[int((i + 0.5) * step)] for i in range(most))


def choose_reel(stretches: list[Stretch], *, in_s: Fraction, out_s: Fraction, segment_s: Fraction, count: int) -> Reel:
    """A reel of at most `count` segments of `segment_s` that is a miniature of the excerpt.

    The stretches (in film order, each about `segment_s` long) are sorted by difficulty and cut into equal shares; each share sends the
    stretch nearest to its mean. Easy, typical and hard parts then stand in the reel in the proportion they have in the film, so an
    encoder spreads a target over the reel as it would over the film, and all windows weigh the same. There may be fewer than `count`
    where fewer stand better for the film: half of it easy and half hard is two and two, never two and three. A segment is one keyframe
    interval long, so joining them adds no keyframe that the film would not have. The first tenth of each is lead-in; the reel starts
    with one segment more that is only lead-in, since a fresh decoder buffer hides a ceiling. Short excerpts are taken whole.
    """
    if out_s - in_s <= segment_s * (count + 1) * Fraction(5, 4) or len(stretches) <= count + 1:
        return whole_reel(in_s, out_s)
    order = sorted(range(len(stretches)), key=lambda i: (stretches[i].difficulty, i))
    levels = [stretches[i].difficulty for i in order]
    tries = [
        _sent(levels, number) for number in range(count, min(FEWEST_SEGMENTS, count) - 1, -1)
    ]  # of equals the most
    chosen = [order[placement] for placement in min(tries, key=lambda sent: _misses(levels, sent))]
    segments = []
    for index in sorted(chosen):
        start = min(stretches[index].start_s, out_s - segment_s)
        segments.append(ReelSegment(start_s=start, measure_from_s=start + segment_s * LEAD_IN, end_s=start + segment_s))
    middle = stretches[order[len(order) // 2]]
    opening = min(middle.start_s, out_s - segment_s)
    opening_end = opening + segment_s
    run_in = ReelSegment(start_s=opening, measure_from_s=opening_end, end_s=opening_end)
    return Reel(segments=(run_in, *segments), whole=False)


def _sent(levels: list[float], count: int) -> list[int]:
    """Places of those that stand for equal shares of rising difficulties, each the nearest to its share's mean."""
    result = []
    for share in np.array_split(np.arange(len(levels)), count):
        values = np.array([levels[placement] for placement in share])
        result.append(int(share[int(np.argmin(np.abs(values - values.mean())))]))
    return result


def _misses(levels: list[float], sent: list[int]) -> float:
    """By how many times, as a mean logarithm, what stands for a share is harder or easier than what it stands for."""
    shares = np.array_split(np.log(np.maximum(levels, 1e-9)), len(sent))
    off = [
        np.abs(share - math.log(max(levels[placement], 1e-9))) for share, placement in zip(shares, sent, strict=True)
    ]
    return float(np.mean(np.concatenate(off)))
