"""Compares pictures on viewers' screens, picture by picture: the parts of condition, and XPSNR on luma."""

from __future__ import annotations

import math
from collections import deque
from collections.abc import Callable, Iterator, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any, cast

import av
import cv2
import numpy as np
from av.filter.context import FilterContext

from ..core.arrival.condition import PERFECT_DB, PictureParts
from ..core.arrival.screens import Raster
from ..core.errors import EncoderTrouble
from .likeness import ReferencePicture, detail_kept, information_kept, levels, moved, movement, seen, stilled
from .luma import rows_of
from .pictures import add_source

SCALER = "flags=bicubic+accurate_rnd"
MOVED_APART_S = Fraction(1, 25)
"""How far apart pictures are compared for movement: what the scale was fitted at."""
SLOW_RATE = 32
"""Up to so many pictures a second XPSNR looks at the one before, beyond at the two before (Helmrich et al. 2020)."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stream:
    """Pictures to be judged, of this size in px, on the rasters of these numbers; each is shown `repeats` times."""

    pictures: Iterator[av.VideoFrame]
    size: tuple[int, int]
    rasters: frozenset[int]
    repeats: int = 1


@dataclass(slots=True)
class _Waiting:
    """One reference picture until every stream's picture has come out of the filters."""

    measured: bool
    picture: ReferencePicture | None
    means: tuple[float, float, float]
    index: int
    left: int


@dataclass(slots=True)
class Comparison:
    """One raster's comparison of several streams with the same reference, picture by picture.

    The reference is the master's kept picture, scaled to the picture's place on the raster in one step. Streams are scaled to the
    raster's frame, then their bars are cut off with a margin.
    """

    raster: Raster
    reference_size: tuple[int, int]
    sizes: dict[str, tuple[int, int]]
    rate: Fraction
    _graph: av.filter.Graph = field(init=False)
    _reference: FilterContext = field(init=False)
    _shown: FilterContext = field(init=False)
    _inputs: dict[str, FilterContext] = field(init=False, default_factory=dict)
    _sinks: dict[str, FilterContext] = field(init=False, default_factory=dict)
    _waiting: list[_Waiting] = field(init=False, default_factory=list)
    _come: dict[str, int] = field(init=False, default_factory=dict)
    _stilled: deque[tuple[int, np.ndarray]] = field(init=False, default_factory=lambda: deque(maxlen=8))
    _moved: dict[int, float] = field(init=False, default_factory=dict)
    _flags: deque[tuple[int, bool]] = field(init=False, default_factory=deque)
    found: dict[str, list[tuple[int, PictureParts]]] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        graph, raster = av.filter.Graph(), self.raster
        width, height = self.reference_size
        self._reference = add_source(graph, width=width, height=height, pixel_format="yuv420p", frame_rate=self.rate)
        scaled = graph.add("scale", f"w={raster.width}:h={raster.height}:{SCALER}")
        across, down = raster.margin
        wide, high = raster.width - 2 * across, raster.height - 2 * down
        inner = graph.add("crop", f"w={wide}:h={high}:x={across}:y={down}:exact=1")
        split = graph.add("split", f"outputs={len(self.sizes) + 1}")
        self._reference.link_to(scaled)
        scaled.link_to(inner)
        inner.link_to(split)
        self._shown = graph.add("buffersink")
        split.link_to(self._shown, 0, 0)
        for number, (name, size) in enumerate(self.sizes.items(), 1):
            source = add_source(graph, width=size[0], height=size[1], pixel_format="yuv420p", frame_rate=self.rate)
            scale = graph.add("scale", f"w={raster.frame_width}:h={raster.frame_height}:{SCALER}")
            crop = graph.add("crop", f"w={wide}:h={high}:x={raster.x + across}:y={raster.y + down}:exact=1")
            step, sink = graph.add("xpsnr"), graph.add("buffersink")
            source.link_to(scale)
            scale.link_to(crop)
            crop.link_to(step, 0, 0)
            split.link_to(step, number, 1)
            step.link_to(sink)
            self._inputs[name], self._sinks[name] = source, sink
            self._come[name], self.found[name] = 0, []
        graph.configure()
        self._graph = graph

    def push(self, index: int, measured: bool, reference: av.VideoFrame, pictures: dict[str, av.VideoFrame]) -> None:
        """Send one picture of everything, `index` being its place in the reel; only `measured` ones are judged."""
        self._flags.append((index, measured))
        self._reference.push(reference)
        for name, source in self._inputs.items():
            source.push(pictures[name])
        self._take()

    def finish(self) -> None:
        """End all inputs and judge what was still inside; movement is known then."""
        self._reference.push(None)
        for source in self._inputs.values():
            source.push(None)
        self._take()
        stride = self.stride
        for rows in self.found.values():
            for place, (index, parts) in enumerate(rows):
                moves = movement(self._moved.get(index), self._moved.get(index + stride))
                rows[place] = index, parts.model_copy(update={"movement": moves})

    @property
    def stride(self) -> int:
        return max(1, round(self.rate * MOVED_APART_S))

    def _take(self) -> None:
        for picture in _ready(self._shown):
            index, measured = self._flags.popleft()
            luma = levels(_luma(picture))
            calm = stilled(luma)
            for before, other in self._stilled:
                if before == index - self.stride:
                    self._moved[index] = moved(other, calm)
            self._stilled.append((index, calm))
            means = _means(picture) if measured else (0.0, 0.0, 0.0)
            self._waiting.append(_Waiting(measured, seen(luma) if measured else None, means, index, len(self._sinks)))
        for name, sink in self._sinks.items():
            for picture in _ready(sink):
                waiting = self._waiting[self._come[name]]
                self._come[name] += 1
                if waiting.picture:
                    self.found[name].append((waiting.index, _judged(picture, waiting.picture, waiting)))
                waiting.left -= 1
                if not waiting.left:
                    waiting.picture = None


