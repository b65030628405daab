"""What two returned files teach.  python -m benchmarks.learning [destination ...]

The handling of each stand-in is altered behind the program's back. Two made films are packed, sent through the altered handling, and what
comes back of their best is learnt from; then a third film is forecast with the sheet as it was and as it was corrected, and both are held
against what the altered handling really makes of it, on every screen and line.
"""

from __future__ import annotations

import random
import statistics
import sys
import tempfile
import time
from fractions import Fraction
from pathlib import Path

from hardy_parcel.core.arrival.curve import condition_at
from hardy_parcel.core.arrival.forecast import probed_forecast
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.learning import correct
from hardy_parcel.core.arrival.receiving import receive
from hardy_parcel.core.arrival.rehearsal import Station, find, rehearsal_of
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Destination, Handling, HandlingTier, Sheet, destination_at
from hardy_parcel.core.values import mbps_text
from hardy_parcel.demo import aurora, gale, tide
from hardy_parcel.docks.shipped import shipped_destinations, shipped_sheets
from hardy_parcel.media.docking import render
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect, read_file
from hardy_parcel.processes.messages import UPLOAD_NAME, ReturnTask
from hardy_parcel.work.packing import pack_parcel
from hardy_parcel.work.rehearse import PlannedFilm, handled_upload, plan_reel, scaled_picture, treated_reel, trial_encode
from hardy_parcel.work.returning import returned_found

from .films import grainy, scene
from .truth import probes_of, quiet

SIZE, SECONDS = (1280, 720), 3.0


def films(folder: Path) -> list[Path]:
    """Two films to learn from and one to forecast, of different natures."""
    made = {
        "gale": scene(gale, SECONDS, SIZE), "aurora": scene(aurora, SECONDS, SIZE),
        "third": [*scene(tide, SECONDS / 2, SIZE), *grainy(iter(scene(gale, SECONDS / 2, SIZE)), 3.0, 5)],
    }
    paths = []
    for name, pictures in made.items():
        paths.append(folder / f"{name}.mp4")
        write_film(paths[-1], width=SIZE[0], height=SIZE[1], frame_rate=Fraction(25), pictures=iter(pictures), sound=None, quality=14)
    return paths


def altered(handling: Handling, dice: random.Random) -> Handling:
    """Another quality and other ceilings than the sheet says; a ladder where it says that there is none."""
    if not handling.tiers:
        other = next(place.placement.handling for key, place in shipped_destinations().items() if key == "orrery-wide")
        handling = handling.model_copy(update={"tiers": other.tiers[:1]})
    by, times = dice.choice((-5, 5, 8)), dice.choice((0.4, 0.6, 1.8))
    return handling.model_copy(update={"tiers": tuple(
        HandlingTier(name=tier.name, up_to_short_side_px=tier.up_to_short_side_px, renditions=tuple(
            rule.model_copy(update={
                "quality": rule.quality + by, "ceiling_standard_bps": round(rule.ceiling_standard_bps * times),
                "ceiling_high_bps": round(rule.ceiling_high_bps * times),
            })
            for rule in tier.renditions
        ))
        for tier in handling.tiers
    )})


def with_handling(sheet: Sheet, place: Destination, handling: Handling) -> Destination:
    """The destination as it would be with another handling."""
    changed = place.placement.model_copy(update={"handling": handling})
    return destination_at(sheet, changed)


def told(path: Path, place: Destination, other: Destination) -> dict[tuple[Screen, ViewerLine], float]:
    """What is forecast of a film planned for `place` where its sheet says what `other` does."""
    facts = inspect(path, loudness=False)
    plan = make_plan(facts, place, Choices(method="encoded"))
    film = PlannedFilm(master=path, facts=facts, journey=Journey(plan, other))
    rate = plan.picture.target_bps.value
    known = probed_forecast(film.journey, probes_of(film), [round(rate * 0.5), rate, round(rate * 1.5)])
    found = {(s, line): condition_at(rate, known, screen=s, line=line) for s in Screen for line in ViewerLine}
    return {key: at.condition for key, at in found.items() if at}


