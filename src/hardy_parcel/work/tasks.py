"""What a child process can do, each from a plain task to a plain result."""

from __future__ import annotations

import time
from fractions import Fraction
from pathlib import Path
from typing import Any, Protocol

from pydantic import TypeAdapter

from ..core.arrival.rehearsal import PerfectUpload
from ..core.arrival.screens import Raster, Screen, ViewerLine, picture_raster, rendition_for
from ..core.arrival.windows import Reel
from ..core.errors import UnreadableMaster
from ..core.master.checks.combing import measured_scan
from ..core.master.checks.evidence import Difficulty, SoundSurvey
from ..core.master.facts import FileFacts, MasterFacts
from ..core.plan.choices import Choices
from ..core.plan.plan import Plan
from ..core.plan.planning import make_plan
from ..core.sheets.sheet import Destination
from ..media.handling import rendition_path
from ..media.inspect import read_file
from ..media.loudness import measure_sound
from ..media.pack import Progress
from ..media.pictures import ticks, treated
from ..media.stills import poster_strip, save, still
from ..media.survey import scan_windows, survey
from ..store.jobs import JobProgress
from .packing import pack_parcel
from .rehearse import UPLOAD_NAME, Parcel, perfect_upload, plan_reel, rehearse

FILE_FACTS: TypeAdapter[MasterFacts | FileFacts] = TypeAdapter(MasterFacts | FileFacts)


class Speaks(Protocol):
    """What a task needs of its voice."""

    def say(self, kind: str, value: Any) -> None: ...
    def progress(self, progress: JobProgress) -> None: ...


def inspect_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """A file's facts, of which one picture is decoded; with `look` the facts are sent ahead and the picture is checked.

    With `scan` a few windows are looked at, so that the facts tell whether the picture is interlaced. A file that has only sound is told about when `sound_too` is set, and refused otherwise.
    """
    path = Path(task["path"])
    facts = read_file(path, loudness=False)
    if not isinstance(facts, MasterFacts) and not task.get("sound_too"):
        raise UnreadableMaster(f"{path.name} has sound but no picture.", "Choose a file with a film in it.", code="no_picture")
    if task.get("scan") and isinstance(facts, MasterFacts):
        scan = measured_scan(scan_windows(path, facts.video, facts.duration_s)).scan
        facts = facts.model_copy(update={"measured_scan": scan})
    found: dict[str, Any] = {"facts": facts.model_dump(mode="json")}
    voice.say("facts", found["facts"])
    if task.get("look") and isinstance(facts, MasterFacts):
        found["survey"] = _looked_through(path, facts, voice)
    return found


def strip_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """The pictures of a master's poster strip; told one by one how many there are."""
    facts = MasterFacts.model_validate(task["facts"])
    look = make_plan(facts, Destination.model_validate(task["destination"]), Choices()).video
    made = 0
    for made in poster_strip(Path(task["path"]), facts, look, Path(task["strips"]) / facts.content_id):
        voice.say("strip", made)
    return {"strip_pictures": made}


def check_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """What is measured on a master's picture."""
    return {"survey": _looked_through(Path(task["path"]), MasterFacts.model_validate(task["facts"]), voice)}


def _looked_through(path: Path, facts: MasterFacts, voice: Speaks) -> dict[str, Any]:
    clock = _Clock()

    def say(share: float) -> None:
        voice.progress(JobProgress(doing="looking through the picture", share=share, left_s=clock.left(share)))

    return survey(path, facts.video, facts.duration_s, say).model_dump(mode="json")


