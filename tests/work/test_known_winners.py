"""Sayings on scenes of the demo masters whose verdict is known: test encodes and the stand-in's handling for real, on a few pictures."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from benchmarks.films import scene
from benchmarks.truth import probes_of

from hardy_parcel.core.arrival.curve import curve_rates
from hardy_parcel.core.arrival.forecast import Forecast, probed_forecast
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.parcel.lane import Lane
from hardy_parcel.core.parcel.sayings import SAYINGS, Settled, sayings_here, verdict
from hardy_parcel.core.parcel.summary import summarize
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.core.sheets.sheet import Destination
from hardy_parcel.demo import gale, tide
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.work.rehearse import PlannedFilm

from ..builders import ORRERY, as_lane, parcel

PLAIN = Choices(method="encoded")


def second_of(room, path: Path) -> Path:
    """A second of a scene, small."""
    write_film(path, width=320, height=180, frame_rate=Fraction(25), sound=None, quality=8, pictures=iter(scene(room, 1)))
    return path


def settled(path: Path, place: Destination, *codes: str) -> dict[str, Settled]:
    """Verdicts on a film of sayings whose two ways lie on one curve."""
    facts = inspect(path)
    plan = make_plan(facts, place, PLAIN)
    film = PlannedFilm(master=path, facts=facts, journey=Journey(plan, place))
    here = {one.saying.code: one for one in sayings_here(facts, place, PLAIN, plan, whole_excerpt(facts))}
    probes, found = probes_of(film), {}

    def lane(choices: Choices, known: Forecast) -> Lane:
        return as_lane(summarize(
            parcel=parcel(place, choices=choices), facts=facts, destination=place, plan=make_plan(facts, place, choices), line=Line(),
            rehearsals=[], known=outlook([], None, known), speed=None,
        ))

    for code in codes:
        ways = [here[code].follows, here[code].leaves]
        rates = sorted({bps for one in ways for bps in curve_rates(make_plan(facts, place, one), [])})
        known = probed_forecast(film.journey, probes, rates)
        found[code] = verdict(SAYINGS[code][0], *(lane(one, known) for one in ways)).outcome
    return found


def asking_for(share: float, place: Destination) -> Destination:
    """The same platform, asking for a share of its bit rates."""
    rows = tuple(
        row.model_copy(update={"low_bps": round(row.low_bps * share), "high_bps": round(row.high_bps * share)})
        for row in place.placement.guidance
    )
    return place.model_copy(update={"placement": place.placement.model_copy(update={"guidance": rows})})


def test_a_simple_film_gains_nothing_by_more_bits(tmp_path: Path) -> None:
    found = settled(second_of(tide, tmp_path / "simple.mp4"), ORRERY, "double", "triple")
    assert found == {"double": Settled.NO_DIFFERENCE, "triple": Settled.NO_DIFFERENCE}


def test_a_hard_film_gains_by_more_bits_where_too_few_are_asked_for_and_not_where_enough_are(tmp_path: Path) -> None:
    hard = second_of(gale, tmp_path / "hard.mp4")
    assert settled(hard, asking_for(0.2, ORRERY), "double", "triple") == {"double": Settled.HELPS, "triple": Settled.HELPS}
    assert settled(hard, asking_for(2, ORRERY), "double") == {"double": Settled.NO_DIFFERENCE}
