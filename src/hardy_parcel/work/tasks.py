"""What a child process can do, each from a task to its outcome."""

from __future__ import annotations

import os
import time
from collections.abc import Callable
from contextlib import suppress
from fractions import Fraction
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import Any, Protocol

from ..core.arrival.docked import DockState
from ..core.arrival.journey import Journey
from ..core.arrival.receiving import Rendered, receive, refusals
from ..core.errors import BadInput, UnreadableMaster
from ..core.master.checks.combing import measured_scan
from ..core.master.checks.evidence import SoundSurvey, Survey, movement
from ..core.master.facts import MasterFacts
from ..core.plan.as_it_is import whole_picture
from ..core.plan.choices import Method
from ..core.plan.stages import READING_BACK_WORDS, judging_weight, stages
from ..core.progress import JobProgress, TimeLeft
from ..core.values import Model
from ..media.couriers import Courier, carry
from ..media.docking import render
from ..media.inspect import read_file
from ..media.loudness import measure_sound
from ..media.pack import Progress
from ..media.saliency import focus_of
from ..media.stepper import Stepper
from ..media.stills import poster_strip
from ..media.survey import scan_windows, survey
from ..processes.messages import (
    UPLOAD_NAME,
    AllArrived,
    ArriveTask,
    BenchmarkTask,
    Carried,
    CarryTask,
    CheckTask,
    Compared,
    CompareTask,
    Docked,
    DockTask,
    EffectShown,
    EffortProbed,
    EncodeMeasured,
    FactsFound,
    FileReturned,
    HandedOver,
    HandledMeasured,
    HandlingProbed,
    HandoffTask,
    Inspected,
    InspectTask,
    Listened,
    ListenTask,
    LookedThrough,
    MachineMeasured,
    Outcome,
    PackedMeasured,
    PackTask,
    ParcelPacked,
    PictureShown,
    PointReached,
    ProbesMade,
    ProbeTask,
    ReelChosen,
    RehearsalsMade,
    RehearseTask,
    RenditionMade,
    ReturnMeasured,
    ReturnTask,
    ScaledMeasured,
    SendTask,
    SentWhole,
    SoundHeard,
    SpeedMeasured,
    StepTask,
    StripGrown,
    StripMade,
    StripTask,
    UploadOpened,
    UploadProbed,
    WholeLoudness,
)
from ..store.files import give_name
from .arriving import packed_measure, returned_file
from .comparing import compare_files
from .handing import handed_over
from .packing import pack_parcel
from .probing import effort_probe, handling_probe, kept_uploads, plan_probe_reel, upload_probe, within
from .rehearse import (
    PlannedFilm,
    Say,
    TreatedReel,
    handled_upload,
    plan_reel,
    scaled_picture,
    treated_reel,
    trial_encode,
)
from .returning import returned_found
from .showing import film_look, ladder, look
from .speed import encoding_speeds


class Speaks(Protocol):
    """What a task needs of its voice; `rested_s` is how long it rested since its start (s)."""

    @property
    def rested_s(self) -> float: ...
    def say(self, message: Model) -> None: ...
    def due(self) -> bool: ...
    def progress(self, progress: JobProgress) -> None: ...


class _Clock:
    """Share done to seconds left."""

    def __init__(self) -> None:
        self._began = time.monotonic()

    def left(self, share: float) -> float | None:
        gone = time.monotonic() - self._began
        return gone * (1 - share) / share if share > 0.02 and gone > 1 else None


