"""The command that compares destinations in a report."""

from __future__ import annotations

import tempfile
from pathlib import Path
from typing import Any

import click

from ..core.arrival.outlook import outlook
from ..core.arrival.rehearsal import Rehearsal
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadInput, FolderUnusable
from ..core.parcel.lane import lane
from ..core.parcel.parcel import Parcel
from ..core.parcel.summary import figures_of, seen_of, stamps_in_the_light_of
from ..core.plan.carrying import Line
from ..core.plan.naming import portable_stem
from ..core.plan.planning import make_plan
from ..processes.client import in_child
from ..processes.measured import Measured
from ..processes.messages import LookTask
from ..report.illustrations import pictures_in
from ..report.report import ReportLane, ReportPicture, make_report, report_lane
from .base import Asked, asked_parcel, file_argument, how_options, main
from .forecast_commands import GEARS, Told, foretold

NOTHING = outlook([], None)


@main.command()
@file_argument
@click.option("--to", "destination_ids", required=True, multiple=True, metavar="DEST", help="A destination; may be repeated.")
@click.option("--out", "folder", type=click.Path(path_type=Path), required=True, help="The folder that the report is written to.")
@click.option("--gear", type=click.Choice(GEARS), default=GEARS[1], show_default=True, help="How what arrives is found out.")
@how_options
def report(file: Path, destination_ids: tuple[str, ...], folder: Path, gear: str, **options: Any) -> None:
    """Compare destinations: one HTML page that prints well, one CSV and one JSON file."""
    from ..report.writing import write_report  # here, since all other commands would wait for what makes pages

    if folder.exists() and not folder.is_dir():
        raise BadInput(f"{folder} is a file.", "Name a folder.", code="bad_setting")
    heard, lanes, asked = Measured(), list[ReportLane](), list[Asked]()
    for name in dict.fromkeys(destination_ids):
        asked.append(asked_parcel(file, {**options, "destination_id": name}))
        lanes.append(_lane(asked[-1], gear, heard))
    made = make_report(asked[0].facts, asked[0].plan, lanes)
    try:
        paths = write_report(made, folder, portable_stem(f"{Path(asked[0].facts.name).stem} - what arrives where"))
    except OSError as error:
        raise FolderUnusable(f"The report could not be written to {folder}.", "Choose another folder.") from error
    for screen, sentence in made.sentences:
        if screen == "laptop":
            click.echo(sentence)
    for path in paths:
        click.echo(path)


def _lane(asked: Asked, gear: str, heard: Measured) -> ReportLane:
    """A lane of a film that is not on any shelf; what cannot be tried is told without what arrives."""
    plan, place = asked.plan, asked.destination
    known, rehearsals, pictures = NOTHING, list[Rehearsal](), list[ReportPicture]()
    if plan.video and plan.guidance and not plan.copied and not plan.held:
        with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as folder:
            told = foretold(asked, (plan.picture.target_bps.value / 1000,), gear, heard, kept=Path(folder))
            known, rehearsals = told.known, told.rehearsals
            pictures = _pictures(told, Path(folder))
    seen = seen_of(plan, place, known)
    active = asked.facts.active
    return report_lane(
        lane(
            parcel=Parcel(id=place.id, master_id="", destination_id=place.id, excerpt=plan.excerpt, choices=asked.choices),
            destination=place, plan=plan, seen=seen, stamps=stamps_in_the_light_of(plan, seen), active_size=(active.width, active.height),
            figures=figures_of(plan, line=Line(), known=known, rehearsals=rehearsals, speed=None),
        ),
        destination=place, plan=plan, seen=seen, ours=make_plan(asked.facts, place, asked.choices.only_framing(), plan.excerpt),
        pictures=pictures,
    )


def _pictures(told: Told, folder: Path) -> list[ReportPicture]:
    """The worst measured moment of a rehearsal at every station; none of what was not rehearsed."""
    asked, rehearsal = told.asked, next(iter(told.rehearsals), None)
    files = told.measured.files(rehearsal.target_bps) if told.measured and rehearsal else None
    if rehearsal is None or files is None or not rehearsal.moments:
        return []
    worst = min(rehearsal.moments, key=lambda moment: moment.arrived)
    in_child(LookTask(
        path=asked.path, facts=asked.facts, plan=asked.plan, destination=asked.destination, reel=files[0], files=files[1],
        index=worst.reel_index, screen=Screen.LAPTOP, line=ViewerLine.GOOD, folder=folder / "looks",
    ))
    return pictures_in(folder / "looks", worst.master_s)
