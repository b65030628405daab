"""The fewest files that serve every chosen destination within one noticeable step of its own best (an exact cover, then the smallest)."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from fractions import Fraction

from ..arrival.condition import NOTICEABLE_STEP
from ..plan.plan import Plan
from ..values import Model, size_text
from .shape_table import ALIKE

MOST_EXACT = 12
"""So many lanes are covered exactly; of more, the file that serves most is taken again and again."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Way:
    """One file that could be packed: the lane whose plan it is, its size, and by lane it could be sent to what arrives there.

    `arrives` has the condition on every screen with a good line, empty for sound alone; lanes that do not take it are missing.
    `video_bitrate_bps` is the rate that makes it of its lane's plan.
    """

    lane: str
    words: str
    video_bitrate_bps: int | None
    size_bytes: float
    arrives: Mapping[str, tuple[float, ...]]


class ServedLane(Model):
    """A lane that a file serves: what arrives by screen, and by how many points at most its own best way arrives better on one."""

    parcel_id: str
    name: str
    conditions: tuple[float, ...]
    below_best: float


class SharedFile(Model):
    """A file to pack: the parcel whose plan makes it, at which rate (None as planned), what it is in words, and whom it serves."""

    parcel_id: str
    words: str
    video_bitrate_bps: int | None
    size_bytes: int
    serves: tuple[ServedLane, ...]
    sentence: str


class FewestFiles(Model):
    """The files that are enough. Lanes of which nothing was tested share none: `untested` says how many those are.

    `total_bytes` is what they weigh together and `upload_bytes` what is uploaded, each file as often as it is sent; `now_bytes` is both
    with a file for every lane.
    """

    files: tuple[SharedFile, ...]
    total_bytes: int
    upload_bytes: int
    now_bytes: int
    now_files: int
    exact: bool
    untested: int
    sentence: str


def covered(ways: Sequence[Way], lanes: Sequence[str]) -> list[int]:
    """Numbers of the fewest ways that serve every lane that any of them serves, and of those the smallest together.

    A way serves a lane where it arrives within one noticeable step of the best way there on every screen.
    """
    best = best_of(ways, lanes)
    masks = [_mask(candidate, lanes, best) for candidate in ways]
    whole = 0
    for mask in masks:
        whole |= mask
    stored = _undominated(masks, ways)
    return _exact(stored, masks, ways, whole) if len(lanes) <= MOST_EXACT else _greedy(stored, masks, ways, whole)


def best_of(ways: Sequence[Way], lanes: Sequence[str]) -> dict[str, tuple[float, ...]]:
    """What arrives of the best way over all screens, by lane; lanes that none serves are missing."""
    present = {lane: [candidate.arrives[lane] for candidate in ways if lane in candidate.arrives] for lane in lanes}
    return {lane: max(offered, key=sum) for lane, offered in present.items() if offered}


def same_picture(one: Plan, other: Plan) -> bool:
    """Whether two plans show the same part of the master in the same shape, so that one's file stands for the other's."""
    if one.video is None or other.video is None:
        return one.video is other.video
    mine, theirs = one.video.framing.value, other.video.framing.value
    shapes = Fraction(mine.width, mine.height), Fraction(theirs.width, theirs.height)
    return mine.crop == theirs.crop and abs(shapes[0] - shapes[1]) <= ALIKE * max(shapes)


def below(way: Way, lane: str, best: Mapping[str, Sequence[float]]) -> float | None:
    """By how many points at most a way arrives worse on one screen than the best there; None where it is not taken."""
    if lane not in way.arrives:
        return None
    return max(
        (best_value - value for value, best_value in zip(way.arrives[lane], best[lane], strict=True)),
        default=0.0,
    )


def _serves(candidate: Way, lane: str, best: Mapping[str, Sequence[float]]) -> bool:
    worse = below(candidate, lane, best)
    return worse is not None and worse <= NOTICEABLE_STEP


def _mask(candidate: Way, lanes: Sequence[str], best: Mapping[str, Sequence[float]]) -> int:
    return sum(1 << n for n, lane in enumerate(lanes) if _serves(candidate, lane, best))


def _undominated(masks: Sequence[int], options: Sequence[Way]) -> list[int]:
    """Ways that serve somebody and that no smaller one serves as many and more with."""
    order = sorted(
        (n for n in range(len(options)) if masks[n]), key=lambda n: (options[n].size_bytes, -masks[n].bit_count())
    )
    stored: list[int] = []
    for n in order:
        if not any(masks[n] | masks[other] == masks[other] for other in stored):
            stored.append(n)
    return stored


