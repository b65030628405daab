"""From a partial name to a verified file: nothing half-written is ever left or shown."""

from __future__ import annotations

import shutil
from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.ticks import Tick
from hardy_parcel.core.errors import Cancelled, DiskFull, FolderUnusable, NameTaken, OverCap, PackedFileWrong
from hardy_parcel.core.master.facts import Excerpt, MasterFacts
from hardy_parcel.core.plan.caps import MOST_TRIES
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.stamps import Source, chosen
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media import pack as media_pack
from hardy_parcel.work import judging, packing
from hardy_parcel.work.packing import choose_name, pack_parcel, partial_path

from .. import films
from ..builders import ORRERY


@pytest.fixture
def plan(gale_facts: MasterFacts):
    return make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=300_000, rate_control="two passes"))


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


def test_one_run_of_what_is_judged_is_tried_first_of_a_long_film(gale, gale_facts, plan, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr("hardy_parcel.work.packing.JUDGING_TRIED_FROM", 100)
    heard: list = []
    run(gale, gale_facts, plan, tmp_path, heard.append)
    assert heard[0].done == 0
    assert 0 < heard[0].judging_s < 60
    assert [one.judging_s for one in heard[1:]] == [None] * (len(heard) - 1)
    monkeypatch.setattr("hardy_parcel.work.packing.JUDGING_TRIED_FROM", 101)
    run(gale, gale_facts, plan, tmp_path, heard.append, name="Again.mp4")
    assert len([one for one in heard if one.judging_s is not None]) == 1, "a short one is not worth it"


@pytest.mark.parametrize("when", ["the last picture is packed", "the file is read back", "the file is judged"])
def test_a_folder_that_goes_away_is_named_whenever_it_does(gale, gale_facts, plan, tmp_path: Path, when: str) -> None:
    folder, away = tmp_path / "out", tmp_path / "away"
    folder.mkdir()

    def report(progress) -> None:
        now = {
            "the last picture is packed": progress.done == progress.total,
            "the file is read back": progress.reading_back and progress.done == progress.total, "the file is judged": progress.judging,
        }
        if now[when] and folder.exists():
            folder.rename(away)

    with pytest.raises(FolderUnusable, match="out (went away while Gale.mp4 was being packed|cannot be written to)"):
        run(gale, gale_facts, plan, folder, report)
    away.rename(folder)
    assert run(gale, gale_facts, plan, folder).differing == ()


def test_a_receipt_says_how_the_file_looks(gale, gale_facts, tmp_path: Path) -> None:
    seen = {}
    for kbps in (60, 3000):
        plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", video_bitrate_bps=kbps * 1000, effort="quick"))
        receipt = run(gale, gale_facts, plan, tmp_path, name=f"{kbps}.mp4")
        seen[kbps] = receipt.judged.condition
        assert receipt.judged_pictures >= 4
        assert 0 <= receipt.poorest_s < 2
    assert seen[3000] > 90 > seen[60] + 10
    untouched = make_plan(gale_facts, destination("handover-client"), Choices(method="untouched"))
    assert run(gale, gale_facts, untouched, tmp_path, name="same.mp4").judged is None


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
    with pytest.raises(DiskFull, match="1\\.0 kB free; this parcel may need"):
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


def over(plan, share: float, size: int):
    """The plan with a cap of this share of what it came to."""
    return plan.model_copy(update={"size_cap": chosen(round(size * share), "creator_cap", "your choice", Source.CREATOR)})


def test_what_passes_its_cap_is_packed_again_and_keeps_below_it(gale, gale_facts, plan, tmp_path: Path) -> None:
    size = run(gale, gale_facts, plan, tmp_path).size_bytes
    tight = over(plan, 0.8, size)
    receipt = run(gale, gale_facts, tight, tmp_path, name="Tight.mp4")
    assert 2 <= receipt.tries <= MOST_TRIES
    assert 0.8 * tight.size_cap.value < receipt.size_bytes <= tight.size_cap.value
    row = next(row for row in receipt.rows if row.code == "size_cap")
    assert row.match == "as planned"
    assert receipt.differing == ()


def test_what_can_never_keep_below_its_cap_is_held_and_leaves_nothing(gale, gale_facts, plan, tmp_path: Path) -> None:
    hopeless = over(plan, 0.05, run(gale, gale_facts, plan, tmp_path).size_bytes)
    with pytest.raises(OverCap, match="shorter excerpt"):
        run(gale, gale_facts, hopeless, tmp_path, name="Hopeless.mp4")
    assert [p.name for p in tmp_path.iterdir()] == ["Gale.mp4"]


@pytest.mark.parametrize("choices", [
    {"codec": "h264"}, {"codec": "h264", "rate_control": "one pass"}, {"codec": "hevc"},
    {"codec": "vp9", "rate_control": "one pass"}, {"codec": "av1"},
], ids=lambda choices: " ".join(choices.values()))
def test_a_planned_cap_is_kept_by_every_codec(choices, gale, gale_facts, tmp_path: Path) -> None:
    cap = 60_000
    plan = make_plan(gale_facts, ORRERY, Choices(max_bytes=cap, effort="quick", sound=False, **choices), Excerpt(in_s=0, out_s=1))
    assert plan.picture.target_bps.because.code == "fits_cap"
    receipt = run(gale, gale_facts, plan, tmp_path, name=f"Capped.{plan.container.value}")
    assert receipt.size_bytes <= cap
    assert receipt.size_bytes > cap * 0.4
    found = [row for row in receipt.rows if row.code == "quality"]
    assert [float(row.measured) > 0 for row in found] == ([True] if choices["codec"] == "av1" else [])


def test_what_is_decoded_for_a_run_begins_at_the_keyframe_before_it_or_goes_on(gale_facts: MasterFacts) -> None:
    def decoded(numbers: list[int], **traits) -> int:
        video = gale_facts.video.model_copy(update={"frame_rate": Fraction(50), "intra": False, **traits})
        ticks = [Tick(index=place, measured=True, master_s=Fraction(number, 50)) for place, number in enumerate(numbers)]
        return judging._to_decode(gale_facts.model_copy(update={"video": video}), ticks)

    assert decoded([30, 31, 32], keyframes=(0, 25, 75)) == 8
    assert decoded([30, 31, 70, 76], keyframes=(0, 25, 75)) == 46 + 2
    assert decoded([30, 31], keyframes=(0, 25), intra=True) == 2
    assert decoded([60], keyframes=()) == 11
