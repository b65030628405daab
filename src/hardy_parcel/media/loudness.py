"""A file's sound, in one pass: loudness and true peak per ITU-R BS.1770-5 and EBU R 128, its envelope, its clipping."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np
from av.stream import Discard

from ..core.master.checks.evidence import SoundSurvey
from ..core.master.checks.peak import PeakMeter
from ..core.master.checks.silence import flat_tops, over_full_scale
from ..core.master.checks.sound_levels import PEAK_S, MixLevels, SoundLevels, packed
from .trouble import open_film, reading

SILENT_LUFS = -69.0
"""The meter's absolute gate is −70 LUFS: at or below it there is nothing to measure."""
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
) -> tuple[Loudness, SoundSurvey, SoundLevels]:
    """Loudness, envelope, clipping and levels of the first sound stream.

    Times count from `start_s`, the time stamp of the first picture. `say` gets the envelope so far and the seconds
    done every 20 s of sound, and may raise to stop. A damaged packet is passed over; after many the rest is left out.
    """
    with reading(path), open_film(path) as container:
        if not container.streams.audio:
            return NOTHING, SoundSurvey(step_s=1.0), SoundLevels(late_s=0)
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
    return ear.loudness(), ear.survey(complete=True), ear.levels()


def _decoded(container: Any, stream: Any) -> Iterator[av.AudioFrame]:
    """Decoded sound; packets that cannot be decoded are passed over until there are too many of them."""
    troubles = 0
    for packet in container.demux(stream):
        try:
            yield from packet.decode()
        except av.InvalidDataError:
            troubles += 1
            if troubles > MOST_TROUBLES:
                return


class _Mix:
    """One mix of the sound: a meter for its loudness, another for its true peak."""

    def __init__(self, channels: int, rate: int, source: Callable[[av.filter.Graph], Any]) -> None:
        self.channels, self.blocks = channels, PeakMeter(channels)
        self._enough, self._waiting, self.held = PEAK_S * rate, list[np.ndarray](), 0
        self._graph = av.filter.Graph()
        self._source = source(self._graph)
        self._sink = self._graph.add("abuffersink")
        self._graph.link_nodes(self._source, self._graph.add("ebur128", "metadata=1"), self._sink)
        self._graph.configure()
        self.momentary: list[float | None] = []
        self.peaks: list[float | None] = []
        self.last: dict[str, str] = {}

    def hear(self, frame: av.AudioFrame | None) -> Iterator[tuple[np.ndarray, float | None]]:
        """Samples × channels as they come out of the meter, with the loudness of the gating block that ends with them."""
        self._source.push(frame)
        while True:
            try:
                block = cast(av.AudioFrame, self._sink.pull())
            except (av.BlockingIOError, av.EOFError):
                return
            level = None
            if seen := block.metadata:
                self.last, level = seen, float(seen.get("lavfi.r128.M", "-120"))
                level = level if math.isfinite(level) and level > -100 else None
                self.momentary.append(level)
            yield block.to_ndarray().reshape(-1, self.channels), level

    def gather(self, samples: np.ndarray | None) -> np.ndarray | None:
        """Half a second as channels × samples, its true peak kept, once so much has come; with None whatever is left."""
        if samples is not None:
            self._waiting.append(samples)
            self.held += samples.shape[0]
        if not self._waiting or (samples is not None and self.held < self._enough):
            return None
        block = _clean(self._waiting)
        self._waiting, self.held = [], 0
        self.blocks.hear(block)
        self.peaks.append(20 * math.log10(self.blocks.last) if self.blocks.last > 0 else None)
        return block

    def levels(self) -> MixLevels:
        return MixLevels(channels=self.channels, momentary=packed(self.momentary), peaks=packed(self.peaks))


