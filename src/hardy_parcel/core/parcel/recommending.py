"""What we would send to one destination, chosen among the ways that were tested: the rule, its reason and its risk.

1. The master as it is counts only where its platform takes it and nothing found about it needs fixing.
2. Of everything tested, the best that a perfect upload can arrive as is the measure, on every screen with a good line.
3. The smallest file wins that is not visibly worse than that: for *best quality* none that can be told, for *safe* surely within a
   noticeable step, with a reserve of half an octave for the day a platform encodes again from what was sent; for *smallest* within a
   noticeable step as far as is known, without a reserve.
4. Best and safe stay at or above the low end of the published guidance, unless a size limit leaves less.
5. Another codec or frame is taken only where its file is smaller by a tenth at equal quality on arrival. Nothing costs more bits for
   a gain that lies inside its error.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from typing import Any

import numpy as np

from ..arrival.bands import apart_bands, difference_words, paired_band
from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.curve import ConditionAt, condition_at
from ..arrival.forecast import Forecast
from ..arrival.marks import CANNOT_BE_TOLD, crossing, step_at_least
from ..arrival.rehearsal import Evidence
from ..arrival.screens import Screen, ViewerLine
from ..master.checks.stamping import CheckStamp, Remedy
from ..master.facts import Excerpt, MasterFacts
from ..plan import as_it_is
from ..plan.carrying import file_size
from ..plan.choices import Choices, Method
from ..plan.plan import Plan
from ..sheets.sheet import Destination
from ..stamps import Outcome
from ..trade.codecs import name_of
from ..trade.rate_control import RateControl
from ..values import Model, mbps_text, size_text
from .surprises import blank_s, sound_turned

RESERVE = math.sqrt(2)
"""Times the rate that is surely enough, kept by *safe* for later re-encoding: half an octave."""
WORTH_CHANGING = 0.9
"""Another codec or frame is taken where its file is at most this share of the lane's own."""
SAME_RATE, SAME_SIZE = 1.1, 1.03
"""A lane whose rate is nearer than this to the recommended one is as recommended, or whose file is no larger though it may be."""


class Aim(StrEnum):
    """What a creator wants of a destination."""

    BEST = "best quality"
    SAFE = "safe"
    SMALLEST = "smallest"


@dataclass(frozen=True, slots=True, kw_only=True)
class EncodeOption:
    """One way of encoding for a destination, of which something was tested: the lane that has it, what it is called beside others,
    its plan and its forecast."""

    parcel_id: str
    words: str
    plan: Plan
    forecast: Forecast


@dataclass(frozen=True, slots=True, kw_only=True)
class Original:
    """The master as it is: how it would be sent, its size in bytes, and what about it needs fixing first, in words."""

    method: Method
    size_bytes: float
    needs_fixing: tuple[str, ...] = ()


class Recommendation(Model):
    """What we would send and why. `part` are the choices that make it, of the lane `parcel_id`; `video_bps` is None for the master as
    it is. `taken` says that the lane is so already, else `against` what this is beside the lane's own choice. `as_good` is whether no
    screen surely shows it visibly worse than the best of what was tested."""

    option: str
    part: dict[str, Any]
    parcel_id: str
    video_bps: int | None
    size_bytes: float
    because: str
    risk: str
    aim: Aim
    taken: bool
    against: str
    as_good: bool
    evidence: Evidence


@dataclass(frozen=True, slots=True, kw_only=True)
class _Candidate:
    """A way at a rate (bit/s), its size in bytes and why it is this rate; `reaches` says that it is as good there as was wanted."""

    option: EncodeOption
    bps: int
    size_bytes: float
    because: str
    risk: str
    as_good: bool
    reaches: bool = True


def original_of(
    facts: MasterFacts, destination: Destination, encoded: Plan, stamps: Sequence[CheckStamp], excerpt: Excerpt
) -> Original | None:
    """The master as it is, with what its checks found that encoding would mend; None where the platform does not take it."""
    if as_it_is.against(facts, destination, excerpt):
        return None
    share = min(1.0, float(excerpt.duration_s / facts.duration_s)) if facts.duration_s else 1.0
    method, _ = as_it_is.best_method(facts, destination, Choices(), excerpt)
    needs = tuple(_needs_fixing(facts, encoded, stamps, excerpt))
    return Original(method=method, size_bytes=facts.size_bytes * share, needs_fixing=needs)