def _judged(picture: av.VideoFrame, reference: ReferencePicture, waiting: _Waiting) -> PictureParts:
    value = float(picture.metadata["lavfi.xpsnr.xpsnr.y"])
    luma, means = levels(_luma(picture)), _means(picture)
    shifts = [here - there for here, there in zip(means, waiting.means, strict=True)]
    return PictureParts(
        detail=detail_kept(reference, luma),
        information=information_kept(reference, luma),
        movement=0.0,
        xpsnr_db=PERFECT_DB if math.isinf(value) else min(value, PERFECT_DB),
        luma_shift=shifts[0],
        chroma_shift=max(abs(shifts[1]), abs(shifts[2])),
    )


def _ready(sink: Any) -> Iterator[av.VideoFrame]:
    while True:
        try:
            yield sink.pull()
        except (av.BlockingIOError, av.EOFError):
            return


def _luma(picture: av.VideoFrame) -> np.ndarray:
    return rows_of(picture.planes[0])[: picture.height, : picture.width]


def _means(picture: av.VideoFrame) -> tuple[float, float, float]:
    found = []
    for plane in picture.planes:
        found.append(cv2.mean(rows_of(plane)[: plane.height, : plane.width])[0])
    return found[0], found[1], found[2]


def compare(
    *,
    rasters: Sequence[Raster],
    reference_size: tuple[int, int],
    references: Iterator[av.VideoFrame],
    streams: dict[str, Stream],
    measured: Sequence[bool],
    rate: Fraction,
    progress: Callable[[int], None] = lambda done: None,
    own_reference: Callable[[av.VideoFrame, int], av.VideoFrame] | None = None,
) -> dict[tuple[str, int], list[tuple[int, PictureParts]]]:
    """Parts by stream and number of raster, each with its place in the reel, of the measured pictures.

    Pictures around a measured one are passed through the filters, since XPSNR and movement look at neighbours; what they give is
    thrown away, and all others are skipped. `references` and `streams` hold one picture for each flag of `measured`. Where each raster
    has another part of the reference, `own_reference` makes that of a reference and the raster's number, at the raster's size.
    """
    stride = max(1, round(rate * MOVED_APART_S))
    ahead = max(stride, 1 if rate <= SLOW_RATE else 2)
    fed = [any(measured[max(0, i - stride) : i + ahead + 1]) for i in range(len(measured))]
    comparisons = [
        Comparison(
            raster,
            raster.size if own_reference else reference_size,
            {name: stream.size for name, stream in streams.items() if number in stream.rasters},
            rate,
        )
        for number, raster in enumerate(rasters)
    ]
    names = list(streams)
    shown = [_repeated(stream) for stream in streams.values()]
    sent, jobs = 0, list[Future[None]]()
    heaviest = sorted(
        (number for number, one in enumerate(comparisons) if one.sizes),
        key=lambda one: -rasters[one].width * rasters[one].height,
    )

    def push(number: int, index: int, flag: bool, reference: av.VideoFrame, pictures: dict[str, av.VideoFrame]) -> None:
        if own_reference:
            reference = _in_420(own_reference(reference, number), cast(int, reference.pts), rate)
        comparisons[number].push(index, flag, reference, pictures)

    with ThreadPoolExecutor(max_workers=2) as pool:
        for i, flag in enumerate(measured):
            row = [next(pictures, None) for pictures in (references, *shown)]  # while the last ones are still judged
            whole = [picture for picture in row if picture is not None]
            if len(whole) < len(row):
                raise EncoderTrouble(f"What was encoded ends after {i} of {len(measured)} pictures.", "Try again.")
            if not fed[i]:
                continue
            for job in jobs:
                job.result()
            ready = [
                _in_420(picture, sent, rate) for picture in whole
            ]  # only now: a repeated picture is the same one again
            sent += 1
            others = dict(zip(names, ready[1:], strict=True))
            jobs = [pool.submit(push, number, i, flag, ready[0], others) for number in heaviest]
            progress(i)
        for job in jobs:
            job.result()
        progress(len(measured))
        for comparison in comparisons:
            if comparison.sizes:
                comparison.finish()
    return {
        (name, number): rows for number, comparison in enumerate(comparisons) for name, rows in comparison.found.items()
    }


def _repeated(stream: Stream) -> Iterator[av.VideoFrame]:
    for picture in stream.pictures:
        for _ in range(stream.repeats):
            yield picture


def _in_420(picture: av.VideoFrame, index: int, rate: Fraction) -> av.VideoFrame:
    """A picture as the filters take it, with a time stamp that counts from 0."""
    if picture.format.name != "yuv420p":
        picture = picture.reformat(format="yuv420p")
    picture.pts, picture.time_base = index, 1 / rate
    return picture
