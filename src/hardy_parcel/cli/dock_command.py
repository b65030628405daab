"""The command that shows what a stand-in platform makes of a file."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import click

from ..core.errors import FolderUnusable, HardyParcelError
from ..core.values import size_text
from ..processes.client import in_child
from ..processes.messages import Docked, DockTask
from .base import ProgressLine, asked_destination, complete_destinations, data_option, file_argument, json_option, main, print_json


@main.command()
@file_argument
@click.option(
    "--to", "destination_id", required=True, metavar="DEST", shell_complete=complete_destinations, help="Whose stand-in takes the file."
)
@click.option(
    "--out", "folder", type=click.Path(path_type=Path, file_okay=False), required=True, help="A new or empty folder for what it makes."
)
@click.option("--used", "used_bytes", type=click.IntRange(min=0), default=0, metavar="BYTES", help="What is used already of its quota.")
@click.option("--sheet", "sheet_file", type=click.Path(path_type=Path), help="A rule sheet (JSON) that DEST may be of.")
@data_option
@json_option
def dock(file: Path, folder: Path, used_bytes: int, as_json: bool, **options: Any) -> None:
    """Give FILE to a destination's stand-in, which knows nothing of how it was planned: it refuses it, or makes what viewers get.

    Ends with 2 where it is refused.
    """
    place = asked_destination(options)
    made = _empty(folder)
    line = ProgressLine()
    found = in_child(
        DockTask(path=file.resolve(), destination=place, folder=folder.resolve(), used_bytes=used_bytes), hear=line.hear
    )
    line.end()
    if not isinstance(found, Docked):
        raise HardyParcelError("Nothing came of it.", "Try again.")
    if as_json:
        print_json(found.model_dump(mode="json", exclude={"kind"}))
    elif found.refused:
        click.echo(f"{place.full_name} refuses it.\n" + "\n".join(f"  {reason}" for reason in found.refused))
    else:
        for one in found.rendered:
            size = f"{one.width}×{one.height}" if one.width else "sound"
            click.echo(f"  {one.name:12} {size:10} {size_text(one.size_bytes):>10}  {one.path}")
    if found.refused:
        if made:
            folder.rmdir()
        raise SystemExit(2)


def _empty(folder: Path) -> bool:
    """Whether a folder with nothing in it had to be made; raises FolderUnusable for any other."""
    made = not folder.exists()
    try:
        folder.mkdir(exist_ok=True)
        if any(folder.iterdir()):
            raise FolderUnusable(f"{folder} is not empty.", "Give a new folder, so that nothing is overwritten.")
    except OSError as error:
        raise FolderUnusable(f"{folder} cannot be made or used.", "Give another folder.") from error
    return made
