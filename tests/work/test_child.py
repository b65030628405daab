"""The child's voice: results, problems and stops cross the process border as plain events."""

from __future__ import annotations

import json
import subprocess
import sys
from pathlib import Path

import pytest

from hardy_parcel.core.errors import BadChoice, Cancelled, DiskFull, HardyParcelError, NotFound, OverCap, Problem, UnreadableMaster
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.store.jobs import JobProgress
from hardy_parcel.work.child import Voice, run
from hardy_parcel.work.run import in_child


def events(capsys) -> list[dict]:
    return [json.loads(line) for line in capsys.readouterr().out.splitlines()]


def test_a_result(capsys) -> None:
    assert run({"kind": "x"}, Voice(), {"x": lambda task, voice: {"answer": 1}}) == 0
    assert events(capsys) == [{"result": {"answer": 1}}]


def test_our_errors_keep_their_code(capsys) -> None:
    def full(task, voice):
        raise DiskFull("The disk is full.", "Free some space.")

    assert run({"kind": "x"}, Voice(), {"x": full}) == 1
    assert events(capsys) == [
        {"problem": {"kind": "disk_full", "code": "disk_full", "what": "The disk is full.", "todo": "Free some space."}}
    ]


@pytest.mark.parametrize("error", [
    BadChoice("The ceiling lies below the bit rate.", "Raise it.", code="low_ceiling"), OverCap("Too large.", "Smaller."),
    UnreadableMaster("Too slow.", code="too_slow"), HardyParcelError("Ours."), Cancelled("Stopped."),
])
def test_an_error_crosses_the_border_as_itself(error: HardyParcelError, capsys) -> None:
    def fails(task, voice):
        raise error

    run({"kind": "x"}, Voice(), {"x": fails})
    back = Problem.model_validate(events(capsys)[0]["problem"]).error()
    assert (type(back), back.code, back.what, back.todo) == (type(error), error.code, error.what, error.todo)


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


def test_reading_a_file_in_children(tmp_path: Path, gale: Path) -> None:
    place = destination("orrery-wide").model_dump(mode="json")
    code, told = child({"kind": "inspect", "path": str(gale)})
    assert code == 0
    assert [next(iter(event)) for event in told] == ["facts", "result"]
    facts = told[1]["result"]["facts"]
    looked = child({"kind": "inspect", "path": str(gale), "look": True})[1]
    assert looked[-1]["result"]["survey"]["pictures_seen"] == 100
    spec = {"path": str(gale), "facts": facts, "strips": str(tmp_path), "destination": place}
    assert [next(iter(event)) for event in child({"kind": "strip", **spec})[1]] == ["strip"] * 24 + ["result"]
    assert child({"kind": "check", **spec})[1][-1]["result"]["survey"]["pictures_seen"] == 100
    assert child({"kind": "listen", **spec})[1][-1]["result"]["loudness"]["integrated_lufs"] is not None


def test_a_spare_child_leaves_when_nobody_needs_it() -> None:
    spare = subprocess.Popen([sys.executable, "-m", "hardy_parcel.work.child"], stdin=subprocess.PIPE)
    spare.stdin.close()
    assert spare.wait(timeout=30) == 0


def test_a_child_is_confined() -> None:
    code = (
        "import resource; from hardy_parcel.work.child import confine, READING_MEMORY;"
        "confine({'kind': 'check', 'scratch': '/tmp'});"
        "assert resource.getrlimit(resource.RLIMIT_AS)[0] == READING_MEMORY;"
        "assert resource.getrlimit(resource.RLIMIT_CORE) == (0, 0)"
    )
    assert subprocess.run([sys.executable, "-c", code]).returncode == 0


def test_trouble_and_death_of_a_child_are_told_to_whoever_waits(tmp_path: Path, gale: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "text.mp4").write_text("no film")
    with pytest.raises(UnreadableMaster, match="cannot be read as a film"):
        in_child({"kind": "inspect", "path": str(tmp_path / "text.mp4")})
    with pytest.raises(NotFound):
        in_child({"kind": "inspect", "path": str(tmp_path / "missing.mp4")})
    with pytest.raises(UnreadableMaster, match="too long"):
        in_child({"kind": "inspect", "path": str(gale)}, limit_s=0.01)
    monkeypatch.setattr("hardy_parcel.work.run.sys.executable", "/bin/true")
    with pytest.raises(UnreadableMaster, match="brought its reader down"):
        in_child({"kind": "inspect", "path": str(gale)})


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
    from hardy_parcel.core.plan.planning import make_plan

    from ..builders import ORRERY

    return {
        "kind": "curve", "path": str(gale), "facts": gale_facts.model_dump(mode="json"),
        "plan": make_plan(gale_facts, ORRERY).model_dump(mode="json"), "choices": {}, "rates": [300_000],
        "destination": ORRERY.model_dump(mode="json"), "folder": str(tmp_path),
    }
