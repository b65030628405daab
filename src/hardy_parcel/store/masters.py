"""Masters on the shelf: facts, checks, mending, excerpts, and the creator's choices for each destination."""

from __future__ import annotations

import json
import time
import uuid
from enum import StrEnum
from functools import lru_cache
from pathlib import Path
from sqlite3 import Connection, Row

from pydantic import computed_field

from ..core.errors import NotFound, Problem
from ..core.master.checks.combing import measured_scan
from ..core.master.checks.evidence import Checked, SoundSurvey, Survey
from ..core.master.checks.sound_levels import SoundLevels, heard_in
from ..core.master.checks.stamping import CheckStamp, check_stamps
from ..core.master.facts import Excerpt, MasterFacts, Mending, Scan
from ..core.master.strip import strip_key, strip_order
from ..core.trade.codecs import name_of
from ..core.values import Model
from .data_paths import DataPaths
from .database import Changed, Database, note, queries
from .parcels import move_excerpts


class MasterState(StrEnum):
    READING = "reading"
    READY = "ready"
    UNREADABLE = "unreadable"
    GONE = "gone"


class KeptExcerpt(Model):
    """One of the excerpts of a master."""

    number: int
    title: str
    excerpt: Excerpt


class Master(Model):
    """A master as it is known now. `strip` numbers the pictures of the poster strip that are made already.

    `facts` carry the loudness as soon as it is measured; `stamps` are the checks made so far, and `checked` says
    which of picture and sound are through. `excerpt` is the chosen one; None is the whole master, and `packed` counts its receipts.
    """

    id: str
    name: str
    path: str
    size_bytes: int
    state: MasterState
    arriving: bool
    uploaded: bool
    facts: MasterFacts | None
    problem: Problem | None
    strip: tuple[int, ...]
    excerpt: Excerpt | None
    excerpt_number: int | None
    excerpts: tuple[KeptExcerpt, ...]
    picture_checked: bool
    sound_checked: bool
    stamps: tuple[CheckStamp, ...]
    packed: int = 0
    added_at: float
    revision: int

    @computed_field  # type: ignore[prop-decorator]
    @property
    def codec_name(self) -> str:
        """The picture's codec as it is read; empty before the facts are known."""
        return name_of(self.facts.video.codec) if self.facts else ""

    @computed_field  # type: ignore[prop-decorator]
    @property
    def strip_key(self) -> str:
        """Names the strip's pictures: another key, other pictures. Empty before the facts are known."""
        return strip_key(self.facts) if self.facts else ""


@lru_cache(maxsize=256)
def _stamps(
    facts: str, mending: str, picture: str | None, sound: str | None, loudness: str | None, excerpt: str
) -> tuple[CheckStamp, ...]:
    """The stamps from what is kept; cached, since the shelf is asked for at every change."""
    known = _facts(facts, mending, loudness, picture)
    checked = Checked(
        picture=Survey.model_validate_json(picture) if picture else None,
        sound=SoundSurvey.model_validate_json(sound) if sound else None,
    )
    return check_stamps(known, checked, excerpt=Excerpt.model_validate_json(excerpt) if excerpt else None)


@lru_cache(maxsize=256)
def _scan(picture: str) -> Scan:
    return measured_scan(Survey.model_validate_json(picture).windows).scan


def _facts(facts: str, mending: str, loudness: str | None, picture: str | None) -> MasterFacts:
    known = MasterFacts.model_validate_json(facts)
    updates: dict[str, object] = {"mending": Mending.model_validate_json(mending)} if mending else {}
    if picture:
        updates["measured_scan"] = _scan(picture)
    if loudness and known.audio:
        updates["audio"] = known.audio.model_copy(update=json.loads(loudness))
    return known.model_copy(update=updates)


@lru_cache(maxsize=256)
def _levels(text: str) -> SoundLevels:
    return SoundLevels.model_validate_json(text)


