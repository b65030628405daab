"""Fitting a file under a size cap: the highest bit rate whose worst case still fits, and what to do where that ruins the picture.

    video rate = (cap × (1 − margin) × 8 − sound − container) ÷ duration                                    (rules §3)

The margin is that of the rate control, see `carrying.worst_case`; it depends a little on the rate itself, so the equation is
solved by stepping towards it from above.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator

from ..errors import OverCap
from ..sheets.sheet import AudioRule, Placement
from ..stamps import Chosen, Source, chosen
from ..trade.codecs import SOUND_CODECS
from ..trade.names import SoundCodec
from ..trade.rate_control import RateControl
from ..values import mbps_text, size_text
from .carrying import file_size
from .choices import Choices
from .plan import AudioPlan, CapOf, Plan

LOWEST_BPS, LOWEST_SOUND_BPS = 50_000, 32_000
"""Below these no picture and no sound is worth its bits."""
SOUND_STEPS_BPS = tuple(kbit * 1000 for kbit in (192, 160, 128, 112, 96, 80, 64, 48, 40, 32))
SOUND_FLOORS_BPS: dict[tuple[SoundCodec, int], int] = {
    ("aac", 2): 96_000,
    ("aac", 1): 64_000,
    ("opus", 2): 64_000,
    ("opus", 1): 40_000,
    ("mp3", 2): 112_000,
    ("mp3", 1): 64_000,
}
"""What sound gives way down to, by codec and channels, where a sheet states no lower end: below it is heard on plain speakers."""
MOST_STEPS, CLOSE_ENOUGH, NEARLY = 12, 0.995, 0.9995
"""How the rate under a cap is looked for: at most so many steps, until so much of the cap is used, a little short of the line."""
RUINED = 0.6
"""Share of the guidance's lower end under which a capped picture is said to be ruined."""
LEARNED_MARGINS = (0.985, 0.95, 0.88)
"""How near to the cap the next tries aim: what was learned of one holds within a per cent or so, in short films less."""
MOST_TRIES = 1 + len(LEARNED_MARGINS)


def size_cap(choices: Choices, place: Placement, name: str) -> tuple[CapOf, Chosen[int]]:
    """The size in bytes that the file must not pass, and whose: the lowest of the creator's, the sheet's and its quota."""
    caps = [(CapOf.SHEET, chosen(place.max_bytes, "sheet_cap", f"the most that {name} takes", Source.SHEET))]
    if place.quota_bytes:
        cap_bytes = chosen(
            place.quota_bytes, "sheet_quota", f"what {name} takes in {place.quota_days or 1} days", Source.SHEET
        )
        caps.append((CapOf.QUOTA, cap_bytes))
    if choices.max_bytes:
        caps.append((CapOf.CREATOR, chosen(choices.max_bytes, "creator_cap", "your choice", Source.CREATOR)))
    return min(reversed(caps), key=lambda cap: cap[1].value)


def size_matters(plan: Plan) -> bool:
    """Whether the planned size has to be met, since the file might pass its cap at the top of its guidance or at its own higher rate.

    Rates below the top are decided as the top is, so that one rate control serves a whole curve.
    """
    if plan.video is None or plan.guidance is None:
        return True
    top = max(1.0, plan.guidance.high_bps / plan.video.target_bps.value)
    return file_size(plan).worst_bytes * top > plan.size_cap.value


