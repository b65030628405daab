"""What a knowledgeable friend would say of all lanes of a master at once."""

from __future__ import annotations

from collections.abc import Sequence

from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.screens import Screen, ViewerLine
from ..values import Model
from .summary import ParcelSummary


class LanesSentence(Model):
    """The sentence on top of the lanes, for one screen on one viewer's line."""

    screen: Screen
    line: ViewerLine
    sentence: str


def lanes_sentences(lanes: Sequence[ParcelSummary]) -> tuple[LanesSentence, ...]:
    """The sentence for every screen and line."""
    return tuple(
        LanesSentence(screen=screen, line=line, sentence=lanes_sentence(lanes, screen, line)) for screen in Screen for line in ViewerLine
    )


def lanes_sentence(lanes: Sequence[ParcelSummary], screen: Screen, line: ViewerLine) -> str:
    """What is held, else what arrives best and worst and where it is lost, else what to do first; empty without lanes."""
    if not lanes:
        return ""
    if held := list(dict.fromkeys(lane.destination.sheet_name for lane in lanes if lane.plan.held)):
        return f"{' and '.join(held)} cannot take it so; its lane says why."
    known = [(lane, at) for lane in lanes if (at := lane.at(screen, line))]
    if not known:
        ready = "The plan is" if len(lanes) == 1 else f"All {len(lanes)} plans are"
        return f"{ready} ready. Rehearse to see what arrives after each platform has re-encoded it."
    best, worst = max(known, key=lambda one: one[1].condition), min(known, key=lambda one: one[1].condition)
    (best_lane, best_at), (worst_lane, worst_at) = best, worst
    best_name, worst_name = (lane.destination.sheet_name for lane in (best_lane, worst_lane))
    if best is worst or best_name == worst_name:
        return f"On {best_name} it arrives at {best_at.condition:.0f}, {best_at.words}."
    gap = best_at.condition - worst_at.condition
    if gap < NOTICEABLE_STEP:
        return (
            f"It arrives in much the same condition everywhere: {best_at.condition:.0f} on {best_name}, {worst_at.condition:.0f} on "
            f"{worst_name}."
        )
    thief = "in the platform’s own re-encoding" if worst_at.lost_platform >= worst_at.lost_packing else "in our packing"
    return f"{best_name} shows it {gap:.0f} points better than {worst_name}, which loses most {thief}."