def _master(paths: DataPaths, row: Row, excerpts: tuple[KeptExcerpt, ...]) -> Master:
    excerpt = next((kept.excerpt for kept in excerpts if kept.number == row["excerpt_number"]), None)
    mending = row["mending"] or ""
    sound = SoundSurvey.model_validate_json(row["sound"]) if row["sound"] else None
    path = paths.full(row["path"])
    return Master(
        id=row["id"],
        name=Path(path).name,
        path=path,
        size_bytes=row["size_bytes"],
        state=MasterState(row["state"]),
        arriving=bool(row["arriving"]),
        uploaded=bool(row["uploaded"]),
        facts=heard_in(
            _facts(row["facts"], mending, row["loudness"], row["picture"]),
            _levels(row["levels"]) if row["levels"] else None,
            excerpt,
        )
        if row["facts"]
        else None,
        problem=Problem.model_validate_json(row["problem"]) if row["problem"] else None,
        strip=strip_order()[: row["strip_pictures"]],
        excerpt=excerpt,
        excerpt_number=row["excerpt_number"] if excerpt else None,
        excerpts=excerpts,
        picture_checked=row["picture"] is not None,
        sound_checked=sound is not None and sound.complete,
        stamps=_stamps(
            row["facts"],
            mending,
            row["picture"],
            row["sound"],
            row["loudness"],
            excerpt.model_dump_json() if excerpt else "",
        )
        if row["facts"]
        else (),
        packed=row["packed"],
        added_at=row["added_at"],
        revision=row["revision"],
    )


def _kept(row: Row) -> KeptExcerpt:
    return KeptExcerpt(number=row["number"], title=row["title"], excerpt=Excerpt(in_s=row["in_s"], out_s=row["out_s"]))


def shelf(database: Database) -> list[Master]:
    """Every master that is there, newest first."""
    with database.snapshot() as connection:
        excerpts: dict[str, list[KeptExcerpt]] = {}
        for row in connection.execute(queries("masters")["all_excerpts"]):
            excerpts.setdefault(row["master_id"], []).append(_kept(row))
        return [
            _master(database.paths, row, tuple(excerpts.get(row["id"], ())))
            for row in connection.execute(queries("masters")["list"])
        ]


def known(database: Database) -> dict[str, Row]:
    """Path to id, size, modification time and state of every master ever seen."""
    with database.reading() as connection:
        return {database.paths.full(row["path"]): row for row in connection.execute(queries("masters")["known"])}


def get(database: Database, master_id: str) -> Master:
    """One master; raises NotFound."""
    with database.snapshot() as connection:
        row = connection.execute(queries("masters")["one"], {"id": master_id}).fetchone()
        excerpts = _excerpts(connection, master_id)
    if row is None or row["removed"]:
        raise NotFound("There is no such master.", "Go back to the shelf.")
    return _master(database.paths, row, excerpts)


def _excerpts(connection: Connection, master_id: str) -> tuple[KeptExcerpt, ...]:
    return tuple(_kept(row) for row in connection.execute(queries("masters")["excerpts"], {"master_id": master_id}))


def _chosen(connection: Connection, master_id: str) -> Excerpt | None:
    row = connection.execute(queries("masters")["one"], {"id": master_id}).fetchone()
    kept = {one.number: one.excerpt for one in _excerpts(connection, master_id)}
    return kept.get(row["excerpt_number"]) if row else None


def add(database: Database, path: Path, *, uploaded: bool = False, arriving: bool = False) -> str:
    """Put a file on the shelf (or note that it changed) and return its id; it still has to be read.

    With `arriving` the file is still growing and will be read once it stands still.
    """
    stat = path.stat()
    with database.writing(Changed("shelf", "")) as connection:
        row = connection.execute(
            queries("masters")["add"],
            {
                "id": uuid.uuid4().hex[:12],
                "path": database.paths.stored(path),
                "size_bytes": stat.st_size,
                "uploaded": int(uploaded),
                "modified_ns": stat.st_mtime_ns,
                "added_at": time.time(),
                "arriving": int(arriving),
            },
        ).fetchone()
    return row["id"]


