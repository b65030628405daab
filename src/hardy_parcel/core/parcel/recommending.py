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

from ..arrival.condition import NOTICEABLE_STEP
from ..arrival.curve import ConditionAt, condition_at
from ..arrival.forecast import Forecast
from ..arrival.marks import CANNOT_BE_TOLD, apart_from_perfect, crossing, step_at_least
from ..arrival.paired import difference_words, paired_band
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

RESERVE = math.sqrt(2)
"""Times the rate that is surely enough, kept by *safe* for later re-encoding: half an octave."""
WORTH_CHANGING = 0.9
"""Another codec or frame is taken where its file is at most this share of the lane's own."""
HEARD_DB = 3.0
"""Sound that a plan turns by so much is a reason not to send the master as it is."""
SAME_RATE, SAME_SIZE = 1.1, 1.03
"""A lane whose rate is nearer than this to the recommended one is as recommended, or whose file is no larger though it may be."""


class Aim(StrEnum):
    """What a creator wants of a destination."""

    BEST = "best quality"
    SAFE = "safe"
    SMALLEST = "smallest"


@dataclass(frozen=True, slots=True, kw_only=True)
class KnownWay:
    """One way of encoding for a destination, of which something was tested: the lane that has it, what it is called beside others,
    its plan and its forecast."""

    parcel_id: str
    words: str
    plan: Plan
    known: Forecast


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
class _Option:
    """A way at a rate (bit/s), its size in bytes and why it is this rate; `reaches` says that it is as good there as was wanted."""

    way: KnownWay
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
        inside = stamp.excerpt
        if stamp.remedy is Remedy.TRIM and inside and inside.in_s <= excerpt.in_s and excerpt.out_s <= inside.out_s:
            continue
        yield stamp.seen
    gain = encoded.audio.gain_db.value if encoded.audio else 0.0
    if abs(gain) >= HEARD_DB:
        yield f"its sound would be turned {'up' if gain > 0 else 'down'} {abs(gain):.0f} dB"


def recommend(
    lane: Plan, own: KnownWay, others: Sequence[KnownWay], destination: Destination, *, original: Original | None, aim: Aim
) -> Recommendation | None:
    """What we would send instead of, or as, the `lane`'s plan; `own` is its own way encoded. None before anything of it was tested."""
    ways = [way for way in (own, *others) if _tested(way)]
    best = _best(ways)
    untouched = original is not None and not original.needs_fixing
    if untouched and original and not destination.placement.re_encodes:
        return _as_it_is(lane, own, original, destination, aim, None)
    if not best or own not in ways:
        return None
    options = [option for way in ways for option in [_option(way, best, aim, destination)] if option]
    mine = next((option for option in options if option.way is own), None)
    chosen = min((option for option in options if option.reaches), key=lambda option: option.size_bytes, default=mine)
    if mine and chosen and mine.reaches >= chosen.reaches and chosen.size_bytes > WORTH_CHANGING * mine.size_bytes:
        chosen = mine
    if chosen is None:
        return None
    if untouched and original and original.size_bytes <= chosen.size_bytes:
        return _as_it_is(lane, own, original, destination, aim, chosen)
    return _encoded(lane, own, replace(chosen, because=_foreign(chosen, mine, best)), aim, original)


def enough_rate(known: Forecast) -> int | None:
    """The rate (bit/s) from which on what arrives is surely within a noticeable step of a perfect upload on every screen; None where that
    was not tested, or no known rate is."""
    best = {screen: known.ceiling(screen, ViewerLine.GOOD) for screen in Screen}
    if Evidence.SHEET in known.evidence or len(known.rates) < 2 or any(value is None for value in best.values()):
        return None
    return _rate(known, {screen: value for screen, value in best.items() if value is not None}, NOTICEABLE_STEP, surely=True)


def _tested(way: KnownWay) -> bool:
    known = way.known
    return len(known.rates) > 1 and Evidence.SHEET not in known.evidence and bool(known.perfect) and way.plan.video is not None


def _best(ways: Sequence[KnownWay]) -> dict[Screen, float]:
    """The most that arrives of any way, by screen."""
    found: dict[Screen, float] = {}
    for way in ways:
        for screen in Screen:
            if (top := way.known.ceiling(screen, ViewerLine.GOOD)) is not None:
                found[screen] = max(found.get(screen, 0.0), top)
    return found


def _rate(known: Forecast, best: Mapping[Screen, float], most: float, *, surely: bool) -> int | None:
    """The lowest rate (bit/s) from which on no screen is more than so many points below the best; None where no known rate is."""
    grid, drawn, _ = known.drawn
    worst = np.zeros(len(grid))
    for screen, top in best.items():
        place = known.place(screen, ViewerLine.GOOD)
        if place is not None:
            worst = np.maximum(worst, top - drawn[place][0])
    at = crossing(grid, worst + (apart_from_perfect(worst, known.drawn_apart) if surely else 0.0), most)
    return None if at is None else step_at_least(math.exp(at))


