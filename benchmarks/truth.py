"""What really happens to a film: packed whole at several rates, handled whole, 300 of its pictures measured. Kept, as it takes long."""

from __future__ import annotations

import tempfile
from dataclasses import replace
from pathlib import Path

from hardy_parcel.core.arrival.forecast import Probes
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import PerfectUpload, Rehearsal, perfect_upload, rehearsal_of
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.values import Model
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.inspect import inspect
from hardy_parcel.processes.messages import UPLOAD_NAME
from hardy_parcel.work.probing import effort_probe, handling_probe, plan_probe_reel, upload_probe
from hardy_parcel.work.rehearse import PlannedFilm, handled_upload, plan_reel, scaled_picture, treated_reel, trial_encode

TIMES_GUIDANCE = (0.15, 0.35, 0.8, 1.5, 3.0)
"""Upload rates as multiples of the guidance's top."""
MEASURED = 300
"""Pictures of the whole film that are measured, in runs of five spread over all of it."""
SMALLER = 6
"""1080p over the films' size: screens are taken so many times smaller, and reels as short as for 1080p."""


class Truth(Model):
    """A film on one way, measured whole; `key` names what the measurement depends on."""

    key: str
    film: str
    destination_id: str
    codec: str
    perfect: PerfectUpload
    rehearsals: tuple[Rehearsal, ...]


def quiet(doing: str, share: float) -> None:
    """Nobody watches."""


def as_it_is(film: PlannedFilm) -> PlannedFilm:
    """The film standing in for no larger one."""
    return replace(film, journey=replace(film.journey, smaller=1))


def probes_of(film: PlannedFilm, *, own_reel: bool = False) -> Probes:
    """Probes on a reel as short as for the larger film that this one stands in for, or with `own_reel` on one as it is for this."""
    planner = as_it_is(film) if own_reel else film
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        reel = treated_reel(film, plan_probe_reel(planner), folder / "treated", quiet)
        scaled = scaled_picture(film, reel, quiet)
        upload = upload_probe(film, reel, folder / "uploads", quiet)
        effort = effort_probe(film, reel, scaled, upload, folder / "effort", quiet)
        handling = handling_probe(film, reel, upload, folder / "uploads", folder / "handled", quiet) if film.journey.renditions else None
    return Probes(scaled=scaled, upload=upload, effort=effort, handling=handling)


def planned(
    path: Path, destination_id: str, codec: str, bps: int | None = None, *, smaller: int = SMALLER, side: int | None = None
) -> PlannedFilm:
    """A film as it would be planned, at its own rate or at `bps`, at its own size or with a short side of `side` px."""
    place, facts = destination(destination_id), inspect(path, loudness=False)
    plan = make_plan(facts, place, Choices(method="encoded", codec=codec, video_bitrate_bps=bps, short_side_px=side))
    return PlannedFilm(master=path, facts=facts, journey=Journey(plan, place, smaller))


def rates(film: PlannedFilm) -> list[int]:
    guidance = film.journey.plan.guidance
    return [max(50_000, round(guidance.high_bps * times / 1000) * 1000) for times in TIMES_GUIDANCE]


def truth(path: Path, destination_id: str, codec: str, kept: Path) -> Truth:
    """The truth of one way, from `kept` where it was measured before."""
    film = planned(path, destination_id, codec)
    place = kept / f"{path.stem}, {destination_id}, {codec}.json"
    key = f"{film.journey.curve_key} {rates(film)}"
    if place.is_file() and (found := Truth.model_validate_json(place.read_text())).key == key:
        return found
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder, made = Path(scratch), []
        whole = plan_reel(film, whole=True).model_copy(update={"measure_all": False, "most_measured": MEASURED})
        reel = treated_reel(film, whole, folder / "treated", quiet)
        scaled = scaled_picture(film, reel, quiet)
        journey = film.journey
        perfect = handled_upload(film, reel, None, folder, journey.perfect_key, quiet) if journey.renditions else None
        for bps in rates(film):
            here = planned(path, destination_id, codec, bps)
            encode = trial_encode(here, reel, folder / UPLOAD_NAME, quiet)
            handled = None
            if journey.renditions:
                handled = handled_upload(here, reel, folder / UPLOAD_NAME, folder, here.journey.handled_key, quiet)
            made.append(rehearsal_of(here.journey, scaled, encode, handled, target_bps=bps, whole=True).model_copy(update={"moments": ()}))
    found = Truth(
        key=key, film=path.stem, destination_id=destination_id, codec=codec,
        perfect=perfect_upload(journey, scaled, perfect, whole=True), rehearsals=tuple(made),
    )
    kept.mkdir(parents=True, exist_ok=True)
    place.write_text(found.model_dump_json())
    return found
