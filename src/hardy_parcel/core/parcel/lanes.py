"""What a knowledgeable friend would do with all lanes of a master at once."""

from __future__ import annotations

from collections.abc import Sequence

from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.curve import ConditionAt
from ..arrival.rehearsal import Evidence
from ..arrival.screens import Screen, ViewerLine
from ..values import Model, size_text
from .lane import Lane, LaneSeen
from .suggestions import Suggestion


class LanesSentence(Model):
    """The sentence on top of the lanes, for one screen on one viewer's line."""

    screen: Screen
    line: ViewerLine
    sentence: str


def lanes_sentences(lanes: Sequence[Lane]) -> tuple[LanesSentence, ...]:
    """The sentence for every screen and line."""
    return tuple(
        LanesSentence(screen=screen, line=line, sentence=lanes_sentence(lanes, screen, line)) for screen in Screen for line in ViewerLine
    )


def lanes_sentence(lanes: Sequence[Lane], screen: Screen, line: ViewerLine) -> str:
    """What to do next: see to what is held, rehearse, take what is enough or the master as it is, pack; empty without lanes."""
    if not lanes:
        return ""
    if held := list(dict.fromkeys(lane.sheet_name for lane in lanes if lane.held)):
        return f"{' and '.join(held)} cannot take it so; its lane says why."
    known = [(lane, at) for lane in lanes if (at := _known(lane, screen, line))]
    if not known:
        ready = "The plan is" if len(lanes) == 1 else f"All {len(lanes)} plans are"
        return f"{ready} ready. A few moments of your film tell what arrives after each platform has re-encoded it."
    return _next_step(lanes, known, screen, line)


def _next_step(
    lanes: Sequence[Lane], known: list[tuple[Lane, ConditionAt]], screen: Screen, line: ViewerLine
) -> str:
    """What the measured lanes say should be done, and how the film arrives then."""
    arrives = _arrives(known)
    best = [(lane.sheet_name, one) for lane, _ in known if (one := _best_change(lane, screen, line))]
    if own := [name for name, one in best if one.code == "as_it_is"]:
        return f"Send it to {_names(own)} as it is: it arrives as well and is smaller. {arrives}"
    if spared := [(name, one.spares_bytes) for name, one in best if one.spares_bytes > 0]:
        names, total = _names([name for name, _ in spared]), size_text(sum(saved for _, saved in spared))
        return f"Take what is enough for {names}: it saves {total} and arrives as well. {arrives}"
    wanting = [name for name, _ in best]
    wanting += [lane.sheet_name for lane, _ in known if not lane.copied and _seen(lane, screen, line).enough_beyond]
    if wanting:
        return f"Give {_names(wanting)} more: its platform still passes on what you add. {arrives}"
    if open_ones := [lane.sheet_name for lane in lanes if lane.target_bps and _known(lane, screen, line) is None]:
        return f"Rehearse {_names(open_ones)} too. {arrives}"
    if capped := [lane.sheet_name for lane, _ in known if _held_back(lane, _seen(lane, screen, line))]:
        return f"Pack {'it' if len(lanes) == 1 else 'them'}: the size limit of {_names(capped)} leaves no more bits. {arrives}"
    if all(lane.copied or _seen(lane, screen, line).enough_bps is not None for lane, _ in known):
        return f"Pack {'it' if len(lanes) == 1 else 'them'}: more bits would not arrive. {arrives}"
    return f"Rehearse the rest of the rates to see what is enough. {arrives}"


def _known(lane: Lane, screen: Screen, line: ViewerLine) -> ConditionAt | None:
    """What of a lane is more than supposed."""
    seen = lane.on(screen, line)
    return seen.at if seen and seen.at and (seen.at.evidence is not Evidence.SHEET or not seen.at.band) else None


def _best_change(lane: Lane, screen: Screen, line: ViewerLine) -> Suggestion | None:
    """Of the ways that arrive as well, the one whose file is smallest: what is enough, or the master as it is."""
    ways = [one for one in _seen(lane, screen, line).suggestions if one.code in ("as_it_is", "enough")]
    return max(ways, key=lambda one: one.spares_bytes, default=None)


def _held_back(lane: Lane, seen: LaneSeen) -> bool:
    """Whether more bits would arrive that a size limit does not leave."""
    return lane.under_cap and seen.enough_bps is not None and lane.target_bps is not None and seen.enough_bps > lane.target_bps


def _seen(lane: Lane, screen: Screen, line: ViewerLine) -> LaneSeen:
    return next(seen for seen in lane.seen if (seen.screen, seen.line) == (screen, line))


def _names(names: Sequence[str]) -> str:
    once = list(dict.fromkeys(names))
    return once[0] if len(once) == 1 else f"{', '.join(once[:-1])} and {once[-1]}"


def _arrives(known: list[tuple[Lane, ConditionAt]]) -> str:
    """How it arrives, best and worst, and where the worst loses most."""
    (best_lane, best), (worst_lane, worst) = (pick(known, key=lambda one: one[1].condition) for pick in (max, min))
    gap, name = best.condition - worst.condition, worst_lane.sheet_name
    if best_lane.sheet_name == name:
        return f"On {name} it arrives at {best.condition:.0f}, {best.words}."
    if gap < NOTICEABLE_STEP:
        return f"It arrives alike everywhere, {worst.condition:.0f} to {best.condition:.0f}."
    thief = "in the platform’s own re-encoding" if worst.lost_platform >= worst.lost_packing else "in our packing"
    return f"{name} shows it {gap:.0f} points worse than {best_lane.sheet_name}, most of it lost {thief}."
