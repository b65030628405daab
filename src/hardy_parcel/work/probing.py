"""Probes: test encodes of a few moments, and what a platform makes of them. What they tell is computed in `core.arrival.forecast`."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import partial
from pathlib import Path
from typing import Any

from ..core.arrival.condition import Likeness, PictureParts, mean_likeness
from ..core.arrival.curve import curve_rates
from ..core.arrival.forecast import COARSER_QUALITY, FINEST_QUALITY, effort_shift
from ..core.arrival.journey import Journey
from ..core.arrival.probe import (
    EffortProbe,
    EffortShift,
    HandledQuality,
    HandlingProbe,
    ProbedQuality,
    ProbedWindow,
    UploadProbe,
    ceiling_factor,
)
from ..core.arrival.rehearsal import MeasuredRendition, ScaledPicture
from ..core.arrival.screens import Screen
from ..core.arrival.windows import QUICK_WINDOWS, Reel, Stretch, choose_reel, in_windows, probe_segments
from ..core.plan.encoder_settings import EncoderSettings, packing_settings
from ..core.plan.plan import VideoPlan
from ..core.trade.codecs import BASE_CODEC, PROBED_QUALITIES, name_of
from ..core.trade.names import Codec
from ..core.trade.rate_control import Effort, RateControl
from ..media.difficulty import stored_stretches, stretches
from ..media.handling import handle, rendition_path, upload_pictures
from ..media.measure import Stream
from ..media.windowed import encode_windows
from .rehearse import PlannedFilm, Say, TreatedReel, compared

Rows = Sequence[tuple[int, PictureParts]]
"""Measured pictures with their places in a reel."""
HIGHEST_LEVEL = "6.2"
"""Where a plan is in another codec its level says nothing of the base codec's, which has only to bind nowhere."""
MEASURED_PICTURES, RUN_PICTURES = 16, 2
SAMPLED_STRETCHES, SAMPLED_PICTURES = 16, 4
"""Where nothing is known of the film yet, so many stretches are looked at, so many pictures of each."""


