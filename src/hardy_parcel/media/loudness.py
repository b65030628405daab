"""A file's sound, in one pass: loudness and true peak per ITU-R BS.1770-5 and EBU R 128, its envelope, its clipping."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
from av.stream import Discard

from ..core.checks.peak import PeakMeter
from ..core.checks.sound import flat_tops, over_full_scale
from ..core.checks.survey import SoundSurvey
from .trouble import open_film, reading

SILENT_LUFS = -69.0
"""The meter's absolute gate is −70 LUFS: at or below it there is nothing to measure."""
BLOCK_S = 0.5
ENVELOPE_POINTS = 900
TELL_EVERY_S = 20.0
MOST_TROUBLES = 50


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


NOTHING = Loudness(integrated_lufs=None, range_lu=None, true_peak_dbtp=None)


def measure_loudness(path: Path) -> Loudness:
    """Loudness of the first sound stream. A file without sound, or a silent one, gives None throughout."""
    return measure_sound(path)[0]


def measure_sound(
    path: Path, *, start_s: Fraction = Fraction(0), say: Callable[[SoundSurvey, float], None] = lambda sound, done_s: None
) -> tuple[Loudness, SoundSurvey]:
    """Loudness, envelope and clipping of the first sound stream.

    Times count from `start_s`, the time stamp of the first picture. `say` gets the envelope so far and the seconds
    done every 20 s of sound, and may raise to stop. A damaged packet is passed over; after many the rest is left out.
    """
    with reading(path), open_film(path) as container:
        if not container.streams.audio:
            return NOTHING, SoundSurvey(step_s=1.0)
        stream = container.streams.audio[0]
        for other in container.streams:
            if other.index != stream.index:
                other.discard = Discard.all
        ear = _Ear(stream, max(0.1, float(Fraction(container.duration or 0, 1_000_000)) / ENVELOPE_POINTS), start_s)
        told = 0.0
        for frame in _decoded(container, stream):
            ear.hear(frame)
            if ear.done_s - told >= TELL_EVERY_S:
                told = ear.done_s
                say(ear.survey(complete=False), told)
        ear.hear(None)
    return ear.loudness(), ear.survey(complete=True)


def _decoded(container, stream):
    """Decoded sound; packets that cannot be decoded are passed over until there are too many of them."""
    troubles = 0
    for packet in container.demux(stream):
        try:
            yield from packet.decode()
        except av.InvalidDataError:
            troubles += 1
            if troubles > MOST_TROUBLES:
                return


class _Ear:
    """Passes every frame through the meter, which hands on even blocks, and measures those once more as arrays."""

    def __init__(self, stream, step_s: float, start_s: Fraction) -> None:
        self._rate = stream.codec_context.sample_rate
        self._channels = stream.codec_context.channels
        self._step_s = step_s
        self._late_s = float(Fraction(stream.start_time or 0) * stream.time_base - start_s)
        self._graph = av.filter.Graph()
        self._source = self._graph.add_abuffer(template=stream)
        meter = self._graph.add("ebur128", "metadata=1")
        self._sink = self._graph.add("abuffersink")
        self._graph.link_nodes(self._source, meter, self._sink)
        self._graph.configure()
        self._waiting: list[np.ndarray] = []
        self._held = self._heard = 0
        self._last: dict[str, str] = {}
        self._envelope: list[float | None] = []
        self._meter = PeakMeter(self._channels)
        self._flat = self._over = 0
        self._first: float | None = None

    @property
    def done_s(self) -> float:
        return (self._heard + self._held) / self._rate

    def hear(self, frame: av.AudioFrame | None) -> None:
        """Take the next frame; None ends the sound."""
        self._source.push(frame)
        while True:
            try:
                block = self._sink.pull()
            except (av.BlockingIOError, av.EOFError):
                break
            self._level(block.metadata)
            self._waiting.append(block.to_ndarray().reshape(-1, self._channels))
            self._held += block.samples
            if self._held >= BLOCK_S * self._rate:
                self._measure()
        if frame is None and self._waiting:
            self._measure()

    def _measure(self) -> None:
        block = np.ascontiguousarray(np.concatenate(self._waiting).T, np.float32)
        self._waiting, self._held = [], 0
        if not np.isfinite(block.sum()):
            block = np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0)
        flat, over = flat_tops(block), over_full_scale(block)
        self._flat, self._over = self._flat + flat, self._over + over
        if self._first is None and flat + over >= 4:
            loudest = int(np.argmax(np.abs(block).max(axis=0)))
            self._first = round(max(0.0, self._late_s + (self._heard + loudest) / self._rate), 3)
        self._meter.hear(block)
        self._heard += block.shape[1]

    def _level(self, seen: dict[str, str]) -> None:
        """Keep the momentary loudness of a block of the meter, at the place where it ends."""
        if not seen:
            return
        self._last = seen
        place = int(max(0.0, self._late_s + self.done_s) / self._step_s + 1e-6)
        level = float(seen.get("lavfi.r128.M", "-120"))
        while len(self._envelope) <= place:
            self._envelope.append(None)
        if math.isfinite(level) and level > -100:
            before = self._envelope[place]
            self._envelope[place] = round(level if before is None else max(before, level), 1)

    def loudness(self) -> Loudness:
        integrated = float(self._last.get("lavfi.r128.I", "-70"))
        if integrated <= SILENT_LUFS or self._meter.peak <= 0:
            return NOTHING
        return Loudness(
            integrated_lufs=round(integrated, 1), range_lu=round(float(self._last.get("lavfi.r128.LRA", "0")), 1),
            true_peak_dbtp=round(20 * math.log10(self._meter.peak), 1),
        )

    def survey(self, *, complete: bool) -> SoundSurvey:
        return SoundSurvey(
            step_s=self._step_s, envelope_lufs=tuple(self._envelope), samples=self._heard * self._channels,
            flat_tops=self._flat, over_full_scale=self._over, first_clipped_s=self._first, complete=complete,
        )
