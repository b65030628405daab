"""Pictures for the eye: one picture at every station of its way, and one crop of it at several upload rates."""

from __future__ import annotations

import tempfile
from fractions import Fraction
from pathlib import Path

from ..core.arrival.ladder_of_rates import CROP
from ..core.arrival.looked import SufferingMap, map_blocks
from ..core.arrival.screens import Raster, picture_raster, rendition_for
from ..core.arrival.ticks import Tick, ticks
from ..core.errors import NotFound
from ..core.master.facts import MasterFacts
from ..core.plan.cadence import source_time_s
from ..media.crops import MasterCrop, condition_map, crop_around, luma_on, suffers_most
from ..media.handling import rendition_path
from ..media.inspect import inspect
from ..media.measure import MOVED_APART_S
from ..media.pictures import Picture, Treatment, own_picture, treated
from ..media.placed import laid_back
from ..media.stepper import Stepper
from ..media.stills import save
from ..processes.messages import CropSeen, FilmLookTask, LadderMade, LadderTask, LookedAt, LookTask, PicturesMade, RehearsedFiles


def look(task: LookTask, voice: object) -> PicturesMade:
    """One reel picture at every station, at the raster of one screen, as `<station>.png` in a folder."""
    raster = picture_raster(task.screen, task.plan.picture.framing.value)
    task.folder.mkdir(parents=True, exist_ok=True)
    tick = _tick(task)
    master = next(iter(treated(task.path, task.facts.video, task.plan, [tick], frame=False)))
    whole = Raster.whole(*raster.size)
    save(master, task.folder / "master.png", raster=whole)
    if task.files.upload:
        packed, packed_on = own_picture(task.files.upload, tick.index, task.journey.rate), raster
    else:  # sent as it is: what is sent is the master
        packed, packed_on = master, whole
    save(packed, task.folder / "packed.png", raster=packed_on)
    arrived = _arrived_picture(task, task.files, tick.index)
    save(arrived or packed, task.folder / "arrived.png", raster=raster if arrived else packed_on)
    if task.mapped:
        around, place = _beside(task)
        lumas = [luma_on(picture, whole) for picture in treated(task.path, task.facts.video, task.plan, around, frame=False)]
        for name, picture, on in (("packed", packed, packed_on), ("arrived", arrived or packed, raster if arrived else packed_on)):
            found = SufferingMap(rows=condition_map(lumas, place, luma_on(picture, on), map_blocks(raster.size)))
            (task.folder / f"{name}.json").write_text(found.model_dump_json())
    return PicturesMade(raster=raster.size)


def ladder(task: LadderTask, voice: object) -> LadderMade:
    """The same crop of one reel picture of the master and as it arrives at each rate, as `master.png` and `<bit/s>.png` in a folder.

    `whole.png` is the master's whole picture.

    Its place is the task's, or where the lowest rate costs most against the highest, one alone against the master.
    """
    raster = picture_raster(task.screen, task.plan.picture.framing.value)
    whole = Raster.whole(*raster.size)
    task.folder.mkdir(parents=True, exist_ok=True)
    around, place = _beside(task)
    masters = list(treated(task.path, task.facts.video, task.plan, around, frame=False))
    lumas = [luma_on(picture, whole) for picture in masters]
    arrived = {rung.target_bps: _seen_picture(task, rung, around[place].index) for rung in task.rungs}
    judged = {bps: luma_on(picture, raster) for bps, picture in arrived.items()}
    if task.at:
        crop = crop_around(*task.at, raster=raster.size, size=CROP)
    else:
        best = judged[max(judged)] if len(judged) > 1 else lumas[place]
        crop = suffers_most(lumas, place, best, judged[min(judged)], size=CROP)
    master = MasterCrop.of(crop, lumas, place)
    save(masters[place], task.folder / "whole.png", raster=whole)
    save(masters[place], task.folder / "master.png", raster=_cut(whole, crop.x, crop.y, crop.width, crop.height))
    for bps, picture in arrived.items():
        save(picture, task.folder / f"{bps}.png", raster=_cut(raster, crop.x, crop.y, crop.width, crop.height))
    return LadderMade(
        raster=raster.size, x=crop.x, y=crop.y, width=crop.width, height=crop.height, master_s=around[place].master_s,
        seen=tuple(CropSeen(target_bps=bps, condition=round(master.condition(luma), 3)) for bps, luma in judged.items()),
    )


def _cut(raster: Raster, x: int, y: int, width: int, height: int) -> Raster:
    """A part of what a raster shows."""
    return Raster(
        frame_width=raster.frame_width, frame_height=raster.frame_height, x=raster.x + x, y=raster.y + y, width=width, height=height,
    )


def _tick(task: LookTask | LadderTask) -> Tick:
    every = ticks(task.plan, task.reel)
    if task.index >= len(every):
        raise NotFound("This picture is not among those that were rehearsed.", "Choose one of the measured moments.")
    return every[task.index]


