"""The sheet gear: what is supposed before anything is encoded, from the frame, the ladder and what the checks measured.

`prior.json` holds weights that were fitted on probes of made films by `benchmarks.prior`. All is linear in logarithms: bits and
losses of an upload at a quality, by codec; what is lost where a frame has fewer pixels than a screen shows; what a platform takes
of a perfect upload, by how far the bits that its rendition would need pass its ceiling. The result has the shape of probes, so that
a curve is computed from it as from them. How far it may be off is `SHEET_BAND`; see docs/accuracy.md.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from functools import cache, partial
from importlib import resources

import numpy as np

from ..lately import Lately, LatelyMade
from ..master.checks.evidence import Difficulty
from ..sheets.ladder import Rendition
from ..trade.codecs import PROBED_QUALITIES
from ..trade.names import Codec
from ..trade.rate_control import Effort
from ..values import Model
from .condition import PERFECT_DB, Likeness
from .forecast import LEAST_DISTORTION, LEAST_LOSS, Forecast, Probes, distortion, probed_forecast
from .journey import Journey, digest
from .probe import EffortProbe, EffortShift, HandledQuality, HandlingProbe, ProbedQuality, ProbedWindow, UploadProbe
from .rehearsal import Evidence, MadeRendition, MeasuredRendition, ScaledPicture

SHEET_BAND = 40.0
"""Half width in points; see docs/accuracy.md."""
Weights = tuple[float, ...]
MOST_WINDOWS = 6
WINDOW_PICTURES = 20
PIXELS = 1e6
NEEDED_AT = 1
"""Which of the probed qualities of H.264 stands for what a rendition would need."""


class CodecPrior(Model):
    """One codec at qualities of its own, best first: weights of bits a picture and pixel (keyframes and others), and of what is lost.

    `lost` has the three parts of likeness, each with a raster's size against the frame's beside the features of the pictures.
    """

    key_bits: tuple[Weights, ...]
    other_bits: tuple[Weights, ...]
    lost: tuple[tuple[Weights, Weights, Weights], ...]
    effort: tuple[EffortShift, ...]


class Prior(Model):
    """Weights of everything that is supposed; `usual` is a second of film where nothing was looked at."""

    usual: Difficulty
    codecs: dict[Codec, CodecPrior]
    movement: Weights
    scaled: tuple[Weights, Weights, Weights]
    handled: tuple[Weights, Weights, Weights]
    handled_codec: dict[str, tuple[float, float, float]]


@cache
def shipped() -> Prior:
    """The prior that comes with the program."""
    return Prior.model_validate(json.loads(resources.files(__package__).joinpath("prior.json").read_text()))


def features(seen: Difficulty, pixels: float) -> np.ndarray:
    """What weights are applied to: detail, movement and grain of a second of film, and the pixels of a frame, all in logarithms."""
    return np.array([
        1.0, math.log(1 + seen.spatial), math.log(0.3 + max(0.0, seen.temporal)), math.log(0.3 + max(0.0, seen.grain)),
        math.log(pixels / PIXELS),
    ])


def missing(journey: Journey, width: float, raster_width: float) -> float:
    """How much wider the master's own detail, as far as a raster shows it, is than a frame `width` px across; a logarithm, 0 for not."""
    framing = journey.plan.picture.framing.value
    frame = framing.width / framing.picture.width
    own = framing.crop.width * frame
    return max(0.0, math.log(min(raster_width, own) / width))


def shown(width: float, raster_width: float) -> float:
    """A raster's width against that of a frame, as a logarithm."""
    return math.log(raster_width / width)


def surplus(prior: Prior, x: np.ndarray, rendition: Rendition) -> float:
    """By how much a rendition's ceiling passes the bits that its pictures would need in H.264, as a logarithm."""
    pixels = rendition.width * rendition.height
    own = np.array([*x[:-1], math.log(pixels / PIXELS)])
    needed = float(own @ prior.codecs["h264"].other_bits[NEEDED_AT])
    return math.log(rendition.ceiling_bps / (pixels * float(rendition.frame_rate))) - needed


