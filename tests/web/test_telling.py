"""Answers that are told again until something of what they show changes."""

from __future__ import annotations

import pytest

from hardy_parcel.store import database as store
from hardy_parcel.store.database import Changed, Database
from hardy_parcel.web import telling
from hardy_parcel.web.telling import Telling


def change(database: Database, *changed: Changed) -> None:
    with database.writing(*changed):
        """Only the change is of interest."""


def test_an_answer_is_made_anew_once_what_it_shows_has_changed(database: Database) -> None:
    made: list[int] = []
    told: Telling[int] = Telling(4)

    def ask(key: str = "lanes") -> int:
        return told.of(database, (key,), lambda: made.append(1) or len(made), lambda one, _: one.kind == "lanes")

    assert [ask(), ask()] == [1, 1]
    change(database, Changed("job", "a"))
    change(database)
    assert ask() == 1
    change(database, Changed("lanes", "a"), Changed("job", "a"))
    assert [ask(), ask()] == [2, 2]
    assert ask("others") == 3


def test_what_changed_while_it_was_made_may_not_be_in_it(database: Database) -> None:
    told: Telling[str] = Telling(4)

    def make() -> str:
        change(database, Changed("lanes", "a"))
        return "old"

    assert told.of(database, (), make, lambda *_: True) == "old"
    assert told.of(database, (), lambda: "new", lambda *_: True) == "new"


def test_an_answer_is_not_told_when_what_changed_since_is_not_remembered_any_more(
    database: Database, monkeypatch: pytest.MonkeyPatch
) -> None:
    for module in (store, telling):
        monkeypatch.setattr(module, "KEPT_CHANGES", 3)
    told: Telling[str] = Telling(4)
    assert told.of(database, (), lambda: "old", lambda one, _: one.kind == "lanes") == "old"
    change(database, Changed("lanes", "a"))
    for _ in range(5):
        change(database, Changed("other", "b"))
    assert told.of(database, (), lambda: "new", lambda one, _: one.kind == "lanes") == "new"
