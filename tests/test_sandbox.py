"""Every door of a child is shut but those that its task needs: tried from inside, on this very system."""

from __future__ import annotations

import json
import os
import socket
import subprocess
import sys
from collections.abc import Iterator
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.docked import Words
from hardy_parcel.core.errors import FolderUnusable
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.processes.client import in_child
from hardy_parcel.processes.confine import doors_of
from hardy_parcel.processes.messages import InspectTask, PackTask, SendTask
from hardy_parcel.processes.sandbox import Confinement, confinement, landlock_version

from .builders import ORRERY, facts

FOUND = confinement()
TRIED = """
import ctypes, json, os, signal, socket, subprocess, sys, threading
from pathlib import Path
from hardy_parcel.processes.sandbox import Doors, shut, system_reads

inside, port, other = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
sends = sys.argv[4] == "sends"
secret = inside.parent / "secret"
shut(Doors(
    reads=(inside / "film", *system_reads((sys.prefix, sys.base_prefix))), writes=(inside / "out",), port=port if sends else None,
))
found = {}

def attempt(name, act):
    try:
        found[name] = act() or "done"
    except BaseException as error:
        found[name] = type(error).__name__

def connect(to):
    with socket.create_connection(("127.0.0.1", to), timeout=2):
        return "done"

def ptrace():
    libc = ctypes.CDLL(None, use_errno=True)
    return "done" if libc.ptrace(16, os.getppid(), 0, 0) == 0 else os.strerror(ctypes.get_errno())

def in_a_thread():
    told = []
    thread = threading.Thread(target=lambda: told.append(_reads(secret)))
    thread.start()
    thread.join()
    return told[0]

def _reads(path):
    try:
        path.read_text()
        return "done"
    except OSError as error:
        return type(error).__name__

attempt("read the film", lambda: (inside / "film").read_text())
attempt("read another file", secret.read_text)
attempt("read it in a thread", in_a_thread)
attempt("list a folder", lambda: str(len(list(inside.parent.iterdir()))))
attempt("write", lambda: str((inside / "out" / "new").write_text("x")))
attempt("make a folder", lambda: (inside / "out" / "more").mkdir())
attempt("name a file", lambda: os.link(inside / "out" / "new", inside / "out" / "named"))
attempt("write the film", lambda: str((inside / "film").write_text("x")))
attempt("write elsewhere", lambda: str((inside.parent / "elsewhere").write_text("x")))
attempt("remove elsewhere", secret.unlink)
attempt("connect", lambda: connect(port))
attempt("connect elsewhere", lambda: connect(other))
attempt("start a program", lambda: str(subprocess.run(["/bin/true"]).returncode))
attempt("trace", ptrace)
attempt("signal", lambda: os.kill(os.getppid(), 0))
attempt("gain rights", lambda: [line for line in open("/proc/self/status") if line.startswith("NoNewPrivs")][0].split()[1])
print(json.dumps(found))
"""


@pytest.fixture
def listening() -> Iterator[list[int]]:
    """Two local ports that are listened on."""
    lines = [socket.create_server(("127.0.0.1", 0)) for _ in range(2)]
    yield [line.getsockname()[1] for line in lines]
    for line in lines:
        line.close()


def tried(folder: Path, ports: list[int], how: str) -> dict[str, str]:
    inside = folder / "inside"
    (inside / "out").mkdir(parents=True)
    (inside / "film").write_text("film")
    (folder / "secret").write_text("secret")
    ended = subprocess.run(
        [sys.executable, "-c", TRIED, str(inside), *map(str, ports), how], capture_output=True, text=True
    )
    assert ended.returncode == 0, ended.stderr
    return json.loads(ended.stdout)


def test_what_a_task_needs_is_open(tmp_path: Path, listening: list[int]) -> None:
    result = tried(tmp_path, listening, "reads")
    assert [result[name] for name in ("read the film", "write", "make a folder", "name a file")] == [
        "film",
        "1",
        "done",
        "done",
    ]


