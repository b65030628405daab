"""Interlacing, measured: the fields of moving pictures tell whether they were taken at different times."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from ..facts import Scan
from .evidence import Window

ASYMMETRY, POOLED = 0.075, 0.08
"""(bottom_later − top_later) ÷ their sum: at most 0.04 on progressive films, fine patterns included (0.07 on coarsely
coded slow ones), 0.09 to 0.5 on interlaced ones, less the coarser they are coded (on the films of `make detectors`)."""
WITHIN = 0.33
MOVING = 0.003
AGREEING = Fraction(2, 3)


@dataclass(frozen=True, slots=True, kw_only=True)
class MeasuredScan:
    """What the fields say: UNKNOWN when nothing moved enough to tell. `at_s` is the clearest place."""

    scan: Scan
    windows: int
    agreeing: int
    at_s: float


def measured_scan(windows: tuple[Window, ...]) -> MeasuredScan:
    """Progressive or interlaced, over all windows in which something moves."""
    votes: list[tuple[Scan, float, float]] = []
    for window in windows:
        fields = window.fields
        together = fields.top_later + fields.bottom_later
        if fields.moving < MOVING or together <= 0:
            continue
        lean = (fields.bottom_later - fields.top_later) / together
        nearer = min(fields.top_later, fields.bottom_later)
        combed = abs(lean) > ASYMMETRY and fields.within > WITHIN * nearer
        scan = Scan.PROGRESSIVE if not combed else Scan.TOP_FIRST if lean > 0 else Scan.BOTTOM_FIRST
        votes.append((scan, abs(lean) * fields.moving, window.at_s[0]))
    if not votes:
        return MeasuredScan(scan=Scan.UNKNOWN, windows=0, agreeing=0, at_s=0.0)
    found = Scan.PROGRESSIVE
    top = sum(window.fields.top_later for window in windows)
    bottom = sum(window.fields.bottom_later for window in windows)
    if abs(bottom - top) < POOLED * (bottom + top):
        return MeasuredScan(scan=found, windows=len(votes), agreeing=sum(v[0] is found for v in votes), at_s=votes[0][2])
    for scan in (Scan.TOP_FIRST, Scan.BOTTOM_FIRST):
        count = sum(vote[0] is scan for vote in votes)
        if Fraction(count, len(votes)) >= AGREEING and (len(votes) > 1 or count):
            found = scan
    agreeing = [vote for vote in votes if vote[0] is found]
    clearest = max(agreeing or votes, key=lambda vote: vote[1])
    return MeasuredScan(scan=found, windows=len(votes), agreeing=len(agreeing), at_s=clearest[2])
