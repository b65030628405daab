"""Captions as text: what is shown from when to when, cut to an excerpt."""

from __future__ import annotations

from collections.abc import Iterable

from ..master.facts import Excerpt
from ..values import Model, Ratio


class Cue(Model):
    """One caption from `start_s` to `end_s`, s from the first picture.

    `text` may carry the marks of Advanced SubStation text, such as `\\N` for a new line.
    """

    start_s: Ratio
    end_s: Ratio
    text: str


def cut(cues: Iterable[Cue], excerpt: Excerpt) -> tuple[Cue, ...]:
    """The cues that show within the excerpt, with times from its in point."""
    found = []
    for cue in cues:
        start, end = max(cue.start_s, excerpt.in_s), min(cue.end_s, excerpt.out_s)
        if end > start:
            found.append(Cue(start_s=start - excerpt.in_s, end_s=end - excerpt.in_s, text=cue.text))
    return tuple(sorted(found, key=lambda cue: (cue.start_s, cue.end_s, cue.text)))


def one_at_a_time(cues: Iterable[Cue]) -> tuple[Cue, ...]:
    """The same captions where only one may show at a time, as in timed text of MP4: while several do, they stand as lines of one."""
    told = list(cues)
    edges = sorted({time for cue in told for time in (cue.start_s, cue.end_s)})
    found: list[Cue] = []
    for start, end in zip(edges, edges[1:], strict=False):
        text = "\\N".join(cue.text for cue in told if cue.start_s <= start and cue.end_s >= end)
        if not text:
            continue
        if found and found[-1].text == text and found[-1].end_s == start:
            found[-1] = found[-1].model_copy(update={"end_s": end})
        else:
            found.append(Cue(start_s=start, end_s=end, text=text))
    return tuple(found)
