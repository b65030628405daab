"""A parcel as a screen or a report shows it: plan, slip, figures, condition, curve and the first sentence."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from ..arrival.curve import (
    ASSUMED_BAND,
    ConditionAt,
    SurvivalCurve,
    condition_as_it_is,
    condition_at,
    figure,
    likely_range,
    rate_span,
    survival_curve,
    under_assumption,
    untouched,
)
from ..arrival.forecast import Forecast
from ..arrival.rehearsal import Evidence, Rehearsal
from ..arrival.screens import Screen, ViewerLine
from ..master.facts import MasterFacts
from ..plan.caps import is_ruined
from ..plan.carrying import (
    Carriage,
    EncodeTime,
    Line,
    Size,
    Speed,
    carriage,
    encode_time,
    file_size,
    speed_from_history,
)
from ..plan.choices import Choices
from ..plan.naming import file_stem
from ..plan.packing_slip import SlipRow, packing_slip
from ..plan.plan import Plan
from ..sheets.sheet import Destination
from ..stamps import Outcome, Stamp
from ..trade.codecs import SOUND_CODECS, name_of
from ..trade.rate_control import RateControl
from ..values import Model, mbps_text, rate_text, size_text
from .edges import Edge, edges
from .parcel import Parcel, rate_phrase
from .suggestions import Suggestion, step_up_suggestion


class Seen(Model):
    """Condition and curve for one screen on one viewer's line.

    `at` is there once it was tested and is sure enough; before that `likely` says between which points it will probably lie.
    """

    screen: Screen
    line: ViewerLine
    at: ConditionAt | None
    likely: tuple[float, float] | None = None
    curve: SurvivalCurve
    sentence: str


class Figures(Model):
    size: Size
    carriage: Carriage
    encode: EncodeTime


class ParcelSummary(Model):
    """One parcel with everything that is known of it now; `difference` is what sets a sibling apart from the one it was made from.

    Without a picture, or when nothing is encoded, there are no rates to drag along: lowest and highest are None. `stamps` are the
    plan's in the light of what was measured; `suggestions` lead to a larger frame.
    """

    parcel: Parcel
    difference: str
    destination: Destination
    choices: Choices
    plan: Plan
    plan_key: str
    slip: tuple[SlipRow, ...]
    packed_phrase: str
    file_name: str
    figures: Figures
    seen: tuple[Seen, ...]
    times_guidance: float | None
    guidance_words: str
    lowest_bps: int | None
    highest_bps: int | None
    edges: tuple[Edge, ...] = ()
    sentence: str = ""
    suggestions: tuple[Suggestion, ...] = ()
    stamps: tuple[Stamp, ...] = ()

    def at(self, screen: Screen, line: ViewerLine) -> ConditionAt | None:
        """Condition on arrival for one screen and line, as far as it is known."""
        return next((seen.at for seen in self.seen if (seen.screen, seen.line) == (screen, line)), None)


class ArrivalAt(Model):
    """Condition for one screen and line at a rate that is only tried; `likely` is where it will probably lie before it was tested."""

    screen: Screen
    line: ViewerLine
    at: ConditionAt | None
    likely: tuple[float, float] | None = None


class AtRate(Model):
    """What one other bit rate comes to: the small answer while a handle is dragged."""

    bitrate_bps: int
    figures: Figures
    guidance_words: str
    arrivals: tuple[ArrivalAt, ...]
    held: bool


def summarize(
    *,
    parcel: Parcel,
    facts: MasterFacts,
    destination: Destination,
    plan: Plan,
    line: Line,
    known: Forecast,
    rehearsals: list[Rehearsal],
    speed: Speed | None,
    ours: Plan | None = None,
    difference: str = "",
) -> ParcelSummary:
    """Put together what is known of a parcel.

    `known` and `rehearsals` must be of the plan's curve; `ours` is the plan without choices.
    """
    times = plan.times_guidance
    lowest, highest = rate_span(plan, [r.target_bps for r in rehearsals]) or (None, None)
    seen = seen_of(plan, destination, known)
    step = step_up_suggestion(facts, destination, parcel.choices, plan)
    return ParcelSummary(
        parcel=parcel,
        difference=difference,
        destination=destination,
        choices=parcel.choices,
        plan=plan,
        plan_key=plan.key(),
        slip=packing_slip(plan, ours),
        packed_phrase=packed_phrase(plan),
        file_name=f"{file_stem(facts.name, plan)}.{plan.container.value}",
        figures=figures_of(plan, line=line, known=known, rehearsals=rehearsals, speed=speed),
        seen=seen,
        suggestions=(step,) if step else (),
        stamps=stamps_in_the_light_of(plan, seen),
        times_guidance=None if times is None else round(times, 2),
        guidance_words=rate_phrase(plan),
        lowest_bps=lowest,
        highest_bps=highest,
        edges=edges(plan, line),
        sentence="" if plan.video else sound_sentence(plan),
    )


def figures_of(plan: Plan, *, line: Line, known: Forecast, rehearsals: list[Rehearsal], speed: Speed | None) -> Figures:
    """Size, carriage and encode time.

    The achieved rate is read off what is known; the speed is this parcel's own, else what is known of the machine.
    """
    share = known.achieved_share(plan.video.target_bps.value) if plan.video else 1.0
    size = file_size(plan, achieved_share=share)
    local = [r.pack_pictures_per_s for r in rehearsals if r.alone and r.pack_pictures_per_s > 0]
    return Figures(
        size=size,
        carriage=carriage(size.expected_bytes, line),
        encode=encode_time(plan, speed_from_history(local, "rehearsed") or speed),
    )


def at_rate(
    plan: Plan, *, line: Line, known: Forecast, rehearsals: list[Rehearsal], speed: Speed | None, assumed: str | None
) -> AtRate:
    """What a plan at another rate comes to, without its curve, its offers or its slip."""
    bps = plan.picture.target_bps.value
    return AtRate(
        bitrate_bps=bps,
        figures=figures_of(plan, line=line, known=known, rehearsals=rehearsals, speed=speed),
        guidance_words=rate_phrase(plan),
        held=bool(plan.held),
        arrivals=tuple(
            ArrivalAt(screen=screen, line=viewer, at=figure(at), likely=likely_range(at))
            for screen in Screen
            for viewer in ViewerLine
            for at in [under_assumption(condition_at(bps, known, screen=screen, line=viewer), assumed)]
        ),
    )


def seen_of(plan: Plan, destination: Destination, known: Forecast) -> tuple[Seen, ...]:
    """What arrives on every screen and line, with its curve; none for sound alone."""
    return tuple(_seen(plan, destination, known))


def _seen(plan: Plan, destination: Destination, known: Forecast) -> Iterator[Seen]:
    assumed = destination.placement.handling.assumed
    if plan.video is None or plan.guidance is None:
        return
    for screen in Screen:
        for viewer in ViewerLine:
            curve = survival_curve(known, screen=screen, line=viewer)
            if plan.copied and not destination.placement.re_encodes:
                known_at: ConditionAt | None = untouched()
            elif plan.copied:
                known_at = condition_as_it_is(known, screen=screen, line=viewer)
            else:
                known_at = condition_at(plan.video.target_bps.value, known, screen=screen, line=viewer)
            known_at = under_assumption(known_at, assumed)
            at, likely = figure(known_at), likely_range(known_at)
            sentence = first_sentence(plan, destination.sheet_name, curve, at, screen, likely=likely)
            if assumed:
                sentence += f" {destination.assumption}"
                curve = curve.model_copy(update={"band": max(curve.band, ASSUMED_BAND)})
            yield Seen(screen=screen, line=viewer, at=at, likely=likely, curve=curve, sentence=sentence)


def stamps_in_the_light_of(plan: Plan, seen: Sequence[Seen]) -> tuple[Stamp, ...]:
    """The plan's stamps; a rate below the guidance that surely looks as good by the film's own pictures is no matter for care any more."""
    marks = [item.curve.noticeable_step for item in seen if item.line is ViewerLine.GOOD]
    highs = [mark.high_bps for mark in marks if mark and mark.high_bps is not None]
    if plan.video is None or not marks or len(highs) < len(marks) or plan.video.target_bps.value < max(highs):
        return plan.stamps
    texts = "By your own video it is not visibly worse all the same, as the platform handles it today."
    return tuple(
        stamp.model_copy(
            update={
                "outcome": Outcome.CLEARED,
                "matter": "below guidance, and not visibly worse",
                "sentence": f"{stamp.sentence} {texts}",
            }
        )
        if stamp.code == "below_guidance"
        else stamp
        for stamp in plan.stamps
    )


def sound_sentence(plan: Plan) -> str:
    """The first sentence of a parcel without a picture."""
    if plan.held or plan.audio is None:
        return f"This cannot be packed yet: {plan.held[0].sentence}" if plan.held else "There is no sound to send."
    sound, gain = plan.audio, plan.audio.gain_db
    lossless = SOUND_CODECS[sound.codec.value].lossless
    rate = (
        ", nothing lost"
        if lossless or not sound.bitrate_bps.value
        else f" at {round(sound.bitrate_bps.value / 1000)} kbit/s"
    )
    turned = (
        f"turned {'up' if gain.value > 0 else 'down'} {abs(gain.value):.1f} dB" if gain.value else "as loud as it is"
    )
    return f"Sound alone, {name_of(sound.codec.value)}{rate}, {turned}: {gain.because.sentence}."


def packed_phrase(plan: Plan) -> str:
    """What is packed, in a few words: codec, size and rate, or the sound."""
    if plan.video is None:
        return f"{name_of(plan.audio.codec.value)} sound" if plan.audio else "nothing"
    framing, video = plan.video.framing.value, plan.video
    return f"{name_of(video.codec.value)} · {framing.width}×{framing.height} · {rate_text(video.frame_rate.value)}p"


def _untested(likely: tuple[float, float] | None, where: str) -> str:
    """What is not tested yet, how wide the guess is, and what tells."""
    if likely is None:
        return f"Not tested yet: test clips of your own video show what arrives on {where}."
    return f"Not tested yet: between {likely[0]:.0f} and {likely[1]:.0f} on {where} is all that can be said before test clips."


def first_sentence(
    plan: Plan,
    name: str,
    curve: SurvivalCurve,
    at: ConditionAt | None,
    screen: Screen,
    *,
    likely: tuple[float, float] | None = None,
) -> str:
    """What a knowledgeable friend would say first, from computed figures only; `name` is the platform's, `likely` where a condition will
    lie that was not tested."""
    if plan.held:
        return f"This cannot be packed yet: {plan.held[0].sentence}"
    where = {"phone": "a phone", "laptop": "a laptop", "tv": "a TV"}[screen]
    video = plan.picture
    target = video.target_bps.value
    if plan.copied and at and not at.band:
        return f"Sent {plan.method.value}, and {name} encodes nothing again: the master's own picture arrives."
    if plan.copied:
        arrives = f"It arrives at {at.condition:.0f} on {where}, {at.words}." if at else _untested(likely, where)
        return f"Sent {plan.method.value}: nothing is lost on our side. {arrives}"
    supposed = at is None and (likely is not None or (not curve.line and not curve.points))
    if supposed and video.under_cap:
        times = rate_phrase(plan) or "no guidance"
        better = " That is little; the ways below leave it more." if is_ruined(plan) else ""
        return f"{mbps_text(target)} is as much as surely fits under {size_text(plan.size_cap.value)}, {times}.{better}"
    if supposed:
        if video.rate_control.value is RateControl.FIXED:
            return f"{name_of(video.codec.value)} gives every picture the same size, {mbps_text(target)} in all; nothing is left to choose."
        top = plan.guidance and target == plan.guidance.high_bps
        return f"{mbps_text(target)} is {f'the top of {name}’s guidance' if top else rate_phrase(plan)}. {_untested(likely, where)}"
    span = [bps for bps, _ in curve.line] or [point.bitrate_bps for point in curve.points]
    if at is None:
        return f"{mbps_text(target)} lies outside the {mbps_text(span[0])} to {mbps_text(span[-1])} of which something is known so far."
    if 0 < len(curve.points) < 3 and (not curve.computed or curve.evidence is Evidence.SHEET):
        return f"So far {mbps_text(target)} arrives at {at.condition:.0f} on {where}, {at.words}; more points are on the way."
    arrives = f"{mbps_text(target)} arrives at {at.condition:.0f} on {where}, {at.words}"
    words, step, perfect = curve.cannot_be_told, curve.noticeable_step, curve.perfect
    if words is None or step is None or perfect is None:
        return f"{arrives}."
    if words.high_bps is not None and target >= words.high_bps:
        return f"{arrives}: it can’t be told from a perfect upload."
    if step.high_bps is not None and target >= step.high_bps:
        return f"{arrives}: not visibly worse than a perfect upload, {perfect:.0f}."
    if step.low_bps is not None and target < step.low_bps:
        return f"{arrives}: visibly worse than a perfect upload, {perfect:.0f}. More bits still arrive."
    return f"{arrives}. A perfect upload arrives at {perfect:.0f}; whether anybody would see the difference is not sure yet."