def _needs_fixing(facts: MasterFacts, encoded: Plan, stamps: Sequence[CheckStamp], excerpt: Excerpt) -> Iterator[str]:
    for stamp in stamps:
        if stamp.outcome is not Outcome.CARE or stamp.remedy is None or stamp.done or stamp.code in facts.mending.kept:
            continue
        if stamp.remedy is Remedy.TRIM and stamp.excerpt and not blank_s(stamp, excerpt):
            continue
        yield stamp.seen
    if turned := sound_turned(encoded):
        yield f"its sound would be turned {turned}"


def recommend(
    lane: Plan,
    base: EncodeOption,
    others: Sequence[EncodeOption],
    destination: Destination,
    *,
    original: Original | None,
    aim: Aim,
) -> Recommendation | None:
    """What we would send instead of, or as, the `lane`'s plan; `base` is its own way, encoded. None before anything of it was tested."""
    options = [option for option in (base, *others) if _tested(option)]
    best = _best(options)
    untouched = original is not None and not original.needs_fixing
    if untouched and original and not destination.placement.re_encodes:
        return _as_it_is(lane, base, original, destination, aim, None)
    if not best or base not in options:
        return None
    candidates = [
        candidate for option in options for candidate in [_candidate_of(option, best, aim, destination)] if candidate
    ]
    current = next((candidate for candidate in candidates if candidate.option is base), None)
    chosen = min(
        (candidate for candidate in candidates if candidate.reaches),
        key=lambda candidate: candidate.size_bytes,
        default=current,
    )
    if (
        current
        and chosen
        and current.reaches >= chosen.reaches
        and chosen.size_bytes > WORTH_CHANGING * current.size_bytes
    ):
        chosen = current
    if chosen is None:
        return None
    if untouched and original and original.size_bytes <= chosen.size_bytes:
        return _as_it_is(lane, base, original, destination, aim, chosen)
    return _encoded(lane, base, replace(chosen, because=_foreign(chosen, current, best)), aim, original)


def enough_rate(forecast: Forecast) -> int | None:
    """The rate (bit/s) from which on what arrives is surely within a noticeable step of a perfect upload on every screen; None where that
    was not tested, or no known rate is."""
    best = {screen: forecast.ceiling(screen, ViewerLine.GOOD) for screen in Screen}
    if Evidence.SHEET in forecast.evidence or len(forecast.rates) < 2 or any(value is None for value in best.values()):
        return None
    return _rate(
        forecast, {screen: value for screen, value in best.items() if value is not None}, NOTICEABLE_STEP, surely=True
    )


def _tested(option: EncodeOption) -> bool:
    forecast = option.forecast
    return (
        len(forecast.rates) > 1
        and Evidence.SHEET not in forecast.evidence
        and bool(forecast.perfect)
        and option.plan.video is not None
    )


def _best(options: Sequence[EncodeOption]) -> dict[Screen, float]:
    """The most that arrives of any way, by screen."""
    result: dict[Screen, float] = {}
    for option in options:
        for screen in Screen:
            if (top := option.forecast.ceiling(screen, ViewerLine.GOOD)) is not None:
                result[screen] = max(result.get(screen, 0.0), top)
    return result


def _rate(forecast: Forecast, best: Mapping[Screen, float], most: float, *, surely: bool) -> int | None:
    """The lowest rate (bit/s) from which on no screen is more than so many points below the best; None where no known rate is."""
    grid, drawn, bands = forecast.drawn
    worst = np.zeros(len(grid))
    for screen, top in best.items():
        row = forecast.place(screen, ViewerLine.GOOD)
        if row is not None:
            worst = np.maximum(worst, top - drawn[row][0])
    at = crossing(grid, worst + (apart_bands(np.array(bands), worst) if surely else 0.0), most)
    return None if at is None else step_at_least(math.exp(at))


