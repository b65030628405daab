"""The survival curve: condition on arrival against upload bit rate, as a forecast has it, with the marks that matter."""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from ..plan.plan import Plan
from ..trade.rate_control import RateControl
from ..values import Model
from .condition import impairment_words
from .forecast import Forecast, ViewLine
from .marks import RateMark, rate_marks
from .rehearsal import Evidence
from .screens import Screen, ViewerLine

RATE_MULTIPLES = (1.0, 0.26, 2.0, 0.5, 0.13)
"""Upload rates to rehearse as multiples of the guidance's top, where a plan stands by itself, in the order that tells most soonest.

Most lie below it: ceilings of the shipped ladders stand at a third of the guidance, so that is where curves bend.
"""
REHEARSED_BAND = 2.5
BETWEEN_BAND = 1.5
"""Bands in points of condition; see docs/accuracy.md for the measurements behind them."""
WHOLE_BAND = 2.4
"""What the scale itself may be off by, within which 85 % of the study's errors lay; all there is where the whole film was measured."""
NOT_TRIED = "not tried yet"
"""In place of a grade of impairment, which spans several where all is only supposed."""
ASSUMED_BAND = 12.0
"""Where the platform's handling is only supposed, and before anything was measured."""
FIGURE_BAND = 12.0
"""Half width in points beyond which a condition is told as a range and never as a figure."""


MEASURED = (Evidence.REHEARSED, Evidence.RETURNED)
"""Evidence that was measured with exactly a plan's settings."""


class CurvePoint(Model):
    """A point of the curve that was rehearsed, or came back."""

    bitrate_bps: int
    condition: float
    packed: float
    achieved_bps: int
    evidence: Evidence = Evidence.REHEARSED


class SurvivalCurve(Model):
    """The line for one screen and viewer's line, the rehearsed points on it, and the marks that matter.

    `line` and `packed_line` are pairs of bit/s and condition, `bands` the half widths along `line` in points, `band` the widest;
    `computed` says that the line is also drawn where nothing was rehearsed. The marks are missing where nothing was tested, or not what
    arrives of a perfect upload.
    """

    points: tuple[CurvePoint, ...]
    line: tuple[tuple[float, float], ...]
    packed_line: tuple[tuple[float, float], ...] = ()
    bands: tuple[float, ...] = ()
    band: float
    evidence: Evidence | None
    computed: bool = False
    perfect: float | None
    cannot_be_told: RateMark | None = None
    noticeable_step: RateMark | None = None


def rates_to_rehearse(high_bps: int) -> list[int]:
    """Upload rates in bit/s for a first curve, most telling first, rounded to 10 kbit/s."""
    return [max(50_000, round(high_bps * multiple / 10_000) * 10_000) for multiple in RATE_MULTIPLES]


def usual_rates(plan: Plan) -> list[int]:
    """Upload rates in bit/s for a first curve of this plan: a handful, or the only one that its codec has."""
    if plan.picture.rate_control.value is RateControl.FIXED or plan.guidance is None:
        return [plan.picture.target_bps.value]
    return rates_to_rehearse(plan.guidance.high_bps)


LOWEST_SHARE, HIGHEST_SHARE = 0.12, 2.4
"""Range of the handle, as shares of the guidance's ends: a little beyond what is rehearsed first."""
CURVE_RATES = 28


def rate_span(plan: Plan, rehearsed: Sequence[int]) -> tuple[int, int] | None:
    """The lowest and the highest rate (bit/s) of a plan's curve; None where there is none to choose."""
    if plan.video is None or plan.guidance is None or plan.copied:
        return None
    rates = [*rehearsed, plan.video.target_bps.value]
    lowest = min([*rates, round(plan.guidance.low_bps * LOWEST_SHARE / 10_000) * 10_000])
    highest = max([*rates, round(plan.guidance.high_bps * HIGHEST_SHARE / 10_000) * 10_000])
    return max(50_000, lowest), highest


def curve_rates(plan: Plan, rehearsed: Sequence[int]) -> list[int]:
    """Rates (bit/s, rising) at which a curve is computed: evenly over its span, and those that were rehearsed. A plan's own lies
    between them, so that all plans of one way share what is computed."""
    span = rate_span(plan, rehearsed)
    if span is None:
        return []
    even = np.exp(np.linspace(math.log(span[0]), math.log(span[1]), CURVE_RATES)).round(-3).astype(int).tolist()
    return sorted({span[0], span[1], *even[1:-1], *rehearsed})


