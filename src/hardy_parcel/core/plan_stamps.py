"""Checks on a plan: what is cleared, what wants care, what is held."""

from __future__ import annotations

from fractions import Fraction

from .carrying import file_size
from .facts import MasterFacts, Scan
from .plan import FieldOrder, Outcome, Plan, Stamp, duration_s
from .sheets import Destination
from .values import mbps_text, size_text

CARE, HELD = Outcome.CARE, Outcome.HELD


def stamps(plan: Plan, facts: MasterFacts, destination: Destination) -> tuple[Stamp, ...]:
    """Every check that did not clear, held ones first."""
    found = [*_limits(plan, destination), *_picture(plan, facts), *_rate(plan, facts, destination)]
    return tuple(sorted(found, key=lambda stamp: stamp.outcome is not HELD))


def _stamp(code: str, outcome: Outcome, matter: str, sentence: str) -> Stamp:
    return Stamp(code=code, outcome=outcome, matter=matter, sentence=sentence)


def _limits(plan: Plan, destination: Destination) -> list[Stamp]:
    place, name, found = destination.placement, destination.sheet_name, []
    seconds = duration_s(plan)
    if seconds > place.max_duration_s:
        found.append(_stamp(
            "too_long", HELD, "too long",
            f"{name} takes {place.max_duration_s} s at most and the excerpt has {float(seconds):.1f} s; shorten the excerpt.",
        ))
    size = file_size(plan)
    if size.worst_bytes > place.max_bytes:
        found.append(_stamp(
            "over_cap", HELD, "over the size cap",
            f"{name} takes {size_text(place.max_bytes)} and this may reach {size_text(size.worst_bytes)}; lower the bit rate.",
        ))
    return found


def _picture(plan: Plan, facts: MasterFacts) -> list[Stamp]:
    video, found = facts.video, []
    if video.colour.hdr:
        found.append(_stamp(
            "hdr", HELD, "high dynamic range",
            "The master is HDR and this plan packs standard range only; its colours would come out wrong. "
            "Export an SDR master.",
        ))
    if facts.scan in (Scan.TOP_FIRST, Scan.BOTTOM_FIRST) and plan.video.deinterlace.value is FieldOrder.NONE:
        found.append(_stamp(
            "interlaced", CARE, "interlaced",
            "The master is interlaced and will be packed line for line; combing stays visible in motion.",
        ))
    if video.variable_rate:
        found.append(_stamp(
            "variable_rate", CARE, "variable frame rate",
            "Pictures come at uneven times; some will be repeated or dropped to make the rate constant.",
        ))
    if video.colour.untagged:
        found.append(_stamp(
            "untagged_colour", CARE, "untagged colour",
            f"The {plan.video.colour.because.sentence}.",
        ))
    framing = plan.video.framing.value
    if framing.enlargement() > 1.25:
        found.append(_stamp(
            "enlarged", CARE, f"enlarged {framing.enlargement():.2f} ×",
            "The kept part of the picture has fewer pixels than the frame, so it will look softer than the master.",
        ))
    if framing.kept_area(display_width=video.display_width, display_height=video.display_height) < Fraction(1, 2):
        found.append(_stamp(
            "much_cropped", CARE, "much is cropped",
            f"{1 - framing.kept_area(display_width=video.display_width, display_height=video.display_height):.0%}"
            " of the picture is cut away; look through the film before you send it.",
        ))
    return found


def _rate(plan: Plan, facts: MasterFacts, destination: Destination) -> list[Stamp]:
    target, guidance, name = plan.video.target_bps.value, plan.guidance, destination.sheet_name
    found = []
    if target < 0.6 * guidance.low_bps:
        found.append(_stamp(
            "below_guidance", CARE, "far below guidance",
            f"{mbps_text(target)} is far below the {mbps_text(guidance.low_bps)} that {name} asks for.",
        ))
    recorded = facts.video.bitrate_bps
    if recorded and target > recorded * 1.25 and facts.video.codec in ("h264", "hevc", "vp9", "av1"):
        found.append(_stamp(
            "above_recording", CARE, "more than was recorded",
            f"The master itself has {mbps_text(recorded)}; more bits than that bring nothing back.",
        ))
    return found
