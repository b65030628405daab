"""A drive that is not there: its parcels wait, and nothing is written where it is mounted."""

from __future__ import annotations

from pathlib import Path

import pytest

from hardy_parcel.core.errors import FolderUnusable
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.parcel.drive import Drive
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.processes.messages import PackTask
from hardy_parcel.store import drives, jobs
from hardy_parcel.store.database import Database
from hardy_parcel.store.drives import drive_of, note_used
from hardy_parcel.store.jobs import JobKind, JobState
from hardy_parcel.store.places import Places
from hardy_parcel.work import worker
from hardy_parcel.work.packing import pack_parcel

from ..builders import ORRERY
from .test_worker_states import steps

ROOT = Drive(mount_point="/", file_system_id=1, total_bytes=10**11)
STICK = Drive(mount_point="/media/stick", file_system_id=2, total_bytes=10**10)


def test_a_drive_is_known_by_its_place_and_its_number_or_size() -> None:
    assert STICK.is_same(STICK.model_copy(update={"file_system_id": 9})), "numbered anew with the next mount"
    assert STICK.is_same(STICK.model_copy(update={"total_bytes": 9})), "enlarged"
    assert not STICK.is_same(STICK.model_copy(update={"file_system_id": 9, "total_bytes": 9}))
    assert not STICK.is_same(ROOT)
    assert (ROOT.lies_above(STICK), STICK.lies_above(ROOT), STICK.lies_above(STICK)) == (True, False, False)


def test_the_drive_of_a_folder_is_read_from_the_system(tmp_path: Path) -> None:
    result = drive_of(tmp_path)
    assert result.total_bytes > 0
    assert tmp_path.resolve().is_relative_to(result.mount_point)
    assert drive_of(tmp_path).is_same(result)


@pytest.fixture
def mounted(monkeypatch: pytest.MonkeyPatch):
    """Says which drive every folder lies on from now on."""

    def mount(drive: Drive) -> None:
        monkeypatch.setattr(drives, "drive_of", lambda folder: drive)

    return mount


def test_an_empty_mount_point_is_refused_and_another_drive_in_its_place_is_taken(
    database: Database, tmp_path: Path, mounted
) -> None:
    folder = tmp_path / "stick"
    folder.mkdir()
    mounted(STICK)
    assert note_used(database, folder) == STICK
    mounted(ROOT)
    with pytest.raises(FolderUnusable) as refused:
        note_used(database, folder)
    assert refused.value.code == "drive_away"
    other = STICK.model_copy(update={"file_system_id": 7, "total_bytes": 7})
    mounted(other)
    assert note_used(database, folder) == other
    mounted(ROOT)
    (folder / "film.mp4").write_text("a folder of the disk itself, with something in it")
    assert note_used(database, folder) == ROOT


def test_nothing_is_written_while_the_drive_is_away(
    gale: Path, gale_facts: MasterFacts, tmp_path: Path, mounted
) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices())
    mounted(ROOT)
    with pytest.raises(FolderUnusable):
        pack_parcel(
            gale,
            gale_facts,
            plan,
            folder=tmp_path,
            file_name="Gale.mp4",
            job_id="job",
            report=lambda _: None,
            drive=STICK,
        )
    assert list(tmp_path.iterdir()) == []


def test_a_job_waits_for_its_drive_and_goes_on_by_itself(
    database: Database, places: Places, gale: Path, gale_facts: MasterFacts, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(worker, "HOLD_S", 0.1)
    monkeypatch.setattr(worker, "LOOK_S", 0.05)
    on_this_drive = worker.Worker(places)
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000, effort="quick"))
    folder = places.outbox / "drive"
    folder.mkdir()
    elsewhere = drive_of(folder).model_copy(update={"mount_point": "/media/stick"})
    task = PackTask(
        path=gale, facts=gale_facts, plan=plan, destination=ORRERY, folder=folder, drive=elsewhere, file_name="Gale.mp4"
    )
    job = jobs.add(database, JobKind.PACK, title="Gale", task=task, master_id=None)
    steps(on_this_drive, lambda: jobs.get(database, job.id).problem)
    held = jobs.get(database, job.id)
    assert (held.state, held.problem.code, list(folder.iterdir())) == (JobState.WAITING, "drive_away", [])
    with database.writing() as connection:  # as if the drive had come to be mounted there
        back = task.model_copy(update={"drive": drive_of(folder)}).model_dump_json()
        connection.execute("UPDATE jobs SET task = ? WHERE id = ?", (back, job.id))
    steps(on_this_drive, lambda: jobs.get(database, job.id).state is JobState.DONE)
    assert [path.name for path in folder.iterdir()] == ["Gale.mp4"]
    on_this_drive.stopping.set()
    on_this_drive.run()
