"""One picture: whether it is blank, its levels, its edges, how detailed and how grainy it is.

Luma is a 2-D array in 8-bit code values; `black` is 16 for limited and 0 for full range.
"""

from __future__ import annotations

import numpy as np

from .evidence import Edges

BLANK_RISE = 10
BLANK_SPREAD = 2.5
LIT_RISE = 24
LIT_SHARE = 2e-5
EDGE_RISE = 12
"""Above black by more than a bar's noise, in code values."""


def is_blank(luma: np.ndarray, small: np.ndarray, *, black: int) -> bool:
    """True for an evenly near-black picture.

    The averaged picture must be near black and even, and no more than a speck of the full one may be lit: a night
    scene has structure, and stars or a line of credits light pixels that averaging would hide.
    """
    low = small.astype(np.float32)
    if low.max() > black + BLANK_RISE or low.std() > BLANK_SPREAD:
        return False
    lit = np.count_nonzero(luma > black + LIT_RISE)
    return bool(lit <= max(2, LIT_SHARE * luma.size))


def histogram(luma: np.ndarray) -> np.ndarray:
    """Counts of the 256 code values on a quarter of the rows and columns."""
    return np.bincount(luma[::4, ::4].ravel(), minlength=256)[:256]


def edges(luma: np.ndarray, at_s: float, *, black: int) -> Edges:
    """For every row and column its 98th percentile, its spread (90th less 10th percentile) and the lit share, on every fourth sample."""
    def along(lines: np.ndarray) -> tuple[tuple[float, ...], ...]:
        ranked = np.sort(lines, axis=1).astype(float)  # small integers sort several times faster than percentiles come
        low, up, high = (ranked[:, round(share * (ranked.shape[1] - 1))] for share in (0.10, 0.90, 0.98))
        lit = (lines > black + EDGE_RISE).mean(axis=1).round(3)
        return tuple(high.tolist()), tuple((up - low).tolist()), tuple(lit.tolist())

    row_high, row_spread, row_lit = along(luma[:, ::4])
    column_high, column_spread, column_lit = along(np.ascontiguousarray(luma[::4].T))
    return Edges(
        at_s=at_s, row_high=row_high, row_spread=row_spread, column_high=column_high, column_spread=column_spread,
        row_lit=row_lit, column_lit=column_lit,
        high=float(np.percentile(luma[::4, ::4], 98)),
    )


def spatial_information(luma: np.ndarray) -> float:
    """SI of ITU-T P.910 (07/2022) clause 7.7: the deviation of the Sobel-filtered luma picture."""
    y = luma.astype(np.float32)
    if min(y.shape) < 3:
        return 0.0
    across = (y[:-2, 2:] + 2 * y[1:-1, 2:] + y[2:, 2:]) - (y[:-2, :-2] + 2 * y[1:-1, :-2] + y[2:, :-2])
    down = (y[2:, :-2] + 2 * y[2:, 1:-1] + y[2:, 2:]) - (y[:-2, :-2] + 2 * y[:-2, 1:-1] + y[:-2, 2:])
    return float(np.hypot(across, down).std())


def grain(luma: np.ndarray) -> float:
    """Deviation of the grain in code values: the second difference of Immerkær (1996) on the flattest fifth of blocks.

    The filter [1 −2 1]ᵀ[1 −2 1] takes away slopes; for white noise its result has 6 times the noise's deviation.
    """
    y = luma.astype(np.float32)
    block = 16
    rows, columns = (y.shape[0] - 2) // block, (y.shape[1] - 2) // block
    if rows < 2 or columns < 2:
        return 0.0
    down = y[:-2] - 2 * y[1:-1] + y[2:]
    filtered = (down[:, :-2] - 2 * down[:, 1:-1] + down[:, 2:])[: rows * block, : columns * block]
    spread = np.abs(filtered).reshape(rows, block, columns, block).mean(axis=(1, 3))
    flattest = np.partition(spread.ravel(), spread.size // 5)[: max(1, spread.size // 5)]
    return float(flattest.mean() * np.sqrt(np.pi / 2) / 6)
