"""Pictures for the eye: one picture at every station of its way, and one crop of it at several upload rates."""

from __future__ import annotations

from ..core.arrival.ladder_of_rates import CROP
from ..core.arrival.screens import Raster, picture_raster, rendition_for
from ..core.arrival.ticks import Tick, ticks
from ..core.errors import NotFound
from ..media.crops import MasterCrop, crop_around, luma_on, suffers_most
from ..media.handling import rendition_path
from ..media.measure import MOVED_APART_S
from ..media.pictures import Picture, own_picture, treated
from ..media.stills import save
from ..processes.messages import CropSeen, LadderMade, LadderTask, LookTask, PicturesMade, RehearsedFiles


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


def _beside(task: LadderTask) -> tuple[list[Tick], int]:
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
