"""Which moments of a film suffer most, and how condition goes along with it, at one upload rate on a laptop with a good line."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..values import Model, Ratio
from .forecast import Probes, window_conditions
from .journey import Journey
from .rehearsal import Evidence, Rehearsal
from .windows import Reel

MOST_SUFFERERS, PARTS_APART = 5, 12
NEAR = math.log(1.3)
"""A rehearsal so near to a rate (as a logarithm) shows it better than a computation does."""


class Sufferer(Model):
    """A moment that arrives worse than others: its time in the master (s) and its condition on arrival.

    `reel_index` is its picture in the reel of the rehearsal at `target_bps` (bit/s), whose pictures have `pictures_key`; None where
    it was only probed, or came back.
    """

    target_bps: int
    reel_index: int | None
    master_s: Ratio
    condition: float
    pictures_key: str = ""


class MomentArrived(Model):
    """Condition on arrival at one time of the master (s)."""

    master_s: Ratio
    condition: float


class OverTime(Model):
    """Condition along a film at an upload rate (bit/s), in film order, and the moments that suffer most."""

    target_bps: int
    evidence: Evidence
    moments: tuple[MomentArrived, ...]
    suffers: tuple[Sufferer, ...]


@dataclass(frozen=True, slots=True, kw_only=True)
class ProbedReel:
    """Probes and the reel that they were made on."""

    probes: Probes
    reel: Reel


def nearest_rehearsal(target_bps: int, rehearsals: Sequence[Rehearsal]) -> Rehearsal | None:
    """The rehearsal whose rate is nearest to this one by ratio; None without any."""
    return min(rehearsals, key=lambda r: abs(math.log(r.target_bps / target_bps)), default=None)


def over_time(
    target_bps: int, rehearsals: Sequence[Rehearsal], journey: Journey, probed: ProbedReel | None
) -> OverTime | None:
    """What is known of the film's moments at an upload rate (bit/s): of a rehearsal near it, else computed from probes, else of the
    nearest rehearsal; None where nothing was tried."""
    nearest = nearest_rehearsal(target_bps, rehearsals)
    found = _rehearsed(nearest) if nearest and nearest.moments else None
    if found and (probed is None or abs(math.log(found.target_bps / target_bps)) <= NEAR):
        return found
    return _probed(target_bps, journey, probed) if probed else None


def _rehearsed(rehearsal: Rehearsal) -> OverTime:
    return OverTime(
        target_bps=rehearsal.target_bps,
        evidence=rehearsal.evidence,
        suffers=suffers_most(rehearsal),
        moments=tuple(MomentArrived(master_s=m.master_s, condition=round(m.arrived, 1)) for m in rehearsal.moments),
    )


def _probed(target_bps: int, journey: Journey, probed: ProbedReel) -> OverTime:
    windows = [part for part in probed.reel.segments if part.measure_from_s < part.end_s]
    told = window_conditions(journey, probed.probes, target_bps)
    moments = tuple(
        MomentArrived(master_s=(window.measure_from_s + window.end_s) / 2, condition=round(condition, 1))
        for window, condition in zip(windows, told, strict=False)
    )
    suffers = _worst(
        [
            Sufferer(target_bps=target_bps, reel_index=None, master_s=one.master_s, condition=one.condition)
            for one in moments
        ],
        MOST_SUFFERERS,
    )
    return OverTime(target_bps=target_bps, evidence=Evidence.PROBED, moments=moments, suffers=suffers)


def suffers_most(rehearsal: Rehearsal, *, count: int = MOST_SUFFERERS) -> tuple[Sufferer, ...]:
    """The worst measured moments on a laptop, in film order, apart by at least a twelfth of the measured span."""
    back = rehearsal.evidence is Evidence.RETURNED  # what came back is no reel
    return _worst(
        [
            Sufferer(
                target_bps=rehearsal.target_bps,
                reel_index=None if back else m.reel_index,
                master_s=m.master_s,
                condition=round(m.arrived, 1),
                pictures_key=rehearsal.pictures_key,
            )
            for m in rehearsal.moments
        ],
        count,
    )


def _worst(moments: Sequence[Sufferer], count: int) -> tuple[Sufferer, ...]:
    times = [moment.master_s for moment in moments]
    apart = (max(times) - min(times)) / PARTS_APART if times else Fraction(0)
    found: list[Sufferer] = []
    for moment in sorted(moments, key=lambda m: m.condition):
        if len(found) < count and all(abs(moment.master_s - other.master_s) >= apart for other in found):
            found.append(moment)
    return tuple(sorted(found, key=lambda m: m.master_s))
