"""The rehearsal: a reel of the excerpt is packed with the plan, handled as the platform would, and measured."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path

from ..core.arrival.condition import PERFECT_DB, Likeness, PictureParts, condition, mean_likeness
from ..core.arrival.journey import Journey
from ..core.arrival.rehearsal import HandledUpload, MeasuredRendition, MomentMeasure, ScaledPicture, TrialEncode
from ..core.arrival.screens import Raster, Screen
from ..core.arrival.ticks import Tick, ticks
from ..core.arrival.windows import Reel, choose_reel, segment_count, whole_reel
from ..core.master.checks.evidence import Difficulty
from ..core.master.facts import MasterFacts
from ..core.sheets.ladder import Rendition
from ..media.difficulty import stretches
from ..media.handling import handle, rendition_path, upload_pictures
from ..media.kept_pictures import KeptPictures
from ..media.measure import Stream, compare
from ..media.pack import Progress, pack_reel
from ..media.pictures import Picture, treated

MEASURED_OF_SHORT, RUN_OF_SHORT = 60, 2
"""Of an excerpt that is rehearsed whole more and shorter runs are measured: eight of five missed what differs from second to second."""
Say = Callable[[str, float], None]
"""Called with what is being done and how much of the whole is done (0–1); it may raise Cancelled."""


@dataclass(frozen=True, slots=True, kw_only=True)
class PlannedFilm:
    """A master and how it is planned: what a rehearsal needs to know. `difficulty` is what the checks know of it."""

    master: Path
    facts: MasterFacts
    journey: Journey
    difficulty: tuple[Difficulty, ...] = ()

    @property
    def rasters(self) -> list[Raster]:
        """The different rasters of all screens."""
        return list({raster.size: raster for raster in self.journey.rasters().values()}.values())


@dataclass(frozen=True, slots=True, kw_only=True)
class TreatedReel:
    """The reel on disk: its pictures as they go into an encoder, and the master's beside them at their own size."""

    ticks: tuple[Tick, ...]
    frames: KeptPictures
    references: KeptPictures

    @property
    def measured(self) -> list[bool]:
        return [tick.measured for tick in self.ticks]

    def only(self, segment: int) -> TreatedReel:
        """One segment of the reel, as a reel of its own."""
        ticks = [tick for tick in self.ticks if tick.segment == segment]
        first, count = ticks[0].index, len(ticks)
        return TreatedReel(
            ticks=tuple(replace(tick, index=tick.index - first) for tick in ticks),
            frames=self.frames.part(first, count),
            references=self.references.part(first, count),
        )


def plan_reel(film: PlannedFilm, *, whole: bool) -> Reel:
    """The reel that stands for the excerpt; the excerpt itself when it is short or `whole` is asked."""
    journey, plan = film.journey, film.journey.plan
    excerpt, segment = plan.excerpt, journey.segment_s
    if whole:
        return whole_reel(excerpt.in_s, excerpt.out_s, measure_all=True)
    width, height = journey.frame_size
    count = segment_count(
        width=width, height=height, frame_rate=journey.rate, segment_s=segment, smaller=journey.smaller
    )
    if excerpt.duration_s <= segment * (count + 1) * Fraction(5, 4):
        short = whole_reel(excerpt.in_s, excerpt.out_s)
        return short.model_copy(update={"most_measured": MEASURED_OF_SHORT, "run_pictures": RUN_OF_SHORT})
    parts = stretches(film.master, film.facts.video, plan, segment, film.difficulty)
    return choose_reel(parts, in_s=excerpt.in_s, out_s=excerpt.out_s, segment_s=segment, count=count)


def treated_reel(film: PlannedFilm, reel: Reel, folder: Path, say: Say) -> TreatedReel:
    """The reel's pictures, decoded and treated once into `folder`; what is there already is taken as it is."""
    plan = film.journey.plan
    wanted = ticks(plan, reel)
    framing, video = plan.picture.framing.value, plan.picture
    same = (
        not framing.bars
        and not video.sharpen.value
        and (framing.crop.width, framing.crop.height) == (framing.width, framing.height)
    )

    part = 1.0 if same else 0.5

    def kept(name: str, *, frame: bool, share: float) -> KeptPictures:
        if found := KeptPictures.find(folder / name, frame_rate=film.journey.rate):
            return found
        pictures = treated(film.master, film.facts.video, plan, wanted, frame=frame)
        return KeptPictures.keep(
            _told(
                pictures,
                len(wanted),
                lambda done: say("treating the moments that stand for the film", share + done * part),
            ),
            folder / name,
            frame_rate=film.journey.rate,
        )

    frames = kept("frames.pictures", frame=True, share=0.0)
    references = frames if same else kept("references.pictures", frame=False, share=0.5)
    return TreatedReel(ticks=tuple(wanted), frames=frames, references=references)


def _told(pictures: Iterator[Picture], total: int, say: Callable[[float], None]) -> Iterator[Picture]:
    for done, picture in enumerate(pictures, 1):
        yield picture
        say(done / total)


