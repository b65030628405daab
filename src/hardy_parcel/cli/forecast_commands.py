"""Commands that foretell what arrives of one film: rehearsing at one rate, forecasting at every one."""

from __future__ import annotations

import tempfile
from collections.abc import Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

import click

from ..core.arrival.curve import (
    ConditionAt,
    SurvivalCurve,
    condition_at,
    curve_rates,
    figure,
    likely_range,
    survival_curve,
    under_assumption,
    usual_rates,
)
from ..core.arrival.forecast import Forecast, probed_forecast
from ..core.arrival.journey import Journey
from ..core.arrival.marks import RateMark
from ..core.arrival.outlook import outlook
from ..core.arrival.prior import sheet_forecast
from ..core.arrival.rehearsal import Evidence, PerfectUpload, Rehearsal, Station
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadChoice, HardyParcelError, PlanHeld
from ..core.parcel.recommending import Aim, EncodeOption, Recommendation, original_of, recommend
from ..core.plan import as_it_is
from ..core.plan.plan import Plan
from ..core.plan.planning import changed, make_plan
from ..core.sheets.guidance import GuidanceUse
from ..core.trade.codecs import PROBED_QUALITIES, name_of
from ..core.values import mbps_text
from ..processes.client import in_child
from ..processes.measured import Measured
from ..processes.messages import CheckTask, LookedThrough, OnTheWay, ProbeTask, RehearseTask
from ..work.reading import read_looked_through
from .base import Asked, ProgressLine, asked_parcel, file_argument, json_option, main, plan_options, print_json

GEARS = (Evidence.SHEET.value, Evidence.PROBED.value, Evidence.REHEARSED.value)
"""How what arrives may be found out."""


class SeveralRates(click.Command):
    """A command whose --video-kbps takes as many numbers as follow it."""

    def parse_args(self, ctx: click.Context, args: list[str]) -> list[str]:
        spread: list[str] = []
        several = False
        for word in args:
            if several and word.isdigit() and spread[-1] != "--video-kbps":
                spread.append("--video-kbps")
            several = word == "--video-kbps" or (several and word.isdigit())
            spread.append(word)
        return super().parse_args(ctx, spread)


def _rehearsed(
    asked: Asked, rates: list[int], *, kept: Path | None = None, whole: bool = False, all_renditions: bool = False
) -> tuple[PerfectUpload, list[Rehearsal], Measured]:
    """Rehearsals at these rates in bit/s, and the perfect upload, made in a child, with all that it said; files stay in `kept`."""
    line, heard = ProgressLine(), Measured()

    def hear(message: OnTheWay) -> None:
        line.hear(message)
        heard.hear(message)

    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as folder:
        task = RehearseTask(
            path=asked.path,
            facts=asked.facts,
            plan=asked.plan,
            destination=asked.destination,
            choices=asked.choices,
            rates=tuple(rates),
            whole=whole,
            all_renditions=all_renditions,
            folder=kept or Path(folder),
        )
        in_child(task, hear=hear)
    line.end()
    perfect, found = heard.perfect(task.journey), heard.rehearsals(task.journey)
    if perfect is None or len(found) != len(rates):
        raise HardyParcelError("The rehearsal ended without its measurements.", "Try again.")
    return perfect, found, heard


def _probed(asked: Asked, rates: Sequence[int], heard: Measured) -> Forecast:
    """What probes made in a child foretell at these rates in bit/s and on the curve between them; of `heard` what fits is used again."""
    line = ProgressLine()

    def hear(message: OnTheWay) -> None:
        line.hear(message)
        heard.hear(message)

    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as folder:
        task = ProbeTask(
            path=asked.path, facts=asked.facts, plan=asked.plan, destination=asked.destination, folder=Path(folder)
        )
        in_child(task.model_copy(update=heard.fitting(task.journey)), hear=hear)
    line.end()
    probes = heard.probes()
    if probes is None:
        raise HardyParcelError("Probing ended without its measurements.", "Try again.")
    return probed_forecast(task.journey, probes, curve_rates(asked.plan, rates))


