"""What a stream of packets asks of a decoder's buffer, as a leaky bucket."""

from __future__ import annotations

from collections.abc import Sequence

PEAK_OVER_S = 1.0


def peak_bps(sizes: Sequence[tuple[float, int]]) -> int:
    """The highest rate in bit/s over any second. `sizes` are times of decoding in s, rising, with bits."""
    peak = within = first = 0
    for at, bits in sizes:
        within += bits
        while at - sizes[first][0] >= PEAK_OVER_S - 1e-6:
            within -= sizes[first][1]
            first += 1
        peak = max(peak, within)
    return round(peak / PEAK_OVER_S)


def buffer_needed(sizes: Sequence[tuple[float, int]], rate_bps: int) -> int:
    """Bits that a decoder's buffer must hold so that a stream that comes at this rate never keeps it waiting.

    The buffer starts full: a picture takes its bits out at its time, and they come in again at the rate. The fullest that the bucket
    of what is missing ever becomes is what it must hold (ISO/IEC 14496-10 annex C, for a rate that varies).
    """
    missing = most = 0.0
    before = sizes[0][0] if sizes else 0.0
    for at, bits in sizes:
        missing = max(0.0, missing - rate_bps * max(0.0, at - before)) + bits
        before, most = at, max(most, missing)
    return round(most)
