"""What may be chosen for a parcel, each with what it would mean: codecs, sizes, rates, ways, containers, sound; and what may be typed.

Nothing is planned for it: tables and the geometry tell what can be had with the other choices as they are.
"""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

from ..master.facts import Excerpt, MasterFacts
from ..plan import as_it_is
from ..plan.cadence import choose_rate
from ..plan.carrying import Line, bytes_in, file_size
from ..plan.choice_table import TABLE
from ..plan.choices import Choices, Method
from ..plan.encoder_settings import effort_words
from ..plan.framing import Framing, choose_framing
from ..plan.picture_plan import deinterlace
from ..plan.plan import CapOf, FieldOrder, Plan
from ..sheets.guidance import look_up
from ..sheets.ladder import arriving_side, rungs, step_up, tier_for
from ..sheets.sheet import Destination
from ..trade.codecs import CODECS, SOUND_CODECS, name_of, takes
from ..trade.containers import CONTAINER_NAMES
from ..trade.names import Codec, Container, SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model, mbps_text, rate_text, size_text


class Offer(Model):
    """One value that may be chosen; `value` goes into the choices as it is, empty for the recommended one."""

    value: str
    words: str
    because: str


class Offered(Model):
    """What may be chosen in one matter: the choice's key, its name, what stands chosen, and the offers; numbers where `number` is set."""

    key: str
    name: str
    value: str
    number: bool
    offers: tuple[Offer, ...]


class TypedChoice(Model):
    """A choice in a field: its text as chosen, empty where it is left to the plan, and what the plan takes.

    `times` is how many of the choice's units one of the field's is, 0 where the text goes as it is.
    """

    key: str
    name: str
    unit: str
    text: str
    planned: str
    times: float


MINUTES = (1, 5, 15, 60)
ALLOWANCE_SHARES = (0.1, 0.5, 1.0)
CONTROL_WORDS = {
    RateControl.TWO_PASSES: "most accurate size; takes longer",
    RateControl.ONE_PASS: "quicker and looks the same; the size may miss the plan",
    RateControl.CONSTANT: "the same rate all the time, filled up where less is needed",
    RateControl.QUALITY: "as good everywhere, never above the rate; simple films come out smaller",
    RateControl.FIXED: "every picture has the same size",
}
EFFORT_WORDS = {
    Effort.QUICK: "soonest done; loses a little more",
    Effort.MEDIUM: "the usual balance of time and condition",
    Effort.CAREFUL: "takes longest; loses a little less",
}


def offers(
    facts: MasterFacts,
    destination: Destination,
    choices: Choices,
    plan: Plan,
    excerpt: Excerpt,
    line: Line | None = None,
) -> tuple[Offered, ...]:
    """What the creator may choose here; a matter with fewer than two offers leaves nothing to choose and is left out."""
    result: list[Offered] = []
    video, audio = plan.video, plan.audio

    def add(key: str, offered: tuple[Offer, ...], standing: str) -> None:
        chosen = getattr(choices, key)
        text = "" if chosen is None else str(chosen)
        if key == "max_bytes" and text and text not in {item.value for item in offered}:
            offered = (*offered, Offer(value=text, words=size_text(float(text)), because="your choice"))
        if len(offered) > 1:
            value = text if text in {item.value for item in offered} else standing
            number = key in ("short_side_px", "max_bytes")
            result.append(Offered(key=key, name=TABLE[key].setting, value=value, number=number, offers=offered))

    sounds = _sounds(facts, destination, plan)
    if video is not None:
        add("method", _methods(facts, destination, excerpt), "")
    if video is not None and not plan.copied:
        codec = video.codec.value
        add("codec", _codecs(facts, destination, choices, plan), codec)
        add("short_side_px", _sizes(facts, destination, choices, plan), "")
        add("frame_rate", _rates(facts, destination), "")
        controls = tuple(Offer(value=item, words=item, because=CONTROL_WORDS[item]) for item in CODECS[codec].controls)
        add("rate_control", controls, video.rate_control.value)
        efforts = tuple(
            Offer(value=item, words=item, because=f"{effort_words(codec, item)}; {EFFORT_WORDS[item]}") for item in Effort
        )
        add("effort", efforts if codec != "vc3" else (), video.effort.value or "")
        add("container", _containers(facts, destination, choices, codec), plan.container.value)
    if not plan.copied:
        add("sound_codec", sounds, audio.codec.value if audio else "")
        add("max_bytes", _caps(plan, destination, line), "")
    return tuple(result)


def _silent(facts: MasterFacts, choices: Choices) -> bool:
    return facts.audio is None or not choices.sound


