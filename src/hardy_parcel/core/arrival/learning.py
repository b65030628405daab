"""What a platform does, learnt from files that it served: its quality and ceiling, its sizes and its sound, as a new version of its sheet.

Of every returned file a few windows are known: what they cost there, what condition they had, and what the very upload comes to where it
is encoded here at several qualities without a ceiling. A rule of quality q under a ceiling C then comes to

    q_w = max(q, the quality at which window w costs C),   bits_w = bits(q_w),   condition_w = condition(q_w)              (1)

and how badly a rule explains what was observed, over all windows of all files of one size and codec, is

    J(q, C) = Σ_w (ln bits_w ÷ ln observed)² / σ_b² + Σ_w (condition_w − observed)² / σ_c² + how far it lies from the sheet's rule       (2)

The rule that is learnt is the mean of all, each with the weight e^−J. Steps of the ladder of which nothing came back are changed alike,
since a platform that is harsher at one size is so at others.
"""

from __future__ import annotations

import math
import statistics
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from ..sheets.guidance import frame_rate_class
from ..sheets.ladder import tier_for
from ..sheets.sheet import AudioRule, Destination, Handling, HandlingTier, Placement, RenditionRule, Sheet
from ..trade.codecs import name_of
from ..values import Model, Ratio, mbps_text
from .alignment import Alignment
from .condition import impairment_words
from .returned import ReturnedSound
from .screens import Screen

BITS_SPREAD, POINTS_SPREAD = 0.2, 2.5
"""What bits (in logarithms) and condition (points) of one window scatter by where the rule is right, what a buffer lets pass for a while
included."""
QUALITY_SPREAD, CEILING_SPREAD = 6.0, 1.0
"""How far a platform is taken to lie from its sheet where nothing else is known: in quality steps, and in logarithms of the ceiling."""
NO_CEILING = 0.5
"""None was met where rules without one explain by so much of the weight what came back."""
SHEET_WEIGHT = 1.0
"""What the sheet's own rule weighs against one file that came back: enough to settle what a file leaves open, such as whether a hard one
met a lower ceiling or was encoded harder, and little beside what a file says plainly."""
QUALITY_STEP, CEILINGS, SPARE = 0.5, 40, 1.05
OUTLIER_TIMES, OUTLIER_POINTS, ENOUGH_FILES = 3.0, 2.0, 3
"""A file is one of its own where its error is so many times the others' and at least so many points, among at least so many files."""
LEVEL_NEAR_LU, TARGET_NEAR_LU, PEAK_NEAR_DB, SOUND_STEP_BPS = 0.3, 0.6, 1.0, 8_000
TRIED: dict[str, tuple[int, ...]] = {
    "h264": (18, 23, 28, 33, 39),
    "vp9": (24, 32, 40, 48, 58),
    "av1": (24, 32, 40, 48, 58),
}
"""Qualities at which an upload may be encoded here, over those that ladders use."""
LEAST_TRIED, BEYOND = 3, 6
"""So many of them are tried at least; and curves are drawn on by so much beyond the finest and the coarsest."""


