"""The rehearsal: a reel of the excerpt is packed with the plan, handled as the platform would, and measured."""

from __future__ import annotations

import math
import tempfile
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

from ..core.arrival.condition import YARDSTICK_QUALITIES, YardstickMark, condition_by_yardstick
from ..core.arrival.rehearsal import Arrival, Moment, PerfectUpload, Rehearsal, Station, Yardstick, between
from ..core.arrival.screens import Raster, Screen, ViewerLine, picture_raster, rendition_for
from ..core.arrival.windows import YARDSTICK_PICTURES_WHOLE, Reel, choose_reel, segment_count, spread, whole_reel
from ..core.master.checks.evidence import Difficulty
from ..core.master.facts import MasterFacts
from ..core.plan.encoder_settings import yardstick_settings
from ..core.plan.plan import Plan
from ..core.sheets.ladder import Rendition, renditions_for
from ..core.sheets.sheet import Destination
from ..media.difficulty import stretches
from ..media.encode import encoder
from ..media.handling import handle, rendition_path, upload_pictures
from ..media.measure import Series, compare
from ..media.pack import Progress, pack
from ..media.pictures import Tick, ticks, treated

Say = Callable[[str, float], None]
"""Called with what is being done and how much of the whole is done (0–1); it may raise Cancelled."""
UPLOAD_NAME = "upload.film"
SCALED, PACKED = "scaled", "packed"
SHORTEST_SEGMENT_S = Fraction(1)


@dataclass(frozen=True, slots=True, kw_only=True)
class Parcel:
    """What a rehearsal needs to know: the master, its plan, where it goes, and what the checks know of its difficulty."""

    master: Path
    facts: MasterFacts
    plan: Plan
    destination: Destination
    difficulty: tuple[Difficulty, ...] = ()

    @property
    def rate(self) -> Fraction:
        return self.plan.picture.frame_rate.value

    @property
    def frame_size(self) -> tuple[int, int]:
        framing = self.plan.picture.framing.value
        return framing.width, framing.height

    def renditions(self) -> list[Rendition]:
        width, height = self.frame_size
        return renditions_for(self.destination, width=width, height=height, frame_rate=self.rate)

    def rasters(self) -> dict[Screen, Raster]:
        return {screen: picture_raster(screen, self.plan.picture.framing.value) for screen in Screen}


def plan_reel(parcel: Parcel, *, whole: bool) -> Reel:
    """The reel that stands for the excerpt; the excerpt itself when it is short or `whole` is asked."""
    excerpt, video = parcel.plan.excerpt, parcel.plan.picture
    if whole:
        return whole_reel(excerpt.in_s, excerpt.out_s, measure_all=True)
    segment = Fraction(video.keyframe_interval_frames.value or 1) / parcel.rate
    if segment < SHORTEST_SEGMENT_S:  # a codec of keyframes alone
        segment = math.ceil(SHORTEST_SEGMENT_S * parcel.rate) / parcel.rate
    width, height = parcel.frame_size
    count = segment_count(width=width, height=height, frame_rate=parcel.rate, segment_s=segment)
    if excerpt.duration_s <= segment * (count + 1) * Fraction(5, 4):
        return whole_reel(excerpt.in_s, excerpt.out_s)
    parts = stretches(parcel.master, parcel.facts.video, parcel.plan, segment, parcel.difficulty)
    return choose_reel(parts, in_s=excerpt.in_s, out_s=excerpt.out_s, segment_s=segment, count=count)


def perfect_upload(parcel: Parcel, reel: Reel, say: Say, *, folder: Path | None = None) -> PerfectUpload:
    """What arrives of an upload without any loss, and the yardsticks of this reel. Done once for a curve."""
    wanted = ticks(parcel.plan, reel)
    total = len(wanted)
    say("making the reference encodes", 0.0)
    yardsticks = _yardsticks(parcel, reel, lambda share: say("making the reference encodes", 0.6 * share))
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        target = folder or Path(scratch)
        renditions = _served(parcel.renditions())
        if renditions:
            handle(
                treated(parcel.master, parcel.facts.video, parcel.plan, wanted), renditions, target,
                size=parcel.frame_size, frame_rate=parcel.rate,
                progress=lambda done: say("letting the platform re-encode a perfect copy", 0.6 + 0.2 * done / total),
            )
        series = _measure(
            parcel, reel, upload=None, renditions=renditions, folder=target,
            progress=lambda share: say("comparing on the viewers' screens", 0.8 + 0.2 * share),
        )
    return PerfectUpload(
        picture_key=parcel.plan.way_key(),
        whole=reel.whole,
        arrivals=_arrivals(parcel, series, renditions, yardsticks),
        yardsticks=yardsticks,
    )


