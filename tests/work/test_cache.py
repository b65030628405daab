"""What rehearsals leave on the disk stays within its bound, and logs tell what went wrong."""

from __future__ import annotations

import logging
import os
import time
from pathlib import Path

import pytest

from hardy_parcel.store import settings
from hardy_parcel.store.database import Database
from hardy_parcel.store.files import mark_used
from hardy_parcel.store.jobs import JobKind
from hardy_parcel.store.logs import log_to_file
from hardy_parcel.store.places import Places
from hardy_parcel.store.settings import Settings
from hardy_parcel.work.cache import IN_USE_S, TREATED_S, Cache, cache_bytes
from hardy_parcel.work.worker import Worker

MB = 1_000_000


def folder(places: Places, kind: str, name: str, *, size: int, idle_s: float) -> Path:
    """A folder of the cache that was used so long ago; sparse, so that it costs nothing."""
    place = ({"looks": places.looks, "arrivals": places.arrivals}.get(kind) or places.rehearsals / kind) / name
    place.mkdir(parents=True)
    file = place / "upload.film"
    with open(file, "wb") as opened:
        opened.truncate(size)
    then = time.time() - idle_s
    for path in (file, place):
        os.utime(path, (then, then))
    return place


def test_the_oldest_goes_first_and_what_is_in_use_never(database: Database, places: Places) -> None:
    settings.save(database, Settings(cache_gb=1))
    oldest = folder(places, "encodes", "a", size=600 * MB, idle_s=9 * IN_USE_S)
    older = folder(places, "handled", "b", size=600 * MB, idle_s=8 * IN_USE_S)
    newer = folder(places, "looks", "c", size=300 * MB, idle_s=2 * IN_USE_S)
    used = folder(places, "encodes", "d", size=900 * MB, idle_s=0)
    assert cache_bytes(places) == 2400 * MB
    assert Cache(database, places).tidy() == [oldest, older, newer]
    assert used.is_dir(), "above the bound, but in use"
    assert Cache(database, places).tidy() == []


def test_what_was_only_read_counts_by_its_mark_and_not_by_what_the_mount_writes_down(database: Database, places: Places) -> None:
    settings.save(database, Settings(cache_gb=1))
    read = folder(places, "encodes", "a", size=700 * MB, idle_s=9 * IN_USE_S)
    marked = folder(places, "encodes", "b", size=700 * MB, idle_s=9 * IN_USE_S)
    file = read / "upload.film"
    os.utime(file, (time.time(), file.stat().st_mtime))  # as a mount that writes reading times down would have it
    mark_used(marked, places.data / "gone")
    assert Cache(database, places).tidy() == [read]
    assert marked.is_dir()


def test_what_platforms_served_goes_too_and_what_was_brought_by_hand_stays(database: Database, places: Places) -> None:
    settings.save(database, Settings(cache_gb=1))
    served = folder(places, "arrivals", "a", size=1100 * MB, idle_s=9 * IN_USE_S)
    brought = folder(places, "arrivals", "returned-b", size=1100 * MB, idle_s=9 * IN_USE_S)
    assert Cache(database, places).tidy() == [served]
    assert brought.is_dir()


def test_within_the_bound_only_treated_pictures_go_and_only_when_nobody_uses_them(database: Database, places: Places) -> None:
    kept = folder(places, "encodes", "a", size=MB, idle_s=9 * TREATED_S)
    resting = folder(places, "treated", "b", size=MB, idle_s=TREATED_S / 2)
    left = folder(places, "treated", "c", size=MB, idle_s=2 * TREATED_S)
    assert Cache(database, places).tidy() == [left]
    assert kept.is_dir()
    assert resting.is_dir()
    assert cache_bytes(places) == 2 * MB


def test_rehearsals_one_after_another_do_not_keep_the_cache_from_being_tidied(places: Places, monkeypatch: pytest.MonkeyPatch) -> None:
    worker, tidied = Worker(places), []
    monkeypatch.setattr(worker._cache, "tidy", lambda: tidied.append(1))
    with monkeypatch.context() as rehearsing:
        rehearsing.setattr(worker, "_busy", lambda: {JobKind.REHEARSE})
        worker._tidy()
    assert tidied == [], "never while one is under way"
    worker._tidy()
    worker._tidy()
    assert tidied == [1]


@pytest.fixture
def root() -> logging.Logger:
    """The root logger, put back as it was."""
    found = logging.getLogger()
    before, level = list(found.handlers), found.level
    yield found
    for handler in found.handlers[:]:
        if handler not in before:
            found.removeHandler(handler)
            handler.close()
    found.setLevel(level)


def test_our_fault_leaves_a_trace_in_the_data_folder(tmp_path: Path, root: logging.Logger) -> None:
    log_to_file(tmp_path, "worker")
    logging.getLogger("hardy_parcel.anything").info("all is well")
    try:
        raise ZeroDivisionError("the details")
    except ZeroDivisionError:
        logging.getLogger("hardy_parcel.anything").exception("a round of work failed")
    text = (tmp_path / "logs" / "worker.log").read_text()
    assert "a round of work failed" in text
    assert "ZeroDivisionError: the details" in text
    assert "all is well" not in text
