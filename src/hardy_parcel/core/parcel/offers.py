"""What may be chosen for a parcel, each with what it would mean: codecs, sizes, rates, ways, containers, sound."""

from __future__ import annotations

from fractions import Fraction

from ..errors import BadChoice
from ..master.facts import Excerpt, MasterFacts
from ..plan import as_it_is
from ..plan.carrying import Line, bytes_in, file_size
from ..plan.choices import Choices
from ..plan.plan import Plan
from ..plan.planning import make_plan
from ..sheets.guidance import look_up
from ..sheets.ladder import tier_for
from ..sheets.sheet import Destination
from ..stamps import Source
from ..trade.codecs import CODECS, SOUND_CODECS, name_of
from ..trade.containers import CONTAINER_NAMES
from ..trade.names import SoundCodec
from ..trade.rate_control import Effort, RateControl
from ..values import Model, mbps_text, rate_text, size_text


class Offer(Model):
    """One value that may be chosen; `value` goes into the choices as it is, empty for “as we would choose”."""

    value: str
    words: str
    because: str


class Offers(Model):
    """By the key of the choice. A key with fewer than two offers leaves nothing to choose."""

    method: tuple[Offer, ...] = ()
    codec: tuple[Offer, ...] = ()
    short_side_px: tuple[Offer, ...] = ()
    frame_rate: tuple[Offer, ...] = ()
    rate_control: tuple[Offer, ...] = ()
    effort: tuple[Offer, ...] = ()
    container: tuple[Offer, ...] = ()
    sound_codec: tuple[Offer, ...] = ()
    max_bytes: tuple[Offer, ...] = ()


def offers(
    facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt, line: Line | None = None
) -> Offers:
    """What the creator may choose here. Everything offered can be planned with the other choices as they are."""
    place = destination.placement
    if plan.video is None:
        return Offers(sound_codec=_sounds(facts, destination, choices, excerpt), max_bytes=_caps(plan, destination, line))
    methods = _methods(facts, destination, excerpt)
    if plan.copied:
        return Offers(method=methods)
    codecs = tuple(
        Offer(value=codec, words=name_of(codec), because=_codec_words(codec, plan, destination)) for codec in place.codecs
        if _possible(facts, destination, _with(choices, codec=codec, container=None, sound_codec=None, rate_control=None), excerpt)
    )
    codec = plan.video.codec.value
    controls = tuple(Offer(value=one, words=one, because=CONTROL_WORDS[one]) for one in CODECS[codec].controls)
    efforts = tuple(Offer(value=one, words=one, because=EFFORT_WORDS[one]) for one in Effort) if codec != "vc3" else ()
    containers = tuple(
        Offer(value=one, words=CONTAINER_NAMES[one], because=f"taken by {destination.sheet_name}") for one in CODECS[codec].containers
        if one in place.containers and _possible(facts, destination, _with(choices, container=one, sound_codec=None), excerpt)
    )
    return Offers(
        method=methods, codec=codecs, short_side_px=_sizes(facts, destination, choices, plan, excerpt),
        frame_rate=_rates(facts, destination, choices, excerpt), rate_control=controls, effort=efforts, container=containers,
        sound_codec=_sounds(facts, destination, choices, excerpt), max_bytes=_caps(plan, destination, line),
    )


MINUTES = (1, 5, 15, 60)
ALLOWANCE_SHARES = (0.1, 0.5, 1.0)


def _caps(plan: Plan, destination: Destination, line: Line | None) -> tuple[Offer, ...]:
    """Sizes to stay below: what the line carries in some minutes at bad times, and parts of the data allowance."""
    free = plan if plan.size_cap.because.source is not Source.CREATOR else None
    size = file_size(plan).worst_bytes
    takes = f"{destination.sheet_name} takes {size_text(destination.placement.max_bytes)}"
    found = [Offer(value="", words="no limit of your own", because=takes)]
    if line is None:
        return tuple(found)
    for minutes in MINUTES:
        fits = bytes_in(line, minutes * 60)
        if free is None or fits < size:
            because = f"{size_text(fits)}, even at bad times of your line"
            found.append(Offer(value=str(fits), words=f"{minutes} min of upload", because=because))
    allowance = line.allowance_gb or 0.0
    for share in ALLOWANCE_SHARES if allowance else ():
        part = round(allowance * 1e9 * share)
        if free is None or part < size:
            because = f"{size_text(part)} of {allowance:g} GB"
            found.append(Offer(value=str(part), words=f"{share:.0%} of your data", because=because))
    return tuple(found)


