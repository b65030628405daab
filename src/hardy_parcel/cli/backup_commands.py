"""A copy of everything that is stored, and the way back."""

from __future__ import annotations

from pathlib import Path

import click

from ..core.values import size_text
from ..store import backup as store
from ..store.places import Places
from .base import data_option, json_option, main, print_json

file_argument = click.argument("file", type=click.Path(path_type=Path, dir_okay=False))


@main.command()
@file_argument
@data_option
@json_option
def backup(file: Path, data: Path, as_json: bool) -> None:
    """Copy everything that is stored in a data folder into FILE, also while the service runs.

    That is the shelf, lanes, choices, recipes, sheets, measurements and receipts. Films and packed files are not in it.
    """
    places = Places(data=data.expanduser().resolve(), allowed=())
    size = store.back_up(places.database, file.expanduser().absolute())
    if as_json:
        print_json({"file": str(file), "size_bytes": size})
    else:
        click.echo(f"{file}: {size_text(size)}. Bring it back with 'hardy-parcel restore'.")


@main.command()
@file_argument
@data_option
@json_option
def restore(file: Path, data: Path, as_json: bool) -> None:
    """Put a backup in place of what is stored in a data folder. Stop its service first; what was stored is kept beside it."""
    former = store.restore(file.expanduser().absolute(), Places.of(data))
    if as_json:
        print_json({"file": str(file), "former": str(former) if former else None})
    else:
        stored = f" What was stored before is in {former}." if former else ""
        click.echo(f"{file} is restored into {data}.{stored}")
