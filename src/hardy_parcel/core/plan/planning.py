"""From facts, destination and the creator's choices to a complete plan (rules §3)."""

from __future__ import annotations

import math
from fractions import Fraction
from typing import Any

from pydantic import ValidationError

from ..errors import BadChoice
from ..master.facts import Excerpt, MasterFacts
from ..sheets.guidance import look_up
from ..sheets.sheet import Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.codec_levels import TABLES, lowest_level
from ..trade.codecs import CODECS, SOUND_CODECS, name_of, takes
from ..trade.containers import CHAPTERS_IN, CONTAINER_NAMES, FAST_START
from ..trade.names import Codec, Container, SoundCodec
from ..values import rate_text
from . import as_it_is, caps, plan_stamps
from .cadence import Cadence, choose_rate
from .choice_table import released
from .choices import Choices, Method
from .framing import Framing, choose_framing
from .picture_plan import colour, deinterlace, framing_because, pixel_sentence, sharpening
from .plan import FieldOrder, Plan, VideoPlan
from .rate_plan import Rates, choose_rates
from .sound_plan import choose_codec, plan_sound


def whole_excerpt(facts: MasterFacts) -> Excerpt:
    """The excerpt that takes the whole master."""
    return Excerpt(in_s=Fraction(0), out_s=facts.duration_s)


def check_excerpt(excerpt: Excerpt, facts: MasterFacts) -> Excerpt:
    """The excerpt, refused when it does not lie in the master or holds no picture."""
    if not 0 <= excerpt.in_s < facts.duration_s or excerpt.out_s > facts.duration_s + Fraction(1, 100):
        raise BadChoice(
            f"The excerpt must lie within the master's {float(facts.duration_s):.2f} s.", "Move the in or the out point."
        )
    if excerpt.duration_s * facts.video.frame_rate < Fraction(3, 4):
        raise BadChoice("The out point must come after the in point.", "Leave at least one picture between them.")
    return Excerpt(in_s=excerpt.in_s, out_s=min(excerpt.out_s, facts.duration_s))


def make_plan(
    facts: MasterFacts, destination: Destination, choices: Choices | None = None, excerpt: Excerpt | None = None
) -> Plan:
    """The plan of one parcel. Same arguments, same plan.

    Raises BadChoice for an excerpt outside the master and for a choice that contradicts itself or the sheet; whatever
    lies in the master is a stamp of the plan instead.
    """
    choices = choices or Choices()
    excerpt = check_excerpt(excerpt or whole_excerpt(facts), facts)
    if not destination.placement.picture or not choices.picture:
        draft = _sound_alone(facts, destination, choices, excerpt)
    elif choices.method in (Method.UNTOUCHED, Method.REWRAP):
        draft = _as_it_is(facts, destination, choices, excerpt)
    else:
        draft = _encoded(facts, destination, choices, excerpt)
    return draft.model_copy(update={"stamps": plan_stamps.stamps(draft, facts, destination)})


def plan_anyway(
    facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt | None = None
) -> tuple[Choices, Plan]:
    """The plan, and the choices it follows: where a sheet was changed under them, what it does not take any more is left to us."""
    usual = Choices()
    chosen = [name for name in Choices.model_fields if getattr(choices, name) != getattr(usual, name)]
    without_one = (choices.model_copy(update={name: getattr(usual, name)} | released({name: None})) for name in chosen)
    for kept in (choices, *without_one, choices.only_framing(), Choices(framing=choices.framing)):
        try:
            return kept, make_plan(facts, destination, kept, excerpt)
        except BadChoice as error:
            refused = error
    raise refused


def at_same_multiple(
    facts: MasterFacts, destination: Destination, choices: Choices, before: Plan, excerpt: Excerpt | None = None
) -> Choices:
    """The choices with a typed bit rate moved along with the guidance, where another frame or codec has another one.

    `before` is the plan that the rate was typed for. Raises BadChoice for choices that no plan can follow.
    """
    after = make_plan(facts, destination, choices, excerpt)
    typed = choices.video_bitrate_bps
    if typed is None or before.guidance is None or after.guidance is None or before.copied or after.copied:
        return choices
    if before.guidance.high_bps == after.guidance.high_bps:
        return choices
    moved = choices.at_rate(after.guidance.times(before.guidance.multiple_of(typed)), typed)
    make_plan(facts, destination, moved, excerpt)
    return moved


