"""The SQLite file: migrations, one short writer, readers that cannot write."""

from __future__ import annotations

import hashlib
import sqlite3
import subprocess
import sys
import threading
from importlib import resources
from pathlib import Path

import pytest

from hardy_parcel.core.errors import DiskFull, StoreTrouble
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.docks.catalogue import guidance_span
from hardy_parcel.store import database as database_module
from hardy_parcel.store import jobs, kept_recipes, kept_sheets, masters, parcels, results, settings
from hardy_parcel.store.database import Database, migrate, queries, statements
from hardy_parcel.store.places import Places

from ..builders import facts

MIGRATIONS = [
    "0001_first.sql",
    "0002_checks.sql",
    "0003_sheets.sql",
    "0004_shapes.sql",
    "0005_parcels.sql",
    "0006_probes.sql",
    "0007_benchmark.sql",
    "0008_verdicts.sql",
    "0009_shared_files.sql",
    "0010_dispatch.sql",
    "0011_file_names.sql",
    "0012_sendings.sql",
    "0013_returned_files.sql",
    "0014_words.sql",
    "0015_parcel_revisions.sql",
    "0016_job_names.sql",
    "0017_returned_curves.sql",
    "0018_drives.sql",
    "0019_ended_jobs.sql",
    "0020_framing.sql",
    "0021_batches.sql",
]


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
        connection.execute(
            "CREATE TABLE migrations (name TEXT PRIMARY KEY, checksum TEXT NOT NULL, applied_at REAL NOT NULL) STRICT"
        )
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
    assert jobs.get(database, "j").state is jobs.JobState.CANCELLED, "what waited was told in another form"


def test_nothing_is_missing_of_what_was_kept_before_parcels_had_ids(tmp_path: Path) -> None:
    """A database as the version before it wrote it: two masters with lanes, choices, excerpts, a recipe, a sheet, jobs, a receipt."""
    path = tmp_path / "x.sqlite3"
    with sqlite3.connect(path) as connection:
        connection.executescript((Path(__file__).parent / "before_parcels.sql").read_text())
    database = Database(path)
    assert {row["modified_ns"] for row in masters.known(database).values()} == {0}, (
        "no keyframes yet: each is read again"
    )
    gale, lamp = (master.id for master in sorted(masters.shelf(database), key=lambda one: one.name))
    kept = masters.get(database, gale)
    wave = Excerpt(in_s=20, out_s=40)
    assert (kept.excerpt, [one.title for one in kept.excerpts]) == (wave, ["Excerpt 1", "The wave"])

    lanes = parcels.of_master(database, gale)
    assert [one.destination_id for one in lanes] == ["sprigg-upright", "orrery-wide"]
    assert {one.excerpt for one in lanes} == {wave}
    assert (lanes[0].choices, lanes[0].sheet_version) == (Choices(framing="fit"), None)
    assert (lanes[1].choices, lanes[1].sheet_version) == (
        Choices(framing="fit", video_bitrate_bps=12_000_000, codec="hevc"),
        1,
    )
    put_away = parcels.of_master(database, gale, put_away=True)[2:]
    assert [(one.destination_id, one.choices.framing, one.shown) for one in put_away] == [
        ("fernpost-reel", "fill", False)
    ]

    usual = parcels.of_master(database, lamp)
    assert [one.destination_id for one in usual] == [
        "orrery-wide",
        "sprigg-upright",
        "kitewall-square",
        "fernpost-reel",
    ]
    assert [one.choices.framing for one in usual] == ["fit", "fit", "blur", "fit"]
    assert {one.excerpt for one in usual} == {None}

    done, waiting = sorted(jobs.recent(database), key=lambda job: job.kind)
    assert (done.kind, done.state, done.file_name, done.parcel_id) == ("pack", "done", "Gale.mp4", lanes[1].id)
    assert (waiting.kind, waiting.state, waiting.problem.what) == (
        "rehearse",
        "cancelled",
        "This was still waiting when the program was renewed.",
    )
    (receipt,) = results.receipts(database)
    assert (receipt.receipt.file_name, receipt.parcel_id) == ("Gale.mp4", lanes[1].id)
    assert settings.load(database).line.uplink_mbps == 3
    assert settings.load(database).output_folder == "/out"
    assert [sheet.name for sheet in kept_sheets.newest(database)] == ["Tern"]

    assert kept_recipes.renew(database, guidance_span(database)) == 1
    assert kept_recipes.renew(database, guidance_span(database)) == 0
    recipe = kept_recipes.get(database, "weekly-gale").recipe
    assert (recipe.name, recipe.note, recipe.starred) == ("Weekly gale", "for Fridays", True)
    assert recipe.parts[0].intent.times_guidance == pytest.approx(12 / 9.1, abs=0.01), "12 Mbit/s is still meant"


def test_a_store_of_another_version_is_refused(database: Database) -> None:
    with sqlite3.connect(database.path) as connection:
        connection.execute("UPDATE migrations SET checksum = 'other'")
    with pytest.raises(StoreTrouble, match="different 0001_first"):
        Database(database.path)


