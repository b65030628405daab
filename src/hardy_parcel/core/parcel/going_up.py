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
    found = []
    for line in ViewerLine:
        if seen := [one for one in differs.seen if one.line is line]:
            found.append(_on_line(line, seen, differs, larger, own))
    return tuple(found)


def _on_line(line: ViewerLine, seen: Sequence[ApartSeen], differs: Apart, larger: Lane, own: Lane) -> GoingUp:
    costs, file = _costs(differs, larger, own)
    better = [one for one in seen if one.told and one.points >= NOTICEABLE_STEP]
    worse = [one for one in seen if one.told and one.points < 0]
    if worse:
        lost = _on_screens(worse)
        words = f"does not pay: worse on {_named(one.screen for one in worse)}, {file}"
        return GoingUp(line=line, pays=False, words=words, sentence=f"does not pay: {lost}, {costs}")
    if better:
        rest = [one for one in seen if one not in better]
        nothing = f", nothing that is noticed on {_named(one.screen for one in rest)}" if rest else ""
        words = f"pays on {_named(one.screen for one in better)}, {file}"
        return GoingUp(line=line, pays=True, words=words, sentence=f"pays: {_on_screens(better)}{nothing}, {costs}")
    some = any(one.told for one in seen)
    what = "no screen gains what anyone notices" if some else "no difference that can be told on any screen"
    return GoingUp(line=line, pays=False, words=f"does not pay, {file}", sentence=f"does not pay: {what}, {costs}")


def _on_screens(seen: Sequence[ApartSeen]) -> str:
    return " and ".join(
        f"{abs(one.points):.0f} points {'better' if one.points > 0 else 'worse'} on {_named([one.screen])}, ±{one.band:.0f}" for one in seen
    )


def _named(screens: Iterable[Screen]) -> str:
    return " and ".join("a TV" if screen is Screen.TV else f"a {screen}" for screen in screens)


def _costs(differs: Apart, larger: Lane, own: Lane) -> tuple[str, str]:
    """What the file becomes, as the end of a sentence and in few words."""
    times = larger.figures.size.expected_bytes / max(1, own.figures.size.expected_bytes)
    if times < 1.05:
        return f"for a file that is {differs.size_words}", f"a file {differs.size_words}"
    return f"for a file {times:.1f} times as large", f"{times:.1f} × the file"
