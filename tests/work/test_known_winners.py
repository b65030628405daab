"""Sayings on scenes of the demo masters whose verdict is known: test encodes and the stand-in's handling for real, on a few pictures."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

from benchmarks.films import scene
from benchmarks.truth import planned, probes_of

from hardy_parcel.core.arrival.curve import curve_rates
from hardy_parcel.core.arrival.forecast import Forecast, probed_forecast
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.parcel.lane import Lane
from hardy_parcel.core.parcel.sayings import SAYINGS, Settled, sayings_here, verdict
from hardy_parcel.core.parcel.summary import summarize
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.demo import tide
from hardy_parcel.media.film import write_film

from ..builders import as_lane, parcel

PLAIN = Choices(method="encoded")


def settled(room, destination_id: str, codes: tuple[str, ...], path: Path) -> dict[str, Settled]:
    """Verdicts on two seconds of a scene, small, of sayings whose two ways lie on one curve."""
    write_film(path, width=320, height=180, frame_rate=Fraction(25), sound=None, quality=8, pictures=iter(scene(room, 2)))
    film = planned(path, destination_id, "h264", smaller=1)
    facts, place = film.facts, film.journey.destination
    here = {one.saying.code: one for one in sayings_here(facts, place, PLAIN, film.journey.plan, whole_excerpt(facts))}
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


def test_a_simple_film_gains_nothing_by_more_bits(tmp_path: Path) -> None:
    found = settled(tide, "orrery-wide", ("double", "triple"), tmp_path / "simple.mp4")
    assert found == {"double": Settled.NO_DIFFERENCE, "triple": Settled.NO_DIFFERENCE}