def _held_in(destination: Destination, codec: Codec, *, silent: bool) -> Iterator[Container]:
    """Containers that the destination takes and that hold this picture with some sound that it takes."""
    placement = destination.placement
    for container in CODECS[codec].containers:
        if container in placement.containers and (
            silent or any(takes(container, codec, sound) for sound in placement.audio.codecs)
        ):
            yield container


def _methods(facts: MasterFacts, destination: Destination, excerpt: Excerpt) -> tuple[Offer, ...]:
    encoded = Offer(value="", words="encoded", because="size, rate and bit rate as planned")
    stored: tuple[Offer, ...] = ()
    if facts.audio and not as_it_is.against(facts, destination, excerpt, sound_too=False):
        why = "the picture's packets as they are; level, codec, rate and channels of the sound as planned"
        stored = (Offer(value=Method.SOUND_ANEW, words="picture as it is, sound made anew", because=why),)
    if as_it_is.against(facts, destination, excerpt):
        return encoded, *stored
    method, container = as_it_is.best_method(facts, destination, Choices(), excerpt)
    because = as_it_is.method_because(
        method, container, destination, cut=as_it_is.is_cut(facts, excerpt)
    ).because.sentence
    if as_it_is.goes_unasked(facts, destination, Choices(), excerpt):
        return (
            Offer(value="", words=f"as it is, {method}", because=because),
            *stored,
            encoded.model_copy(update={"value": Method.ENCODE}),
        )
    return encoded, Offer(value=method, words=f"as it is, {method}", because=because), *stored


def _codecs(facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan) -> tuple[Offer, ...]:
    silent = _silent(facts, choices)
    return tuple(
        Offer(value=codec, words=name_of(codec), because=_codec_words(codec, plan, destination))
        for codec in destination.placement.codecs
        if next(_held_in(destination, codec, silent=silent), None)
    )


def _codec_words(codec: Codec, plan: Plan, destination: Destination) -> str:
    video = plan.picture
    if codec == "vc3":
        return "intra-frame, for more work on it; very large"
    framing = video.framing.value
    result = look_up(
        destination.placement,
        width=framing.width,
        height=framing.height,
        frame_rate=video.frame_rate.value,
        codec=codec,
    )
    return f"guidance {mbps_text(result.low_bps)} to {mbps_text(result.high_bps)}"


def _containers(facts: MasterFacts, destination: Destination, choices: Choices, codec: Codec) -> tuple[Offer, ...]:
    return tuple(
        Offer(value=item, words=CONTAINER_NAMES[item], because=f"taken by {destination.sheet_name}")
        for item in _held_in(destination, codec, silent=_silent(facts, choices))
    )


def sizes_beside(facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan) -> list[int]:
    """The short sides (px) next to the plan's own among the sizes on offer, the larger one first."""
    framing = plan.picture.framing.value
    side = min(framing.width, framing.height)
    stored_ones = [int(item.value) for item in _sizes(facts, destination, choices, plan) if item.value]
    above, below = [item for item in stored_ones if item > side + 1], [item for item in stored_ones if item < side - 1]
    return [*([min(above)] if above else []), *([max(below)] if below else [])]


def _sizes(facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan) -> tuple[Offer, ...]:
    """The size we would take, what is served and guided below it, and one above where that is served larger or better."""
    placement, video = destination.placement, facts.video

    def framed(side: int | None) -> Framing:
        return choose_framing(
            placement,
            display_width=video.display_width,
            display_height=video.display_height,
            active=facts.mending.remove_bars,
            wish=choices.model_copy(update={"short_side_px": side}).wish(facts),
        )

    local = framed(None)
    side = min(local.width, local.height)
    result = [Offer(value="", words=f"{local.width}×{local.height}", because="recommended")]
    stored_ones = sorted({*rungs(placement.handling), *(row.short_side_px for row in placement.guidance)}, reverse=True)
    wanted = [item for item in stored_ones if 64 <= item < side - 1][:5]
    above = step_up(placement.handling, side)
    for item in [*([above] if above else []), *wanted]:
        framing = framed(item)
        if abs(min(framing.width, framing.height) - item) > 1:
            continue
        scale = framing.enlargement()
        how = f"enlarged {scale:.2f} ×" if scale > 1.001 else f"scaled to {scale:.0%}"
        if arrives := arriving_side(
            destination, width=framing.width, height=framing.height, frame_rate=plan.picture.frame_rate.value
        ):
            better = tier_for(placement.handling, item)
            how += f", arrives as {arrives} lines" + (
                f" by the ladder “{better.name}”" if item == above and better else ""
            )
        result.append(Offer(value=str(item), words=f"{framing.width}×{framing.height}", because=how))
    return tuple(result)


