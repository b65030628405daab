"""A parcel as a screen or a report shows it: plan, slip, figures, condition, curve and the first sentence."""

from __future__ import annotations

import math
from collections.abc import Iterator

from ..arrival.curve import (
    FIXED_MAP_BAND,
    ConditionAt,
    SurvivalCurve,
    achieved_share,
    condition_as_it_is,
    condition_at,
    survival_curve,
    under_assumption,
)
from ..arrival.rehearsal import PerfectUpload, Rehearsal, Sufferer, suffers_most
from ..arrival.screens import Screen, ViewerLine, picture_raster
from ..master.facts import MasterFacts
from ..plan.caps import is_ruined
from ..plan.carrying import Carriage, EncodeTime, Line, Size, carriage, encode_time, file_size
from ..plan.choices import Choices
from ..plan.naming import file_stem
from ..plan.packing_slip import SlipRow, packing_slip
from ..plan.plan import Plan
from ..sheets.sheet import Destination
from ..trade.codecs import SOUND_CODECS, name_of
from ..trade.rate_control import RateControl
from ..values import Model, mbps_text, rate_text, size_text

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


class ParcelSummary(Model):
    """One master for one destination with everything that is known of it now.

    Without a picture, or when nothing is encoded, there are no rates to drag along: lowest and highest are None.
    """

    destination: Destination
    choices: Choices
    plan: Plan
    plan_key: str
    slip: tuple[SlipRow, ...]
    packed_phrase: str
    file_name: str
    figures: Figures
    seen: tuple[Seen, ...]
    suffers: tuple[Sufferer, ...]
    times_guidance: float | None
    lowest_bps: int | None
    highest_bps: int | None
    sentence: str = ""