def _candidate_of(
    option: EncodeOption, best: Mapping[Screen, float], aim: Aim, destination: Destination
) -> _Candidate | None:
    """The rate of one way by the rule, with its reason and risk."""
    plan, video = option.plan, option.plan.picture
    guidance, name, target = plan.guidance, destination.sheet_name, video.target_bps.value
    if guidance is None or plan.held:
        return None
    surely = _rate(option.forecast, best, NOTICEABLE_STEP, surely=True)
    if video.rate_control.value is RateControl.FIXED:
        enough = surely is not None and target >= surely
        return _Candidate(
            option=option,
            bps=target,
            size_bytes=_size(option, target),
            because=f"{name_of(video.codec.value)} has one rate.",
            risk=" ".join(_risks(option, target, best, destination)),
            as_good=enough,
            reaches=enough,
        )
    within = CANNOT_BE_TOLD if aim is Aim.BEST else NOTICEABLE_STEP
    result = _rate(option.forecast, best, within, surely=True) if aim is not Aim.SMALLEST else None
    wanted = result or _rate(option.forecast, best, within, surely=False)
    reaches = wanted is not None
    if wanted is None:
        wanted, because = (
            guidance.high_bps,
            f"The top of {name}’s guidance: no tested rate is surely as good as a perfect upload.",
        )
    elif aim is Aim.BEST:
        because = f"The least that {'' if result else 'probably '}can’t be told from a perfect upload."
    elif aim is Aim.SMALLEST:
        because = "The least that stays within a noticeable step of a perfect upload."
    else:
        reserve = step_at_least(wanted * RESERVE)
        wanted = max(wanted, min(reserve, guidance.high_bps))
        because = f"{'Not' if result else 'Probably not'} visibly worse than a perfect upload, with a reserve for later re-encoding."
    if aim is not Aim.SMALLEST and wanted < guidance.low_bps:
        wanted, because = (
            guidance.low_bps,
            f"The low end of {name}’s guidance; more would {'' if result else 'probably '}not be seen.",
        )
    if video.under_cap and wanted > target:
        wanted, because = target, f"As much as surely fits under {size_text(plan.size_cap.value)}."
    return _Candidate(
        option=option,
        bps=wanted,
        size_bytes=_size(option, wanted),
        because=because,
        as_good=surely is not None and wanted >= surely,
        reaches=reaches,
        risk=" ".join(_risks(option, wanted, best, destination)),
    )


def _size(option: EncodeOption, bps: int) -> float:
    """Bytes of the file at a rate, of which an encoder may use less than it is given."""
    video, forecast = option.plan.picture, option.forecast
    target, seconds = video.target_bps.value, float(video.frames / video.frame_rate.value)
    base = file_size(option.plan, achieved_share=forecast.achieved_share(target)).expected_bytes
    return base + (bps * forecast.achieved_share(bps) - target * forecast.achieved_share(target)) * seconds / 8


def _risks(option: EncodeOption, bps: int, best: Mapping[Screen, float], destination: Destination) -> Iterator[str]:
    """What may turn out worse, more strongly the less is known of the platform."""
    guidance, assumed = option.plan.guidance, destination.placement.handling.assumed
    if guidance and bps < guidance.low_bps:
        if assumed:
            yield (
                f"Below {destination.sheet_name}’s guidance, and how it re-encodes is only assumed: it may look clearly worse than told."
            )
        else:
            yield f"Below {destination.sheet_name}’s guidance: should it re-encode more strongly one day, it shows here first."
    elif assumed:
        yield destination.assumption
    lost = {
        screen: top - at.condition
        for screen, top in best.items()
        if (at := condition_at(bps, option.forecast, screen=screen, line=ViewerLine.GOOD))
    }
    if lost and max(lost.values()) > NOTICEABLE_STEP:
        screen = max(lost, key=lambda item: lost[item])
        yield f"On {_screen(screen)} it arrives {lost[screen]:.0f} points below a perfect upload."


def _screen(screen: Screen) -> str:
    return "a TV" if screen is Screen.TV else f"a {screen}"


def _as_it_is(
    lane: Plan, base: EncodeOption, original: Original, destination: Destination, aim: Aim, instead: _Candidate | None
) -> Recommendation:
    if instead is None:
        because = f"{destination.sheet_name} encodes nothing again: the original arrives."
    else:
        saved = instead.size_bytes - original.size_bytes
        because = (
            f"Encoding it again gains nothing you could see; {size_text(saved)} smaller."
            if saved >= 1000
            else ("Encoding it again gains nothing you could see.")
        )
    taken = lane.copied
    size = file_size(lane).expected_bytes - original.size_bytes
    return Recommendation(
        option="Original file",
        part={"method": original.method},
        parcel_id=base.parcel_id,
        video_bps=None,
        size_bytes=original.size_bytes,
        because=because,
        aim=aim,
        taken=taken,
        risk=destination.assumption,
        against="" if taken else _differs(size),
        as_good=True,
        evidence=base.forecast.perfect_evidence if instead else Evidence.SHEET,
    )


