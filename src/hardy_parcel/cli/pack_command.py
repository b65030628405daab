"""`pack`: one parcel, or every FILE for every destination, here and now or handed to the running service."""

from __future__ import annotations

import json
import uuid
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import click

from ..core.errors import BadInput, HardyParcelError, NameTaken, PlanHeld
from ..core.parcel.receipt import Receipt
from ..core.parcel.slip_text import SUMS, with_line
from ..core.plan.naming import captions_beside, check_pattern, file_stem
from ..core.plan.packing_slip import packing_slip
from ..core.values import size_text
from ..processes.client import in_child
from ..processes.messages import PackTask, ParcelPacked
from ..processes.scratch import Scratch
from ..store import jobs
from ..store.drives import drive_of
from ..store.files import write_anew
from ..store.jobs import JobKind
from ..store.packed_records import packed_already, write_record
from ..work.packing import choose_name, partial_path, taken_names
from .base import (
    Asked,
    ProgressLine,
    asked_parcel,
    asked_recipe,
    complete_destinations,
    how_options,
    json_option,
    main,
    print_json,
    read_text,
)
from .queue_commands import opened


@dataclass(frozen=True, slots=True, kw_only=True)
class Asking:
    """What is the same for every parcel of one call."""

    folder: Path
    name: str | None
    pattern: str
    numbered: bool
    checksums: bool
    receipts: bool
    skip_existing: bool
    queued: bool
    kbps: int | None
    as_json: bool
    several: bool
    options: dict[str, Any]


@main.command()
@click.argument("files", nargs=-1, required=True, type=click.Path(path_type=Path), metavar="FILE...")
@click.option(
    "--to",
    "to",
    multiple=True,
    metavar="DEST",
    shell_complete=complete_destinations,
    help="A destination such as orrery-wide; may be repeated. With --recipe alone: all that it is for.",
)
@click.option("--out", "folder", type=click.Path(path_type=Path), required=True, help="Folder to write to.")
@click.option(
    "--name", help="File name without extension, for one parcel; the default says master, destination, size and rate."
)
@click.option(
    "--pattern",
    default="",
    help="How names are made, such as '{master} {shape}'; `recipes` and the page take the same.",
)
@click.option("--numbered", is_flag=True, help="If the name is taken, number the new file.")
@click.option("--checksums", is_flag=True, help="Write SHA256SUMS beside the file, which sha256sum -c takes.")
@click.option(
    "--receipts", is_flag=True, help="Write a record beside each file, FILE.receipt.json, which verify takes."
)
@click.option(
    "--skip-existing",
    is_flag=True,
    help="Pass over what the folder has already of the same content by the same plan, as its record says. Writes records too.",
)
@click.option(
    "--queue", "queued", is_flag=True, help="Hand it to the service of the --data folder instead, and do not wait."
)
@click.option("--video-kbps", type=click.IntRange(50, 400_000), help="Video bit rate; the plan's own when left out.")
@how_options
@json_option
def pack(
    files: tuple[Path, ...],
    to: tuple[str, ...],
    folder: Path,
    name: str | None,
    pattern: str,
    numbered: bool,
    checksums: bool,
    receipts: bool,
    skip_existing: bool,
    queued: bool,
    video_kbps: int | None,
    as_json: bool,
    **options: Any,
) -> None:
    """Pack parcels, verify them, and print their receipts. The folder is made where the one above it is there.

    Every FILE is packed for every destination. Of several, one that cannot be packed does not keep the others: it is told, and the exit
    code is 2 in the end. With --json several are told as JSON lines, one for each parcel as soon as it is done.
    """
    if not to:
        if not options["recipe"]:
            raise BadInput(
                "There is no destination.", "Give --to, or a --recipe, which knows its own.", code="no_destination"
            )
        to = tuple(part.destination_id for part in asked_recipe(options["recipe"], options["data"]).parts)
    every = [(file, destination_id) for file in files for destination_id in to]
    several = len(every) > 1
    if several and name is not None:
        raise BadInput(f"{len(every)} parcels cannot have one --name.", "Give a --pattern instead.", code="one_name")
    if folder.parent.is_dir():
        folder.mkdir(exist_ok=True)
    request = Asking(
        folder=folder,
        name=name,
        pattern=check_pattern(pattern),
        numbered=numbered,
        checksums=checksums,
        receipts=receipts or skip_existing,
        skip_existing=skip_existing,
        queued=queued,
        kbps=video_kbps,
        as_json=as_json,
        several=several,
        options=options,
    )
    failed = 0
    for number, (file, destination_id) in enumerate(every, 1):
        try:
            _pack_parcel(request, file, destination_id, number)
        except HardyParcelError as error:
            if not several:
                raise
            failed += 1
            if as_json:
                _line(
                    {
                        "file": str(file),
                        "destination": destination_id,
                        "problem": error.problem().model_dump(mode="json"),
                    }
                )
            click.echo(f"{file.name} for {destination_id}: {error}", err=True)
    if failed:
        others = "The others were." if failed < len(every) else ""
        raise BadInput(f"{failed} of {len(every)} parcels were not packed.", others, code="some_failed")


