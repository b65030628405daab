"""Looks through a film's picture by sensible samples: windows of neighbouring pictures spread over it (rules §1)."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass, field, replace
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
from av.sidedata.sidedata import Type as SideDataType
from av.video.frame import PictureType

from ..core.master.checks import bars, motion, picture
from ..core.master.checks.evidence import Difficulty, Edges, FieldEvidence, Levels, Survey, Window
from ..core.master.facts import VideoFacts
from .inspect import picture_stream
from .luma import small_luma, whole_luma
from .trouble import open_film, reading

SMALL_LONG_SIDE = 320
FIELD_COLUMNS = 240
FIELD_PAIRS = 5
SHARE = 0.25
"""Of the pictures that are decoded: what lets a heavy film be checked at three times its running speed."""
AT_LEAST_PIXELS, AT_MOST_PIXELS = 160e6, 5.0e9
AT_LEAST_PICTURES, AT_MOST_PICTURES = 1500, 2400
EDGE_PICTURES = 24
PATCH = 384
BLANK_SEARCH_PICTURES = 4000
SKIP_PICTURES = 420
MOST_TROUBLES = 200

Say = Callable[[float], None]


@dataclass(frozen=True, slots=True, kw_only=True)
class Sampling:
    """Which windows are decoded: their start times in s, pictures in each, and whether they are the whole film."""

    starts_s: tuple[Fraction, ...]
    pictures: int
    whole: bool
    in_film: int


def sampling(video: VideoFacts, duration_s: Fraction) -> Sampling:
    """Windows spread evenly, the first and the last at the ends. Small and short films are looked at whole."""
    rate = video.frame_rate
    in_film = max(1, video.pictures or round(duration_s * rate))
    pixels = max(1, video.coded_width * video.coded_height)
    least = min(AT_LEAST_PICTURES, AT_LEAST_PIXELS / pixels)
    wanted = min(in_film, max(SHARE * in_film, least), AT_MOST_PICTURES, max(60.0, AT_MOST_PIXELS / pixels))
    length = min(72, max(26, math.ceil(rate * Fraction(26, 25))))
    count = max(1, round(wanted / length))
    if wanted >= 0.9 * in_film or count * length >= 0.9 * in_film:
        return Sampling(starts_s=(Fraction(0),), pictures=in_film, whole=True, in_film=in_film)
    last = duration_s - Fraction(length) / rate
    count = max(2, count)
    return Sampling(
        starts_s=tuple(last * i / (count - 1) for i in range(count)), pictures=length, whole=False, in_film=in_film
    )


@dataclass(slots=True)
class _Collected:
    """What grows while the film is looked at."""

    windows: list[Window] = field(default_factory=list)
    edges: list[Edges] = field(default_factory=list)
    difficulty: list[Difficulty] = field(default_factory=list)
    histogram: np.ndarray = field(default_factory=lambda: np.zeros(256, np.int64))
    quantisers: list[float] = field(default_factory=list)
    dark_pictures: int = 0
    level_pictures: int = 0
    seen: int = 0


SCAN_WINDOWS, SCAN_PICTURES = 5, 150


def scan_windows(path: Path, video: VideoFacts, duration_s: Fraction) -> tuple[Window, ...]:
    """A few windows spread over a film, enough to tell interlaced from progressive pictures; a second or two of work."""
    plan = sampling(video, duration_s)
    if not plan.whole and len(plan.starts_s) > SCAN_WINDOWS:
        chosen = tuple(plan.starts_s[round(i * (len(plan.starts_s) - 1) / (SCAN_WINDOWS - 1))] for i in range(SCAN_WINDOWS))
        plan = replace(plan, starts_s=chosen)
    look, position = _Look(video, plan), -1.0
    with reading(path), open_film(path) as container:
        stream = picture_stream(container, path)
        stream.thread_type = "AUTO"
        for start in plan.starts_s:
            for seen, (at_s, frame) in enumerate(_from(container, stream, video, start, position, exact=False), 1):
                look.add(at_s, frame)
                position = at_s
                if seen >= min(plan.pictures, SCAN_PICTURES):
                    break
            look.close_window()
    return tuple(look.found.windows)


def survey(path: Path, video: VideoFacts, duration_s: Fraction, say: Say = lambda share: None) -> Survey:
    """The picture's evidence. `say` gets the share done and may raise to stop. Damaged stretches are passed over."""
    plan = sampling(video, duration_s)
    look = _Look(video, plan)
    with reading(path), open_film(path) as container:
        stream = picture_stream(container, path)
        stream.thread_type = "AUTO"
        stream.codec_context.options = {"export_side_data": "venc_params"}
        head = tail = 0.0
        position = -1.0
        for number, start in enumerate(plan.starts_s):
            last = number == len(plan.starts_s) - 1
            frames = _from(container, stream, video, start, position, exact=last and not plan.whole)
            most = plan.pictures * (4 if last else 1)  # the last one goes on to the end, however close its pictures are
            for at_s, frame in frames:
                look.add(at_s, frame)
                position = at_s
                most -= 1
                if look.count % 8 == 0:
                    say(0.98 * min(1.0, (number + min(1.0, look.count / plan.pictures)) / len(plan.starts_s)))
                if most <= 0:
                    break
            if number == 0:
                head = look.blank_head()
            if last:
                tail = look.blank_tail(duration_s)
            look.close_window()
        black = 0 if video.colour.range == "pc" else 16
        if look.head_open and not plan.whole:
            head = _search_head(container, stream, video, head, black)
        if look.tail_open and not plan.whole:
            tail = _search_tail(container, stream, video, duration_s, black, tail)
    found = look.found
    say(1.0)
    return Survey(
        pictures_seen=found.seen, pictures_in_film=plan.in_film, windows=tuple(found.windows), levels=look.levels(),
        blank_head_s=round(min(head, float(duration_s)), 3), blank_tail_s=round(min(tail, float(duration_s)), 3),
        active=bars.picture_inside_bars(found.edges, black=black), difficulty=tuple(found.difficulty),
        quantiser=round(float(np.median(found.quantisers)), 1) if found.quantisers else None,
    )


