"""What an upload is worth once its platform encodes it again more gently: later re-encodes are made of what was sent today."""

from __future__ import annotations

from ..arrival.curve import condition_at, survival_curve
from ..arrival.forecast import Forecast
from ..arrival.screens import Screen, ViewerLine
from ..plan.plan import Plan
from ..values import Model, mbps_text

LIKE, RATES_APART = 1.0, 1.1
"""Points, and a ratio of rates, below which nothing is said of a difference."""


class Reserve(Model):
    """One screen on one line, now and with a handling one step gentler: condition of this upload, and the rate (bit/s) from which on it is
    surely not visibly worse than a perfect upload, None where no rate on the curve is."""

    screen: Screen
    line: ViewerLine
    now: float
    later: float
    as_good_bps: int | None
    as_good_later_bps: int | None
    sentence: str


def reserves(plan: Plan, known: Forecast, later: Forecast) -> tuple[Reserve, ...]:
    """What a kinder ladder would make of a planned upload, on every screen and line of which both are known."""
    if plan.video is None or plan.guidance is None:
        return ()
    rate, found = plan.video.target_bps.value, []
    for screen in Screen:
        for line in ViewerLine:
            ats = [condition_at(rate, forecast, screen=screen, line=line) for forecast in (known, later)]
            if ats[0] is None or ats[1] is None:
                continue
            marks = [survival_curve(forecast, screen=screen, line=line).noticeable_step for forecast in (known, later)]
            rates = [mark.high_bps if mark else None for mark in marks]
            now, then = ats[0].condition, ats[1].condition
            found.append(
                Reserve(
                    screen=screen,
                    line=line,
                    now=now,
                    later=then,
                    as_good_bps=rates[0],
                    as_good_later_bps=rates[1],
                    sentence=_sentence(now, then, rate, rates[0], rates[1]),
                )
            )
    return tuple(found)


def _sentence(now: float, later: float, rate: int, as_good: int | None, as_good_later: int | None) -> str:
    gain = later - now
    if gain >= LIKE:
        told = f"Encoded a step more gently one day, what you send today would look {later:.0f} instead of {now:.0f}."
    else:
        told = "Encoded a step more gently one day, what you send today would look no better."
    if as_good_later is None:
        return f"{told} No rate here would surely look as good as a perfect upload then."
    if as_good_later <= rate * RATES_APART:
        return f"{told} Your {mbps_text(rate)} would look as good as a perfect upload then too."
    was = f" instead of {mbps_text(as_good)}" if as_good and as_good_later > as_good * RATES_APART else ""
    return f"{told} To look as good as a perfect upload then, it takes {mbps_text(as_good_later)}{was}."