def inspect(task: InspectTask, voice: Speaks) -> Inspected:
    """A file's facts, of which one picture is decoded; with `look` they are sent ahead and the picture is checked.

    A file that has only sound is told about when `sound_too` is set, and refused otherwise.
    """
    facts = read_file(task.path, loudness=False)
    if not isinstance(facts, MasterFacts) and not task.sound_too:
        raise UnreadableMaster(
            f"{task.path.name} has sound but no picture.", "Choose a file with a film in it.", code="no_picture"
        )
    if task.scan and isinstance(facts, MasterFacts):
        scan = measured_scan(scan_windows(task.path, facts.video, facts.duration_s)).scan
        facts = facts.model_copy(update={"measured_scan": scan})
    if isinstance(facts, MasterFacts):
        with suppress(UnreadableMaster):  # a film that cannot be sought in has no suggestion
            facts = facts.model_copy(update={"suggested_focus": focus_of(task.path, facts)})
    voice.say(FactsFound(facts=facts))
    looked = _looked_through(task.path, facts, voice) if task.look and isinstance(facts, MasterFacts) else None
    return Inspected(facts=facts, survey=looked)


def strip(task: StripTask, voice: Speaks) -> StripMade:
    """The pictures of a master's poster strip; told one by one how many there are."""
    made = 0
    for made in poster_strip(task.path, task.facts, whole_picture(task.facts), task.folder):
        voice.say(StripGrown(pictures=made))
    return StripMade(pictures=made)


def check(task: CheckTask, voice: Speaks) -> LookedThrough:
    """What is measured on a master's picture."""
    return LookedThrough(survey=_looked_through(task.path, task.facts, voice))


def _looked_through(path: Path, facts: MasterFacts, voice: Speaks) -> Survey:
    clock = _Clock()

    def say(share: float) -> None:
        voice.progress(JobProgress(doing="looking through the picture", share=share, left_s=clock.left(share)))

    return survey(path, facts.video, facts.duration_s, say)


def listen(task: ListenTask, voice: Speaks) -> Listened:
    """What is measured on a file's sound; the envelope is sent as it grows."""
    facts = task.facts
    clock, length = _Clock(), max(0.1, float(facts.duration_s))

    def say(heard: SoundSurvey, done_s: float) -> None:
        share = min(1.0, done_s / length)
        voice.say(SoundHeard(sound=heard))
        voice.progress(JobProgress(doing="listening to the sound", share=share, left_s=clock.left(share)))

    start = facts.video.start_s if facts.video else Fraction(0)
    loudness, heard, levels = measure_sound(task.path, start_s=start, say=say)
    return Listened(sound=heard, loudness=WholeLoudness(**loudness.as_facts()), levels=levels)


def rehearse(task: RehearseTask, voice: Speaks) -> RehearsalsMade:
    """Rehearsals at several upload rates, each told as soon as it is measured; the first before the perfect upload, which can wait."""
    work = _Rehearsing(task, voice)
    reel = work.prepare()
    for rate in task.rates[:1]:
        work.point(rate, reel)
    work.perfect(reel)
    for rate in task.rates[1:]:
        work.point(rate, reel)
    return RehearsalsMade(rates=task.rates)


def probe(task: ProbeTask, voice: Speaks) -> ProbesMade:
    """Everything that a forecast of this parcel lacks, each part told as soon as it is known."""
    film = PlannedFilm(master=task.path, facts=task.facts, journey=task.journey, difficulty=task.difficulty)
    journey = film.journey
    steps = Steps(voice, PROBE_STEPS if journey.renditions else PROBE_STEPS[:-1])
    say = steps.next()
    say("choosing clips that stand for the film", 0.0)
    reel = task.reel or plan_probe_reel(film)
    if task.reel is None:
        voice.say(ReelChosen(reel=reel))
    treated_at = task.folder / "treated" / journey.probe_treated_key
    made = treated_reel(film, reel, treated_at, within(say, 0.3, 0.5))
    scaled = task.scaled
    if scaled is None:
        scaled = scaled_picture(film, made, within(say, 0.8, 0.2)).model_copy(update={"key": journey.probe_treated_key})
        voice.say(ScaledMeasured(scaled=scaled))
    say, uploads, upload = steps.next(), task.folder / "encodes" / journey.upload_probe_key, task.upload
    missing = journey.renditions and task.handling is None and not kept_uploads(uploads)
    if upload is None or missing:
        uploads.mkdir(parents=True, exist_ok=True)
        upload = upload_probe(film, made, uploads, say)
        voice.say(UploadProbed(probe=upload, folder=uploads))
    say = steps.next()
    if task.effort is None:
        with TemporaryDirectory(prefix="hardy-parcel-") as scratch:
            voice.say(EffortProbed(probe=effort_probe(film, made, scaled, upload, Path(scratch), say)))
    if journey.renditions:
        say = steps.next()
        if task.handling is None:
            with TemporaryDirectory(prefix="hardy-parcel-") as scratch:
                voice.say(HandlingProbed(probe=handling_probe(film, made, upload, uploads, Path(scratch), say)))
    return ProbesMade()


