"""What a knowledgeable friend would change about a plan, each as one click: the rate that is enough, a step up the ladder, as it is."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Any

from ..arrival.curve import ENOUGH_WITHIN, ConditionAt, SurvivalCurve
from ..arrival.forecast import Forecast
from ..arrival.rehearsal import Evidence
from ..master.facts import MasterFacts
from ..plan import as_it_is
from ..plan.carrying import file_size
from ..plan.choices import Choices
from ..plan.framing import choose_framing
from ..plan.plan import Plan
from ..sheets.guidance import look_up
from ..sheets.ladder import arriving_side, step_up, tier_for
from ..sheets.sheet import Destination
from ..trade.rate_control import RateControl
from ..values import Model, mbps_text, size_text

WORTH_TAKING = 1.05
"""A rate that is nearer than this to the one that is enough is left where it stands."""
RESERVE = 2.0
"""Times what is enough, for whom a platform's later and kinder renditions matter."""
STEP_BPS = 10_000


class Suggestion(Model):
    """One change that would do this parcel good: what it brings and costs, what its button says, and the choices that it makes.

    `spares_bytes` is what the file becomes smaller by, below 0 where it grows.
    """

    code: str
    sentence: str
    button: str
    part: dict[str, Any]
    spares_bytes: float = 0


def enough_rate(curve: SurvivalCurve) -> int | None:
    """The bit rate that is enough, rounded up to what can be typed; None where that is not known or only supposed."""
    return None if curve.enough_bps is None or curve.evidence is Evidence.SHEET else -(-curve.enough_bps // STEP_BPS) * STEP_BPS


def enough_suggestions(plan: Plan, curve: SurvivalCurve, known: Forecast) -> Iterator[Suggestion]:
    """The rate that is enough on one screen, and a reserve; nothing where the plan stands there already or has no rate to choose."""
    enough = enough_rate(curve)
    if enough is None or plan.video is None or plan.copied or plan.video.rate_control.value is RateControl.FIXED:
        return
    target = plan.video.target_bps.value
    most = target if plan.video.under_cap else math.inf  # what a size limit would lower again is not offered

    def size(bps: int) -> float:
        """Bytes of picture at a rate, of which an encoder may use less than it is given."""
        return bps * known.achieved_share(bps) * float(picture.frames / picture.frame_rate.value) / 8

    picture = plan.video
    if not enough / WORTH_TAKING <= target <= enough * WORTH_TAKING and enough <= most:
        spared = size(target) - size(enough)
        turn = f"saves {size_text(spared)}" if spared >= 0 else f"costs {size_text(-spared)} more"
        yield Suggestion(
            code="enough", button=f"Take {mbps_text(enough)}", part={"video_bitrate_bps": enough, "times_enough": 1.0},
            spares_bytes=spared,
            sentence=f"{mbps_text(enough)} is enough by your own footage and {turn}, as it is handled today.",
        )
    reserve = round(enough * RESERVE)
    if not reserve / WORTH_TAKING <= target <= reserve * WORTH_TAKING and reserve <= most:
        cost = size_text(max(0.0, size(reserve) - size(enough)))
        yield Suggestion(
            code="reserve", button=f"Take {mbps_text(reserve)}, a reserve", part={"video_bitrate_bps": reserve, "times_enough": RESERVE},
            sentence=f"A platform may keep the upload and make better renditions of it later; twice what is enough costs {cost} more.",
        )


def as_it_is_suggestion(
    facts: MasterFacts, destination: Destination, plan: Plan, at: ConditionAt | None, untouched: ConditionAt | None, known: Forecast
) -> Suggestion | None:
    """The master as it is, which must be taken, where that is known to arrive as well and is smaller."""
    if plan.video is None or plan.copied or untouched is None or untouched.evidence is Evidence.SHEET:
        return None
    share = plan.excerpt.duration_s / facts.duration_s if facts.duration_s else 1
    used = known.achieved_share(plan.video.target_bps.value)
    saved = file_size(plan, achieved_share=used).expected_bytes - float(facts.size_bytes * min(1, share))
    if saved <= 0 or (at is not None and untouched.condition < at.condition - ENOUGH_WITHIN):
        return None
    method, _ = as_it_is.best_method(facts, destination, Choices(), plan.excerpt)
    arrives = f"arrives at {untouched.condition:.0f}"
    if at is not None:
        arrives += ", as what is encoded does," if round(at.condition) == round(untouched.condition) else f" instead of {at.condition:.0f}"
    return Suggestion(
        code="as_it_is", button="Send it as it is", part={"method": method}, spares_bytes=saved,
        sentence=f"As it is the master {arrives} and is {size_text(saved)} smaller; no generation is lost on our side.",
    )


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
        wish=choices.model_copy(update={"short_side_px": larger}).wish(facts.mending.focus),
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


def enough_everywhere(curves: list[SurvivalCurve]) -> int | None:
    """The bit rate that is enough on every screen of which that is known; None where it is known of none."""
    return max((enough for curve in curves if (enough := enough_rate(curve))), default=None)


def is_enough(plan: Plan, curves: list[SurvivalCurve]) -> bool:
    """Whether the plan's rate is enough wherever that is known, and known somewhere."""
    enough = enough_everywhere(curves)
    return enough is not None and plan.video is not None and plan.video.target_bps.value * WORTH_TAKING >= enough