def next_tried(codec: str, tried: Mapping[int, Sequence[float]], bits: Sequence[float], rule: int | None) -> int | None:
    """Which quality is to be tried next, None where it is enough: all windows' `bits` as served lie between the finest and the coarsest
    that were tried, and so does the sheet's own `rule`. `tried` holds bits by quality, one for each window."""
    steps = TRIED[codec]
    if not tried:
        return steps[len(steps) // 2]
    finest, coarsest = min(tried), max(tried)
    low, high = steps.index(finest), steps.index(coarsest)
    finer = any(seen > one for seen, one in zip(bits, tried[finest], strict=True)) or (
        rule is not None and rule < finest
    )
    coarser = any(seen < one for seen, one in zip(bits, tried[coarsest], strict=True)) or (
        rule is not None and rule > coarsest
    )
    if not finer and not coarser and len(tried) < LEAST_TRIED:
        coarser = high < len(steps) - 1 and (not low or high + low <= len(steps) - 1)  # on either side of the middle
        finer = not coarser
    if coarser and high < len(steps) - 1:
        return steps[high + 1]
    return steps[low - 1] if finer and low else None


class WindowSeen(Model):
    """One window of a returned file (s in the master): bits a picture without its keyframes as served, and as tried here by quality;
    condition by screen as served, and by screen and quality as tried."""

    master_s: Ratio
    bits: float
    tried_bits: tuple[float, ...]
    seen: dict[Screen, float]
    tried: dict[Screen, tuple[float, ...]]


class Observation(Model):
    """What was measured of a file that a platform served: which step of its ladder it is, by short side (px), codec and whether it is the
    `best` that is served; its own rate and that of its pictures (1/s). `upload_side_px` is what was sent. `over_other` is what all
    pictures cost against those that are no keyframes, `room` how many times its ceiling so short a film may take. Without `qualities` it
    could not be re-enacted here."""

    upload_side_px: int
    short_side_px: int
    codec: str
    frame_rate: Ratio
    video_bps: int
    best: bool
    over_other: float
    room: float = 1.0
    qualities: tuple[int, ...] = ()
    windows: tuple[WindowSeen, ...] = ()
    sound: ReturnedSound | None = None
    sent_sound: ReturnedSound | None = None

    @cached_property
    def curves(self) -> Curves:
        """What is computed from the windows, once."""
        return _curves(self)

    def condition(self, screen: Screen) -> float | None:
        """How it looks on a screen, over all its windows."""
        found = [window.seen[screen] for window in self.windows if screen in window.seen]
        return statistics.fmean(found) if found else None


class ReturnedFound(Model):
    """A returned file laid over the packed one: where it lies, what was done to it on the way, how it looks, what was forecast."""

    file_name: str
    alignment: Alignment
    words: tuple[str, ...]
    conditions: dict[Screen, float]
    expected: dict[Screen, float] = {}
    observation: Observation


class RuleFit(Model):
    """The rule that explains what came back of one size and codec: quality, and ceiling in bit/s where one was met."""

    short_side_px: int
    codec: str
    quality: float
    ceiling_bps: float | None


class HandlingChange(Model):
    """One value of a sheet's handling: what it was and what it becomes, as it is read."""

    what: str
    was: str
    becomes: str


class FileError(Model):
    """How far a forecast is from what came back of one file (points, the mean over screens), with the sheet as it was and corrected."""

    file_name: str
    before: float | None
    after: float | None
    outlier: bool = False


class Correction(Model):
    """A sheet whose handling was corrected, what changes in it, and the errors on every file that it was learnt from."""

    sheet: Sheet
    changes: tuple[HandlingChange, ...]
    errors: tuple[FileError, ...]
    sentence: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Curves:
    """Equation 1 of one observation: over a fine grid of qualities, ln bits a picture and condition, windows × grid."""

    grid: np.ndarray
    bits: np.ndarray
    seen: dict[Screen, np.ndarray]
    observed_bits: np.ndarray
    observed: dict[Screen, np.ndarray]


def _curves(observation: Observation) -> Curves:
    qualities, steps = np.array(observation.qualities, float), TRIED[observation.codec]
    grid = np.arange(steps[0] - BEYOND, steps[-1] + BEYOND + QUALITY_STEP, QUALITY_STEP)
    screens = list(observation.windows[0].seen)

    def drawn(values: Sequence[float] | np.ndarray) -> np.ndarray:
        y = np.array(values, float)
        found = np.interp(grid, qualities, y)
        low, high = (y[1] - y[0]) / (qualities[1] - qualities[0]), (y[-1] - y[-2]) / (qualities[-1] - qualities[-2])
        found = np.where(grid < qualities[0], y[0] + low * (grid - qualities[0]), found)
        return np.where(grid > qualities[-1], y[-1] + high * (grid - qualities[-1]), found)

    return Curves(
        grid=grid,
        bits=np.array(
            [np.minimum.accumulate(drawn(np.log(np.maximum(window.tried_bits, 1.0)))) for window in observation.windows]
        ),
        seen={
            screen: np.clip(np.array([drawn(window.tried[screen]) for window in observation.windows]), 0, 100)
            for screen in screens
        },
        observed_bits=np.log(np.maximum([window.bits for window in observation.windows], 1.0)),
        observed={screen: np.array([window.seen[screen] for window in observation.windows]) for screen in screens},
    )


def _at(
    observation: Observation, quality: float, ceiling_bps: float | None
) -> tuple[np.ndarray, dict[Screen, np.ndarray]]:
    """Ln bits and conditions of every window by a rule."""
    curves = observation.curves
    wanted = np.full(len(curves.bits), quality)
    if ceiling_bps is not None:
        most = math.log(
            max(1.0, ceiling_bps * observation.room / float(observation.frame_rate) / observation.over_other)
        )
        meets = np.array([np.interp(-most, -row, curves.grid) for row in curves.bits])
        wanted = np.maximum(wanted, meets)
    bits = np.array([np.interp(want, curves.grid, row) for want, row in zip(wanted, curves.bits, strict=True)])
    seen = {
        screen: np.array([np.interp(want, curves.grid, row) for want, row in zip(wanted, rows, strict=True)])
        for screen, rows in curves.seen.items()
    }
    return bits, seen


def predicted(observation: Observation, quality: float, ceiling_bps: float | None) -> dict[Screen, float]:
    """Condition by screen that a rule makes of the upload of an observation."""
    return {screen: float(values.mean()) for screen, values in _at(observation, quality, ceiling_bps)[1].items()}


def _error(observation: Observation, quality: float, ceiling_bps: float | None) -> float:
    """Mean distance (points) of a rule's condition from what came back, over screens."""
    told = predicted(observation, quality, ceiling_bps)
    return statistics.fmean(abs(value - (observation.condition(screen) or 0.0)) for screen, value in told.items())


def _rates(observations: Sequence[Observation]) -> list[float]:
    """The rate of every window (bit/s), as a ceiling would hold it."""
    return [
        math.exp(value) * float(one.frame_rate) * one.over_other / one.room
        for one in observations
        for value in one.curves.observed_bits
    ]


DRAWN = 0.35
"""So much of a decoder's buffer a film draws on beyond its ceiling, since it is full when the film begins: ceilings of films of 3 s were
learnt 15 to 30 % high without this."""


def buffer_room(buffer_s: float, film_s: float) -> float:
    """How many times its ceiling a film of so many seconds takes where a ceiling is all that holds it."""
    return 1 + DRAWN * buffer_s / max(film_s, buffer_s)


def fit_rule(observations: Sequence[Observation], rule: RenditionRule | None) -> RuleFit:
    """The rule that explains observations of one size and codec (equation 2); `rule` is the sheet's, None for a codec or a size that it did
    not know. Rules that explain them nearly as well count too, by e to the minus J: one hard film cannot tell a coarser quality from a
    lower ceiling, and whichever of the two were taken would be far off where it is the other."""
    first = observations[0]
    qualities = np.arange(first.curves.grid[0], first.curves.grid[-1], QUALITY_STEP)
    rates = _rates(observations)
    ceilings: list[float | None] = [None, *np.geomspace(min(rates) * 0.8, max(rates) * SPARE, CEILINGS).tolist()]
    prior_ceiling = rule.ceiling_bps(frame_rate_class(first.frame_rate)) if rule else None
    if prior_ceiling is not None:
        ceilings.append(float(prior_ceiling))
    costs = np.array(
        [[_cost(observations, rule, prior_ceiling, quality, ceiling) for quality in qualities] for ceiling in ceilings]
    )
    weights = np.exp(costs.min() - costs)
    weights /= weights.sum()
    by_ceiling = weights.sum(axis=1)
    unmet = math.log(prior_ceiling or max(rates) * SPARE)
    ceiling = math.exp(float(by_ceiling @ [unmet if one is None else math.log(one) for one in ceilings]))
    return RuleFit(
        short_side_px=first.short_side_px,
        codec=first.codec,
        quality=round(float(weights.sum(axis=0) @ qualities), 2),
        ceiling_bps=None if by_ceiling[0] > NO_CEILING else ceiling,
    )


def _cost(
    observations: Sequence[Observation],
    rule: RenditionRule | None,
    prior_ceiling: float | None,
    quality: float,
    ceiling: float | None,
) -> float:
    """Equation 2 of one rule."""
    cost = 0.0
    for one in observations:
        curves = one.curves
        bits, seen = _at(one, quality, ceiling)
        cost += float((((bits - curves.observed_bits) / BITS_SPREAD) ** 2).mean())
        cost += statistics.fmean(
            float((((values - curves.observed[screen]) / POINTS_SPREAD) ** 2).mean()) for screen, values in seen.items()
        )
    cost = cost / len(observations) * math.sqrt(len(observations))
    if rule and rule.codec == observations[0].codec:
        cost += ((quality - rule.quality) / QUALITY_SPREAD) ** 2 * SHEET_WEIGHT
    if ceiling is not None and prior_ceiling is not None:
        cost += (math.log(ceiling / prior_ceiling) / CEILING_SPREAD) ** 2 * SHEET_WEIGHT
    return cost


Named = tuple[str, Observation]
"""A file's name with what was observed of it."""


def correct(
    sheet: Sheet, destination: Destination, files: Sequence[Named], expected: Sequence[dict[Screen, float]] = ()
) -> Correction:
    """A new version of a sheet whose handling explains what came back; `files` are all that came back of one destination, `expected` what
    was forecast of each. One file that no rule explains together with the others is named and left out."""
    place = destination.placement
    left_out: set[int] = set()
    new = _handling(place, [one for _, one in files])
    if len(files) >= ENOUGH_FILES:
        errors = [_file_error(new, one) for _, one in files]
        known = [error for error in errors if error is not None]
        for number, error in enumerate(errors):
            rest = [other for place_, other in enumerate(errors) if place_ != number and other is not None]
            if (
                error is not None
                and error >= OUTLIER_POINTS
                and rest
                and error > OUTLIER_TIMES * max(0.3, statistics.median(rest))
            ):
                left_out.add(number)
        if left_out and len(known) - len(left_out) >= 2:
            new = _handling(place, [one for number, (_, one) in enumerate(files) if number not in left_out])
        else:
            left_out = set()
    new = _if_better(place.handling, new, [one for number, (_, one) in enumerate(files) if number not in left_out])
    told = []
    for number, (name, one) in enumerate(files):
        before = _file_error(place.handling, one)
        if before is None and number < len(expected) and expected[number]:
            before = _off(expected[number], one)
        after = _file_error(new, one)
        told.append(
            FileError(
                file_name=name,
                before=None if before is None else round(before, 1),
                after=None if after is None else round(after, 1),
                outlier=number in left_out,
            )
        )
    changed_place = _with_sound(place, new, [one for number, (_, one) in enumerate(files) if number not in left_out])
    changes = _changes(place, changed_place, files[-1][1].upload_side_px)
    corrected = sheet.model_copy(
        update={
            "placements": tuple(changed_place if one.id == place.id else one for one in sheet.placements),
            "version": sheet.version + 1,
        }
    )
    return Correction(sheet=corrected, changes=changes, errors=tuple(told), sentence=_sentence(changes, told))


WORTH_POINTS = 0.5
"""By so much a corrected sheet has to be nearer to what came back where the old one explains it too: less is what windows scatter by."""


def _if_better(was: Handling, new: Handling, observations: Sequence[Observation]) -> Handling:
    """The new handling where it is worth a change, else the old one, so that no error grows."""
    before, after = ([_file_error(handling, one) for one in observations] for handling in (was, new))
    known = [error for error in before if error is not None]
    if not known or len(known) < len(before):
        return new
    return new if statistics.fmean(known) - statistics.fmean(error or 0.0 for error in after) >= WORTH_POINTS else was


def _off(expected: dict[Screen, float], observation: Observation) -> float | None:
    """Mean distance (points) of what was forecast from what came back; None where no screen has both."""
    seen = {screen: observation.condition(screen) for screen in expected}
    off = [abs(value - now) for screen, value in expected.items() if (now := seen[screen]) is not None]
    return statistics.fmean(off) if off else None


def _file_error(handling: Handling, observation: Observation) -> float | None:
    """Error of a handling on one file; None where it says nothing of such a file, or that could not be re-enacted."""
    rule = rule_of(handling, observation)
    if rule is None or rule.codec != observation.codec or not observation.qualities:
        return None
    return _error(observation, rule.quality, rule.ceiling_bps(frame_rate_class(observation.frame_rate)))


def rule_of(handling: Handling, observation: Observation) -> RenditionRule | None:
    """The step of the ladder that a returned file is: of its size, and of several of one size that of its codec."""
    tier = tier_for(handling, observation.upload_side_px)
    same = [rule for rule in tier.renditions if _same_side(rule.short_side_px, observation, tier)] if tier else []
    return next((rule for rule in same if rule.codec == observation.codec), same[0] if same else None)


def _same_side(side_px: int, observation: Observation, tier: HandlingTier) -> bool:
    lowest = min(rule.short_side_px for rule in tier.renditions)
    small = (
        side_px == lowest
        and observation.upload_side_px <= lowest
        and observation.short_side_px == observation.upload_side_px
    )
    return abs(side_px - observation.short_side_px) <= 2 or small


def _handling(place: Placement, observations: Sequence[Observation]) -> Handling:
    """The handling that explains what came back; what is said of one tier of uploads changes no other."""
    handling = place.handling
    tiers = list(handling.tiers)
    known = [one for one in observations if one.qualities]
    if known and not tiers:  # it was taken to serve the very file
        tiers = [_first_tier(known)]
    for number, tier in enumerate(tiers):
        own = [one for one in observations if tier_for(handling, one.upload_side_px) is tier and one.qualities]
        if own:
            tiers[number] = _tier(handling, tier, own)
    return handling.model_copy(update={"tiers": tuple(tiers), "assumed": None if observations else handling.assumed})


def _tier(handling: Handling, tier: HandlingTier, observations: Sequence[Observation]) -> HandlingTier:
    rules = list(tier.renditions)
    best = [one for one in observations if one.best]
    if best:  # nothing larger is served than the best that is
        side = statistics.mode(one.short_side_px for one in best)
        smallest = min(one.upload_side_px for one in best)
        rules = [rule for rule in rules if rule.short_side_px <= side or rule.short_side_px > smallest] or rules[-1:]
    shifts, ratios, fitted = [], [], set[int]()
    groups: dict[tuple[int, str], list[Observation]] = {}
    for one in observations:
        groups.setdefault((one.short_side_px, one.codec), []).append(one)
    for (side, codec), own in groups.items():
        known = (
            rule_of(Handling(tiers=(tier.model_copy(update={"renditions": tuple(rules)}),)), own[0]) if rules else None
        )
        fit = fit_rule(own, known)
        base = known or min(tier.renditions, key=lambda rule: abs(math.log(rule.short_side_px / side)))
        ratio = _ratio(base, fit, own, known is not None)
        if known is not None and known.codec == codec:
            shifts.append(fit.quality - known.quality)
        if known is not None and fit.ceiling_bps is not None:
            ratios.append(ratio)
        new = _rule(base, quality=fit.quality, times=ratio, codec=codec, side_px=base.short_side_px if known else side)
        rules = [rule for rule in rules if rule is not known] + [new]
        fitted.add(id(new))
    shift, times = (
        statistics.median(values) if values else neutral for values, neutral in ((shifts, 0.0), (ratios, 1.0))
    )
    alike = tuple(
        rule
        if id(rule) in fitted
        else _rule(rule, quality=rule.quality + shift, times=times, codec=rule.codec, side_px=rule.short_side_px)
        for rule in rules
    )
    return tier.model_copy(update={"renditions": tuple(sorted(alike, key=lambda rule: -rule.short_side_px))})


def _rule(base: RenditionRule, *, quality: float, times: float, codec: str, side_px: int) -> RenditionRule:
    return base.model_copy(
        update={
            "short_side_px": side_px,
            "codec": codec,
            "quality": int(np.clip(round(quality), 0, 63)),
            "ceiling_standard_bps": _rounded(base.ceiling_standard_bps * times),
            "ceiling_high_bps": _rounded(base.ceiling_high_bps * times),
        }
    )


def _first_tier(observations: Sequence[Observation]) -> HandlingTier:
    """A ladder of one step, the largest that came back, to be fitted."""
    side, first = max(one.short_side_px for one in observations), observations[0]
    most = max(_rates(observations))
    middle = TRIED[first.codec][len(TRIED[first.codec]) // 2]
    return HandlingTier(
        name="all uploads",
        renditions=(
            RenditionRule.model_validate(
                {
                    "short_side_px": side,
                    "codec": first.codec,
                    "quality": middle,
                    "ceiling_standard_bps": _rounded(most * 2),
                    "ceiling_high_bps": _rounded(most * 2),
                }
            ),
        ),
    )


def _ratio(base: RenditionRule, fit: RuleFit, own: Sequence[Observation], known: bool) -> float:
    """New over old ceiling; where none was met it only has to leave room for what came back."""
    was = base.ceiling_bps(frame_rate_class(own[0].frame_rate))
    if fit.ceiling_bps is not None:
        return fit.ceiling_bps / was
    most = max(_rates(own))
    return max(1.0 if known else most / was, most * SPARE / was)


def _rounded(bps: float) -> int:
    return max(1000, round(bps / 1000) * 1000)


def _with_sound(place: Placement, handling: Handling, observations: Sequence[Observation]) -> Placement:
    """The placement with its new handling and what was learnt of its sound."""
    rule = place.audio
    heard = [(one.sent_sound, one.sound) for one in observations if one.sent_sound and one.sound]
    changed = [
        (sent.integrated_lufs, back.integrated_lufs)
        for sent, back in heard
        if sent.integrated_lufs is not None and back.integrated_lufs is not None
    ]
    down = [back for sent, back in changed if back < sent - LEVEL_NEAR_LU]
    up = [back for sent, back in changed if back > sent + LEVEL_NEAR_LU]
    reached = down or [
        back.integrated_lufs for _, back in heard if back.integrated_lufs in up and not _held_by_peaks(back, rule)
    ]
    if down or up:
        handling = handling.model_copy(update={"loudness": "both ways" if up else "turns down"})
    if reached and (rule.target_lufs is None or abs(statistics.median(reached) - rule.target_lufs) > TARGET_NEAR_LU):
        rule = rule.model_copy(update={"target_lufs": round(statistics.median(reached), 1)})
    rates = [back.bitrate_bps for sent, back in heard if abs(back.bitrate_bps / max(1, sent.bitrate_bps) - 1) > 0.05]
    if rates and len(rates) == len(heard):
        steps = max(1, round(statistics.median(rates) / SOUND_STEP_BPS))
        handling = handling.model_copy(update={"sound_bps": steps * SOUND_STEP_BPS})
    return place.model_copy(update={"handling": handling, "audio": rule})


def _held_by_peaks(back: ReturnedSound, rule: AudioRule) -> bool:
    """Whether a sound was turned up only as far as its peaks let it, so that its level tells no target."""
    limit = rule.true_peak_limit_dbtp
    return back.true_peak_dbtp is not None and limit is not None and back.true_peak_dbtp >= limit - PEAK_NEAR_DB


def _changes(was: Placement, now: Placement, upload_side_px: int) -> tuple[HandlingChange, ...]:
    """What changes of the ladder for uploads of this size, and of the sound."""
    found = []
    before, after = (tier_for(one.handling, upload_side_px) for one in (was, now))
    old = {rule.short_side_px: rule for rule in before.renditions} if before else {}
    new = {rule.short_side_px: rule for rule in after.renditions} if after else {}
    for side in sorted({*old, *new}, reverse=True):
        one, other = old.get(side), new.get(side)
        if one is None or other is None:
            is_not = "is not served"
            found.append(
                HandlingChange(
                    what=f"{side}p", was="is served" if one else is_not, becomes=is_not if one else _rule_text(other)
                )
            )
            continue
        values: tuple[tuple[str, str, str], ...] = (
            ("codec", name_of(one.codec), name_of(other.codec)),
            ("quality", str(one.quality), str(other.quality)),
            ("ceiling", mbps_text(one.ceiling_standard_bps), mbps_text(other.ceiling_standard_bps)),
        )
        found += [HandlingChange(what=f"{side}p {what}", was=a, becomes=b) for what, a, b in values if a != b]
    sound: tuple[tuple[str, object, object], ...] = (
        ("loudness", was.handling.loudness, now.handling.loudness),
        ("target", _level(was.audio.target_lufs), _level(now.audio.target_lufs)),
        ("sound rate", _sound_rate(was.handling.sound_bps), _sound_rate(now.handling.sound_bps)),
    )
    return (*found, *(HandlingChange(what=what, was=str(a), becomes=str(b)) for what, a, b in sound if a != b))


def _rule_text(rule: RenditionRule | None) -> str:
    return (
        f"{name_of(rule.codec)}, quality {rule.quality}, up to {mbps_text(rule.ceiling_standard_bps)}" if rule else ""
    )


def _level(lufs: float | None) -> str:
    return "none" if lufs is None else f"{lufs:.1f} LUFS".replace("-", "−")


def _sound_rate(bps: int | None) -> str:
    return "kept" if bps is None else f"{bps / 1000:.0f} kbit/s"


def _sentence(changes: Sequence[HandlingChange], errors: Sequence[FileError]) -> str:
    counted = [one for one in errors if not one.outlier and one.after is not None]
    if not changes:
        return "The sheet says already what this platform does."
    known = [one for one in counted if one.before is not None]
    if not counted:
        return "Sizes and sound can be corrected; the picture's rule cannot be re-enacted here."
    after = statistics.fmean(one.after or 0.0 for one in counted)
    count = "this file" if len(counted) == 1 else f"{len(counted)} files"
    if not known:
        return f"Corrected, it is {after:.1f} points off on {count}; the sheet said nothing of such files before."
    before = statistics.fmean(one.before or 0.0 for one in known)
    return f"On {count} it was {before:.1f} points off; corrected, {after:.1f}."


def explains(found: ReturnedFound, destination: Destination) -> tuple[str, ...]:
    """What sets a returned file apart from what the sheet says of its size, codec, rate and ceiling, a sentence each."""
    one, handling = found.observation, destination.placement.handling
    tier = tier_for(handling, one.upload_side_px)
    if tier is None:
        return (f"{destination.sheet_name} was taken to serve the very file; it is encoded anew.",)
    said, rule = [], rule_of(handling, one)
    largest = max(
        (r.short_side_px for r in tier.renditions if r.short_side_px <= one.upload_side_px), default=one.upload_side_px
    )
    if one.best and one.short_side_px < largest - 2:
        said.append(f"The best that came back is {one.short_side_px}p; the sheet says {largest}p.")
    elif rule is None:
        said.append(f"The sheet says nothing of {one.short_side_px}p.")
    if rule and rule.codec != one.codec:
        said.append(f"It came back in {name_of(one.codec)}; the sheet says {name_of(rule.codec)}.")
    if rule:
        ceiling = rule.ceiling_bps(frame_rate_class(one.frame_rate))
        if one.video_bps > ceiling * one.room * 1.08:
            said.append(
                f"It has {mbps_text(one.video_bps)}, more than the ceiling of {mbps_text(ceiling)} in the sheet."
            )
    off = [
        (screen, value - found.expected[screen])
        for screen, value in found.conditions.items()
        if screen in found.expected
    ]
    if off and not said:
        worst = max(off, key=lambda pair: abs(pair[1]))
        if abs(worst[1]) > 2:
            how = "more gently" if worst[1] > 0 else "harder"
            said.append(f"Size and codec are as the sheet says; it is encoded {how} than it says.")
    return tuple(said)


def seen_sentence(found: ReturnedFound) -> str:
    """How a returned file looks, beside what was forecast, in a sentence."""
    screen = Screen.LAPTOP if Screen.LAPTOP in found.conditions else next(iter(found.conditions), None)
    if screen is None:
        return "Its picture could not be measured."
    now = found.conditions[screen]
    on = "a TV" if screen is Screen.TV else f"a {screen}"
    told = f"On {on} it looks {now:.0f} of 100, {impairment_words(now)}"
    if screen not in found.expected:
        return f"{told}."
    off = now - found.expected[screen]
    return f"{told}: {abs(off):.0f} {'points' if round(abs(off)) != 1 else 'point'} {'above' if off > 0 else 'below'} the forecast."