def _tidy(bps: float, lowest: int) -> int:
    """The next lower rate that reads well."""
    step = 10_000 if bps >= 2_000_000 else 1_000
    return max(lowest, int(bps // step) * step)


def rate_under_cap(cap_bytes: int, start_bps: int, worst: Callable[[int], int], *, lowest_bps: int = LOWEST_BPS) -> int:
    """The highest tidy rate in bit/s, at most `start_bps`, whose worst case in bytes fits; the lowest one where none does."""
    high, over = start_bps, worst(start_bps)
    if over <= cap_bytes:
        return start_bps
    low, under = lowest_bps, worst(lowest_bps)
    if under > cap_bytes:
        return lowest_bps
    # the worst case is nearly straight in the rate, so a line between both ends hits close by
    for _ in range(MOST_STEPS):
        if high - low <= 1_000 or under >= cap_bytes * CLOSE_ENOUGH:
            break
        share = (cap_bytes - under) / (over - under)
        middle = min(high - 1, max(low + 1, int(low + (high - low) * share * NEARLY)))
        result = worst(middle)
        if result <= cap_bytes:
            low, under = middle, result
        else:
            high, over = middle, result
    return _tidy(low, lowest_bps)


def smaller_sounds(plan: Plan, choices: Choices, rule: AudioRule, mono: AudioPlan | None) -> Iterator[AudioPlan]:
    """The sound in one channel where that loses nothing, then at lower and lower rates down to its floor.

    None where its rate was typed or its codec has none to lower.
    """
    audio = mono or plan.audio
    if audio is None or audio.copied or choices.sound_bitrate_bps or SOUND_CODECS[audio.codec.value].lossless:
        return
    if mono:
        yield mono
    stated, _ = rule.asked(audio.codec.value, audio.channels.value)
    floor = stated or SOUND_FLOORS_BPS.get((audio.codec.value, audio.channels.value), LOWEST_SOUND_BPS)
    before = audio.bitrate_bps.value or 0
    for bps in SOUND_STEPS_BPS:
        if floor <= bps < before:
            why = (
                f"{before // 1000} kbit/s lowered so that the picture keeps more under {size_text(plan.size_cap.value)}"
            )
            bitrate = chosen(bps, "fits_cap", why, plan.size_cap.because.source)
            yield audio.model_copy(update={"bitrate_bps": bitrate, "under_cap": True})


def fitted(
    plan: Plan,
    choices: Choices,
    make: Callable[[int, AudioPlan | None], Plan],
    rule: AudioRule,
    mono: AudioPlan | None = None,
) -> Plan:
    """The plan, or where its worst case passes the cap, `make` of the highest rate that fits and of the sound beside it.

    Sound gives way, in `mono` where both channels are the same and then step by step, until the picture has the least that
    its guidance asks for. A rate that the creator typed stands unless the cap is the creator's own; a plan that cannot be
    lowered stands and its stamp holds it.
    """
    cap = plan.size_cap
    typed = choices.video_bitrate_bps is not None and choices.max_bytes is None
    if (
        plan.video is None
        or typed
        or file_size(plan).worst_bytes <= cap.value
        or plan.video.rate_control.value is RateControl.FIXED
    ):
        return plan
    wanted = plan.video.target_bps.value

    def under(audio: AudioPlan | None) -> int:
        return rate_under_cap(cap.value, wanted, lambda rate: file_size(make(rate, audio)).worst_bytes)

    audio, bps = plan.audio, under(plan.audio)
    for smaller in smaller_sounds(plan, choices, rule, mono):
        if plan.guidance is None or bps >= plan.guidance.low_bps:
            break
        audio, bps = smaller, under(smaller)
    lowered = make(bps, audio)
    whose = "your limit of" if plan.cap_of is CapOf.CREATOR else "the limit of"
    sentence = f"as much as surely fits under {whose} {size_text(cap.value)}, instead of {mbps_text(wanted)}"
    target = chosen(bps, "fits_cap", sentence, cap.because.source)
    picture = lowered.picture.model_copy(update={"target_bps": target, "under_cap": True})
    return lowered.model_copy(update={"video": picture})


def fitted_sound(plan: Plan, choices: Choices) -> Plan:
    """Sound alone under the cap: its rate is lowered, in steps of 8 kbit/s, where its codec has a rate to lower."""
    audio, cap = plan.audio, plan.size_cap
    if (
        audio is None
        or choices.sound_bitrate_bps
        or SOUND_CODECS[audio.codec.value].lossless
        or not audio.bitrate_bps.value
    ):
        return plan
    if file_size(plan).worst_bytes <= cap.value:
        return plan

    def at(bps: int) -> Plan:
        bitrate = chosen(bps, "fits_cap", f"as much as surely fits under {size_text(cap.value)}", cap.because.source)
        return plan.model_copy(update={"audio": audio.model_copy(update={"bitrate_bps": bitrate, "under_cap": True})})

    steps = range(audio.bitrate_bps.value // 8_000 * 8_000, LOWEST_SOUND_BPS - 1, -8_000)
    return next((at(bps) for bps in steps if file_size(at(bps)).worst_bytes <= cap.value), at(LOWEST_SOUND_BPS))


def is_ruined(plan: Plan) -> bool:
    """Whether the cap leaves the picture far less than the least that the guidance asks for."""
    if plan.video is None or plan.guidance is None or not plan.video.under_cap:
        return False
    return plan.video.target_bps.value < RUINED * plan.guidance.low_bps


def packed_again(plan: Plan, *, size_bytes: int, video_bytes: int, tries: int = 1) -> Plan:
    """The plan for another try after the last of so many tries, of `size_bytes`, passed the cap; lowered by what was learned.

    Raises OverCap where nothing can be lowered.
    """
    video, cap = plan.video, plan.size_cap.value
    other_bytes = size_bytes - video_bytes
    room = cap * LEARNED_MARGINS[tries - 1] - other_bytes
    if video is None or plan.copied or video.rate_control.value is RateControl.FIXED or room <= 0 or video_bytes <= 0:
        raise too_large(plan, size_bytes)
    factor = room / video_bytes
    target = int(video.target_bps.value * factor)
    if target < LOWEST_BPS or factor >= 1:
        raise too_large(plan, size_bytes)
    why = f"a try came to {size_text(size_bytes)}, over {size_text(cap)}, so it was packed again with less"
    changes: dict[str, object] = {"target_bps": chosen(target, "packed_again", why, Source.MEASURED), "under_cap": True}
    if video.ceiling_bps.value is not None and video.buffer_bits.value is not None:
        changes["ceiling_bps"] = video.ceiling_bps.model_copy(
            update={"value": max(target, int(video.ceiling_bps.value * factor))}
        )
        changes["buffer_bits"] = video.buffer_bits.model_copy(update={"value": int(video.buffer_bits.value * factor)})
    return plan.model_copy(update={"video": video.model_copy(update=changes)})


def too_large(plan: Plan, size_bytes: int) -> OverCap:
    """The error that holds a file back which passed its cap."""
    cap = plan.size_cap
    return OverCap(
        f"It came to {size_text(size_bytes)}, over {size_text(cap.value)}, {cap.because.sentence}.",
        "It was not kept; choose a smaller frame, another codec or a shorter excerpt.",
    )
