"""Checks on a plan: what is cleared, what wants care, what is held."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..master.facts import MasterFacts, Scan
from ..sheets.sheet import Destination
from ..stamps import Outcome, Stamp
from ..trade.codec_levels import above
from ..trade.codecs import CODECS, name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.rate_control import RateControl
from ..values import mbps_text, rate_text, shape_text, size_text
from . import as_it_is
from .cadence import EVEN_CODES
from .caps import is_ruined
from .carrying import file_size
from .choices import Method
from .framing import SAME_SHAPE, Framing
from .plan import FieldOrder, Plan, VideoPlan, duration_s

CARE, HELD = Outcome.CARE, Outcome.HELD
FAR_ABOVE, JUST_BELOW = 3.0, 0.97
"""Multiples of the guidance's top and bottom beyond which a stamp says so."""


def stamps(plan: Plan, facts: MasterFacts, destination: Destination) -> tuple[Stamp, ...]:
    """Every check that did not clear, held ones first."""
    found = [*_limits(plan, destination), *_streams(plan, facts, destination)]
    if plan.video:
        found += _picture(plan, plan.video, facts, destination)
        found += [*_playable(plan.video, destination), *_rate(plan, plan.video, facts, destination)]
    return tuple(sorted(found, key=lambda stamp: stamp.outcome is not HELD))


def _stamp(code: str, outcome: Outcome, matter: str, sentence: str) -> Stamp:
    return Stamp(code=code, outcome=outcome, matter=matter, sentence=sentence)


def _limits(plan: Plan, destination: Destination) -> Iterator[Stamp]:
    place, name = destination.placement, destination.sheet_name
    seconds = duration_s(plan)
    if seconds > place.max_duration_s:
        yield _stamp(
            "too_long", HELD, "too long",
            f"{name} takes {place.max_duration_s} s at most and the excerpt has {float(seconds):.1f} s; shorten the excerpt.",
        )
    size, cap = file_size(plan), plan.size_cap
    if size.worst_bytes > cap.value:
        says = {
            "creator_cap": f"Your limit is {size_text(cap.value)}",
            "sheet_quota": f"{name} takes {size_text(cap.value)} in {place.quota_days or 1} days",
        }.get(cap.because.code, f"{name} takes {size_text(cap.value)}")
        lowest = plan.video is not None and plan.video.target_bps.because.code == "fits_cap"
        do = "shorten the excerpt" if lowest else "lower the bit rate or shorten the excerpt"
        yield _stamp(
            "over_cap", HELD, "over the quota" if cap.because.code == "sheet_quota" else "over the size cap",
            f"{says} and this may reach {size_text(size.worst_bytes)}{' even at the lowest rate' if lowest else ''}; {do}.",
        )


def _streams(plan: Plan, facts: MasterFacts, destination: Destination) -> Iterator[Stamp]:
    place, name = destination.placement, destination.sheet_name
    if plan.video is None and plan.audio is None:
        yield _stamp("nothing_left", HELD, "nothing to send", f"There is neither picture nor sound to send to {name}; take one of them in.")
    elif plan.video is None and place.picture:
        yield _stamp("no_picture", HELD, "no picture", f"{name} takes films, and the picture is left out; take it in again.")
    if plan.container.value not in place.containers:
        yield _stamp(
            "container_not_taken", HELD, "container not taken",
            f"{name} does not take {CONTAINER_NAMES[plan.container.value]}; choose another container.",
        )
    if plan.method.value is not Method.ENCODE and (reasons := as_it_is.against(facts, destination, plan.excerpt)):
        yield _stamp("not_as_it_is", HELD, "not as it is", f"It cannot go as it is: {'; '.join(reasons)}. Let it be encoded instead.")
    untouched = plan.method.value is Method.UNTOUCHED
    if facts.chapters and not plan.chapters.value:
        why = plan.chapters.because.sentence
        yield _stamp("chapters_lost", CARE, "chapters lost", f"The master's {facts.chapters} chapters stay behind: {why}.")
    if facts.captions and not untouched:
        yield _stamp("captions_lost", CARE, "captions lost", "The master's captions are not packed; hand them over as a file beside it.")


