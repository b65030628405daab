"""Keeps what comes back from child processes: one place for every message and every outcome."""

from __future__ import annotations

import time
from contextlib import suppress
from functools import singledispatchmethod

from ..core.arrival.docked import DockState
from ..core.arrival.journey import Journey
from ..core.arrival.probe import EffortProbe, HandlingProbe, UploadProbe
from ..core.arrival.probing_time import probing_seconds
from ..core.arrival.rehearsal import HandledUpload, ScaledPicture, TrialEncode
from ..core.arrival.windows import Reel
from ..core.errors import Cancelled, DockAway, NotFound, Problem
from ..core.master.facts import MasterFacts
from ..core.parcel.sending import SendingState
from ..core.values import Model
from ..processes.messages import (
    AllArrived,
    ArriveTask,
    BenchmarkTask,
    CheckTask,
    EffortProbed,
    EncodeMeasured,
    FileReturned,
    FilmTask,
    HandledMeasured,
    HandlingProbed,
    Inspected,
    InspectTask,
    Listened,
    ListenTask,
    LookedThrough,
    PackedMeasured,
    PackTask,
    ParcelPacked,
    PointReached,
    ProbesMade,
    ProbeTask,
    ReelChosen,
    RehearseTask,
    ReturnMeasured,
    ReturnTask,
    ScaledMeasured,
    SendTask,
    SentWhole,
    SoundHeard,
    SpeedMeasured,
    StripGrown,
    StripTask,
    Task,
    UploadOpened,
    UploadProbed,
)
from ..store import jobs, masters, results, returned_files, sendings, settings
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.places import Places
from ..store.results import CurvePlace
from .dispatching import queue_arrival
from .queueing import queue_checks, queue_strip

LEAST_LEARNT_S = 1.0
"""Shorter tests are mostly the start of a child, and say little of longer ones."""