def _pack_parcel(request: Asking, file: Path, destination_id: str, number: int) -> None:
    """Pack one parcel, or hand it over, and tell of it."""
    asked = asked_parcel(file, {**request.options, "destination_id": destination_id}, request.kbps)
    if request.skip_existing and (path := packed_already(request.folder, asked.facts.content_id, asked.plan)):
        _tell_skipped(request, file, destination_id, path)
        return
    task = _task(request, asked, number)
    if request.queued:
        _hand_over(task, request)
        return
    line = ProgressLine()
    if scratch := click.get_current_context().find_object(Scratch):
        scratch.elsewhere(partial_path(task.folder, task.job_id))
    packed = in_child(task, hear=line.hear)
    line.end()
    if not isinstance(packed, ParcelPacked):
        raise HardyParcelError("Packing ended without a receipt.", "Try again.")
    receipt: Receipt = packed.receipt
    if request.receipts:
        write_record(request.folder, asked.facts.content_id, asked.plan, receipt)
    if request.checksums:
        sums = request.folder / SUMS
        write_anew(sums, with_line(read_text(sums) if sums.is_file() else "", receipt))
    if request.as_json:
        report = {
            "plan": asked.plan.model_dump(mode="json"),
            "slip": [row.model_dump(mode="json") for row in packing_slip(asked.plan)],
            "receipt": receipt.model_dump(mode="json", exclude={"stills"}),
        }
        if request.several:
            _line({"file": str(file), "destination": destination_id, **report})
        else:
            print_json(report)
        return
    tries = f", in {receipt.tries} tries" if receipt.tries > 1 else ""
    click.echo(f"{request.folder / task.file_name}: {size_text(receipt.size_bytes)}{tries}, sha256 {receipt.sha256}")
    for name in receipt.beside:
        click.echo(f"{request.folder / name}: captions")
    for row in receipt.rows:
        click.echo(
            f"  {row.setting:18} {row.planned:24} {row.measured:24} {row.match}{f' ({row.note})' if row.note else ''}"
        )


def _tell_skipped(request: Asking, file: Path, destination_id: str, path: Path) -> None:
    """Say that a parcel was packed before and is passed over."""
    if request.as_json:
        report = {"file": str(file), "destination": destination_id, "skipped": str(path)}
        (_line if request.several else print_json)(report)
    else:
        click.echo(f"{path}: packed before from the same video by the same plan, skipped")


def _task(request: Asking, asked: Asked, number: int) -> PackTask:
    """The work with the name that its file gets. Raises NameTaken."""
    plan = asked.plan
    stem = request.name or file_stem(asked.facts.name, plan, request.pattern, number=number)
    file_name = f"{stem}.{plan.container.value}"
    if taken := taken_names(request.folder, file_name, captions_beside(plan), set()):
        if not request.numbered:
            raise NameTaken(f"{request.folder} already has a file {taken[0]}.", "Give another --name, or --numbered.")
        file_name = choose_name(request.folder, stem, plan.container.value, set(), beside=captions_beside(plan))
    return PackTask(
        path=asked.path.resolve(),
        facts=asked.facts,
        plan=plan,
        destination=asked.destination,
        folder=request.folder.resolve(),
        drive=drive_of(request.folder) if request.queued else None,
        file_name=file_name,
        job_id=uuid.uuid4().hex[:12],
    )


def _hand_over(task: PackTask, request: Asking) -> None:
    """Queue a parcel where a service takes it up; raises PlanHeld for one that cannot be packed."""
    if task.plan.held:
        raise PlanHeld(task.plan.held[0].sentence)
    data = request.options["data"]
    subject, goes_to = task.facts.name, task.plan.destination_name
    job = jobs.add(
        opened(data),
        JobKind.PACK,
        title=f"{subject} → {goes_to}",
        subject=subject,
        goes_to=goes_to,
        task=task,
        master_id=None,
        rank=float(task.plan.excerpt.duration_s),
    )
    if request.as_json:
        (_line if request.several else print_json)(job.model_dump(mode="json"))
    else:
        click.echo(f"{job.id}  {job.title}: waits for the service of {data}")


def _line(value: dict[str, Any]) -> None:
    """One line of JSON, at once."""
    click.echo(json.dumps(value, ensure_ascii=False))


SHELLS = ("bash", "zsh", "fish")


@main.command()
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print what makes SHELL complete our commands: eval "$(hardy-parcel completion bash)" in its start file does it."""
    from click.shell_completion import get_completion_class  # here, since no other command needs it

    found = get_completion_class(shell)
    if found is None:
        raise BadInput(f"{shell} is not known.", f"Choose of {', '.join(SHELLS)}.")
    click.echo(found(main, {}, "hardy-parcel", "_HARDY_PARCEL_COMPLETE").source())
