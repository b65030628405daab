"""From probes to every bit rate: what a plan reaches, packs and arrives as, for each screen and line (rules §6).

**Quality and rate.** At one quality value q every window needs b_w(q) bits a picture, measured at three qualities and interpolated
in log b. An encoder that may spend where it is needed gives all windows one q, so the q of a target is the one at which the
windows' mean meets it: easy parts pay for hard ones. A window whose bits would pass the ceiling is held there and gets a coarser
q of its own; at a constant rate every window is. The plan's own codec and effort enter by their ratios to the probe's on one window.

**Two generations.** With L_u the detail (or information, or XPSNR distortion) that the upload lost and L_0 what the platform
alone loses of a perfect one, what arrives has lost

    L = (L_0^p + L_u^p)^(1/p),    p = p_0 + s · ln(L_u ÷ L_0)                                      (1)

Were the two losses independent they would add up in power (p = 2 for amplitudes, 1 for distortions). They are not: a platform
takes much of the same detail again, so the greater of two like losses hides the lesser, which a larger p says; the more so the
lesser the upload's (s < 0). p_0 is fitted for each film to worse uploads that were sent through the ladder, held to what films
usually show; s is shared. Limits: L → L_0 for a perfect upload and L → L_u for one much worse than the platform, whatever p is;
beyond the poorest probe L_u itself is extrapolated, and p is kept within bounds.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from functools import cached_property
from typing import TypedDict

import numpy as np

from ..lately import Lately
from ..plan.encoder_settings import searches_quality
from ..plan.plan import VideoPlan
from ..trade.codecs import CODECS
from ..trade.names import Codec
from ..trade.rate_control import RateControl
from ..values import Model
from .bands import PROBED_FIT, QUICK_FIT
from .condition import PERFECT_DB, Likeness, conditions
from .journey import Journey
from .monotone import MonotoneLines
from .probe import EffortProbe, EffortShift, HandlingProbe, ProbedWindow, UploadProbe
from .rehearsal import Evidence, MeasuredRendition, ScaledPicture
from .screens import Screen, ViewerLine

LEAST_LOSS, LEAST_DISTORTION = 1e-4, 1e-7
USUAL_POWERS = (3.0, 2.2, 2.2)
"""p₀ of equation 1 for detail, information and distortion as films usually show it; see docs/accuracy.md."""
LOOSE_POWER = 1.0
POWER_SLOPE, LEAST_POWER, MOST_POWER = -0.9, 1.2, 8.0
POWERS = np.linspace(1.2, 7, 59)
FINEST_QUALITY: dict[Codec, int] = {"h264": 1, "hevc": 0, "vp9": 4, "av1": 4}
"""Below these an encoder spends no more, however much it may: what is asked beyond is not reached."""
COARSER_QUALITY: dict[Codec, int] = {"h264": 45, "hevc": 46, "vp9": 63, "av1": 63}
"""Beyond the poorest of the probe's, for films whose lowest rates lie there."""
COARSEST_QUALITY, QUALITY_STEP = 70.0, 0.5
HALVINGS = 3
DRAWN_AT = 60
"""Points of a drawn line."""
MOST_SHIFT = 6.0
"""By no more does another codec or effort lose; what seems so on a window that loses next to nothing says little of the others."""


class ViewLine(Model):
    """What one screen on one line sees, by rate: condition as packed and on arrival, XPSNR beside (dB); scaled is before any encoder."""

    screen: Screen
    line: ViewerLine
    rendition: str | None
    scaled: float
    packed: tuple[float, ...]
    arrived: tuple[float, ...]
    packed_db: tuple[float, ...]
    arrived_db: tuple[float, ...]