def changed(
    facts: MasterFacts, destination: Destination, choices: Choices, part: dict[str, Any], excerpt: Excerpt | None = None
) -> Choices:
    """The choices with some of them changed, what those release left to the plan, and a ceiling that follows its rate.

    `part` is by the names of the choices. Raises BadChoice for what cannot be read or followed.
    """
    try:
        wanted = Choices.model_validate(choices.model_dump() | released(part) | part)
    except ValidationError as error:
        faults = "; ".join(f"{fault['loc'][0] if fault['loc'] else 'choices'}: {fault['msg']}" for fault in error.errors()[:4])
        raise BadChoice(f"These choices cannot be read: {faults}.", "Correct them.", code="bad_setting") from error
    if "video_bitrate_bps" in part and "ceiling_bps" not in part and wanted.ceiling_bps is not None:
        before = make_plan(facts, destination, choices, excerpt).picture.target_bps.value
        bare = wanted.model_copy(update={"ceiling_bps": None})
        after = make_plan(facts, destination, bare, excerpt).picture.target_bps.value
        wanted = wanted.model_copy(update={"ceiling_bps": choices.at_rate(after, before).ceiling_bps})
    make_plan(facts, destination, wanted, excerpt)
    return wanted


def _encoded(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    place, video, mending = destination.placement, facts.video, facts.mending
    codec = _codec(destination, choices)
    container, sound_codec = _container(facts, destination, choices, codec.value)
    framing = choose_framing(
        place, display_width=video.display_width, display_height=video.display_height, wish=choices.wish(mending.focus),
        active=mending.remove_bars,
    )
    master_rate = mending.constant_rate if video.variable_rate and mending.constant_rate else video.frame_rate
    fields = deinterlace(facts)
    cadence = choose_rate(
        master_rate=master_rate, variable=video.variable_rate, cap=place.max_frame_rate, wanted=choices.frame_rate,
        fields=fields.value is not FieldOrder.NONE,
    )
    rate = cadence.frame_rate
    guidance = look_up(place, width=framing.width, height=framing.height, frame_rate=rate, codec=codec.value)
    audio, no_audio = plan_sound(facts, destination, choices, sound_codec)
    method = chosen(
        Method.ENCODE, "encoded", "your choice" if choices.method else "so that size, rate and bit rate are as planned",
        Source.CREATOR if choices.method else Source.PROGRAM,
    )

    def at(bps: int | None) -> Plan:
        wanted = choices if bps is None else choices.model_copy(update={"video_bitrate_bps": bps})
        rates = choose_rates(
            codec.value, wanted, guidance, destination, width=framing.width, height=framing.height, frame_rate=rate
        )
        picture = _picture(facts, destination, choices, codec, framing, cadence, fields, rates, excerpt)
        return _plan(
            facts, destination, choices, excerpt, method=method, container=container, video=picture, audio=audio,
            no_audio_because=no_audio, guidance=guidance,
        )

    return caps.fitted(at(None), choices, at)


def _sound_alone(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    place, name = destination.placement, destination.sheet_name
    codec = choose_codec(place.audio, choices, None, name)
    container = _chosen_container(choices, [SOUND_CODECS[codec.value].alone], f"what {name_of(codec.value)} alone stands in")
    audio, no_audio = plan_sound(facts, destination, choices, codec)
    why = Because(code="picture_left_out", sentence="left out on purpose", source=Source.CREATOR)
    if not place.picture:
        why = Because(code="sound_feed", sentence=f"{name} takes sound only", source=Source.SHEET)
    plan = _plan(
        facts, destination, choices, excerpt, method=chosen(Method.ENCODE, "encoded", f"as {name} asks for it", Source.SHEET),
        container=container, video=None, no_picture_because=why, audio=audio, no_audio_because=no_audio, guidance=None,
    )
    return caps.fitted_sound(plan, choices)


def _as_it_is(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    video = facts.video
    method, own = as_it_is.best_method(facts, destination, choices)
    frames = max(1, round(facts.duration_s * video.frame_rate))
    guidance = look_up(
        destination.placement, width=video.display_width, height=video.display_height, frame_rate=video.frame_rate,
        codec=video.codec if video.codec in CODECS else "h264",
    )
    sound = as_it_is.recorded_sound(facts)
    return _plan(
        facts, destination, choices, excerpt, method=as_it_is.method_because(method, own, destination),
        container=chosen(own, "container_kept", "as the master", Source.MASTER) if method is Method.UNTOUCHED
        else chosen(own, "container_accepted", f"taken by {destination.sheet_name}", Source.SHEET),
        video=as_it_is.recorded_picture(facts, frames), audio=sound,
        no_audio_because=None if sound else Because(code="no_sound", sentence="the master has none", source=Source.MASTER),
        guidance=guidance, master_bytes=facts.size_bytes,
    )


def _plan(
    facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt, *, method: Chosen[Method],
    container: Chosen[Container], **parts: Any,
) -> Plan:
    untouched = method.value is Method.UNTOUCHED
    return Plan(
        destination_id=destination.id,
        destination_name=destination.full_name,
        sheet_version=destination.sheet_version,
        master_content_id=facts.content_id,
        excerpt=excerpt,
        method=method,
        container=container,
        fast_start=_fast_start(facts, choices, container.value, untouched=untouched),
        chapters=_chapters(facts, destination, container.value, untouched=untouched),
        size_cap=caps.size_cap(choices, destination.placement, destination.sheet_name),
        stamps=(),
        **parts,
    )


def _codec(destination: Destination, choices: Choices) -> Chosen[Codec]:
    taken, name = destination.placement.codecs, destination.sheet_name
    if choices.codec is None:
        first = "taken by" if len(taken) == 1 else "the first choice of"
        return chosen(taken[0], "codec_accepted", f"{first} {name}", Source.SHEET)
    if choices.codec not in taken:
        names = ", ".join(name_of(codec) for codec in taken)
        raise BadChoice(f"{name} does not take {name_of(choices.codec)}.", f"Choose one of: {names}.", code="not_taken")
    return chosen(choices.codec, "creator_codec", f"your choice, taken by {name}", Source.CREATOR)


def _container(
    facts: MasterFacts, destination: Destination, choices: Choices, codec: Codec
) -> tuple[Chosen[Container], Chosen[SoundCodec]]:
    """The container and, since one decides the other, the sound codec in it."""
    place, name = destination.placement, destination.sheet_name
    silent = facts.audio is None or not choices.sound
    if choices.container is not None and choices.container not in place.containers:
        taken = ", ".join(CONTAINER_NAMES[container] for container in place.containers)
        raise BadChoice(f"{name} does not take {CONTAINER_NAMES[choices.container]}.", f"Choose one of: {taken}.", code="not_taken")
    possible = [choices.container] if choices.container else [one for one in CODECS[codec].containers if one in place.containers]
    sounds = [choices.sound_codec] if choices.sound_codec else list(place.audio.codecs)
    fitting = [one for one in possible if any(takes(one, codec, None if silent else sound) for sound in sounds)]
    if not fitting:
        raise BadChoice(
            f"{name} takes no container that holds {name_of(codec)} with {' or '.join(name_of(sound) for sound in sounds)}.",
            "Choose another codec, container or sound.", code="no_container",
        )
    container = _chosen_container(choices, fitting, f"taken by {name}")
    return container, choose_codec(place.audio, choices, None if silent else container.value, name)


def _chosen_container(choices: Choices, fitting: list[Container], why: str) -> Chosen[Container]:
    if choices.container is None:
        return chosen(fitting[0], "container_accepted", why, Source.SHEET)
    if choices.container not in fitting:
        own, other = CONTAINER_NAMES[choices.container], CONTAINER_NAMES[fitting[0]]
        raise BadChoice(f"{own} does not hold this.", f"Choose {other}.", code="no_container")
    return chosen(choices.container, "creator_container", "your choice", Source.CREATOR)


def _fast_start(facts: MasterFacts, choices: Choices, container: Container, *, untouched: bool) -> Chosen[bool]:
    if untouched:
        return chosen(bool(facts.fast_start), "as_it_is", "as it is in the master", Source.MASTER)
    if container not in FAST_START:
        return chosen(False, "no_index", f"{CONTAINER_NAMES[container]} can be played from its start as it comes", Source.STANDARD)
    if choices.fast_start is not None:
        return chosen(choices.fast_start, "creator_fast_start", "your choice; it changes nothing of the picture", Source.CREATOR)
    return chosen(
        True, "fast_start", "the index stands first, so playing can begin before all has come; the picture is the same",
        Source.PROGRAM,
    )


def _chapters(facts: MasterFacts, destination: Destination, container: Container, *, untouched: bool) -> Chosen[bool]:
    if not facts.chapters:
        return chosen(False, "no_chapters", "the master has none", Source.MASTER)
    name = destination.sheet_name
    if untouched:
        return chosen(True, "as_it_is", "as they are in the master", Source.MASTER)
    if "chapters" not in destination.placement.keeps:
        return chosen(False, "chapters_not_kept", f"{name} does not show chapters", Source.SHEET)
    if container not in CHAPTERS_IN:
        return chosen(False, "chapters_not_held", f"{CONTAINER_NAMES[container]} holds none", Source.STANDARD)
    return chosen(True, "chapters_kept", f"{name} shows them", Source.SHEET)


def _picture(
    facts: MasterFacts, destination: Destination, choices: Choices, codec: Chosen[Codec], framing: Framing, cadence: Cadence,
    fields: Chosen[FieldOrder], rates: Rates, excerpt: Excerpt,
) -> VideoPlan:
    video, traits, rate = facts.video, CODECS[codec.value], cadence.frame_rate
    level, tier = _level(codec.value, framing, rate, rates)
    tags, matrix, colour_range = colour(video)
    seconds, own = choices.keyframe_interval_s or destination.placement.keyframe_interval_s, choices.keyframe_interval_s is not None
    keyframes: Chosen[int | None] = chosen(
        max(1, round(seconds * rate)), "keyframes", f"{'your choice, ' if own else ''}{seconds:g} s at this rate, closed",
        Source.CREATOR if own else Source.SHEET,
    )
    if codec.value == "vc3":
        keyframes = chosen(1, "intra", "every picture stands for itself", Source.STANDARD)
    return VideoPlan(
        codec=codec,
        profile=chosen(traits.profile, "profile", _profile_because(codec.value), Source.STANDARD),
        level=level,
        tier=tier,
        framing=Chosen(value=framing, because=framing_because(framing, facts, destination, choices)),
        deinterlace=fields,
        field_rate=cadence.of_fields,
        pixel_format=chosen(traits.pixel_format, "pixel_format", pixel_sentence(video, codec.value), Source.STANDARD),
        frame_rate=Chosen(
            value=rate,
            because=Because(
                code=cadence.code, sentence=cadence.sentence,
                source=Source.CREATOR if cadence.code.startswith("creator") else Source.SHEET if cadence.keep_every > 1 else Source.MASTER,
            ),
        ),
        keep_every=cadence.keep_every,
        frames=max(1, math.floor(excerpt.duration_s * rate + Fraction(1, 4))),
        rate_control=rates.control,
        target_bps=rates.target_bps,
        ceiling_bps=rates.ceiling_bps,
        buffer_bits=rates.buffer_bits,
        quality=rates.quality,
        keyframe_interval_frames=keyframes,
        effort=rates.effort,
        colour=tags,
        source_matrix=matrix,
        source_range=colour_range,
        scaler=chosen("bicubic", "scaler", "sharp without ringing at these ratios", Source.PROGRAM),
        sharpen=sharpening(framing, choices),
    )


def _level(codec: Codec, framing: Framing, rate: Fraction, rates: Rates) -> tuple[Chosen[str | None], str]:
    """The lowest sufficient level and its tier; None for a codec without levels, and where none suffices, which a stamp holds."""
    if codec not in TABLES:
        return chosen(None, "no_levels", f"{name_of(codec)} has none to choose", Source.STANDARD), ""
    ceiling = rates.ceiling_bps.value or round(rates.target_bps.value * 1.5)
    try:
        found = lowest_level(
            codec=codec, width=framing.width, height=framing.height, frame_rate=rate, ceiling_bps=ceiling,
            buffer_bits=rates.buffer_bits.value or 0,
        )
    except BadChoice as error:
        return chosen(None, "no_level", error.what, Source.STANDARD), ""
    tier = f", {found.tier} tier" if found.tier else ""
    sentence = f"lowest that carries {rate_text(rate)} frames/s at this size and rate{tier}"
    return chosen(found.name, "lowest_level", sentence, Source.STANDARD), found.tier


def _profile_because(codec: Codec) -> str:
    return "intra-frame, 8 bit 4:2:2, the size that keeps a picture through more work" if codec == "vc3" else (
        f"plays wherever {name_of(codec)} of this size plays"
    )
