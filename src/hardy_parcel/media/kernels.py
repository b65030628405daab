"""The inner loops of likeness, compiled: each takes one pass over the pixels where array calls would take a dozen.

Numba compiles them for this processor when the module is first imported, which takes some seconds, and keeps the result on disk;
from then on an import takes half a second. Arrays are float32, contiguous by rows; borders are reflected without repeating the edge.
The loops release Python's global lock, so that comparisons of several screens run side by side.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np
from numba import float32, float64, intp, njit, types, void

IMAGE, LINE = float32[:, ::1], float32[::1]
THREE_SUMS: Any = types.Tuple((float64, float64, float64))  # type: ignore[no-untyped-call]
SUMS_REORDERED = {"reassoc", "contract", "nsz"}
"""Lets a loop take its sums in another order, so that they run on vectors; infinity and what is not a number keep their rules."""
THIRTIETH: Any = np.float32(1 / 30)
NIL: Any = np.float32(0)
UNIT: Any = np.float32(1)


def compiled(signature: Any, *, fast: bool = False) -> Callable[[Callable[..., Any]], Any]:
    """Compile a loop for one signature, with SUMS_REORDERED if `fast`.

    Where no folder takes the result, every process that imports this module compiles anew.
    """
    relaxed = SUMS_REORDERED if fast else False

    def compile_it(loop: Callable[..., Any]) -> Any:
        try:
            return njit(signature, nogil=True, fastmath=relaxed, cache=True)(loop)
        except RuntimeError:
            return njit(signature, nogil=True, fastmath=relaxed)(loop)

    return compile_it


@compiled(intp(intp, intp))
def reflected(position: int, length: int) -> int:
    """Where a position outside a line of `length` values is reflected to."""
    if length == 1:
        return 0
    while position < 0 or position >= length:
        position = -position if position < 0 else 2 * (length - 1) - position
    return position


@compiled(void(LINE, intp, intp))
def reflect_ends(line: np.ndarray, length: int, reach: int) -> None:
    """Fill `reach` positions on each side of a line whose `length` values begin at `reach`."""
    for i in range(reach):
        line[reach - 1 - i] = line[reach + reflected(-1 - i, length)]
        line[reach + length + i] = line[reach + reflected(length + i, length)]


@compiled(void(IMAGE, LINE, LINE, IMAGE, IMAGE, IMAGE, IMAGE), fast=True)
def split_into_bands(
    image: np.ndarray,
    low: np.ndarray,
    high: np.ndarray,
    coarse: np.ndarray,
    vertical: np.ndarray,
    horizontal: np.ndarray,
    diagonal: np.ndarray,
) -> None:
    """One level of a wavelet of four taps: H × W px become four bands of ⌈H/2⌉ × ⌈W/2⌉. Tap 0 lies one position before the even one."""
    rows, columns = image.shape
    smooth, rough = np.empty(columns + 4, np.float32), np.empty(columns + 4, np.float32)
    l0, l1, l2, l3 = low[0], low[1], low[2], low[3]
    h0, h1, h2, h3 = high[0], high[1], high[2], high[3]
    for y in range((rows + 1) // 2):
        a, b = image[reflected(2 * y - 1, rows)], image[2 * y]
        c, d = image[reflected(2 * y + 1, rows)], image[reflected(2 * y + 2, rows)]
        for x in range(columns):
            smooth[x + 2] = l0 * a[x] + l1 * b[x] + l2 * c[x] + l3 * d[x]
            rough[x + 2] = h0 * a[x] + h1 * b[x] + h2 * c[x] + h3 * d[x]
        reflect_ends(smooth, columns, 2)
        reflect_ends(rough, columns, 2)
        for x in range((columns + 1) // 2):
            i = 2 * x + 1
            coarse[y, x] = l0 * smooth[i] + l1 * smooth[i + 1] + l2 * smooth[i + 2] + l3 * smooth[i + 3]
            vertical[y, x] = h0 * smooth[i] + h1 * smooth[i + 1] + h2 * smooth[i + 2] + h3 * smooth[i + 3]
            horizontal[y, x] = l0 * rough[i] + l1 * rough[i + 1] + l2 * rough[i + 2] + l3 * rough[i + 3]
            diagonal[y, x] = h0 * rough[i] + h1 * rough[i + 1] + h2 * rough[i + 2] + h3 * rough[i + 3]


@compiled(float32(float32, float32), fast=True)
def real_part(reference: float, picture: float) -> float:
    """What of a judged value is really there: it is clipped to lie between nothing and the reference."""
    return min(max(picture, min(reference, NIL)), max(reference, NIL))


@compiled(THREE_SUMS(IMAGE, IMAGE, IMAGE, IMAGE, IMAGE, IMAGE, float32, float32), fast=True)
def cubes_above_mask(
    reference1: np.ndarray,
    reference2: np.ndarray,
    reference3: np.ndarray,
    judged1: np.ndarray,
    judged2: np.ndarray,
    judged3: np.ndarray,
    side: float,
    diagonal: float,
) -> tuple[float, float, float]:
    """Sums of cubes of the real part of three bands, weighed, above a threshold.

    The threshold is what was added in all three bands, weighed and averaged over 3 × 3 positions, the middle one counting twice, each
    at 1/30. `side` weighs the first two bands, `diagonal` the third. Bands are at least 1 × 1.
    """
    rows, columns = reference1.shape
    added = np.empty((rows, columns), np.float32)
    for y in range(rows):
        for x in range(columns):
            first = abs(judged1[y, x] - real_part(reference1[y, x], judged1[y, x]))
            second = abs(judged2[y, x] - real_part(reference2[y, x], judged2[y, x]))
            third = abs(judged3[y, x] - real_part(reference3[y, x], judged3[y, x]))
            added[y, x] = side * (first + second) + diagonal * third
    total1, total2, total3 = 0.0, 0.0, 0.0
    across = np.empty(columns + 2, np.float32)
    for y in range(rows):
        above, middle, below = added[reflected(y - 1, rows)], added[y], added[reflected(y + 1, rows)]
        for x in range(columns):
            across[x + 1] = above[x] + middle[x] + below[x]
        reflect_ends(across, columns, 1)
        row1, row2, row3 = NIL, NIL, NIL
        for x in range(columns):
            threshold = (across[x] + across[x + 1] + across[x + 2] + middle[x]) * THIRTIETH
            first = max(side * abs(real_part(reference1[y, x], judged1[y, x])) - threshold, NIL)
            second = max(side * abs(real_part(reference2[y, x], judged2[y, x])) - threshold, NIL)
            third = max(diagonal * abs(real_part(reference3[y, x], judged3[y, x])) - threshold, NIL)
            row1 += first * first * first
            row2 += second * second * second
            row3 += third * third * third
        total1 += row1
        total2 += row2
        total3 += row3
    return total1, total2, total3


@compiled(void(LINE, LINE, intp, LINE))
def halve_line(padded: np.ndarray, taps: np.ndarray, count: int, into: np.ndarray) -> None:
    """Every second position of a line filtered by nine taps; it is `padded` by four positions on each side."""
    a, b, c, d, e = taps[0], taps[1], taps[2], taps[3], taps[4]
    f, g, h, j = taps[5], taps[6], taps[7], taps[8]
    for x in range(count):
        i = 2 * x
        into[x] = (
            a * padded[i] + b * padded[i + 1] + c * padded[i + 2] + d * padded[i + 3] + e * padded[i + 4]
            + f * padded[i + 5] + g * padded[i + 6] + h * padded[i + 7] + j * padded[i + 8]
        )  # fmt: skip


@compiled(void(IMAGE, LINE, IMAGE))
def halve(image: np.ndarray, taps: np.ndarray, into: np.ndarray) -> None:
    """Filter H × W px by an odd number of taps each way and keep every second position: ⌈H/2⌉ × ⌈W/2⌉."""
    rows, columns = image.shape
    reach = len(taps) // 2
    line = np.empty(columns + 2 * reach, np.float32)
    for y in range(into.shape[0]):
        line[:] = NIL
        for i in range(len(taps)):
            source, tap = image[reflected(2 * y + i - reach, rows)], taps[i]
            for x in range(columns):
                line[x + reach] += tap * source[x]
        reflect_ends(line, columns, reach)
        halve_line(line, taps, into.shape[1], into[y])


@compiled(float64(IMAGE, IMAGE, IMAGE, IMAGE, LINE, float32, float32))
def information(
    reference: np.ndarray,
    mean: np.ndarray,
    variance: np.ndarray,
    picture: np.ndarray,
    taps: np.ndarray,
    noise: float,
    flat: float,
) -> float:
    """Sum of the information that a judged picture still gives about a reference picture, in bits.

    `reference` and `judged` are H × W px; `mean` and `variance` are the reference's in windows of `taps`, ⌈H/2⌉ × ⌈W/2⌉. Where its
    variance is below `flat`, a position gives 1 less four times the judged variance as a share of 255². Every sum is taken as it
    was for the reference, so that the same picture gives exactly what `whole_information` says.
    """
    rows, columns = picture.shape
    high, wide = mean.shape
    reach = len(taps) // 2
    first, square, both = (
        np.empty(columns + 2 * reach, np.float32),
        np.empty(columns + 2 * reach, np.float32),
        np.empty(columns + 2 * reach, np.float32),
    )
    means, squares, products = np.empty(wide, np.float32), np.empty(wide, np.float32), np.empty(wide, np.float32)
    total = 0.0
    for y in range(high):
        first[:], square[:], both[:] = NIL, NIL, NIL
        for i in range(len(taps)):
            source_row, tap = reflected(2 * y + i - reach, rows), taps[i]
            picture_row, reference_row = picture[source_row], reference[source_row]
            for x in range(columns):
                value = picture_row[x]
                first[x + reach] += tap * value
                square[x + reach] += tap * (value * value)
                both[x + reach] += tap * (value * reference_row[x])
        for line, into in ((first, means), (square, squares), (both, products)):
            reflect_ends(line, columns, reach)
            halve_line(line, taps, wide, into)
        for x in range(wide):
            local_variance = variance[y, x]
            spread = max(squares[x] - means[x] * means[x], NIL)
            if local_variance < flat:
                total += UNIT - np.float32(4) * spread / np.float32(65025)
                continue
            together = products[x] - mean[y, x] * means[x]
            gain = max(together, NIL) / (local_variance + np.float32(1e-10))
            rest = max(spread - gain * together, NIL)
            gain = min(gain, UNIT)
            total += np.log2(UNIT + gain * gain * local_variance / (rest + noise))
    return total


@compiled(float64(IMAGE, float32, float32))
def whole_information(variance: np.ndarray, noise: float, flat: float) -> float:
    """Sum of the information in a reference picture with this variance in its windows, in bits; 1 where that is below `flat`."""
    total = 0.0
    for y in range(variance.shape[0]):
        for x in range(variance.shape[1]):
            local_variance = variance[y, x]
            total += UNIT if local_variance < flat else np.log2(UNIT + local_variance / noise)
    return total
