"""Finds where the pictures of a file that came back lie in the packed one: first on small pictures of both, then to the pixel.

1. Small grey pictures of both are compared at every speed that is used and every offset, and mirrored, which is refused.
2. At a few moments all pictures around the place that was found are tried: a moment counts as far as its best fits better than others.
3. There features, and then the enhanced correlation coefficient (Evangelidis and Psarakis 2008), give crop and scale.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from ..core.arrival.alignment import USUAL_SPEEDS, Alignment, Pair, Placing, fit_time, placing_of
from ..core.errors import BadInput
from ..core.master.facts import MasterFacts
from .inspect import picture_stream
from .pictures import pictures_at
from .trouble import open_film, reading

THUMB, SMALL_WIDTH, MIDDLE_WIDTH = (96, 54), 160, 512
"""Sizes in px at which films are searched through, at which the picture of a moment is chosen, and at which crop and scale are found."""
LARGE = 8
EVERY_PICTURE, ENOUGH_KEYS = 1500, 120
"""Of films that have no more pictures all are looked at, of others their keyframes, of a returned one not many more than so many."""
DENSE_AT, DENSE_S = 8, 6.0
"""Where a long film that moves much is looked at more closely: at so many places, and for how long around each."""
FLAT = 3.0
"""A picture whose levels scatter by less says nothing of its place."""
ANOTHER, SURE, MIRRORED_BY = 0.6, 0.95, 0.08
"""Mean correlation below which it is another film, from which on no other crop is looked for, and by how much more the mirror image has
to fit."""
MOMENTS, AROUND_S, MOST_AROUND_S, NEAR_S, LEARNT = 9, 1.6, 6.0, 0.4, 3
SHARP_FROM = 0.002
"""By so much (correlation) a moment's best place has to be better than those three pictures and more away."""
OTHER_SPEED_BY = 0.01
"""So much better another speed has to fit than the one that was packed."""
TURNED, LEAST_ALIKE = 0.02, 0.75
AS_SENT_BY = 0.004
"""The frame as it was sent is taken where any other fits better by no more (correlation): most platforms leave it alone."""
ROUNDS, STILL_CHANGES = 60, 1e-6
BAR_LEVEL, BAR_SHARE = 24.0, 0.985
Grey = np.ndarray
OPENCV: Any = cv2
"""Its typing stubs lack what is called here, or ask for more than it does."""
Say = Callable[[float], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Track:
    """Small grey pictures of a film, n × rows × columns of float32, each with its time (s), a few of them larger, and the part
    without bars (shares)."""

    times_s: np.ndarray
    pictures: np.ndarray
    large: list[Grey]
    active: tuple[float, float, float, float]

    def normal(self, *, part: tuple[float, float, float, float], flipped: bool = False) -> np.ndarray:
        """Pictures of one part (left, top, right, bottom in shares) as rows of unit length about 0; flat ones are 0."""
        made = []
        for picture in self.pictures:
            height, width = picture.shape
            x0, x1 = int(part[0] * width), max(int(part[0] * width) + 8, int(part[2] * width))
            y0, y1 = int(part[1] * height), max(int(part[1] * height) + 8, int(part[3] * height))
            small = cv2.resize(picture[y0:y1, x0:x1], (32, 18), interpolation=cv2.INTER_AREA)
            small = cv2.GaussianBlur(small[:, ::-1] if flipped else small, (0, 0), 0.8)
            row = small.ravel() - small.mean()
            norm = float(np.linalg.norm(row))
            made.append(row / norm if row.std() > FLAT else np.zeros_like(row))
        return np.array(made)


def align(
    packed: Path, packed_facts: MasterFacts, returned: Path, returned_facts: MasterFacts, say: Say = lambda share: None
) -> Alignment:
    """Where a returned film lies in the packed one. Raises BadInput where it is mirrored, turned, or another film, and what reading
    raises."""
    sizes = [(facts.video.display_width, facts.video.display_height) for facts in (packed_facts, returned_facts)]
    ours = _track(packed, packed_facts)
    say(0.3)
    theirs = _track(returned, returned_facts, enough=ENOUGH_KEYS)
    say(0.5)
    try:
        coarse = _coarse(ours, theirs, packed_facts, returned_facts)
    except BadInput as error:
        if error.code != "another_film" or (_few(packed_facts) and _few(returned_facts)):
            raise  # all pictures were looked at
        ours, theirs = _denser(packed, packed_facts, returned, returned_facts)
        coarse = _coarse(ours, theirs, packed_facts, returned_facts)
    found = list(_lined_up(packed, packed_facts, returned, returned_facts, coarse, say))
    if not found:
        raise BadInput(*_ANOTHER, code="another_film")
    placing = placing_of([one.placing for one in found], packed=sizes[0], returned=sizes[1])
    pairs = [one.pair for one in found]
    packed_rate, returned_rate = packed_facts.video.frame_rate, returned_facts.video.frame_rate
    timing = fit_time(pairs, packed_rate=float(packed_rate), sharp_from=SHARP_FROM, fallback_offset_s=coarse.offset_s)
    return Alignment(
        timing=timing,
        placing=placing,
        alike=float(np.median([one.alike for one in found])),
        packed_width=sizes[0][0],
        packed_height=sizes[0][1],
        packed_s=float(packed_facts.duration_s),
        packed_rate=float(packed_rate),
        returned_width=sizes[1][0],
        returned_height=sizes[1][1],
        returned_s=float(returned_facts.duration_s),
        returned_rate=float(returned_rate),
    )


_ANOTHER = (
    "This is another film, or too much of it was changed to know it again.",
    "Name the parcel that was sent, or bring another file.",
)


def _few(facts: MasterFacts) -> bool:
    """Whether all pictures of a film are looked at."""
    return float(facts.duration_s * facts.video.frame_rate) <= EVERY_PICTURE


def _denser(
    packed: Path, packed_facts: MasterFacts, returned: Path, returned_facts: MasterFacts
) -> tuple[Track, Track]:
    """A few pictures of the returned film, and every second one of the packed film for some seconds around where each would be if little
    was trimmed: where all moves, keyframes that lie a second apart have nothing in common."""
    ends = float(packed_facts.duration_s), float(returned_facts.duration_s)
    speed = min(map(float, USUAL_SPEEDS), key=lambda one: abs(ends[0] / max(0.1, ends[1]) - one))
    anchors = [(number + 0.5) / DENSE_AT * ends[1] for number in range(DENSE_AT)]
    step = 2 / float(packed_facts.video.frame_rate)
    times: list[float] = []
    for anchor in anchors:
        first, last = max(0.0, speed * anchor - DENSE_S), min(ends[0] - step, speed * anchor + DENSE_S)
        times += np.arange(max(first, times[-1] + step if times else 0.0), last, step).tolist()
    return _track_at(packed, packed_facts, times), _track_at(returned, returned_facts, anchors)


def _track_at(path: Path, facts: MasterFacts, times_s: list[float]) -> Track:
    pictures, large = [], list[Grey]()
    every = max(1, len(times_s) // LARGE)
    at = [Fraction(one).limit_denominator(100_000) for one in times_s]
    for number, frame in enumerate(pictures_at(path, at, start_s=facts.video.start_s)):
        pictures.append(_grey(frame, THUMB))
        if number % every == 0:
            large.append(_grey(frame, _middle_size(facts)))
    stack = np.array(pictures)
    return Track(times_s=np.array(times_s), pictures=stack, large=large, active=_active(stack))


def _track(path: Path, facts: MasterFacts, *, enough: int | None = None) -> Track:
    """Pictures all along a film; with `enough` every second, third … keyframe where there are that many more."""
    times, pictures, large = [], [], list[Grey]()
    video = facts.video
    seconds, size = float(facts.duration_s), _middle_size(facts)
    each = max(1, len(video.keyframes) // enough) if enough else 1
    with reading(path), open_film(path) as film:
        stream = picture_stream(film, path)
        stream.thread_type = "AUTO"
        for frame in film.decode(stream) if _few(facts) else _keyframes(film, stream, each):
            if frame.pts is not None:
                times.append(float(frame.pts * (stream.time_base or Fraction(1)) - video.start_s))
                pictures.append(_grey(frame, THUMB))
                if times[-1] >= (len(large) + 0.5) / LARGE * seconds:
                    large.append(_grey(frame, size))
    if not pictures:
        raise BadInput(*_ANOTHER, code="another_film")
    stack = np.array(pictures)
    return Track(times_s=np.array(times), pictures=stack, large=large, active=_active(stack))


def _keyframes(film: Any, stream: Any, each: int) -> Iterator[Any]:
    """One of so many keyframes, decoded without what lies between; the last packet, which is empty, brings what is still inside."""
    stream.codec_context.skip_frame = "NONKEY"
    seen = 0
    for packet in film.demux(stream):
        seen += packet.is_keyframe
        if not packet.size or (packet.is_keyframe and seen % each == 0):
            yield from packet.decode()


def _grey(frame: Any, size: tuple[int, int]) -> Grey:
    shown = frame.reformat(width=size[0], height=size[1], format="gray", interpolation="AREA")
    return np.asarray(shown.to_ndarray(), np.float32)


def _active(pictures: np.ndarray) -> tuple[float, float, float, float]:
    """The part that is not bars, as shares: beyond it nearly every picture is dark and even from edge to edge."""
    height, width = pictures.shape[1:]
    bright = np.quantile(pictures, 0.9, axis=0)

    def bars(lines: np.ndarray) -> int:
        count = 0
        for line in lines:
            if np.mean(line < BAR_LEVEL) < BAR_SHARE:
                break
            count += 1
        return count if count < len(lines) * 0.45 else 0

    top, bottom, left, right = bars(bright), bars(bright[::-1]), bars(bright.T), bars(bright.T[::-1])
    return left / width, top / height, 1 - right / width, 1 - bottom / height


def _step_s(track: Track) -> float:
    """How far apart the pictures of a track are (s)."""
    return float(np.median(np.diff(track.times_s))) if len(track.times_s) > 1 else 1.0


@dataclass(frozen=True, slots=True, kw_only=True)
class Coarse:
    """A first guess: time as in equation 1 of `core.arrival.alignment`, and which part of the packed frame stands in which part of the
    returned one (shares). `grain_s` is how far apart the pictures were that it was found on."""

    speed: float
    offset_s: float
    part: tuple[float, float, float, float]
    shown: tuple[float, float, float, float]
    score: float
    grain_s: float = 0.0


def _coarse(ours: Track, theirs: Track, packed: MasterFacts, returned: MasterFacts) -> Coarse:
    """The best crop at the speed that was packed, then the best of all speeds for it. Crops lie about the middle, and where none of
    those fits well, where features say."""
    straight, mirrored = (theirs.normal(part=theirs.active, flipped=flipped) for flipped in (False, True))
    parts = list(_parts(ours.active, packed, _shape(theirs.active, returned)))
    best, mirror = _best_part(parts, ours, theirs, straight, mirrored)
    if best.score < SURE:
        by_features = [part for part in _parts_by_features(ours, theirs) if part]
        other, other_mirror = _best_part(by_features, ours, theirs, straight, mirrored)
        best, mirror = max(best, other, key=lambda one: one.score), max(mirror, other_mirror)
    if mirror > max(ANOTHER, best.score + MIRRORED_BY):
        raise BadInput(
            "It is mirrored: left and right are changed over.",
            "Bring back a file that was not; nothing can be learnt from this one.",
            code="mirrored",
        )
    score, speed, offset_s = _best_time(ours.normal(part=best.part) @ straight.T, ours, theirs, USUAL_SPEEDS)
    if score < ANOTHER:
        raise BadInput(*_ANOTHER, code="another_film")
    grain_s = _step_s(ours)
    return Coarse(speed=speed, offset_s=offset_s, part=best.part, shown=theirs.active, score=score, grain_s=grain_s)


def _best_part(
    parts: list[tuple[float, float, float, float]],
    ours: Track,
    theirs: Track,
    straight: np.ndarray,
    mirrored: np.ndarray,
) -> tuple[Coarse, float]:
    """The part that fits best at the speed that was packed, and how well the mirror image fits at most."""
    best, mirror = Coarse(speed=1.0, offset_s=0.0, part=(0.0, 0.0, 1.0, 1.0), shown=theirs.active, score=-1.0), -1.0
    for part in parts:
        normal = ours.normal(part=part)
        score, speed, offset_s = _best_time(normal @ straight.T, ours, theirs, (Fraction(1),))
        mirror = max(mirror, _best_time(normal @ mirrored.T, ours, theirs, (Fraction(1),))[0])
        if score > best.score + 0.01:
            best = Coarse(speed=speed, offset_s=offset_s, part=part, shown=theirs.active, score=score)
    return best, mirror


def _parts_by_features(ours: Track, theirs: Track) -> Iterator[tuple[float, float, float, float] | None]:
    """Which parts of the packed frame the active part of a few returned pictures shows, by features that both have."""
    left, top, right, bottom = theirs.active
    for place in np.linspace(0, len(theirs.large) - 1, min(3, len(theirs.large))).astype(int):
        theirs_now = theirs.large[place]
        for ours_now in ours.large[:: max(1, len(ours.large) // 8)]:
            warp = _by_features(ours_now, theirs_now)
            if warp is None:
                continue
            (height, width), (high, wide) = ours_now.shape, theirs_now.shape
            corners = [
                (warp[0, 0] * x * wide + warp[0, 2], warp[1, 1] * y * high + warp[1, 2])
                for x, y in ((left, top), (right, bottom))
            ]
            (x0, y0), (x1, y1) = corners
            found = float(x0 / width), float(y0 / height), float(x1 / width), float(y1 / height)
            if 0.1 < found[2] - found[0] < 1.2 and 0.1 < found[3] - found[1] < 1.2:
                yield max(0.0, found[0]), max(0.0, found[1]), min(1.0, found[2]), min(1.0, found[3])


def _shape(active: tuple[float, float, float, float], facts: MasterFacts) -> float:
    width, height = (
        (active[2] - active[0]) * facts.video.display_width,
        (active[3] - active[1]) * facts.video.display_height,
    )
    return width / max(1.0, height)


CROPS = (1.0, 0.95, 0.9, 0.85, 0.8, 0.7, 0.6, 0.5)


def _parts(
    active: tuple[float, float, float, float], packed: MasterFacts, shape: float
) -> Iterator[tuple[float, float, float, float]]:
    """Parts of the packed frame that may have come back: all of it, its picture, and crops of the returned shape about its middle."""
    yield 0.0, 0.0, 1.0, 1.0
    if active != (0.0, 0.0, 1.0, 1.0):
        yield active
    for base in dict.fromkeys(((0.0, 0.0, 1.0, 1.0), active)):
        wide, high = (base[2] - base[0]) * packed.video.display_width, (base[3] - base[1]) * packed.video.display_height
        width, height = (wide, wide / shape) if wide / high < shape else (high * shape, high)
        for share in CROPS:
            across, down = width * share / packed.video.display_width, height * share / packed.video.display_height
            x, y = (base[0] + base[2]) / 2, (base[1] + base[3]) / 2
            yield x - across / 2, y - down / 2, x + across / 2, y + down / 2


def _best_time(alike: np.ndarray, ours: Track, theirs: Track, speeds: Sequence[Fraction]) -> tuple[float, float, float]:
    """The mean correlation of the best speed and offset, with those two; `alike` is packed × returned."""
    step = _step_s(ours)
    ends = ours.times_s[-1], theirs.times_s[-1]
    best = (-1.0, 1.0, 0.0)
    columns = np.arange(len(theirs.times_s))
    live = np.abs(alike).max(axis=0) > 0
    if not live.any():
        return best
    for speed in map(float, speeds):
        reach = speed * ends[1]
        low, high = -0.5 * reach, ends[0] - 0.5 * reach
        low, high = min(low, 0.0), max(high, 0.0)
        count = int(min(1500, max(1, (high - low) / max(step / 2, 0.02)))) + 1
        for offset in sorted((0.0, *np.linspace(low, high, count)), key=abs):
            wanted = speed * theirs.times_s + offset
            inside = live & (wanted >= -step) & (wanted <= ends[0] + step)
            if inside.sum() < max(1, 0.4 * live.sum()):
                continue
            nearest = np.clip(np.searchsorted(ours.times_s, wanted - step / 2), 0, len(ours.times_s) - 1)
            score = float(alike[nearest[inside], columns[inside]].mean()) * (0.9 + 0.1 * inside.sum() / live.sum())
            if score > best[0] + (1e-4 if speed == best[1] else OTHER_SPEED_BY):
                best = score, speed, float(offset)
    return best


WHOLE = Coarse(speed=1.0, offset_s=0.0, part=(0.0, 0.0, 1.0, 1.0), shown=(0.0, 0.0, 1.0, 1.0), score=1.0)
"""The frame as it was sent."""


@dataclass(frozen=True, slots=True, kw_only=True)
class LinedUp:
    """One moment that was found to the picture and to the pixel."""

    pair: Pair
    placing: Placing
    alike: float


def _lined_up(
    packed: Path, packed_facts: MasterFacts, returned: Path, returned_facts: MasterFacts, coarse: Coarse, say: Say
) -> Iterator[LinedUp]:
    """A few moments, evenly over what both films have in common; those whose place cannot be found are left out."""
    ends = float(packed_facts.duration_s), float(returned_facts.duration_s)
    first = max(0.0, -coarse.offset_s / coarse.speed)
    last = min(ends[1], (ends[0] - coarse.offset_s) / coarse.speed)
    rate, frame_s = packed_facts.video.frame_rate, 1 / float(packed_facts.video.frame_rate)
    around = min(max(AROUND_S, coarse.grain_s), max(4 * frame_s, ends[0] / 4), MOST_AROUND_S)
    sizes = [(facts.video.display_width, facts.video.display_height) for facts in (packed_facts, returned_facts)]
    placing: Placing | None = None
    offsets, seen = list[float](), list[tuple[float, Placing]]()
    for number in range(MOMENTS):
        shown = int((first + (number + 0.5) / MOMENTS * (last - first)) * returned_facts.video.frame_rate)
        at = float(shown / returned_facts.video.frame_rate)
        theirs = next(_greys(returned, returned_facts, [(shown + Fraction(1, 4)) / returned_facts.video.frame_rate]))
        if theirs.std() < FLAT:
            continue
        middle, reach = coarse.speed * at + coarse.offset_s, around
        if len(offsets) > 1:  # two moments tell where the others lie
            middle, reach = coarse.speed * at + float(np.median(offsets)), min(around, NEAR_S)
        low = max(0, int((middle - reach) / frame_s))
        numbers = range(low, max(low + 1, min(int(ends[0] * rate), int((middle + reach) / frame_s) + 2)))
        ours = list(_greys(packed, packed_facts, [(n + Fraction(1, 4)) / rate for n in numbers]))
        if not ours:
            continue
        one = _placed(ours, theirs, sizes, coarse, placing)
        say(0.5 + 0.5 * (number + 1) / MOMENTS)
        if one is None:
            continue
        place, best, alike, sharp = one
        seen.append((alike, best))
        if len(seen) >= LEARNT:
            placing = max(seen, key=lambda one: one[0])[1]
        if sharp >= SHARP_FROM:
            offsets.append(float(numbers[place] / rate) - coarse.speed * at)
        yield LinedUp(
            pair=Pair(returned_s=at, packed_s=float(numbers[place] / rate), sharp=sharp), placing=best, alike=alike
        )


def _greys(path: Path, facts: MasterFacts, times_s: list[Fraction]) -> Iterator[Grey]:
    """Luma at middle size for each time; what lies beyond the end ends it."""
    size = _middle_size(facts)
    end = facts.duration_s + 1
    for frame in pictures_at(path, (at for at in times_s if at < end), start_s=facts.video.start_s):
        yield _grey(frame, size)


def _middle_size(facts: MasterFacts) -> tuple[int, int]:
    width = min(MIDDLE_WIDTH, facts.video.display_width // 2 * 2)
    return width, max(16, round(width * facts.video.display_height / facts.video.display_width))


def _placed(
    ours: list[Grey], theirs: Grey, sizes: list[tuple[int, int]], coarse: Coarse, known: Placing | None
) -> tuple[int, Placing, float, float] | None:
    """Which of our pictures one of theirs is, how it lies on it, how alike they are, and how sharp that place is."""
    scales = ours[0].shape[1] / sizes[0][0], theirs.shape[1] / sizes[1][0]
    begin = _warp(known, scales) if known else _warp_of_part(coarse, ours[0].shape, theirs.shape)
    place, _ = _chosen(ours, theirs, begin)
    tried = {place: _refined(ours[place], theirs, begin)}
    if (
        known is None
    ):  # a picture beside the right one, moved a little, can seem to fit: so those around it are tried too
        features = _by_features(ours[place], theirs)
        start = max(
            (begin, *([] if features is None else [features])), key=lambda warp: _correlation(ours[place], theirs, warp)
        )
        for near in range(max(0, place - 3), min(len(ours), place + 4)):
            tried[near] = _refined(ours[near], theirs, start) or tried.get(near)
    found = max((one for one in tried.values() if one), key=lambda one: one[1], default=None)
    whole = _warp_of_part(WHOLE, ours[0].shape, theirs.shape)
    plain, _ = _chosen(ours, theirs, whole)
    as_sent = _correlation(ours[plain], theirs, whole)
    if as_sent >= LEAST_ALIKE and (found is None or as_sent >= found[1] - AS_SENT_BY):
        found = whole, as_sent
    if found is None or found[1] < LEAST_ALIKE:
        return None
    chosen, sharp = _chosen(ours, theirs, found[0])
    if found[0] is not whole:
        found = _refined(ours[chosen], theirs, found[0]) or found
    placing = _placing(found[0], scales)
    return (chosen, placing, found[1], sharp) if placing else None


def _chosen(ours: list[Grey], theirs: Grey, warp: np.ndarray) -> tuple[int, float]:
    """Which of our pictures fits best through a map, and by how much better than those that are not beside it."""
    less = SMALL_WIDTH / theirs.shape[1]
    small = cv2.resize(theirs, None, fx=less, fy=less, interpolation=cv2.INTER_AREA)
    least = SMALL_WIDTH / ours[0].shape[1]
    shrunk = warp.copy()
    shrunk[:, :2] *= least / less
    shrunk[:, 2] *= least
    scores = [
        _correlation(cv2.resize(one, None, fx=least, fy=least, interpolation=cv2.INTER_AREA), small, shrunk)
        for one in ours
    ]
    place = int(np.argmax(scores))
    beside = [score for number, score in enumerate(scores) if abs(number - place) >= 2]
    return place, scores[place] - max(beside) if beside else 0.0


def _warp(placing: Placing, scales: tuple[float, float]) -> np.ndarray:
    """The map from our small px to theirs' inverse: from their small px to ours, as a 2 × 3 matrix."""
    mine, their = scales
    across, down = placing.scale_x * mine / their, placing.scale_y * mine / their
    return np.array(
        [
            [across, 0, placing.left * mine - 0.5 + 0.5 * across],
            [0, down, placing.top * mine - 0.5 + 0.5 * down],
        ],
        np.float32,
    )


def _warp_of_part(coarse: Coarse, ours: tuple[int, ...], theirs: tuple[int, ...]) -> np.ndarray:
    """The coarse part fills what of theirs is no bars."""
    left, top, right, bottom = coarse.part
    x0, y0, x1, y1 = coarse.shown
    across, down = (right - left) / (x1 - x0) * ours[1] / theirs[1], (bottom - top) / (y1 - y0) * ours[0] / theirs[0]
    return np.array(
        [
            [across, 0, left * ours[1] - across * x0 * theirs[1]],
            [0, down, top * ours[0] - down * y0 * theirs[0]],
        ],
        np.float32,
    )


def _warped(ours: Grey, shape: tuple[int, ...], warp: np.ndarray) -> tuple[Grey, np.ndarray]:
    """Our picture as it lies on theirs, and where there is any of it."""
    size = shape[1], shape[0]
    flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
    shown = cv2.warpAffine(ours, warp, size, flags=flags)
    there = cv2.warpAffine(np.ones_like(ours), warp, size, flags=flags) > 0.99
    return shown, there


def _correlation(ours: Grey, theirs: Grey, warp: np.ndarray) -> float:
    shown, there = _warped(ours, theirs.shape, warp)
    if there.mean() < 0.05:
        return -1.0
    one, other = shown[there], theirs[there]
    if one.std() < 1e-3 or other.std() < 1e-3:
        return 0.0
    return float(np.corrcoef(one, other)[0, 1])


def _refined(ours: Grey, theirs: Grey, begin: np.ndarray) -> tuple[np.ndarray, float] | None:
    """The map that fits best near one, and how alike the pictures are then; None where none is found."""
    criteria = (cv2.TERM_CRITERIA_EPS | cv2.TERM_CRITERIA_COUNT, ROUNDS, STILL_CHANGES)
    try:
        _, warp = OPENCV.findTransformECC(theirs, ours, begin.copy(), cv2.MOTION_AFFINE, criteria, None, 3)
    except cv2.error:  # it does not converge where there is nothing to hold on to
        return None
    return np.asarray(warp, np.float32), _correlation(ours, theirs, np.asarray(warp, np.float32))


def _by_features(ours: Grey, theirs: Grey) -> np.ndarray | None:
    """A first map from features that both pictures have; None where there are too few."""
    finder = OPENCV.SIFT_create(nfeatures=1500)
    pairs = [finder.detectAndCompute(np.clip(picture, 0, 255).astype(np.uint8), None) for picture in (theirs, ours)]
    if any(found[1] is None or len(found[0]) < 8 for found in pairs):
        return None
    matches = cv2.BFMatcher(cv2.NORM_L2).knnMatch(pairs[0][1], pairs[1][1], k=2)
    good = [two[0] for two in matches if len(two) == 2 and two[0].distance < 0.75 * two[1].distance]
    if len(good) < 8:
        return None
    source = np.array([pairs[0][0][match.queryIdx].pt for match in good], np.float32)
    target = np.array([pairs[1][0][match.trainIdx].pt for match in good], np.float32)
    warp, kept = cv2.estimateAffine2D(source, target, method=cv2.RANSAC, ransacReprojThreshold=2.0)
    return np.asarray(warp, np.float32) if warp is not None and int(np.asarray(kept).sum()) >= 8 else None


def _placing(warp: np.ndarray, scales: tuple[float, float]) -> Placing | None:
    """Crop and scale of a map; None for one that turns or shears the picture."""
    mine, their = scales
    size = max(abs(float(warp[0, 0])), abs(float(warp[1, 1])), 1e-6)
    if (
        abs(float(warp[0, 1])) > TURNED * size
        or abs(float(warp[1, 0])) > TURNED * size
        or warp[0, 0] <= 0
        or warp[1, 1] <= 0
    ):
        return None
    # Small px lie at their middles: half of one on either side is not the same length in the two films.
    left = (float(warp[0, 2]) + 0.5 - 0.5 * float(warp[0, 0])) / mine
    top = (float(warp[1, 2]) + 0.5 - 0.5 * float(warp[1, 1])) / mine
    return Placing(
        scale_x=float(warp[0, 0]) * their / mine, scale_y=float(warp[1, 1]) * their / mine, left=left, top=top
    )
