"""Commands about rule sheets: list, show, check, import, and rows out of a pasted table."""

from __future__ import annotations

import json
from datetime import date
from pathlib import Path

import click

from ..core.errors import BadInput, NotFound
from ..core.sheets.pasting import SoundRow, paste
from ..core.sheets.sheet import GuidanceRow, Sheet
from ..core.sheets.sheet_documents import faults_of, reminder, schema, write_sheet
from ..core.sheets.stated_limits import StatedLimits
from ..core.trade.names import CODEC_NAMES
from ..core.values import mbps_text, size_text
from ..docks.catalogue import check_new, sheets_now, versions_of
from ..store import kept_sheets as store
from ..store.database import Database
from ..store.places import Places
from .base import data_option, json_option, kept, main, print_json, read_text, sheet_file

text_argument = click.argument("file", type=click.Path(path_type=Path, allow_dash=True))


@main.group()
def sheets() -> None:
    """Rule sheets: what each destination takes, asks for and does."""


@sheets.command("list")
@data_option
@json_option
def list_sheets(data: Path, as_json: bool) -> None:
    """List the sheets with their destinations."""
    found = sheets_now(kept(data))
    if as_json:
        print_json([
            {
                "id": sheet.id, "name": sheet.name, "kind": sheet.kind, "version": sheet.version,
                "checked_on": sheet.checked_on.isoformat(), "reminder": reminder(sheet, date.today()),
                "destinations": [f"{sheet.id}-{place.id}" for place in sheet.placements],
            }
            for sheet in found
        ])
        return
    for sheet in found:
        click.echo(f"{sheet.name} ({sheet.kind}), version {sheet.version}, checked {sheet.checked_on}")
        for place in sheet.placements:
            click.echo(f"  {sheet.id}-{place.id:12} {place.name}")
        if old := reminder(sheet, date.today()):
            click.echo(f"  {old}")


def _sheet(name: str, data: Path) -> Sheet:
    found = next((one for one in sheets_now(kept(data)) if one.id == name or name in {f"{one.id}-{p.id}" for p in one.placements}), None)
    if found is None:
        raise NotFound(f"There is no rule sheet '{name}'.", f"Choose one of: {', '.join(one.id for one in sheets_now(kept(data)))}.")
    return found


@sheets.command()
@click.argument("name")
@data_option
@json_option
def show(name: str, data: Path, as_json: bool) -> None:
    """Show one sheet, by its id or one of its destinations."""
    sheet = _sheet(name, data)
    if as_json:
        print_json(sheet.model_dump(mode="json"))
        return
    click.echo(f"{sheet.name}, {sheet.kind}, version {sheet.version}, checked {sheet.checked_on}: {sheet.source}")
    for place in sheet.placements:
        click.echo(f"{sheet.id}-{place.id}: {place.name}, up to {size_text(place.max_bytes)} and {place.max_duration_s} s")
        for row in place.guidance:
            ends = mbps_text(row.low_bps) if row.low_bps == row.high_bps else f"{mbps_text(row.low_bps)} to {mbps_text(row.high_bps)}"
            click.echo(f"  {row.short_side_px:5} {row.frame_rate_class:9} {row.dynamic_range} {CODEC_NAMES[row.codec]:6} {ends}")


@sheets.command()
@text_argument
@json_option
def check(file: Path, as_json: bool) -> None:
    """Check a rule sheet (JSON) and name the path and the reason of every error."""
    text = read_text(file)
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        if as_json:
            print_json({"valid": False, "errors": [{"path": "document", "why": "is not JSON"}]})
            raise SystemExit(2) from error
        raise BadInput(f"{file.name} is not JSON.", "Correct it and try again.", code="bad_sheet") from error
    faults = faults_of(document)
    if as_json:
        print_json({"valid": not faults, "errors": [fault.model_dump() for fault in faults]})
    else:
        for fault in faults:
            click.echo(f"{fault.path}: {fault.why}", err=True)
        if not faults:
            click.echo("This rule sheet can be used.")
    if faults:
        raise SystemExit(2)


