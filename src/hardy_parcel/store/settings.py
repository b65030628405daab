"""Line & machine: the creator's line, and the folders that are watched and written."""

from __future__ import annotations

import json
from enum import StrEnum
from typing import Annotated

from pydantic import Field, TypeAdapter

from ..core.parcel.recommending import Aim
from ..core.plan.carrying import Line
from ..core.plan.naming import USUAL_PATTERN
from ..core.values import Model
from .database import Changed, Database, queries

JobsListed = Annotated[int, Field(ge=50, le=10_000)]
JobsDays = Annotated[int, Field(ge=1, le=3_650)]
CacheSize = Annotated[float, Field(ge=1, le=10_000)]
"""GB."""


class Settings(Model):
    """What the creator set.

    `output_folder` None is the program's own outbox; `cache_gb` bounds what rehearsals leave on the disk; `probing` is whether moments are
    tried in the background; `file_pattern` is how packed files are called, and `folders` are those beside the home that may be read and
    written. Ended jobs are listed as long as they are among the last `jobs_listed` and no older than `jobs_days`.
    """

    line: Line = Line()
    output_folder: str | None = None
    cache_gb: CacheSize = 20.0
    probing: bool = True
    file_pattern: str = USUAL_PATTERN
    folders: tuple[str, ...] = ()
    jobs_listed: JobsListed = 1_000
    jobs_days: JobsDays = 90


class After(StrEnum):
    """What the machine does when everything is packed."""

    NOTHING = "nothing"
    SLEEP = "sleep"


class DispatchSettings(Model):
    """How the queue is left alone: packing begins at `start_at` (s since 1970), at once where that is None; what comes `after` it; and
    whether the system lets itself be kept awake, None before that was tried."""

    start_at: float | None = None
    after: After = After.NOTHING
    kept_awake: bool | None = None


def load_dispatch(database: Database) -> DispatchSettings:
    """The queue's settings; defaults where nothing was set."""
    with database.reading() as connection:
        row = connection.execute(queries("results")["setting"], {"name": "dispatch"}).fetchone()
    return DispatchSettings.model_validate_json(row["value"]) if row else DispatchSettings()


def change_dispatch(database: Database, **changes: object) -> DispatchSettings:
    """Keep some of the queue's settings; the others stay."""
    with database.writing(Changed("dispatch", "")) as connection:
        row = connection.execute(queries("results")["setting"], {"name": "dispatch"}).fetchone()
        before = DispatchSettings.model_validate_json(row["value"]) if row else DispatchSettings()
        kept = before.model_copy(update=changes)
        connection.execute(queries("results")["set"], {"name": "dispatch", "value": kept.model_dump_json()})
    return kept


USUAL_AIM = Aim.SAFE
_AIMS = TypeAdapter(dict[str, Aim])


def aims(database: Database) -> dict[str, Aim]:
    """What the creator wants of each destination, by its id; those that are missing have `USUAL_AIM`."""
    with database.reading() as connection:
        row = connection.execute(queries("results")["setting"], {"name": "aims"}).fetchone()
    return _AIMS.validate_json(row["value"]) if row else {}


def set_aim(database: Database, destination_id: str, aim: Aim) -> None:
    """Keep what is wanted of one destination."""
    with database.writing(Changed("settings", "")) as connection:
        row = connection.execute(queries("results")["setting"], {"name": "aims"}).fetchone()
        kept = (_AIMS.validate_json(row["value"]) if row else {}) | {destination_id: aim}
        connection.execute(queries("results")["set"], {"name": "aims", "value": _AIMS.dump_json(kept).decode()})


DOCKS = "docks"


class Docks(Model):
    """Where the stand-in platforms answer, such as http://127.0.0.1:8641, and the secret by which they and we know one another."""

    address: str
    secret: str


def docks(database: Database) -> Docks | None:
    """The stand-in platforms of the service that runs; None where it has none."""
    with database.reading() as connection:
        row = connection.execute(queries("results")["setting"], {"name": DOCKS}).fetchone()
    return Docks.model_validate_json(row["value"]) if row and row["value"] else None


def set_docks(database: Database, docks: Docks | None) -> None:
    """Keep where the stand-in platforms answer; None where there are none."""
    with database.writing(Changed("settings", "")) as connection:
        value = docks.model_dump_json() if docks else ""
        connection.execute(queries("results")["set"], {"name": DOCKS, "value": value})


def load(database: Database) -> Settings:
    """The settings; defaults where nothing was set."""
    with database.reading() as connection:
        rows = {row["name"]: row["value"] for row in connection.execute(queries("results")["settings"])}
    numbers = {name: int(rows[name]) for name in ("jobs_listed", "jobs_days") if name in rows}
    return Settings(
        **numbers, line=Line.model_validate_json(rows["line"]) if "line" in rows else Line(),
        output_folder=database.paths.full(rows.get("output_folder", "")) or None,
        **({"cache_gb": float(rows["cache_gb"])} if "cache_gb" in rows else {}),
        probing=rows.get("probing", "yes") == "yes", file_pattern=rows.get("file_pattern") or USUAL_PATTERN,
        folders=tuple(json.loads(database.paths.full_json(rows.get("folders") or "[]"))),
    )


def save(database: Database, settings: Settings) -> None:
    """Keep the settings."""
    with database.writing(Changed("settings", "")) as connection:
        kept = (
            ("line", settings.line.model_dump_json()), ("output_folder", database.paths.stored(settings.output_folder or "")),
            ("cache_gb", str(settings.cache_gb)), ("probing", "yes" if settings.probing else "no"), ("file_pattern", settings.file_pattern),
            ("jobs_listed", str(settings.jobs_listed)), ("jobs_days", str(settings.jobs_days)),
            ("folders", database.paths.stored_json(json.dumps(settings.folders, ensure_ascii=False))),
        )
        for name, value in kept:
            connection.execute(queries("results")["set"], {"name": name, "value": value})