def set_ready(database: Database, master_id: str, facts: MasterFacts) -> str:
    """Store what reading the header found; returns the id under which the film is on the shelf.

    A film that was missed, and is found again by its content under another name or in another folder, goes on under its former id with
    all that was chosen for it.
    """
    with database.writing(Changed("master", master_id)) as connection:
        former = connection.execute(
            queries("masters")["missed"],
            {"id": master_id, "content_id": facts.content_id, "path": master_path(connection, master_id)},
        ).fetchone()
        if former:
            connection.execute(queries("masters")["jobs_go_to"], {"id": master_id, "former": former["id"]})
            row = connection.execute(queries("masters")["take_out"], {"id": master_id}).fetchone()
            connection.execute(queries("masters")["found_again"], {**dict(row), "former": former["id"]})
            note(connection, Changed("shelf", ""), Changed("master", former["id"]))
            master_id = former["id"]
        connection.execute(
            queries("masters")["ready"],
            {"id": master_id, "facts": facts.model_dump_json(), "content_id": facts.content_id},
        )
    return master_id


def unread(database: Database) -> list[tuple[str, Path, MasterState]]:
    """Films whose header is still to be read, or of which nothing that follows on it was made: id, path and state."""
    with database.reading() as connection:
        rows = connection.execute(queries("masters")["unread"])
        return [(row["id"], Path(database.paths.full(row["path"])), MasterState(row["state"])) for row in rows]


def master_path(connection: Connection, master_id: str) -> str:
    """The path of a master as it is stored; empty for one that is not there."""
    row = connection.execute(queries("masters")["one"], {"id": master_id}).fetchone()
    return row["path"] if row else ""


def set_strip(database: Database, master_id: str, pictures: int) -> None:
    """Keep how many pictures of the poster strip are made."""
    with database.writing(Changed("strip", master_id)) as connection:
        connection.execute(queries("masters")["strip"], {"id": master_id, "strip_pictures": pictures})


def set_unreadable(database: Database, master_id: str, problem: Problem) -> None:
    """Keep why a master could not be read."""
    with database.writing(Changed("master", master_id)) as connection:
        connection.execute(queries("masters")["unreadable"], {"id": master_id, "problem": problem.model_dump_json()})


def set_problem(database: Database, master_id: str, problem: Problem) -> None:
    """Keep why a master that can be read could not be checked through."""
    with database.writing(Changed("master", master_id)) as connection:
        connection.execute(queries("masters")["problem"], {"id": master_id, "problem": problem.model_dump_json()})


def set_gone(database: Database, master_id: str) -> None:
    """Note that the file is not there any more."""
    with database.writing(Changed("master", master_id)) as connection:
        connection.execute(queries("masters")["gone"], {"id": master_id})


def remove(database: Database, master_id: str) -> None:
    """Take a master off the shelf; its file is not touched."""
    with database.writing(Changed("master", master_id)) as connection:
        connection.execute(queries("masters")["remove"], {"id": master_id})


def mend(database: Database, master_id: str, mending: Mending) -> None:
    """Keep what is to be mended when this master is packed."""
    with database.writing(Changed("master", master_id)) as connection:
        connection.execute(queries("masters")["mend"], {"id": master_id, "mending": mending.model_dump_json()})


def keep_excerpt(
    database: Database, master_id: str, excerpt: Excerpt, *, number: int | None, title: str | None = None
) -> int:
    """Keep an excerpt under its number, or under a new one, and choose it; returns the number.

    Parcels that had the excerpt chosen before follow.
    """
    with database.writing(Changed("master", master_id)) as connection:
        kept = {one.number: one for one in _excerpts(connection, master_id)}
        number = number or max(kept, default=0) + 1
        usual = kept[number].title if number in kept else f"Excerpt {number}"
        move_excerpts(connection, master_id, _chosen(connection, master_id), excerpt)
        connection.execute(
            queries("masters")["keep_excerpt"],
            {
                "master_id": master_id,
                "number": number,
                "title": title or usual,
                "in_s": str(excerpt.in_s),
                "out_s": str(excerpt.out_s),
            },
        )
        connection.execute(queries("masters")["choose_excerpt"], {"master_id": master_id, "number": number})
    return number


