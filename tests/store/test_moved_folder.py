"""A data folder that was moved or renamed: everything that was stored is found again, whoever wrote it."""

from __future__ import annotations

import json
import os
import shutil
import sqlite3
from pathlib import Path

import pytest

from hardy_parcel.core.parcel.receipt import Receipt
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.processes.messages import InspectTask, PackTask
from hardy_parcel.store import jobs, masters, parcels, results, settings
from hardy_parcel.store.data_paths import MARK, DataPaths
from hardy_parcel.store.database import Database
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.store.places import Places
from hardy_parcel.store.settings import Settings

from ..builders import ORRERY, facts

PLAN = make_plan(facts(), ORRERY, Choices())


def receipt(folder: Path, name: str = "Gale.mp4") -> Receipt:
    return Receipt(file_name=name, folder=str(folder), size_bytes=4, sha256="0" * 64, encode_s=1.0, pictures=1, rows=())


def filled(places: Places) -> Database:
    """A film with lanes, a choice, a receipt, a waiting job and folders of one's own."""
    database = Database(places.database)
    film = places.inbox / "Gale.mp4"
    film.write_bytes(b"film")
    master = masters.add(database, film)
    masters.set_ready(database, master, facts())
    parcels.make_first_lanes(database, master, ["orrery-wide"], None)
    [parcel] = parcels.of_master(database, master)
    local = places.outbox / "own folder"
    local.mkdir()
    parcels.keep(database, parcel.model_copy(update={"choices": Choices(effort="quick"), "folder": str(local)}))
    results.keep_receipt(
        database,
        job_id="packed",
        master_id=master,
        master_name="Gale.mp4",
        parcel_id=parcel.id,
        plan=PLAN,
        receipt=receipt(local),
    )
    task = PackTask(path=film, facts=facts(), plan=PLAN, destination=ORRERY, folder=local, file_name="Next.mp4")
    jobs.add(database, JobKind.PACK, title="Gale", task=task, master_id=master)
    settings.save(database, Settings(output_folder=str(local), folders=(str(places.data / "extra"), "/mnt/elsewhere")))
    return database


def check(places: Places) -> None:
    """Everything is found below the folder where it is now."""
    database, local = Database(places.database), places.outbox / "own folder"
    [master] = masters.shelf(database)
    assert master.path == str(places.inbox / "Gale.mp4")
    assert list(masters.known(database)) == [master.path]
    [parcel] = parcels.of_master(database, master.id)
    assert (parcel.choices.effort, parcel.folder) == ("quick", str(local))
    assert results.receipt(database, "packed").receipt.folder == str(local)
    assert [stored.receipt.folder for stored in results.receipts(database)] == [str(local)]
    assert jobs.promised_targets(database) == {(str(local), "Next.mp4")}
    assert jobs.awaited_bytes(database).keys() == {str(local)}
    stored = settings.load(database)
    assert (stored.output_folder, stored.folders) == (str(local), (str(places.data / "extra"), "/mnt/elsewhere"))
    claimed = jobs.claim(database, JobKind.PACK, "nobody")
    assert claimed
    task = PackTask.model_validate_json(claimed[1])
    assert (task.path, task.folder) == (places.inbox / "Gale.mp4", local)
    jobs.put_back(database, claimed[0], "nobody")


@pytest.fixture
def places(tmp_path: Path) -> Places:
    return Places.of(tmp_path / 'Tide "table" data')


def moved(places: Places, name: str) -> Places:
    target = places.data.with_name(name)
    shutil.move(places.data, target)
    return Places.of(target)


def test_nothing_below_the_data_folder_is_stored_with_it(places: Places) -> None:
    database = filled(places)
    with database.reading() as connection:
        for (table,) in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'").fetchall():
            for row in connection.execute(f"SELECT * FROM {table}"):
                if table == "settings" and row["name"] == "data_folder":
                    continue
                assert str(places.data) not in json.dumps(dict(row), default=str, ensure_ascii=False).replace(
                    "\\", ""
                ), table
        assert connection.execute("SELECT path FROM masters").fetchone()["path"] == "inbox/Gale.mp4"


def test_a_moved_folder_keeps_films_lanes_receipts_and_what_waits(places: Places) -> None:
    filled(places)
    check(places)
    at_this_point = moved(places, "another name")
    check(at_this_point)
    check(moved(at_this_point, "ünd noch einmal"))


