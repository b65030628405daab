"""A step up the ladder: a slightly larger frame that its platform serves larger or treats better, as one click."""

from __future__ import annotations

from typing import Any

from ..master.facts import MasterFacts
from ..plan.choices import Choices
from ..plan.framing import choose_framing
from ..plan.plan import Plan
from ..sheets.guidance import look_up
from ..sheets.ladder import arriving_side, step_up, tier_for
from ..sheets.sheet import Destination
from ..values import Model, size_text


class Suggestion(Model):
    """One change that would do this parcel good: what it brings and costs, what its button says, and the choices that it makes."""

    code: str
    sentence: str
    button: str
    part: dict[str, Any]


def step_up_suggestion(facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan) -> Suggestion | None:
    """A slightly larger frame that is served larger or by a better ladder, with what it costs at the top of its guidance.

    None where a size limit has the last word.
    """
    place = destination.placement
    if plan.video is None or plan.copied or choices.short_side_px is not None or choices.max_bytes is not None or plan.video.under_cap:
        return None
    framing, rate = plan.video.framing.value, plan.video.frame_rate.value
    side = min(framing.width, framing.height)
    larger = step_up(place.handling, side)
    if larger is None:
        return None
    frame = choose_framing(
        place, display_width=facts.video.display_width, display_height=facts.video.display_height, active=facts.mending.remove_bars,
        wish=choices.model_copy(update={"short_side_px": larger}).wish(facts),
    )
    if abs(min(frame.width, frame.height) - larger) > 1:
        return None
    now, then = (arriving_side(destination, width=one.width, height=one.height, frame_rate=rate) for one in (framing, frame))
    better, before = tier_for(place.handling, larger), tier_for(place.handling, side)
    brings = f"arrives as {then} lines instead of {now}" if now != then else "arrives better"
    if better and before and better is not before:
        brings += f", by the ladder “{better.name}”"
    guidance = look_up(place, width=frame.width, height=frame.height, frame_rate=rate, codec=plan.video.codec.value)
    more = max(0, guidance.high_bps - plan.video.target_bps.value) * float(plan.video.frames / rate) / 8
    return Suggestion(
        code="step_up", button=f"Go up to {frame.width}×{frame.height}", part={"short_side_px": larger},
        sentence=f"A frame of {larger} lines {brings}; at the top of its guidance that is {size_text(more)} more.",
    )
