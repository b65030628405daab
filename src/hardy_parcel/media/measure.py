"""Compares pictures on viewers' screens: XPSNR (luma) and SSIM per picture."""

from __future__ import annotations

import math
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, field
from fractions import Fraction

import av

from ..core.arrival.condition import PERFECT_DB, mean_xpsnr_db
from ..core.arrival.screens import Raster, Screen
from .pictures import add_source

SCALER = "flags=bicubic+accurate_rnd"


@dataclass(frozen=True, slots=True, kw_only=True)
class Series:
    """Per-picture XPSNR in dB and SSIM 0–1, of measured pictures only; SSIM is empty where it was not asked for."""

    xpsnr_db: list[float] = field(default_factory=list)
    ssim: list[float] = field(default_factory=list)

    @property
    def mean_db(self) -> float:
        return mean_xpsnr_db(self.xpsnr_db)

    @property
    def mean_ssim(self) -> float:
        return sum(self.ssim) / len(self.ssim)


class Comparison:
    """One screen's comparison of several streams with the same reference, picture by picture.

    The reference is the master's kept picture, scaled to the picture's place on the raster in one step. Streams are
    given with the size of their frames in px; each frame is scaled to the raster's, then its bars are cut off
    with a margin.
    """

    def __init__(
        self, raster: Raster, reference: tuple[int, int], streams: dict[str, tuple[int, int]],
        rate: Fraction, *, ssim: bool = True,
    ) -> None:
        graph = av.filter.Graph()
        self._reference = add_source(
            graph, width=reference[0], height=reference[1], pixel_format="yuv420p", frame_rate=rate
        )
        scaled = graph.add("scale", f"w={raster.width}:h={raster.height}:{SCALER}")
        across, down = raster.margin
        width, height = raster.width - 2 * across, raster.height - 2 * down
        inner = graph.add("crop", f"w={width}:h={height}:x={across}:y={down}:exact=1")
        self._reference.link_to(scaled)
        scaled.link_to(inner)
        filters = ("xpsnr", "ssim") if ssim else ("xpsnr",)
        split = graph.add("split", f"outputs={len(filters) * len(streams)}")
        inner.link_to(split)
        self._inputs, self._sinks = {}, {}
        for number, (name, (wide, high)) in enumerate(streams.items()):
            source = add_source(graph, width=wide, height=high, pixel_format="yuv420p", frame_rate=rate)
            scale = graph.add("scale", f"w={raster.frame_width}:h={raster.frame_height}:{SCALER}")
            crop = graph.add("crop", f"w={width}:h={height}:x={raster.x + across}:y={raster.y + down}:exact=1")
            source.link_to(scale)
            scale.link_to(crop)
            last = crop
            for place, kind in enumerate(filters):
                step = graph.add(kind)
                last.link_to(step, 0, 0)
                split.link_to(step, len(filters) * number + place, 1)
                last = step
            sink = graph.add("buffersink")
            last.link_to(sink)
            self._inputs[name], self._sinks[name] = source, sink
        graph.configure()
        self._graph = graph

    def push(self, reference: av.VideoFrame, pictures: dict[str, av.VideoFrame]) -> list[tuple[str, float, float | None]]:
        """Send one picture of everything; returns (stream, XPSNR, SSIM or None) of those that came out."""
        self._reference.push(reference)
        for name, source in self._inputs.items():
            source.push(pictures[name])
        return [row for name in self._sinks for row in self._drain(name)]

    def finish(self) -> list[tuple[str, float, float | None]]:
        """End all inputs; returns what was still inside."""
        self._reference.push(None)
        for source in self._inputs.values():
            source.push(None)
        return [row for name in self._sinks for row in self._drain(name)]

    def _drain(self, name: str) -> Iterator[tuple[str, float, float | None]]:
        while True:
            try:
                seen = self._sinks[name].pull().metadata
            except (av.BlockingIOError, av.EOFError):
                return
            value = float(seen["lavfi.xpsnr.xpsnr.y"])
            ssim = float(seen["lavfi.ssim.Y"]) if "lavfi.ssim.Y" in seen else None
            yield name, (PERFECT_DB if math.isinf(value) else min(value, PERFECT_DB)), ssim


def compare(
    *,
    rasters: dict[Screen, Raster],
    reference_size: tuple[int, int],
    references: Iterator[av.VideoFrame],
    streams: dict[str, tuple[int, int]],
    pictures: dict[str, Iterator[av.VideoFrame]],
    measured: list[bool],
    rate: Fraction,
    ssim: bool = True,
    progress=lambda done: None,
) -> dict[tuple[str, Screen], Series]:
    """Series by stream and screen over the measured pictures.

    Pictures marked False are passed through the filters (XPSNR looks back in time) when they stand within the two
    before a measured one, and are otherwise skipped; their values are thrown away.
    """
    fed = [any(measured[i : i + 3]) for i in range(len(measured))]
    found = {(name, screen): Series() for name in streams for screen in rasters}
    keep = {(name, screen): 0 for name in streams for screen in rasters}
    kept_flags = [flag for flag, sent in zip(measured, fed, strict=True) if sent]
    names = list(pictures)
    parts = [names[0::2], names[1::2]] if len(rasters) == 1 and len(names) > 1 else [names]  # one for each of two cores
    comparisons = [
        (screen, Comparison(raster, reference_size, {name: streams[name] for name in part}, rate, ssim=ssim))
        for screen, raster in rasters.items()
        for part in parts
    ]

    def take(screen: Screen, rows: list[tuple[str, float, float | None]]) -> None:
        for name, xpsnr_db, likeness in rows:
            place = keep[name, screen]
            if kept_flags[place]:
                found[name, screen].xpsnr_db.append(xpsnr_db)
                if likeness is not None:
                    found[name, screen].ssim.append(likeness)
            keep[name, screen] = place + 1

    sent = 0
    with ThreadPoolExecutor(max_workers=2) as pool:
        for i, (reference, *others) in enumerate(zip(references, *(pictures[n] for n in names), strict=True)):
            if not fed[i]:
                continue
            for picture in (reference, *others):
                picture.pts, picture.time_base = sent, 1 / rate
            sent += 1
            row = dict(zip(names, others, strict=True))
            jobs = [(screen, pool.submit(comparison.push, reference, row)) for screen, comparison in comparisons]
            for screen, job in jobs:
                take(screen, job.result())
            progress(i + 1)
        for screen, comparison in comparisons:
            take(screen, comparison.finish())
    return found