class Forecast(Model):
    """A curve at upload rates (bit/s, rising): what is achieved of each, its evidence and band in points, and what every viewer sees.

    `between_band` comes on top where a rate lies between known ones that nothing computes. `perfect` is what arrives of a perfect
    upload, by view in the same order; empty where that is not known.
    """

    rates: tuple[int, ...]
    achieved: tuple[int, ...]
    evidence: tuple[Evidence, ...]
    bands: tuple[float, ...]
    between_band: float = 0.0
    views: tuple[ViewLine, ...]
    perfect: tuple[float, ...] = ()
    perfect_evidence: Evidence = Evidence.PROBED
    perfect_band: float
    between: Evidence = Evidence.PROBED
    """What a rate between known ones is computed from, where anything computes it."""

    def view(self, screen: Screen, line: ViewerLine) -> ViewLine | None:
        return None if (placement := self.place(screen, line)) is None else self.views[placement]

    def place(self, screen: Screen, line: ViewerLine) -> int | None:
        """Where a view stands among the views; None where there is none of it."""
        return self._places.get((screen, line))

    @cached_property
    def _places(self) -> dict[tuple[Screen, ViewerLine], int]:
        return {(view.screen, view.line): n for n, view in enumerate(self.views)}

    @cached_property
    def lines(self) -> MonotoneLines:
        """Condition on arrival and as packed over ln(rate) for every view, views × 2 × rates: never less at a higher rate."""
        values = np.array([(view.arrived, view.packed) for view in self.views], float)
        return MonotoneLines(np.log(np.array(self.rates, float)), np.maximum.accumulate(values, axis=-1))

    @cached_property
    def drawn(self) -> tuple[np.ndarray, np.ndarray, tuple[float, ...]]:
        """Those lines as they are drawn: evenly over ln(rate), views × 2 × as many values, and their half widths in points."""
        even = np.linspace(self.lines.x[0], self.lines.x[-1], DRAWN_AT)
        bands = np.interp(even, self.lines.x, self.bands) + self.between_band
        return even, self.lines.at(even), tuple(bands.round(2).tolist())

    def achieved_share(self, bitrate_bps: int) -> float:
        """Achieved ÷ asked video rate at this rate, read off what is known; 1 where nothing is."""
        return float(np.interp(math.log(bitrate_bps), *self._shares)) if self.rates else 1.0

    @cached_property
    def _shares(self) -> tuple[np.ndarray, np.ndarray]:
        asked = np.array(self.rates, float)
        return np.log(asked), np.array(self.achieved) / asked

    @cached_property
    def _read(self) -> Lately[list[list[float]]]:
        return Lately(16)

    def read(self, bitrate_bps: int) -> list[list[float]]:
        """Those lines at one rate (bit/s): of every view what arrives and what is packed. Kept, since every view of one rate is asked."""
        return self._read.get(bitrate_bps) or self._read.put(
            bitrate_bps, self.lines.at_one(math.log(bitrate_bps)).tolist()
        )

    def ceiling(self, screen: Screen, line: ViewerLine) -> float | None:
        """Condition that no rate passes, so never below what arrives; None where it is not known."""
        placement = self.place(screen, line)
        if placement is None or not self.perfect:
            return None
        return max(self.perfect[placement], *self.views[placement].arrived, 0.0)


class Probes(Model):
    """Everything that was probed of one way; `handling` is None where nothing is re-encoded."""

    scaled: ScaledPicture
    upload: UploadProbe
    effort: EffortProbe
    handling: HandlingProbe | None = None


def losses(likeness: Likeness, base: Likeness | None = None) -> tuple[float, float, float]:
    """What a likeness has lost beyond `base`: detail and information (0 to 1), and distortion 10^(−XPSNR/10)."""
    detail, information = (base.detail, base.information) if base else (1.0, 1.0)
    return (
        max(LEAST_LOSS, detail - likeness.detail),
        max(LEAST_LOSS, information - likeness.information),
        max(LEAST_DISTORTION, distortion(likeness.xpsnr_db) - (distortion(base.xpsnr_db) if base else 0.0)),
    )


def distortion(xpsnr_db: float) -> float:
    """10^(−XPSNR/10); nothing of identical pictures."""
    return 10 ** (-xpsnr_db / 10) if xpsnr_db < PERFECT_DB else 0.0


