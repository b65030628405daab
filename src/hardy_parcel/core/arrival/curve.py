"""The survival curve: condition on arrival against upload bit rate, from rehearsals at a few rates."""

from __future__ import annotations

import math

import numpy as np

from ..plan.plan import Plan
from ..trade.rate_control import RateControl
from ..values import Model
from .condition import impairment_words
from .rehearsal import Evidence, PerfectUpload, Rehearsal, Station, find
from .screens import Screen, ViewerLine

RATE_MULTIPLES = (1.0, 0.26, 2.0, 0.5, 0.13)
"""Upload rates to rehearse as multiples of the guidance's top, where a plan stands by itself, in the order that tells most soonest.

Most lie below it: ceilings of the shipped ladders stand at a third of the guidance, so that is where curves bend.
"""
ENOUGH_WITHIN = 1.0
REHEARSED_BAND = 3.0
BETWEEN_BAND = 2.5
"""Bands in points of condition; see docs/accuracy.md for the measurements behind them."""
WHOLE_BAND = 2.4
"""What the scale itself may be off by, within which 85 % of the study's errors lay; all there is where the whole film was measured."""
ASSUMED_BAND = 12.0
"""Where the platform's handling is only supposed, and before anything was measured."""


class CurvePoint(Model):
    bitrate_bps: int
    condition: float
    packed: float
    achieved_bps: int


class SurvivalCurve(Model):
    """Rehearsed points, the line through them with its band, and the marks that matter, for one screen and line."""

    points: tuple[CurvePoint, ...]
    line: tuple[tuple[float, float], ...]
    band: float
    perfect: float | None
    enough_bps: int | None
    enough_low_bps: int | None
    enough_high_bps: int | None
    enough_beyond: bool
    guidance_side: str | None


def rates_to_rehearse(high_bps: int) -> list[int]:
    """Upload rates in bit/s for a first curve, most telling first, rounded to 10 kbit/s."""
    return [max(50_000, round(high_bps * multiple / 10_000) * 10_000) for multiple in RATE_MULTIPLES]


def usual_rates(plan: Plan) -> list[int]:
    """Upload rates in bit/s for a first curve of this plan: a handful, or the only one that its codec has."""
    if plan.picture.rate_control.value is RateControl.FIXED or plan.guidance is None:
        return [plan.picture.target_bps.value]
    return rates_to_rehearse(plan.guidance.high_bps)


def monotone_line(x: np.ndarray, y: np.ndarray, at: np.ndarray) -> np.ndarray:
    """Monotone cubic through (x, y), x rising, after Fritsch & Carlson (1980); clamped to the ends."""
    if len(x) == 1:
        return np.full_like(at, y[0], dtype=float)
    steps, slopes = np.diff(x), np.diff(y) / np.diff(x)
    tangents = np.concatenate(([slopes[0]], (slopes[:-1] + slopes[1:]) / 2, [slopes[-1]]))
    for i, slope in enumerate(slopes):
        if abs(slope) < 1e-9:
            tangents[i] = tangents[i + 1] = 0
            continue
        a, b = tangents[i] / slope, tangents[i + 1] / slope
        if a < 0 or b < 0:
            tangents[i] = 0 if a < 0 else tangents[i]
            tangents[i + 1] = 0 if b < 0 else tangents[i + 1]
            continue
        reach = math.hypot(a, b)
        if reach > 3:
            tangents[i], tangents[i + 1] = 3 / reach * a * slope, 3 / reach * b * slope
    at = np.clip(at, x[0], x[-1])
    k = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(steps) - 1)
    h, t = steps[k], (at - x[k]) / steps[k]
    return (
        y[k] * (1 + 2 * t) * (1 - t) ** 2
        + tangents[k] * h * t * (1 - t) ** 2
        + y[k + 1] * t**2 * (3 - 2 * t)
        + tangents[k + 1] * h * t**2 * (t - 1)
    )


def survival_curve(
    rehearsals: list[Rehearsal],
    perfect: PerfectUpload | None,
    *,
    screen: Screen,
    line: ViewerLine,
    guidance_low_bps: int,
    guidance_high_bps: int,
    samples: int = 60,
) -> SurvivalCurve:
    """The curve for one screen and viewer's line. No rehearsals give a curve without points or line.

    The line runs only between the lowest and the highest rehearsed rate: nothing is drawn that was not measured
    on both sides. Small falls within measuring noise are levelled, since more bits never arrive worse.
    """
    points = _points(rehearsals, screen, line)
    top = find(perfect.arrivals, Station.ARRIVED, screen, line) if perfect else None
    ceiling = top.condition if top else None
    band = band_for(rehearsals, between=True)
    if not points:
        return SurvivalCurve(
            points=(), line=(), band=band, perfect=ceiling, enough_bps=None, enough_low_bps=None,
            enough_high_bps=None, enough_beyond=False, guidance_side=None,
        )
    x = np.log([p.bitrate_bps for p in points])
    y = np.maximum.accumulate([p.condition for p in points])
    grid = np.linspace(x[0], x[-1], samples) if len(points) > 1 else x
    values = monotone_line(x, y, grid)
    drawn = tuple((float(math.exp(gx)), float(gy)) for gx, gy in zip(grid, values, strict=True)) if len(points) > 1 else ()
    enough = low = high = None
    beyond = False
    if ceiling is not None and len(points) > 1:
        enough, low, high = (_reaches(grid, values, ceiling - ENOUGH_WITHIN + shift) for shift in (0.0, -0.7, 0.7))
        beyond = enough is None
    side = None
    if enough:
        side = "left" if guidance_high_bps < enough else "right" if guidance_low_bps > enough else "around"
    elif beyond:
        side = "left"
    return SurvivalCurve(
        points=tuple(points), line=drawn, band=band, perfect=ceiling, enough_bps=enough, enough_low_bps=low,
        enough_high_bps=high, enough_beyond=beyond, guidance_side=side,
    )