def choose_excerpt(database: Database, master_id: str, number: int | None) -> None:
    """Choose one of the kept excerpts, None being the whole master; parcels that had the one before follow. Raises NotFound."""
    with database.writing(Changed("master", master_id)) as connection:
        if number is not None and number not in {one.number for one in _excerpts(connection, master_id)}:
            raise NotFound("There is no such excerpt.", "Choose one that is listed.")
        after = next((one.excerpt for one in _excerpts(connection, master_id) if one.number == number), None)
        move_excerpts(connection, master_id, _chosen(connection, master_id), after)
        connection.execute(queries("masters")["choose_excerpt"], {"master_id": master_id, "number": number})


def drop_excerpt(database: Database, master_id: str, number: int) -> None:
    """Forget an excerpt; when it was chosen, the whole master is taken instead, by the parcels that followed it too."""
    with database.writing(Changed("master", master_id)) as connection:
        row = connection.execute(queries("masters")["one"], {"id": master_id}).fetchone()
        before = _chosen(connection, master_id)
        connection.execute(queries("masters")["drop_excerpt"], {"master_id": master_id, "number": number})
        if row and row["excerpt_number"] == number:
            move_excerpts(connection, master_id, before, None)
            connection.execute(queries("masters")["choose_excerpt"], {"master_id": master_id, "number": None})


def set_excerpt(database: Database, master_id: str, excerpt: Excerpt | None) -> None:
    """Change the chosen excerpt, or make a first one; None chooses the whole master."""
    with database.transaction():
        if excerpt is None:
            choose_excerpt(database, master_id, None)
        else:
            keep_excerpt(database, master_id, excerpt, number=get(database, master_id).excerpt_number)


def survey(database: Database, content_id: str) -> Checked:
    """What is measured of a content so far, whichever master it was measured on."""
    with database.reading() as connection:
        row = connection.execute(queries("masters")["survey"], {"content_id": content_id}).fetchone()
    if row is None:
        return Checked()
    return Checked(
        picture=_survey(row["picture"]) if row["picture"] else None,
        sound=SoundSurvey.model_validate_json(row["sound"]) if row["sound"] else None,
    )


@lru_cache(maxsize=64)
def _survey(text: str) -> Survey:
    """As one object as long as it is the same: every lane of a film asks for it."""
    return Survey.model_validate_json(text)


def sound_levels(database: Database, content_id: str) -> SoundLevels | None:
    """The levels along a content's sound, as far as it was heard to its end."""
    with database.reading() as connection:
        row = connection.execute(queries("masters")["levels"], {"content_id": content_id}).fetchone()
    return _levels(row["levels"]) if row and row["levels"] else None


def keep_picture(database: Database, content_id: str, found: Survey) -> None:
    """Keep what was measured on the picture."""
    with database.writing(Changed("content", content_id)) as connection:
        connection.execute(
            queries("masters")["keep_picture"],
            {"content_id": content_id, "picture": found.model_dump_json(), "now": time.time()},
        )
        connection.execute(queries("masters")["touch"], {"content_id": content_id})


def keep_sound(
    database: Database,
    content_id: str,
    found: SoundSurvey,
    loudness: dict[str, float | None] | None,
    levels: SoundLevels | None = None,
) -> None:
    """Keep what was measured on the sound; loudness and levels come when it has been heard to its end."""
    with database.writing(Changed("content", content_id)) as connection:
        connection.execute(
            queries("masters")["keep_sound"],
            {
                "content_id": content_id,
                "sound": found.model_dump_json(),
                "now": time.time(),
                "loudness": json.dumps(loudness) if loudness else None,
                "levels": levels.model_dump_json() if levels else None,
            },
        )
        connection.execute(queries("masters")["touch"], {"content_id": content_id})