PROBE_STEPS = (0.15, 0.35, 0.15, 0.35)
"""Shares of the work: choosing and treating, trying qualities, the effort, the handling."""


class Steps:
    """Says which step of how many is under way, and how far the whole is."""

    def __init__(self, voice: Speaks, shares: tuple[float, ...]) -> None:
        self._voice, self._shares, self._number, self._clock = voice, shares, 0, _Clock()

    def next(self) -> Say:
        """How the next step tells how far it is, from 0 to 1."""
        self._number += 1
        number, count, total = self._number, len(self._shares), sum(self._shares)
        before, width = sum(self._shares[: number - 1]) / total, self._shares[number - 1] / total

        def say(doing: str, share: float) -> None:
            whole = min(1.0, before + width * share)
            self._voice.progress(
                JobProgress(doing=f"{doing} ({number} of {count})", share=whole, left_s=self._clock.left(whole))
            )

        return say


class _Rehearsing:
    """One run of rehearsals: what is known, what is made, and how far it is."""

    def __init__(self, task: RehearseTask, voice: Speaks) -> None:
        self._task, self._voice, self._clock = task, voice, _Clock()
        self._film = PlannedFilm(master=task.path, facts=task.facts, journey=task.journey, difficulty=task.difficulty)
        self._encodes = {encode.key: encode for encode in task.encodes}
        self._handled = set(task.handled_keys)
        self._done, self._steps = 0, 2 + len(task.rates)

    def _say(self, doing: str, share: float) -> None:
        whole = min(1.0, (self._done + share) / self._steps)
        said = f"{doing} ({min(self._steps, self._done + 1)} of {self._steps})"
        self._voice.progress(JobProgress(doing=said, share=whole, left_s=self._clock.left(whole)))

    def prepare(self) -> TreatedReel:
        """The reel and its scaled picture: what all points of a curve share."""
        task, film = self._task, self._film
        self._say("choosing the moments that stand for the film", 0.0)
        reel = task.reel or plan_reel(film, whole=task.whole)
        if task.reel is None:
            self._voice.say(ReelChosen(reel=reel))
        folder = task.folder / "treated" / film.journey.treated_key
        made_reel = treated_reel(film, reel, folder, lambda doing, share: self._say(doing, 0.7 * share))
        if task.scaled is None:
            self._voice.say(
                ScaledMeasured(
                    scaled=scaled_picture(film, made_reel, lambda doing, share: self._say(doing, 0.7 + 0.3 * share))
                )
            )
        self._done += 1
        return made_reel

    def perfect(self, reel: TreatedReel) -> None:
        """What arrives of a perfect upload: the highest that any rate can reach."""
        film = self._film
        if not self._task.perfect_known and film.journey.renditions:
            place = self._folder("perfect", film.journey.perfect_key)
            handled = handled_upload(
                film, reel, None, place, film.journey.perfect_key, self._say, all_renditions=self._task.all_renditions
            )
            self._voice.say(HandledMeasured(handled=handled, folder=place))
        self._done += 1

    def point(self, rate: int, reel: TreatedReel) -> None:
        """One upload rate: packed, handled, measured."""
        task = self._task
        plan = task.plan_at(rate)
        journey = Journey(plan, task.destination)
        film = PlannedFilm(master=task.path, facts=task.facts, journey=journey)
        upload = self._folder("encodes", journey.encode_key) / UPLOAD_NAME
        if journey.encode_key not in self._encodes or not upload.is_file():
            made = trial_encode(film, reel, upload, lambda doing, share: self._say(doing, share * 0.6))
            self._encodes[made.key] = made
            self._voice.say(EncodeMeasured(encode=made, folder=upload.parent))
        handled_key = journey.handled_key if journey.renditions else None
        if handled_key and handled_key not in self._handled:
            place = self._folder("handled", handled_key)
            handled = handled_upload(
                film,
                reel,
                upload,
                place,
                handled_key,
                lambda doing, share: self._say(doing, 0.6 + 0.4 * share),
                all_renditions=task.all_renditions,
            )
            self._handled.add(handled_key)
            self._voice.say(HandledMeasured(handled=handled, folder=place))
        self._voice.say(
            PointReached(
                curve_key=task.journey.curve_key,
                target_bps=plan.picture.target_bps.value,
                encode_key=journey.encode_key,
                handled_key=handled_key,
            )
        )
        self._done += 1

    def _folder(self, kind: str, key: str) -> Path:
        place = self._task.folder / kind / key
        place.mkdir(parents=True, exist_ok=True)
        return place


