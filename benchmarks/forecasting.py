"""Forecasts once everything is known, against their bars.  python -m benchmarks.forecasting

With probes in hand: 6 destinations × 3 shapes × 3 codecs × 60 bit rates in 50 ms. Supposed from the sheet: 24 lanes in 100 ms.
The probes have the form that ours have, with made-up figures, since what they say costs no time.
"""

from __future__ import annotations

import itertools
import statistics
import sys
import time
from collections.abc import Callable
from fractions import Fraction

from hardy_parcel.core.arrival.curve import curve_rates
from hardy_parcel.core.arrival.forecast import Probes, probed_forecast
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.prior import sheet_forecast, sheet_probes
from hardy_parcel.core.master.checks.evidence import Difficulty
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.catalogue import destination

from .planning import MASTER

PLACES = ("orrery-wide", "sprigg-upright", "kitewall-square", "kitewall-wide", "fernpost-reel", "handover-client")
SHAPES = (Fraction(16, 9), Fraction(9, 16), Fraction(1))
RATES, RATES_BAR_S, LANES, LANES_BAR_S = 60, 0.050, 24, 0.100
SEEN = tuple(Difficulty(at_s=n, spatial=20 + n % 40, temporal=1 + n % 13, grain=0.5 + n % 3) for n in range(600))


def journeys(places: tuple[str, ...], codecs: tuple[str, ...]) -> list[Journey]:
    found = []
    for name in places:
        place = destination(name)
        for shape in SHAPES:
            for codec in codecs:
                placement = place.placement.model_copy(update={"codecs": codecs, "narrowest": min(SHAPES), "widest": max(SHAPES)})
                free = place.model_copy(update={"placement": placement})
                found.append(Journey(make_plan(MASTER, free, Choices(method="encoded", shape=shape, codec=codec)), free))
    return found


def middle(act: Callable[[], object], times: int = 9) -> float:
    """Seconds, the median of several runs after one that is not counted."""
    act()
    taken = []
    for _ in range(times):
        began = time.perf_counter()
        act()
        taken.append(time.perf_counter() - began)
    return statistics.median(taken)


def main(*, small: bool = False) -> None:
    every = journeys(PLACES[:1] if small else PLACES, ("h264", "hevc", "vp9"))
    known: list[tuple[Journey, Probes, list[int]]] = []
    for journey in every:
        high = journey.plan.guidance.high_bps
        known.append((journey, sheet_probes(journey, SEEN), [round(high * 0.12 * 1.05**n) for n in range(5 if small else RATES)]))

    def all_probed() -> None:
        for journey, probes, rates in known:
            probed_forecast(journey, probes, rates)

    def all_supposed() -> None:
        seen = SEEN[next(run) :]  # another film each time, or the models of the last run would serve
        for journey in lanes:
            sheet_forecast(journey, seen, curve_rates(journey.plan, []))

    run = itertools.count()
    lanes = [Journey(one.plan, one.destination) for one in every[:LANES]]
    times = 1 if small else 9
    probed, supposed = middle(all_probed, times), middle(all_supposed, times)
    print(f"{len(known)} ways × {RATES} rates with probes in hand: {probed * 1e3:.0f} ms, {probed / RATES_BAR_S:.2f} of the bar")
    print(f"{LANES} lanes supposed from sheet and checks: {supposed * 1e3:.0f} ms, {supposed / LANES_BAR_S:.2f} of the bar")


if __name__ == "__main__":
    main(small="--small" in sys.argv)
