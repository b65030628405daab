"""Cadence: pictures that are repeated, held, or blended from their neighbours."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from fractions import Fraction

import numpy as np

from ...values import rate_text
from ..facts import COMMON_RATES
from .evidence import Window

STILL = 1.5
"""Below this change, in code values, nothing moves clearly: grain and rounding alone reach one code value."""
DIP = 0.3
CUT = 3.5
REPEATS = 0.025
FEWEST = 3
HELD_SHARE = 0.4
HIGH_RATE = 31
BLEND_PERIODS = (5, 6, 10, 12)
"""Beats of 24→30 and 30→25, of 25→30 and 50→60; 10 and 12 are 5 and 6 on top of the encoder's own rhythm. The beat of
24→25 is a second long, as keyframes often are, and that of 30→24 is as long as the usual run of picture types: neither
can be told from the recording's own coding, so neither is claimed."""
CODED_PERIODS = (2, 3, 4)
"""Rhythms of an encoder's picture types. A blend in one of them shows only when it is a clear half-and-half one."""
EXPLAINED, EXPLAINED_DOUBLE, BY_CHANCE, ABOVE_CODED, DEPTH = 0.18, 0.33, 0.5, 0.13, 0.03
"""A beat itself is shorter than its double and needs less to be believed."""
CLEAR_EXPLAINED, CLEAR_DEPTH = 0.55, 0.8
CHANCE = 0.6
BLEND_DIP, BLEND_DETAIL = 1.1, 0.8
IRREGULAR = 0.045
PARTS = 6


class MeasuredCadence(StrEnum):
    EVEN = "even"
    HELD = "held"
    REPEATED = "repeated"
    BLENDED = "blended"
    STILL = "nothing moves"


@dataclass(frozen=True, slots=True, kw_only=True)
class CadenceFound:
    """What was found, in words, with the share of moving pictures concerned and the first place in s."""

    kind: MeasuredCadence
    words: str
    share: float
    at_s: float


def repeats(change: tuple[float | None, ...]) -> np.ndarray:
    """True where a picture repeats the one before: a run of at most six stands far below both pictures around it.

    A slowing movement ends low on one side only, and so is not a repeat; cuts and flashes are no measure of movement.
    """
    level = _without_cuts(np.array([np.nan if c is None else c for c in change], float))
    found = np.zeros(len(level), bool)
    i = 1
    while i < len(level):
        before = level[i - 1]
        if np.isnan(before) or not level[i] < DIP * before or before < STILL:
            i += 1
            continue
        end = i
        while end + 1 < len(level) and level[end + 1] < DIP * before and end - i < 6:
            end += 1
        after = level[end + 1] if end + 1 < len(level) else np.nan
        if not np.isnan(after) and after >= STILL and level[i : end + 1].max() < DIP * after:
            found[i : end + 1] = True
        i = end + 1
    return _against_usual(level, found)


def _against_usual(level: np.ndarray, found: np.ndarray) -> np.ndarray:
    """Only those that are also far below what the pictures around them usually change: a slow movement that jumps now
    and then repeats nothing in between."""
    kept = found.copy()
    for i in np.flatnonzero(found):
        around = slice(max(0, i - 15), i + 16)
        usual = level[around][~found[around] & ~np.isnan(level[around])]
        if not len(usual) or level[i] >= DIP * np.median(usual):
            kept[i] = False
    return kept


def _without_cuts(level: np.ndarray) -> np.ndarray:
    """Levels with those left out that tower over their surroundings."""
    kept = level.copy()
    for i, value in enumerate(level):
        around = level[max(0, i - 9) : i + 10]
        around = around[~np.isnan(around)]
        if len(around) > 4 and value > CUT * max(0.5, np.percentile(around, 80)):
            kept[i] = np.nan
    return kept


def joined(windows: tuple[Window, ...]) -> list[Window]:
    """Windows that follow one another without a gap, as one."""
    whole: list[Window] = []
    for window in windows:
        last = whole[-1] if whole else None
        if last and window.first_picture == last.first_picture + len(last.at_s) and window.change and window.change[0] is not None:
            whole[-1] = last.model_copy(update={
                name: getattr(last, name) + getattr(window, name) for name in ("at_s", "change", "between", "detail", "both_ways")
            })
        else:
            whole.append(window)
    return whole


