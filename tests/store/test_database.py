"""The SQLite file: migrations, one short writer, readers that cannot write."""

from __future__ import annotations

import hashlib
import sqlite3
import threading
from importlib import resources
from pathlib import Path

import pytest

from hardy_parcel.core.errors import StoreTrouble
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.store import database as database_module
from hardy_parcel.store import jobs, masters
from hardy_parcel.store.database import Database, migrate, queries, statements
from hardy_parcel.store.places import Places

from ..builders import facts

MIGRATIONS = ["0001_first.sql", "0002_checks.sql", "0003_sheets.sql", "0004_shapes.sql"]


def test_migrations_run_once(tmp_path: Path) -> None:
    path = tmp_path / "x.sqlite3"
    assert migrate(path) == MIGRATIONS
    assert migrate(path) == []


def test_two_processes_may_start_at_once(tmp_path: Path) -> None:
    path, done = tmp_path / "x.sqlite3", []
    threads = [threading.Thread(target=lambda: done.extend(migrate(path))) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert sorted(done) == MIGRATIONS


def test_what_the_first_version_kept_is_carried_over(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "x.sqlite3"
    folder = resources.files("hardy_parcel.store") / "migrations"
    first = (folder / "0001_first.sql").read_text()
    with sqlite3.connect(path, isolation_level=None) as connection:
        for statement in statements(first):
            connection.execute(statement)
        connection.execute("CREATE TABLE migrations (name TEXT PRIMARY KEY, checksum TEXT NOT NULL, applied_at REAL NOT NULL) STRICT")
        checksum = hashlib.sha256(first.encode()).hexdigest()
        connection.execute("INSERT INTO migrations VALUES ('0001_first.sql', ?, 0)", (checksum,))
        connection.execute(
            "INSERT INTO masters VALUES ('m', '/films/a.mp4', 1, 2, 'ready', ?, NULL, 8, '1', '5/2', 3.0, 1)",
            (facts().model_dump_json(),),
        )
        connection.execute(
            "INSERT INTO jobs (id, kind, state, title, master_id, spec, created_at, revision)"
            " VALUES ('j', 'pack', 'waiting', 't', 'm', '{}', 1, 1)"
        )
    database = Database(path)
    master = masters.get(database, "m")
    assert master.excerpt == Excerpt(in_s="1", out_s="5/2")
    assert [kept.title for kept in master.excerpts] == ["Excerpt 1"]
    assert jobs.get(database, "j").master_id == "m"


def test_a_store_of_another_version_is_refused(database: Database) -> None:
    with sqlite3.connect(database.path) as connection:
        connection.execute("UPDATE migrations SET checksum = 'other'")
    with pytest.raises(StoreTrouble, match="different 0001_first"):
        Database(database.path)


def test_all_tables_are_strict_and_the_file_is_wal(database: Database) -> None:
    with database.reading() as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1
        loose = connection.execute("SELECT name FROM pragma_table_list WHERE type = 'table' AND strict = 0 AND name NOT LIKE 'sqlite_%'")
        assert [row["name"] for row in loose] == []


def test_a_reader_cannot_write(database: Database) -> None:
    with pytest.raises(StoreTrouble), database.reading() as connection:
        connection.execute("UPDATE revision SET number = 99")


def test_an_error_rolls_back_and_every_change_has_a_number(database: Database) -> None:
    before = database.revision()
    with pytest.raises(RuntimeError), database.writing() as connection:
        connection.execute("INSERT INTO settings VALUES ('line', 'x')")
        raise RuntimeError
    assert database.revision() == before
    with database.writing() as connection:
        connection.execute("INSERT INTO settings VALUES ('line', 'x')")
    assert database.revision() == before + 1


def test_a_locked_store_is_said_plainly(database: Database, monkeypatch) -> None:
    monkeypatch.setattr(database_module, "BUSY_MS", 10)
    with database.writing(), pytest.raises(StoreTrouble, match="Try again"), database.writing():
        pass


def test_a_spoilt_file_is_said_plainly(tmp_path: Path) -> None:
    path = tmp_path / "x.sqlite3"
    path.write_bytes(b"this is no database" * 100)
    with pytest.raises(StoreTrouble):
        Database(path)


def test_statements_are_cut_where_they_end() -> None:
    text = "CREATE TABLE a (b TEXT DEFAULT ';');\nINSERT INTO a\nVALUES ('x');\n"
    assert list(statements(text)) == ["CREATE TABLE a (b TEXT DEFAULT ';');", "INSERT INTO a\nVALUES ('x');"]
    with pytest.raises(StoreTrouble):
        list(statements("CREATE TABLE a (b TEXT)"))


def test_every_named_query_is_valid_sql(database: Database) -> None:
    with sqlite3.connect(database.path) as connection:
        for name in ("jobs", "masters", "results"):
            for statement in queries(name).values():
                values = dict.fromkeys(database_words(statement))
                connection.execute(f"EXPLAIN {statement}", values)


def database_words(statement: str) -> set[str]:
    return {part.split(" ")[0].strip("),;\n") for part in statement.replace("\n", " ").split(":")[1:]}


def test_places_are_made_and_kept_inside(tmp_path: Path) -> None:
    places = Places.of(tmp_path / "data")
    assert places.inbox.is_dir()
    assert places.outbox.is_dir()
    (places.inbox / "door").symlink_to("/etc")
    for outside in (places.inbox / "door" / "passwd", Path("/etc/passwd"), places.inbox / ".." / ".." / ".." / ".." / "etc"):
        with pytest.raises(database_module.StoreTrouble.__mro__[1], match="outside the folders"):
            places.within(outside)
    assert places.within(places.inbox / "a.mp4") == places.inbox / "a.mp4"
