"""Commands about recipes: list, show, export, import."""

from __future__ import annotations

from pathlib import Path

import click

from ..core.errors import NotFound
from ..core.parcel.recipe_documents import read_recipe, schema, write_recipe
from ..core.parcel.recipes import intent_rows
from ..docks.catalogue import guidance_span
from ..store import kept_recipes as store
from ..store.database import Database
from ..store.places import Places
from .base import data_option, json_option, kept, main, print_json, read_text

name_argument = click.argument("name")


@main.group()
def recipes() -> None:
    """Recipes: choices for a set of destinations, kept for other masters."""


def _database(data: Path) -> Database:
    found = kept(data)
    if found is None:
        raise NotFound(f"Nothing is kept in {data}.", "Give the data folder with --data.")
    return found


@recipes.command("list")
@data_option
@json_option
def list_recipes(data: Path, as_json: bool) -> None:
    """List the recipes, starred ones first."""
    database = kept(data)
    found = store.every(database) if database else []
    if as_json:
        print_json([
            {
                "id": one.recipe.id, "name": one.recipe.name, "starred": one.recipe.starred, "made_on": one.recipe.made_on,
                "destinations": [part.destination_id for part in one.recipe.parts],
            }
            for one in found
        ])
        return
    for one in found:
        star = "* " if one.recipe.starred else "  "
        click.echo(f"{star}{one.recipe.name}: {', '.join(part.destination_id for part in one.recipe.parts)}")


@recipes.command()
@name_argument
@data_option
def show(name: str, data: Path) -> None:
    """Show what a recipe asks for, destination by destination."""
    recipe = store.named(_database(data), name)
    click.echo(f"{recipe.name}, made on {recipe.made_on or 'no master'}")
    if recipe.note:
        click.echo(recipe.note)
    for part in recipe.parts:
        click.echo(part.destination_id)
        for row in intent_rows(part.intent):
            click.echo(f"  {row.setting:14} {row.says}")


@recipes.command()
@name_argument
@data_option
def export(name: str, data: Path) -> None:
    """Print a recipe as JSON."""
    click.echo(write_recipe(store.named(_database(data), name)))


@recipes.command("import")
@click.argument("file", type=click.Path(path_type=Path, allow_dash=True))
@data_option
def import_recipe(file: Path, data: Path) -> None:
    """Keep a recipe from a JSON file, or from standard input for `-`."""
    text = read_text(file)
    recipe = read_recipe(text, name=file.name)
    places = Places(data=data.expanduser().resolve(), allowed=())
    places.data.mkdir(parents=True, exist_ok=True)
    database = Database(places.database)
    recipe = read_recipe(text, name=file.name, span=guidance_span(database))
    store.add(database, recipe, f"“{recipe.name}” is gone again")
    click.echo(f"Kept “{recipe.name}”.")


@recipes.command("schema")
def print_schema() -> None:
    """Print the JSON Schema of a recipe."""
    print_json(schema())
