"""Whether a larger frame pays where a platform treats it better: what each screen gains against the larger file."""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.screens import Screen, ViewerLine
from ..values import Model
from .lane import Apart, ApartSeen, Lane, apart


class GoingUp(Model):
    """For one viewer's line, what a larger frame brings, in few words and in a sentence."""

    line: ViewerLine
    pays: bool
    words: str
    sentence: str


def going_up(larger: Lane, own: Lane) -> tuple[GoingUp, ...]:
    """What the larger frame of a lane brings, for every line on which something is known of both.

    It pays when a screen gains a noticeable step that lies outside the paired band, and none loses what can be told.
    """
    differs = apart(larger, own)
    result = []
    for line in ViewerLine:
        if seen := [item for item in differs.seen if item.line is line]:
            result.append(_on_line(line, seen, differs, larger, own))
    return tuple(result)


def _on_line(line: ViewerLine, seen: Sequence[ApartSeen], differs: Apart, larger: Lane, local: Lane) -> GoingUp:
    costs, file = _costs(differs, larger, local)
    better = [item for item in seen if item.told and item.points >= NOTICEABLE_STEP]
    worse = [item for item in seen if item.told and item.points < 0]
    if worse:
        lost = _on_screens(worse)
        words = f"does not pay: worse on {_named(item.screen for item in worse)}, {file}"
        return GoingUp(line=line, pays=False, words=words, sentence=f"does not pay: {lost}, {costs}")
    if better:
        rest = [item for item in seen if item not in better]
        nothing = f", nothing that is noticed on {_named(item.screen for item in rest)}" if rest else ""
        words = f"pays on {_named(item.screen for item in better)}, {file}"
        return GoingUp(line=line, pays=True, words=words, sentence=f"pays: {_on_screens(better)}{nothing}, {costs}")
    some = any(item.told for item in seen)
    what = "no screen gains what anyone notices" if some else "no difference that can be told on any screen"
    return GoingUp(line=line, pays=False, words=f"does not pay, {file}", sentence=f"does not pay: {what}, {costs}")


def _on_screens(seen: Sequence[ApartSeen]) -> str:
    return " and ".join(
        f"{abs(item.points):.0f} points {'better' if item.points > 0 else 'worse'} on {_named([item.screen])}, ±{item.band:.0f}"
        for item in seen
    )


def _named(screens: Iterable[Screen]) -> str:
    return " and ".join("a TV" if screen is Screen.TV else f"a {screen}" for screen in screens)


def _costs(differs: Apart, larger: Lane, local: Lane) -> tuple[str, str]:
    """What the file becomes, as the end of a sentence and in few words."""
    times = larger.figures.size.expected_bytes / max(1, local.figures.size.expected_bytes)
    if times < 1.05:
        return f"for a file that is {differs.size_words}", f"a file {differs.size_words}"
    return f"for a file {times:.1f} times as large", f"{times:.1f} × the file"