def _from(
    container: Any, stream: Any, video: VideoFacts, start: Fraction, position: float, *, exact: bool, anew: bool = False
) -> Iterator[tuple[float, av.VideoFrame]]:
    """Pictures from the keyframe before `start` on, each with its time in s; from `start` itself when `exact`.

    What an earlier window has seen is passed over. A film with few keyframes is decoded on where it stands. With `anew` something
    was read before, so even the beginning has to be sought.
    """
    base = stream.time_base
    if start > 0 or anew:
        container.seek(int((start + video.start_s) / base), stream=stream, backward=True)
    skipped = 0
    for frame in _decoded(container, stream):
        stamp = frame.pts if frame.pts is not None else frame.dts or 0
        at_s = float(stamp * (frame.time_base or base) - video.start_s)
        if at_s <= position + 1e-6 or (exact and at_s < float(start) - 1e-6):
            skipped += 1
            if skipped > SKIP_PICTURES and not exact:
                return
            continue
        yield at_s, frame


def _decoded(container: Any, stream: Any) -> Iterator[av.VideoFrame]:
    """Pictures; packets that cannot be decoded are passed over until there are too many of them in a row."""
    troubles = 0
    for packet in container.demux(stream):
        try:
            frames = packet.decode()
        except av.InvalidDataError:
            troubles += 1
            if troubles > MOST_TROUBLES:
                return
            continue
        troubles = 0
        yield from frames