def _supposed(asked: Asked, rates: Sequence[int]) -> Forecast:
    """What the sheet and a look through the picture foretell, before anything is encoded."""
    line, plan = ProgressLine(), asked.plan
    looked = in_child(CheckTask(path=asked.path, facts=asked.facts), hear=line.hear)
    line.end()
    if not isinstance(looked, LookedThrough):
        raise HardyParcelError("Looking through the picture ended without its figures.", "Try again.")
    within = [one for one in looked.survey.difficulty if plan.excerpt.in_s <= one.at_s < plan.excerpt.out_s]
    return sheet_forecast(Journey(plan, asked.destination), within, curve_rates(plan, rates))


def _say_assumed(asked: Asked) -> None:
    if kind := asked.destination.placement.handling.assumed:
        click.echo(
            f"how {asked.destination.sheet_name} re-encodes is assumed, {kind}; a file that it served back would tell"
        )


def _can_be_rehearsed(plan: Plan) -> GuidanceUse:
    """The guidance of a plan with a picture that is encoded; raises for the others, and for a held one."""
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    if plan.video is None or plan.guidance is None or plan.copied:
        raise BadChoice(
            "Nothing is encoded here that could be rehearsed.", "Choose a destination for films, and let it be encoded."
        )
    return plan.guidance


def _arrivals_json(rehearsal: Rehearsal) -> list[dict[str, Any]]:
    return [a.model_dump(mode="json") for a in rehearsal.arrivals if a.station is Station.ARRIVED]


def _rehearsal_json(asked: Asked, rehearsal: Rehearsal) -> dict[str, Any]:
    return {
        "destination": asked.destination.id,
        "master": asked.facts.name,
        "video_kbps": rehearsal.target_bps / 1000,
        "achieved_kbps": round(rehearsal.achieved_bps / 1000, 1),
        "whole": rehearsal.whole,
        "handling_assumed": asked.destination.placement.handling.assumed,
        "pictures_packed": rehearsal.pictures_packed,
        "pictures_measured": rehearsal.pictures_measured,
        "pack_pictures_per_s": rehearsal.pack_pictures_per_s,
        "packed": [a.model_dump(mode="json") for a in rehearsal.arrivals if a.station is Station.PACKED],
        "arrivals": _arrivals_json(rehearsal),
        "renditions": [r.model_dump(mode="json") for r in rehearsal.renditions],
    }


def _print_arrivals(rehearsal: Rehearsal) -> None:
    for arrival in rehearsal.arrivals:
        if arrival.station is Station.SCALED or (arrival.station is Station.ARRIVED and arrival.line is None):
            continue
        line = "" if arrival.station is Station.PACKED else f"{arrival.line} line, {arrival.rendition}"
        click.echo(
            f"  {arrival.station:8} {arrival.screen:7} {arrival.condition:5.1f}  {arrival.xpsnr_db:6.2f} dB  {line}"
        )


@main.command()
@file_argument
@click.option("--video-kbps", type=click.IntRange(50, 400_000), required=True, help="Video bit rate of the upload.")
@click.option("--whole", is_flag=True, help="Use every frame of the film instead of windows.")
@plan_options
@json_option
def rehearse(file: Path, video_kbps: int, whole: bool, as_json: bool, **options: Any) -> None:
    """Pack with exactly this rate, re-encode as the platform would, and measure what arrives."""
    asked = asked_parcel(file, options, video_kbps)
    _can_be_rehearsed(asked.plan)
    rate = asked.plan.picture.target_bps.value
    _, (found,), _ = _rehearsed(asked, [rate], whole=whole, all_renditions=True)
    if as_json:
        print_json(_rehearsal_json(asked, found))
        return
    kind = "every frame" if whole else "windows"
    _say_assumed(asked)
    click.echo(
        f"{asked.facts.name} → {asked.plan.destination_name}, {mbps_text(found.target_bps)}, rehearsed on {kind}"
    )
    _print_arrivals(found)


@main.command(cls=SeveralRates)
@file_argument
@click.option(
    "--video-kbps", type=click.IntRange(50, 400_000), multiple=True, help="Upload rates to tell of, one or more."
)
@click.option(
    "--gear",
    type=click.Choice(GEARS),
    default=Evidence.PROBED.value,
    show_default=True,
    help="How it is found out: supposed from sheet and checks, from test encodes of sample clips, or by rehearsing every rate.",
)
@click.option("--all", "every", is_flag=True, help="Every codec that the destination takes, one after another.")
@plan_options
@json_option
def forecast(file: Path, video_kbps: tuple[int, ...], gear: str, every: bool, as_json: bool, **options: Any) -> None:
    """The survival curve: condition on arrival at every upload rate, how sure that is, and where more bits stop arriving."""
    asked = asked_parcel(file, options)
    _can_be_rehearsed(asked.plan)
    heard = Measured()
    told = [foretold(one, video_kbps, gear, heard) for one in (_in_every_codec(asked) if every else [asked])]
    told[0] = replace(told[0], recommended=_recommended(told))
    if as_json:
        print_json([one.document() for one in told] if every else told[0].document())
        return
    for one in told:
        one.say()


