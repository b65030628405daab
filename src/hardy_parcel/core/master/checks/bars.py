"""Baked-in bars: rows and columns that stay black and even in pictures from all over the film."""

from __future__ import annotations

import numpy as np

from ...values import Rect
from .evidence import Edges

DARK = 9.0
"""A bar's 98th percentile lies at most this far above black, in code values."""
EVEN = 6.0
STEP = 10.0
SUDDEN = 0.55
INFORMATIVE = 40
LEAST_SHARE = 0.009
LEAST_PIXELS = 4
AGREE = 0.9
"""Share of informative pictures in which a row must be black: single pictures are ignored."""
TOUCHED, OFTEN = 0.5, 0.3
"""A bar has a straight edge: the picture must light up half of the line behind it, in three of ten pictures. A round thing on
black, a planet or a lamp, touches the square around it at four places only."""


def picture_inside_bars(samples: list[Edges], *, black: int) -> Rect | None:
    """The picture inside baked-in bars, in pixels with even edges; None without bars.

    Dark pictures say nothing about bars and are left out. A bar ends in a step: the dark upper half of a night
    scene fades in and is none. Raises nothing; fewer than two informative pictures find none.
    """
    told = [sample for sample in samples if sample.high > black + INFORMATIVE]
    if len(told) < 2:
        return None
    rows = np.array([sample.row_high for sample in told]), np.array([sample.row_spread for sample in told])
    columns = np.array([sample.column_high for sample in told]), np.array([sample.column_spread for sample in told])
    height, width = rows[0].shape[1], columns[0].shape[1]
    top, bottom = _inside(*rows, black=black)
    left, right = _inside(*columns, black=black)
    top, bottom = _touched(np.array([sample.row_lit for sample in told]), top, bottom, share=(right - left) / width)
    left, right = _touched(np.array([sample.column_lit for sample in told]), left, right, share=(bottom - top) / height)
    if (top, bottom, left, right) == (0, height, 0, width):
        return None
    top, left = top + top % 2, left + left % 2
    bottom, right = bottom - bottom % 2, right - right % 2
    if bottom - top < height // 4 or right - left < width // 4:
        return None
    return Rect(x=left, y=top, width=right - left, height=bottom - top)


def _inside(high: np.ndarray, spread: np.ndarray, *, black: int) -> tuple[int, int]:
    """First line of the picture and the line after its last, from pictures × lines."""
    count = high.shape[1]
    barred = ((high <= black + DARK) & (spread <= EVEN)).mean(axis=0) >= AGREE
    first = int(np.argmin(barred)) if not barred.all() else 0
    last = count - int(np.argmin(barred[::-1])) if not barred.all() else count
    least = max(LEAST_PIXELS, round(LEAST_SHARE * count))
    if first < least or not _steps(high, first, +1):
        first = 0
    if count - last < least or not _steps(high, last - 1, -1):
        last = count
    return first, last


def _touched(lit: np.ndarray, first: int, last: int, *, share: float) -> tuple[int, int]:
    """First line of the picture and the line after its last, but only where the picture lights up most of the line behind the edge.

    `lit` is pictures × lines, the lit share of each whole line; `share` how much of a line the picture can have.
    """
    count = lit.shape[1]

    def straight(line: int) -> bool:
        return bool((lit[:, np.clip(line, 0, count - 1)] >= TOUCHED * share).mean() >= OFTEN)

    return (first if first and straight(first + 2) else 0), (last if last < count and straight(last - 3) else count)


def _steps(high: np.ndarray, edge: int, inward: int) -> bool:
    """Whether the level rises at once behind the bar, and not slowly over many lines, in the middle of the pictures."""
    count = high.shape[1]
    outside, near, deep = (
        high[:, np.clip(edge + inward * lines, 0, count - 1)] for lines in (-3, 2, max(8, count // 45))
    )
    rise = near - outside
    return bool(np.median(rise) >= STEP and np.median(rise / np.maximum(1.0, deep - outside)) >= SUDDEN)