def found_cadence(windows: tuple[Window, ...], frame_rate: Fraction, *, interlaced: bool = False) -> CadenceFound:
    """The cadence over all windows of a film at `frame_rate` (1/s). Blends are not looked for between combs."""
    runs = joined(windows)
    flags = [repeats(window.change) for window in runs]
    moving = repeated = holds = 0
    gaps: list[int] = []
    first: float | None = None
    for window, flag in zip(runs, flags, strict=True):
        level = np.array([0.0 if c is None else c for c in window.change])
        moving += int(np.count_nonzero((level >= STILL) | flag))
        repeated += int(flag.sum())
        places = np.flatnonzero(flag & ~np.roll(flag, 1))
        holds += len(places)
        gaps += np.diff(places).tolist()
        if len(places) and first is None:
            first = window.at_s[int(places[0])]
    if moving < 6:
        return CadenceFound(kind=MeasuredCadence.STILL, words="nothing moves enough to tell", share=0.0, at_s=0.0)
    share = repeated / moving
    if holds >= FEWEST and share >= REPEATS and (_regular(gaps) or (share >= IRREGULAR and _throughout(runs, flags))):
        return _repeated(share, gaps, frame_rate, first or 0.0)
    blended = None if interlaced else _blended(runs, flags, frame_rate)
    return blended or CadenceFound(kind=MeasuredCadence.EVEN, words="every picture is new", share=share, at_s=first or 0.0)


def _regular(gaps: list[int]) -> bool:
    return bool(gaps) and float(np.std(gaps)) <= 0.1 * float(np.mean(gaps)) + 0.3


def _throughout(runs: list[Window], flags: list[np.ndarray]) -> bool:
    """Whether repeats come all through the movement, and not only where one movement starts or stops."""
    moving = np.concatenate([
        np.array([0.0 if c is None else c for c in window.change]) >= STILL for window in runs
    ]) | np.concatenate(flags)
    kept = np.concatenate(flags)[moving]
    parts = np.array_split(kept, min(PARTS, max(1, int(kept.sum()))))
    return sum(bool(part.any()) for part in parts) >= 0.45 * len(parts)


def _repeated(share: float, gaps: list[int], rate: Fraction, at_s: float) -> CadenceFound:
    low_rate = rate < HIGH_RATE
    if share >= HELD_SHARE and low_rate:
        count = round(1 / max(0.05, 1 - share))
        words = {2: "held on twos", 3: "held on threes", 4: "held on fours"}.get(count, "drawings held over several pictures")
        return CadenceFound(kind=MeasuredCadence.HELD, words=words, share=share, at_s=at_s)
    source = float(rate) * (1 - share)
    usual = min(COMMON_RATES, key=lambda common: abs(float(common) - source))
    regular = bool(gaps) and float(np.std(gaps)) <= 0.6
    if abs(share - 0.5) < 0.04 and regular:
        words = f"doubled: {rate_text(rate / 2)} in {rate_text(rate)}"
    elif abs(float(usual) - source) < 0.03 * source and (regular or share > 0.12):
        words = f"{rate_text(usual)} in {rate_text(rate)}"
    else:
        words = f"{share:.0%} of the moving pictures repeat the one before"
    return CadenceFound(kind=MeasuredCadence.REPEATED, words=words, share=share, at_s=at_s)


def _blended(windows: list[Window], flags: list[np.ndarray], rate: Fraction) -> CadenceFound | None:
    """A blended conversion makes pictures rise and fall with the beat of the two rates: in their distance from the
    neighbours' mean and in their detail.

    The beat is locked to the picture's number, so windows from all over the film fold onto one another.
    """
    found = [_levels(windows, flags, name) for name in ("between", "detail")]
    for level, number, places in found:
        beat = _beat(level, number)
        if beat:
            period, low = beat
            usual = _usual_source(period, rate)
            words = f"blended {rate_text(usual)}→{rate_text(rate)}" if usual else f"blended with a beat of {period} pictures"
            return CadenceFound(kind=MeasuredCadence.BLENDED, words=words, share=low / period, at_s=places[int(np.argmin(level))])
    return _lone_blends(windows, flags)


def _usual_source(period: int, rate: Fraction) -> Fraction | None:
    period = {10: 5, 12: 6}.get(period, period)
    for source in (rate * Fraction(period - 1, period), rate * Fraction(period + 1, period)):
        if min(abs(float(common / source) - 1) for common in COMMON_RATES) < 0.002:
            return source
    return None


