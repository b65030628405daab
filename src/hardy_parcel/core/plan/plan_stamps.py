"""Checks on a plan: what is cleared, what wants care, what is held."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..master.facts import INTERLACED, MasterFacts
from ..sheets.sheet import Destination
from ..stamps import Outcome, Source, Stamp
from ..trade.codec_levels import above
from ..trade.codecs import CODECS, RATE_AGAINST_H264, name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.rate_control import RateControl
from ..values import mbps_text, rate_text, shape_text, size_text
from . import as_it_is
from .caps import is_ruined
from .carrying import file_size
from .choices import Captions, Method
from .framing import SAME_SHAPE, Framing
from .plan import CapOf, FieldOrder, Plan, VideoPlan, duration_s

CARE, HELD = Outcome.CARE, Outcome.HELD
FAR_ABOVE, JUST_BELOW = 3.0, 0.97
"""Multiples of the guidance's top and bottom beyond which a stamp says so."""
FAR_ABOVE_RECORDED = 3.0
"""A second generation needs more than was recorded to keep it; beyond this the rest is below what can be seen."""
ENLARGED, WHOLE = 1.25, 0.99
"""A part of the picture that is enlarged by more than this is softer than the master was on the same screen."""


def stamps(plan: Plan, facts: MasterFacts, destination: Destination) -> tuple[Stamp, ...]:
    """Every check that did not clear, held ones first."""
    found = [*_limits(plan, destination), *_streams(plan, facts, destination)]
    if plan.video:
        found += _picture(plan, plan.video, facts, destination)
        found += [*_playable(plan, plan.video, destination), *_rate(plan, plan.video, facts, destination)]
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
            CapOf.CREATOR: f"Your limit is {size_text(cap.value)}",
            CapOf.QUOTA: f"{name} takes {size_text(cap.value)} in {place.quota_days or 1} days",
            CapOf.SHEET: f"{name} takes {size_text(cap.value)}",
        }[plan.cap_of]
        lowest = plan.video is not None and plan.video.under_cap
        do = "shorten the excerpt" if lowest else "lower the bit rate or shorten the excerpt"
        yield _stamp(
            "over_cap", HELD, "over the quota" if plan.cap_of is CapOf.QUOTA else "over the size cap",
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
    if plan.method.value is not Method.ENCODE and (reasons := _against(plan, facts, destination)):
        yield _stamp("not_as_it_is", HELD, "not as it is", f"It cannot go as it is: {'; '.join(reasons)}. Let it be encoded instead.")
    untouched = plan.method.value is Method.UNTOUCHED
    if facts.chapters and plan.chapters.value is False and plan.chapters.because.source is not Source.CREATOR:
        why = plan.chapters.because.sentence
        yield _stamp("chapters_lost", CARE, "chapters lost", f"The master's {facts.chapters} chapters stay behind: {why}.")
    if plan.captions.value is Captions.LEFT_OUT and plan.captions.because.source is not Source.CREATOR:
        why = f"{plan.captions.because.sentence}; they can go in a file beside it"
        yield _stamp("captions_lost", CARE, "captions lost", f"The master's captions stay behind: {why}.")
    if len(facts.captions) > len(facts.text_captions) and not untouched:
        why = "Captions of the master that are pictures stay behind; only text can be carried elsewhere."
        yield _stamp("picture_captions_lost", CARE, "picture captions lost", why)


def _against(plan: Plan, facts: MasterFacts, destination: Destination) -> list[str]:
    kept = plan.audio is not None and plan.audio.copied
    return as_it_is.against(facts, destination, plan.excerpt, sound_too=kept)


def _picture(plan: Plan, picture: VideoPlan, facts: MasterFacts, destination: Destination) -> Iterator[Stamp]:
    video, name = facts.video, destination.sheet_name
    if video.colour.hdr and not plan.copied:
        yield _stamp(
            "hdr", HELD, "high dynamic range",
            "The master is HDR and this plan packs standard range only; its colours would come out wrong. "
            "Export an SDR master.",
        )
    if facts.scan in INTERLACED and picture.deinterlace.value is FieldOrder.NONE and not plan.copied:
        yield _fields_kept(picture.framing.value, surely=facts.measured_scan in INTERLACED)
    if video.variable_rate and not plan.copied:
        yield _stamp(
            "variable_rate", CARE, "variable frame rate",
            "Pictures come at uneven times; some will be repeated or dropped to make the rate constant.",
        )
    if picture.frame_rate.value > destination.placement.max_frame_rate:
        most = rate_text(destination.placement.max_frame_rate)
        yield _stamp("rate_not_taken", HELD, "frame rate not taken", f"{name} takes {most} frames/s at most; choose a lower frame rate.")
    if not picture.even_motion:
        yield _stamp("uneven_cadence", CARE, "uneven cadence", f"{picture.frame_rate.because.sentence.capitalize()}.")
    if picture.colour_labelled and not plan.copied and not video.colour.hdr:
        yield _stamp(
            "colour_differs", CARE, "colours not converted",
            f"The master's {' and '.join(picture.colour_labelled)} cannot be converted here, so its colours will look a little different.",
        )
    if video.colour.untagged and facts.mending.colour is None:
        said = picture.colour.because.sentence if not plan.copied else "master is untagged, and players will guess"
        yield _stamp("untagged_colour", CARE, "untagged colour", f"The {said}.")
    framing = picture.framing.value
    if framing.mode is not None:
        how = "bars are packed with it" if framing.bars else "its edges are cut"
        how = "a blurred copy of it fills the edges" if framing.blurred else how
        yield _another_shape(framing, facts, destination, how)
    kept = framing.kept_area(width=facts.active.width, height=facts.active.height)
    if framing.enlargement() > ENLARGED and kept < WHOLE:  # all of it fills the same screen either way
        yield _stamp(
            "enlarged", CARE, f"enlarged {framing.enlargement():.2f} ×",
            "The kept part of the picture has fewer pixels than the frame, so it will look softer than the master.",
        )
    if kept < Fraction(1, 2):
        yield _stamp(
            "much_cropped", CARE, "much is cropped",
            f"{1 - kept:.0%} of the picture is cut away; look through the film before you send it.",
        )


def _fields_kept(framing: Framing, *, surely: bool) -> Stamp:
    """What leaving two fields woven into each picture does; lines of two moments must never be mixed by a scaler.

    Only what was `surely`, by measurement, interlaced is held: a flag alone may be wrong.
    """
    if surely and (framing.picture.height != framing.crop.height or framing.crop.y % 2):
        return _stamp(
            "fields_scaled", HELD, "fields would be scaled",
            "The master is interlaced, and scaling its height smears the two fields of each picture into each other; let it be "
            "deinterlaced, or keep its own height.",
        )
    return _stamp(
        "interlaced", CARE, "interlaced",
        "The master is interlaced and goes line for line, so combs stay on whatever moves; let it be deinterlaced.",
    )


def _another_shape(framing: Framing, facts: MasterFacts, destination: Destination, how: str) -> Stamp:
    """What became of the picture's own shape, and whose wish that was."""
    name, own = destination.sheet_name, facts.active.shape
    if framing.shape and abs(framing.shape / own - 1) <= SAME_SHAPE:
        return _stamp("zoomed", CARE, "zoomed in", f"You zoomed in, so {how}.")
    if destination.placement.accepts_shape(own) and framing.shape:
        said = f"You chose {shape_text(framing.shape)} instead of the master's shape, so {how}."
        return _stamp("wrong_shape", CARE, "another shape", said)
    return _stamp("wrong_shape", CARE, "another shape", f"The shape doesn’t match {name}, so {how}.")


def _playable(plan: Plan, picture: VideoPlan, destination: Destination) -> Iterator[Stamp]:
    place, name, codec = destination.placement, destination.sheet_name, picture.codec.value
    if picture.beyond_levels:
        yield _stamp("no_level", HELD, "beyond every level", f"{picture.level.because.sentence} Choose less of one of them.")
    framing, (wide, high) = picture.framing.value, CODECS[codec].least
    if not plan.copied and (framing.width < wide or framing.height < high):
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
    elif guidance and free and not plan.copied and target < JUST_BELOW * guidance.low_bps:
        yield _stamp(
            "below_guidance", CARE, "below guidance",
            f"{mbps_text(target)} is below the {mbps_text(guidance.low_bps)} that {name} asks for.",
        )
    if guidance and free and not plan.copied and target > FAR_ABOVE * guidance.high_bps:
        yield _stamp(
            "far_above_guidance", CARE, "far above guidance",
            f"{mbps_text(target)} is {target / guidance.high_bps:.1f} × the top of what {name} asks for; it makes the file "
            "larger and is seldom passed on.",
        )
    recorded, theirs, ours = facts.video.bitrate_bps, facts.video.codec, picture.codec.value
    if not (recorded and free and guidance and theirs in RATE_AGAINST_H264 and ours in RATE_AGAINST_H264) or plan.copied:
        return
    worth = recorded / RATE_AGAINST_H264[theirs] * RATE_AGAINST_H264[ours]
    if target > max(FAR_ABOVE_RECORDED * worth, guidance.high_bps):
        as_ours = "" if ours == theirs else f", worth about {mbps_text(round(worth))} of {name_of(ours)}"
        yield _stamp(
            "above_recording", CARE, "far more than was recorded",
            f"The master was recorded with {mbps_text(recorded)} of {name_of(theirs)}{as_ours}; beyond some "
            f"{FAR_ABOVE_RECORDED:g} times that more bits bring nothing back.",
        )
