"""Commands about one film: its facts, rehearsing, forecasting, packing."""

from __future__ import annotations

import tempfile
import uuid
from pathlib import Path
from typing import Any

import click

from ..core.arrival.curve import survival_curve, usual_rates
from ..core.arrival.rehearsal import PerfectUpload, Rehearsal, Station
from ..core.arrival.screens import Screen, ViewerLine
from ..core.errors import BadChoice, HardyParcelError, NameTaken, PlanHeld
from ..core.master.checks.stamping import CheckStamp
from ..core.master.facts import FileFacts
from ..core.parcel.receipt import Receipt
from ..core.plan.naming import file_stem
from ..core.plan.packing_slip import packing_slip
from ..core.plan.plan import Plan
from ..core.sheets.guidance import GuidanceUse
from ..core.stamps import Outcome
from ..core.values import mbps_text, rate_text, seconds_text, size_text
from ..processes.client import in_child
from ..processes.measured import Measured
from ..processes.messages import Compared, CompareTask, OnTheWay, PackTask, ParcelPacked, RehearseTask
from ..work.packing import choose_name
from ..work.reading import read_checked, read_facts
from .base import Asked, ProgressLine, asked_parcel, file_argument, json_option, main, plan_options, print_json, with_picture


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
    asked: Asked, rates: list[int], *, whole: bool = False, all_renditions: bool = False
) -> tuple[PerfectUpload, list[Rehearsal]]:
    """Rehearsals at these rates in bit/s, and the perfect upload, made in a child."""
    line, heard = ProgressLine(), Measured()

    def hear(message: OnTheWay) -> None:
        line.hear(message)
        heard.hear(message)

    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as folder:
        task = RehearseTask(
            path=asked.path, facts=asked.facts, plan=asked.plan, destination=asked.destination, choices=asked.choices, rates=tuple(rates),
            whole=whole, all_renditions=all_renditions, folder=Path(folder),
        )
        in_child(task, hear=hear)
    line.end()
    perfect, found = heard.perfect(task.journey), heard.rehearsals(task.journey)
    if perfect is None or len(found) != len(rates):
        raise HardyParcelError("The rehearsal ended without its measurements.", "Try again.")
    return perfect, found


@main.command()
@file_argument
@click.option("--checks", is_flag=True, help="Look through picture and sound as well, and find trouble.")
@click.option("--header", is_flag=True, help="Only what the header says, at once.")
@json_option
def inspect(file: Path, checks: bool, header: bool, as_json: bool) -> None:
    """Show the facts of a master, and with --checks what is the matter with it."""
    line = ProgressLine()
    stamps: tuple[CheckStamp, ...] = ()
    facts: FileFacts
    if checks:
        facts, _, stamps = read_checked(file, line.say)
    else:
        facts = with_picture(read_facts(file, loudness=not header, say=line.say))
    line.end()
    if as_json:
        told = facts.model_dump(mode="json")
        print_json({**told, "stamps": [stamp.model_dump(mode="json") for stamp in stamps]} if checks else told)
        return
    _print_facts(facts)
    for stamp in stamps:
        if stamp.outcome is not Outcome.CLEARED:
            at = f" at {seconds_text(stamp.at_s)}" if stamp.at_s else ""
            click.echo(f"{stamp.outcome}: {stamp.matter}{at}: {stamp.seen}. {stamp.why}")
    if checks:
        cleared = [stamp.code for stamp in stamps if stamp.outcome is Outcome.CLEARED]
        click.echo(f"cleared: {', '.join(cleared)}")


def _say_assumed(asked: Asked) -> None:
    if kind := asked.destination.placement.handling.assumed:
        click.echo(f"how {asked.destination.sheet_name} re-encodes is assumed, {kind}; a file that it served back would tell")


def _can_be_rehearsed(plan: Plan) -> GuidanceUse:
    """The guidance of a plan with a picture that is encoded; raises for the others, and for a held one."""
    if plan.held:
        raise PlanHeld(plan.held[0].sentence)
    if plan.video is None or plan.guidance is None or plan.copied:
        raise BadChoice("Nothing is encoded here that could be rehearsed.", "Choose a destination for films, and let it be encoded.")
    return plan.guidance


def _print_facts(facts: FileFacts) -> None:
    video, sound = facts.video, facts.audio
    click.echo(f"{facts.name}: {facts.container}, {size_text(facts.size_bytes)}, {seconds_text(facts.duration_s)}")
    if video is None:
        click.echo("picture  none")
    else:
        variable = ""
        if video.variable_rate:
            variable = f", variable ({video.lowest_rate:.2f} to {video.highest_rate:.2f}, mostly {video.typical_rate:.2f})"
        click.echo(
            f"picture  {video.display_width}×{video.display_height}, {rate_text(video.frame_rate)} frames/s{variable}, "
            f"{video.codec} {video.profile or ''} {video.level or ''}, {video.bit_depth} bit {video.chroma}, {video.scan}"
        )
        tags = video.colour
        said = "untagged" if tags.untagged else f"{tags.primaries}, {tags.transfer}, {tags.matrix}, {tags.range}"
        click.echo(f"colour   {said}")
    if sound is None:
        click.echo("sound    none")
    else:
        level = "not measured or silent"
        if sound.integrated_lufs is not None:
            level = f"{sound.integrated_lufs} LUFS, peak {sound.true_peak_dbtp} dBTP"
        click.echo(f"sound    {sound.codec}, {sound.sample_rate_hz} Hz, {sound.layout}, {level}")


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
    _, (found,) = _rehearsed(asked, [rate], whole=whole, all_renditions=True)
    if as_json:
        print_json(_rehearsal_json(asked, found))
        return
    kind = "every frame" if whole else "windows"
    _say_assumed(asked)
    click.echo(f"{asked.facts.name} → {asked.plan.destination_name}, {mbps_text(found.target_bps)}, rehearsed on {kind}")
    _print_arrivals(found)


