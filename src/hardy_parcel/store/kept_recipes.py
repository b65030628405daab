"""Recipes: kept by name, with what each was before every change, so that the last change can be undone."""

from __future__ import annotations

import sqlite3
import time

from ..core.errors import NameTaken, NotFound
from ..core.parcel.recipe_documents import Span, id_from, read_recipe, write_recipe
from ..core.parcel.recipes import Recipe
from ..core.values import Model
from .database import Changed, Database, queries

SQL = queries("recipes")
MOST_CHANGES = 200


class KeptRecipe(Model):
    """A recipe and when it was last changed, in s since 1970."""

    recipe: Recipe
    changed_at: float


class Undone(Model):
    """What was undone, in words, and the recipe it concerned."""

    said: str
    recipe_id: str


def _kept(database: Database, row: sqlite3.Row) -> KeptRecipe:
    return KeptRecipe(recipe=read_recipe(database.paths.full_json(row["document"]), name="kept recipe"), changed_at=row["changed_at"])


def renew(database: Database, span: Span) -> int:
    """Bring recipes of an earlier version up to date, what undoing would bring back too; returns how many were."""
    with database.reading() as connection:
        rows = connection.execute(SQL["old"]).fetchall()
        changes = connection.execute(SQL["old_changes"]).fetchall()
    if not rows and not changes:
        return 0
    with database.writing(Changed("recipes", "")) as connection:
        for row in rows:
            renewed = write_recipe(read_recipe(row["document"], name="kept recipe", span=span))
            connection.execute(SQL["renew"], {"id": row["id"], "document": renewed})
        for change in changes:
            renewed = write_recipe(read_recipe(change["before"], name="kept recipe", span=span))
            connection.execute(SQL["renew_change"], {"number": change["number"], "before": renewed})
    return len(rows)


def every(database: Database) -> list[KeptRecipe]:
    """Every recipe, starred ones first, then by name."""
    with database.reading() as connection:
        return [_kept(database, row) for row in connection.execute(SQL["all"])]


def get(database: Database, recipe_id: str) -> KeptRecipe:
    """One recipe; raises NotFound."""
    with database.reading() as connection:
        row = connection.execute(SQL["one"], {"id": recipe_id}).fetchone()
    if row is None:
        raise NotFound("There is no such recipe.", "Choose another one.")
    return _kept(database, row)


def named(database: Database, name: str) -> Recipe:
    """The recipe of this name or id; raises NotFound naming those there are."""
    found = every(database)
    wanted = name.strip().casefold()
    for kept in found:
        if wanted in (kept.recipe.name.casefold(), kept.recipe.id):
            return kept.recipe
    names = ", ".join(kept.recipe.name for kept in found)
    raise NotFound(f"There is no recipe '{name}'.", f"Choose one of: {names}." if names else "Save one first.")


def add(database: Database, recipe: Recipe, what: str) -> KeptRecipe:
    """Keep a new recipe under a free id made of its name. Raises NameTaken for another's name."""
    return keep(database, recipe, what, new=True)


def keep(database: Database, recipe: Recipe, what: str, *, new: bool = False) -> KeptRecipe:
    """Keep a recipe, new or changed; `what` is told when it is undone. Raises NameTaken for another's name."""
    now = time.time()
    with database.writing(Changed("recipes", "")) as connection:
        if new:  # chosen where nobody can choose the same
            taken = {row["id"] for row in connection.execute(SQL["all"])}
            recipe = recipe.model_copy(update={"id": id_from(recipe.name, taken)})
        before = connection.execute(SQL["one"], {"id": recipe.id}).fetchone()
        values = {"id": recipe.id, "name": recipe.name, "document": database.paths.stored_json(write_recipe(recipe)), "now": now}
        try:
            connection.execute(SQL["keep"], values)
        except sqlite3.IntegrityError as error:
            raise NameTaken(f"There is a recipe “{recipe.name}” already.", "Choose another name, or update that one.") from error
        _remember(connection, recipe.id, what, before["document"] if before else None, now)
    return KeptRecipe(recipe=recipe, changed_at=now)


def remove(database: Database, recipe_id: str) -> None:
    """Take a recipe away; raises NotFound."""
    kept = get(database, recipe_id)
    with database.writing(Changed("recipes", "")) as connection:
        connection.execute(SQL["remove"], {"id": recipe_id})
        _remember(connection, recipe_id, f"“{kept.recipe.name}” is back", write_recipe(kept.recipe), time.time())


def _remember(connection: sqlite3.Connection, recipe_id: str, what: str, before: str | None, now: float) -> None:
    connection.execute(SQL["remember"], {"id": recipe_id, "what": what, "before": before, "now": now})
    connection.execute(SQL["forget_old"], {"most": MOST_CHANGES})


def last_change(database: Database) -> str | None:
    """What undoing would bring about, in words; None when there is nothing to undo."""
    with database.reading() as connection:
        row = connection.execute(SQL["last"]).fetchone()
    return row["what"] if row else None


def undo(database: Database) -> Undone:
    """Bring back what was before the last change; raises NotFound when there is none, NameTaken when its name is used by now."""
    with database.writing(Changed("recipes", "")) as connection:
        row = connection.execute(SQL["last"]).fetchone()
        if row is None:
            raise NotFound("There is nothing to undo.", "Change a recipe first.")
        if row["before"] is None:
            connection.execute(SQL["remove"], {"id": row["recipe_id"]})
        else:
            recipe = read_recipe(row["before"], name="kept recipe")
            values = {"id": recipe.id, "name": recipe.name, "document": row["before"], "now": time.time()}
            try:
                connection.execute(SQL["keep"], values)
            except sqlite3.IntegrityError as error:
                raise NameTaken(f"There is another recipe “{recipe.name}” by now.", "Rename that one first.") from error
        connection.execute(SQL["forget"], {"number": row["number"]})
    return Undone(said=row["what"], recipe_id=row["recipe_id"])