def test_a_store_of_a_newer_version_is_refused_and_not_touched(database: Database) -> None:
    with sqlite3.connect(database.path) as connection:
        connection.execute("INSERT INTO migrations VALUES ('9001_tomorrow.sql', 'x', 0)")
        connection.execute("DELETE FROM migrations WHERE name LIKE '0009%'")
    with pytest.raises(StoreTrouble, match="newer Hardy Parcel .9001_tomorrow."):
        Database(database.path)
    with sqlite3.connect(database.path) as connection:
        assert connection.execute("SELECT count(*) FROM migrations WHERE name LIKE '0009%'").fetchone() == (0,), (
            "nothing was applied"
        )


def test_all_tables_are_strict_and_the_file_is_wal(database: Database) -> None:
    with database.reading() as connection:
        assert connection.execute("PRAGMA journal_mode").fetchone()[0] == "wal"
        assert connection.execute("PRAGMA foreign_keys").fetchone()[0] == 1
        loose = connection.execute(
            "SELECT name FROM pragma_table_list WHERE type = 'table' AND strict = 0 AND name NOT LIKE 'sqlite_%'"
        )
        assert [row["name"] for row in loose] == []


def test_a_reader_cannot_write(database: Database) -> None:
    with pytest.raises(StoreTrouble), database.reading() as connection:
        connection.execute("UPDATE revision SET number = 99")


def test_opening_a_store_twice_lets_no_other_process_take_it_away(database: Database) -> None:
    """Closing a file drops all locks of its process on it: another one could then believe itself alone and damage the store."""
    database.revision()  # an open reader, which holds its lock
    Database(database.path)
    alone = "import sqlite3, sys; sqlite3.connect(sys.argv[1], timeout=0).execute('PRAGMA journal_mode = DELETE')"
    tried = subprocess.run(
        [sys.executable, "-c", alone, str(database.path)], capture_output=True, text=True, check=False
    )
    assert "database is locked" in tried.stderr


def test_an_error_rolls_back_and_every_change_has_a_number(database: Database) -> None:
    before = database.revision()
    with pytest.raises(RuntimeError), database.writing() as connection:
        connection.execute("INSERT INTO settings VALUES ('line', 'x')")
        raise RuntimeError
    assert database.revision() == before
    with database.writing() as connection:
        connection.execute("INSERT INTO settings VALUES ('line', 'x')")
    assert database.revision() == before + 1


def test_statements_are_cut_where_they_end() -> None:
    text = "CREATE TABLE a (b TEXT DEFAULT ';');\nINSERT INTO a\nVALUES ('x');\n"
    assert list(statements(text)) == ["CREATE TABLE a (b TEXT DEFAULT ';');", "INSERT INTO a\nVALUES ('x');"]
    with pytest.raises(StoreTrouble):
        list(statements("CREATE TABLE a (b TEXT)"))


def test_every_named_query_is_valid_sql(database: Database) -> None:
    with sqlite3.connect(database.path) as connection:
        for name in ("jobs", "masters", "parcels", "recipes", "results", "sheets"):
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
    for outside in (
        places.inbox / "door" / "passwd",
        Path("/etc/passwd"),
        places.inbox / ".." / ".." / ".." / ".." / "etc",
    ):
        with pytest.raises(database_module.StoreTrouble.__mro__[1], match="outside the folders"):
            places.within(outside)
    assert places.within(places.inbox / "a.mp4") == places.inbox / "a.mp4"


def test_a_locked_a_damaged_and_an_unwritable_store_are_told_apart(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(database_module, "BUSY_MS", 20)
    database = Database(tmp_path / "x.sqlite3")
    with sqlite3.connect(database.path, isolation_level=None) as other:
        other.execute("BEGIN IMMEDIATE")
        with pytest.raises(StoreTrouble, match="locked"), database.writing():
            pass
        other.execute("ROLLBACK")
    damaged = tmp_path / "damaged.sqlite3"
    damaged.write_bytes(b"not a database, whatever its name says" * 99)
    with pytest.raises(StoreTrouble, match="is damaged"):
        Database(damaged)
    folder = tmp_path / "folder.sqlite3"
    folder.mkdir()
    with pytest.raises(StoreTrouble, match="cannot be opened"):
        Database(folder)


def test_a_full_store_says_which_disk_is_full(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    pages = sqlite3.connect(database.path).execute("PRAGMA page_count").fetchone()[0]
    with pytest.raises(DiskFull, match=str(tmp_path)), database.writing() as connection:
        connection.execute(f"PRAGMA max_page_count = {pages}")
        connection.execute("CREATE TABLE large (content BLOB)")
        connection.execute("INSERT INTO large VALUES (zeroblob(1000000))")
    assert settings.load(database) == settings.load(database)


def test_what_is_made_private_stays_so(tmp_path: Path) -> None:
    database = Database(tmp_path / "x.sqlite3")
    with database.writing():
        assert {path.stat().st_mode & 0o777 for path in tmp_path.iterdir()} == {0o600}