@main.command(cls=SeveralRates)
@file_argument
@click.option("--video-kbps", type=click.IntRange(50, 400_000), multiple=True, help="Rates to rehearse, one or more.")
@plan_options
@json_option
def forecast(file: Path, video_kbps: tuple[int, ...], as_json: bool, **options: Any) -> None:
    """The survival curve: condition on arrival at several upload rates. For now every point is rehearsed."""
    asked = asked_parcel(file, options)
    guidance = _can_be_rehearsed(asked.plan)
    rates = sorted({kbps * 1000 for kbps in video_kbps} or usual_rates(asked.plan))
    perfect, found = _rehearsed(asked, rates)
    curves = {
        (screen, viewer): survival_curve(
            found, perfect, screen=screen, line=viewer,
            guidance_low_bps=guidance.low_bps, guidance_high_bps=guidance.high_bps,
        )
        for screen in Screen
        for viewer in ViewerLine
    }
    if as_json:
        print_json({
            "method": "rehearsed at each rate; nothing is modelled yet",
            "destination": asked.destination.id,
            "master": asked.facts.name,
            "guidance": guidance.model_dump(mode="json"),
            "points": [_rehearsal_json(asked, rehearsal) for rehearsal in found],
            "curves": [
                {"screen": screen, "line": viewer, **curve.model_dump(mode="json", exclude={"line"})}
                for (screen, viewer), curve in curves.items()
            ],
        })
        return
    click.echo(f"{asked.facts.name} → {asked.plan.destination_name}; every point is rehearsed, none is modelled")
    click.echo(f"guidance {guidance.sentence}")
    _say_assumed(asked)
    for rehearsal in found:
        click.echo(mbps_text(rehearsal.target_bps))
        _print_arrivals(rehearsal)
    for (screen, viewer), curve in curves.items():
        if viewer is ViewerLine.GOOD:
            enough = mbps_text(curve.enough_bps) if curve.enough_bps else "beyond what was rehearsed"
            click.echo(f"enough on a {screen}: {enough}")


@main.command()
@file_argument
@click.option("--out", "folder", type=click.Path(path_type=Path), required=True, help="Folder to write to.")
@click.option("--name", help="File name without extension; the default says master, destination, size and rate.")
@click.option("--numbered", is_flag=True, help="If the name is taken, number the new file.")
@click.option("--video-kbps", type=click.IntRange(50, 400_000), help="Video bit rate; the plan's own when left out.")
@plan_options
@json_option
def pack(
    file: Path, folder: Path, name: str | None, numbered: bool, video_kbps: int | None,
    as_json: bool, **options: Any,
) -> None:
    """Pack one parcel, verify it, and print its receipt."""
    asked = asked_parcel(file, options, video_kbps)
    plan = asked.plan
    file_name = f"{name or file_stem(asked.facts.name, plan)}.{plan.container.value}"
    if (folder / file_name).exists():
        if not numbered:
            raise NameTaken(f"{folder} already has a file {file_name}.", "Give another --name, or --numbered.")
        file_name = choose_name(folder, file_name.rsplit(".", 1)[0], plan.container.value, set())
    line = ProgressLine()
    task = PackTask(
        path=asked.path, facts=asked.facts, plan=plan, destination=asked.destination, folder=folder, file_name=file_name,
        job_id=uuid.uuid4().hex[:12],
    )
    packed = in_child(task, hear=line.hear)
    if not isinstance(packed, ParcelPacked):
        raise HardyParcelError("Packing ended without a receipt.", "Try again.")
    receipt: Receipt = packed.receipt
    line.end()
    if as_json:
        print_json({
            "plan": plan.model_dump(mode="json"),
            "slip": [row.model_dump(mode="json") for row in packing_slip(plan)],
            "receipt": receipt.model_dump(mode="json"),
        })
        return
    tries = f", in {receipt.tries} tries" if receipt.tries > 1 else ""
    click.echo(f"{folder / file_name}: {size_text(receipt.size_bytes)}{tries}, sha256 {receipt.sha256}")
    for row in receipt.rows:
        click.echo(f"  {row.setting:14} {row.planned:24} {row.measured:24} {row.match}{f' ({row.note})' if row.note else ''}")


@main.command("compare")
@click.argument("reference", type=click.Path(path_type=Path))
@click.argument("file", type=click.Path(path_type=Path))
@json_option
def compare_files(reference: Path, file: Path, as_json: bool) -> None:
    """Judge FILE against REFERENCE, which shows the same pictures: how it looks on each screen beside it."""
    line = ProgressLine()
    found = in_child(CompareTask(reference=reference, path=file), hear=line.hear)
    line.end()
    if not isinstance(found, Compared):
        raise HardyParcelError("The comparison ended without its figures.", "Try again.")
    if as_json:
        print_json({
            "reference": reference.name, "file": file.name, "pictures_measured": found.pictures,
            "arrivals": [judged.model_dump(mode="json") for judged in found.judged],
        })
        return
    click.echo(f"{file.name} beside {reference.name}, {found.pictures} pictures measured")
    for judged in found.judged:
        changed = f"; {judged.changed}" if judged.changed else ""
        width, height = judged.raster
        click.echo(
            f"  {judged.screen:7} {width}×{height}  {judged.condition:5.1f} {judged.words}, "
            f"{judged.xpsnr_db:.2f} dB{changed}"
        )
