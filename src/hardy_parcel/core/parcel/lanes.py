"""What a knowledgeable friend would do with all lanes of a master at once."""

from __future__ import annotations

from collections.abc import Sequence

from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.curve import ConditionAt
from ..arrival.screens import Screen, ViewerLine
from ..values import Model, size_text
from .lane import Lane
from .recommending import Recommendation


class LanesSentence(Model):
    """The sentence on top of the lanes, for one screen on one viewer's line."""

    screen: Screen
    line: ViewerLine
    sentence: str


def lanes_sentences(lanes: Sequence[Lane]) -> tuple[LanesSentence, ...]:
    """The sentence for every screen and line."""
    return tuple(
        LanesSentence(screen=screen, line=line, sentence=lanes_sentence(lanes, screen, line))
        for screen in Screen
        for line in ViewerLine
    )


def lanes_sentence(lanes: Sequence[Lane], screen: Screen, line: ViewerLine) -> str:
    """What to do next: see to what is held, wait for tests, or what is recommended and what that brings; empty without lanes."""
    if not lanes:
        return ""
    if held := _names([lane.sheet_name for lane in lanes if lane.held]):
        return f"{held} does not take it like this; its lane says why."
    stored_ones = [(lane, at) for lane in lanes if (seen := lane.on(screen, line)) and (at := seen.at)]
    if not stored_ones:
        ready = "The plan is" if len(lanes) == 1 else f"All {len(lanes)} plans are"
        return f"{ready} ready. Test clips of your video show what arrives after each platform has re-encoded it."
    advised = [(lane, lane.recommended) for lane in lanes if lane.recommended]
    untested = sum((seen := lane.on(screen, line)) is not None and seen.at is None for lane in lanes)
    rest = f" {untested} {'lane is' if untested == 1 else 'lanes are'} not tested yet." if untested else ""
    if not advised:
        return f"{_arrives(stored_ones)}{rest}"
    if all(item.taken for _, item in advised):
        return f"{'It is' if len(advised) == 1 else 'All are'} as recommended. {_arrives(stored_ones)}{rest}"
    return f"{_advice(advised)}{rest}"


def _advice(advised: Sequence[tuple[Lane, Recommendation]]) -> str:
    """What is sent where by the recommendations, and what that saves or costs."""
    local = _names([lane.sheet_name for lane, item in advised if item.video_bps is None])
    packed = _names([f"{lane.sheet_name} ({item.option})" for lane, item in advised if item.video_bps is not None])
    parts = [f"send the original to {local}"] if local else []
    parts += [f"pack {packed}"] if packed else []
    what = " and ".join(parts)
    current, then = (
        sum(sizes)
        for sizes in zip(*((lane.figures.size.expected_bytes, item.size_bytes) for lane, item in advised), strict=True)
    )
    saved = f"{size_text(then)} instead of {size_text(current)}"
    good = all(item.as_good for _, item in advised)
    looks = "No screen shows it visibly worse than a perfect upload" if good else "What each risks stands in its lane"
    return f"{what[:1].upper()}{what[1:]}: {saved}. {looks}."


def _names(names: Sequence[str]) -> str:
    once = list(dict.fromkeys(names))
    return "".join(once) if len(once) < 2 else f"{', '.join(once[:-1])} and {once[-1]}"


def _arrives(stored_ones: list[tuple[Lane, ConditionAt]]) -> str:
    """How it arrives, best and worst, and where the worst loses most."""
    (best_lane, best), (worst_lane, worst) = (
        pick(stored_ones, key=lambda item: item[1].condition) for pick in (max, min)
    )
    gap, name = best.condition - worst.condition, worst_lane.sheet_name
    if best_lane.sheet_name == name:
        return f"On {name} it arrives at {best.condition:.0f}, {best.words}."
    if gap < NOTICEABLE_STEP:
        return f"It arrives alike everywhere, {worst.condition:.0f} to {best.condition:.0f}."
    thief = "in the platform’s own re-encoding" if worst.lost_platform >= worst.lost_packing else "in our packing"
    return f"{name} shows it {gap:.0f} points worse than {best_lane.sheet_name}, most of it lost {thief}."
