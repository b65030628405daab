"""A lane's survival curve as points of an SVG drawing."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass

from ..core.arrival.curve import SurvivalCurve
from ..core.arrival.rehearsal import Evidence

WIDTH, HEIGHT, LEFT, RIGHT, TOP, BOTTOM = 460, 200, 34, 10, 12, 26
"""Of the drawing and of the margins around the curve, in px."""
STEPS = (5, 10, 20, 25, 50)


@dataclass(frozen=True, slots=True, kw_only=True)
class Mark:
    """A place on an axis and what stands there."""

    at: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class DrawnMark:
    """A mark of the curve as a span along it; where it is open it ends with the drawing."""

    low: float
    high: float
    words: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Drawing:
    """A curve in px: points of the line and of its band, the guidance's edges, marks, and where the plan stands."""

    line: str
    band: str
    guidance: tuple[float, float] | None
    marks: tuple[DrawnMark, ...]
    here: tuple[float, float] | None
    rates: tuple[Mark, ...]
    conditions: tuple[Mark, ...]
    top: float


def drawn(
    curve: SurvivalCurve, *, target_bps: int | None, condition: float | None, guidance_bps: tuple[int, int] | None
) -> Drawing | None:
    """The curve of one lane; None where nothing was tested between two rates. `condition` is what arrives at the target."""
    if len(curve.line) < 2 or curve.evidence is Evidence.SHEET:
        return None
    rates = [bps for bps, _ in curve.line]
    bands = curve.bands or (curve.band,) * len(curve.line)
    low = max(0.0, min(value - band for (_, value), band in zip(curve.line, bands, strict=True)))
    least = math.floor(low / 10) * 10 if low < 95 else 90

    def x(bps: float) -> float:
        share = math.log(bps / rates[0]) / math.log(rates[-1] / rates[0])
        return round(LEFT + min(1.0, max(0.0, share)) * (WIDTH - LEFT - RIGHT), 1)

    def y(value: float) -> float:
        return round(TOP + (100 - min(100.0, max(float(least), value))) / (100 - least) * (HEIGHT - TOP - BOTTOM), 1)

    above = [(x(bps), y(value + band)) for (bps, value), band in zip(curve.line, bands, strict=True)]
    below = [(x(bps), y(value - band)) for (bps, value), band in zip(curve.line, bands, strict=True)]
    step = next(one for one in STEPS if (100 - least) / one <= 5)
    return Drawing(
        line=_points([(x(bps), y(value)) for bps, value in curve.line]), band=_points([*above, *reversed(below)]),
        guidance=(x(guidance_bps[0]), x(guidance_bps[1])) if guidance_bps else None,
        marks=tuple(_marked(curve, x)),
        here=(x(target_bps), y(condition)) if target_bps and condition is not None else None,
        rates=tuple(Mark(at=x(bps), words=_mbps(bps)) for bps in _round_rates(rates[0], rates[-1])),
        conditions=tuple(Mark(at=y(value), words=str(value)) for value in range(least, 101, step)), top=y(100),
    )


def _marked(curve: SurvivalCurve, x: Callable[[float], float]) -> Iterator[DrawnMark]:
    rates = [bps for bps, _ in curve.line]
    for mark, words in ((curve.noticeable_step, "noticeable step"), (curve.cannot_be_told, "can’t be told")):
        if mark:
            yield DrawnMark(low=x(mark.low_bps or rates[0]), high=x(mark.high_bps or rates[-1]), words=words)


def _points(pairs: list[tuple[float, float]]) -> str:
    return " ".join(f"{a},{b}" for a, b in pairs)


def _mbps(bps: float) -> str:
    return f"{bps / 1e6:.3g}"


def _round_rates(low: float, high: float) -> list[float]:
    """Rates that are easily read, at most six."""
    found = [one * 10**power for power in range(4, 9) for one in (1, 2, 5) if low <= one * 10**power <= high]
    return found[:: max(1, math.ceil(len(found) / 6))]