def _recommended(told: Sequence[Told]) -> Recommendation | None:
    """What we would send, of the plan itself and its other codecs; the checks are only made where the original could be it."""
    asked, place = told[0].asked, told[0].asked.destination
    ways = [
        EncodeOption(
            parcel_id=place.id,
            words=name_of(one.asked.plan.picture.codec.value),
            plan=one.asked.plan,
            forecast=one.known,
        )
        for one in told
    ]
    original = None
    if not as_it_is.against(asked.facts, place, asked.plan.excerpt) and told[0].gear != Evidence.SHEET:
        original = original_of(asked.facts, place, asked.plan, read_looked_through(asked.path)[1], asked.plan.excerpt)
    return recommend(asked.plan, ways[0], ways[1:], place, original=original, aim=Aim.SAFE)


def _in_every_codec(asked: Asked) -> list[Asked]:
    """The plan's own codec first, then every other that the destination takes and a forecast can be made for."""
    own, found = asked.plan.picture.codec.value, [asked]
    for codec in asked.destination.placement.codecs:
        if codec in PROBED_QUALITIES and codec != own:
            choices = changed(asked.facts, asked.destination, asked.choices, {"codec": codec}, asked.plan.excerpt)
            plan = make_plan(asked.facts, asked.destination, choices, asked.plan.excerpt)
            if not plan.held:
                found.append(replace(asked, choices=choices, plan=plan))
    return found


def foretold(
    asked: Asked, video_kbps: Sequence[float], gear: str, heard: Measured, *, kept: Path | None = None
) -> Told:
    """What is told of a plan in one gear at these rates, none for the usual handful; of `heard` what was probed and fits is used again,
    and what is rehearsed leaves its files in `kept`."""
    rates = sorted({round(kbps * 1000) for kbps in video_kbps} or usual_rates(asked.plan))
    rehearsals, measured = list[Rehearsal](), None
    if gear == Evidence.REHEARSED:
        perfect, rehearsals, measured = _rehearsed(asked, rates, kept=kept)
        known = outlook(rehearsals, perfect)
    else:
        known = _supposed(asked, rates) if gear == Evidence.SHEET else _probed(asked, rates, heard)
    return Told(asked=asked, gear=gear, rates=rates, known=known, rehearsals=rehearsals, measured=measured)