def _exact(stored: Sequence[int], masks: Sequence[int], options: Sequence[Way], whole: int) -> list[int]:
    """By rising sets of served lanes: the fewest files, then the fewest bytes, that serve each."""
    best: dict[int, tuple[int, float, tuple[int, ...]]] = {0: (0, 0.0, ())}
    for state in range(whole + 1):
        if state not in best:
            continue
        files, size, chosen = best[state]
        missing = whole & ~state
        if not missing:
            continue
        lowest = missing & -missing  # whoever serves this lane has to come sometime, so it may come now
        for n in stored:
            if masks[n] & lowest:
                after = state | masks[n]
                offer = (files + 1, size + options[n].size_bytes, (*chosen, n))
                if after not in best or offer[:2] < best[after][:2]:
                    best[after] = offer
    return sorted(best[whole][2])


def _greedy(stored: Sequence[int], masks: Sequence[int], options: Sequence[Way], whole: int) -> list[int]:
    chosen, served = list[int](), 0
    while served != whole:
        n = max(stored, key=lambda number: ((masks[number] & ~served).bit_count(), -options[number].size_bytes))
        chosen.append(n)
        served |= masks[n]
    return sorted(chosen)


def fewest_files(
    ways: Sequence[Way], names: Mapping[str, str], now_bytes: Mapping[str, float], why_not: Mapping[str, str]
) -> FewestFiles:
    """The fewest files for lanes whose `names` are given by parcel, in their order; `now_bytes` are their own files' sizes.

    `why_not` has a phrase for a lane that nothing but its own file serves, which stays as it is planned. A lane is served by the chosen
    file that arrives best there.
    """
    best = best_of(ways, list(names))
    lanes = [lane for lane in names if lane in best]
    chosen = [ways[n] for n in covered(ways, lanes)]
    serving: dict[int, list[str]] = {}
    for lane in lanes:
        takers = [n for n, candidate in enumerate(chosen) if _serves(candidate, lane, best)]
        if takers:
            serving.setdefault(
                max(takers, key=lambda n: (chosen[n].lane == lane, -(below(chosen[n], lane, best) or 0))), []
            ).append(lane)
    files = []
    for n, served in sorted(serving.items(), key=lambda entry: lanes.index(entry[1][0])):
        candidate = chosen[n] if len(served) > 1 else _as_planned(ways, served[0]) or chosen[n]
        parts = tuple(
            ServedLane(
                parcel_id=lane,
                name=names[lane],
                conditions=tuple(round(entry, 1) for entry in candidate.arrives[lane]),
                below_best=round(below(candidate, lane, best) or 0.0, 1),
            )
            for lane in served
        )
        files.append(
            SharedFile(
                parcel_id=candidate.lane,
                words=candidate.words,
                video_bitrate_bps=candidate.video_bitrate_bps,
                size_bytes=round(candidate.size_bytes),
                serves=parts,
                sentence=_said(candidate, parts, why_not),
            )
        )
    total, before = sum(entry.size_bytes for entry in files), round(sum(now_bytes[lane] for lane in lanes))
    upload = sum(entry.size_bytes * len(entry.serves) for entry in files)
    return FewestFiles(
        files=tuple(files),
        total_bytes=total,
        upload_bytes=upload,
        now_bytes=before,
        now_files=len(lanes),
        exact=len(lanes) <= MOST_EXACT,
        untested=len(names) - len(lanes),
        sentence=_sentence(files, len(lanes), upload, before, len(names) - len(lanes)),
    )


def _as_planned(options: Sequence[Way], lane: str) -> Way | None:
    """A lane's own file as it is planned: where nothing is shared, nothing is changed either."""
    return next(
        (
            candidate
            for candidate in options
            if candidate.lane == lane and candidate.video_bitrate_bps is None and lane in candidate.arrives
        ),
        None,
    )


def _said(candidate: Way, served: Sequence[ServedLane], why_not: Mapping[str, str]) -> str:
    names = _listed([item.name for item in served])
    if len(served) > 1:
        return f"One {candidate.words} serves {names}."
    why = why_not.get(served[0].parcel_id, "")
    return f"{names} needs its own: {candidate.words}.{f' With another’s, {why}.' if why else ''}"


def _sentence(files: Sequence[SharedFile], lanes: int, upload: int, before: int, untested: int) -> str:
    if not files:
        return ""
    tested = "tested lanes" if untested else "lanes"
    if len(files) == lanes:
        return f"Every one of the {lanes} {tested} needs a file of its own." if lanes > 1 else ""
    count = "One file serves" if len(files) == 1 else f"{len(files)} files serve"
    turn = f"and {size_text(before - upload)} less" if upload <= before else f"but {size_text(upload - before)} more"
    return f"{count} all {lanes} {tested} within what a viewer notices: {lanes - len(files)} to pack less, {turn} to upload."


def _listed(names: Sequence[str]) -> str:
    return names[0] if len(names) == 1 else f"{', '.join(names[:-1])} and {names[-1]}"
