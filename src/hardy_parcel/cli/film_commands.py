"""Commands about one film: its facts, what came back of it."""

from __future__ import annotations

import json
from pathlib import Path

import click

from ..core.errors import BadInput, HardyParcelError
from ..core.master.checks.stamping import CheckStamp
from ..core.master.facts import FileFacts
from ..core.parcel.handoff import PackedFile
from ..core.parcel.receipt import Receipt, packed_file
from ..core.stamps import Outcome
from ..core.values import rate_text, seconds_text, size_text
from ..media.couriers import Courier
from ..processes.client import in_child
from ..processes.messages import Carried, CarryTask, Compared, CompareTask, HandedOver, HandoffTask
from ..store import results
from ..store.database import Database
from ..store.places import Places
from ..work.packing import choose_name
from ..work.reading import read_checked, read_facts
from .base import ProgressLine, data_option, file_argument, json_option, main, print_json, read_text, with_picture


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


@main.command()
@file_argument
@click.option(
    "--against", type=click.Path(path_type=Path), help="The packed file, or a receipt as JSON; found among the receipts when left out.",
)
@data_option
@json_option
def verify(file: Path, against: Path | None, data: Path, as_json: bool) -> None:
    """Say what became of a packed FILE that came back: the same bytes, re-wrapped, tags or sound changed, recompressed, another film."""
    line = ProgressLine()
    known = (_held_against(against),) if against else _receipted(data)
    found = in_child(HandoffTask(path=file, known=known), hear=line.hear)
    line.end()
    if not isinstance(found, HandedOver):
        raise HardyParcelError("The check ended without its finding.", "Try again.")
    told = found.found
    if as_json:
        print_json({"file": file.name, **told.model_dump(mode="json", exclude={"packed": {"thumbs"}, "back": {"thumbs"}})})
        return
    click.echo(told.sentence)
    for judged in told.judged:
        click.echo(f"  {judged.screen:7} {judged.condition:5.1f} {judged.words}, {judged.xpsnr_db:.2f} dB")


def _held_against(path: Path) -> PackedFile:
    """A packed file, or what a receipt, saved or as `pack --json` prints it, says of one."""
    if path.suffix.lower() != ".json":
        return PackedFile(name=path.name, path=path)
    try:
        told = json.loads(read_text(path))
        receipt = Receipt.model_validate(told.get("receipt", told) if isinstance(told, dict) else told)
    except ValueError as error:
        raise BadInput(f"{path.name} is no receipt.", "Give the packed file, or a receipt that was saved as JSON.") from error
    return packed_file(receipt)


def _receipted(data: Path) -> tuple[PackedFile, ...]:
    places = Places(data=data.expanduser().resolve(), allowed=())
    if not places.database.is_file():
        raise BadInput(f"There are no receipts in {places.data}.", "Give --against, or another --data folder.", code="nothing_packed")
    return tuple(packed_file(kept.receipt, kept.job_id) for kept in results.receipts(Database(places.database), every=True))


@main.command()
@file_argument
@click.option("--by", "courier", type=click.Choice([str(one) for one in Courier]), required=True, help="Which courier.")
@click.option("--out", "folder", type=click.Path(path_type=Path, file_okay=False), required=True, help="Folder to bring it to.")
def carry(file: Path, courier: str, folder: Path) -> None:
    """Send FILE through a stand-in for a way of moving it: Lockbox keeps it bit for bit, Natterline makes large ones small."""
    folder.mkdir(exist_ok=True)
    target = folder / choose_name(folder, file.stem, "mp4" if courier == Courier.NATTERLINE else file.suffix.lstrip(".") or "mp4", set())
    line = ProgressLine()
    carried = in_child(CarryTask(path=file, courier=courier, target=target), hear=line.hear)
    line.end()
    if not isinstance(carried, Carried):
        raise HardyParcelError("It never arrived.", "Try again.")
    click.echo(f"{target}: {size_text(target.stat().st_size)}")