@dataclass(frozen=True, slots=True, kw_only=True)
class Told:
    """A forecast of one plan at some rates (bit/s), as it is printed; `measured` is all that was said while it was rehearsed."""

    asked: Asked
    gear: str
    rates: list[int]
    known: Forecast
    rehearsals: list[Rehearsal]
    measured: Measured | None = None
    recommended: Recommendation | None = None

    @property
    def curves(self) -> dict[tuple[Screen, ViewerLine], SurvivalCurve]:
        return {
            (screen, viewer): survival_curve(self.known, screen=screen, line=viewer)
            for screen in Screen
            for viewer in ViewerLine
        }

    def document(self) -> dict[str, Any]:
        """The forecast as JSON."""
        asked = self.asked
        return {
            "gear": self.gear,
            "destination": asked.destination.id,
            "master": asked.facts.name,
            "codec": asked.plan.picture.codec.value,
            "guidance": _can_be_rehearsed(asked.plan).model_dump(mode="json"),
            "points": [_point_json(asked, self.known, rate, self.rehearsals) for rate in self.rates],
            "curves": [
                {
                    "screen": screen,
                    "line": viewer,
                    **curve.model_dump(mode="json", exclude={"line", "cannot_be_told", "noticeable_step"}),
                    "drawn": curve.line,
                    "cannot_be_told_kbps": _mark_json(curve.cannot_be_told),
                    "noticeable_step_kbps": _mark_json(curve.noticeable_step),
                }
                for (screen, viewer), curve in self.curves.items()
            ],
            "recommended": self.recommended
            and {
                "option": self.recommended.option,
                "video_kbps": self.recommended.video_bps and self.recommended.video_bps / 1000,
                "because": self.recommended.because,
                "risk": self.recommended.risk,
            },
        }

    def say(self) -> None:
        """The forecast in lines."""
        asked, known = self.asked, self.known
        codec = name_of(asked.plan.picture.codec.value)
        click.echo(f"{asked.facts.name} → {asked.plan.destination_name}, {codec}, {self.gear}")
        click.echo(f"guidance {_can_be_rehearsed(asked.plan).sentence}")
        _say_assumed(asked)
        for rate in self.rates:
            used = (
                ""
                if self.gear == Evidence.SHEET
                else f", {mbps_text(known.achieved[known.rates.index(rate)])} of it used"
            )
            click.echo(f"{mbps_text(rate)}{used}")
            for screen in Screen:
                for viewer in ViewerLine:
                    at = _at(asked, known, rate, screen, viewer)
                    if told := figure(at):
                        click.echo(
                            f"  {screen:7} {viewer:4} line  {told.condition:5.1f} ±{told.band:.1f}  {told.words}, "
                            f"{told.rendition or 'as it was sent'}, {told.evidence}"
                        )
                    elif likely := likely_range(at):
                        click.echo(
                            f"  {screen:7} {viewer:4} line  not tested yet, probably {likely[0]:.0f} to {likely[1]:.0f}"
                        )
        for (screen, viewer), curve in self.curves.items():
            if viewer is ViewerLine.GOOD and curve.noticeable_step and curve.cannot_be_told:
                click.echo(
                    f"within a noticeable step of a perfect upload on a {screen}: {_mark_words(curve.noticeable_step)}"
                )
                click.echo(f"can’t be told from a perfect upload on a {screen}: {_mark_words(curve.cannot_be_told)}")
        if self.recommended:
            click.echo(
                f"recommended: {self.recommended.option}. {self.recommended.because} {self.recommended.risk}".rstrip()
            )


def _mark_words(mark: RateMark) -> str:
    low = mbps_text(mark.low_bps) if mark.low_bps else "less than is shown"
    return f"from {low} to {mbps_text(mark.high_bps) if mark.high_bps else 'more than is shown'} on"


def _mark_json(mark: RateMark | None) -> list[float | None] | None:
    """The two ends in kbit/s, null for an open one; null where nothing was tested."""
    return None if mark is None else [bps and bps / 1000 for bps in (mark.low_bps, mark.high_bps)]


def _at(asked: Asked, known: Forecast, rate: int, screen: Screen, line: ViewerLine) -> ConditionAt | None:
    return under_assumption(
        condition_at(rate, known, screen=screen, line=line), asked.destination.placement.handling.assumed
    )


def _point_json(asked: Asked, known: Forecast, rate: int, rehearsals: list[Rehearsal]) -> dict[str, Any]:
    """A point as `rehearse` prints it, every arrival with its band and its evidence."""
    place = known.rates.index(rate)
    if rehearsed := next((one for one in rehearsals if one.target_bps == rate), None):
        told = _rehearsal_json(asked, rehearsed)
        return {**told, "arrivals": [{**arrival, "band": known.bands[place]} for arrival in told["arrivals"]]}
    arrivals = [
        {
            "station": "arrived",
            "screen": view.screen,
            "line": view.line,
            "rendition": view.rendition,
            "condition": view.arrived[place] if figure(at) else None,
            "likely": likely_range(at),
            "xpsnr_db": view.arrived_db[place] if figure(at) else None,
            "evidence": known.evidence[place],
            "band": at.band,
        }
        for view in known.views
        if (at := _at(asked, known, rate, view.screen, view.line))
    ]
    packed = [
        {
            "station": "packed",
            "screen": view.screen,
            "line": None,
            "condition": view.packed[place],
            "xpsnr_db": view.packed_db[place],
        }
        for view in known.views
        if view.line is ViewerLine.GOOD
    ]
    return {
        "destination": asked.destination.id,
        "master": asked.facts.name,
        "video_kbps": rate / 1000,
        "achieved_kbps": round(known.achieved[place] / 1000, 1),
        "whole": False,
        "handling_assumed": asked.destination.placement.handling.assumed,
        "packed": packed,
        "arrivals": arrivals,
    }