def _option(way: KnownWay, best: Mapping[Screen, float], aim: Aim, destination: Destination) -> _Option | None:
    """The rate of one way by the rule, with its reason and risk."""
    plan, video = way.plan, way.plan.picture
    guidance, name, target = plan.guidance, destination.sheet_name, video.target_bps.value
    if guidance is None or plan.held:
        return None
    if video.rate_control.value is RateControl.FIXED:
        one_rate = f"{name_of(video.codec.value)} has one rate."
        return _Option(way=way, bps=target, size_bytes=_size(way, target), because=one_rate, risk="", as_good=False)
    within = CANNOT_BE_TOLD if aim is Aim.BEST else NOTICEABLE_STEP
    found = _rate(way.known, best, within, surely=True) if aim is not Aim.SMALLEST else None
    wanted = found or _rate(way.known, best, within, surely=False)
    reaches = wanted is not None
    if wanted is None:
        wanted, because = guidance.high_bps, f"The top of {name}’s guidance: no tested rate is surely as good as a perfect upload."
    elif aim is Aim.BEST:
        because = f"The least that {'' if found else 'probably '}can’t be told from a perfect upload."
    elif aim is Aim.SMALLEST:
        because = "The least that stays within a noticeable step of a perfect upload."
    else:
        reserve = step_at_least(wanted * RESERVE)
        wanted = max(wanted, min(reserve, guidance.high_bps))
        because = f"{'Not' if found else 'Probably not'} visibly worse than a perfect upload, with a reserve for later re-encoding."
    if aim is not Aim.SMALLEST and wanted < guidance.low_bps:
        wanted, because = guidance.low_bps, f"The low end of {name}’s guidance; more would not be seen."
    if video.under_cap and wanted > target:
        wanted, because = target, f"As much as surely fits under {size_text(plan.size_cap.value)}."
    surely = _rate(way.known, best, NOTICEABLE_STEP, surely=True)
    return _Option(
        way=way, bps=wanted, size_bytes=_size(way, wanted), because=because, as_good=surely is not None and wanted >= surely,
        reaches=reaches,
        risk=" ".join(_risks(way, wanted, best, destination)),
    )


def _size(way: KnownWay, bps: int) -> float:
    """Bytes of the file at a rate, of which an encoder may use less than it is given."""
    video, known = way.plan.picture, way.known
    target, seconds = video.target_bps.value, float(video.frames / video.frame_rate.value)
    own = file_size(way.plan, achieved_share=known.achieved_share(target)).expected_bytes
    return own + (bps * known.achieved_share(bps) - target * known.achieved_share(target)) * seconds / 8


def _risks(way: KnownWay, bps: int, best: Mapping[Screen, float], destination: Destination) -> Iterator[str]:
    """What may turn out worse, more strongly the less is known of the platform."""
    guidance, assumed = way.plan.guidance, destination.placement.handling.assumed
    if guidance and bps < guidance.low_bps:
        if assumed:
            yield (
                f"Below {destination.sheet_name}’s guidance, and how it re-encodes is only assumed: it may look clearly worse than told."
            )
        else:
            yield f"Below {destination.sheet_name}’s guidance: should it re-encode more strongly one day, it shows here first."
    elif assumed:
        yield f"How {destination.sheet_name} re-encodes is assumed ({assumed}); a file that it served back would tell."
    lost = {
        screen: top - at.condition for screen, top in best.items()
        if (at := condition_at(bps, way.known, screen=screen, line=ViewerLine.GOOD))
    }
    if lost and max(lost.values()) > NOTICEABLE_STEP:
        screen = max(lost, key=lambda one: lost[one])
        yield f"On {_screen(screen)} it arrives {lost[screen]:.0f} points below a perfect upload."


def _screen(screen: Screen) -> str:
    return "a TV" if screen is Screen.TV else f"a {screen}"


def _as_it_is(
    lane: Plan, own: KnownWay, original: Original, destination: Destination, aim: Aim, instead: _Option | None
) -> Recommendation:
    if instead is None:
        because = f"{destination.sheet_name} encodes nothing again: the original arrives."
    else:
        saved = instead.size_bytes - original.size_bytes
        because = f"Encoding it again gains nothing you could see; {size_text(saved)} smaller." if saved >= 1000 else (
            "Encoding it again gains nothing you could see."
        )
    taken = lane.copied
    size = file_size(lane).expected_bytes - original.size_bytes
    assumed = destination.placement.handling.assumed
    return Recommendation(
        option="Original file", part={"method": original.method}, parcel_id=own.parcel_id, video_bps=None,
        size_bytes=original.size_bytes, because=because, aim=aim, taken=taken,
        risk=f"How {destination.sheet_name} re-encodes is assumed ({assumed}); a file that it served back would tell." if assumed else "",
        against="" if taken else _differs(size),
        as_good=True, evidence=own.known.perfect_evidence if instead else Evidence.SHEET,
    )


