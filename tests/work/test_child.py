"""Child processes: what they are told, what they say, and how trouble crosses the border."""

from __future__ import annotations

import base64
import json
import os
import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import get_args

import pytest

from hardy_parcel.core.errors import BadChoice, Cancelled, DiskFull, HardyParcelError, NotFound, OverCap, UnreadableMaster
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.progress import JobProgress
from hardy_parcel.processes import messages, nursery
from hardy_parcel.processes.client import Child, in_child
from hardy_parcel.processes.messages import (
    MESSAGE,
    CheckTask,
    FactsFound,
    Failed,
    Inspected,
    InspectTask,
    ListenTask,
    Message,
    Outcome,
    PackTask,
    RehearseTask,
    StepTask,
    StripMade,
    StripTask,
    Task,
)
from hardy_parcel.work.child import Voice, outcome_of
from hardy_parcel.work.tasks import TASKS

from ..builders import ORRERY, facts

PLAN = make_plan(facts(), ORRERY)
TASK = StepTask(path=Path("a.mp4"), facts=facts(), number=0)


def told(fails: Exception | Outcome) -> Outcome | Failed:
    """What comes of a task that gives back or raises this."""
    def work(task, voice):
        if isinstance(fails, Exception):
            raise fails
        return fails

    return outcome_of(TASK, Voice(), {"step": work})


def spoken(capsys) -> list[dict]:
    return [json.loads(line) for line in capsys.readouterr().out.splitlines()]


def test_an_outcome_comes_back_as_itself() -> None:
    assert told(StripMade(pictures=3)) == StripMade(pictures=3)


def test_our_errors_keep_their_code() -> None:
    problem = told(DiskFull("The disk is full.", "Free some space.")).problem
    assert problem.model_dump() == {
        "kind": "disk_full", "code": "disk_full", "what": "The disk is full.", "todo": "Free some space.",
    }


@pytest.mark.parametrize("error", [
    BadChoice("The ceiling lies below the bit rate.", "Raise it.", code="low_ceiling"), OverCap("Too large.", "Smaller."),
    UnreadableMaster("Too slow.", code="too_slow"), HardyParcelError("Ours."), Cancelled("Stopped."),
])
def test_an_error_crosses_the_border_as_itself(error: HardyParcelError) -> None:
    failed = MESSAGE.validate_json(told(error).model_dump_json())
    back = failed.problem.error()
    assert (type(back), back.code, back.what, back.todo) == (type(error), error.code, error.what, error.todo)


def test_an_unexpected_error_is_a_plain_sentence_and_a_log(caplog) -> None:
    problem = told(ZeroDivisionError("secret detail")).problem
    assert "secret detail" not in problem.what + problem.todo
    assert "secret detail" in caplog.text
    assert problem.code == "unreadable_master", "what a reader stumbles over is the file's fault"
    ours = outcome_of(PackTask(path=Path("a"), facts=facts(), plan=PLAN, destination=ORRERY, folder=Path(), file_name="a"), Voice(), {})
    assert ours.problem.code == "trouble"


def test_a_wish_to_stop_ends_the_task() -> None:
    voice = Voice()
    voice._stop.set()

    def long(task, voice):
        voice.progress(JobProgress(share=0.1))

    assert outcome_of(TASK, voice, {"step": long}).problem.kind == Cancelled.code


def test_progress_is_not_told_more_than_a_few_times_a_second(capsys) -> None:
    voice = Voice()
    for i in range(1000):
        voice.progress(JobProgress(share=i / 1000))
    assert 1 <= len(spoken(capsys)) < 10


def test_a_picture_that_is_not_told_of_costs_no_forecast_of_time_and_can_be_stopped_at(gale: Path, gale_facts, tmp_path: Path) -> None:
    task = PackTask(
        path=gale, facts=gale_facts, plan=make_plan(gale_facts, ORRERY, Choices(method="encoded")), destination=ORRERY, folder=tmp_path,
        file_name="Gale.mp4", job_id="told",
    )

    class Hears:
        rested_s, asked, told = 0.0, 0, 0

        def due(self) -> bool:
            self.asked += 1
            if self.asked == 200:
                raise Cancelled("Stopped.", "Nothing was kept.")
            return self.asked % 40 == 0

        def progress(self, progress: JobProgress) -> None:
            self.told += 1

    voice = Hears()
    with pytest.raises(Cancelled):
        TASKS["pack"](task, voice)
    assert (voice.asked, voice.told) == (200, 4)
    assert not list(tmp_path.iterdir())


def test_every_task_has_its_work_and_every_message_a_kind_of_its_own() -> None:
    kinds = [task.model_fields["kind"].default for task in get_args(get_args(Task)[0])]
    assert sorted(TASKS) == sorted(kinds)
    messages = [message.model_fields["kind"].default for message in get_args(get_args(Message)[0])]
    assert len(set(messages)) == len(messages)


def test_one_child_reads_checks_listens_and_steps(tmp_path: Path, gale: Path) -> None:
    said: list[Message] = []
    with Child() as child:
        found = child.run(InspectTask(path=gale), hear=said.append)
        assert isinstance(found, Inspected)
        assert [type(message) for message in said] == [FactsFound]
        assert child.run(InspectTask(path=gale, look=True)).survey.pictures_seen == 100
        with pytest.raises(HardyParcelError):  # it can write nowhere: its first task needed no folder
            child.run(StripTask(path=gale, facts=found.facts, folder=tmp_path / "strip"))
        assert child.run(CheckTask(path=gale, facts=found.facts)).survey.pictures_seen == 100
        assert child.run(ListenTask(path=gale, facts=found.facts)).loudness.integrated_lufs is not None
        near = child.run(StepTask(path=gale, facts=found.facts, number=0, exact=False))
        assert base64.b64decode(near.jpeg)[:2] == b"\xff\xd8"
        assert child.run(StepTask(path=gale, facts=found.facts, number=42)).number == 42
        with pytest.raises(NotFound):
            child.run(StepTask(path=tmp_path / "gone.mp4", facts=found.facts, number=0))
        assert child.run(StepTask(path=gale, facts=found.facts, number=3)).at_s == pytest.approx(3 / 50)
    said.clear()
    assert in_child(StripTask(path=gale, facts=found.facts, folder=tmp_path / "strip"), hear=said.append).pictures == 24
    assert [message.pictures for message in said] == list(range(1, 25))


