"""What is read, changed and written back in one transaction: nobody comes between, and what fails leaves nothing."""

from __future__ import annotations

import threading
from pathlib import Path

import pytest

from hardy_parcel.core.errors import ChangedMeanwhile, NotFound
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.store import masters, parcels
from hardy_parcel.store.database import Changed, Database, changed_since


@pytest.fixture
def database(tmp_path: Path) -> Database:
    return Database(tmp_path / "kept.sqlite3")


@pytest.fixture
def parcel_id(database: Database, tmp_path: Path) -> str:
    film = tmp_path / "film.mp4"
    film.write_bytes(b"film")
    master = masters.add(database, film)
    parcels.make_first_lanes(database, master, ["orrery-wide"], None)
    return parcels.of_master(database, master)[0].id


def change(database: Database, parcel_id: str, **choices: object) -> None:
    stored = parcels.get(database, parcel_id)
    parcels.keep(
        database,
        stored.model_copy(update={"choices": Choices(**{**stored.choices.model_dump(exclude_none=True), **choices})}),
    )


def test_two_who_change_one_parcel_at_once_both_stay(database: Database, parcel_id: str) -> None:
    inside, tried = threading.Event(), threading.Event()

    def first() -> None:
        with database.transaction():
            stored = parcels.get(database, parcel_id)
            inside.set()
            assert not tried.wait(0.5), "nobody else gets in between"
            parcels.keep(database, stored.model_copy(update={"choices": Choices(effort="quick")}))

    def second() -> None:
        assert inside.wait(10)
        with database.transaction():
            tried.set()
            change(database, parcel_id, codec="hevc")

    both = [threading.Thread(target=first), threading.Thread(target=second)]
    for item in both:
        item.start()
    for item in both:
        item.join(20)
    assert parcels.get(database, parcel_id).choices == Choices(effort="quick", codec="hevc")


def test_a_change_from_an_older_state_is_noticed(database: Database, parcel_id: str) -> None:
    seen = parcels.get(database, parcel_id).revision
    parcels.check_seen(database, {parcel_id: seen})
    change(database, parcel_id, effort="quick")
    with pytest.raises(ChangedMeanwhile):
        parcels.check_seen(database, {parcel_id: seen})
    after = parcels.get(database, parcel_id)
    assert after.revision > seen
    parcels.keep(database, after)
    assert parcels.get(database, parcel_id).revision == after.revision, "what says the same is no change"


def test_what_fails_leaves_nothing_and_a_part_that_fails_leaves_the_rest(database: Database, parcel_id: str) -> None:
    before, revision = parcels.get(database, parcel_id), database.revision()
    with pytest.raises(RuntimeError, match="broken off"), database.transaction():
        change(database, parcel_id, effort="quick")
        raise RuntimeError("broken off")
    assert (parcels.get(database, parcel_id), database.revision()) == (before, revision)

    def fail() -> None:
        with database.writing(Changed("never", "")):
            change(database, parcel_id, codec="av1")
            raise NotFound("gone")

    with database.transaction():
        change(database, parcel_id, effort="careful")
        with pytest.raises(NotFound):
            fail()
    assert parcels.get(database, parcel_id).choices == Choices(effort="careful")
    assert database.revision() == revision + 1, "one transaction is one revision"
    assert "never" not in {item.kind for item in changed_since(database, revision)}


def test_several_statements_see_one_state(database: Database, parcel_id: str) -> None:
    with database.snapshot():
        before = parcels.get(database, parcel_id)
        writer = threading.Thread(target=change, args=(database, parcel_id), kwargs={"effort": "quick"})
        writer.start()
        writer.join(10)
        assert parcels.get(database, parcel_id) == before
        with pytest.raises(RuntimeError, match="one state"):  # what it wrote it would not see
            change(database, parcel_id, effort="careful")
    assert parcels.get(database, parcel_id).choices.effort == "quick"


def test_what_belongs_to_something_that_is_gone_is_not_found(database: Database) -> None:
    with pytest.raises(NotFound), database.writing() as connection:
        connection.execute(
            "INSERT INTO excerpts (master_id, number, title, in_s, out_s) VALUES ('nobody', 1, '', '0', '1')"
        )