def rehearse(
    parcel: Parcel, reel: Reel, perfect: PerfectUpload, folder: Path, say: Say, *, all_renditions: bool = False
) -> Rehearsal:
    """Pack the reel with exactly this plan, hand it to the platform's handling, measure what arrives.

    The upload and the renditions stay in `folder`, so that they can be looked at. With `all_renditions` those that
    no viewer's screen asks for are made and measured too.
    """
    wanted = ticks(parcel.plan, reel)
    upload = folder / UPLOAD_NAME
    packed = pack(
        parcel.master, parcel.facts, parcel.plan, upload, reel=reel,
        report=lambda p: say("packing the reel", _share(p, 0.0, 0.55)),
    )
    renditions = parcel.renditions()
    if not all_renditions:
        renditions = _served(renditions)
    made = []
    if renditions:
        made = handle(
            upload_pictures(upload), renditions, folder, size=parcel.frame_size, frame_rate=parcel.rate,
            progress=lambda done: say("letting the platform re-encode it", 0.55 + 0.2 * done / len(wanted)),
        )
    series = _measure(
        parcel, reel, upload=upload, renditions=renditions, folder=folder,
        progress=lambda share: say("comparing on the viewers' screens", 0.75 + 0.25 * share),
    )
    scaled = tuple(a for a in perfect.arrivals if a.station is Station.SCALED)
    return Rehearsal(
        picture_key=parcel.plan.picture_key(),
        target_bps=parcel.plan.picture.target_bps.value,
        achieved_bps=round(packed.video_bytes * 8 * float(parcel.rate) / packed.pictures),
        whole=reel.whole,
        pictures_packed=packed.pictures,
        pictures_measured=sum(tick.measured for tick in wanted),
        pack_pictures_per_s=round(packed.pictures / packed.seconds, 3),
        arrivals=(*scaled, *_arrivals(parcel, series, renditions, perfect.yardsticks)),
        renditions=tuple(made),
        moments=_moments(parcel, reel, series, renditions),
    )


def _share(progress: Progress, start: float, width: float) -> float:
    return start + width * progress.done / max(1, progress.total)


def _served(renditions: list[Rendition]) -> list[Rendition]:
    """Those renditions that some screen on some line gets, in ladder order."""
    if not renditions:
        return []
    names = {rendition_for(screen, line, renditions).name for screen in Screen for line in ViewerLine}
    return [rendition for rendition in renditions if rendition.name in names]


def _yardsticks(parcel: Parcel, reel: Reel, progress: Callable[[float], None]) -> tuple[Yardstick, ...]:
    """Reference encodes of the reel's measured pictures at the narrowest and the widest raster; others in between."""
    wanted = [tick for tick in ticks(parcel.plan, reel) if tick.measured]
    keep = spread([True] * len(wanted), most=YARDSTICK_PICTURES_WHOLE)
    wanted = [tick for tick, kept in zip(wanted, keep, strict=True) if kept]
    rasters = sorted({raster.yardstick_size for raster in parcel.rasters().values()})
    ends = [rasters[0], rasters[-1]] if len(rasters) > 1 else rasters
    done = [
        _yardstick(parcel, wanted, raster, lambda share, n=number: progress((n + share) / len(ends)))
        for number, raster in enumerate(ends)
    ]
    return tuple(between(done[0], done[-1], raster) for raster in rasters)


def _yardstick(parcel: Parcel, wanted: list[Tick], raster: tuple[int, int], progress: Callable[[float], None]) -> Yardstick:
    crop = parcel.plan.picture.framing.value.crop
    source = parcel.master, parcel.facts.video, parcel.plan, wanted
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        paths = {quality: Path(scratch) / f"{quality}.h264" for quality in YARDSTICK_QUALITIES}
        _reference_encodes(parcel, wanted, raster, paths, lambda done: progress(0.6 * done / len(wanted)))
        series = compare(
            rasters={Screen.LAPTOP: Raster.whole(*raster)}, reference_size=(crop.width, crop.height),
            references=treated(*source, frame=False),
            streams={str(quality): raster for quality in paths},
            pictures={str(quality): upload_pictures(path) for quality, path in paths.items()},
            measured=[True] * len(wanted), rate=parcel.rate, ssim=False,
            progress=lambda done: progress(0.6 + 0.4 * done / len(wanted)),
        )
    marks = (YardstickMark(quality=q, xpsnr_db=series[str(q), Screen.LAPTOP].mean_db) for q in paths)
    return Yardstick(raster=raster, marks=tuple(marks))


