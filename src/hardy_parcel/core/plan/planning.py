"""From facts, destination and the creator's choices to a complete plan (rules §3)."""

from __future__ import annotations

import math
from contextlib import suppress
from fractions import Fraction
from typing import Any

from pydantic import ValidationError

from ..errors import BadChoice
from ..faults import faults_sentence
from ..master.facts import INTERLACED, Excerpt, MasterFacts
from ..sheets.guidance import look_up
from ..sheets.sheet import Destination
from ..stamps import Because, Chosen, Source, chosen
from ..trade.codec_levels import TABLES, lowest_level
from ..trade.codecs import CODECS, SOUND_CODECS, name_of, takes
from ..trade.containers import CAPTIONS_IN, CHAPTERS_IN, CONTAINER_NAMES, FAST_START, HVC1_IN
from ..trade.names import Codec, Container, SoundCodec
from ..values import rate_text
from . import as_it_is, caps, plan_stamps
from .cadence import Cadence, choose_rate
from .choice_table import TABLE, released
from .choices import BESIDE, Captions, Choices, Method
from .colour_plan import colours
from .framing import Framing, choose_framing
from .picture_plan import deinterlace, framing_because, samples, scaler, sharpening
from .plan import NO_CAPTIONS, NO_ENTRY, AudioPlan, FieldOrder, Plan, VideoPlan
from .rate_plan import Rates, choose_rates
from .sound_plan import as_mono, choose_codec, plan_sound


def whole_excerpt(facts: MasterFacts) -> Excerpt:
    """The excerpt that takes the whole master."""
    return Excerpt(in_s=Fraction(0), out_s=facts.duration_s)


