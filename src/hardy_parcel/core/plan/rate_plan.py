"""How many bits a plan asks for, and how the encoder spends them (rules §3)."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from ..errors import BadChoice
from ..sheets.guidance import GuidanceUse
from ..sheets.sheet import Destination
from ..stamps import Chosen, Source, chosen
from ..trade.codec_levels import lowest_level, most_buffer_bits
from ..trade.codecs import CODECS, CodecTraits, name_of, vc3_bps
from ..trade.names import Codec
from ..trade.rate_control import Effort, RateControl
from ..values import mbps_text
from .choice_table import enough_words
from .choices import Choices
from .plan import CeilingRule


@dataclass(frozen=True, slots=True, kw_only=True)
class Leeway:
    """How far a hard moment may go: ceiling over target, and seconds of buffer at the ceiling."""

    ceiling: float
    buffer_s: float
    why: str


UPLOADED = Leeway(
    ceiling=2.0, buffer_s=2.0, why="nobody reads an upload in real time, so hard moments may take what they need"
)
PLAYED = Leeway(ceiling=1.5, buffer_s=1.0, why="a viewer's machine plays this very file and must keep up")
"""What the wider one brings is in docs/decisions.md."""


def leeway(destination: Destination) -> Leeway:
    """Wide where the file is only read to be encoded again, tight where a machine plays it."""
    return UPLOADED if destination.placement.re_encodes else PLAYED


WHY = {
    RateControl.TWO_PASSES: "the first pass finds the hard moments, so the size comes out as planned",
    RateControl.ONE_PASS: "quicker than two passes and looks the same; the file may come out larger or smaller than planned",
    RateControl.QUALITY: "as good everywhere, and never above the ceiling",
    RateControl.FIXED: "every picture of this codec has the same size",
}


@dataclass(frozen=True, slots=True, kw_only=True)
class Rates:
    """Rate control with its target and ceiling (bit/s), buffer (bits) and quality value. `ceiling_rule` says what the ceiling is at other
    targets, where a peak of the destination's machines bounds it."""

    control: Chosen[RateControl]
    target_bps: Chosen[int]
    ceiling_bps: Chosen[int | None]
    buffer_bits: Chosen[int | None]
    quality: Chosen[int | None]
    effort: Chosen[Effort | None]
    ceiling_rule: CeilingRule | None = None


def choose_rates(
    codec: Codec,
    choices: Choices,
    guidance: GuidanceUse,
    destination: Destination,
    *,
    width: int,
    height: int,
    frame_rate: Fraction,
    exact_size: bool,
) -> Rates:
    """Everything about the picture's bits; raises BadChoice for a control the codec has not, or contradicting rates.

    `exact_size` asks for the rate control that meets the planned size, where the creator has not chosen one.
    """
    traits = CODECS[codec]
    control = _control(codec, traits, choices, exact_size=exact_size or not destination.placement.re_encodes)
    if control.value is RateControl.FIXED:
        bps = vc3_bps(width, height, frame_rate)
        none: Chosen[Any] = chosen(None, "fixed", WHY[RateControl.FIXED], Source.STANDARD)
        return Rates(
            control=control,
            target_bps=chosen(bps, "fixed", "what VC-3 HQ gives every picture of this size", Source.STANDARD),
            ceiling_bps=none,
            buffer_bits=none,
            quality=none,
            effort=none,
        )
    target = _target(choices, guidance, destination, control.value)
    ceiling = _ceiling(traits, choices, target.value, control.value, destination)
    return Rates(
        control=control,
        target_bps=target,
        ceiling_bps=ceiling,
        buffer_bits=_buffer(
            codec, choices, ceiling.value, destination, width=width, height=height, frame_rate=frame_rate
        ),
        quality=_quality(codec, traits, choices, control.value),
        effort=_effort(choices),
        ceiling_rule=_ceiling_rule(ceiling, destination),
    )


def _control(codec: Codec, traits: CodecTraits, choices: Choices, *, exact_size: bool) -> Chosen[RateControl]:
    wanted = choices.rate_control
    if wanted is not None and wanted in traits.controls:
        return chosen(wanted, "creator_control", "your choice", Source.CREATOR)
    if wanted is not None:
        possible = ", ".join(traits.controls)
        raise BadChoice(
            f"{name_of(codec)} is not packed with {wanted} here.", f"Choose one of: {possible}.", code="no_such_control"
        )
    usual = traits.controls[0] if exact_size or traits.loose_control is None else traits.loose_control
    why = WHY[usual]
    if traits.searched:
        why = "this encoder misses a rate, so the first pass finds the quality at which the film has its size"
    return chosen(usual, usual.replace(" ", "_"), why, Source.MEASURED)