def _foreign(candidate: _Candidate, current: _Candidate | None, best: Mapping[Screen, float]) -> str:
    """Why another way is taken: the lane's own never comes as near to the best, or its file is the larger one."""
    if current is None or candidate.option is current.option:
        return candidate.because
    if current.reaches:
        return f"As good as this lane’s own way, and {size_text(current.size_bytes - candidate.size_bytes)} smaller than that would be."
    lost = {
        screen: top - (current.option.forecast.ceiling(screen, ViewerLine.GOOD) or 0.0) for screen, top in best.items()
    }
    screen = max(lost, key=lambda item: lost[item])
    if lost[screen] < NOTICEABLE_STEP:
        return candidate.because
    return f"On {_screen(screen)} no bit rate of this lane’s own way comes nearer than {lost[screen]:.0f} points to it."


def _encoded(
    lane: Plan, base: EncodeOption, candidate: _Candidate, aim: Aim, original: Original | None
) -> Recommendation:
    option, foreign = candidate.option, candidate.option is not base
    words = f"{option.words}, {mbps_text(candidate.bps)}" if foreign else mbps_text(candidate.bps)
    current = lane.video.target_bps.value if lane.video and not lane.copied else None
    taken = not foreign and current is not None and _as_recommended(base, current, candidate)
    if taken and current is not None:  # what the lane has is as good and as small: there is no other number to look at
        if current > candidate.bps * SAME_RATE:
            unused = f"No larger than at {mbps_text(candidate.bps)}: this video cannot use more bits."
            candidate = replace(candidate, because=unused)
        candidate = replace(candidate, bps=current, size_bytes=_size(base, current))
        words = mbps_text(current)
    risk = candidate.risk
    if original and original.needs_fixing and lane.copied:
        risk = f"The original is not advised: {original.needs_fixing[0]}. {risk}".strip()
    return Recommendation(
        option=words,
        part=_part(base, candidate, lane),
        parcel_id=base.parcel_id,
        video_bps=candidate.bps,
        size_bytes=candidate.size_bytes,
        because=candidate.because,
        risk=risk,
        aim=aim,
        taken=taken,
        as_good=candidate.as_good,
        evidence=min(option.forecast.evidence, key=list(Evidence).index),
        against="" if taken else _costs(lane, base, candidate),
    )


def _as_recommended(base: EncodeOption, bps: int, candidate: _Candidate) -> bool:
    """Whether a rate of the same way is near to the recommended one, or above it without a larger file."""
    near = bps / SAME_RATE <= candidate.bps <= bps * SAME_RATE
    return near or (bps > candidate.bps and _size(base, bps) <= candidate.size_bytes * SAME_SIZE)


def _part(base: EncodeOption, candidate: _Candidate, lane: Plan) -> dict[str, Any]:
    part: dict[str, Any] = {"video_bitrate_bps": candidate.bps}
    if lane.copied:
        part["method"] = Method.ENCODE
    other, current = candidate.option.plan.picture, base.plan.picture
    if other.codec.value != current.codec.value:
        part["codec"] = other.codec.value
    sizes = [(item.framing.value.width, item.framing.value.height) for item in (other, current)]
    if sizes[0] != sizes[1]:
        part["short_side_px"] = min(sizes[0])
    return part


def _costs(lane: Plan, base: EncodeOption, candidate: _Candidate) -> str:
    """What the recommended option is against the lane's own choice: its size, and whether anybody would see a difference."""
    if lane.copied or lane.video is None:
        return _differs(file_size(lane).expected_bytes - candidate.size_bytes)
    current_bps = lane.video.target_bps.value
    pairs = []
    for screen in Screen:
        current, other = (
            condition_at(bps, option.forecast, screen=screen, line=ViewerLine.GOOD)
            for bps, option in ((current_bps, base), (candidate.bps, candidate.option))
        )
        if current and other:
            pairs.append((other.condition - current.condition, current, other))
    size = _differs(_size(base, current_bps) - candidate.size_bytes)
    return f"{size}, {_looks(max(pairs, key=lambda pair: abs(pair[0])))}" if pairs else size


def _looks(pair: tuple[float, ConditionAt, ConditionAt]) -> str:
    points, current, other = pair
    if abs(points) < NOTICEABLE_STEP:
        return "looks the same"
    return difference_words(points, paired_band((current.evidence, current.band), (other.evidence, other.band), points))


def _differs(saved_bytes: float) -> str:
    if abs(saved_bytes) < 1000:
        return "as large"
    return f"{size_text(abs(saved_bytes))} {'smaller' if saved_bytes > 0 else 'larger'}"
