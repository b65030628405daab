"""The child's voice: results, problems and stops cross the process border as plain events."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from hardy_parcel.core.errors import Cancelled, DiskFull
from hardy_parcel.store.jobs import JobProgress
from hardy_parcel.work.child import Voice, run


def events(capsys) -> list[dict]:
    return [json.loads(line) for line in capsys.readouterr().out.splitlines()]


def test_a_result(capsys) -> None:
    assert run({"kind": "x"}, Voice(), {"x": lambda task, voice: {"answer": 1}}) == 0
    assert events(capsys) == [{"result": {"answer": 1}}]


def test_our_errors_keep_their_code(capsys) -> None:
    def full(task, voice):
        raise DiskFull("The disk is full.", "Free some space.")

    assert run({"kind": "x"}, Voice(), {"x": full}) == 1
    assert events(capsys) == [{"problem": {"code": "disk_full", "what": "The disk is full.", "todo": "Free some space."}}]


def test_an_unexpected_error_is_a_plain_sentence_and_a_log(capsys) -> None:
    def broken(task, voice):
        raise ZeroDivisionError("secret detail")

    assert run({"kind": "x"}, Voice(), {"x": broken}) == 1
    printed = capsys.readouterr()
    assert "secret detail" not in printed.out
    assert "secret detail" in printed.err
    assert json.loads(printed.out)["problem"]["code"] == "trouble"


def test_a_wish_to_stop_ends_the_task(capsys) -> None:
    voice = Voice()
    voice._stop.set()

    def long(task, voice):
        voice.progress(JobProgress(share=0.1))

    assert run({"kind": "x"}, voice, {"x": long}) == 1
    assert events(capsys)[0]["problem"]["code"] == Cancelled.code


def test_progress_is_not_told_more_than_a_few_times_a_second(capsys) -> None:
    voice = Voice()
    for i in range(1000):
        voice.progress(JobProgress(share=i / 1000))
    assert 1 <= len(events(capsys)) < 10


def child(task: dict) -> tuple[int, list[dict]]:
    """Run the real child with standard input held open, as the worker does."""
    process = subprocess.Popen(
        [sys.executable, "-m", "hardy_parcel.work.child"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    process.stdin.write(json.dumps(task) + "\n")
    process.stdin.flush()
    told = [json.loads(line) for line in process.stdout]
    process.stdin.close()
    return process.wait(timeout=30), told


def test_reading_a_file_in_a_child(tmp_path: Path, gale: Path) -> None:
    from hardy_parcel.docks.catalogue import destination

    place = destination("orrery-wide").model_dump(mode="json")
    task = {"kind": "inspect", "path": str(gale), "strips": str(tmp_path), "destination": place}
    code, told = child(task)
    assert code == 0
    assert [next(iter(event)) for event in told] == ["facts", "result"]
    assert told[1]["result"]["facts"]["audio"]["integrated_lufs"] is not None


@pytest.mark.parametrize("name", ["missing.mp4", "text.mp4"])
def test_a_bad_file_in_a_child(tmp_path: Path, name: str) -> None:
    (tmp_path / "text.mp4").write_text("no film")
    code, told = child({"kind": "inspect", "path": str(tmp_path / name), "strips": str(tmp_path), "destination": {}})
    assert code == 1
    assert told[0]["problem"]["code"] in ("not_found", "unreadable_master")


def test_the_end_of_its_input_ends_the_child(long_task: dict) -> None:
    process = subprocess.Popen(
        [sys.executable, "-m", "hardy_parcel.work.child"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    process.stdin.write(json.dumps(long_task) + "\n")
    process.stdin.flush()
    assert "progress" in process.stdout.readline()
    process.stdin.close()
    assert process.wait(timeout=20) == 3


@pytest.fixture
def long_task(tmp_path: Path, gale: Path, gale_facts) -> dict:
    from hardy_parcel.core.planning import make_plan

    from ..builders import ORRERY

    return {
        "kind": "curve", "path": str(gale), "facts": gale_facts.model_dump(mode="json"),
        "plan": make_plan(gale_facts, ORRERY).model_dump(mode="json"), "choices": {}, "rates": [300_000],
        "destination": ORRERY.model_dump(mode="json"), "folder": str(tmp_path),
    }