def handled_features(prior: Prior, x: np.ndarray, journey: Journey, rendition: Rendition, raster_width: float) -> np.ndarray:
    """What weights of a platform's loss are applied to: the pictures, the raster, missing detail, and surplus or want of bits."""
    more = surplus(prior, x, rendition)
    return np.array([
        *x[:-1], shown(rendition.width, raster_width), missing(journey, rendition.width, raster_width), max(0.0, more), min(0.0, more),
    ])


def grouped(seen: Sequence[Difficulty]) -> list[Difficulty]:
    """A few seconds that stand for many: shares of the film from the easiest to the hardest, each with its means."""
    if len(seen) <= 1:
        return list(seen)
    order = sorted(seen, key=lambda one: one.level)
    parts = np.array([(one.spatial, one.temporal, one.grain) for one in order])
    means = [parts[a:b].sum(axis=0) / (b - a) for a, b in _shares(len(order)) if b > a]
    return [Difficulty(at_s=0, spatial=spatial, temporal=temporal, grain=grain) for spatial, temporal, grain in means]


def _shares(count: int) -> list[tuple[int, int]]:
    edges = np.linspace(0, count, min(MOST_WINDOWS, count) + 1).round().astype(int).tolist()
    return list(zip(edges, edges[1:], strict=False))


def sheet_forecast(journey: Journey, seen: Sequence[Difficulty], rates: Sequence[int], prior: Prior | None = None) -> Forecast:
    """What is supposed at upload rates (bit/s, rising) of the plan's curve. That all of a rate is used is supposed too."""
    found = probed_forecast(journey, sheet_probes(journey, seen, prior), rates, evidence=Evidence.SHEET, band=SHEET_BAND)
    return found.model_copy(update={"achieved": found.rates})


def sheet_probes(journey: Journey, seen: Sequence[Difficulty], prior: Prior | None = None) -> Probes:
    """What probes would tell, supposed; `seen` is what the checks measured of the excerpt, empty where they have not yet.

    Raises KeyError for a codec that is not probed.
    """
    windows = _grouped.of(len(seen), (seen,), partial(grouped, seen))
    name = digest("supposed", journey.probes_key, *((one.spatial, one.temporal, one.grain) for one in windows))
    if prior:
        return _supposed(prior, journey, windows, name)
    return _lately.get(name) or _lately.put(name, _supposed(shipped(), journey, windows, name))


_grouped: LatelyMade[list[Difficulty]] = LatelyMade(16)
"""Lanes of one film and excerpt share what stands for its seconds."""
_lately: Lately[Probes] = Lately(64)
"""By everything that they are supposed from: lanes of one way at several rates share them."""


def _supposed(prior: Prior, journey: Journey, windows: list[Difficulty], name: str) -> Probes:
    codec = journey.plan.picture.codec.value
    width, height = journey.frame_size
    windows = windows or [prior.usual]
    x = np.array([features(one, width * height) for one in windows])
    mean = x.mean(axis=0)
    sizes = sorted({raster.size for raster in journey.rasters().values()})
    scaled = tuple(_likeness(prior, mean, size, _scaling(prior, mean, journey, width, size)) for size in sizes)
    handling = None
    if journey.renditions:
        handling = HandlingProbe(key=name, uploads=(HandledQuality(quality=None, renditions=tuple(
            _rendition(prior, mean, journey, rendition, dict(zip(sizes, scaled, strict=True))) for rendition in journey.renditions_served
        )),))
    return Probes(
        scaled=ScaledPicture(key=name, likenesses=scaled, evidence=Evidence.SHEET), handling=handling,
        upload=_upload(prior.codecs[codec], codec, x, name, (width, height), scaled),
        effort=EffortProbe(key=name, shifts=_efforts(prior.codecs[codec], journey.plan.picture.effort.value)),
    )