def _reference_encodes(
    parcel: Parcel, wanted: list[Tick], raster: tuple[int, int], paths: dict[int, Path], progress: Callable[[int], None]
) -> None:
    """Elementary streams of the same scaled pictures, one for each quality value."""
    width, height = raster
    contexts = {
        quality: encoder(yardstick_settings(width=width, height=height, frame_rate=parcel.rate, quality=quality))
        for quality in paths
    }
    files = {quality: open(path, "wb") for quality, path in paths.items()}
    try:
        for count, picture in enumerate(treated(parcel.master, parcel.facts.video, parcel.plan, wanted, frame=False)):
            small = picture.reformat(width=width, height=height, interpolation="BICUBIC")
            small.pts, small.time_base, small.pict_type = count, 1 / parcel.rate, 0
            for quality, context in contexts.items():
                files[quality].writelines(bytes(packet) for packet in context.encode(small))
            progress(count + 1)
        for quality, context in contexts.items():
            files[quality].writelines(bytes(packet) for packet in context.encode(None))
    finally:
        for file in files.values():
            file.close()


def _measure(
    parcel: Parcel,
    reel: Reel,
    *,
    upload: Path | None,
    renditions: list[Rendition],
    folder: Path,
    progress: Callable[[float], None],
) -> dict[tuple[str, Screen], Series]:
    """Series of the upload (or, without one, of the scaled picture) and of every rendition, on every screen."""
    framing = parcel.plan.picture.framing.value
    wanted = ticks(parcel.plan, reel)
    first = PACKED if upload else SCALED
    streams = {first: parcel.frame_size}
    source = parcel.master, parcel.facts.video, parcel.plan, wanted
    pictures: dict[str, Iterator] = {first: upload_pictures(upload) if upload else treated(*source)}
    for rendition in renditions:
        streams[rendition.name] = (rendition.width, rendition.height)
        pictures[rendition.name] = upload_pictures(rendition_path(folder, rendition))
    return compare(
        rasters=parcel.rasters(), reference_size=(framing.crop.width, framing.crop.height),
        references=treated(*source, frame=False), streams=streams, pictures=pictures,
        measured=[tick.measured for tick in wanted], rate=parcel.rate,
        progress=lambda done: progress(done / len(wanted)),
    )


def _arrivals(
    parcel: Parcel,
    series: dict[tuple[str, Screen], Series],
    renditions: list[Rendition],
    yardsticks: tuple[Yardstick, ...],
) -> tuple[Arrival, ...]:
    marks = {yardstick.raster: list(yardstick.marks) for yardstick in yardsticks}
    rasters, found = parcel.rasters(), []

    def add(name: str, station: Station, screen: Screen, line: ViewerLine | None, rendition: str | None) -> None:
        measured = series[name, screen]
        found.append(Arrival(
            station=station, screen=screen, line=line, rendition=rendition, raster=rasters[screen].size,
            xpsnr_db=round(measured.mean_db, 3), ssim=round(measured.mean_ssim, 5),
            condition=round(condition_by_yardstick(measured.mean_db, marks[rasters[screen].yardstick_size]), 2), scale="yardstick",
        ))

    first = PACKED if (PACKED, Screen.PHONE) in series else SCALED
    station = Station.PACKED if first == PACKED else Station.SCALED
    for screen in Screen:
        add(first, station, screen, None, None)
        taken = set()
        for line in ViewerLine:
            served = rendition_for(screen, line, renditions).name if renditions else None
            taken.add(served)
            add(served or first, Station.ARRIVED, screen, line, served)
        for rendition in renditions:
            if rendition.name not in taken:
                add(rendition.name, Station.ARRIVED, screen, None, rendition.name)
    return tuple(found)


def _moments(
    parcel: Parcel, reel: Reel, series: dict[tuple[str, Screen], Series], renditions: list[Rendition]
) -> tuple[Moment, ...]:
    """Every measured picture with its own figures on a laptop with a good line."""
    name = rendition_for(Screen.LAPTOP, ViewerLine.GOOD, renditions).name if renditions else PACKED
    measured = [tick for tick in ticks(parcel.plan, reel) if tick.measured]
    packed, arrived = series[PACKED, Screen.LAPTOP].xpsnr_db, series[name, Screen.LAPTOP].xpsnr_db
    return tuple(
        Moment(reel_index=tick.index, master_s=tick.master_s, packed_db=round(p, 2), arrived_db=round(a, 2))
        for tick, p, a in zip(measured, packed, arrived, strict=True)
    )
