"""Sound: clipping on the samples, silence on the loudness envelope."""

from __future__ import annotations

import numpy as np

from .evidence import SoundSurvey

SILENT_LUFS = -60.0
EARLY_S = 0.16
FLAT_RUN = 4
FLAT_SHARE = 0.7
FLAT_WITHIN = 1e-5
OVER = 1.02


def flat_tops(samples: np.ndarray) -> int:
    """Samples that lie in flat tops: at least four equal ones in a row near the block's own peak.

    `samples` is channels × samples in full scale ±1. A pure tone is round at its crest; only a limit makes it flat.
    """
    found = 0
    for channel in np.atleast_2d(samples):
        peak = max(float(channel.max(initial=0.0)), -float(channel.min(initial=0.0)))
        if peak < FLAT_SHARE or len(channel) < FLAT_RUN:
            continue
        flat = (np.abs(np.diff(channel)) < FLAT_WITHIN) & (np.abs(channel[1:]) > 0.97 * peak)
        bounds = np.flatnonzero(np.diff(np.concatenate(([0], flat.astype(np.int8), [0]))))
        lengths = bounds[1::2] - bounds[::2] + 1
        found += int(lengths[lengths >= FLAT_RUN].sum())
    return found


def over_full_scale(samples: np.ndarray) -> int:
    """Samples clearly beyond full scale: what is left of clipping after a lossy codec."""
    if max(float(samples.max(initial=0.0)), -float(samples.min(initial=0.0))) <= OVER:
        return 0
    return int(np.count_nonzero(np.abs(samples) > OVER))


def silent(sound: SoundSurvey | None, start_s: float, end_s: float) -> bool:
    """True when nothing is to be heard between two times; a film without sound is silent.

    The meter's window of 400 ms reaches back and a lossy codec spreads a sound's start a little forward, so half a
    second after `start_s` and a sixth before `end_s` are not held against silence.
    """
    if sound is None or not sound.envelope_lufs:
        return True
    first = int(np.ceil((start_s + 0.5) / sound.step_s)) if start_s > 0 else 0
    last = int(np.floor((end_s - EARLY_S) / sound.step_s))
    heard = [level for level in sound.envelope_lufs[first:last] if level is not None]
    return all(level < SILENT_LUFS for level in heard)