@sheets.command("import")
@text_argument
@data_option
@json_option
def import_sheet(file: Path, data: Path, as_json: bool) -> None:
    """Keep a rule sheet (JSON) in the data folder; one that is there already gets a new version."""
    sheet = sheet_file(file)
    database = Database(Places.of(data).database)
    sheet = check_new(database, sheet)
    store.keep(database, sheet)
    destinations = [f"{sheet.id}-{place.id}" for place in sheet.placements]
    if as_json:
        print_json({"id": sheet.id, "version": sheet.version, "destinations": destinations})
        return
    click.echo(f"{sheet.name} is kept as version {sheet.version}; destinations: {', '.join(destinations)}")


@sheets.command("export")
@click.argument("name")
@data_option
def export_sheet(name: str, data: Path) -> None:
    """Print a sheet as the JSON document that `import` reads."""
    click.echo(write_sheet(_sheet(name, data)), nl=False)


@sheets.command("schema")
def print_schema() -> None:
    """Print the JSON Schema of rule sheets."""
    print_json(schema())


@sheets.command("versions")
@click.argument("name")
@data_option
@json_option
def list_versions(name: str, data: Path, as_json: bool) -> None:
    """List the versions that are kept of a sheet."""
    database = kept(data)
    found = versions_of(database, name) if database else [_sheet(name, data)]
    if as_json:
        print_json([{"version": one.version, "checked_on": one.checked_on.isoformat(), "source": one.source} for one in found])
        return
    for one in found:
        click.echo(f"version {one.version}, checked {one.checked_on}: {one.source}")


def _row_text(row: GuidanceRow) -> str:
    return (
        f"{row.short_side_px:5} {row.frame_rate_class:9} {row.dynamic_range} {CODEC_NAMES[row.codec]:6} "
        f"{mbps_text(row.low_bps)} to {mbps_text(row.high_bps)}"
    )


def _sound_text(row: SoundRow) -> str:
    channels = {None: "sound", 1: "mono", 2: "stereo"}[row.channels]
    return f"{channels:15} {row.codec or 'any codec':10} {row.low_bps / 1e3:g} to {row.high_bps / 1e3:g} kbit/s"


def _limit_texts(limits: StatedLimits) -> list[str]:
    return [f"{name}: {value}" for name, value in limits.model_dump(mode="json", exclude_none=True).items()]


@sheets.command("paste")
@text_argument
@json_option
def paste_table(file: Path, as_json: bool) -> None:
    """Turn a table or text copied from a help page into rows of guidance; what is uncertain is asked, what was not understood listed."""
    found = paste(read_text(file))
    if as_json:
        print_json({
            "rows": [row.model_dump(mode="json") for row in found.rows],
            "sound": [row.model_dump(mode="json") for row in found.sound],
            "limits": found.limits.model_dump(mode="json", exclude_none=True),
            "asked": [one.model_dump(mode="json") for one in found.asked],
            "not_understood": [lost.text for lost in found.not_understood],
            "reasons": [lost.model_dump() for lost in found.not_understood],
        })
        return
    for row in found.rows:
        click.echo(_row_text(row))
    for heard in found.sound:
        click.echo(_sound_text(heard))
    for text in _limit_texts(found.limits):
        click.echo(text)
    for one in found.asked:
        click.echo(f"asked, line {one.number}: {one.text} ({one.question})")
        for row in one.rows:
            click.echo(f"  would be {_row_text(row).strip()}")
        for text in (*map(_sound_text, one.sound), *_limit_texts(one.limits)):
            click.echo(f"  would be {text.strip()}")
    for lost in found.not_understood:
        click.echo(f"not understood, line {lost.number}: {lost.text} ({lost.why})")