CONTROL_WORDS = {
    RateControl.TWO_PASSES: "hits the size best; takes longer",
    RateControl.ONE_PASS: "quicker; the size may miss the plan",
    RateControl.CONSTANT: "the same rate all the time, filled up where less is needed",
    RateControl.QUALITY: "as good everywhere, never above the rate; simple films come out smaller",
    RateControl.FIXED: "every picture has the same size",
}
EFFORT_WORDS = {
    Effort.QUICK: "soonest done; loses a little more",
    Effort.MEDIUM: "the usual balance of time and condition",
    Effort.CAREFUL: "takes longest; loses a little less",
}


def _with(choices: Choices, **changes: object) -> Choices:
    return choices.model_copy(update=changes)


def _possible(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> bool:
    try:
        make_plan(facts, destination, choices, excerpt)
    except BadChoice:
        return False
    return True


def _methods(facts: MasterFacts, destination: Destination, excerpt: Excerpt) -> tuple[Offer, ...]:
    encoded = Offer(value="", words="encoded", because="size, rate and bit rate as planned")
    if as_it_is.against(facts, destination, excerpt):
        return (encoded,)
    method, container = as_it_is.best_method(facts, destination, Choices())
    because = as_it_is.method_because(method, container, destination).because.sentence
    return encoded, Offer(value=method, words=f"as it is, {method}", because=because)


def _codec_words(codec, plan: Plan, destination: Destination) -> str:
    video = plan.picture
    if codec == "vc3":
        return "intra-frame, for more work on it; very large"
    framing = video.framing.value
    found = look_up(destination.placement, width=framing.width, height=framing.height, frame_rate=video.frame_rate.value, codec=codec)
    return f"guidance {mbps_text(found.low_bps)} to {mbps_text(found.high_bps)}"


def _sizes(facts: MasterFacts, destination: Destination, choices: Choices, plan: Plan, excerpt: Excerpt) -> tuple[Offer, ...]:
    """The size we would take, the guided sizes below it, and one above where the platform treats that better."""
    place = destination.placement
    own = make_plan(facts, destination, _with(choices, short_side_px=None), excerpt).picture.framing.value
    side = min(own.width, own.height)
    found = [Offer(value="", words=f"{own.width}×{own.height}", because="as we would choose")]
    guided = sorted({row.short_side_px for row in place.guidance})
    wanted = [one for one in reversed(guided) if 64 <= one < side - 1][:4]
    tier, above = tier_for(place.handling, side), None
    for one in guided:
        better = tier_for(place.handling, one)
        if one > side + 1 and tier and better and better is not tier:
            above = one
            break
    for one in [*([above] if above else []), *wanted]:
        framing = make_plan(facts, destination, _with(choices, short_side_px=one), excerpt).picture.framing.value
        if abs(min(framing.width, framing.height) - one) > 1:
            continue
        scale = framing.enlargement()
        how = f"enlarged {scale:.2f} ×, for the ladder “{tier_for(place.handling, one).name}”" if one == above else f"scaled to {scale:.0%}"  # type: ignore[union-attr]
        found.append(Offer(value=str(one), words=f"{framing.width}×{framing.height}", because=how))
    return tuple(found)


def _rates(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> tuple[Offer, ...]:
    """Our rate and its exact halves; a rate of one's own that divides unevenly is typed, not offered."""
    own = make_plan(facts, destination, _with(choices, frame_rate=None), excerpt).picture.frame_rate
    found = [Offer(value="", words=rate_text(own.value), because=own.because.sentence)]
    half = own.value / 2
    if half >= Fraction(23):
        found.append(Offer(value=str(half), words=rate_text(half), because="every second picture; none is blended"))
    return tuple(found)


def _sounds(facts: MasterFacts, destination: Destination, choices: Choices, excerpt: Excerpt) -> tuple[Offer, ...]:
    if facts.audio is None:
        return ()
    def words(codec: SoundCodec) -> str:
        return "nothing is lost" if SOUND_CODECS[codec].lossless else f"taken by {destination.sheet_name}"

    return tuple(
        Offer(value=codec, words=name_of(codec), because=words(codec)) for codec in destination.placement.audio.codecs
        if _possible(facts, destination, _with(choices, sound_codec=codec, container=None), excerpt)
    )