class _Look:
    """Takes pictures one after the other and keeps the numbers, never the pictures."""

    def __init__(self, video: VideoFacts, plan: Sampling) -> None:
        self.found = _Collected()
        self._video, self._plan = video, plan
        scale = min(1.0, SMALL_LONG_SIDE / max(video.coded_width, video.coded_height))
        self._width = max(16, 2 * round(video.coded_width * scale / 2))
        self._height = max(16, 2 * round(video.coded_height * scale / 2))
        self._black = 0 if video.colour.range == "pc" else 16
        total = plan.pictures * len(plan.starts_s)
        self._edge_every = max(1, math.ceil(total / EDGE_PICTURES))
        self._pair_every = max(2, (plan.pictures if not plan.whole else 36) // FIELD_PAIRS)
        self._second = max(1, round(video.frame_rate))
        self._chunk = max(26, self._second)
        self.head_open = self.tail_open = False
        self._reset()

    def _reset(self) -> None:
        self.count = 0
        self._at: list[float] = []
        self._change: list[float | None] = []
        self._between: list[float | None] = []
        self._detail: list[float | None] = []
        self._blank: list[bool] = []
        self._both_ways: list[bool] = []
        self._small: list[np.ndarray] = []
        self._fields: list[FieldEvidence] = []
        self._pair: np.ndarray | None = None
        self._temporal: list[float] = []
        self._windows_at = 0

    def add(self, at_s: float, frame: av.VideoFrame) -> None:
        """Measure one picture of the window."""
        found, i = self.found, self.count
        small = small_luma(frame, self._width, self._height)
        before = self._small[-1] if self._small else None
        if before is not None and before.shape == small.shape:
            self._change.append(round(motion.picture_change(before, small), 3))
            self._temporal.append(motion.temporal_information(before, small))
        else:
            self._change.append(None)
        self._between.append(None)
        self._detail.append(None)
        if len(self._small) == 2:
            ratio = motion.between_ratio(self._small[0], self._small[1], small)
            self._between[-2] = None if ratio is None else round(ratio, 4)
            detail = motion.detail_ratio(self._small[0], self._small[1], small)
            self._detail[-2] = None if detail is None else round(detail, 4)
        self._small = [*self._small[-1:], small]
        self._at.append(round(at_s, 4))
        self._both_ways.append(frame.pict_type == PictureType.B)
        luma = whole_luma(frame) if self._wants_whole(i) else None
        dark = int(small.max()) <= self._black + picture.BLANK_RISE
        self._blank.append(dark and picture.is_blank(whole_luma(frame) if luma is None else luma, small, black=self._black))
        if luma is not None:
            self._sample(at_s, luma, small, i)
        self._field_pair(frame, i)
        if i % 6 == 3:
            found.quantisers += _quantiser(frame)
        self.count += 1
        found.seen += 1
        if self._plan.whole and self.count % self._chunk == 0:
            self._store(self._windows_at, self.count)

    def _wants_whole(self, i: int) -> bool:
        return i % 4 == 0 or self.found.seen % self._edge_every == 0

    def _sample(self, at_s: float, luma: np.ndarray, small: np.ndarray, i: int) -> None:
        found = self.found
        counts = picture.histogram(luma)
        found.histogram += counts
        found.level_pictures += 1
        found.dark_pictures += int(counts[:9].sum() >= 0.002 * counts.sum())
        if found.seen % self._edge_every == 0:
            found.edges.append(picture.edges(luma, at_s, black=self._black))
        if i % self._second < 4 and (not found.difficulty or at_s - found.difficulty[-1].at_s >= 0.75):
            top, left = max(0, (luma.shape[0] - PATCH) // 2), max(0, (luma.shape[1] - PATCH) // 2)
            found.difficulty.append(Difficulty(
                at_s=round(at_s, 3), spatial=round(picture.spatial_information(small), 2), temporal=-1.0,
                grain=round(picture.grain(luma[top : top + PATCH, left : left + PATCH]), 2),
            ))
            self._temporal.clear()

    def _field_pair(self, frame: av.VideoFrame, i: int) -> None:
        """Every few pictures, two neighbours at their full number of lines."""
        place = i % self._pair_every
        if place == 0 and frame.height >= 64:
            self._pair = small_luma(frame, min(FIELD_COLUMNS, max(16, frame.width // 2 // 2 * 2)), frame.height)
        elif place == 1 and self._pair is not None and self._pair.shape[0] == frame.height:
            after = small_luma(frame, self._pair.shape[1], frame.height)
            self._fields.append(motion.field_difference(self._pair, after))
            self._pair = None
        if self._temporal and self.found.difficulty and self.found.difficulty[-1].temporal < 0 and len(self._temporal) >= 6:
            self._settle_temporal()

    def _settle_temporal(self) -> None:
        last = self.found.difficulty[-1]
        self.found.difficulty[-1] = last.model_copy(update={"temporal": round(float(np.median(self._temporal)), 2)})

    def blank_head(self) -> float:
        """Seconds of blank pictures from the first one; `head_open` when they reach the end of the window."""
        run = next((i for i, blank in enumerate(self._blank) if not blank), len(self._blank))
        self.head_open = bool(self._blank) and run == len(self._blank)
        if run == 0:
            return 0.0
        if self.head_open:
            return self._at[-1] + float(1 / self._video.frame_rate)
        return self._at[run]

    def blank_tail(self, duration_s: Fraction) -> float:
        """Seconds of blank pictures up to the end; `tail_open` when they reach back to the window's start."""
        run = next((i for i, blank in enumerate(reversed(self._blank)) if not blank), len(self._blank))
        self.tail_open = bool(self._blank) and run == len(self._blank)
        return max(0.0, float(duration_s) - self._at[len(self._at) - run]) if run else 0.0

    def _store(self, start: int, end: int) -> None:
        if end - start < 2:
            return
        pairs, self._fields = self._fields, []
        totals = FieldEvidence(
            within=sum(p.within for p in pairs), top_later=sum(p.top_later for p in pairs),
            bottom_later=sum(p.bottom_later for p in pairs), moving=sum(p.moving for p in pairs) / max(1, len(pairs)),
        )
        self.found.windows.append(Window(
            first_picture=round(self._at[start] * float(self._video.frame_rate)), at_s=tuple(self._at[start:end]),
            change=tuple(self._change[start:end]), between=tuple(self._between[start:end]),
            detail=tuple(self._detail[start:end]), both_ways=tuple(self._both_ways[start:end]), fields=totals,
        ))
        self._windows_at = end

    def close_window(self) -> None:
        """Keep the window's numbers and make ready for the next."""
        if self.found.difficulty and self.found.difficulty[-1].temporal < 0:
            if self._temporal:
                self._settle_temporal()
            else:
                self.found.difficulty.pop()
        self._store(self._windows_at, self.count)
        self._reset()

    def levels(self) -> Levels:
        counts = self.found.histogram
        whole = max(1, int(counts.sum()))
        return Levels(
            below_limited=float(counts[:9].sum() / whole), at_limited_black=float(counts[15:18].sum() / whole),
            at_limited_white=float(counts[234:237].sum() / whole), above_limited=float(counts[243:].sum() / whole),
            pictures_below=self.found.dark_pictures / max(1, self.found.level_pictures),
        )


def _quantiser(frame: av.VideoFrame) -> list[float]:
    """The mean quantiser over the blocks of a picture; nothing where the decoder does not tell."""
    told: Any = frame.side_data.get(SideDataType.VIDEO_ENC_PARAMS)  # type: ignore[call-overload]
    if told is None or not told.nb_blocks:
        return []
    try:
        return [float(told.qp_map().mean())]
    except RuntimeError:  # the map wants as many blocks as the picture has; fields may have a row more
        return [float(told.qp)]


def _blank_at(frame: av.VideoFrame, black: int) -> bool:
    small = small_luma(frame, 64, 36)
    return int(small.max()) <= black + picture.BLANK_RISE and picture.is_blank(whole_luma(frame), small, black=black)


def _search_head(container: Any, stream: Any, video: VideoFacts, known_s: float, black: int) -> float:
    """Where a blank head ends that is longer than the first window."""
    head = known_s
    for count, (at_s, frame) in enumerate(_from(container, stream, video, Fraction(known_s).limit_denominator(1000), -1.0, exact=False)):
        if not _blank_at(frame, black):
            return max(head, at_s)
        head = at_s + float(1 / video.frame_rate)
        if count > BLANK_SEARCH_PICTURES:
            break
    return head


def _search_tail(container: Any, stream: Any, video: VideoFacts, duration_s: Fraction, black: int, known_s: float) -> float:
    """Where a blank tail begins that is longer than the last window: in leaps back, then picture by picture forward."""
    leap, end = Fraction(4), duration_s - Fraction(known_s).limit_denominator(1000)
    while True:
        start = max(Fraction(0), end - leap)
        begins: float | None = None
        lit = False
        for count, (at_s, frame) in enumerate(_from(container, stream, video, start, -1.0, exact=False, anew=True)):
            if at_s >= float(end):
                break
            if _blank_at(frame, black):
                begins = at_s if begins is None else begins
            else:
                begins, lit = None, True
            if count > BLANK_SEARCH_PICTURES:  # never seen through to the end: what is known has to do
                return known_s
        if lit or start == 0:
            tail = float(duration_s) - (begins if begins is not None else float(end))
            return max(known_s, tail)
        end, leap = start, leap * 2