def _upload(
    prior: CodecPrior, codec: Codec, x: np.ndarray, name: str, size: tuple[int, int], scaled: Sequence[Likeness]
) -> UploadProbe:
    pixels = size[0] * size[1]
    key, other = (np.exp(x @ np.array(weights).T) * pixels for weights in (prior.key_bits, prior.other_bits))  # windows × qualities
    lost = np.array(prior.lost)  # qualities × parts × weights
    likenesses = []
    for base in scaled:
        there = np.hstack([x, np.full((len(x), 1), shown(size[0], base.raster[0]))])
        likenesses.append(np.exp(np.einsum("wf,qpf->wqp", there, lost)))
    return UploadProbe(key=name, qualities=tuple(
        ProbedQuality(quality=quality, windows=tuple(
            ProbedWindow(
                key_bits=max(1, round(key[w, q])), keys=1, others=WINDOW_PICTURES - 1,
                other_bits=max(1, round(other[w, q] * (WINDOW_PICTURES - 1))),
                likenesses=tuple(_worse(base, there[w, q]) for base, there in zip(scaled, likenesses, strict=True)),
            )
            for w in range(len(x))
        ))
        for q, quality in enumerate(PROBED_QUALITIES[codec])
    ))


def _efforts(prior: CodecPrior, effort: Effort | None) -> tuple[EffortShift, ...]:
    """Careful is taken for medium, from which it differs little."""
    if effort is not Effort.QUICK:
        return prior.effort
    return tuple(
        EffortShift(quality=one.quality, key_bits=1, other_bits=1, detail=1, information=1, distortion=1) for one in prior.effort
    )


def _scaling(prior: Prior, x: np.ndarray, journey: Journey, width: int, size: tuple[int, int]) -> np.ndarray:
    """What is lost by a frame of fewer pixels than are shown, by part."""
    less = missing(journey, width, size[0])
    if less <= 0:
        return np.zeros(3)
    found: np.ndarray = np.exp(np.array(prior.scaled) @ np.array([*x[:-1], math.log(less)]))
    return found


def _likeness(prior: Prior, x: np.ndarray, size: tuple[int, int], lost: np.ndarray) -> Likeness:
    perfect = Likeness(
        raster=size, detail=1.0, information=1.0, xpsnr_db=PERFECT_DB,
        movement=math.exp(float(x[:-1] @ np.array(prior.movement))),
    )
    return _worse(perfect, lost)


def _worse(base: Likeness, lost: np.ndarray) -> Likeness:
    """A likeness that has lost so much more: detail, information and distortion."""
    distorted = distortion(base.xpsnr_db) + float(lost[2])
    return Likeness(
        raster=base.raster, movement=base.movement,
        detail=max(0.0, base.detail - min(0.98, float(lost[0]))), information=max(0.0, base.information - min(0.98, float(lost[1]))),
        xpsnr_db=min(PERFECT_DB, -10 * math.log10(max(distorted, LEAST_DISTORTION))),
    )


def _rendition(
    prior: Prior, x: np.ndarray, journey: Journey, rendition: Rendition, scaled: dict[tuple[int, int], Likeness]
) -> MeasuredRendition:
    rasters = {journey.rasters()[screen].size for screen in journey.screens_of(rendition.name)}
    found = []
    for size in sorted(rasters):
        of_codec = np.array(prior.handled_codec.get(rendition.codec, (0.0, 0.0, 0.0)))
        lost = np.exp(np.array(prior.handled) @ handled_features(prior, x, journey, rendition, size[0]) + of_codec)
        found.append(_worse(scaled[size], np.maximum(lost, (LEAST_LOSS, LEAST_LOSS, LEAST_DISTORTION))))
    made = MadeRendition(
        name=rendition.name, width=rendition.width, height=rendition.height, achieved_bps=rendition.ceiling_bps,
        ceiling_bps=rendition.ceiling_bps,
    )
    return MeasuredRendition(made=made, likenesses=tuple(found))