def _rates(facts: MasterFacts, destination: Destination) -> tuple[Offer, ...]:
    """Our rate and its exact halves; a rate of one's own that divides unevenly is typed, not offered."""
    video, mending = facts.video, facts.mending
    local = choose_rate(
        master_rate=mending.constant_rate if video.variable_rate and mending.constant_rate else video.frame_rate,
        variable=video.variable_rate,
        cap=destination.placement.max_frame_rate,
        fields=deinterlace(facts).value is not FieldOrder.NONE,
    )
    result = [Offer(value="", words=rate_text(local.frame_rate), because=local.sentence)]
    half = local.frame_rate / 2
    if half >= Fraction(23):
        result.append(Offer(value=str(half), words=rate_text(half), because="every second picture; none is blended"))
    return tuple(result)


def _sounds(facts: MasterFacts, destination: Destination, plan: Plan) -> tuple[Offer, ...]:
    """Sound codecs that are taken and that some container holds beside the picture, or alone."""
    if facts.audio is None or plan.audio is None:
        return ()
    placement, codec = destination.placement, plan.video.codec.value if plan.video else None

    def fits(sound: SoundCodec) -> bool:
        if codec is None:
            return SOUND_CODECS[sound].alone in placement.containers
        return any(
            container in placement.containers and takes(container, codec, sound)
            for container in CODECS[codec].containers
        )

    def words(sound: SoundCodec) -> str:
        return "nothing is lost" if SOUND_CODECS[sound].lossless else f"taken by {destination.sheet_name}"

    return tuple(
        Offer(value=item, words=name_of(item), because=words(item)) for item in placement.audio.codecs if fits(item)
    )


def _caps(plan: Plan, destination: Destination, line: Line | None) -> tuple[Offer, ...]:
    """Sizes to stay below: what the line carries in some minutes at bad times, and parts of the data allowance."""
    free = plan if plan.cap_of is not CapOf.CREATOR else None
    size = file_size(plan).worst_bytes
    takes_most = f"{destination.sheet_name} takes {size_text(destination.placement.max_bytes)}"
    result = [Offer(value="", words="no limit of your own", because=takes_most)]
    if line is None:
        return tuple(result)
    for minutes in MINUTES:
        fits = bytes_in(line, minutes * 60)
        if free is None or fits < size:
            because = f"{size_text(fits)}, even at bad times of your line"
            result.append(Offer(value=str(fits), words=f"{minutes} min of upload", because=because))
    allowance = line.allowance_gb or 0.0
    for share in ALLOWANCE_SHARES if allowance else ():
        part = round(allowance * 1e9 * share)
        if free is None or part < size:
            because = f"{size_text(part)} of {allowance:g} GB"
            result.append(Offer(value=str(part), words=f"{share:.0%} of your data", because=because))
    return tuple(result)


def typed_choices(choices: Choices, plan: Plan) -> tuple[TypedChoice, ...]:
    """Every choice that may be typed here, with what the plan takes of itself."""
    plan_now: dict[str, float | int | str | None] = {"max_bytes": plan.size_cap.value}
    video, audio = plan.video, plan.audio
    if video and not plan.copied:
        ceiling, buffer, framing = video.ceiling_bps.value, video.buffer_bits.value, video.framing.value
        if video.rate_control.value is not RateControl.FIXED:
            rate = video.frame_rate.value
            plan_now |= {
                "video_bitrate_bps": video.target_bps.value,
                "ceiling_bps": ceiling,
                "buffer_s": round(buffer / ceiling, 2) if ceiling and buffer else None,
                "keyframe_interval_s": round(float((video.keyframe_interval_frames.value or 1) / rate), 3),
            }
        plan_now |= {
            "quality": video.quality.value,
            "short_side_px": min(framing.width, framing.height),
            "frame_rate": rate_text(video.frame_rate.value),
        }
    if audio and not plan.copied:
        bits = audio.bitrate_bps.value if audio.codec.value != "pcm" else None
        plan_now |= {
            "sound_bitrate_bps": bits,
            "sample_rate_hz": audio.sample_rate_hz.value,
            "channels": audio.channels.value,
            "gain_db": audio.gain_db.value,
        }
    result = []
    for choice in TABLE.values():
        value = plan_now.get(choice.name)
        if not choice.typed_as or value is None:
            continue
        chosen = getattr(choices, choice.name)
        result.append(
            TypedChoice(
                key=choice.name,
                name=choice.typed_as,
                unit=choice.unit,
                times=choice.times,
                planned=_in_unit(value, choice.times),
                text="" if chosen is None else _in_unit(chosen, choice.times),
            )
        )
    return tuple(result)


def _in_unit(value: object, times: float) -> str:
    return f"{float(value) / times:.10g}" if times > 0 and isinstance(value, (int, float)) else str(value)
