"""Sayings: habits of the trade, each put to the test on one's own film as two ways, one that follows it and one that does not."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from enum import StrEnum
from typing import Any

from ..arrival.rehearsal import Evidence
from ..arrival.screens import Screen, ViewerLine
from ..errors import BadChoice
from ..master.facts import Excerpt, MasterFacts
from ..plan import as_it_is
from ..plan.choices import Choices, Method
from ..plan.plan import Plan
from ..plan.planning import changed, make_plan
from ..sheets.ladder import renditions_for
from ..sheets.sheet import Destination
from ..trade.codecs import CODECS, PROBED_QUALITIES, name_of
from ..trade.rate_control import Effort, RateControl
from ..values import Model
from .lane import Apart, ApartSeen, Lane, apart
from .offers import sizes_beside

Parts = tuple[dict[str, Any], dict[str, Any]]
"""Choices of the way that follows a saying, and of the one that does not."""
NEWEST = ("av1", "hevc", "vp9")
"""Codecs from the newest on, as far as what arrives of them can be told."""


class Saying(Model):
    """A habit in our words, what it does to a plan, and from which evidence on its verdict is given."""

    code: str
    words: str
    does: str
    told_by: Evidence = Evidence.PROBED


class Settled(StrEnum):
    """What a saying did for a film; *no telling* is a verdict, *not tried* is none."""

    HELPS = "helps"
    HARMS = "harms"
    DEPENDS = "depends on the screen"
    NO_DIFFERENCE = "no difference that can be told"
    NOT_TRIED = "not tried yet"


class Verdict(Model):
    """What came of a saying on one film for one destination: the difference of the two ways on every screen with a good line."""

    saying: str
    outcome: Settled
    sentence: str
    evidence: Evidence | None
    seen: tuple[ApartSeen, ...] = ()
    size_bytes: int = 0
    upload_s: float = 0


class SayingHere(Model):
    """A saying for one parcel: the choices of its two ways, or why it says nothing here."""

    saying: Saying
    follows: Choices | None = None
    leaves: Choices | None = None
    why_not: str = ""


@dataclass(frozen=True, slots=True, kw_only=True)
class _Here:
    """What a saying is tried on."""

    facts: MasterFacts
    destination: Destination
    choices: Choices
    plan: Plan
    excerpt: Excerpt


def _times(multiple: float) -> Callable[[_Here], Parts | str]:
    def parts(here: _Here) -> Parts | str:
        guidance = make_plan(
            here.facts,
            here.destination,
            here.choices.model_copy(
                update={
                    "video_bitrate_bps": None,
                    "times_enough": None,
                    "max_bytes": None,
                }
            ),
            here.excerpt,
        ).guidance
        if guidance is None:
            return "there is no guidance to multiply"
        free = {"max_bytes": None, "times_enough": None}
        return {**free, "video_bitrate_bps": guidance.times(multiple)}, {**free, "video_bitrate_bps": None}

    return parts


def _size(*, larger: bool) -> Callable[[_Here], Parts | str]:
    def parts(here: _Here) -> Parts | str:
        framing = here.plan.picture.framing.value
        side = min(framing.width, framing.height)
        sizes = sizes_beside(here.facts, here.destination, here.choices, here.plan)
        result = [item for item in sizes if (item > side) == larger]
        if not result:
            return f"no {'larger' if larger else 'smaller'} frame is served or guided near this one"
        free = {"video_bitrate_bps": None, "times_enough": None}
        return {**free, "short_side_px": result[0]}, free

    return parts


def _control(wanted: RateControl, instead: RateControl) -> Callable[[_Here], Parts | str]:
    def parts(here: _Here) -> Parts | str:
        codec = here.plan.picture.codec.value
        if not {wanted, instead} <= set(CODECS[codec].controls):
            return f"{name_of(codec)} is not packed in {wanted} and {instead} here"
        return {"rate_control": wanted}, {"rate_control": instead}

    return parts


def _newer(at_this_point: _Here) -> Parts | str:
    taken = at_this_point.destination.placement.codecs
    newest = next((codec for codec in NEWEST if codec in taken), None)
    if newest is None or "h264" not in taken:
        return f"{at_this_point.destination.sheet_name} takes no newer codec beside H.264"
    return {"codec": newest}, {"codec": "h264"}


def _same_codec(at_this_point: _Here) -> Parts | str:
    framing, video = at_this_point.plan.picture.framing.value, at_this_point.plan.picture
    created = renditions_for(
        at_this_point.destination, width=framing.width, height=framing.height, frame_rate=video.frame_rate.value
    )
    if not created:
        return "nothing is re-encoded there"
    local, taken = created[0].codec, at_this_point.destination.placement.codecs
    other = next(
        (codec for codec in ("h264", *NEWEST) if codec in taken and codec != local and codec in PROBED_QUALITIES), None
    )
    if local not in taken or other is None:
        return f"{at_this_point.destination.sheet_name} takes no upload in another codec than the one that it serves in"
    return {"codec": local}, {"codec": other}


def _as_it_is(at_this_point: _Here) -> Parts | str:
    if against := as_it_is.against(at_this_point.facts, at_this_point.destination, at_this_point.excerpt):
        return against[0]
    return {"method": Method.UNTOUCHED}, {"method": Method.ENCODE}


def _part(follows: dict[str, Any], leaves: dict[str, Any]) -> Callable[[_Here], Parts | str]:
    return lambda at_this_point: (follows, leaves)


SAYINGS: dict[str, tuple[Saying, Callable[[_Here], Parts | str]]] = {
    one.code: (one, parts)
    for one, parts in (
        (
            Saying(
                code="double",
                words="Send twice what they ask for",
                does="bit rate at 2 × the guidance’s top instead of its top",
            ),
            _times(2),
        ),
        (
            Saying(
                code="triple",
                words="Send three times what they ask for",
                does="bit rate at 3 × the guidance’s top instead of its top",
            ),
            _times(3),
        ),
        (
            Saying(
                code="shrink",
                words="Shrink it yourself before you send it",
                does="the next smaller frame, at the top of its guidance",
            ),
            _size(larger=False),
        ),
        (
            Saying(
                code="enlarge",
                words="Enlarge it, larger uploads are treated better",
                does="the next larger frame, at the top of its guidance",
            ),
            _size(larger=True),
        ),
        (
            Saying(
                code="constant",
                words="Keep the rate constant",
                does="a constant rate, filled up, instead of two passes",
            ),
            _control(RateControl.CONSTANT, RateControl.TWO_PASSES),
        ),
        (
            Saying(
                code="two_passes",
                words="Always use two passes",
                does="two passes instead of one",
                told_by=Evidence.REHEARSED,
            ),
            _control(RateControl.TWO_PASSES, RateControl.ONE_PASS),
        ),
        (
            Saying(
                code="slow",
                words="The slower the encoder, the better it arrives",
                does="effort careful instead of medium",
            ),
            _part({"effort": Effort.CAREFUL}, {"effort": Effort.MEDIUM}),
        ),
        (
            Saying(
                code="newer",
                words="The newest codec is always best",
                does="the newest codec that is taken instead of H.264",
            ),
            _newer,
        ),
        (
            Saying(
                code="sharpen",
                words="Sharpen a little, they blur it anyway",
                does="one light step of sharpening instead of none",
            ),
            _part({"sharpen": True}, {"sharpen": False}),
        ),
        (
            Saying(
                code="as_it_is",
                words="Send the master, never encode twice",
                does="the master as it is instead of the plan",
            ),
            _as_it_is,
        ),
        (
            Saying(
                code="same_codec",
                words="What comes in their own codec loses less",
                does="the codec that is served there instead of another",
            ),
            _same_codec,
        ),
    )
}
"""Every saying with what makes its two ways; words instead where it says nothing of a parcel."""


def sayings_here(
    facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt
) -> tuple[SayingHere, ...]:
    """Every saying for one parcel; none for sound alone. What is sent as it is, is tried as if it were encoded."""
    if plan.video is None:
        return ()
    if plan.copied:
        choices = Choices(method=Method.ENCODE, framing=choices.framing, shape=choices.shape)
        plan = make_plan(facts, destination, choices, excerpt)
    at_this_point = _Here(facts=facts, destination=destination, choices=choices, plan=plan, excerpt=excerpt)
    return tuple(_here(saying, parts, at_this_point) for saying, parts in SAYINGS.values())


def _here(saying: Saying, parts: Callable[[_Here], Parts | str], at_this_point: _Here) -> SayingHere:
    try:
        result = parts(at_this_point)
        if isinstance(result, str):
            return SayingHere(saying=saying, why_not=result)
        follows, leaves = (
            changed(at_this_point.facts, at_this_point.destination, at_this_point.choices, part, at_this_point.excerpt)
            for part in result
        )
        plans = [
            make_plan(at_this_point.facts, at_this_point.destination, item, at_this_point.excerpt)
            for item in (follows, leaves)
        ]
    except BadChoice as refused:
        return SayingHere(
            saying=saying, why_not=refused.what.rstrip(".").lower() if refused.what else "it cannot be planned here"
        )
    if held := [stamp for plan in plans for stamp in plan.held]:
        return SayingHere(saying=saying, why_not=f"it would be held: {held[0].matter}")
    if plans[0].key() == plans[1].key():
        return SayingHere(saying=saying, why_not="both ways come to the same here")
    return SayingHere(saying=saying, follows=follows, leaves=leaves)


def verdict(saying: Saying, follows: Lane, leaves: Lane) -> Verdict:
    """What following a saying does on every screen with a good line, in a sentence; differences inside their band are none."""
    result = apart(follows, leaves)
    seen = tuple(item for item in result.seen if item.line is ViewerLine.GOOD)
    order = list(Evidence)
    if len(seen) < len(Screen) or any(order.index(item.evidence) < order.index(saying.told_by) for item in seen):
        need = "rehearsed" if saying.told_by is Evidence.REHEARSED else "tried"
        sentence = f"Both ways have to be {need} on a few moments of this film."
        return Verdict(saying=saying.code, outcome=Settled.NOT_TRIED, sentence=sentence, evidence=None)
    better, worse = ([item for item in seen if item.told and (item.points > 0) == good] for good in (True, False))
    outcome = (
        Settled.DEPENDS
        if better and worse
        else Settled.HELPS
        if better
        else Settled.HARMS
        if worse
        else Settled.NO_DIFFERENCE
    )
    return Verdict(
        saying=saying.code,
        outcome=outcome,
        evidence=min((item.evidence for item in seen), key=order.index),
        seen=seen,
        size_bytes=result.size_bytes,
        upload_s=result.upload_s,
        sentence=_sentence(outcome, better, worse, seen, result),
    )


def _sentence(
    outcome: Settled, better: Sequence[ApartSeen], worse: Sequence[ApartSeen], seen: Sequence[ApartSeen], result: Apart
) -> str:
    band = f"±{max(item.band for item in seen):.0f}"
    if outcome is Settled.NO_DIFFERENCE:
        words = ", ".join(f"{_name(item.screen)} {item.points:+.0f}".replace("-", "−") for item in seen)
        return f"No difference that can be told ({words}, each {band}); the file is {result.size_words}."
    helps = f"better by {_screens(better)}" if better else ""
    harms = f"worse by {_screens(worse)}" if worse else ""
    words = " and ".join(part for part in (helps, harms) if part)
    return f"It arrives {words} ({band}); the file is {result.size_words}."


def _screens(seen: Sequence[ApartSeen]) -> str:
    first, *others = [f"{abs(item.points):.0f} on a {_name(item.screen)}" for item in seen]
    first = first.replace(" on", " points on", 1)
    return f"{', '.join([first, *others[:-1]])} and {others[-1]}" if others else first


def _name(screen: Screen) -> str:
    return "TV" if screen is Screen.TV else str(screen)


def sayings_sentence(here: Sequence[SayingHere], verdicts: Sequence[Verdict]) -> str:
    """What a knowledgeable friend would say of the sayings on one film."""
    parsed = [item for item in verdicts if item.outcome is not Settled.NOT_TRIED]
    if not parsed:
        return "Everybody has heard these. Try one on a few moments of your own film, and see whether it is so."
    words = {item.saying.code: item.saying.words for item in here}
    helps, harms = (
        [f"“{words[item.saying]}”" for item in parsed if item.outcome is kind]
        for kind in (Settled.HELPS, Settled.HARMS)
    )
    none = sum(item.outcome is Settled.NO_DIFFERENCE for item in parsed)
    parts = [f"{' and '.join(helps)} {'helps' if len(helps) == 1 else 'help'}"] if helps else []
    parts += [f"{' and '.join(harms)} {'harms' if len(harms) == 1 else 'harm'}"] if harms else []
    parts += (
        [f"{none} of {len(parsed)} that were tried {'makes' if none == 1 else 'make'} no difference that can be told"]
        if none
        else []
    )
    return f"On this film {'; '.join(parts) or 'what was tried depends on the screen'}."


def summed_up(outcomes: Sequence[Settled]) -> str:
    """What a saying did on all the films it was tried on, one outcome each; empty for a single one, whose verdict says it all."""
    tried = [item for item in outcomes if item is not Settled.NOT_TRIED]
    count = len(tried)
    if count < 2:
        return ""
    parts = [
        f"{word} on {tried.count(item)}"
        for item, word in (
            (Settled.HELPS, "helped"),
            (Settled.HARMS, "harmed"),
            (Settled.DEPENDS, "helped on some screens only"),
        )
        if item in tried
    ]
    return f"{', '.join(parts) or 'no difference on any'} of {count} films"
