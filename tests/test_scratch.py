"""Scratch data lies in one folder of ours, and what a killed process left there goes at the next start."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.rehearsal import ScaledPicture
from hardy_parcel.processes.scratch import BEING_MADE_S, Scratch, sweep, users_root
from hardy_parcel.store import results
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.work.packing import partial_path
from hardy_parcel.work.recovery import remove_leftovers, remove_unowned_arrivals

KILLED = """
import os, signal, sys, tempfile
from pathlib import Path
from hardy_parcel.processes.scratch import Scratch
scratch = Scratch(Path(sys.argv[1]), "killed").use_by_default()
tempfile.mkstemp()
scratch.elsewhere(Path(sys.argv[2]))
for end in ("", "2", "-ready"):
    Path(sys.argv[2] + end).write_text("half")
print(scratch.folder, flush=True)
os.kill(os.getpid(), signal.SIGKILL)
"""


def test_what_a_killed_process_left_goes_and_what_a_living_one_has_stays(tmp_path: Path) -> None:
    root, out = tmp_path / "scratch", tmp_path / "out"
    out.mkdir()
    whole = out / "Gale.mp4"
    whole.write_text("film")
    alive = Scratch(root, "alive")
    partial = partial_path(out, "job")
    ended = subprocess.run([sys.executable, "-c", KILLED, str(root), str(partial)], capture_output=True, text=True)
    left = Path(ended.stdout.strip())
    assert ended.returncode < 0
    assert len([path for path in left.iterdir() if not path.name.startswith(".")]) == 1
    assert len(list(out.iterdir())) == 4
    assert sweep(root) == [left]
    assert (left.exists(), alive.folder.exists(), list(out.iterdir())) == (False, True, [whole])
    alive.close()
    assert not alive.folder.exists()
    assert sweep(root / "never made") == []


def test_a_place_that_is_just_being_made_is_nobodys_leftover(tmp_path: Path) -> None:
    placement = tmp_path / "worker-x"
    placement.mkdir()
    assert sweep(tmp_path) == []
    then = time.time() - 2 * BEING_MADE_S
    os.utime(placement, (then, then))
    assert sweep(tmp_path) == [placement]


def test_temporary_files_lie_there_as_long_as_it_is_used(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(tempfile, "tempdir", None)
    monkeypatch.setenv("TMPDIR", str(tmp_path))
    scratch = Scratch(tmp_path / "scratch", "own").use_by_default()
    with tempfile.NamedTemporaryFile() as file:
        assert Path(file.name).parent == scratch.folder
    assert os.environ["TMPDIR"] == str(scratch.folder)
    scratch.close()
    assert os.environ["TMPDIR"] == str(tmp_path)


def test_commands_leave_nothing_and_remove_what_a_killed_one_left(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch, gale: Path
) -> None:
    monkeypatch.setenv("XDG_CACHE_HOME", str(tmp_path / "cache"))
    out = tmp_path / "out"
    out.mkdir()
    partial = partial_path(out, "job")
    subprocess.run([sys.executable, "-c", KILLED, str(users_root()), str(partial)], capture_output=True)
    assert list(out.iterdir())
    subprocess.run(
        [sys.executable, "-m", "hardy_parcel.serve", "inspect", str(gale), "--header"], check=True, capture_output=True
    )
    assert (list(out.iterdir()), list(users_root().iterdir())) == ([], [])


def test_halves_in_the_cache_go_and_what_was_measured_stays(database: Database, places: Places) -> None:
    stored = places.rehearsals / "encodes" / "kept"
    results.keep_measurement(database, "film", "key", ScaledPicture(key="key", likenesses=()), stored)
    folders = [
        stored,
        places.rehearsals / "encodes" / "half",
        places.rehearsals / "handled" / "half",
        places.rehearsals / "treated" / "x",
    ]
    for folder in folders:
        folder.mkdir(parents=True)
    (folders[3] / "partial-frames").write_text("half")
    (folders[3] / "frames").write_text("whole")
    assert remove_leftovers(database, places) == [folders[1], folders[2], folders[3] / "partial-frames"]
    assert (stored.is_dir(), (folders[3] / "frames").is_file()) == (True, True)


def test_what_was_being_brought_back_goes(database: Database, places: Places) -> None:
    for name in ("returned-unknown", "never-sent"):
        (places.arrivals / name).mkdir(parents=True)
    assert [folder.name for folder in remove_unowned_arrivals(database, places)] == ["never-sent", "returned-unknown"]
    shutil.rmtree(places.arrivals)
    assert remove_unowned_arrivals(database, places) == []
