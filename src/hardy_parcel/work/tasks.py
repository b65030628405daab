"""What a child process can do, each from a plain task to a plain result."""

from __future__ import annotations

import time
from pathlib import Path
from typing import Any, Protocol

from ..core.facts import MasterFacts
from ..core.plan import Choices, Plan
from ..core.planning import make_plan
from ..core.rehearsal import PerfectUpload
from ..core.screens import Raster, Screen, ViewerLine, picture_raster, rendition_for
from ..core.sheets import Destination
from ..core.windows import Reel
from ..media.handling import rendition_path
from ..media.inspect import inspect
from ..media.loudness import measure_loudness
from ..media.pack import Progress
from ..media.pictures import ticks, treated
from ..media.stills import poster_strip, save, still
from ..store.jobs import JobProgress
from .packing import pack_parcel
from .rehearse import UPLOAD_NAME, Parcel, perfect_upload, plan_reel, rehearse


class Speaks(Protocol):
    """What a task needs of its voice."""

    def say(self, kind: str, value: Any) -> None: ...
    def progress(self, progress: JobProgress) -> None: ...


def inspect_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """Facts, poster strip and loudness of one file; the facts without loudness are sent ahead."""
    path = Path(task["path"])
    facts = inspect(path, loudness=False)
    destination = Destination.model_validate(task["destination"])
    look = make_plan(facts, destination, Choices()).video
    strip = Path(task["strips"]) / facts.content_id
    pictures = poster_strip(path, facts, look, strip)
    voice.say("facts", {"facts": facts.model_dump(mode="json"), "strip_pictures": pictures})
    if facts.audio:
        sound = facts.audio.model_copy(update=measure_loudness(path).as_facts())
        facts = facts.model_copy(update={"audio": sound})
    return {"facts": facts.model_dump(mode="json"), "strip_pictures": pictures}


def _parcel(task: dict[str, Any]) -> Parcel:
    return Parcel(
        master=Path(task["path"]),
        facts=MasterFacts.model_validate(task["facts"]),
        plan=Plan.model_validate(task["plan"]),
        destination=Destination.model_validate(task["destination"]),
    )


class _Clock:
    """Share done to seconds left."""

    def __init__(self) -> None:
        self._began = time.monotonic()

    def left(self, share: float) -> float | None:
        gone = time.monotonic() - self._began
        return gone * (1 - share) / share if share > 0.02 and gone > 1 else None


def curve_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """Rehearsals at several upload rates, each sent as soon as it is measured."""
    parcel = _parcel(task)
    folder = Path(task["folder"])
    rates: list[int] = task["rates"]
    clock = _Clock()
    steps = len(rates) + (0 if task.get("perfect") else 1)
    done = 0

    def say(doing: str, share: float) -> None:
        whole = (done + share) / steps
        voice.progress(JobProgress(doing=f"{doing} ({done + 1} of {steps})", share=whole, left_s=clock.left(whole)))

    if task.get("perfect"):
        reel, perfect = Reel.model_validate(task["reel"]), PerfectUpload.model_validate(task["perfect"])
    else:
        say("choosing the moments that stand for the film", 0.0)
        reel = plan_reel(parcel, whole=False)
        perfect = perfect_upload(parcel, reel, say)
        voice.say("perfect", {"reel": reel.model_dump(mode="json"), "perfect": perfect.model_dump(mode="json")})
        done += 1
    for rate in rates:
        plan = make_plan(
            parcel.facts, parcel.destination,
            Choices.model_validate(task["choices"]).model_copy(update={"video_bitrate_bps": rate}), parcel.plan.excerpt,
        )
        place = folder / str(rate)
        place.mkdir(parents=True, exist_ok=True)
        at_rate = Parcel(master=parcel.master, facts=parcel.facts, plan=plan, destination=parcel.destination)
        found = rehearse(at_rate, reel, perfect, place, say)
        voice.say("point", {"rehearsal": found.model_dump(mode="json"), "folder": str(place)})
        done += 1
    return {"rehearsed": len(rates)}


def pack_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """One parcel packed, verified and named."""
    parcel = _parcel(task)
    began = time.monotonic()

    def report(progress: Progress) -> None:
        gone = time.monotonic() - began
        speed = progress.done / gone if gone > 0.5 else None
        voice.progress(JobProgress(
            doing="first pass" if progress.bytes == 0 and progress.done < progress.total // 2 else "packing",
            share=progress.done / progress.total, pictures=progress.done, of_pictures=progress.total,
            pictures_per_s=speed, left_s=(progress.total - progress.done) / speed if speed else None,
            bytes=progress.bytes,
        ))

    receipt = pack_parcel(
        parcel.master, parcel.facts, parcel.plan, folder=Path(task["folder"]), file_name=task["file_name"],
        job_id=task["job_id"], report=report,
    )
    return {"receipt": receipt.model_dump(mode="json")}


def look_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """One reel picture at every station, at the raster of one screen, as `<station>.png` in a folder."""
    parcel, reel = _parcel(task), Reel.model_validate(task["reel"])
    screen, line = Screen(task["screen"]), ViewerLine(task["line"])
    files, target = Path(task["rehearsal_folder"]), Path(task["folder"])
    index: int = task["index"]
    framing = parcel.plan.video.framing.value
    raster = picture_raster(screen, framing)
    target.mkdir(parents=True, exist_ok=True)
    tick = ticks(parcel.plan, reel)[index]
    master = next(iter(treated(parcel.master, parcel.facts.video, parcel.plan, [tick], frame=False)))
    save(master, target / "master.png", raster=Raster.whole(*raster.size))
    still(files / UPLOAD_NAME, index=index, frame_rate=parcel.rate, raster=raster, target=target / "packed.png")
    renditions = parcel.renditions()
    if renditions:
        served = rendition_for(screen, line, renditions)
        still(
            rendition_path(files, served), index=index // served.keep_every, frame_rate=served.frame_rate,
            raster=raster, target=target / "arrived.png",
        )
    return {"raster": raster.size}


TASKS = {"inspect": inspect_task, "curve": curve_task, "pack": pack_task, "look": look_task}