def _picture(plan: Plan, picture: VideoPlan, facts: MasterFacts, destination: Destination) -> Iterator[Stamp]:
    video, name = facts.video, destination.sheet_name
    if video.colour.hdr and not plan.copied:
        yield _stamp(
            "hdr", HELD, "high dynamic range",
            "The master is HDR and this plan packs standard range only; its colours would come out wrong. "
            "Export an SDR master.",
        )
    if facts.scan in (Scan.TOP_FIRST, Scan.BOTTOM_FIRST) and picture.deinterlace.value is FieldOrder.NONE and not plan.copied:
        yield _stamp(
            "interlaced", CARE, "interlaced",
            "The master is interlaced and will be packed line for line; combing stays visible in motion.",
        )
    if video.variable_rate and not plan.copied:
        yield _stamp(
            "variable_rate", CARE, "variable frame rate",
            "Pictures come at uneven times; some will be repeated or dropped to make the rate constant.",
        )
    if picture.frame_rate.value > destination.placement.max_frame_rate:
        most = rate_text(destination.placement.max_frame_rate)
        yield _stamp("rate_not_taken", HELD, "frame rate not taken", f"{name} takes {most} frames/s at most; choose a lower frame rate.")
    if picture.frame_rate.because.code not in EVEN_CODES and not plan.copied:
        yield _stamp("uneven_cadence", CARE, "uneven cadence", f"{picture.frame_rate.because.sentence.capitalize()}.")
    if video.colour.untagged:
        said = picture.colour.because.sentence if not plan.copied else "master is untagged, and players will guess"
        yield _stamp("untagged_colour", CARE, "untagged colour", f"The {said}.")
    framing = picture.framing.value
    if framing.mode is not None:
        how = "bars are packed with it" if framing.bars else "its edges are cut"
        how = "a blurred copy of it fills the edges" if framing.blurred else how
        yield _another_shape(framing, facts, destination, how)
    if framing.enlargement() > 1.25:
        yield _stamp(
            "enlarged", CARE, f"enlarged {framing.enlargement():.2f} ×",
            "The kept part of the picture has fewer pixels than the frame, so it will look softer than the master.",
        )
    kept = framing.kept_area(width=facts.active.width, height=facts.active.height)
    if kept < Fraction(1, 2):
        yield _stamp(
            "much_cropped", CARE, "much is cropped",
            f"{1 - kept:.0%} of the picture is cut away; look through the film before you send it.",
        )


def _another_shape(framing: Framing, facts: MasterFacts, destination: Destination, how: str) -> Stamp:
    """What became of the picture's own shape, and whose wish that was."""
    name, own = destination.sheet_name, facts.active.shape
    if framing.shape and abs(framing.shape / own - 1) <= SAME_SHAPE:
        return _stamp("zoomed", CARE, "zoomed in", f"You zoomed in, so {how}.")
    if destination.placement.accepts_shape(own) and framing.shape:
        said = f"You chose {shape_text(framing.shape)} instead of the master's shape, so {how}."
        return _stamp("wrong_shape", CARE, "another shape", said)
    return _stamp("wrong_shape", CARE, "another shape", f"The master has not the shape that {name} shows, so {how}.")


def _playable(picture: VideoPlan, destination: Destination) -> Iterator[Stamp]:
    place, name, codec = destination.placement, destination.sheet_name, picture.codec.value
    if picture.level.because.code == "no_level":
        yield _stamp("no_level", HELD, "beyond every level", f"{picture.level.because.sentence} Choose less of one of them.")
    framing, (wide, high) = picture.framing.value, CODECS[codec].least
    if picture.effort.because.code != "as_it_is" and (framing.width < wide or framing.height < high):
        yield _stamp(
            "too_small", HELD, "too small for the codec",
            f"{name_of(codec)} begins at {wide}×{high} and this is {framing.width}×{framing.height}; choose another codec "
            "or a larger frame.",
        )
    most = place.max_level.get(codec)
    if most and picture.level.value and above(codec, picture.level.value, most):
        yield _stamp(
            "level_too_high", HELD, "level too high",
            f"It needs level {picture.level.value} and {name}'s machines play {most} at most; lower the size, the frame rate "
            "or the bit rate.",
        )
    if place.peak_bps and picture.ceiling_bps.value and picture.ceiling_bps.value > place.peak_bps:
        yield _stamp(
            "peak_too_high", HELD, "peak rate too high",
            f"It may reach {mbps_text(picture.ceiling_bps.value)} and {name}'s machines play {mbps_text(place.peak_bps)} at most; "
            "lower the bit rate or the ceiling.",
        )


def _rate(plan: Plan, picture: VideoPlan, facts: MasterFacts, destination: Destination) -> Iterator[Stamp]:
    target, guidance, name = picture.target_bps.value, plan.guidance, destination.sheet_name
    free = picture.rate_control.value is not RateControl.FIXED
    if guidance and is_ruined(plan):
        yield _stamp(
            "cap_ruins", CARE, "little is left under the cap",
            f"Under {size_text(plan.size_cap.value)} the picture gets {mbps_text(target)}, {target / guidance.low_bps:.0%} of the least "
            f"that {name} asks for; a smaller frame, another codec or a shorter excerpt does it more good.",
        )
    elif guidance and free and target < JUST_BELOW * guidance.low_bps:
        yield _stamp(
            "below_guidance", CARE, "below guidance",
            f"{mbps_text(target)} is below the {mbps_text(guidance.low_bps)} that {name} asks for.",
        )
    if guidance and free and target > FAR_ABOVE * guidance.high_bps:
        yield _stamp(
            "far_above_guidance", CARE, "far above guidance",
            f"{mbps_text(target)} is {target / guidance.high_bps:.1f} × the top of what {name} asks for; it makes the file "
            "larger and is seldom passed on.",
        )
    recorded = facts.video.bitrate_bps
    if recorded and free and not plan.copied and target > recorded * 1.25 and facts.video.codec in ("h264", "hevc", "vp9", "av1"):
        yield _stamp(
            "above_recording", CARE, "more than was recorded",
            f"The master itself has {mbps_text(recorded)}; more bits than that bring nothing back.",
        )
