"""Lines through measured points that never overshoot them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np


def rising(values: Sequence[float], weights: Sequence[float]) -> tuple[float, ...]:
    """The values, of n points each with a weight, as the nearest that never fall, by least squares: neighbours that do are pooled at their
    weighted mean (isotonic regression, R. E. Barlow et al., 1972)."""
    pools: list[tuple[float, float, int]] = []
    for value, weight in zip(values, weights, strict=True):
        mean, total, count = float(value), weight, 1
        while pools and pools[-1][0] > mean:
            before, heavier, length = pools.pop()
            mean = (before * heavier + mean * total) / (heavier + total)
            total, count = heavier + total, length + count
        pools.append((mean, total, count))
    return tuple(mean for mean, _, count in pools for _ in range(count))


class MonotoneLines:
    """Monotone cubics through (x, y), after Fritsch & Carlson (1980). x of n points rises, y is (…, n)."""

    def __init__(self, x: np.ndarray, y: np.ndarray) -> None:
        self.x, self.y = np.asarray(x, float), np.asarray(y, float)
        if len(self.x) > 1:
            self.steps = np.diff(self.x)
            self.slopes = np.diff(self.y) / self.steps
            ends = self.slopes[..., :1], self.slopes[..., -1:]
            self.tangents = _limited(
                np.concatenate((ends[0], (self.slopes[..., :-1] + self.slopes[..., 1:]) / 2, ends[1]), axis=-1), self.slopes
            )

    def at(self, at: np.ndarray, *, beyond: bool = False) -> np.ndarray:
        """The lines at `at`, (…, len(at)).

        Outside the points each is clamped to its end, or with `beyond` drawn straight on along its outermost pair.
        """
        at = np.asarray(at, float)
        if len(self.x) == 1:
            return np.repeat(self.y, len(at), axis=-1)
        k, (here, there, rising, risen) = self._weights(at)
        columns, values, rises = np.arange(len(at)), np.zeros((len(self.x), len(at))), np.zeros((len(self.x), len(at)))
        values[k, columns], values[k + 1, columns] = here, there
        rises[k, columns], rises[k + 1, columns] = rising, risen
        drawn: np.ndarray = self.y @ values + self.tangents @ rises
        if beyond:
            before, behind = np.minimum(0, at - self.x[0]), np.maximum(0, at - self.x[-1])
            drawn = drawn + self.slopes[..., :1] * before + self.slopes[..., -1:] * behind
        return drawn

    def at_one(self, at: float) -> np.ndarray:
        """The lines at one place, (…,), clamped to their ends."""
        if len(self.x) == 1:
            return self.y[..., 0]
        k, (here, there, rising, risen) = self._weights(np.float64(at))
        read: np.ndarray = (
            self.y[..., k] * here + self.y[..., k + 1] * there + self.tangents[..., k] * rising + self.tangents[..., k + 1] * risen
        )
        return read

    def _weights(self, at: np.ndarray | np.float64) -> tuple[Any, tuple[Any, ...]]:
        """In which interval each place lies, and what its two ends and their tangents count there."""
        inside = np.clip(at, self.x[0], self.x[-1])
        k = np.clip(np.searchsorted(self.x, inside, side="right") - 1, 0, len(self.steps) - 1)
        h, t = self.steps[k], (inside - self.x[k]) / self.steps[k]
        return k, ((1 + 2 * t) * (1 - t) ** 2, t**2 * (3 - 2 * t), h * t * (1 - t) ** 2, h * t**2 * (t - 1))


def _limited(tangents: np.ndarray, slopes: np.ndarray) -> np.ndarray:
    """Tangents that overshoot nowhere, (…, n), for slopes (…, n − 1): none points against the lines beside it or is over three times as
    steep as the flatter of them, which lies within what Fritsch & Carlson allow."""
    steepness = np.abs(slopes)
    before, behind = (np.concatenate(ends, axis=-1) for ends in ((slopes[..., :1], slopes), (slopes, slopes[..., -1:])))
    flatter = np.concatenate((steepness[..., :1], np.minimum(steepness[..., :-1], steepness[..., 1:]), steepness[..., -1:]), axis=-1)
    limited: np.ndarray = np.where(before * behind > 0, np.sign(tangents) * np.minimum(np.abs(tangents), 3 * flatter), 0.0)
    return limited