class UploadModel:
    """Quality, bits and losses of one codec's upload at every quality, from its probe."""

    def __init__(
        self, scaled: ScaledPicture, upload: UploadProbe, effort: EffortProbe, codec: Codec, keyframe_interval: int
    ) -> None:
        shifts = effort.shifts
        # of the plan's codec; the probe's are the base codec's
        qualities = np.array([float(item.quality) for item in shifts])
        self.grid = np.arange(FINEST_QUALITY.get(codec, 0.0), COARSEST_QUALITY, QUALITY_STEP)
        windows = list(zip(*(item.windows for item in upload.qualities), strict=True))
        # rasters × windows × qualities × parts
        quick = np.log(
            [
                [[losses(w.likenesses[n], base) for w in options] for options in windows]
                for n, base in enumerate(scaled.likenesses)
            ]
        )
        bits = [
            [w.bits_per_picture(keyframe_interval, s) for w, s in zip(options, shifts, strict=True)]
            for options in windows
        ]
        lost = quick + np.log([(s.detail, s.information, s.distortion) for s in shifts])
        if last := effort.coarsest:
            bits = [
                [*row, options[-1].bits_per_picture(keyframe_interval, last)]
                for options, row in zip(windows, bits, strict=True)
            ]
            lost = np.concatenate(
                [lost, quick[:, :, -1:] + np.log((last.detail, last.information, last.distortion))], axis=2
            )
            qualities = np.array([*qualities, float(last.quality)])
        drawn = MonotoneLines(qualities, np.moveaxis(lost, -1, -2)).at(self.grid, beyond=True)
        if first := effort.finest:
            bits = [
                [options[0].bits_per_picture(keyframe_interval, first), *row]
                for options, row in zip(windows, bits, strict=True)
            ]
            qualities = np.array([float(first.quality), *qualities])
        lines = MonotoneLines(qualities, np.log(np.maximum(bits, 1.0))).at(self.grid, beyond=True)
        self.bits = np.exp(np.minimum.accumulate(lines, axis=-1))
        """Bits a picture, windows × grid; never more at a coarser quality."""
        self.rising = -np.log(self.bits)
        self.lost = np.ascontiguousarray(np.moveaxis(np.exp(drawn), (1, 3), (0, 1)))
        """Losses, windows × grid × rasters × parts."""
        self.probed = {item.quality: np.exp(quick[:, :, n]).mean(axis=1) for n, item in enumerate(upload.qualities)}
        """Losses of the probe's own uploads by their qualities, rasters × parts."""
        self._taken: dict[tuple[str, str, int], np.ndarray] = {}
        self.movement = [
            float(np.mean([options[0].likenesses[n].movement for options in windows]))
            for n in range(len(scaled.likenesses))
        ]

    def at(self, video: VideoPlan, rates: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Achieved rates (bit/s) and losses, rates × windows × rasters × parts, of a plan at target rates (bit/s)."""
        achieved, placement = self._places(video, rates)
        result = self._lost(placement)
        result[..., :2] = np.minimum(result[..., :2], 1.0)
        return achieved, result

    def taken(self, probe: HandlingProbe, name: str, scaled: Likeness, raster: int) -> np.ndarray:
        """Of one rendition: parts of a perfect upload's picture, what the platform takes of it, and the film's own powers of equation 1.

        Three rows of detail, information and distortion; kept, since they are the same at every rate.
        """
        key = probe.key, name, raster
        if key not in self._taken:
            top = _measured(probe, None, name, scaled.raster)
            platform = losses(top, scaled)
            worse = [
                (self.probed[item.quality][raster], losses(_measured(probe, item.quality, name, scaled.raster), scaled))
                for item in probe.uploads
                if item.quality is not None
            ]
            powers = [
                fitted(
                    [(float(sent[part]), arrived[part]) for sent, arrived in worse],
                    platform[part],
                    USUAL_POWERS[part],
                    LEAST_DISTORTION if part == 2 else LEAST_LOSS,
                )
                for part in range(3)
            ]
            self._taken[key] = np.array([_parts(top), platform, powers])
        return self._taken[key]

    def _places(self, video: VideoPlan, rates: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Achieved rates, and where on the grid each window lies at each, rates × windows."""
        fps = float(video.frame_rate.value)
        times, _ = video.ceiling_shares()
        if video.rate_control.value is RateControl.CONSTANT:
            return rates.astype(float), self._meeting(rates / fps)
        most = (times or math.inf) * rates / fps
        if rule := video.ceiling_rule:
            most = np.where(rates < rule.peak_bps, np.minimum(most, rule.peak_bps / fps), most)

        def held(place: np.ndarray) -> np.ndarray:
            """Bits a picture at one point of the grid for each rate, where no window passes the ceiling."""
            result: np.ndarray = np.minimum(self.bits[:, place], most).sum(axis=0) / len(self.bits)
            return result

        common, bits = _crossing(held, rates / fps, len(self.grid))
        if video.rate_control.value is RateControl.QUALITY and video.quality.value is not None:
            common = np.maximum(common, (float(video.quality.value) - self.grid[0]) / QUALITY_STEP)
            bits = self._at(held, common)
        elif (searched := CODECS[video.codec.value].searched) and searches_quality(video):  # which ends with the scale
            common = np.minimum(common, (searched.worst - self.grid[0]) / QUALITY_STEP)
            return self._at(held, common) * fps, np.repeat(common[:, None], len(self.bits), axis=1)
        place = np.repeat(common[:, None], len(self.bits), axis=1)
        if times:
            place = np.maximum(place, self._meeting(most))
        return np.minimum(bits * fps, rates), place

    def _at(self, held: Callable[[np.ndarray], np.ndarray], placement: np.ndarray) -> np.ndarray:
        """What is held at places between the points of the grid."""
        low, part = _between(placement, len(self.grid))
        result: np.ndarray = held(low) * (1 - part) + held(low + 1) * part
        return result

    def _meeting(self, bits: np.ndarray) -> np.ndarray:
        """Where each window meets so many bits a picture, bits × windows."""
        wanted, numbers = -np.log(bits), np.arange(len(self.grid))
        return np.stack([np.interp(wanted, row, numbers) for row in self.rising], axis=-1)

    def _lost(self, placement: np.ndarray) -> np.ndarray:
        """Losses with the windows at these places of the grid, rates × windows × rasters × parts."""
        low, part = _between(placement, len(self.grid))
        windows, share = np.arange(placement.shape[1])[None, :], part[..., None, None]
        result: np.ndarray = self.lost[windows, low] * (1 - share) + self.lost[windows, low + 1] * share
        return result


def _between(placement: np.ndarray, length: int) -> tuple[np.ndarray, np.ndarray]:
    """The points of a grid below places on it, and how far beyond them these lie."""
    low = np.minimum(placement.astype(int), length - 2)
    return low, placement - low


def _crossing(
    held: Callable[[np.ndarray], np.ndarray], wanted: np.ndarray, length: int
) -> tuple[np.ndarray, np.ndarray]:
    """Where on a grid of so many points values that fall along it meet each wanted one, an index with its fraction, and the value there.

    0 where it is never so much, the last point where it is always more. A few points are looked at first, then halves between two.
    """
    few = np.arange(0, length, 2**HALVINGS)
    low = few[np.maximum(0, (held(few[:, None]) >= wanted).sum(axis=0) - 1)]
    high = np.minimum(low + 2**HALVINGS, length - 1)
    for _ in range(HALVINGS):
        middle = (low + high) // 2
        above = held(middle) >= wanted
        low, high = np.where(above, middle, low), np.where(above, high, middle)
    low = np.minimum(low, length - 2)
    first, second = held(low), held(low + 1)
    part = np.log(first / wanted) / np.maximum(np.log(first / second), 1e-12)
    part = np.minimum(1.0, np.maximum(0.0, part))
    return low + part, first * (1 - part) + second * part


_models: Lately[UploadModel] = Lately(64)


def upload_model(probes: Probes, codec: Codec, keyframe_interval: int) -> UploadModel:
    """The model of one codec's upload, which every destination that takes it shares; kept by the keys of what it is made from."""
    key = probes.scaled.key, probes.upload.key, probes.effort.key, keyframe_interval
    return _models.get(key) or _models.put(
        key, UploadModel(probes.scaled, probes.upload, probes.effort, codec, keyframe_interval)
    )


def probed_forecast(
    journey: Journey,
    probes: Probes,
    rates: Sequence[int],
    *,
    evidence: Evidence = Evidence.PROBED,
    band: float | None = None,
) -> Forecast:
    """What is forecast at upload rates (bit/s, rising) of the plan's curve; `band` is the half width in points that it is given, without
    one it is told by the curve itself."""
    video = journey.plan.picture
    upload = upload_model(probes, video.codec.value, min(video.keyframe_interval_frames.value or 1, video.frames))
    achieved, by_window = upload.at(video, np.array(rates, float))
    lost = by_window.mean(axis=1)
    sizes = [likeness.raster for likeness in probes.scaled.likenesses]
    rasters = {screen: sizes.index(raster.size) for screen, raster in journey.rasters().items()}
    options = {  # what several screens or lines share is computed once
        (rasters[screen], journey.served(screen, line) if probes.handling else None): None
        for screen in Screen
        for line in ViewerLine
    }
    seen = dict(zip(options, _seen(list(options), probes, upload, lost), strict=True))
    views, tops = [], []
    for screen in Screen:
        for line in ViewerLine:
            name = journey.served(screen, line)
            view, top = seen[rasters[screen], name if probes.handling else None]
            views.append(ViewLine(screen=screen, line=line, rendition=name, **view))
            tops.append(top)
    bands, perfect_band = (band,) * len(rates), band
    if perfect_band is None:
        fit = QUICK_FIT if journey.quick else PROBED_FIT
        spread = _spread(probes, upload, by_window, rasters[Screen.LAPTOP])
        bands = tuple(fit.half_widths(_steepness(rates, views), spread).round(2).tolist())
        # a perfect upload lies on no slope; its windows differ as they do at the highest rate
        flat = fit.half_widths(np.zeros(1), spread[-1] if len(spread) else 0.0)
        perfect_band = round(float(flat[0]), 2)
    return Forecast(
        rates=tuple(rates),
        achieved=tuple(achieved.round().astype(int).tolist()),
        evidence=(evidence,) * len(rates),
        bands=bands,
        views=tuple(views),
        perfect=tuple(tops),
        perfect_evidence=evidence,
        perfect_band=perfect_band,
        between=evidence,
    )


def _steepness(rates: Sequence[int], views: Sequence[ViewLine]) -> np.ndarray:
    """Points per octave by which the steepest of all curves rises at each rate."""
    if len(rates) < 2:
        return np.zeros(len(rates))
    curves = np.array(list(dict.fromkeys(view.arrived for view in views)))  # what several screens or lines share is looked at once
    apart = np.diff(np.log2(np.array(rates, float)))
    slopes = np.diff(curves, axis=1) / apart
    inside = (apart[:-1] * slopes[:, 1:] + apart[1:] * slopes[:, :-1]) / (apart[:-1] + apart[1:])  # of the parabola through three points
    result: np.ndarray = np.concatenate([slopes[:, :1], inside, slopes[:, -1:]], axis=1).max(axis=0)
    return result


def _spread(probes: Probes, upload: UploadModel, by_window: np.ndarray, raster: int) -> np.ndarray:
    """Standard error of the condition as packed at each rate, in points, by how much the windows differ; 0 of a single one."""
    count = by_window.shape[1]
    if count < 2:
        return np.zeros(len(by_window))
    left = _left(np.array(_parts(probes.scaled.likenesses[raster])), by_window[:, :, raster])
    seen = conditions(left[..., 0], left[..., 1], np.array(upload.movement[raster]))
    result: np.ndarray = seen.std(axis=1, ddof=1) / math.sqrt(count)
    return result


class _Seen(TypedDict):
    """What a `ViewLine` says beside whom it speaks of."""

    scaled: float
    packed: tuple[float, ...]
    arrived: tuple[float, ...]
    packed_db: tuple[float, ...]
    arrived_db: tuple[float, ...]


def _seen(
    options: Sequence[tuple[int, str | None]], probes: Probes, upload: UploadModel, lost: np.ndarray
) -> list[tuple[_Seen, float]]:
    """By raster and rendition (None where nothing is re-encoded): what is seen at every rate, and of a perfect upload at most."""
    bases = [probes.scaled.likenesses[raster] for raster, _ in options]
    moves = np.array([upload.movement[raster] for raster, _ in options])[:, None]
    packed_losses = np.moveaxis(lost[:, [raster for raster, _ in options]], 1, 0)  # ways × rates × parts
    whole = np.array([_parts(base) for base in bases])[:, None]
    away, tops = packed_losses.copy(), whole.copy()
    if probes.handling is not None and (handled := [n for n, (_, name) in enumerate(options) if name is not None]):
        taken = np.array([upload.taken(probes.handling, options[n][1] or "", bases[n], options[n][0]) for n in handled])
        tops[handled] = taken[:, :1]
        away[handled] = summed(taken[:, 1:2], packed_losses[handled], taken[:, 2:])
    # two, then every rate as packed and as arrived
    parts = np.concatenate([whole, tops, _left(whole, packed_losses), _left(whole, away)], axis=1)
    result, decibels = conditions(parts[..., 0], parts[..., 1], moves), _decibels(parts[..., 2])
    before, most, rates = result[:, :1], result[:, 1], lost.shape[0]
    packed = np.minimum(result[:, 2 : 2 + rates], before)
    arrived = np.minimum(result[:, 2 + rates :], packed)
    words = (item.round(3).tolist() for item in (packed, arrived, decibels[:, 2 : 2 + rates], decibels[:, 2 + rates :]))
    columns = zip(before[:, 0].tolist(), most.tolist(), *words, strict=True)
    return [
        ({"scaled": item, "packed": tuple(a), "arrived": tuple(b), "packed_db": tuple(c), "arrived_db": tuple(d)}, top)
        for item, top, a, b, c, d in columns
    ]


def _decibels(distortions: np.ndarray) -> np.ndarray:
    return np.minimum(PERFECT_DB, -10 * np.log10(np.maximum(distortions, LEAST_DISTORTION)))


def _parts(item: Likeness) -> tuple[float, float, float]:
    """Detail, information and distortion."""
    return item.detail, item.information, distortion(item.xpsnr_db)


def _left(whole: np.ndarray, lost: np.ndarray) -> np.ndarray:
    """Detail, information and distortion that are left of what there was, … × parts."""
    result: np.ndarray = whole + lost * (-1, -1, 1)
    return result


def _rendition(probe: HandlingProbe, quality: int | None, name: str) -> MeasuredRendition:
    renditions: Sequence[MeasuredRendition] = next(item.renditions for item in probe.uploads if item.quality == quality)
    return next(item for item in renditions if item.made.name == name)


def _measured(probe: HandlingProbe, quality: int | None, name: str, raster: tuple[int, int]) -> Likeness:
    return next(item for item in _rendition(probe, quality, name).likenesses if item.raster == raster)


def window_conditions(journey: Journey, probes: Probes, rate: int) -> list[float]:
    """Condition on arrival on a laptop with a good line of every probed window, at one upload rate (bit/s).

    What the platform takes of a window is its own where that was measured, else the reel's.
    """
    video, name = journey.plan.picture, journey.served(Screen.LAPTOP, ViewerLine.GOOD)
    upload = upload_model(probes, video.codec.value, min(video.keyframe_interval_frames.value or 1, video.frames))
    size = journey.rasters()[Screen.LAPTOP].size
    raster = [likeness.raster for likeness in probes.scaled.likenesses].index(size)
    scaled, moves = probes.scaled.likenesses[raster], np.array(upload.movement[raster])
    arrived = lost = upload.at(video, np.array([float(rate)]))[1][0, :, raster]
    if probes.handling is not None and name is not None:
        _, whole, powers = upload.taken(probes.handling, name, scaled, raster)
        measured = [
            losses(next(item for item in window if item.raster == size), scaled)
            for window in _rendition(probes.handling, None, name).windows
        ]
        platform = np.array(measured if len(measured) == len(lost) else [whole] * len(lost))
        arrived = summed(platform, lost, powers)
    base = np.array(_parts(scaled))
    arrives, packed = (_left(base, item) for item in (arrived, lost))
    result: list[float] = np.minimum(
        conditions(arrives[:, 0], arrives[:, 1], moves), conditions(packed[:, 0], packed[:, 1], moves)
    ).tolist()
    return result


def effort_shift(quick: ProbedWindow, tried: ProbedWindow, quality: int, base: Likeness, raster: int) -> EffortShift:
    """What another effort or codec makes of the same window, at a quality value of its own; `tried` is on one raster alone."""
    lost, before = (losses(item, base) for item in (tried.likenesses[0], quick.likenesses[raster]))
    ratios = [min(MOST_SHIFT, max(1 / MOST_SHIFT, current / then)) for current, then in zip(lost, before, strict=True)]
    return EffortShift(
        quality=quality,
        key_bits=tried.key_bits / max(1, quick.key_bits),
        other_bits=tried.other_bits / max(1, quick.other_bits),
        detail=ratios[0],
        information=ratios[1],
        distortion=ratios[2],
    )


def summed(platform: float | np.ndarray, upload: np.ndarray, power: float | np.ndarray) -> np.ndarray:
    """Equation 1: what is lost of both generations together."""
    ratio = np.maximum(upload, 1e-9) / platform
    p = np.minimum(MOST_POWER, np.maximum(LEAST_POWER, power + POWER_SLOPE * np.log(ratio)))
    total: np.ndarray = platform * (1 + ratio**p) ** (1 / p)
    return total


def fitted(pairs: Sequence[tuple[float, float]], platform: float, usual: float, least: float = LEAST_LOSS) -> float:
    """The power of equation 1 for pairs of upload loss and loss on arrival, held to the usual one."""
    misses = ((POWERS - usual) / LOOSE_POWER) ** 2
    for upload, arrived in pairs:
        if upload > 2 * least:
            together = summed(platform, np.full_like(POWERS, upload), POWERS)
            misses = misses + (np.log(together / max(arrived, platform)) / 0.03) ** 2
    return float(POWERS[int(np.argmin(misses))])