def survival_curve(known: Forecast, *, screen: Screen, line: ViewerLine) -> SurvivalCurve:
    """The curve for one screen and viewer's line; one of which nothing is known has neither points nor line.

    The line runs only between the lowest and the highest rate of which something is known.
    """
    placement, ceiling = known.place(screen, line), known.ceiling(screen, line)
    nothing = SurvivalCurve(
        points=(),
        line=(),
        band=ASSUMED_BAND,
        evidence=None,
        perfect=ceiling,
    )
    if placement is None or not known.rates:
        return nothing
    view = known.views[placement]
    points = tuple(
        CurvePoint(
            bitrate_bps=rate,
            condition=view.arrived[n],
            packed=view.packed[n],
            achieved_bps=known.achieved[n],
            evidence=known.evidence[n],
        )
        for n, rate in enumerate(known.rates)
        if known.evidence[n] in MEASURED
    )
    widest = max(known.bands) + known.between_band
    gear = Evidence.REHEARSED if points else known.evidence[0]
    if Evidence.SHEET in known.evidence:  # a rehearsed point does not make the rest of the line more than supposed
        gear = Evidence.SHEET
    if len(known.rates) == 1:
        return nothing.model_copy(update={"points": points, "band": widest, "evidence": gear})
    grid, drawn, bands = known.drawn
    arrived, packed = drawn[placement]
    marks: dict[str, RateMark] = {}
    if ceiling is not None and gear is not Evidence.SHEET:
        result = rate_marks(grid, np.maximum(0, ceiling - arrived), np.array(bands))
        marks = {"cannot_be_told": result.cannot_be_told, "noticeable_step": result.noticeable_step}
    rates = np.exp(grid).tolist()
    return nothing.model_copy(
        update={  # as a copy, hundreds of computed pairs need no validating
            "points": points,
            "line": tuple(zip(rates, arrived.tolist(), strict=True)),
            "packed_line": tuple(zip(rates, packed.tolist(), strict=True)),
            "bands": bands,
            "band": widest,
            "evidence": gear,
            "computed": len(points) < len(known.rates),
            **marks,
        }
    )


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


def figure(at: ConditionAt | None) -> ConditionAt | None:
    """A condition that was tested and is sure enough to be told as a figure; None of what is only supposed from the sheet."""
    tested = at is not None and (at.evidence is not Evidence.SHEET or not at.band)
    return at if at and tested and at.band <= FIGURE_BAND else None


def likely_range(at: ConditionAt | None) -> tuple[float, float] | None:
    """Within which points a condition will probably lie that is no figure yet; None where nothing is known, or a figure is."""
    if at is None or figure(at):
        return None
    return max(0.0, round(at.condition - at.band)), min(100.0, round(at.condition + at.band))


def under_assumption(at: ConditionAt | None, assumed: str | None) -> ConditionAt | None:
    """The same, marked and with the widest band, where the platform's handling is only supposed."""
    if at is None or assumed is None:
        return at
    return at.model_copy(update={"assumed": assumed, "band": max(at.band, ASSUMED_BAND)})


def condition_at(bitrate_bps: int, known: Forecast, *, screen: Screen, line: ViewerLine) -> ConditionAt | None:
    """Condition at `bitrate_bps` read off a forecast; None when it lies outside what is known."""
    placement = known.place(screen, line)
    if placement is None or not known.rates or not 0.98 * known.rates[0] <= bitrate_bps <= 1.02 * known.rates[-1]:
        return None
    at, x = math.log(bitrate_bps), known.lines.x
    nearest = int(np.argmin(np.abs(x - at)))
    exact = abs(known.rates[nearest] - bitrate_bps) <= 0.005 * bitrate_bps
    arrived, packed = known.read(bitrate_bps)[placement]
    band = known.bands[nearest] if exact else float(np.interp(at, x, known.bands)) + known.between_band
    rehearsed = exact or known.between_band > 0
    return _condition(
        known.views[placement],
        packed,
        arrived,
        band=round(band, 2),
        evidence=known.evidence[nearest] if rehearsed else known.between,
    )


def condition_as_it_is(known: Forecast, *, screen: Screen, line: ViewerLine) -> ConditionAt | None:
    """Condition of a master that is sent without encoding: what a perfect upload arrives as; None until that is known."""
    view, top = known.view(screen, line), known.ceiling(screen, line)
    if view is None or top is None:
        return None
    return _condition(view, view.scaled, top, band=known.perfect_band, evidence=known.perfect_evidence)


def untouched() -> ConditionAt:
    """Condition of the master itself where nobody encodes it again: all of it, which needs no measuring."""
    return ConditionAt(
        condition=100.0,
        words=impairment_words(100),
        lost_scaling=0.0,
        lost_packing=0.0,
        lost_platform=0.0,
        rendition=None,
        evidence=Evidence.SHEET,
        band=0.0,
    )


def _condition(view: ViewLine, packed: float, arrived: float, *, band: float, evidence: Evidence) -> ConditionAt:
    packed = min(packed, view.scaled)
    arrived = min(arrived, packed)
    words = NOT_TRIED if evidence is Evidence.SHEET else impairment_words(round(arrived))
    return ConditionAt(
        condition=round(arrived, 1),
        words=words,
        lost_scaling=round(100 - view.scaled, 1),
        lost_packing=round(view.scaled - packed, 1),
        lost_platform=round(packed - arrived, 1),
        rendition=view.rendition,
        evidence=evidence,
        band=band,
    )
