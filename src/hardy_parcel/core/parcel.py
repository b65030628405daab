"""A parcel as a screen or a report shows it: plan, slip, figures, condition, curve and the first sentence."""

from __future__ import annotations

import math

from .carrying import Carriage, EncodeTime, Line, Size, carriage, encode_time, file_size
from .curve import ConditionAt, SurvivalCurve, achieved_share, condition_at, survival_curve
from .facts import MasterFacts
from .naming import file_stem
from .packing_slip import SlipRow, packing_slip
from .plan import Choices, Plan
from .rehearsal import PerfectUpload, Rehearsal, Sufferer, suffers_most
from .screens import Screen, ViewerLine, picture_raster
from .sheets import Destination
from .values import Model, mbps_text, rate_text, size_text

LOWEST_SHARE, HIGHEST_SHARE = 0.12, 2.4
"""Range of the handle, as shares of the guidance's ends: a little beyond what is rehearsed first."""


class Seen(Model):
    """Condition and curve for one screen on one viewer's line."""

    screen: Screen
    line: ViewerLine
    at: ConditionAt | None
    curve: SurvivalCurve
    sentence: str


class Figures(Model):
    size: Size
    carriage: Carriage
    encode: EncodeTime


class Parcel(Model):
    """One master for one destination with everything that is known of it now."""

    destination: Destination
    choices: Choices
    plan: Plan
    slip: tuple[SlipRow, ...]
    packed_phrase: str
    file_name: str
    figures: Figures
    seen: tuple[Seen, ...]
    suffers: tuple[Sufferer, ...]
    times_guidance: float
    lowest_bps: int
    highest_bps: int


def assemble(
    *,
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    plan: Plan,
    line: Line,
    rehearsals: list[Rehearsal],
    perfect: PerfectUpload | None,
    measured_fps: float | None,
) -> Parcel:
    """Put together what is known of a parcel. `rehearsals` and `perfect` must be of the plan's picture key."""
    target = plan.video.target_bps.value
    speeds = [r.pack_pictures_per_s for r in rehearsals if r.pack_pictures_per_s > 0]
    fps = sorted(speeds)[len(speeds) // 2] if speeds else measured_fps
    size = file_size(plan, achieved_share=achieved_share(target, rehearsals))
    seen = []
    for screen in Screen:
        for viewer in ViewerLine:
            curve = survival_curve(
                rehearsals, perfect, screen=screen, line=viewer,
                guidance_low_bps=plan.guidance.low_bps, guidance_high_bps=plan.guidance.high_bps,
            )
            at = condition_at(target, rehearsals, screen=screen, line=viewer)
            seen.append(
                Seen(screen=screen, line=viewer, at=at, curve=curve, sentence=first_sentence(plan, curve, at, screen))
            )
    framing, video = plan.video.framing.value, plan.video
    rates = [r.target_bps for r in rehearsals]
    return Parcel(
        destination=destination,
        choices=choices,
        plan=plan,
        slip=packing_slip(plan),
        packed_phrase=f"H.264 · {framing.width}×{framing.height} · {rate_text(video.frame_rate.value)}p",
        file_name=f"{file_stem(facts.name, plan)}.{plan.container.value}",
        figures=Figures(
            size=size, carriage=carriage(size.expected_bytes, line), encode=encode_time(plan, measured_fps=fps)
        ),
        seen=tuple(seen),
        suffers=_suffers(plan, rehearsals, perfect),
        times_guidance=round(plan.times_guidance, 2),
        lowest_bps=min([*rates, round(plan.guidance.low_bps * LOWEST_SHARE / 10_000) * 10_000]),
        highest_bps=max([*rates, round(plan.guidance.high_bps * HIGHEST_SHARE / 10_000) * 10_000]),
    )


def _suffers(plan: Plan, rehearsals: list[Rehearsal], perfect: PerfectUpload | None) -> tuple[Sufferer, ...]:
    """The worst moments of the rehearsal nearest to the plan's rate."""
    if not rehearsals or perfect is None:
        return ()
    nearest = min(rehearsals, key=lambda r: abs(math.log(r.target_bps / plan.video.target_bps.value)))
    raster = picture_raster(Screen.LAPTOP, plan.video.framing.value).yardstick_size
    marks = next((list(y.marks) for y in perfect.yardsticks if y.raster == raster), [])
    return suffers_most(nearest, marks)


def first_sentence(plan: Plan, curve: SurvivalCurve, at: ConditionAt | None, screen: Screen) -> str:
    """What a knowledgeable friend would say first, from computed figures only."""
    if plan.held:
        return f"This cannot be packed yet: {plan.held[0].sentence}"
    name = plan.destination_name.split(" · ")[0]
    where = {"phone": "a phone", "laptop": "a laptop", "tv": "a TV"}[screen]
    target = plan.video.target_bps.value
    if not curve.points:
        return (
            f"{mbps_text(target)} is the {'top of' if plan.video.target_bps.because.code == 'guidance_top' else 'rate against'}"
            f" {name}'s guidance. Rehearse to see on your own pictures where more bits stop arriving."
        )
    if at is None:
        low, high = curve.points[0].bitrate_bps, curve.points[-1].bitrate_bps
        return f"{mbps_text(target)} lies outside the {mbps_text(low)} to {mbps_text(high)} that were rehearsed so far."
    if len(curve.points) < 3:
        return f"So far {mbps_text(target)} arrives at {at.condition:.0f} on {where}, {at.words}; more points are on the way."
    if curve.enough_beyond:
        return (
            f"{name} still passes on more with every step up to {mbps_text(curve.points[-1].bitrate_bps)} on {where}; "
            f"{mbps_text(target)} arrives at {at.condition:.0f}, {at.words}."
        )
    if curve.enough_bps is None:
        return f"{mbps_text(target)} arrives at {at.condition:.0f} on {where}, {at.words}."
    enough = mbps_text(curve.enough_bps)
    if curve.enough_bps <= curve.points[0].bitrate_bps * 1.001:
        return (
            f"Even {enough} is enough on {where}: {name}'s own re-encoding decides what arrives, {at.condition:.0f}, "
            f"{at.words}."
        )
    if target > curve.enough_bps * 1.05:
        saved = plan.video.frames / plan.video.frame_rate.value * (target - curve.enough_bps) / 8
        return (
            f"{enough} is enough on {where}. Your {mbps_text(target)} arrives at {at.condition:.0f}, and the "
            f"{size_text(float(saved))} more buy nothing {name} passes on."
        )
    if target < curve.enough_bps * 0.95 and curve.perfect is not None:
        gain = max(0.0, curve.perfect - 1 - at.condition)
        return (
            f"{enough} would be enough on {where}. Your {mbps_text(target)} arrives at {at.condition:.0f}, {at.words}; "
            f"going up would bring {gain:.0f} more {'point' if round(gain) == 1 else 'points'}."
        )
    return f"{mbps_text(target)} is just enough on {where}: it arrives at {at.condition:.0f}, {at.words}."