def _points(rehearsals: list[Rehearsal], screen: Screen, line: ViewerLine) -> list[CurvePoint]:
    points = []
    for rehearsal in sorted(rehearsals, key=lambda r: r.target_bps):
        arrived = find(rehearsal.arrivals, Station.ARRIVED, screen, line)
        packed = find(rehearsal.arrivals, Station.PACKED, screen, line)
        if arrived and packed:
            points.append(CurvePoint(
                bitrate_bps=rehearsal.target_bps, condition=arrived.condition, packed=packed.condition,
                achieved_bps=rehearsal.achieved_bps,
            ))
    return points


def _reaches(grid: np.ndarray, values: np.ndarray, wanted: float) -> int | None:
    """Lowest rate in bit/s at which the line is at `wanted` or above; None if it never is."""
    above = np.nonzero(values >= wanted)[0]
    if not len(above):
        return None
    i = int(above[0])
    if i == 0:
        return round(math.exp(grid[0]))
    share = (wanted - values[i - 1]) / (values[i] - values[i - 1])
    return round(math.exp(grid[i - 1] + share * (grid[i] - grid[i - 1])))


def band_for(rehearsals: list[Rehearsal], *, between: bool) -> float:
    """Half width in points that holds a whole-film measurement: narrower when the whole film was used."""
    if not rehearsals:
        return ASSUMED_BAND
    base = WHOLE_BAND if all(r.whole for r in rehearsals) else REHEARSED_BAND
    return base + BETWEEN_BAND if between else base


class ConditionAt(Model):
    """Condition at one upload rate with where it was lost, in points, and its evidence."""

    condition: float
    words: str
    lost_scaling: float
    lost_packing: float
    lost_platform: float
    rendition: str | None
    evidence: Evidence
    band: float
    assumed: str | None = None


def under_assumption(at: ConditionAt | None, assumed: str | None) -> ConditionAt | None:
    """The same, marked and with the widest band, where the platform's handling is only supposed."""
    if at is None or assumed is None:
        return at
    return at.model_copy(update={"assumed": assumed, "band": max(at.band, ASSUMED_BAND)})


def condition_at(
    bitrate_bps: int, rehearsals: list[Rehearsal], *, screen: Screen, line: ViewerLine
) -> ConditionAt | None:
    """Condition at `bitrate_bps` read off the rehearsals; None when it lies outside what was rehearsed."""
    ordered = sorted(rehearsals, key=lambda r: r.target_bps)
    if not ordered or not 0.98 * ordered[0].target_bps <= bitrate_bps <= 1.02 * ordered[-1].target_bps:
        return None
    x = np.log([r.target_bps for r in ordered])
    at = np.array([math.log(bitrate_bps)])

    def read(station: Station) -> float:
        values = [found.condition for r in ordered if (found := find(r.arrivals, station, screen, line))]
        return float(monotone_line(x, np.maximum.accumulate(values), at)[0])

    scaled, packed, arrived = read(Station.SCALED), read(Station.PACKED), read(Station.ARRIVED)
    packed = min(packed, scaled)
    arrived = min(arrived, packed)
    exact = any(abs(r.target_bps - bitrate_bps) <= 0.005 * bitrate_bps for r in ordered)
    nearest = min(ordered, key=lambda r: abs(math.log(r.target_bps) - at[0]))
    served = find(nearest.arrivals, Station.ARRIVED, screen, line)
    return ConditionAt(
        condition=round(arrived, 1),
        words=impairment_words(round(arrived)),
        lost_scaling=round(100 - scaled, 1),
        lost_packing=round(scaled - packed, 1),
        lost_platform=round(packed - arrived, 1),
        rendition=served.rendition if served else None,
        evidence=Evidence.REHEARSED,
        band=band_for(ordered, between=not exact),
    )


def condition_as_it_is(perfect: PerfectUpload | None, *, screen: Screen, line: ViewerLine) -> ConditionAt | None:
    """Condition of a master that is sent without encoding: what a perfect upload arrives as; None until that is known."""
    arrived = find(perfect.arrivals, Station.ARRIVED, screen, line) if perfect else None
    scaled = find(perfect.arrivals, Station.SCALED, screen, line) if perfect else None
    if perfect is None or arrived is None or scaled is None:
        return None
    condition = min(arrived.condition, scaled.condition)
    return ConditionAt(
        condition=round(condition, 1), words=impairment_words(round(condition)), lost_scaling=round(100 - scaled.condition, 1),
        lost_packing=0.0, lost_platform=round(scaled.condition - condition, 1), rendition=arrived.rendition,
        evidence=Evidence.REHEARSED, band=WHOLE_BAND if perfect.whole else REHEARSED_BAND,
    )


def achieved_share(bitrate_bps: int, rehearsals: list[Rehearsal]) -> float:
    """Achieved ÷ asked video rate at this rate, read off the nearest rehearsals; 1 when there are none."""
    if not rehearsals:
        return 1.0
    ordered = sorted(rehearsals, key=lambda r: r.target_bps)
    x = np.log([r.target_bps for r in ordered])
    shares = [r.achieved_bps / r.target_bps for r in ordered]
    return float(np.interp(math.log(bitrate_bps), x, shares))
