"""A copy of everything that is stored, made while it is written to, and put back."""

from __future__ import annotations

import os
import sqlite3
import threading
from contextlib import closing
from pathlib import Path

import pytest

from hardy_parcel.core.errors import BadInput, FolderUnusable, NameTaken, NotFound, StoreTrouble
from hardy_parcel.processes.messages import BenchmarkTask
from hardy_parcel.store import jobs, masters
from hardy_parcel.store.backup import back_up, restore
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind, JobState
from hardy_parcel.store.places import Places

from ..builders import facts


def film(database: Database, places: Places, name: str) -> str:
    path = places.inbox / name
    path.write_bytes(b"film")
    master = masters.add(database, path)
    masters.set_ready(database, master, facts())
    return master


def names(places: Places) -> list[str]:
    return sorted(master.name for master in masters.shelf(Database(places.database)))


def test_what_was_stored_comes_back_and_what_was_there_is_kept_aside(
    database: Database, places: Places, tmp_path: Path
) -> None:
    film(database, places, "A.mp4")
    copy = tmp_path / "copy.sqlite3"
    assert back_up(places.database, copy) == copy.stat().st_size
    film(database, places, "B.mp4")
    former = restore(copy, places)
    assert names(places) == ["A.mp4"]
    assert former
    again = restore(former, places)
    assert names(places) == ["A.mp4", "B.mp4"]
    assert again != former


def test_a_copy_serves_in_another_folder(database: Database, places: Places, tmp_path: Path) -> None:
    film(database, places, "A.mp4")
    copy = tmp_path / "copy.sqlite3"
    back_up(places.database, copy)
    other = Places.of(tmp_path / "other")
    assert restore(copy, other) is None
    assert [master.path for master in masters.shelf(Database(other.database))] == [str(other.inbox / "A.mp4")]


def test_a_copy_is_one_state_while_others_write(database: Database, places: Places, tmp_path: Path) -> None:
    stop = threading.Event()

    def write() -> None:
        while not stop.is_set():
            with database.writing() as connection:
                for name in ("a", "b"):
                    connection.execute(
                        "INSERT INTO settings (name, value) VALUES (?, '1') ON CONFLICT (name) DO UPDATE SET value = value + 1",
                        (name,),
                    )

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for number in range(5):
            copy = tmp_path / f"{number}.sqlite3"
            back_up(places.database, copy)
            with closing(sqlite3.connect(copy)) as connection:
                both = connection.execute("SELECT value FROM settings WHERE name IN ('a', 'b')").fetchall()
            assert len(set(both)) <= 1
    finally:
        stop.set()
        writer.join(10)


def test_nothing_is_overwritten_and_nothing_strange_is_restored(
    database: Database, places: Places, tmp_path: Path
) -> None:
    copy = tmp_path / "copy.sqlite3"
    back_up(places.database, copy)
    with pytest.raises(NameTaken):
        back_up(places.database, copy)
    with pytest.raises(NotFound):
        back_up(tmp_path / "nothing.sqlite3", tmp_path / "other")
    with pytest.raises(NotFound):
        restore(tmp_path / "nothing.sqlite3", places)
    letter, damaged, newer = tmp_path / "letter", tmp_path / "damaged", tmp_path / "newer"
    letter.write_text("Dear keeper")
    data = bytearray(copy.read_bytes())
    data[200:90_000] = bytes(89_800)
    damaged.write_bytes(data)
    for wrong in (letter, damaged):
        with pytest.raises(BadInput) as refused:
            restore(wrong, places)
        assert refused.value.code == "bad_backup"
    newer.write_bytes(copy.read_bytes())
    with closing(sqlite3.connect(newer)) as connection:
        connection.execute("INSERT INTO migrations VALUES ('9999_later.sql', '', 0)")
        connection.commit()
    before = sorted(path.name for path in places.data.iterdir())
    with pytest.raises(StoreTrouble):
        restore(newer, places)
    held = places.claim()
    with pytest.raises(FolderUnusable):
        restore(copy, places)
    os.close(held)
    assert sorted(path.name for path in places.data.iterdir() if path.name not in ("in-use", "working")) == [
        name for name in before if name not in ("in-use", "working")
    ]


def test_ended_jobs_are_forgotten_by_number_and_by_age(database: Database) -> None:
    every = [
        jobs.add(database, JobKind.BENCHMARK, title=str(number), task=BenchmarkTask(), master_id=None)
        for number in range(8)
    ]
    with database.writing() as connection:
        for age, job in enumerate(every[:6]):
            connection.execute(
                "UPDATE jobs SET state = 'done', ended_at = unixepoch() - ? * 86400 WHERE id = ?", (age * 10, job.id)
            )
    assert jobs.prune(database, most=100, days=35) == 2
    assert jobs.prune(database, most=2, days=35, batch=1) == 1, "so many at once"
    assert jobs.prune(database, most=3, days=35) == 0
    left = [job for job in every if _there(database, job.id)]
    assert left == [*every[:3], *every[6:]], "the latest, and whatever still waits"
    assert {jobs.get(database, job.id).state for job in every[6:]} == {JobState.WAITING}


def _there(database: Database, job_id: str) -> bool:
    try:
        jobs.get(database, job_id)
    except NotFound:
        return False
    return True
