"""Guidance lookup: which row of a sheet serves an output, and what it says in bit/s (rules §2)."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Literal

from ..trade.names import CODEC_NAMES, Codec
from ..values import Model, mbps_text
from .sheet import FrameRateClass, GuidanceRow, Placement

AT_THE_EDGE = 0.005
"""How far beyond an end of the guidance a bit rate still counts as lying within."""
How = Literal["row", "between", "extended", "only row"]


class GuidanceUse(Model):
    """The guidance for one output, the rows it came from, and how it was reached.

    `factor` is what the rows were multiplied by, for a codec or a range without rows of its own.
    """

    low_bps: int
    high_bps: int
    frame_rate_class: FrameRateClass
    short_side_px: int
    rows: tuple[GuidanceRow, ...]
    how: How
    factor: float = 1.0
    factor_for: str = ""
    borrowed_class: bool = False
    sentence: str

    def times(self, multiple: float) -> int:
        """A bit rate of so many times the guidance's top, rounded as a creator would type it and within what may be chosen."""
        bps = multiple * self.high_bps
        step = 10_000 if bps >= 2_000_000 else 1_000
        return max(50_000, min(400_000_000, round(bps / step) * step))

    def multiple_of(self, bps: float) -> float:
        """A bit rate as a multiple of the guidance's top."""
        return bps / self.high_bps

    def words_for(self, bps: float) -> str:
        """A bit rate against the guidance: within it, a multiple of its top above it, a share of its lowest below it."""
        if bps > self.high_bps * (1 + AT_THE_EDGE):
            return (
                f"{bps / self.high_bps:.2g} × guidance"
                if bps < 10 * self.high_bps
                else f"{bps / self.high_bps:.0f} × guidance"
            )
        if bps >= self.low_bps * (1 - AT_THE_EDGE):
            return "within guidance"
        return f"{bps / self.low_bps:.0%} of guidance’s lowest"

    @property
    def place(self) -> str:
        """The row or rows it comes from, in words that follow a platform's name: “1080 row”, “guidance between …”."""
        if self.how in ("row", "only row"):
            return f"{self.row_names} row"
        return f"guidance {'between' if self.how == 'between' else 'extended from'} rows {self.row_names}"

    @property
    def row_names(self) -> str:
        return " and ".join(str(row.short_side_px) for row in self.rows)


def frame_rate_class(rate: Fraction) -> FrameRateClass:
    """Class by nominal rate (1/s): up to 30 standard, above it high (domain rules §2)."""
    return FrameRateClass.STANDARD if round(rate) <= 30 else FrameRateClass.HIGH


def look_up(
    placement: Placement, *, width: int, height: int, frame_rate: Fraction, codec: Codec = "h264", hdr: bool = False
) -> GuidanceUse:
    """Guidance for an output of `width` × `height` px at `frame_rate` 1/s.

    The row is picked by the output's short side. Between rows log(bit rate) is interpolated against
    log(short side); outside them the end slope is extended, and the answer says so. A codec or a dynamic range
    without rows takes those of H.264 and of standard range times the sheet's factor; a class without rows falls
    back to the other class. All of it is said. `placement` must have guidance.
    """
    side = min(width, height)
    wanted = frame_rate_class(frame_rate)
    rows, factor, factor_for = _rows_and_factor(placement, codec, hdr)
    of_class = [row for row in rows if row.frame_rate_class is wanted]
    borrowed = not of_class
    used, how, low, high = _at(sorted(of_class or rows, key=lambda row: row.short_side_px), side)
    names = " and ".join(str(row.short_side_px) for row in used)
    result = {"row": f"row {names}", "only row": f"its only row, {names}", "between": f"between rows {names}"}
    other = FrameRateClass.STANDARD if wanted is FrameRateClass.HIGH else FrameRateClass.HIGH
    return GuidanceUse(
        low_bps=round(low * factor),
        high_bps=round(high * factor),
        frame_rate_class=wanted,
        short_side_px=side,
        rows=used,
        how=how,
        factor=factor,
        factor_for=factor_for,
        borrowed_class=borrowed,
        sentence=f"{mbps_text(low * factor)} to {mbps_text(high * factor)}: "
        f"{result.get(how, f'extended from rows {names}')}, {wanted} rates"
        + (f", from the {other} rates as the sheet has no {wanted} ones" if borrowed else "")
        + (f", {factor_for}" if factor_for else ""),
    )


def _rows_and_factor(placement: Placement, codec: Codec, hdr: bool) -> tuple[list[GuidanceRow], float, str]:
    """The rows that serve a codec and range, and the factor with its words where they are another's."""

    def rows(name: str, dynamic_range: str) -> list[GuidanceRow]:
        return [r for r in placement.guidance if r.codec == name and r.dynamic_range == dynamic_range]

    asked = "hdr" if hdr else "sdr"
    if result := rows(codec, asked):
        return result, 1.0, ""
    factor, words = 1.0, []
    if hdr and not any(r.dynamic_range == "hdr" for r in placement.guidance):
        asked, factor = "sdr", factor * (placement.hdr_factor or 1.0)
        words.append(
            f"× {placement.hdr_factor:g} for HDR"
            if placement.hdr_factor
            else "no figure for HDR, so that of standard range"
        )
    result = rows(codec, asked)
    if not result:
        stated = placement.guidance_factors.get(codec)
        source_codec = sorted({r.codec for r in placement.guidance}, key=lambda name: name != "h264")[0]
        result = rows(source_codec, asked) or [r for r in placement.guidance if r.codec == source_codec]
        if stated and source_codec == "h264":
            factor *= stated
            words.append(f"× {stated:g} for {CODEC_NAMES[codec]}")
        else:
            words.append(f"no figure for {CODEC_NAMES[codec]}, so that of {CODEC_NAMES[source_codec]}")
    return result, factor, ", ".join(words)


def _at(rows: list[GuidanceRow], side: int) -> tuple[tuple[GuidanceRow, ...], How, float, float]:
    """The row or rows for a short side, how they were used, and low and high in bit/s."""
    exact = next((row for row in rows if row.short_side_px == side), None)
    if exact or len(rows) == 1:
        row = exact or rows[0]
        return (row,), ("row" if exact else "only row"), float(row.low_bps), float(row.high_bps)
    if side < rows[0].short_side_px:
        ends, how = (rows[0], rows[1]), "extended"
    elif side > rows[-1].short_side_px:
        ends, how = (rows[-2], rows[-1]), "extended"
    else:
        above = next(i for i, row in enumerate(rows) if row.short_side_px > side)
        ends, how = (rows[above - 1], rows[above]), "between"
    low = _log_line(side, ends, "low_bps")
    return ends, how, low, max(low, _log_line(side, ends, "high_bps"))  # type: ignore[return-value]


def _log_line(side: int, ends: tuple[GuidanceRow, GuidanceRow], field: str) -> float:
    x0, x1 = (math.log(row.short_side_px) for row in ends)
    y0, y1 = (math.log(getattr(row, field)) for row in ends)
    return math.exp(y0 + (math.log(side) - x0) * (y1 - y0) / (x1 - x0))