@pytest.mark.skipif(not FOUND.files, reason="this kernel has no Landlock")
def test_no_other_file_can_be_read_or_written(tmp_path: Path, listening: list[int]) -> None:
    result = tried(tmp_path, listening, "reads")
    shut = (
        "read another file",
        "read it in a thread",
        "list a folder",
        "write the film",
        "write elsewhere",
        "remove elsewhere",
    )
    assert {result[name] for name in shut} == {"PermissionError"}
    assert ((tmp_path / "secret").exists(), (tmp_path / "elsewhere").exists()) == (True, False)


@pytest.mark.skipif(not FOUND.system_calls, reason="this kernel filters no system calls")
def test_nothing_is_connected_to_started_or_traced(tmp_path: Path, listening: list[int]) -> None:
    result = tried(tmp_path, listening, "reads")
    assert {result[name] for name in ("connect", "connect elsewhere", "start a program")} == {"PermissionError"}
    assert result["trace"] == "Operation not permitted"
    assert result["gain rights"] == "1"


@pytest.mark.skipif(landlock_version() < 6, reason="this kernel keeps signals in only since version 6 of Landlock")
def test_no_other_process_gets_a_signal(tmp_path: Path, listening: list[int]) -> None:
    assert tried(tmp_path, listening, "reads")["signal"] == "PermissionError"


@pytest.mark.skipif(not FOUND.network_ports, reason="this kernel cannot tell one port from another")
def test_who_sends_keeps_its_one_address(tmp_path: Path, listening: list[int]) -> None:
    result = tried(tmp_path, listening, "sends")
    assert (result["connect"], result["connect elsewhere"], result["start a program"]) == (
        "done",
        "PermissionError",
        "PermissionError",
    )


def test_the_doors_of_a_task_are_its_own_paths(tmp_path: Path) -> None:
    plan, film = make_plan(facts(), ORRERY, Choices()), tmp_path / "film.mp4"
    out = tmp_path / "out"
    packing = PackTask(path=film, facts=facts(), plan=plan, destination=ORRERY, folder=out, file_name="x.mp4")
    doors = doors_of(packing, tmp_path / "scratch")
    assert (doors.writes, film in doors.reads, doors.port) == ((tmp_path / "scratch", out), True, None)
    assert not out.exists(), "a creator's folder that is missed is not made"
    sending = SendTask(
        path=film,
        sha256="0" * 64,
        destination_id="orrery-wide",
        words=Words(),
        line=None,
        address="http://127.0.0.1:8641",
    )
    assert doors_of(sending, tmp_path).port == 8641


def test_a_child_reads_its_own_film_and_packs_into_its_own_folder_alone(
    tmp_path: Path, gale: Path, gale_facts: MasterFacts
) -> None:
    """The real child, which opens the film that it is told of through a link, and no other folder than the one it writes."""
    link = tmp_path / "link.mp4"
    link.symlink_to(gale)
    assert in_child(InspectTask(path=link)).facts.content_id == gale_facts.content_id
    out = tmp_path / "out"
    out.mkdir()
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000, effort="quick"))
    task = PackTask(
        path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=out, file_name="x.mp4", job_id="job"
    )
    in_child(task)
    assert os.listdir(out) == ["x.mp4"]
    missing = task.model_copy(update={"folder": tmp_path / "missing"})
    with pytest.raises(FolderUnusable):
        in_child(missing)


def test_what_a_system_does_not_offer_is_said_in_a_sentence() -> None:
    whole = Confinement(no_new_privileges=True, files=True, network_ports=True, system_calls=True)
    assert whole.whole
    assert "no way" not in whole.sentence
    bare = whole.model_copy(update={"files": False})
    assert not bare.whole
    assert "cannot connect anywhere" in bare.sentence
    assert "keep it from trying to open or change files" in bare.sentence
