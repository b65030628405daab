"""Which probes a parcel's forecast still lacks, and the job that makes them."""

from __future__ import annotations

import math

from ..core.arrival.journey import Journey
from ..core.arrival.probe import EffortProbe, HandlingProbe, UploadProbe
from ..core.arrival.probing_time import lacking, probing_seconds
from ..core.arrival.rehearsal import ScaledPicture
from ..core.trade.codecs import PROBED_QUALITIES
from ..processes.messages import ProbeTask
from ..store import jobs, results, settings
from ..store.database import Database
from ..store.jobs import Job, JobKind
from ..store.places import Places
from .now import PlannedParcel, difficulty_of


def probes_key(now: PlannedParcel) -> str | None:
    """What would be probed for a parcel; None where there is nothing to try: sound alone, a codec whose pictures are of one size, or
    the master itself where nobody encodes it again."""
    journey = now.journey
    if journey is None or journey.plan.held or journey.plan.guidance is None:
        return None
    if now.plan.copied and not now.place.placement.re_encodes:  # the master itself arrives
        return None
    return journey.probes_key if journey.plan.picture.codec.value in PROBED_QUALITIES else None


def every_key(now: PlannedParcel) -> set[str]:
    """All that may be probed for a parcel: for a first figure, and after it."""
    key, journey = probes_key(now), now.journey
    return {key, journey.quickly.probes_key} if key and journey else set()


def _takes_long(database: Database, journey: Journey) -> bool:
    """Whether a quick test brings a figure much sooner: much is to be encoded of which nothing was tested."""
    pixels = math.prod(journey.frame_size) * journey.plan.picture.frames
    return pixels >= QUICK_FROM_PIXELS and results.measurement(database, UploadProbe, journey.upload_probe_key) is None


def probing(database: Database, now: PlannedParcel) -> Job | None:
    """The job that probes for this parcel, waiting or under way; of two the one that brings its first figure."""
    key, journey = probes_key(now), now.journey
    if key is None or journey is None:
        return None
    keys = (journey.quickly.probes_key, key)
    return next(
        (job for item in keys if (job := jobs.open_like(database, JobKind.PROBE, now.master.id, key=item))), None
    )


def lacks_probes(database: Database, now: PlannedParcel, *, again: bool = False) -> bool:
    """Whether probing would tell something new, and was not tried in vain; with `again` that does not matter."""
    key, journey = probes_key(now), now.journey
    if key is None or journey is None or results.probes(database, journey):
        return False
    return again or not jobs.failed_like(database, JobKind.PROBE, key)


def _seconds(database: Database, journey: Journey) -> float:
    """How long testing what is not known of a way will take here, as the last tests did."""
    parts = lacking(
        journey,
        scaled=results.measurement(database, ScaledPicture, journey.probe_treated_key),
        upload=results.measurement(database, UploadProbe, journey.upload_probe_key),
        effort=results.measurement(database, EffortProbe, journey.effort_key),
        handling=results.measurement(database, HandlingProbe, journey.handling_probe_key),
    )
    return probing_seconds(journey, parts) / results.probing_speed(database)


def seconds_to_test(database: Database, now: PlannedParcel) -> float | None:
    """Seconds until a test would bring a first figure of a parcel, once it begins; 0 where one is known, None where there is none to
    test."""
    key, journey = probes_key(now), now.journey
    if key is None or journey is None:
        return None
    if results.probes(database, journey) or results.probes(database, journey.quickly):
        return 0.0
    return _seconds(database, journey.quickly if _takes_long(database, journey) else journey)


QUICK_FROM_PIXELS = 60e6
"""An excerpt with fewer pixels is tested so soon that a first figure before it would only delay it."""
REFINING, ALTERNATIVE, LAST = 250.0, 500.0, 1000.0
"""Ranks of what is tested after the first figure of every lane: the same more thoroughly, other ways of the lane on the open bench, then
all the rest."""


def queue_probes(
    database: Database,
    places: Places,
    now: PlannedParcel,
    *,
    first: bool = False,
    again: bool = False,
    rank: float = 0,
    way: str = "",
    asked: bool = False,
) -> Job | None:
    """Queue what a parcel's forecast lacks, `first` before all other probes; None where nothing is to be done, or where probing is off
    and it was not `asked` for. The job that is returned brings the first figure.

    `way` says in the job's title how it differs from the parcel that is kept.
    """
    journey = now.journey
    if (
        journey is None
        or not (asked or settings.load(database).probing)
        or not lacks_probes(database, now, again=again)
    ):
        return None

    def queued(*, quick: bool, rank: float) -> Job:
        plan, key = now.encoded, journey.quickly.probes_key if quick else journey.probes_key
        if waiting := jobs.open_like(database, JobKind.PROBE, now.master.id, key=key):
            return waiting
        task = ProbeTask(
            path=now.path,
            facts=now.facts,
            plan=plan,
            destination=now.place,
            folder=places.rehearsals,
            quick=quick,
            difficulty=difficulty_of(database, now.facts.content_id),
        )
        named = f"{plan.destination_name}, {way}" if way else plan.destination_name
        clips = "a first few clips" if quick else "sample clips"
        return jobs.add(
            database,
            JobKind.PROBE,
            title=f"Testing {clips} of {now.facts.name} for {named}",
            task=task,
            master_id=now.master.id,
            parcel_id=now.parcel.id,
            key=key,
            rank=rank,
            expected_s=round(_seconds(database, journey.quickly if quick else journey), 1),
        )

    refining = REFINING - 1 if first else REFINING
    if results.probes(database, journey.quickly):
        return queued(quick=False, rank=max(rank, refining))
    if rank >= ALTERNATIVE or not _takes_long(database, journey):
        result = queued(quick=False, rank=rank)
    else:
        result = queued(quick=True, rank=rank)
        queued(quick=False, rank=refining)
    if first:
        jobs.put_before(database, result)
    return result