def _foreign(option: _Option, mine: _Option | None, best: Mapping[Screen, float]) -> str:
    """Why another way is taken: the lane's own never comes as near to the best, or its file is the larger one."""
    if mine is None or option.way is mine.way:
        return option.because
    if mine.reaches:
        return f"As good as this lane’s own way, and {size_text(mine.size_bytes - option.size_bytes)} smaller than that would be."
    lost = {screen: top - (mine.way.known.ceiling(screen, ViewerLine.GOOD) or 0.0) for screen, top in best.items()}
    screen = max(lost, key=lambda one: lost[one])
    if lost[screen] < NOTICEABLE_STEP:
        return option.because
    return f"On {_screen(screen)} no bit rate of this lane’s own way comes nearer than {lost[screen]:.0f} points to it."


def _encoded(lane: Plan, own: KnownWay, option: _Option, aim: Aim, original: Original | None) -> Recommendation:
    way, foreign = option.way, option.way is not own
    words = f"{way.words}, {mbps_text(option.bps)}" if foreign else mbps_text(option.bps)
    mine = lane.video.target_bps.value if lane.video and not lane.copied else None
    taken = not foreign and mine is not None and _as_recommended(own, mine, option)
    if taken and mine is not None:  # what the lane has is as good and as small: there is no other number to look at
        option = replace(option, bps=mine, size_bytes=_size(own, mine))
        words = mbps_text(mine)
    risk = option.risk
    if original and original.needs_fixing and lane.copied:
        risk = f"The original is not advised: {original.needs_fixing[0]}. {risk}".strip()
    return Recommendation(
        option=words, part=_part(own, option, lane), parcel_id=own.parcel_id, video_bps=option.bps, size_bytes=option.size_bytes,
        because=option.because, risk=risk, aim=aim, taken=taken, as_good=option.as_good,
        evidence=min(way.known.evidence, key=list(Evidence).index),
        against="" if taken else _costs(lane, own, option),
    )


def _as_recommended(own: KnownWay, bps: int, option: _Option) -> bool:
    """Whether a rate of the same way is near to the recommended one, or above it without a larger file."""
    near = bps / SAME_RATE <= option.bps <= bps * SAME_RATE
    return near or (bps > option.bps and _size(own, bps) <= option.size_bytes * SAME_SIZE)


def _part(own: KnownWay, option: _Option, lane: Plan) -> dict[str, Any]:
    part: dict[str, Any] = {"video_bitrate_bps": option.bps}
    if lane.copied:
        part["method"] = Method.ENCODE
    theirs, mine = option.way.plan.picture, own.plan.picture
    if theirs.codec.value != mine.codec.value:
        part["codec"] = theirs.codec.value
    sizes = [(one.framing.value.width, one.framing.value.height) for one in (theirs, mine)]
    if sizes[0] != sizes[1]:
        part["short_side_px"] = min(sizes[0])
    return part


def _costs(lane: Plan, own: KnownWay, option: _Option) -> str:
    """What the recommended option is against the lane's own choice: its size, and whether anybody would see a difference."""
    if lane.copied or lane.video is None:
        return _differs(file_size(lane).expected_bytes - option.size_bytes)
    here = lane.video.target_bps.value
    pairs = []
    for screen in Screen:
        mine, theirs = (
            condition_at(bps, way.known, screen=screen, line=ViewerLine.GOOD)
            for bps, way in ((here, own), (option.bps, option.way))
        )
        if mine and theirs:
            pairs.append((theirs.condition - mine.condition, mine, theirs))
    size = _differs(_size(own, here) - option.size_bytes)
    return f"{size}, {_looks(max(pairs, key=lambda pair: abs(pair[0])))}" if pairs else size


def _looks(pair: tuple[float, ConditionAt, ConditionAt]) -> str:
    points, mine, theirs = pair
    if abs(points) < NOTICEABLE_STEP:
        return "looks the same"
    return difference_words(points, paired_band((mine.evidence, mine.band), (theirs.evidence, theirs.band)))


def _differs(saved_bytes: float) -> str:
    if abs(saved_bytes) < 1000:
        return "as large"
    return f"{size_text(abs(saved_bytes))} {'smaller' if saved_bytes > 0 else 'larger'}"