def _target(choices: Choices, guidance: GuidanceUse, destination: Destination, control: RateControl) -> Chosen[int]:
    at_most = "at most the " if control is RateControl.QUALITY else ""
    if choices.video_bitrate_bps is None:
        until = ", until it is known what is enough" if choices.times_enough else ""
        factor = f", {guidance.factor_for}" if guidance.factor_for else ""
        return chosen(
            guidance.high_bps,
            "guidance_top",
            f"{at_most}top of {destination.sheet_name}'s {guidance.place}, {guidance.frame_rate_class} rates{factor}{until}",
            Source.SHEET,
        )
    words = guidance.words_for(choices.video_bitrate_bps)
    if choices.times_enough:
        return chosen(
            choices.video_bitrate_bps,
            "enough",
            f"{enough_words(choices.times_enough)} by your own footage, {words} "
            f"({mbps_text(guidance.low_bps)} to {mbps_text(guidance.high_bps)})",
            Source.MEASURED,
        )
    return chosen(
        choices.video_bitrate_bps,
        "creator_rate",
        f"your choice, {words} ({mbps_text(guidance.low_bps)} to {mbps_text(guidance.high_bps)})",
        Source.CREATOR,
    )


def _ceiling(
    traits: CodecTraits, choices: Choices, target: int, control: RateControl, destination: Destination
) -> Chosen[int | None]:
    if control in (RateControl.CONSTANT, RateControl.QUALITY):
        why = (
            "the rate itself, filled up where less is needed"
            if control is RateControl.CONSTANT
            else "the rate that is never exceeded"
        )
        if not traits.ceiling_kept:
            why = "what it aims to stay below; hard films go above"
        return chosen(target, "ceiling_is_target", why, Source.STANDARD)
    if not traits.ceiling_kept:
        return chosen(None, "no_ceiling", "the encoder keeps none; hard moments may go above", Source.MEASURED)
    if choices.ceiling_bps is not None:
        if choices.ceiling_bps < target:
            raise BadChoice(
                "The ceiling lies below the bit rate.", "Raise the ceiling or lower the bit rate.", code="low_ceiling"
            )
        return chosen(
            choices.ceiling_bps,
            "creator_ceiling",
            f"your choice, {choices.ceiling_bps / target:.2g} × target",
            Source.CREATOR,
        )
    usual = round(target * leeway(destination).ceiling)
    peak = destination.placement.peak_bps
    if peak and target < peak < usual:
        return chosen(
            peak, "ceiling_peak", f"the peak rate that {destination.sheet_name}'s machines play", Source.SHEET
        )
    return chosen(
        usual, "ceiling", f"{leeway(destination).ceiling:g} × target; {leeway(destination).why}", Source.PROGRAM
    )


def _ceiling_rule(ceiling: Chosen[int | None], destination: Destination) -> CeilingRule | None:
    """What the ceiling of our own follows where a peak bounds it at some targets; None where it is one multiple at all of them."""
    peak = destination.placement.peak_bps
    ours = ceiling.because.source in (Source.SHEET, Source.PROGRAM)
    return CeilingRule(times=leeway(destination).ceiling, peak_bps=peak) if ours and peak else None


def _buffer(
    codec: Codec,
    choices: Choices,
    ceiling: int | None,
    destination: Destination,
    *,
    width: int,
    height: int,
    frame_rate: Fraction,
) -> Chosen[int | None]:
    """The buffer in bits; our own never asks for a higher level than size, rate and ceiling do."""
    if ceiling is None:
        return chosen(None, "no_buffer", "without a ceiling there is none", Source.STANDARD)
    if choices.buffer_s:
        words = f"your choice, {choices.buffer_s:g} s at the ceiling"
        return chosen(round(ceiling * choices.buffer_s), "buffer", words, Source.CREATOR)
    seconds = leeway(destination).buffer_s
    bits = round(ceiling * seconds)
    placement = destination.placement
    try:
        level = lowest_level(
            codec=codec,
            width=width,
            height=height,
            frame_rate=frame_rate,
            ceiling_bps=ceiling,
            buffer_bits=0,
            most=placement.max_level.get(codec),
            tier=placement.max_tier,
        )
    except BadChoice:  # a stamp tells of it
        return chosen(bits, "buffer", f"{seconds:g} s at the ceiling", Source.PROGRAM)
    most = most_buffer_bits(codec, level)
    if most >= bits:
        return chosen(bits, "buffer", f"{seconds:g} s at the ceiling", Source.PROGRAM)
    return chosen(
        most,
        "buffer_of_level",
        f"{most / ceiling:.1f} s at the ceiling, the most that level {level.name} has",
        Source.STANDARD,
    )


def _quality(codec: Codec, traits: CodecTraits, choices: Choices, control: RateControl) -> Chosen[int | None]:
    if control is not RateControl.QUALITY or traits.qualities is None:
        return chosen(None, "by_rate", "the bit rate decides", Source.STANDARD)
    best, worst, usual = traits.qualities
    if choices.quality is None:
        return chosen(
            usual, "quality_usual", f"little is lost to see at this value of {name_of(codec)}'s scale", Source.PROGRAM
        )
    if not best <= choices.quality <= worst:
        what = f"Quality {choices.quality} is outside {best} to {worst} for {name_of(codec)}."
        raise BadChoice(what, "Choose one inside.", code="no_such_quality")
    return chosen(choices.quality, "creator_quality", "your choice", Source.CREATOR)


def _effort(choices: Choices) -> Chosen[Effort | None]:
    if choices.effort is not None:
        return chosen(choices.effort, "creator_effort", "your choice", Source.CREATOR)
    return chosen(Effort.MEDIUM, "effort_medium", "the usual balance of time and condition", Source.PROGRAM)
