"""Line & machine: the creator's line, and the folders that are watched and written."""

from __future__ import annotations

from ..core.plan.carrying import Line
from ..core.values import Model
from .database import Database, queries


class Settings(Model):
    """What the creator set. `output_folder` None is the program's own outbox."""

    line: Line = Line()
    output_folder: str | None = None


def load(database: Database) -> Settings:
    """The settings; defaults where nothing was set."""
    with database.reading() as connection:
        rows = {row["name"]: row["value"] for row in connection.execute(queries("results")["settings"])}
    return Settings(
        line=Line.model_validate_json(rows["line"]) if "line" in rows else Line(),
        output_folder=rows.get("output_folder") or None,
    )


def save(database: Database, settings: Settings) -> None:
    """Keep the settings."""
    with database.writing() as connection:
        for name, value in (("line", settings.line.model_dump_json()), ("output_folder", settings.output_folder or "")):
            connection.execute(queries("results")["set"], {"name": name, "value": value})