def plan_probe_reel(film: PlannedFilm) -> Reel:
    """The moments that stand for the excerpt: short windows of all difficulties after a run-in; a short excerpt whole."""
    journey, excerpt = film.journey, film.journey.plan.excerpt
    segment = journey.probe_segment_s
    width, height = journey.frame_size
    count = QUICK_WINDOWS if journey.quick else probe_segments(width=width, height=height, smaller=journey.smaller)
    reel = in_windows(excerpt.in_s, excerpt.out_s, segment_s=segment)
    if excerpt.duration_s > segment * (count + 1) * Fraction(5, 4):
        candidates = (
            stored_stretches(film.master, journey.plan, segment, least=count + 2)
            if journey.quick
            else _stretches(film, segment, most=max(SAMPLED_STRETCHES, 2 * count))
        )
        sent = choose_reel(
            candidates, in_s=excerpt.in_s, out_s=excerpt.out_s, segment_s=segment, count=min(count, len(candidates) - 2)
        )
        reel = reel if sent.whole else sent  # one window of all of it would tell nothing of how windows differ
    windows = sum(part.measure_from_s < part.end_s for part in reel.segments)
    run = 1 if journey.quick else RUN_PICTURES
    each = 1 if journey.quick else max(1, MEASURED_PICTURES // (windows * run))
    return reel.model_copy(update={"most_measured": run * each * windows, "run_pictures": run})


def _stretches(film: PlannedFilm, segment: Fraction, *, most: int) -> list[Stretch]:
    """Pieces of the excerpt with their difficulty: as the checks found it, else from a small test encode of some of them."""
    excerpt = film.journey.plan.excerpt
    candidates = [item for item in film.difficulty if excerpt.in_s <= item.at_s < excerpt.out_s - segment]
    if len(candidates) >= max(4, float(excerpt.duration_s) / 4):
        starts = [Fraction(item.at_s).limit_denominator(1000) for item in candidates]
        return [
            Stretch(start_s=start, end_s=start + segment, difficulty=item.level)
            for start, item in zip(starts, candidates, strict=True)
        ]
    return stretches(
        film.master,
        film.facts.video,
        film.journey.plan,
        segment,
        film.difficulty,
        most=most,
        pictures=SAMPLED_PICTURES,
    )


def upload_probe(film: PlannedFilm, reel: TreatedReel, folder: Path, say: Say) -> UploadProbe:
    """Encode the reel at three qualities of the base codec into `folder`, and measure bits and likeness of every window."""
    qualities = PROBED_QUALITIES[BASE_CODEC]
    bits, owners = [], [tick.segment for tick in reel.ticks]
    for number, quality in enumerate(qualities):
        part = within(say, 0.7 * number / len(qualities), 0.7 / len(qualities))
        settings = probe_settings(film.journey, quality, Effort.QUICK, BASE_CODEC)
        bits.append(
            encode_windows(
                settings, reel.frames, owners, upload_path(folder, quality), partial(part, "trying qualities")
            )
        )
    every = frozenset(range(len(film.rasters)))
    streams = {
        str(quality): Stream(
            pictures=upload_pictures(upload_path(folder, quality)), size=film.journey.frame_size, rasters=every
        )
        for quality in qualities
    }
    result = compared(film, reel, streams, within(say, 0.7, 0.3))
    return UploadProbe(
        key=film.journey.upload_probe_key,
        qualities=tuple(
            ProbedQuality(
                quality=quality,
                windows=tuple(
                    counted[window].model_copy(
                        update={
                            "likenesses": tuple(
                                _likeness(film, reel, result[str(quality), n], n, window)
                                for n in range(len(film.rasters))
                            )
                        }
                    )
                    for window in _windows(reel)
                ),
            )
            for quality, counted in zip(qualities, bits, strict=True)
        ),
    )


def _windows(reel: TreatedReel) -> list[int]:
    """The windows that are measured, by the numbers of their segments."""
    return sorted({tick.segment for tick, flag in zip(reel.ticks, reel.measured, strict=True) if flag})


def _by_window(film: PlannedFilm, reel: TreatedReel, rows: dict[int, Rows]) -> tuple[tuple[Likeness, ...], ...]:
    """Likenesses of each window on each raster; none where a rendition has too few pictures to measure one in every window."""
    windows = _windows(reel)
    if any(not {reel.ticks[index].segment for index, _ in result} >= set(windows) for result in rows.values()):
        return ()
    return tuple(tuple(_likeness(film, reel, result, n, window) for n, result in rows.items()) for window in windows)


def _likeness(film: PlannedFilm, reel: TreatedReel, result: Rows, raster: int, window: int | None = None) -> Likeness:
    """The likeness on one raster over the whole reel, or over one window of it."""
    part = [parts for index, parts in result if window is None or reel.ticks[index].segment == window]
    return mean_likeness(film.rasters[raster].size, part)


def effort_probe(
    film: PlannedFilm, reel: TreatedReel, scaled: ScaledPicture, probe: UploadProbe, folder: Path, say: Say
) -> EffortProbe:
    """What the plan's own codec and effort are worth against the probe's, from one window at each quality.

    That is a window of middling difficulty for another effort, and the hardest one for another codec; see docs/decisions.md.
    """
    journey, video = film.journey, film.journey.plan.picture
    codec, effort = video.codec.value, video.effort.value or Effort.MEDIUM
    windows, qualities, is_base = _windows(reel), PROBED_QUALITIES[codec], codec == BASE_CODEC
    order = sorted(range(len(windows)), key=lambda n: probe.qualities[len(probe.qualities) // 2].windows[n].other_bits)
    chosen = order[len(order) // 2] if is_base else order[-1]
    part, owner = reel.only(windows[chosen]), windows[chosen]
    laptop = next(n for n, raster in enumerate(film.rasters) if raster.size == journey.rasters()[Screen.LAPTOP].size)
    count = len(qualities) + 2

    def tried(quality: int, number: int, *, judged: bool) -> ProbedWindow:
        words, target = within(say, number / count, 1 / count), upload_path(folder, -quality)
        doing = partial(within(words, 0, 0.8), "trying the effort" if is_base else f"trying {name_of(codec)}")
        window = encode_windows(
            probe_settings(journey, quality, effort, codec),
            part.frames,
            [owner] * len(part.ticks),
            target,
            doing,
        )[owner]
        if judged:
            stream = Stream(pictures=upload_pictures(target), size=journey.frame_size, rasters=frozenset({laptop}))
            result = compared(film, part, {"effort": stream}, within(words, 0.8, 0.2))
            window = window.model_copy(
                update={"likenesses": (_likeness(film, part, result["effort", laptop], laptop),)}
            )
        target.unlink()
        return window

    shifts = [
        EffortShift(quality=quality, key_bits=1, other_bits=1, detail=1, information=1, distortion=1)
        if is_base and effort is Effort.QUICK
        else effort_shift(
            base.windows[chosen], tried(quality, n, judged=True), quality, scaled.likenesses[laptop], laptop
        )
        for n, (quality, base) in enumerate(zip(qualities, probe.qualities, strict=True))
    ]
    easy, hard = _reached_beyond(journey, probe, shifts)
    finest, coarsest = None, None
    if easy:
        quality, best = FINEST_QUALITY[codec], probe.qualities[0].windows[chosen]
        window = tried(quality, len(qualities), judged=False)
        finest = EffortShift(
            quality=quality,
            key_bits=window.key_bits / max(1, best.key_bits),
            other_bits=window.other_bits / max(1, best.other_bits),
            detail=1,
            information=1,
            distortion=1,
        )
    if hard:
        quality, worst = COARSER_QUALITY[codec], probe.qualities[-1].windows[chosen]
        coarsest = effort_shift(
            worst, tried(quality, count - 1, judged=True), quality, scaled.likenesses[laptop], laptop
        )
    say("trying the effort", 1.0)
    return EffortProbe(key=journey.effort_key, shifts=tuple(shifts), finest=finest, coarsest=coarsest)


def _reached_beyond(journey: Journey, probe: UploadProbe, shifts: Sequence[EffortShift]) -> tuple[bool, bool]:
    """Whether some rate of the curve is more than the film takes at the best probed quality, and whether some is less than at the
    poorest: then a finer and a coarser one have to be tried too."""
    rates, interval = curve_rates(journey.plan, []), journey.plan.picture.keyframe_interval_frames.value or 1

    def taken(place: int) -> float:
        windows = probe.qualities[place].windows
        return (
            sum(window.bits_per_picture(interval, shifts[place]) for window in windows)
            / len(windows)
            * float(journey.rate)
        )

    return bool(rates) and taken(0) < rates[-1], bool(rates) and taken(-1) > rates[0]


def handling_probe(
    film: PlannedFilm, reel: TreatedReel, probe: UploadProbe, uploads: Path, folder: Path, say: Say
) -> HandlingProbe:
    """A perfect upload and the poorest probed one through the renditions that some viewer gets, and what arrives of each."""
    journey = film.journey
    worse = [probe.qualities[-1].quality]
    result = []
    middle = probe.qualities[len(probe.qualities) // 2].windows
    renditions = []
    # a decoder's buffer is full at first: one that lasts longer than the reel would let hard pictures pass every ceiling
    reel_s = len(reel.ticks) / float(journey.rate)
    for rendition in journey.renditions_served:
        factor = ceiling_factor(middle, rendition.keyframe_interval_frames)
        renditions.append(
            rendition.model_copy(
                update={
                    "ceiling_bps": round(rendition.ceiling_bps * factor),
                    "buffer_bits": round(min(rendition.buffer_bits, rendition.ceiling_bps * reel_s) * factor),
                }
            )
        )
    screens = journey.rasters()
    wanted = {
        rendition.name: frozenset(
            n
            for n, raster in enumerate(film.rasters)
            if raster.size in {screens[screen].size for screen in journey.screens_of(rendition.name)}
        )
        for rendition in renditions
    }
    total = len(reel.ticks)
    tries: list[int | None] = [None, *worse]
    for number, quality in enumerate(tries):
        placement = folder / str(quality)
        placement.mkdir(parents=True, exist_ok=True)
        part = within(say, number / len(tries), 1 / len(tries))
        pictures = iter(reel.frames) if quality is None else upload_pictures(upload_path(uploads, quality))
        created = handle(
            pictures,
            renditions,
            placement,
            size=journey.frame_size,
            frame_rate=journey.rate,
            progress=partial(_of, part, "letting the platform re-encode it", total),
        )
        streams = {
            rendition.name: Stream(
                pictures=upload_pictures(rendition_path(placement, rendition)),
                size=(rendition.width, rendition.height),
                rasters=wanted[rendition.name],
                repeats=rendition.keep_every,
            )
            for rendition in renditions
        }
        rows = compared(film, reel, streams, within(part, 0.6, 0.4))
        result.append(
            HandledQuality(
                quality=quality,
                renditions=tuple(
                    MeasuredRendition(
                        made=item,
                        likenesses=tuple(
                            _likeness(film, reel, rows[item.name, n], n) for n in sorted(wanted[item.name])
                        ),
                        windows=_by_window(film, reel, {n: rows[item.name, n] for n in sorted(wanted[item.name])}),
                    )
                    for item in created
                ),
            )
        )
    return HandlingProbe(key=journey.handling_probe_key, uploads=tuple(result))


def within(say: Say, start: float, width: float) -> Say:
    """The same, for a part of the whole that starts there and is so wide."""
    return lambda doing, share: say(doing, start + width * share)


def _of(say: Say, doing: str, total: int, finished: int) -> None:
    say(doing, 0.6 * finished / total)


def upload_path(folder: Path, quality: int) -> Path:
    """Where a test encode of a quality is written."""
    return folder / f"probe-{quality}.mkv"


def kept_uploads(folder: Path) -> bool:
    """Whether the test encodes that a ladder is tried with are there."""
    return all(upload_path(folder, quality).is_file() for quality in PROBED_QUALITIES[BASE_CODEC][-1:])


def probe_settings(journey: Journey, quality: int, effort: Effort, codec: Codec) -> EncoderSettings:
    """The plan's encoder at a constant quality without a ceiling; or another codec's on the same pictures."""
    video = journey.plan.picture

    def other(name: str, value: object) -> Any:
        return getattr(video, name).model_copy(update={"value": value})

    probed: VideoPlan = video.model_copy(
        update={
            "rate_control": other("rate_control", RateControl.QUALITY),
            "quality": other("quality", quality),
            "effort": other("effort", effort),
            "ceiling_bps": other("ceiling_bps", None),
            "buffer_bits": other("buffer_bits", None),
            "target_bps": other("target_bps", 0),
        }
        | (
            {"codec": other("codec", codec), "level": other("level", HIGHEST_LEVEL)}
            if codec != video.codec.value
            else {}
        )
    )
    return packing_settings(journey.plan.model_copy(update={"video": probed, "stamps": ()}))
