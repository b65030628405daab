"""Loudness and true peak of any part of a sound, as it is and mixed to fewer or more channels, from levels kept along it."""

from __future__ import annotations

import base64
import math
from typing import TypeVar

import numpy as np

from ...values import Model
from ..facts import Excerpt, FileFacts, Heard

FactsT = TypeVar("FactsT", bound=FileFacts)
HOP_S, GATE_S, PEAK_S = 0.1, 0.4, 0.5
"""Gating blocks are 400 ms long and follow each other every 100 ms (ITU-R BS.1770-5, Annex 1); peaks are kept by half a second."""
ABSOLUTE_LUFS, RELATIVE_LU = -70.0, -10.0
OFFSET = -0.691
"""Loudness = −0.691 + 10 log10(weighted power), ITU-R BS.1770-5 equation 2."""
NOTHING = -32768


class MixLevels(Model):
    """Levels of one mix: LUFS of the gating block that ends after every hop, dBTP of every half second.

    Both are kept in hundredths as base64 of little-endian 16 bit numbers, so that two hours take some 150 kB.
    """

    channels: int
    momentary: str
    peaks: str


class SoundLevels(Model):
    """All mixes of one sound; `late_s` is when the sound starts on the picture's clock, in s."""

    late_s: float
    mixes: tuple[MixLevels, ...] = ()


def packed(levels: list[float | None]) -> str:
    """Levels in the form that is kept; what is not finite counts as nothing."""
    def hundredths(level: float | None) -> int:
        return NOTHING if level is None or not math.isfinite(level) else max(NOTHING + 1, min(32767, round(level * 100)))

    return base64.b64encode(np.array([hundredths(level) for level in levels], "<i2").tobytes()).decode()


def unpacked(text: str) -> np.ndarray:
    """Levels as floats, NaN for nothing."""
    found = np.frombuffer(base64.b64decode(text), "<i2").astype(float)
    return np.where(found == NOTHING, np.nan, found / 100)


def integrated(momentary: np.ndarray) -> float | None:
    """Integrated loudness in LUFS of gating blocks, by the two gates of ITU-R BS.1770-5 (equations 3 to 7); None for silence."""
    heard = momentary[np.isfinite(momentary)]
    heard = heard[heard > ABSOLUTE_LUFS]
    if not len(heard):
        return None
    power = 10 ** ((heard - OFFSET) / 10)
    gate = OFFSET + 10 * math.log10(power.mean()) + RELATIVE_LU
    return OFFSET + 10 * math.log10(power[heard > gate].mean())


def heard(levels: SoundLevels, start_s: float, end_s: float) -> tuple[Heard, ...]:
    """Loudness and peak of a part, in s on the picture's clock, of every mix.

    The peak is of the half seconds that the part touches, so at worst of a little more than the part. A part shorter than
    one gating block has no loudness of its own and is taken as silent.
    """
    found = []
    for mix in levels.mixes:
        momentary, peaks = unpacked(mix.momentary), unpacked(mix.peaks)
        ends = levels.late_s + HOP_S * (1 + np.arange(len(momentary)))
        inside = momentary[(ends >= start_s + GATE_S - 1e-6) & (ends <= end_s + 1e-6)]
        starts = levels.late_s + PEAK_S * np.arange(len(peaks))
        touched = peaks[(starts + PEAK_S > start_s + 1e-6) & (starts < end_s - 1e-6)]
        touched = touched[np.isfinite(touched)]
        loud = integrated(inside)
        found.append(Heard(
            channels=mix.channels,
            integrated_lufs=None if loud is None else round(loud, 1),
            true_peak_dbtp=round(float(touched.max()), 1) if loud is not None and len(touched) else None,
        ))
    return tuple(found)


ALIKE_LU, ALIKE_DB = 0.05, 0.1


def channels_alike(levels: SoundLevels) -> bool:
    """Whether both channels of a stereo sound carry the same.

    Two like channels mixed to one by weights of 1/√2 are as loud as both were, in every block, with a peak 3.01 dB higher;
    anything that differs loses some.
    """
    mixes = {mix.channels: mix for mix in levels.mixes}
    if not levels.mixes or levels.mixes[0].channels != 2 or 1 not in mixes:
        return False
    both, one = (unpacked(mixes[count].momentary) for count in (2, 1))
    heard_blocks = np.isfinite(both) & np.isfinite(one) & (both > ABSOLUTE_LUFS)
    peaks, peak = (unpacked(mixes[count].peaks) for count in (2, 1))
    there = np.isfinite(peaks) & np.isfinite(peak) & (peaks > ABSOLUTE_LUFS)
    if not heard_blocks.any() or not there.any():
        return False
    return bool(
        np.abs(both - one)[heard_blocks].max() <= ALIKE_LU and np.abs(peak - peaks - 20 * math.log10(math.sqrt(2)))[there].max() <= ALIKE_DB
    )


def heard_in(facts: FactsT, levels: SoundLevels | None, excerpt: Excerpt | None) -> FactsT:
    """The facts with the levels of an excerpt, or of all of the sound."""
    if levels is None or facts.audio is None:
        return facts
    start, end = (0.0, math.inf) if excerpt is None else (float(excerpt.in_s), float(excerpt.out_s))
    return facts.model_copy(update={"audio": facts.audio.model_copy(update={
        "mixes": heard(levels, start, end), "alike": channels_alike(levels),
    })})