def _beside(task: LadderTask | LookTask) -> tuple[list[Tick], int]:
    """The picture with those of its segment by which movement is measured, and its place among them."""
    own, every = _tick(task), ticks(task.plan, task.reel)
    stride = max(1, round(task.journey.rate * MOVED_APART_S))
    near = [own.index - stride, own.index, own.index + stride]
    found = [every[index] for index in near if 0 <= index < len(every) and every[index].segment == own.segment]
    return found, found.index(own)


def _seen_picture(task: LadderTask, files: RehearsedFiles, index: int) -> Picture:
    """What arrives of an upload, which is the upload itself where nothing re-encodes it."""
    if (arrived := _arrived_picture(task, files, index)) is not None:
        return arrived
    if files.upload is None:
        raise NotFound("Nothing was packed at this rate.", "Rehearse it on the bench first.")
    return own_picture(files.upload, index, task.journey.rate)


def _arrived_picture(task: LookTask | LadderTask, files: RehearsedFiles, index: int) -> Picture | None:
    """The picture of the rendition that a viewer gets; None where nothing is re-encoded."""
    if not files.renditions or not task.journey.renditions:
        return None
    served = rendition_for(task.screen, task.line, list(task.journey.renditions))
    return own_picture(rendition_path(files.renditions, served), index // served.keep_every, served.frame_rate)


LAST_PICTURES = 8
"""So many pictures that were shown last are still there, for whoever fetches them."""
_films: dict[Path, Stepper] = {}
"""The films that this child looks at: the one that is shown, and the master beside it."""
_shown: list[Path] = []


def film_look(task: FilmLookTask, voice: object) -> LookedAt:
    """One packed picture of a whole film as one of its files has it, or where it suffers there; files stay open for the next wish.

    Raises NotFound where a file that came back does not show it.
    """
    if task.mapped:
        return LookedAt(suffers=_suffers(task))
    whole = picture_raster(task.screen, task.plan.picture.framing.value)
    if task.file is None:
        picture, raster = _kept(task, task.number, exact=task.exact), Raster.whole(*whole.size)
    else:
        picture, raster = _of_file(task, exact=task.exact), whole
    path = Path(tempfile.gettempdir()) / f"{task.number}-{task.screen}{'' if task.exact else '-near'}.{'bmp' if task.exact else 'jpg'}"
    save(picture, path, raster=raster)
    _shown.append(path)
    for old in _shown[:-LAST_PICTURES]:
        if old not in _shown[-LAST_PICTURES:]:
            old.unlink(missing_ok=True)
    del _shown[:-LAST_PICTURES]
    return LookedAt(picture=path)


def _stepper(path: Path, facts: MasterFacts | None = None) -> Stepper:
    if path not in _films:
        _films[path] = Stepper(path, facts or inspect(path, loudness=False))
    return _films[path]


def _of_file(task: FilmLookTask, *, exact: bool = True) -> Picture:
    """The picture in a file of the film; where it lies in the packed frame if it came back in a way of its own."""
    file, rate = task.file, task.plan.picture.frame_rate.value
    at = file.time_s((task.number + Fraction(1, 4)) / rate) if file else None
    if file is None or at is None:
        raise NotFound("This file does not show this picture.", "Choose another place: only a part of the film came back.")
    stepper = _stepper(file.path)
    number = stepper.number_at(at)
    picture = stepper.picture(number) if exact else stepper.near(number)
    return laid_back(picture, file.alignment) if file.alignment else picture


def _kept(task: FilmLookTask, number: int, *, exact: bool = True) -> Picture:
    """The master's kept picture behind a packed one."""
    video = task.plan.picture
    at = source_time_s(
        index=number, in_s=task.plan.excerpt.in_s, frame_rate=video.frame_rate.value, keep_every=video.keep_every,
    )
    if task.master is None or task.facts is None:
        raise NotFound("The master is not there any more.", "Put it back, or look at the packed file alone.")
    stepper = _stepper(task.master, task.facts)
    if exact:
        return stepper.kept(at, video)
    return Treatment(task.facts.video, video, frame=False)(stepper.near(stepper.number_at(at)), 0)


def _suffers(task: FilmLookTask) -> SufferingMap:
    raster = picture_raster(task.screen, task.plan.picture.framing.value)
    stride = max(1, round(task.plan.picture.frame_rate.value * MOVED_APART_S))
    near = [number for number in (task.number - stride, task.number, task.number + stride) if 0 <= number < task.plan.picture.frames]
    masters = [luma_on(_kept(task, number), Raster.whole(*raster.size)) for number in near]
    judged = luma_on(_of_file(task), raster)
    return SufferingMap(rows=condition_map(masters, near.index(task.number), judged, map_blocks(raster.size)))
