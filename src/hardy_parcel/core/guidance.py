"""Guidance lookup: which row of a sheet serves an output, and what it says in bit/s."""

from __future__ import annotations

import math
from fractions import Fraction

from .sheets import FrameRateClass, GuidanceRow, Placement
from .values import Model, mbps_text


class GuidanceUse(Model):
    """The guidance for one output, the rows it came from, and how it was reached."""

    low_bps: int
    high_bps: int
    frame_rate_class: FrameRateClass
    short_side_px: int
    rows_short_side_px: tuple[int, ...]
    how: str
    sentence: str


def frame_rate_class(rate: Fraction) -> FrameRateClass:
    """Class by nominal rate (1/s): up to 30 standard, above it high (domain rules §2)."""
    return FrameRateClass.STANDARD if round(rate) <= 30 else FrameRateClass.HIGH


def look_up(placement: Placement, *, width: int, height: int, frame_rate: Fraction, codec: str = "h264") -> GuidanceUse:
    """Guidance for an output of `width` × `height` px at `frame_rate` 1/s.

    The row is picked by the output's short side. Between rows log(bit rate) is interpolated against
    log(short side); outside them the end slope is extended, and the answer says so. A class without rows of its
    own falls back to the other class, which is said too.
    """
    side = min(width, height)
    wanted = frame_rate_class(frame_rate)
    rows = _rows(placement, wanted, codec)
    borrowed = ""
    if not rows:
        other = FrameRateClass.STANDARD if wanted is FrameRateClass.HIGH else FrameRateClass.HIGH
        rows = _rows(placement, other, codec)
        borrowed = f", from the {other} rates as the sheet has no {wanted} ones"
    exact = next((row for row in rows if row.short_side_px == side), None)
    used: tuple[GuidanceRow, ...]
    if exact or len(rows) == 1:
        row = exact or rows[0]
        how, used, low, high = ("row" if exact else "only row"), (row,), float(row.low_bps), float(row.high_bps)
    else:
        ends, how = _neighbours(rows, side)
        used, low = ends, _log_line(side, ends, "low_bps")
        high = max(low, _log_line(side, ends, "high_bps"))  # far outside the rows the two lines may cross
    names = " and ".join(str(row.short_side_px) for row in used)
    verb = {"row": f"row {names}", "only row": f"its only row, {names}", "between": f"between rows {names}"}.get(
        how, f"extended from rows {names}"
    )
    return GuidanceUse(
        low_bps=round(low),
        high_bps=round(high),
        frame_rate_class=wanted,
        short_side_px=side,
        rows_short_side_px=tuple(row.short_side_px for row in used),
        how=how,
        sentence=f"{mbps_text(low)} to {mbps_text(high)}: {verb}, {wanted} rates{borrowed}",
    )


def _rows(placement: Placement, wanted: FrameRateClass, codec: str) -> list[GuidanceRow]:
    rows = [r for r in placement.guidance if r.frame_rate_class is wanted and r.codec == codec and r.dynamic_range == "sdr"]
    return sorted(rows, key=lambda row: row.short_side_px)


def _neighbours(rows: list[GuidanceRow], side: int) -> tuple[tuple[GuidanceRow, GuidanceRow], str]:
    if side < rows[0].short_side_px:
        return (rows[0], rows[1]), "extended"
    if side > rows[-1].short_side_px:
        return (rows[-2], rows[-1]), "extended"
    above = next(i for i, row in enumerate(rows) if row.short_side_px > side)
    return (rows[above - 1], rows[above]), "between"


def _log_line(side: int, ends: tuple[GuidanceRow, GuidanceRow], field: str) -> float:
    x0, x1 = (math.log(row.short_side_px) for row in ends)
    y0, y1 = (math.log(getattr(row, field)) for row in ends)
    return math.exp(y0 + (math.log(side) - x0) * (y1 - y0) / (x1 - x0))