class _Ear:
    """Passes every frame through the meter, which hands on even blocks, and measures those once more as arrays."""

    def __init__(self, stream: Any, step_s: float, start_s: Fraction) -> None:
        self._rate = stream.codec_context.sample_rate
        self._channels = stream.codec_context.channels
        self._step_s = step_s
        self._late_s = float(Fraction(stream.start_time or 0) * stream.time_base - start_s)
        self._own = _Mix(self._channels, self._rate, lambda graph: graph.add_abuffer(template=stream))
        self._others = [_Other(count, self._rate) for count in (2, 1) if count != self._channels]
        self._heard = 0
        self._envelope: list[float | None] = []
        self._flat = self._over = 0
        self._first: float | None = None

    @property
    def done_s(self) -> float:
        return (self._heard + self._own.held) / self._rate

    def hear(self, frame: av.AudioFrame | None) -> None:
        """Take the next frame; None ends the sound."""
        for other in self._others:
            other.hear(frame)
        for samples, level in self._own.hear(frame):
            self._level(level)
            self._examine(self._own.gather(samples))
        if frame is None:
            self._examine(self._own.gather(None))

    def _examine(self, block: np.ndarray | None) -> None:
        if block is None:
            return
        flat, over = flat_tops(block), over_full_scale(block)
        self._flat, self._over = self._flat + flat, self._over + over
        if self._first is None and flat + over >= 4:
            loudest = int(np.argmax(np.abs(block).max(axis=0)))
            self._first = round(max(0.0, self._late_s + (self._heard + loudest) / self._rate), 3)
        self._heard += block.shape[1]

    def _level(self, level: float | None) -> None:
        """Keep the momentary loudness of a block of the meter, at the place where it ends."""
        place = int(max(0.0, self._late_s + self.done_s) / self._step_s + 1e-6)
        while len(self._envelope) <= place:
            self._envelope.append(None)
        if level is not None:
            before = self._envelope[place]
            self._envelope[place] = round(level if before is None else max(before, level), 1)

    def loudness(self) -> Loudness:
        integrated = float(self._own.last.get("lavfi.r128.I", "-70"))
        if integrated <= SILENT_LUFS or self._own.blocks.peak <= 0:
            return NOTHING
        return Loudness(
            integrated_lufs=round(integrated, 1), range_lu=round(float(self._own.last.get("lavfi.r128.LRA", "0")), 1),
            true_peak_dbtp=round(20 * math.log10(self._own.blocks.peak), 1),
        )

    def levels(self) -> SoundLevels:
        """Levels along the sound, of every mix that a plan may ask for."""
        return SoundLevels(late_s=round(self._late_s, 4), mixes=(self._own.levels(), *(other.mix.levels() for other in self._others)))

    def survey(self, *, complete: bool) -> SoundSurvey:
        return SoundSurvey(
            step_s=self._step_s, envelope_lufs=tuple(self._envelope), samples=self._heard * self._channels,
            flat_tops=self._flat, over_full_scale=self._over, first_clipped_s=self._first, complete=complete,
        )


class _Other:
    """The sound mixed to another number of channels, just as packing mixes it."""

    def __init__(self, channels: int, rate: int) -> None:
        layout = "stereo" if channels == 2 else "mono"
        self._mixer = av.AudioResampler(format="fltp", layout=layout, rate=rate)
        self._began, base = False, Fraction(1, rate)
        self.mix = _Mix(channels, rate, lambda graph: graph.add_abuffer(sample_rate=rate, format="fltp", layout=layout, time_base=base))

    def hear(self, frame: av.AudioFrame | None) -> None:
        if frame is None and not self._began:
            return
        self._began = True
        for mixed in [*self._mixer.resample(frame), None] if frame is None else self._mixer.resample(frame):
            for samples, _ in self.mix.hear(mixed):
                self.mix.gather(samples)
        if frame is None:
            self.mix.gather(None)


def _clean(waiting: list[np.ndarray]) -> np.ndarray:
    """Channels × samples of what was heard; what a damaged file has of infinities becomes full scale."""
    block = np.ascontiguousarray(np.concatenate(waiting).T, np.float32)
    return block if np.isfinite(block.sum()) else np.nan_to_num(block, nan=0.0, posinf=1.0, neginf=-1.0)
