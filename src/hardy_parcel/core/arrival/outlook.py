"""One forecast out of all that is known of a parcel's way: what was rehearsed, and what is computed from probes between it.

A rehearsed point is measured with exactly its settings, so the probed curve is drawn through it and shifted beside it: by the whole
difference there, by less the farther away a rate lies, and its band is as narrow there as a rehearsal's.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from .curve import BETWEEN_BAND, REHEARSED_BAND, WHOLE_BAND
from .forecast import Forecast, ViewLine
from .monotone import rising
from .rehearsal import Evidence, PerfectUpload, Rehearsal, Station, find
from .screens import Screen, ViewerLine

PERFECT_OCTAVES = 1.5
"""How far above the highest rate of a curve a perfect upload is taken to lie."""
FADES_OCTAVES = 2.0
"""Beyond the rehearsed rates their difference from the probed curve falls to a third over so many octaves."""
WIDENS_OCTAVES = 1.0
"""So far from a rehearsed rate a band is as wide as it is without any."""


def outlook(rehearsals: Sequence[Rehearsal], perfect: PerfectUpload | None, probed: Forecast | None = None) -> Forecast:
    """What is known of a curve. `probed` must have the rehearsed rates among its own; without it nothing lies between them."""
    measured = _rehearsed(sorted(rehearsals, key=lambda item: item.target_bps), perfect)
    if probed is None:
        return measured
    return _anchored(probed, measured) if measured.rates or measured.perfect else probed


@dataclass(frozen=True, slots=True, kw_only=True)
class Anchor:
    """What a file shows that a platform served of an upload at one rate (bit/s): condition by screen, on a good line."""

    target_bps: int
    conditions: tuple[tuple[Screen, float], ...]


def moved_to(forecast: Forecast, anchors: Sequence[Anchor]) -> Forecast:
    """A forecast drawn through what was brought back: its curves are moved there by the whole difference, and by less the farther away.

    The bands stay as they are: a file that was brought back is measured on some windows and for some screens only. Rates that are not
    among the forecast's own are passed over.
    """
    placed = [item for item in anchors if item.target_bps in forecast.rates]
    if not placed:
        return forecast
    octaves = np.log2(np.array(forecast.rates, float))
    views = []
    for view in forecast.views:
        seen = {
            forecast.rates.index(item.target_bps): dict(item.conditions)[view.screen]
            for item in placed
            if view.line is ViewerLine.GOOD and view.screen in dict(item.conditions)
        }
        if seen:
            at = np.array([octaves[placement] for placement in seen])
            arrived = _shifted(
                octaves, view.arrived, at, [value - view.arrived[placement] for placement, value in seen.items()], None
            )
            view = view.model_copy(
                update={"arrived": tuple(min(a, p) for a, p in zip(arrived, view.packed, strict=True))}
            )
        views.append(view)
    return forecast.model_copy(update={"views": tuple(views)})


def _rehearsed(rehearsals: Sequence[Rehearsal], perfect: PerfectUpload | None) -> Forecast:
    views, tops = [], []
    bands = tuple(WHOLE_BAND if item.whole else REHEARSED_BAND for item in rehearsals)
    certainty = [1 / band**2 for band in bands]  # small falls are measuring noise, since more bits never arrive worse
    for screen in Screen:
        for line in ViewerLine:
            stations = [[find(item.arrivals, station, screen, line) for item in rehearsals] for station in Station]
            scaled, packed, arrived = ([item for item in result if item] for result in stations)
            top = find(perfect.arrivals, Station.ARRIVED, screen, line) if perfect else None
            before = find(perfect.arrivals, Station.SCALED, screen, line) if perfect else None
            if len(arrived) < len(rehearsals) or (perfect and not top) or not (rehearsals or perfect):
                continue
            start = scaled[0].condition if scaled else before.condition if before else 100.0
            served = arrived[-1].rendition if arrived else top.rendition if top else None
            views.append(
                ViewLine(
                    screen=screen,
                    line=line,
                    rendition=served,
                    scaled=start,
                    packed=rising([min(start, item.condition) for item in packed], certainty),
                    packed_db=tuple(item.xpsnr_db for item in packed),
                    arrived=rising([item.condition for item in arrived], certainty),
                    arrived_db=tuple(item.xpsnr_db for item in arrived),
                )
            )
            if top:
                tops.append(top.condition)
    return Forecast(
        rates=tuple(item.target_bps for item in rehearsals),
        achieved=tuple(item.achieved_bps for item in rehearsals),
        evidence=tuple(item.evidence for item in rehearsals),
        bands=bands,
        between_band=BETWEEN_BAND,
        views=tuple(views),
        perfect=tuple(tops) if len(tops) == len(views) else (),
        perfect_evidence=perfect.evidence if perfect else Evidence.REHEARSED,
        perfect_band=WHOLE_BAND if perfect and perfect.whole else REHEARSED_BAND,
    )


def _anchored(probed: Forecast, measured: Forecast) -> Forecast:
    octaves = np.log2(np.array(probed.rates, float)) if probed.rates else np.zeros(0)
    anchors = np.log2(np.array(measured.rates, float)) if measured.rates else np.zeros(0)
    places = [probed.rates.index(rate) for rate in measured.rates]
    views = []
    for view in probed.views:
        true = measured.view(view.screen, view.line)
        ceiling, top = measured.ceiling(view.screen, view.line), probed.ceiling(view.screen, view.line)
        if true is None:
            views.append(view)
            continue
        at_perfect = ceiling - top if ceiling is not None and top is not None else None
        arrived = _shifted(
            octaves,
            view.arrived,
            anchors,
            [true.arrived[n] - view.arrived[i] for n, i in enumerate(places)],
            at_perfect,
        )
        packed = _shifted(
            octaves, view.packed, anchors, [true.packed[n] - view.packed[i] for n, i in enumerate(places)], None
        )
        decibels = {
            name: _shifted(octaves, computed, anchors, [seen[n] - computed[i] for n, i in enumerate(places)], None)
            for name, computed, seen in (
                ("packed_db", view.packed_db, true.packed_db),
                ("arrived_db", view.arrived_db, true.arrived_db),
            )
        }
        views.append(
            view.model_copy(
                update={
                    "packed": packed,
                    "arrived": tuple(min(a, p) for a, p in zip(arrived, packed, strict=True)),
                    "scaled": true.scaled,
                    **decibels,
                }
            )
        )
    evidence_by_rate = dict(zip(measured.rates, measured.evidence, strict=True))
    near = [min((abs(octave - anchor) for anchor in anchors), default=np.inf) for octave in octaves]
    bands = []
    for number, rate in enumerate(probed.rates):
        least = measured.bands[measured.rates.index(rate)] if rate in evidence_by_rate else REHEARSED_BAND
        bands.append(
            round(float(least + max(0.0, probed.bands[number] - least) * min(1.0, near[number] / WIDENS_OCTAVES)), 2)
        )
    shares = [measured.achieved[n] / max(1, probed.achieved[i]) for n, i in enumerate(places)]
    achieved = np.array(probed.achieved) * np.interp(octaves, anchors, shares) if shares else np.array(probed.achieved)
    return probed.model_copy(
        update={
            "views": tuple(views),
            "bands": tuple(bands),
            "achieved": tuple(round(float(bps)) for bps in achieved),
            "evidence": tuple(evidence_by_rate.get(rate, probed.evidence[0]) for rate in probed.rates),
            "perfect": tuple(
                probed.perfect[n] if (ceiling := measured.ceiling(view.screen, view.line)) is None else ceiling
                for n, view in enumerate(probed.views)
            ),
            "perfect_evidence": measured.perfect_evidence if measured.perfect else probed.perfect_evidence,
            "perfect_band": measured.perfect_band if measured.perfect else probed.perfect_band,
        }
    )


def _shifted(
    octaves: np.ndarray, values: Sequence[float], anchors: np.ndarray, off: Sequence[float], at_perfect: float | None
) -> tuple[float, ...]:
    """Values moved by what was off at the anchors, and at a perfect upload far above where that is known; never falling."""
    at, by = list(anchors), list(off)
    if at_perfect is not None and len(octaves):
        at.append(float(octaves[-1]) + PERFECT_OCTAVES)
        by.append(at_perfect)
    if not at or not len(octaves):
        return tuple(values)
    moved = np.interp(octaves, at, by)
    faded = np.exp(-np.maximum(0, at[0] - octaves) / FADES_OCTAVES) * np.exp(
        -np.maximum(0, octaves - at[-1]) / FADES_OCTAVES
    )
    result = np.array(values) + moved * faded
    # what was measured stands, and bounds what lies on either side
    for anchor, difference in zip(anchors, off, strict=True):
        placement = int(np.argmin(np.abs(octaves - anchor)))
        true = values[placement] + difference
        result[:placement], result[placement:] = (
            np.minimum(result[:placement], true),
            np.maximum(result[placement:], true),
        )
        result[placement] = true
    return tuple(np.clip(np.maximum.accumulate(result), 0, 100).round(3).tolist())
