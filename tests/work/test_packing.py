"""From a partial name to a verified file: nothing half-written is ever left or shown."""

from __future__ import annotations

import shutil
from pathlib import Path

import pytest

from hardy_parcel.core.errors import Cancelled, DiskFull, FolderUnusable, NameTaken, PackedFileWrong
from hardy_parcel.core.facts import MasterFacts
from hardy_parcel.core.plan import Choices
from hardy_parcel.core.planning import make_plan
from hardy_parcel.media import pack as media_pack
from hardy_parcel.work import packing
from hardy_parcel.work.packing import choose_name, pack_parcel, partial_path

from .. import films
from ..builders import ORRERY


@pytest.fixture
def plan(gale_facts: MasterFacts):
    return make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000))


def run(gale: Path, gale_facts: MasterFacts, plan, folder: Path, report=lambda progress: None, name: str = "Gale.mp4"):
    return pack_parcel(gale, gale_facts, plan, folder=folder, file_name=name, job_id="job", report=report)


def test_the_file_has_its_name_only_at_the_end(gale, gale_facts, plan, tmp_path: Path) -> None:
    seen: set[str] = set()
    receipt = run(gale, gale_facts, plan, tmp_path, lambda _: seen.update(p.name for p in tmp_path.iterdir()))
    assert seen == {partial_path(tmp_path, "job").name}
    assert [p.name for p in tmp_path.iterdir()] == ["Gale.mp4"]
    assert receipt.size_bytes == (tmp_path / "Gale.mp4").stat().st_size
    assert receipt.differing == ()
    assert receipt.pictures == 100


def test_the_master_is_not_touched(gale, gale_facts, plan, tmp_path: Path) -> None:
    before = (gale.read_bytes(), gale.stat().st_mtime_ns)
    run(gale, gale_facts, plan, tmp_path)
    assert (gale.read_bytes(), gale.stat().st_mtime_ns) == before


def test_a_stop_leaves_nothing(gale, gale_facts, plan, tmp_path: Path) -> None:
    def stop(progress) -> None:
        if progress.done > 150:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        run(gale, gale_facts, plan, tmp_path, stop)
    assert list(tmp_path.iterdir()) == []


def test_what_is_there_is_never_overwritten(gale, gale_facts, plan, tmp_path: Path) -> None:
    (tmp_path / "Gale.mp4").write_bytes(b"mine")
    with pytest.raises(NameTaken):
        run(gale, gale_facts, plan, tmp_path)
    assert (tmp_path / "Gale.mp4").read_bytes() == b"mine"


def test_not_even_when_it_appears_while_packing(gale, gale_facts, plan, tmp_path: Path) -> None:
    with pytest.raises(NameTaken, match="appeared meanwhile"):
        run(gale, gale_facts, plan, tmp_path, lambda progress: (tmp_path / "Gale.mp4").write_bytes(b"mine"))
    assert (tmp_path / "Gale.mp4").read_bytes() == b"mine"
    assert len(list(tmp_path.iterdir())) == 1


def test_a_disk_without_room_is_told_before_a_frame_is_touched(gale, gale_facts, plan, tmp_path, monkeypatch) -> None:
    monkeypatch.setattr(shutil, "disk_usage", lambda folder: shutil._ntuple_diskusage(10**9, 10**9, 1000))
    with pytest.raises(DiskFull, match="1\\.0 kB free and this parcel may need"):
        run(gale, gale_facts, plan, tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_a_file_that_is_not_as_planned_does_not_get_its_name(gale, gale_facts, plan, tmp_path, monkeypatch) -> None:
    """The encoder loses its last ten pictures; verification finds it and nothing is kept."""
    real = media_pack.every_tick
    monkeypatch.setattr(media_pack, "every_tick", lambda plan: list(real(plan))[:-10])
    with pytest.raises(PackedFileWrong, match="pictures"):
        run(gale, gale_facts, plan, tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_a_file_that_does_not_play_to_its_end_does_not_get_its_name(gale, gale_facts, plan, tmp_path, monkeypatch) -> None:
    real = packing.pack

    def torn(*args, **kwargs):
        result = real(*args, **kwargs)
        films.cut_short(args[3], args[3], 0.8)
        return result

    monkeypatch.setattr(packing, "pack", torn)
    with pytest.raises(PackedFileWrong):
        run(gale, gale_facts, plan, tmp_path)
    assert list(tmp_path.iterdir()) == []


def test_an_unusable_folder(gale, gale_facts, plan, tmp_path: Path) -> None:
    with pytest.raises(FolderUnusable, match="no folder"):
        run(gale, gale_facts, plan, tmp_path / "nowhere")


def test_names_that_are_there_or_promised_are_passed_over(tmp_path: Path) -> None:
    (tmp_path / "Gale.mp4").touch()
    assert choose_name(tmp_path, "Gale", "mp4", {"Gale (2).mp4"}) == "Gale (3).mp4"