def summarize(
    *,
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    plan: Plan,
    line: Line,
    rehearsals: list[Rehearsal],
    perfect: PerfectUpload | None,
    measured_fps: float | None,
    ours: Plan | None = None,
) -> ParcelSummary:
    """Put together what is known of a parcel.

    `rehearsals` must be of the plan's picture key and `perfect` of its way key; `ours` is the plan without choices.
    """
    target = plan.video.target_bps.value if plan.video else 0
    speeds = [r.pack_pictures_per_s for r in rehearsals if r.pack_pictures_per_s > 0]
    fps = sorted(speeds)[len(speeds) // 2] if speeds else measured_fps
    size = file_size(plan, achieved_share=achieved_share(target, rehearsals) if target else 1.0)
    times = plan.times_guidance
    lowest = highest = None
    if plan.video and plan.guidance and not plan.copied:
        rates = [r.target_bps for r in rehearsals]
        lowest = min([*rates, target, round(plan.guidance.low_bps * LOWEST_SHARE / 10_000) * 10_000])
        highest = max([*rates, target, round(plan.guidance.high_bps * HIGHEST_SHARE / 10_000) * 10_000])
    return ParcelSummary(
        destination=destination,
        choices=choices,
        plan=plan,
        plan_key=plan.key(),
        slip=packing_slip(plan, ours),
        packed_phrase=packed_phrase(plan),
        file_name=f"{file_stem(facts.name, plan)}.{plan.container.value}",
        figures=Figures(
            size=size, carriage=carriage(size.expected_bytes, line), encode=encode_time(plan, measured_fps=fps)
        ),
        seen=tuple(_seen(plan, rehearsals, perfect, destination.placement.handling.assumed)),
        suffers=_suffers(plan, rehearsals, perfect),
        times_guidance=None if times is None else round(times, 2),
        lowest_bps=lowest,
        highest_bps=highest,
        sentence="" if plan.video else sound_sentence(plan),
    )


def _seen(
    plan: Plan, rehearsals: list[Rehearsal], perfect: PerfectUpload | None, assumed: str | None
) -> Iterator[Seen]:
    if plan.video is None or plan.guidance is None:
        return
    for screen in Screen:
        for viewer in ViewerLine:
            curve = survival_curve(
                rehearsals, perfect, screen=screen, line=viewer,
                guidance_low_bps=plan.guidance.low_bps, guidance_high_bps=plan.guidance.high_bps,
            )
            if plan.copied:
                at = condition_as_it_is(perfect, screen=screen, line=viewer)
            else:
                at = condition_at(plan.video.target_bps.value, rehearsals, screen=screen, line=viewer)
            at = under_assumption(at, assumed)
            sentence = first_sentence(plan, curve, at, screen)
            if assumed:
                sentence += f" How it re-encodes is assumed, {assumed}; a file that it served back would tell."
                curve = curve.model_copy(update={"band": max(curve.band, FIXED_MAP_BAND)})
            yield Seen(screen=screen, line=viewer, at=at, curve=curve, sentence=sentence)


def sound_sentence(plan: Plan) -> str:
    """The first sentence of a parcel without a picture."""
    if plan.held or plan.audio is None:
        return f"This cannot be packed yet: {plan.held[0].sentence}" if plan.held else "There is no sound to send."
    sound, gain = plan.audio, plan.audio.gain_db
    lossless = SOUND_CODECS[sound.codec.value].lossless
    rate = ", nothing lost" if lossless or not sound.bitrate_bps.value else f" at {round(sound.bitrate_bps.value / 1000)} kbit/s"
    turned = f"turned {'up' if gain.value > 0 else 'down'} {abs(gain.value):.1f} dB" if gain.value else "as loud as it is"
    return f"Sound alone, {name_of(sound.codec.value)}{rate}, {turned}: {gain.because.sentence}."


def packed_phrase(plan: Plan) -> str:
    """What is packed, in a few words: codec, size and rate, or the sound."""
    if plan.video is None:
        return f"{name_of(plan.audio.codec.value)} sound" if plan.audio else "nothing"
    framing, video = plan.video.framing.value, plan.video
    return f"{name_of(video.codec.value)} · {framing.width}×{framing.height} · {rate_text(video.frame_rate.value)}p"


def _suffers(plan: Plan, rehearsals: list[Rehearsal], perfect: PerfectUpload | None) -> tuple[Sufferer, ...]:
    """The worst moments of the rehearsal nearest to the plan's rate."""
    if not rehearsals or perfect is None or plan.video is None:
        return ()
    target = plan.video.target_bps.value
    nearest = min(rehearsals, key=lambda r: abs(math.log(r.target_bps / target)))
    raster = picture_raster(Screen.LAPTOP, plan.video.framing.value).yardstick_size
    marks = next((list(y.marks) for y in perfect.yardsticks if y.raster == raster), [])
    return suffers_most(nearest, marks)


def first_sentence(plan: Plan, curve: SurvivalCurve, at: ConditionAt | None, screen: Screen) -> str:
    """What a knowledgeable friend would say first, from computed figures only."""
    if plan.held:
        return f"This cannot be packed yet: {plan.held[0].sentence}"
    name = plan.destination_name.split(" · ")[0]
    where = {"phone": "a phone", "laptop": "a laptop", "tv": "a TV"}[screen]
    video = plan.picture
    target = video.target_bps.value
    if plan.copied:
        known = f"It arrives at {at.condition:.0f} on {where}, {at.words}" if at else "Rehearse the lane above it to see what arrives"
        return f"Sent {plan.method.value}: no generation is lost on our side. {known}."
    if not curve.points and video.target_bps.because.code == "fits_cap":
        times = f"{plan.times_guidance:.2g} × guidance" if plan.times_guidance else "no guidance"
        better = " That is little; the ways below leave it more." if is_ruined(plan) else ""
        return f"{mbps_text(target)} is as much as surely fits under {size_text(plan.size_cap.value)}, {times}.{better}"
    if not curve.points:
        if video.rate_control.value is RateControl.FIXED:
            return f"{name_of(video.codec.value)} gives every picture the same size, {mbps_text(target)} in all; nothing is left to choose."
        return (
            f"{mbps_text(target)} is the {'top of' if video.target_bps.because.code == 'guidance_top' else 'rate against'}"
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
        saved = video.frames / video.frame_rate.value * (target - curve.enough_bps) / 8
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