def listen_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """What is measured on a file's sound; the envelope is sent as it grows."""
    facts = FILE_FACTS.validate_python(task["facts"])
    clock, length = _Clock(), max(0.1, float(facts.duration_s))

    def say(heard: SoundSurvey, done_s: float) -> None:
        share = min(1.0, done_s / length)
        voice.say("sound", heard.model_dump(mode="json"))
        voice.progress(JobProgress(doing="listening to the sound", share=share, left_s=clock.left(share)))

    start = facts.video.start_s if facts.video else Fraction(0)
    loudness, heard, levels = measure_sound(Path(task["path"]), start_s=start, say=say)
    return {"sound": heard.model_dump(mode="json"), "loudness": loudness.as_facts(), "levels": levels.model_dump(mode="json")}


def _parcel(task: dict[str, Any]) -> Parcel:
    return Parcel(
        master=Path(task["path"]),
        facts=MasterFacts.model_validate(task["facts"]),
        plan=Plan.model_validate(task["plan"]),
        destination=Destination.model_validate(task["destination"]),
        difficulty=tuple(Difficulty.model_validate(second) for second in task.get("difficulty", ())),
    )


class _Clock:
    """Share done to seconds left."""

    def __init__(self) -> None:
        self._began = time.monotonic()

    def left(self, share: float) -> float | None:
        gone = time.monotonic() - self._began
        return gone * (1 - share) / share if share > 0.02 and gone > 1 else None


def plan_at(parcel: Parcel, choices: Choices, rate: int) -> Plan:
    """The plan at another bit rate. A reel passes no cap, so a cap neither lowers nor holds what is only rehearsed."""
    free = choices.at_rate(rate, parcel.plan.picture.target_bps.value).model_copy(update={"max_bytes": None})
    plan = make_plan(parcel.facts, parcel.destination, free, parcel.plan.excerpt)
    return plan.model_copy(update={"stamps": tuple(stamp for stamp in plan.stamps if stamp.code != "over_cap")})


def curve_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """Rehearsals at several upload rates, each sent as soon as it is measured; on every picture with `whole`."""
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
        reel = plan_reel(parcel, whole=task.get("whole", False))
        perfect = perfect_upload(parcel, reel, say)
        voice.say("perfect", {"reel": reel.model_dump(mode="json"), "perfect": perfect.model_dump(mode="json")})
        done += 1
    for rate in rates:
        plan = plan_at(parcel, Choices.model_validate(task["choices"]), rate)
        place = folder / str(rate)
        place.mkdir(parents=True, exist_ok=True)
        at_rate = Parcel(master=parcel.master, facts=parcel.facts, plan=plan, destination=parcel.destination)
        found = rehearse(at_rate, reel, perfect, place, say, all_renditions=task.get("all_renditions", False))
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
        doing = "first pass" if progress.bytes == 0 and progress.done < progress.total // 2 else "packing"
        voice.progress(JobProgress(
            doing=f"{doing} again, to keep below the limit" if progress.again else doing,
            share=progress.done / progress.total, pictures=progress.done, of_pictures=progress.total,
            pictures_per_s=speed, left_s=(progress.total - progress.done) / speed if speed else None,
            bytes=progress.bytes,
        ))

    receipt = pack_parcel(
        parcel.master, parcel.facts, parcel.plan, folder=Path(task["folder"]), file_name=task["file_name"],
        job_id=task["job_id"], report=report, heard=SoundSurvey.model_validate(task["heard"]) if task.get("heard") else None,
    )
    return {"receipt": receipt.model_dump(mode="json")}


def look_task(task: dict[str, Any], voice: Speaks) -> dict[str, Any]:
    """One reel picture at every station, at the raster of one screen, as `<station>.png` in a folder."""
    parcel, reel = _parcel(task), Reel.model_validate(task["reel"])
    screen, line = Screen(task["screen"]), ViewerLine(task["line"])
    files, target = Path(task["rehearsal_folder"]), Path(task["folder"])
    index: int = task["index"]
    framing = parcel.plan.picture.framing.value
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


TASKS = {
    "inspect": inspect_task, "strip": strip_task, "check": check_task, "listen": listen_task, "curve": curve_task,
    "pack": pack_task, "look": look_task,
}