def check_excerpt(excerpt: Excerpt, facts: MasterFacts) -> Excerpt:
    """The excerpt, refused when it does not lie in the master or holds no picture."""
    if not 0 <= excerpt.in_s < facts.duration_s or excerpt.out_s > facts.duration_s + Fraction(1, 100):
        raise BadChoice(
            f"The excerpt must lie within the master's {float(facts.duration_s):.2f} s.",
            "Move the in or the out point.",
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
    elif choices.method not in (None, Method.ENCODE) or as_it_is.goes_unasked(facts, destination, choices, excerpt):
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

    A rate that was what is enough of another frame is given back, since it has to be found anew.

    `before` is the plan that the rate was typed for. Raises BadChoice for choices that no plan can follow.
    """
    after = make_plan(facts, destination, choices, excerpt)
    typed = choices.video_bitrate_bps
    if choices.times_enough and typed is not None and before.guidance != after.guidance:
        return choices.model_copy(update={"video_bitrate_bps": None, "ceiling_bps": None})
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
    """The choices with some of them changed, what those release left to the plan, and a ceiling that follows its rate. With another codec a
    typed rate stays the same multiple of the guidance.

    `part` is by the names of the choices. Raises BadChoice for what cannot be read or followed.
    """
    try:
        wanted = Choices.model_validate(choices.model_dump() | released(part) | part)
    except ValidationError as error:
        faults = faults_sentence(error, most=4, name_of=_name_of)
        raise BadChoice(f"These choices cannot be used: {faults}.", "Correct them.", code="bad_setting") from error
    if "video_bitrate_bps" in part and "ceiling_bps" not in part and wanted.ceiling_bps is not None:
        before = make_plan(facts, destination, choices, excerpt).picture.target_bps.value
        bare = wanted.model_copy(update={"ceiling_bps": None})
        after = make_plan(facts, destination, bare, excerpt).picture.target_bps.value
        wanted = wanted.model_copy(update={"ceiling_bps": choices.at_rate(after, before).ceiling_bps})
    make_plan(facts, destination, wanted, excerpt)
    if "codec" in part and "video_bitrate_bps" not in part and choices.video_bitrate_bps is not None:
        was = make_plan(facts, destination, choices, excerpt)
        with suppress(BadChoice):
            typed = wanted.model_copy(update={"video_bitrate_bps": choices.video_bitrate_bps})
            return at_same_multiple(facts, destination, typed, was, excerpt)
    return wanted


def _name_of(place: tuple[object, ...]) -> str:
    """A choice by the name that a creator knows it by."""
    if not place:
        return ""
    choice = TABLE.get(str(place[0]))
    return choice.setting.lower() if choice else str(place[0])


def _encoded(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    place, video, mending = destination.placement, facts.video, facts.mending
    codec = _codec(destination, choices)
    container, sound_codec = _container(facts, destination, choices, codec.value)
    framing = choose_framing(
        place,
        display_width=video.display_width,
        display_height=video.display_height,
        wish=choices.wish(facts),
        active=mending.remove_bars,
    )
    master_rate = mending.constant_rate if video.variable_rate and mending.constant_rate else video.frame_rate
    fields = deinterlace(facts)
    cadence = choose_rate(
        master_rate=master_rate,
        variable=video.variable_rate,
        cap=place.max_frame_rate,
        wanted=choices.frame_rate,
        fields=fields.value is not FieldOrder.NONE,
    )
    rate = cadence.frame_rate
    guidance = look_up(place, width=framing.width, height=framing.height, frame_rate=rate, codec=codec.value)
    audio, no_audio = plan_sound(facts, destination, choices, sound_codec)
    method = chosen(
        Method.ENCODE,
        "encoded",
        "your choice" if choices.method else "so that size, rate and bit rate are as planned",
        Source.CREATOR if choices.method else Source.PROGRAM,
    )

    def at(bps: int | None, sound: AudioPlan | None, *, exact_size: bool = True) -> Plan:
        wanted = choices if bps is None else choices.model_copy(update={"video_bitrate_bps": bps})
        rates = choose_rates(
            codec.value,
            wanted,
            guidance,
            destination,
            width=framing.width,
            height=framing.height,
            frame_rate=rate,
            exact_size=exact_size,
        )
        picture = _picture(
            facts, destination, choices, codec, framing, cadence, fields, rates, excerpt, container.value
        )
        return _plan(
            facts,
            destination,
            choices,
            excerpt,
            method=method,
            container=container,
            video=picture,
            audio=sound,
            no_audio_because=no_audio,
            guidance=guidance,
        )

    loose = at(None, audio, exact_size=False)
    if not caps.size_matters(loose):
        return loose
    mono = None
    if facts.audio and facts.audio.alike and audio and audio.channels.value == 2 and choices.channels is None:
        mono = as_mono(facts, destination, choices, sound_codec)
    return caps.fitted(at(None, audio), choices, at, place.audio, mono)


def _sound_alone(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    place, name = destination.placement, destination.sheet_name
    codec = choose_codec(place.audio, choices, None, name)
    container = _chosen_container(
        choices, [SOUND_CODECS[codec.value].alone], f"what {name_of(codec.value)} alone stands in"
    )
    audio, no_audio = plan_sound(facts, destination, choices, codec)
    why = Because(code="picture_left_out", sentence="left out on purpose", source=Source.CREATOR)
    if not place.picture:
        why = Because(code="sound_feed", sentence=f"{name} takes sound only", source=Source.SHEET)
    plan = _plan(
        facts,
        destination,
        choices,
        excerpt,
        method=chosen(Method.ENCODE, "encoded", f"as {name} asks for it", Source.SHEET),
        container=container,
        video=None,
        no_picture_because=why,
        audio=audio,
        no_audio_because=no_audio,
        guidance=None,
    )
    return caps.fitted_sound(plan, choices)


def _as_it_is(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> Plan:
    video = facts.video
    method, own = as_it_is.best_method(facts, destination, choices, excerpt)
    frames = as_it_is.recorded_pictures(facts, excerpt)
    guidance = look_up(
        destination.placement,
        width=video.display_width,
        height=video.display_height,
        frame_rate=video.frame_rate,
        codec=video.codec if video.codec in CODECS else "h264",
    )
    sound = as_it_is.recorded_sound(facts)
    no_sound: Because | None = Because(code="no_sound", sentence="the master has none", source=Source.MASTER)
    if method is Method.SOUND_ANEW:
        codec = choose_codec(destination.placement.audio, choices, own, destination.sheet_name)
        sound, no_sound = plan_sound(facts, destination, choices, codec)
    elif sound and not choices.sound:
        sound, no_sound = None, Because(code="sound_left_out", sentence="left out on purpose", source=Source.CREATOR)
    said = as_it_is.method_because(
        method,
        own,
        destination,
        cut=as_it_is.is_cut(facts, excerpt),
        silent=not choices.sound,
        hidden=as_it_is.hidden_sets(facts, destination) and choices.method is not Method.REWRAP,
    )
    return _plan(
        facts,
        destination,
        choices,
        excerpt,
        method=said,
        container=chosen(own, "container_kept", "as the master", Source.MASTER)
        if method is Method.UNTOUCHED
        else chosen(own, "container_accepted", f"taken by {destination.sheet_name}", Source.SHEET),
        video=_recorded(facts, frames, method, own),
        audio=sound,
        no_audio_because=None if sound else no_sound,
        guidance=guidance,
        master_bytes=facts.size_bytes,
    )


def _plan(
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    excerpt: Excerpt,
    *,
    method: Chosen[Method],
    container: Chosen[Container],
    **parts: Any,
) -> Plan:
    untouched = method.value is Method.UNTOUCHED
    cap_of, size_cap = caps.size_cap(choices, destination.placement, destination.sheet_name)
    return Plan(
        destination_id=destination.id,
        destination_name=destination.full_name,
        sheet_version=destination.sheet_version,
        master_content_id=facts.content_id,
        excerpt=excerpt,
        method=method,
        container=container,
        fast_start=_fast_start(facts, destination, choices, container.value, untouched=untouched),
        chapters=_chapters(facts, destination, choices, container.value, untouched=untouched),
        captions=_captions(facts, destination, choices, container.value, untouched=untouched),
        caption_tracks=facts.text_captions,
        size_cap=size_cap,
        cap_of=cap_of,
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
        raise BadChoice(
            f"{name} does not take {CONTAINER_NAMES[choices.container]}.", f"Choose one of: {taken}.", code="not_taken"
        )
    possible = (
        [choices.container]
        if choices.container
        else [one for one in CODECS[codec].containers if one in place.containers]
    )
    sounds = [choices.sound_codec] if choices.sound_codec else list(place.audio.codecs)
    fitting = [one for one in possible if any(takes(one, codec, None if silent else sound) for sound in sounds)]
    if not fitting:
        raise BadChoice(
            f"{name} takes no container that holds {name_of(codec)} with {' or '.join(name_of(sound) for sound in sounds)}.",
            "Choose another codec, container or sound.",
            code="no_container",
        )
    first = place.audio.codecs[0]
    if not (
        silent or place.re_encodes or choices.sound_codec
    ):  # what is delivered for good gets the sound that is asked for first
        fitting.sort(key=lambda one: not takes(one, codec, first))
    container = _chosen_container(choices, fitting, f"taken by {name}")
    return container, choose_codec(place.audio, choices, None if silent else container.value, name)


def _chosen_container(choices: Choices, fitting: list[Container], why: str) -> Chosen[Container]:
    if choices.container is None:
        return chosen(fitting[0], "container_accepted", why, Source.SHEET)
    if choices.container not in fitting:
        own, other = CONTAINER_NAMES[choices.container], CONTAINER_NAMES[fitting[0]]
        raise BadChoice(f"{own} does not hold this.", f"Choose {other}.", code="no_container")
    return chosen(choices.container, "creator_container", "your choice", Source.CREATOR)


def _fast_start(
    facts: MasterFacts, destination: Destination, choices: Choices, container: Container, *, untouched: bool
) -> Chosen[bool | None]:
    if untouched:
        return chosen(bool(facts.fast_start), "as_it_is", "as it is in the master", Source.MASTER)
    if container not in FAST_START:
        return chosen(
            None, "no_index", f"{CONTAINER_NAMES[container]} can be played from its start as it comes", Source.STANDARD
        )
    if choices.fast_start is not None:
        return chosen(
            choices.fast_start, "creator_fast_start", "your choice; it changes nothing of the picture", Source.CREATOR
        )
    reader = "the service can begin reading" if destination.placement.re_encodes else "a player can begin"
    return chosen(
        True,
        "fast_start",
        f"the index stands first, so {reader} before all has come; it does no more than that",
        Source.PROGRAM,
    )


def _chapters(
    facts: MasterFacts, destination: Destination, choices: Choices, container: Container, *, untouched: bool
) -> Chosen[bool | None]:
    if not facts.chapters:
        return chosen(None, "no_chapters", "the master has none", Source.MASTER)
    name = destination.sheet_name
    if untouched:
        return chosen(True, "as_it_is", "as they are in the master", Source.MASTER)
    if container not in CHAPTERS_IN:
        return chosen(False, "chapters_not_held", f"{CONTAINER_NAMES[container]} holds none", Source.STANDARD)
    if choices.chapters is not None:
        shows = f"{name} shows them" if "chapters" in destination.placement.keeps else f"{name} does not show them"
        return chosen(choices.chapters, "creator_chapters", f"your choice; {shows}", Source.CREATOR)
    if "chapters" not in destination.placement.keeps:
        return chosen(False, "chapters_not_kept", f"{name} does not show chapters", Source.SHEET)
    return chosen(True, "chapters_kept", f"{name} shows them", Source.SHEET)


def _captions(
    facts: MasterFacts, destination: Destination, choices: Choices, container: Container, *, untouched: bool
) -> Chosen[Captions | None]:
    name, wish = destination.sheet_name, choices.captions
    if not facts.text_captions:
        return NO_CAPTIONS
    if untouched and wish not in BESIDE:
        return chosen(Captions.INSIDE, "as_it_is", "as they are in the master", Source.MASTER)
    kept = "captions" in destination.placement.keeps
    if container not in CAPTIONS_IN and (wish is Captions.INSIDE or (wish is None and kept)):
        why = f"{CONTAINER_NAMES[container]} holds none, so they stand in a file beside it"
        return chosen(Captions.SRT, "captions_not_held", why, Source.STANDARD)
    if wish is not None:
        why = f"your choice; {name} {'shows' if kept else 'does not show'} those inside a file"
        return chosen(wish, "creator_captions", why, Source.CREATOR)
    if not kept:
        return chosen(
            Captions.LEFT_OUT, "captions_not_kept", f"{name} does not show captions inside a file", Source.SHEET
        )
    return chosen(
        Captions.INSIDE, "captions_kept", f"{name} shows them, as text that a viewer can turn on", Source.SHEET
    )


def _picture(
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    codec: Chosen[Codec],
    framing: Framing,
    cadence: Cadence,
    fields: Chosen[FieldOrder],
    rates: Rates,
    excerpt: Excerpt,
    container: Container,
) -> VideoPlan:
    video, rate = facts.video, cadence.frame_rate
    profile, pixel_format = samples(video, codec.value, destination)
    level, tier = _level(codec.value, framing, rate, rates, destination)
    found = colours(facts)
    seconds, own = (
        choices.keyframe_interval_s or destination.placement.keyframe_interval_s,
        choices.keyframe_interval_s is not None,
    )
    keyframes: Chosen[int | None] = chosen(
        max(1, round(seconds * rate)),
        "keyframes",
        f"{'your choice, ' if own else ''}{seconds:g} s at this rate, closed",
        Source.CREATOR if own else Source.SHEET,
    )
    if codec.value == "vc3":
        keyframes = chosen(1, "intra", "every picture stands for itself", Source.STANDARD)
    return VideoPlan(
        codec=codec,
        profile=chosen(profile, "profile", _profile_because(codec.value, destination), Source.STANDARD),
        level=level,
        beyond_levels=level.value is None and codec.value in TABLES,
        tier=tier,
        sample_entry=_sample_entry(codec.value, container),
        framing=Chosen(value=framing, because=framing_because(framing, facts, destination, choices, rate)),
        deinterlace=fields,
        field_rate=cadence.of_fields,
        fields_kept=facts.scan in INTERLACED and fields.value is FieldOrder.NONE,
        pixel_format=pixel_format,
        chroma_halved=video.chroma in ("4:2:2", "4:4:4", "RGB") and "420" in pixel_format.value,
        dithered=video.bit_depth > 8 and "10" not in pixel_format.value,
        frame_rate=Chosen(
            value=rate,
            because=Because(
                code=cadence.code,
                sentence=cadence.sentence,
                source=Source.CREATOR
                if cadence.code.startswith("creator")
                else Source.SHEET
                if cadence.keep_every > 1
                else Source.MASTER,
            ),
        ),
        keep_every=cadence.keep_every,
        even_motion=cadence.even,
        frames=max(1, math.floor(excerpt.duration_s * rate + Fraction(1, 4))),
        rate_control=rates.control,
        target_bps=rates.target_bps,
        ceiling_bps=rates.ceiling_bps,
        buffer_bits=rates.buffer_bits,
        ceiling_rule=rates.ceiling_rule,
        quality=rates.quality,
        keyframe_interval_frames=keyframes,
        effort=rates.effort,
        colour=found.tags,
        source_matrix=found.read_as.matrix or "bt709",
        source_range=found.read_as.range or "tv",
        source_primaries=found.read_as.primaries or "bt709",
        source_transfer=found.read_as.transfer or "bt709",
        colour_labelled=found.only_labelled,
        scaler=scaler(framing),
        sharpen=sharpening(framing, choices),
    )


def _level(
    codec: Codec, framing: Framing, rate: Fraction, rates: Rates, destination: Destination
) -> tuple[Chosen[str | None], str]:
    """The lowest sufficient level and its tier; None for a codec without levels, and where none suffices, which a stamp holds."""
    if codec not in TABLES:
        return chosen(None, "no_levels", f"{name_of(codec)} has none to choose", Source.STANDARD), ""
    ceiling = rates.ceiling_bps.value or round(rates.target_bps.value * 1.5)
    try:
        found = lowest_level(
            codec=codec,
            width=framing.width,
            height=framing.height,
            frame_rate=rate,
            ceiling_bps=ceiling,
            buffer_bits=rates.buffer_bits.value or 0,
            most=destination.placement.max_level.get(codec),
            tier=destination.placement.max_tier,
        )
    except BadChoice as error:
        return chosen(None, "no_level", error.what, Source.STANDARD), ""
    tier = f" in {found.tier} tier" if found.tier else ""
    sentence = f"lowest that carries {rate_text(rate)} frames/s at this size and rate{tier}"
    return chosen(found.name, "lowest_level", sentence, Source.STANDARD), found.tier


def _recorded(facts: MasterFacts, frames: int, method: Method, container: Container) -> VideoPlan:
    """The master's picture as it is, under the name that it has in the container it is moved to."""
    picture = as_it_is.recorded_picture(facts, frames)
    if method is Method.UNTOUCHED:
        return picture
    return picture.model_copy(update={"sample_entry": _sample_entry(picture.codec.value, container)})


def _sample_entry(codec: Codec, container: Container) -> Chosen[str | None]:
    """How the stream is named in its container: HEVC with its parameter sets in the sample description, ISO/IEC 14496-15 §8.4.1."""
    if codec != "hevc" or container not in HVC1_IN:
        return NO_ENTRY
    return chosen(
        "hvc1",
        "hvc1",
        "parameter sets stand in the sample description, which every player of it finds",
        Source.STANDARD,
    )


def _profile_because(codec: Codec, destination: Destination) -> str:
    if codec == "vc3":
        return "intra-frame, 4:2:2, the size that keeps a picture through more work"
    return (
        f"what every decoder of {name_of(codec)} reads"
        if destination.placement.re_encodes
        else (f"plays wherever {name_of(codec)} of this size plays")
    )
