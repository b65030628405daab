"""Loudness of a file's sound: integrated, range and true peak per ITU-R BS.1770-5 and EBU R 128."""

from __future__ import annotations

import math
from dataclasses import dataclass
from pathlib import Path

import av

from .trouble import reading

SILENT_LUFS = -69.0
"""The meter's absolute gate is −70 LUFS: at or below it there is nothing to measure."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Loudness:
    """Integrated loudness in LUFS, range in LU, true peak in dBTP; None where the sound is silent."""

    integrated_lufs: float | None
    range_lu: float | None
    true_peak_dbtp: float | None

    def as_facts(self) -> dict[str, float | None]:
        """Fields of AudioFacts."""
        return {
            "integrated_lufs": self.integrated_lufs,
            "loudness_range_lu": self.range_lu,
            "true_peak_dbtp": self.true_peak_dbtp,
        }


def measure_loudness(path: Path) -> Loudness:
    """Loudness of the first sound stream. A file without sound, or a silent one, gives None throughout."""
    with reading(path), av.open(str(path), metadata_errors="replace") as container:
        if not container.streams.audio:
            return Loudness(integrated_lufs=None, range_lu=None, true_peak_dbtp=None)
        stream = container.streams.audio[0]
        graph = av.filter.Graph()
        source = graph.add_abuffer(template=stream)
        meter = graph.add("ebur128", "peak=true:metadata=1")
        sink = graph.add("abuffersink")
        graph.link_nodes(source, meter, sink)
        graph.configure()
        last: dict[str, str] = {}
        peak = -math.inf

        def drain() -> None:
            nonlocal last, peak
            while True:
                try:
                    seen = sink.pull().metadata
                except (av.BlockingIOError, av.EOFError):
                    return
                if seen:
                    last = dict(seen)
                    peaks = [float(v) for k, v in seen.items() if k.startswith("lavfi.r128.true_peaks_ch")]
                    peak = max([peak, *peaks])

        for frame in container.decode(stream):
            source.push(frame)
            drain()
        source.push(None)
        drain()
    integrated = float(last.get("lavfi.r128.I", "-70"))
    if integrated <= SILENT_LUFS or peak <= 0:
        return Loudness(integrated_lufs=None, range_lu=None, true_peak_dbtp=None)
    return Loudness(
        integrated_lufs=round(integrated, 1),
        range_lu=round(float(last.get("lavfi.r128.LRA", "0")), 1),
        true_peak_dbtp=round(20 * math.log10(peak), 1),
    )