def test_what_cannot_be_understood_is_answered_and_the_child_goes_on(gale: Path) -> None:
    with Child() as child:
        child._write('{"nothing": 1}')
        assert child.messages.get(timeout=30).problem.code == "trouble"
        assert isinstance(child.run(InspectTask(path=gale)), Inspected)


def test_what_children_are_copies_of_leaves_with_its_owner_and_is_started_again_when_it_dies(gale: Path) -> None:
    code = (
        "import sys; from hardy_parcel.processes import nursery; nursery.prepare();"
        "print(nursery._process.pid, flush=True); sys.stdin.read()"
    )
    with subprocess.Popen([sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True) as owner:
        orphan = int(owner.stdout.readline())
        owner.kill()
    until_gone(orphan)
    with Child() as child:
        os.kill(nursery._process.pid, signal.SIGKILL)
        assert isinstance(child.run(InspectTask(path=gale)), Inspected), "a child lives on without it"
        assert not child.alive, "nobody can tell"
    with Child() as another:
        assert isinstance(another.run(InspectTask(path=gale)), Inspected)
        assert another.alive


def test_a_child_has_a_folder_a_session_and_pipes_of_its_own(tmp_path: Path, gale: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.chdir(tmp_path)
    with Child() as one, Child() as other:
        for child in (one, other):
            assert isinstance(child.run(InspectTask(path=gale)), Inspected)
        assert os.getsid(one.pid) == one.pid != other.pid
        assert [Path(f"/proc/{child.pid}/cwd").resolve() for child in (one, other)] == [tmp_path] * 2
        pipes = [{os.readlink(f"/proc/{child.pid}/fd/{end}") for end in range(3)} for child in (one, other)]
        assert len(pipes[0] | pipes[1]) == 6
        pid = one.pid
    until_gone(pid)


def until_gone(pid: int) -> None:
    ends = time.monotonic() + 20
    while Path(f"/proc/{pid}").exists() and "State:\tZ" not in Path(f"/proc/{pid}/status").read_text():
        assert time.monotonic() < ends, "it is still there"
        time.sleep(0.02)


def test_a_child_is_confined() -> None:
    code = (
        "import resource; from hardy_parcel.processes.confine import confine, READING_MEMORY;"
        "from pathlib import Path; from hardy_parcel.processes.messages import InspectTask; import tempfile;"
        "confine(InspectTask(path=Path('/nowhere.mp4')), Path(tempfile.mkdtemp()));"
        "assert resource.getrlimit(resource.RLIMIT_AS)[0] == READING_MEMORY;"
        "assert resource.getrlimit(resource.RLIMIT_CORE) == (0, 0)"
    )
    assert subprocess.run([sys.executable, "-c", code]).returncode == 0


def test_trouble_and_death_of_a_child_are_told_to_whoever_waits(tmp_path: Path, gale: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    (tmp_path / "text.mp4").write_text("no film")
    with pytest.raises(UnreadableMaster, match="cannot be read as a film"):
        in_child(InspectTask(path=tmp_path / "text.mp4"))
    with pytest.raises(NotFound):
        in_child(InspectTask(path=tmp_path / "missing.mp4"))
    with monkeypatch.context() as patch, pytest.raises(UnreadableMaster, match="too long"):
        patch.setattr("hardy_parcel.processes.client.WATCH_S", 0.001)
        in_child(InspectTask(path=gale), limit_s=0.0)
    with Child() as child:
        child.kill()
        with pytest.raises(UnreadableMaster, match="brought its reader down"):
            child.run(InspectTask(path=gale))


def test_temporary_files_are_gone_with_the_child(tmp_path: Path) -> None:
    with Child(tmp_path):
        assert len(list(tmp_path.iterdir())) == 1
    assert list(tmp_path.iterdir()) == []


def test_the_end_of_its_input_ends_the_child_at_its_work(gale: Path, gale_facts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, ORRERY)
    task = RehearseTask(path=gale, facts=gale_facts, plan=plan, destination=ORRERY, rates=(300_000,), folder=tmp_path)
    child = Child()
    child.start(task)
    child.messages.get(timeout=60)
    child._process.stdin.close()
    assert child._process.wait(20)
    child.close(grace_s=0)


def test_every_message_can_be_read_at_the_other_end() -> None:
    """One that is in no union would be dropped without a word."""
    every = {
        one for one in vars(messages).values()
        if isinstance(one, type) and one.__module__ == messages.__name__ and "kind" in one.model_fields
    }
    unions = (messages.Task.__origin__, messages.Message.__origin__)
    assert every == {one for union in unions for one in union.__args__}


def test_what_is_long_gives_way_even_where_processors_are_shared_by_sessions() -> None:
    code = (
        "import os; from pathlib import Path; os.setsid(); from hardy_parcel.processes.confine import _give_way; _give_way(5);"
        "shared = Path('/proc/self/autogroup'); print(os.nice(0), shared.read_text() if shared.exists() else 'nice 5')"
    )
    told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True).stdout
    assert told.startswith("5 ")
    assert told.strip().endswith("nice 5")
