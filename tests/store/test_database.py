"""The SQLite file: migrations, one short writer, readers that cannot write."""

from __future__ import annotations

import sqlite3
import threading
from pathlib import Path

import pytest

from hardy_parcel.core.errors import StoreTrouble
from hardy_parcel.store import database as database_module
from hardy_parcel.store.database import Database, migrate, queries, statements
from hardy_parcel.store.places import Places


def test_migrations_run_once(tmp_path: Path) -> None:
    path = tmp_path / "x.sqlite3"
    assert migrate(path) == ["0001_first.sql"]
    assert migrate(path) == []


def test_two_processes_may_start_at_once(tmp_path: Path) -> None:
    path, done = tmp_path / "x.sqlite3", []
    threads = [threading.Thread(target=lambda: done.extend(migrate(path))) for _ in range(6)]
    for thread in threads:
        thread.start()
    for thread in threads:
        thread.join()
    assert done == ["0001_first.sql"]


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