def pack(task: PackTask, voice: Speaks) -> ParcelPacked:
    """One parcel packed, verified and named."""
    receipt = pack_parcel(
        task.path,
        task.facts,
        task.plan,
        folder=task.folder,
        file_name=task.file_name,
        job_id=task.job_id,
        drive=task.drive,
        report=_Packing(task, voice).say,
        heard=task.heard,
        serves=task.serves,
        numbered=task.numbered,
        noted=task.noted,
    )
    return ParcelPacked(
        receipt=receipt.model_copy(update={"encode_s": round(max(0.0, receipt.encode_s - voice.rested_s), 3)})
    )


class _Packing:
    """Tells how far a packing is: its pass, its pictures, its speed, and how long it still takes without its rests."""

    def __init__(self, task: PackTask, voice: Speaks) -> None:
        self._task, self._voice, self._again = task, voice, -1
        self._stages = stages(task.plan)
        excerpt = task.plan.excerpt
        self._movement = movement(task.difficulty, float(excerpt.in_s), float(excerpt.out_s))
        self._stage = -1
        self._judging_s: float | None = None
        self._back = next((one.weight, one.aside_s) for one in self._stages if one.words == READING_BACK_WORDS)
        self._began = self._now()

    def _now(self) -> float:
        return time.monotonic() - self._voice.rested_s

    def say(self, progress: Progress) -> None:
        plan, now = self._task.plan, self._now()
        words = [one.words for one in self._stages]
        back = words.index(READING_BACK_WORDS)
        after = progress.reading_back or progress.judging
        if progress.again != self._again and not after:
            self._again, self._stage = progress.again, -1
            self._left = TimeLeft(
                [one.weight for one in self._stages],
                alike=[one.alike for one in self._stages],
                aside_s=[one.aside_s for one in self._stages],
                once=[one.once for one in self._stages],
                movement=self._movement,
                tried=[one.tried for one in self._stages],
                drawn=[one.drawn for one in self._stages],
            )
        if progress.judging_s is not None:
            self._judging_s = progress.judging_s
        if progress.tried:
            if progress.tried.first_pass:
                self._left.weighed(0, progress.tried.first_pass)
            self._left.weighed(back, progress.tried.reading_back)
            self._left.takes(back, 0.0)
            self._back = progress.tried.reading_back, 0.0
        if self._judging_s is not None:
            found = judging_weight(plan)
            self._left.weighed(len(words) - 1, found * self._back[0])
            self._left.takes(len(words) - 1, self._judging_s + found * self._back[1])
        if progress.tried or progress.judging_s is not None or not self._voice.due():
            return
        of = progress.total if after else max(1, progress.total // back)
        stage = len(words) - 1 if progress.judging else back if after else min(back - 1, progress.done // of)
        done = progress.done if after else progress.done - stage * of
        if stage != self._stage:
            self._stage, self._began = stage, now
        part = min(1.0, done / of)
        share, left = self._left.at(stage, part, now)
        pictures = (
            plan.video is not None and not progress.judging and (after or plan.method.value is not Method.UNTOUCHED)
        )
        gone = now - self._began
        self._voice.progress(
            JobProgress(
                doing=f"{words[stage]}, again to keep below the limit" if self._again > 0 else words[stage],
                share=share,
                left_s=left,
                pictures=done if pictures else None,
                of_pictures=of if pictures else None,
                pictures_per_s=done / gone if pictures and gone > 0.5 else None,
                bytes=progress.bytes,
                of_bytes=self._task.expected_bytes,
                at_s=float(plan.excerpt.in_s) + part * float(plan.excerpt.duration_s),
            )
        )


_open: dict[tuple[str, str], Stepper] = {}
"""The one film that this child steps through."""


def step(task: StepTask, voice: Speaks) -> PictureShown | EffectShown:
    """One picture of a master, which stays open for the next wish."""
    key = os.fspath(task.path), task.facts.content_id
    if key not in _open:
        _open.clear()
        _open[key] = Stepper(task.path, task.facts)
    stepper = _open[key]
    stepper.read_as(task.facts)
    if task.framed:
        return PictureShown(at_s=0.0, exact=True, **stepper.packed_picture(task.number, task.framed))
    if task.effect:
        return EffectShown(**stepper.effect(task.number, task.effect))
    return PictureShown(**stepper.show(task.number, exact=task.exact))


def benchmark(task: BenchmarkTask, voice: Speaks) -> MachineMeasured:
    """Every codec that may be planned encodes the same moving picture; each is told as soon as it is known."""

    def say(doing: str, share: float) -> None:
        voice.progress(JobProgress(doing=doing, share=share))

    for codec, pixels_per_s in encoding_speeds(task.width, task.height, task.pictures, say):
        voice.say(SpeedMeasured(codec=codec, pixels_per_s=pixels_per_s))
    return MachineMeasured()


def compare(task: CompareTask, voice: Speaks) -> Compared:
    """One file judged beside another."""
    clock = _Clock()

    def say(share: float) -> None:
        voice.progress(JobProgress(doing="comparing on the viewers' screens", share=share, left_s=clock.left(share)))

    pictures, judged = compare_files(task.reference, task.path, say)
    return Compared(pictures=pictures, judged=judged)


def handoff(task: HandoffTask, voice: Speaks) -> HandedOver:
    """What became of a file that came back."""
    clock = _Clock()

    def say(share: float) -> None:
        voice.progress(JobProgress(doing="holding it against what was packed", share=share, left_s=clock.left(share)))

    return HandedOver(found=handed_over(task.path, task.known, say))


def carry_file(task: CarryTask, voice: Speaks) -> Carried:
    """A file brought by a courier; nothing half-brought is left."""

    def say(share: float) -> None:
        voice.progress(JobProgress(doing=f"on its way by {task.courier.capitalize()}", share=share))

    partial = task.target.with_name(f".{task.target.name}.partial")
    try:
        kept = carry(task.path, Courier(task.courier), partial, say)
        give_name(partial, task.target)
    finally:
        partial.unlink(missing_ok=True)
    return Carried(kept=kept)


def dock(task: DockTask, voice: Speaks) -> Docked:
    """A file taken or refused by a stand-in, and what its viewers get, told one by one."""
    facts = read_file(task.path)
    if refused := refusals(facts, task.destination, used_bytes=task.used_bytes):
        return Docked(refused=refused)

    def say(doing: str, share: float) -> None:
        voice.progress(JobProgress(doing=doing, share=share))

    received, made = receive(facts, task.destination), list[Rendered]()
    for rendered in render(task.path, facts, received, task.folder, say=say):
        made.append(rendered)
        voice.say(RenditionMade(rendered=rendered))
    return Docked(received=received, rendered=tuple(made))


def send_file(task: SendTask, voice: Speaks) -> SentWhole:
    """A packed file sent to its dock over a line; a line that is cut is taken up again."""
    from .uplink import send  # here, since no other work needs its libraries, which take half a second

    size, clock = task.path.stat().st_size if task.path.exists() else 0, _Clock()
    begun: list[int] = []

    def said(there: int, doing: str) -> None:
        begun.append(there) if there >= 0 and not begun else None
        share = max(there, begun[0] if begun else 0) / max(1, size)
        fresh = (max(0, there) - begun[0]) / max(1, size - begun[0]) if begun else 0.0
        voice.progress(
            JobProgress(doing=doing, share=share, left_s=clock.left(fresh), bytes=max(0, there), of_bytes=size)
        )

    try:
        return SentWhole(dock_id=send(task, lambda url: voice.say(UploadOpened(url=url)), said))
    except BadInput as error:
        if error.code != "dock_refused":
            raise
        return SentWhole(refused=(error.what,))


def arrive(task: ArriveTask, voice: Speaks) -> AllArrived:
    """Everything that a dock serves of a parcel, fetched and measured as it comes; waits for what is still being made."""
    from .uplink import DockLink, ask, fetch

    docks = DockLink(task.address, task.secret)
    docks.check()
    known, packed = set(task.known), task.packed_known
    task.folder.mkdir(parents=True, exist_ok=True)

    def say(doing: str, share: float) -> None:
        voice.progress(JobProgress(doing=doing, share=share))

    while True:
        there = ask(docks, task.dock_id)
        fresh = [one for one in there.offered if one.name not in known]
        for one in fresh:
            path = task.folder / Path(one.file).name
            fetch(docks, task.dock_id, one, path, lambda share, name=one.name: say(f"fetching {name}", share))  # type: ignore[misc]
            voice.say(FileReturned(file=returned_file(task, one, path, say)))
            known.add(one.name)
        if not fresh and there.settled:
            if not packed and there.offered and task.plan.video:
                voice.say(PackedMeasured(measure=packed_measure(task, say)))
            return AllArrived(state=there.state, refused=there.refused, trouble=there.trouble)
        if not fresh:
            doing = there.doing or ("waiting for its turn there" if there.state is DockState.WAITING else "on its way")
            say(f"at the dock: {doing}", there.share)
            time.sleep(DOCK_ASKED_S)


def measure_returned(task: ReturnTask, voice: Speaks) -> ReturnMeasured:
    """A file that a platform served, laid over the packed one and measured."""
    clock = _Clock()

    def say(doing: str, share: float) -> None:
        voice.progress(JobProgress(doing=doing, share=share, left_s=clock.left(share)))

    return ReturnMeasured(found=returned_found(task, say))


DOCK_ASKED_S = 0.5
"""How often a dock is asked whether there is more."""

TASKS: dict[str, Callable[[Any, Any], Outcome]] = {
    "inspect": inspect,
    "strip": strip,
    "check": check,
    "listen": listen,
    "benchmark": benchmark,
    "probe": probe,
    "rehearse": rehearse,
    "pack": pack,
    "look": look,
    "ladder": ladder,
    "film_look": film_look,
    "step": step,
    "compare": compare,
    "handoff": handoff,
    "carry": carry_file,
    "dock": dock,
    "send": send_file,
    "arrive": arrive,
    "returned": measure_returned,
}
