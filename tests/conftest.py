"""Shared fixtures: tiny films made once a run, and places of a test's own."""

from __future__ import annotations

import gc
import os
from collections.abc import Iterator
from pathlib import Path

import pytest
from hypothesis import settings

from hardy_parcel.core.arrival import screens
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.media.inspect import inspect
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places

from . import films
from .service import gale_master, served, slow, trying

SMALL_PIXELS_PER_DEGREE = 12
"""Tests' films have a sixth of the pixels that masters have across, and screens shrink with them: the same rules in far less time."""
WHOLE_WORKS = ("browser", "work", "web", "test_cli.py", "test_benchmarks.py")
LONGEST_FIRST = (*WHOLE_WORKS, "media", "demo")
"""What takes longest is begun first, so that no worker is left with it at the end."""

__all__ = ["gale_master", "served", "slow", "trying"]

settings.register_profile("usual", deadline=None, max_examples=60, derandomize=True)
settings.load_profile("usual")


def pytest_configure(config: pytest.Config) -> None:
    """Children of the tests have small screens too; the workers that run them, which one process starts for all, have not."""
    if hasattr(config, "workerinput") or not config.getoption("numprocesses", None):
        before = os.environ.get("PYTHONPATH")
        os.environ["PYTHONPATH"] = os.pathsep.join(filter(None, (str(Path(__file__).with_name("children")), before)))


def pytest_collection_finish() -> None:
    """What is loaded by now stays: looking through it for garbage again and again takes a fortieth of all processor time."""
    gc.collect()
    gc.freeze()


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    def rank(item: pytest.Item) -> int:
        first = item.path.relative_to(Path(__file__).parent).parts[0]
        return LONGEST_FIRST.index(first) if first in LONGEST_FIRST else len(LONGEST_FIRST)

    items.sort(key=rank)


@pytest.fixture(autouse=True, scope="module")
def small_screens(request: pytest.FixtureRequest) -> Iterator[None]:
    """Small screens wherever films are rehearsed or judged; the rules of the core are tested with the real ones.

    Of a module's scope, so that what a module measures once is measured on them too.
    """
    with pytest.MonkeyPatch.context() as patch:
        if request.path.relative_to(Path(__file__).parent).parts[0] in WHOLE_WORKS:
            patch.setattr(screens, "PIXELS_PER_DEGREE", SMALL_PIXELS_PER_DEGREE)
        yield


@pytest.fixture(scope="session")
def shelf(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A folder for films that several tests read; none may be changed."""
    return tmp_path_factory.mktemp("films")


@pytest.fixture(scope="session")
def gale(shelf: Path) -> Path:
    """Two seconds of 320×180 at 50p with a tone."""
    return films.film(shelf / "Gale.mp4", rate=50)


@pytest.fixture(scope="session")
def gale_facts(gale: Path) -> MasterFacts:
    return inspect(gale)


@pytest.fixture
def places(tmp_path: Path) -> Places:
    return Places.of(tmp_path / "data", also=(tmp_path,))


@pytest.fixture
def database(places: Places) -> Database:
    return Database(places.database)