def test_a_folder_of_an_older_version_is_found_where_it_was_and_where_it_went(places: Places) -> None:
    """Which stored whole paths, and did not note where the folder was."""
    filled(places)
    inside = f"{places.data}/"
    as_json = json.dumps(inside)[1:-1]
    with sqlite3.connect(places.database) as connection:
        connection.execute("DELETE FROM settings WHERE name = 'data_folder'")
        connection.execute("UPDATE masters SET path = ? || path", (inside,))
        connection.execute("UPDATE parcels SET folder = ? || folder", (inside,))
        connection.execute("UPDATE settings SET value = ? || value WHERE name = 'output_folder'", (inside,))
        for table, column in (("jobs", "task"), ("receipts", "receipt"), ("settings", "value")):
            connection.execute(f"UPDATE {table} SET {column} = replace({column}, ?, ?)", (f'"{MARK}', f'"{as_json}'))
    connection.close()
    check(moved(places, "moved before the new version came"))


def test_a_film_that_was_seen_anew_at_its_new_place_is_not_there_twice(places: Places) -> None:
    database = filled(places)
    inside = f"{places.data}/"
    with database.writing() as connection:
        connection.execute("UPDATE masters SET path = ? || path", (inside,))
        connection.execute("DELETE FROM settings WHERE name = 'data_folder'")
    at_this_point = moved(places, "here")
    with sqlite3.connect(at_this_point.database) as connection:  # as an older version did on its first look
        connection.execute(
            "INSERT INTO masters (id, path, size_bytes, modified_ns, state, added_at, revision) VALUES ('new', ?, 4, 1, 'ready', 9e9, 1)",
            (f"{at_this_point.data}/inbox/Gale.mp4",),
        )
    connection.close()
    check(at_this_point)


@pytest.mark.parametrize("folder", [Path("/data"), Path("/"), Path('/a "b"/ü')])
def test_paths_go_in_and_come_out_the_same(folder: Path) -> None:
    paths = DataPaths(folder)
    for path in (folder / "inbox" / "Gale.mp4", folder / "x", Path("/elsewhere/y"), Path(f"{folder}beside") / "z"):
        assert paths.full(paths.stored(path)) == str(path)
        text = json.dumps({"path": str(path), "name": path.name}, ensure_ascii=False)
        assert paths.full_json(paths.stored_json(text)) == text
        assert paths.full_text(json.loads(paths.stored_json(text))["path"]) == str(path)
    assert (paths.stored(""), paths.full("")) == ("", "")
    assert not os.path.isabs(paths.stored(folder / "inbox"))


def test_a_film_that_was_missed_is_found_again_under_another_name_with_all_that_was_chosen(places: Places) -> None:
    database = filled(places)
    [before] = masters.shelf(database)
    masters.set_gone(database, before.id)
    assert masters.shelf(database) == []
    film = places.inbox / "Gale, renamed.mp4"
    (places.inbox / "Gale.mp4").rename(film)
    new = masters.add(database, film)
    reading = jobs.add(database, JobKind.INSPECT, title="Reading", task=InspectTask(path=film), master_id=new)
    assert masters.set_ready(database, new, facts()) == before.id
    [after] = masters.shelf(database)
    assert (after.id, after.name, after.state) == (before.id, film.name, "ready")
    assert [parcel.choices.effort for parcel in parcels.of_master(database, after.id)] == ["quick"]
    assert jobs.get(database, reading.id).master_id == before.id
    other = places.inbox / "Gale, a copy.mp4"
    other.write_bytes(b"film")
    copy = masters.add(database, other)
    assert masters.set_ready(database, copy, facts()) == copy, "a copy of a film that is there is a film of its own"


def test_of_several_films_that_were_missed_the_one_of_the_same_name_is_found(places: Places) -> None:
    database, ids = Database(places.database), {}
    for name in ("B.mp4", "A.mp4", "C.mp4"):
        (places.inbox / name).write_bytes(b"film")
        ids[name] = masters.add(database, places.inbox / name)
        masters.set_ready(database, ids[name], facts())
    for master in ids.values():
        masters.set_gone(database, master)
    elsewhere = places.data.with_name("A.mp4")
    elsewhere.write_bytes(b"film")
    assert masters.set_ready(database, masters.add(database, elsewhere), facts()) == ids["A.mp4"]