class Keeper:
    """Keeps what a job says and gives back. `alone` tells whether the job had the machine to itself."""

    def __init__(self, database: Database, places: Places) -> None:
        self._database, self._places = database, places

    @singledispatchmethod
    def keep(self, message: Model, job: Job, task: Task, *, alone: bool) -> str | None:
        """Keep a message; the name of the packed file where one was made. What needs no keeping is passed over."""
        return None

    @keep.register
    def _(self, message: StripGrown, job: Job, task: StripTask, *, alone: bool) -> None:
        if self._places.strip(masters.get(self._database, job.master_id or "").strip_key) == task.folder:
            masters.set_strip(self._database, job.master_id or "", message.pictures)

    @keep.register
    def _(self, message: SoundHeard, job: Job, task: ListenTask, *, alone: bool) -> None:
        masters.keep_sound(self._database, task.facts.content_id, message.sound, None)

    @keep.register
    def _(self, message: ReelChosen, job: Job, task: FilmTask, *, alone: bool) -> None:
        key = task.journey.probe_reel_key if isinstance(task, ProbeTask) else task.journey.reel_key
        results.keep_measurement(self._database, task.facts.content_id, key, message.reel)

    @keep.register
    def _(self, message: UploadProbed, job: Job, task: ProbeTask, *, alone: bool) -> None:
        results.keep_measurement(
            self._database, task.facts.content_id, message.probe.key, message.probe, message.folder
        )

    @keep.register(EffortProbed)
    @keep.register(HandlingProbed)
    def _(self, message: EffortProbed | HandlingProbed, job: Job, task: ProbeTask, *, alone: bool) -> None:
        results.keep_measurement(self._database, task.facts.content_id, message.probe.key, message.probe)

    @keep.register
    def _(self, message: ScaledMeasured, job: Job, task: FilmTask, *, alone: bool) -> None:
        results.keep_measurement(self._database, task.facts.content_id, message.scaled.key, message.scaled)

    @keep.register
    def _(self, message: ProbesMade, job: Job, task: ProbeTask, *, alone: bool) -> None:
        """What this one took tells how long the next ones will."""
        usual, took = probing_seconds(task.journey, task.lacking), time.time() - (job.started_at or time.time())
        if usual > LEAST_LEARNT_S and took > 0 and not job.attempts:
            results.keep_probing_speed(self._database, usual / took)

    @keep.register
    def _(self, message: EncodeMeasured, job: Job, task: RehearseTask, *, alone: bool) -> None:
        encode = message.encode.model_copy(update={"alone": alone})
        results.keep_measurement(self._database, task.facts.content_id, encode.key, encode, message.folder)
        if alone:
            results.keep_speed(self._database, task.plan, encode.pictures_per_s)

    @keep.register
    def _(self, message: HandledMeasured, job: Job, task: RehearseTask, *, alone: bool) -> None:
        results.keep_measurement(
            self._database, task.facts.content_id, message.handled.key, message.handled, message.folder
        )

    @keep.register
    def _(self, message: PointReached, job: Job, task: RehearseTask, *, alone: bool) -> None:
        placement = CurvePlace(
            target_bps=message.target_bps, encode_key=message.encode_key, handled_key=message.handled_key
        )
        results.keep_point(self._database, task.facts.content_id, message.curve_key, placement)

    @keep.register
    def _(self, message: SpeedMeasured, job: Job, task: BenchmarkTask, *, alone: bool) -> None:
        results.keep_benchmark(self._database, message.codec, message.pixels_per_s)

    @keep.register
    def _(self, message: LookedThrough, job: Job, task: CheckTask, *, alone: bool) -> None:
        masters.keep_picture(self._database, task.facts.content_id, message.survey)

    @keep.register
    def _(self, message: Listened, job: Job, task: ListenTask, *, alone: bool) -> None:
        masters.keep_sound(
            self._database, task.facts.content_id, message.sound, message.loudness.model_dump(), message.levels
        )

    @keep.register
    def _(self, message: Inspected, job: Job, task: InspectTask, *, alone: bool) -> None:
        facts, master_id = message.facts, job.master_id or ""
        if not isinstance(facts, MasterFacts):
            raise TypeError("a file without a picture became a master")
        with self._database.transaction():
            master_id = masters.set_ready(self._database, master_id, facts)
            queue_strip(self._database, self._places, master_id)
            queue_checks(self._database, master_id, task.path, facts)

    @keep.register
    def _(self, message: ParcelPacked, job: Job, task: PackTask, *, alone: bool) -> str:
        receipt, plan = message.receipt, task.plan
        results.keep_receipt(
            self._database,
            job_id=job.id,
            master_id=job.master_id or "",
            parcel_id=job.parcel_id,
            plan=plan,
            receipt=receipt,
            master_name=task.facts.name,
        )
        if plan.video and not plan.copied and alone and receipt.tries == 1:
            results.keep_speed(self._database, plan, receipt.pictures / max(0.001, receipt.encode_s))
        return receipt.file_name

    @keep.register
    def _(self, message: UploadOpened, job: Job, task: SendTask, *, alone: bool) -> None:
        self._change(job, upload_url=message.url)

    @keep.register
    def _(self, message: SentWhole, job: Job, task: SendTask, *, alone: bool) -> None:
        """What is over there is waited for by a job of its own, so that the line is free for the next parcel."""
        if message.refused:
            self._change(job, state=SendingState.REFUSED, refused=message.refused)
        else:
            with self._database.transaction():
                self._change(job, state=SendingState.SENT, dock_id=message.dock_id)
                queue_arrival(self._database, self._places, job.key or "")

    @keep.register
    def _(self, message: FileReturned, job: Job, task: ArriveTask, *, alone: bool) -> None:
        sending, key = sendings.get(self._database, job.key or "")
        sendings.keep(self._database, sending.with_file(message.file), key, content_id=task.facts.content_id)

    @keep.register
    def _(self, message: PackedMeasured, job: Job, task: ArriveTask, *, alone: bool) -> None:
        self._change(job, packed=message.measure)

    @keep.register
    def _(self, message: AllArrived, job: Job, task: ArriveTask, *, alone: bool) -> None:
        states = {DockState.READY: SendingState.ARRIVED, DockState.REFUSED: SendingState.REFUSED}
        state = states.get(message.state, SendingState.FAILED)
        arrived_at = time.time() if state is SendingState.ARRIVED else None
        sending, key = sendings.get(self._database, job.key or "")
        changed = sending.model_copy(
            update={
                "state": state,
                "refused": message.refused,
                "trouble": message.trouble,
                "arrived_at": arrived_at,
            }
        )
        sendings.keep(self._database, changed, key, content_id=task.facts.content_id)

    @keep.register
    def _(self, message: ReturnMeasured, job: Job, task: ReturnTask, *, alone: bool) -> None:
        record = returned_files.get(self._database, job.key or "")
        result = record.model_copy(update={"found": message.found, "problem": None})
        returned_files.keep(self._database, result, content_id=task.facts.content_id)

    def _change(self, job: Job, **changes: object) -> None:
        sending, key = sendings.get(self._database, job.key or "")
        sendings.keep(self._database, sending.model_copy(update=changes), key, content_id="")

    def complete_sending(self, task: SendTask | ArriveTask, job: Job) -> SendTask | ArriveTask | None:
        """The task with where the docks are now and what came of it before; None where nothing is left to do: its sending is forgotten, or
        the file is over there already and whoever sent it did not live to say so.

        Raises DockAway where there are no docks.
        """
        docks = settings.docks(self._database)
        try:
            sending, _ = sendings.get(self._database, job.key or "")
        except NotFound:
            return None
        if isinstance(task, SendTask) and sending.dock_id:
            if not any(item.key == sending.id for item in jobs.open_of_kind(self._database, JobKind.ARRIVE)):
                queue_arrival(self._database, self._places, sending.id)
            return None
        if docks is None:
            raise DockAway("There are no docks to send to.", "Start the service without --no-docks.")
        if isinstance(task, SendTask):
            path = sending.upload_url.rsplit("/", 1)[-1]
            url = f"{docks.address}/uploads/{path}" if path else ""
            return task.model_copy(update={"address": docks.address, "secret": docks.secret, "upload_url": url})
        fetched = tuple(item.name for item in sending.files if (task.folder / item.file).is_file())
        return task.model_copy(
            update={
                "address": docks.address,
                "secret": docks.secret,
                "dock_id": sending.dock_id,
                "known": fetched,
                "packed_known": sending.packed is not None,
            }
        )

    def stopped(self, job: Job) -> None:
        """Keep with a sending that it was stopped."""
        if job.kind in (JobKind.SEND, JobKind.ARRIVE):
            with suppress(NotFound):
                self._change(job, state=SendingState.FAILED, trouble="It was stopped.")
        elif job.kind is JobKind.RETURNED:
            self.fail(job, Cancelled("It was stopped before it was measured.", "Bring it back again.").problem())

    def fail(self, job: Job, problem: Problem) -> None:
        """Keep with the master why it could not be read, or not be checked through."""
        if job.kind is JobKind.INSPECT:
            masters.set_unreadable(self._database, job.master_id or "", problem)
        elif job.kind in (JobKind.SEND, JobKind.ARRIVE):
            with suppress(NotFound):
                self._change(job, state=SendingState.FAILED, trouble=problem.what)
        elif job.kind is JobKind.RETURNED:
            with suppress(NotFound):
                record = returned_files.get(self._database, job.key or "")
                returned_files.keep(self._database, record.model_copy(update={"problem": problem}))
        elif job.kind in (JobKind.STRIP, JobKind.CHECK, JobKind.LISTEN):
            masters.set_problem(self._database, job.master_id or "", problem)

    def complete_probe(self, task: ProbeTask) -> ProbeTask | None:
        """The task with everything that is known already; None when nothing is missing."""
        journey = task.journey
        if results.probes(self._database, journey) or (
            task.quick and results.probes(self._database, Journey(task.plan, task.destination))
        ):
            return None
        return task.model_copy(
            update={
                "reel": results.measurement(self._database, Reel, journey.probe_reel_key),
                "scaled": results.measurement(self._database, ScaledPicture, journey.probe_treated_key),
                "upload": results.measurement(self._database, UploadProbe, journey.upload_probe_key),
                "effort": results.measurement(self._database, EffortProbe, journey.effort_key),
                "handling": results.measurement(self._database, HandlingProbe, journey.handling_probe_key),
            }
        )

    def complete(self, task: RehearseTask) -> RehearseTask | None:
        """The task with everything that is known already, so that only what is missing is measured; None when nothing is.

        What was measured but cannot be looked at any more, its files being cleared away, is made again.
        """
        journey: Journey = task.journey
        rehearsed = {
            point.target_bps
            for point in results.points(self._database, journey.curve_key)
            if self._can_be_looked_at(point)
        }
        rates = tuple(rate for rate in task.rates if rate not in rehearsed)
        scaled = results.measurement(self._database, ScaledPicture, journey.treated_key)
        perfect = (
            not journey.renditions
            or results.measurement(self._database, HandledUpload, journey.perfect_key) is not None
        )
        if journey.renditions and not task.rates:  # the perfect upload is all that is looked at
            perfect = results.folder_of(self._database, HandledUpload, journey.perfect_key) is not None
        if not rates and scaled is not None and perfect:
            return None
        options = [Journey(task.plan_at(rate), task.destination) for rate in rates]
        encodes = [results.measurement(self._database, TrialEncode, option.encode_key) for option in options]
        handled = [
            option.handled_key
            for option in options
            if results.folder_of(self._database, HandledUpload, option.handled_key)
        ]
        return task.model_copy(
            update={
                "rates": rates,
                "scaled": scaled,
                "perfect_known": perfect,
                "reel": results.measurement(self._database, Reel, journey.reel_key),
                "encodes": tuple(encode for encode in encodes if encode),
                "handled_keys": tuple(handled),
            }
        )

    def _can_be_looked_at(self, point: results.CurvePlace) -> bool:
        handled = point.handled_key is None or results.folder_of(self._database, HandledUpload, point.handled_key)
        return bool(handled and results.folder_of(self._database, TrialEncode, point.encode_key))
