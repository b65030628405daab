"""Other ways under a cap that would ruin the picture: without a blank end, in mono, a smaller frame, another codec, a shorter excerpt."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction

from ..arrival.curve import ConditionAt, condition_at, figure
from ..arrival.forecast import Forecast
from ..arrival.screens import Screen, ViewerLine
from ..errors import BadChoice
from ..master.facts import Excerpt, MasterFacts
from ..plan.caps import is_ruined
from ..plan.carrying import Size, file_size
from ..plan.choices import Choices, Method
from ..plan.plan import Plan
from ..plan.planning import make_plan
from ..sheets.sheet import Destination
from ..trade.codecs import CODECS, name_of
from ..trade.rate_control import RateControl
from ..values import Model, seconds_text


class WayArrival(Model):
    """What of a way arrives on one screen and line as far as it can be told; `best` is the one that arrives best of those that do."""

    screen: Screen
    line: ViewerLine
    at: ConditionAt
    best: bool = False


class Alternative(Model):
    """Another way under the cap: what it is, the choices or the excerpt that bring it about, and its figures.

    `shortens` says that pictures are left out that somebody would miss. `share` is the bit rate as a share of the least that the
    guidance asks for; `size` is that of the file.
    """

    kind: str
    words: str
    choices: Choices | None = None
    excerpt: Excerpt | None = None
    video_bitrate_bps: int
    share: float
    size: Size
    seconds: float
    shortens: bool = False
    arrivals: tuple[WayArrival, ...] = ()


def alternatives(
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    plan: Plan,
    excerpt: Excerpt,
    trimmed: Excerpt | None = None,
) -> tuple[Alternative, ...]:
    """What would leave the picture more than this plan does, best first in each kind; none where the cap does no harm.

    `trimmed` is the master without the blank ends that a check found: what nobody would miss goes first.
    """
    over = any(stamp.code == "over_cap" for stamp in plan.stamps)
    if plan.video is None or plan.guidance is None or plan.copied or not (over or is_ruined(plan)):
        return ()
    current = 0.0 if over else plan.video.target_bps.value / plan.guidance.low_bps
    result: list[Alternative] = []
    if trimmed and (less := _without_blank(facts, destination, choices, excerpt, trimmed)):
        result.append(less)
    for kind, words, changed in _ways(destination, choices, plan):
        try:
            other = make_plan(facts, destination, changed, excerpt)
        except BadChoice:
            continue
        item = _alternative(kind, words, other, choices=changed)
        if item and item.share > current * 1.1:
            result.append(item)
    if shorter := _shorter(facts, destination, choices, plan, excerpt):
        result.append(shorter)
    return tuple(result)


def foretold(ways: Sequence[Alternative], known: Sequence[Forecast]) -> tuple[Alternative, ...]:
    """The ways with what of each would arrive, by its forecast, best first; the best is recommended for each screen and line.

    What nobody would miss still goes first. One that leaves pictures out is not measured against those that keep them, and stands
    last. What was not tested stands without an arrival.
    """
    result = []
    for way, forecast in zip(ways, known, strict=True):
        arrivals = (
            (screen, line, condition_at(way.video_bitrate_bps, forecast, screen=screen, line=line))
            for screen in Screen
            for line in ViewerLine
        )
        result.append(
            way.model_copy(
                update={
                    "arrivals": tuple(
                        WayArrival(screen=screen, line=line, at=words)
                        for screen, line, at in arrivals
                        if (words := figure(at))
                    ),
                }
            )
        )
    best: dict[tuple[Screen, ViewerLine], float] = {}
    for item in (arrival for way in result if not way.shortens for arrival in way.arrivals):
        best[item.screen, item.line] = max(best.get((item.screen, item.line), 0.0), item.at.condition)
    marked = [
        way.model_copy(
            update={
                "arrivals": tuple(
                    item.model_copy(
                        update={
                            "best": not way.shortens and item.at.condition == best[item.screen, item.line],
                        }
                    )
                    for item in way.arrivals
                )
            }
        )
        for way in result
    ]

    def place(way: Alternative) -> tuple[bool, bool, float]:
        trims = way.kind == "excerpt" and not way.shortens
        return way.shortens, not trims, -sum(item.at.condition for item in way.arrivals)

    return tuple(sorted(marked, key=place))


def _ways(destination: Destination, choices: Choices, plan: Plan) -> Iterator[tuple[str, str, Choices]]:
    placement, framing = destination.placement, plan.picture.framing.value
    free: dict[str, object] = {"video_bitrate_bps": None, "ceiling_bps": None}
    guided = sorted({row.short_side_px for row in placement.guidance}, reverse=True)
    for side in [side for side in guided if side < min(framing.width, framing.height)][:3]:
        yield "size", str(side), choices.model_copy(update={**free, "short_side_px": side})
    if plan.audio and plan.audio.channels.value == 2 and not plan.audio.copied:
        yield "sound", "mono sound", choices.model_copy(update={**free, "channels": 1, "sound_bitrate_bps": None})
    for codec in placement.codecs:
        if codec != plan.picture.codec.value and RateControl.FIXED not in CODECS[codec].controls:
            other = {
                **free,
                "codec": codec,
                "container": None,
                "sound_codec": None,
                "rate_control": None,
                "quality": None,
            }
            yield "codec", name_of(codec), choices.model_copy(update=other)


def _alternative(
    kind: str, words: str, plan: Plan, *, choices: Choices | None = None, excerpt: Excerpt | None = None
) -> Alternative | None:
    if plan.held or plan.video is None or plan.guidance is None:
        return None
    framing, bps = plan.video.framing.value, plan.video.target_bps.value
    named = f"{framing.width}×{framing.height}" if kind == "size" else words
    return Alternative(
        kind=kind,
        words=named,
        choices=choices,
        excerpt=excerpt,
        video_bitrate_bps=bps,
        share=round(bps / plan.guidance.low_bps, 2),
        size=file_size(plan),
        seconds=float(plan.excerpt.duration_s),
    )


def _without_blank(
    facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt, trimmed: Excerpt
) -> Alternative | None:
    """The excerpt without what of it is black and silent; None where it has none of that."""
    less = Excerpt(in_s=max(excerpt.in_s, trimmed.in_s), out_s=min(excerpt.out_s, trimmed.out_s))
    if less.duration_s <= 0 or less.duration_s >= excerpt.duration_s - Fraction(1, 20):
        return None
    plan = make_plan(
        facts, destination, choices.model_copy(update={"video_bitrate_bps": None, "ceiling_bps": None}), less
    )
    words = f"without the {float(excerpt.duration_s - less.duration_s):.1f} s that are blank"
    return _alternative("excerpt", words, plan, excerpt=less)


def _shorter(
    facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt
) -> Alternative | None:
    """The longest excerpt from the in point on for which the guidance's lower end fits; None where that is under a second."""
    if plan.guidance is None or plan.method.value is not Method.ENCODE:
        return None
    asked = choices.model_copy(
        update={"video_bitrate_bps": plan.guidance.low_bps, "max_bytes": None, "ceiling_bps": None}
    )
    low, high = Fraction(0), excerpt.duration_s
    for _ in range(14):
        middle = (low + high) / 2
        if middle * plan.picture.frame_rate.value < 1:
            return None
        size = file_size(make_plan(facts, destination, asked, Excerpt(in_s=excerpt.in_s, out_s=excerpt.in_s + middle)))
        low, high = (middle, high) if size.worst_bytes <= plan.size_cap.value else (low, middle)
    length = Fraction(int(low * 10), 10)
    if length < 1:
        return None
    shorter = Excerpt(in_s=excerpt.in_s, out_s=excerpt.in_s + length)
    free = choices.model_copy(update={"video_bitrate_bps": None, "ceiling_bps": None})
    created = make_plan(facts, destination, free, shorter)
    result = _alternative("excerpt", f"the first {seconds_text(length)}", created, excerpt=shorter)
    return result.model_copy(update={"shortens": True}) if result else None