def true(path: Path, place: Destination, other: Destination, folder: Path) -> dict[tuple[Screen, ViewerLine], float]:
    """What really arrives of it there."""
    facts = inspect(path, loudness=False)
    plan = make_plan(facts, place, Choices(method="encoded"))
    film = PlannedFilm(master=path, facts=facts, journey=Journey(plan, other))
    reel = treated_reel(film, plan_reel(film, whole=True).model_copy(update={"measure_all": False}), folder / "treated", quiet)
    scaled = scaled_picture(film, reel, quiet)
    encode = trial_encode(film, reel, folder / UPLOAD_NAME, quiet)
    handled = handled_upload(film, reel, folder / UPLOAD_NAME, folder, film.journey.handled_key, quiet) if film.journey.renditions else None
    made = rehearsal_of(film.journey, scaled, encode, handled, target_bps=plan.picture.target_bps.value, whole=True)
    found = {(s, line): find(made.arrivals, Station.ARRIVED, s, line) for s in Screen for line in ViewerLine}
    return {key: one.condition for key, one in found.items() if one}


def returned(path: Path, place: Destination, other: Destination, folder: Path):
    """What is observed of the best that the altered platform serves of a film."""
    facts = inspect(path, loudness=False)
    plan = make_plan(facts, place, Choices(method="encoded"))
    name = f"{path.stem}-packed.mp4"
    receipt = pack_parcel(path, facts, plan, folder=folder, file_name=name, job_id=path.stem, report=lambda progress: None)
    packed = folder / receipt.file_name
    out = folder / f"{path.stem}-served"
    out.mkdir()
    packed_facts = read_file(packed)
    best = list(render(packed, packed_facts, receive(packed_facts, other), out))[-1]
    task = ReturnTask(
        path=path, facts=facts, plan=plan, destination=place, packed=packed, path_returned=best.path, file_name=path.name, best=True,
    )
    return returned_found(task, quiet).observation


def main() -> None:
    wanted = sys.argv[1:]
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        made = films(Path(scratch))
        print("mean error of the third film's forecast (points), by how many files were learnt from")
        print(f"{'destination':22} {'none':>7} {'one':>7} {'two':>7}")
        for number, sheet in enumerate(shipped_sheets()):
            for key, place in shipped_destinations().items():
                if place.sheet_id != sheet.id or not place.placement.picture or (wanted and key not in wanted):
                    continue
                began = time.monotonic()
                folder = Path(scratch) / key
                folder.mkdir()
                other = with_handling(sheet, place, altered(place.placement.handling, random.Random(number)))
                seen = [(path.name, returned(path, place, other, folder)) for path in made[:2]]
                there = true(made[2], place, other, folder)
                errors = []
                for count in range(3):
                    now = place if count == 0 else with_handling(
                        sheet, place, next(
                            one.handling for one in correct(sheet, place, seen[:count]).sheet.placements if one.id == place.placement.id
                        ),
                    )
                    forecast = told(made[2], place, now)
                    errors.append(statistics.fmean(abs(forecast[key_] - value) for key_, value in there.items() if key_ in forecast))
                print(f"{key:22} {errors[0]:7.1f} {errors[1]:7.1f} {errors[2]:7.1f}   {time.monotonic() - began:.0f} s", flush=True)
                for change in correct(sheet, place, seen).changes:
                    print(f"    {change.what}: {change.was} -> {change.becomes}")
                for rule in other.placement.handling.tiers[0].renditions:
                    ceiling = mbps_text(rule.ceiling_standard_bps)
                    print(f"    true: {rule.short_side_px}p {rule.codec} quality {rule.quality}, up to {ceiling}")


if __name__ == "__main__":
    main()