def scaled_picture(film: PlannedFilm, reel: TreatedReel, say: Say) -> ScaledPicture:
    """The treated picture against the master: what scaling alone costs; nothing to compare where they are the same pictures."""
    if reel.frames == reel.references:
        same = [
            Likeness(raster=raster.size, detail=1.0, information=1.0, movement=0.0, xpsnr_db=PERFECT_DB)
            for raster in film.rasters
        ]
        return ScaledPicture(key=film.journey.treated_key, likenesses=tuple(same))
    every = frozenset(range(len(film.rasters)))
    stream = Stream(pictures=iter(reel.frames), size=film.journey.frame_size, rasters=every)
    found = compared(film, reel, {"scaled": stream}, say)
    likenesses = tuple(_likeness(raster, found["scaled", number]) for number, raster in enumerate(film.rasters))
    return ScaledPicture(key=film.journey.treated_key, likenesses=likenesses)


def trial_encode(film: PlannedFilm, reel: TreatedReel, upload: Path, say: Say, *, alone: bool = False) -> TrialEncode:
    """Pack the reel with exactly this plan into `upload` and measure it as packed."""
    journey = film.journey
    packed = pack_reel(
        journey.plan,
        reel.frames,
        len(reel.ticks),
        upload,
        report=lambda progress: say("packing the reel", _share(progress) * 0.75),
    )
    every = frozenset(range(len(film.rasters)))
    stream = Stream(pictures=upload_pictures(upload), size=journey.frame_size, rasters=every)
    found = compared(film, reel, {"packed": stream}, lambda doing, share: say(doing, 0.75 + 0.25 * share))
    return TrialEncode(
        key=journey.encode_key,
        target_bps=journey.plan.picture.target_bps.value,
        achieved_bps=round(packed.video_bytes * 8 * float(journey.rate) / packed.pictures),
        pictures_packed=packed.pictures,
        pictures_measured=sum(reel.measured),
        pictures_per_s=round(packed.pictures / packed.seconds, 3),
        alone=alone,
        likenesses=tuple(_likeness(raster, found["packed", number]) for number, raster in enumerate(film.rasters)),
        moments=_moments(film, reel, "packed", found),
    )


def handled_upload(
    film: PlannedFilm,
    reel: TreatedReel,
    upload: Path | None,
    folder: Path,
    key: str,
    say: Say,
    *,
    all_renditions: bool = False,
) -> HandledUpload:
    """An upload, or without one the treated picture itself, through the ladder into `folder`, and what arrives of it.

    With `all_renditions` those that no viewer's screen asks for are made and measured too.
    """
    journey = film.journey
    renditions = list(journey.renditions if all_renditions else journey.renditions_served)
    total, doing = (
        len(reel.ticks),
        "letting the platform re-encode it" if upload else "letting the platform re-encode a perfect copy",
    )
    made = handle(
        upload_pictures(upload) if upload else iter(reel.frames),
        renditions,
        folder,
        size=journey.frame_size,
        frame_rate=journey.rate,
        progress=lambda done: say(doing, 0.5 * done / total),
    )
    streams = {
        rendition.name: Stream(
            pictures=upload_pictures(rendition_path(folder, rendition)),
            size=(rendition.width, rendition.height),
            rasters=_rasters_of(film, rendition, every=all_renditions),
            repeats=rendition.keep_every,
        )
        for rendition in renditions
    }
    found = compared(film, reel, streams, lambda doing, share: say(doing, 0.5 + 0.5 * share))
    return HandledUpload(
        key=key,
        renditions=tuple(
            MeasuredRendition(
                made=one,
                likenesses=tuple(
                    _likeness(film.rasters[number], found[one.name, number])
                    for number in sorted(streams[one.name].rasters)
                ),
                moments=_moments(film, reel, one.name, found),
            )
            for one in made
        ),
    )


def _rasters_of(film: PlannedFilm, rendition: Rendition, *, every: bool) -> frozenset[int]:
    """Numbers of the rasters on which a viewer gets this rendition."""
    if every:
        return frozenset(range(len(film.rasters)))
    screens = film.journey.rasters()
    sizes = {screens[screen].size for screen in film.journey.screens_of(rendition.name)}
    return frozenset(number for number, raster in enumerate(film.rasters) if raster.size in sizes)


def _share(progress: Progress) -> float:
    return progress.done / max(1, progress.total)


def compared(
    film: PlannedFilm, reel: TreatedReel, streams: dict[str, Stream], say: Say
) -> dict[tuple[str, int], list[tuple[int, PictureParts]]]:
    """Parts of condition by stream and number of raster, each with its place in the reel."""
    crop = film.journey.plan.picture.framing.value.crop
    return compare(
        rasters=film.rasters,
        reference_size=(crop.width, crop.height),
        references=iter(reel.references),
        streams=streams,
        measured=reel.measured,
        rate=film.journey.rate,
        progress=lambda done: say("comparing on the viewers' screens", done / len(reel.ticks)),
    )


def _likeness(raster: Raster, rows: Sequence[tuple[int, PictureParts]]) -> Likeness:
    return mean_likeness(raster.size, [parts for _, parts in rows])


def _moments(
    film: PlannedFilm, reel: TreatedReel, name: str, found: dict[tuple[str, int], list[tuple[int, PictureParts]]]
) -> tuple[MomentMeasure, ...]:
    """Every measured picture's own condition on a laptop; none where no laptop gets this stream."""
    size = film.journey.rasters()[Screen.LAPTOP].size
    rows = next(
        (found[name, n] for n, raster in enumerate(film.rasters) if raster.size == size and (name, n) in found), []
    )
    return tuple(
        MomentMeasure(
            reel_index=index,
            master_s=reel.ticks[index].master_s,
            condition=round(condition(parts.detail, parts.information, parts.movement), 2),
        )
        for index, parts in rows
    )
