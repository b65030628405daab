"""Lines through measured points that never overshoot them."""

from __future__ import annotations

import math

import numpy as np


def monotone_lines(x: np.ndarray, y: np.ndarray, at: np.ndarray, *, beyond: bool = False) -> np.ndarray:
    """Monotone cubics through (x, y) at `at`, after Fritsch & Carlson (1980). x of n points rises, y is (…, n), the answer (…, len(at)).

    Outside the points each is clamped to its end, or with `beyond` drawn straight on along its outermost pair.
    """
    x, y, at = np.asarray(x, float), np.asarray(y, float), np.asarray(at, float)
    if len(x) == 1:
        return np.repeat(y, len(at), axis=-1)
    steps = np.diff(x)
    slopes = np.diff(y) / steps
    tangents = np.concatenate((slopes[..., :1], (slopes[..., :-1] + slopes[..., 1:]) / 2, slopes[..., -1:]), axis=-1)
    tangents = _limited(tangents, slopes)
    inside = np.clip(at, x[0], x[-1])
    k = np.clip(np.searchsorted(x, inside, side="right") - 1, 0, len(steps) - 1)
    h, t = steps[k], (inside - x[k]) / steps[k]
    here, values, rises = np.arange(len(at)), np.zeros((len(x), len(at))), np.zeros((len(x), len(at)))
    values[k, here], values[k + 1, here] = (1 + 2 * t) * (1 - t) ** 2, t**2 * (3 - 2 * t)
    rises[k, here], rises[k + 1, here] = h * t * (1 - t) ** 2, h * t**2 * (t - 1)
    drawn: np.ndarray = y @ values + tangents @ rises
    if beyond:
        drawn = drawn + slopes[..., :1] * np.minimum(0, at - x[0]) + slopes[..., -1:] * np.maximum(0, at - x[-1])
    return drawn


def _limited(tangents: np.ndarray, slopes: np.ndarray) -> np.ndarray:
    """Tangents that overshoot nowhere, from one interval to the next: (…, n) and (…, n − 1)."""
    if slopes.ndim == 1:  # a single line of many points is quicker in plain numbers
        rises, found = slopes.tolist(), tangents.tolist()
        for i, slope in enumerate(rises):
            here, there = (0.0, 0.0) if abs(slope) < 1e-9 else (found[i] / slope, found[i + 1] / slope)
            far = math.hypot(here, there)
            less = 3 / far if far > 3 and here >= 0 and there >= 0 else 1.0
            found[i], found[i + 1] = (0.0 if here < 0 else here * less * slope), (0.0 if there < 0 else there * less * slope)
        return np.array(found)
    tangents = tangents.copy()
    for i in range(slopes.shape[-1]):
        slope = slopes[..., i]
        flat = np.abs(slope) < 1e-9
        safe = np.where(flat, 1.0, slope)
        a = np.where(flat, 0.0, tangents[..., i] / safe)
        b = np.where(flat, 0.0, tangents[..., i + 1] / safe)
        turned = (a < 0) | (b < 0)
        reach = np.hypot(a, b)
        shrink = np.where((reach > 3) & ~turned, 3 / np.maximum(reach, 1e-12), 1.0)
        tangents[..., i] = np.where(a < 0, 0.0, a * shrink * slope)
        tangents[..., i + 1] = np.where(b < 0, 0.0, b * shrink * slope)
    return tangents


def monotone_line(x: np.ndarray, y: np.ndarray, at: np.ndarray) -> np.ndarray:
    """One such line, clamped to its ends."""
    return monotone_lines(x, np.asarray(y, float), at)
