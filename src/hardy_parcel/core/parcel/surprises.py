"""What about a parcel may surprise whoever packs it: said once more in the dialog before packing, worst first."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction

from ..master.checks.stamping import CheckStamp, Remedy
from ..master.facts import Excerpt, MasterFacts
from ..plan.plan import Plan
from ..stamps import Outcome
from ..values import mbps_text, rate_text

HEARD_DB = 3.0
"""Sound that is turned by less surprises nobody."""
SEEN_SHARE = 0.02
"""Bars or cuts that take less of the picture are not mentioned."""
MANY_TIMES = 4.0
"""So many times the recorded bit rate an encoder cannot use: nothing is there that it could keep."""


def surprises(facts: MasterFacts, plan: Plan, stamps: Sequence[CheckStamp]) -> tuple[str, ...]:
    """Sentences; `stamps` are the master's checks."""
    return tuple(_surprises(facts, plan, stamps))


def _surprises(facts: MasterFacts, plan: Plan, stamps: Sequence[CheckStamp]) -> Iterator[str]:
    yield from _blank(plan, stamps)
    if plan.video and not plan.copied:
        yield from _picture(facts, plan)
    if turned := sound_turned(plan):
        yield f"The sound is turned {turned}."


def blank_s(stamp: CheckStamp, excerpt: Excerpt) -> Fraction:
    """Seconds of an excerpt that a check would trim away; 0 for a check that mends something else."""
    inside = stamp.excerpt
    if stamp.remedy is not Remedy.TRIM or inside is None:
        return Fraction(0)
    return max(Fraction(0), inside.in_s - excerpt.in_s) + max(Fraction(0), excerpt.out_s - inside.out_s)


def sound_turned(plan: Plan) -> str:
    """How the sound is turned, where one would hear it: "up by 4 dB"; empty otherwise."""
    if not plan.audio or plan.audio.copied or abs(gain := plan.audio.gain_db.value) < HEARD_DB:
        return ""
    return f"{'up' if gain > 0 else 'down'} by {abs(gain):.0f} dB"


def _blank(plan: Plan, stamps: Sequence[CheckStamp]) -> Iterator[str]:
    for stamp in stamps:
        if stamp.outcome is Outcome.CARE and (blank := blank_s(stamp, plan.excerpt)) > Fraction(1, 10):
            yield f"{float(blank):.1f} s of it are black and silent."
            return


def _picture(facts: MasterFacts, plan: Plan) -> Iterator[str]:
    framing, active, rate = plan.picture.framing.value, facts.active, plan.picture.frame_rate.value
    covered = framing.picture.width * framing.picture.height / (framing.width * framing.height)
    if framing.bars and covered < 1 - SEEN_SHARE:
        what = "A blurred copy of itself fills" if framing.blurred else "Black bars take"
        yield f"{what} {1 - covered:.0%} of the frame."
    if (lost := 1 - framing.kept_area(width=active.width, height=active.height)) > SEEN_SHARE:
        yield f"{lost:.0%} of the picture is cut away."
    if (kept := float(1 / plan.picture.keep_every)) < 0.99:
        yield f"{1 - kept:.0%} of the frames are left out, {rate_text(facts.video.frame_rate)} become {rate_text(rate)} a second."
    recorded = facts.video.bitrate_bps
    if recorded and (times := plan.picture.target_bps.value / recorded) >= MANY_TIMES:
        yield (
            f"{mbps_text(plan.picture.target_bps.value)} is {times:.0f} times the bit rate it was recorded at; most of that cannot be used."
        )