def _levels(windows: list[Window], flags: list[np.ndarray], name: str) -> tuple[np.ndarray, np.ndarray, list[float]]:
    """Logarithms of a ratio without their slow course and without what the encoder's picture types do, with picture
    numbers and times."""
    values: list[float] = []
    numbers: list[int] = []
    coded: list[bool] = []
    places: list[float] = []
    for window, flag in zip(windows, flags, strict=True):
        near = flag | np.roll(flag, 1) | np.roll(flag, -1)
        ratio = np.array([np.nan if r is None or r <= 0 else np.log(r) for r in getattr(window, name)], float)
        if len(ratio) != len(near):
            continue
        ratio[near] = np.nan
        good = np.flatnonzero(~np.isnan(ratio))
        if len(good) < 8:
            continue
        slope = np.polyfit(good, ratio[good], 1) if len(good) >= 20 else (0.0, float(np.median(ratio[good])))
        values += (ratio[good] - np.polyval(slope, good)).tolist()
        numbers += (good + window.first_picture).tolist()
        coded += [bool(window.both_ways) and window.both_ways[int(i)] for i in good]
        places += [window.at_s[int(i)] for i in good]
    level = np.array(values)
    for kind in (True, False):
        same = np.array(coded, bool) == kind
        if same.any():
            level[same] -= np.median(level[same])
    return np.clip(level, -2.5, 1.5), np.array(numbers, int), places


def _beat(level: np.ndarray, number: np.ndarray) -> tuple[int, int] | None:
    """The beat's period in pictures and how many of its phases lie low; None when no period explains the levels."""
    if len(level) < 15:
        return None
    coded = {period: _explained(level, number, period) for period in CODED_PERIODS}
    for period, (share, depth, low) in coded.items():
        if share >= CLEAR_EXPLAINED and depth >= CLEAR_DEPTH:
            return period, low
    own = max(share for share, _, _ in coded.values())
    best: tuple[float, int, int] | None = None
    for period in BLEND_PERIODS:
        share, depth, low = _explained(level, number, period)
        floor = EXPLAINED if period < 10 else EXPLAINED_DOUBLE
        least = max(floor, BY_CHANCE * (period / len(level)) ** 0.5, own + ABOVE_CODED)
        if share >= least and depth >= DEPTH and (best is None or share > best[0] + 0.05):
            best = (share, period, low)
    return (best[1], best[2]) if best else None


def _explained(level: np.ndarray, number: np.ndarray, period: int) -> tuple[float, float, int]:
    """Share of the mean deviation that a period explains beyond chance, the deviation of its phases, how many lie low.

    Medians, not means: a keyframe now and then is no beat.
    """
    phase = number % period
    counts = np.bincount(phase, minlength=period)
    if counts.min() < 2 or len(level) < 3 * period:
        return 0.0, 0.0, 0
    middles = np.array([np.median(level[phase == p]) for p in range(period)])
    whole = float(np.abs(level - np.median(level)).sum())
    explained = 1 - float(np.abs(level - middles[phase]).sum()) / max(whole, 1e-9)
    chance = CHANCE * period / len(level)  # medians of pure noise explain as much
    return (explained - chance) / max(0.1, 1 - chance), float(middles.std()), int((middles < middles.mean()).sum())


def _lone_blends(windows: list[Window], flags: list[np.ndarray]) -> CadenceFound | None:
    """Single pictures that are their neighbours' mean and have less detail than both: blends without a rhythm.

    In a dissolve every picture is a mixture, so neighbours that are mixtures too do not count.
    """
    count = alone = 0
    first = 0.0
    for window, flag in zip(windows, flags, strict=True):
        between = np.array([np.nan if r is None else r for r in window.between], float)
        detail = np.array([np.nan if r is None else r for r in window.detail], float)
        if len(detail) != len(between):
            continue
        count += int(np.count_nonzero(~np.isnan(between)))
        for i in range(2, len(between) - 2):
            sides = between[[i - 2, i - 1, i + 1, i + 2]]
            if flag[i - 1 : i + 2].any() or np.isnan(sides).any() or sides.max() > 1:
                continue
            if between[i] < np.exp(-BLEND_DIP) * sides.min() and detail[i] < BLEND_DETAIL:
                first = first if alone else window.at_s[i]
                alone += 1
    if alone < FEWEST or alone < 0.03 * count:
        return None
    return CadenceFound(
        kind=MeasuredCadence.BLENDED, words=f"{alone / count:.0%} of the moving pictures are blends of their neighbours",
        share=alone / count, at_s=first,
    )
