"""Packing for real, read back with the program's reader and with nothing taken from the plan."""

from __future__ import annotations

import errno
import os
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.errors import Cancelled, DiskFull, FolderUnusable, PackedFileWrong, PlanHeld
from hardy_parcel.core.master.facts import Excerpt, FramingMode, MasterFacts
from hardy_parcel.core.parcel.receipt import compare
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.plan import Plan, duration_s
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.media import pack as pack_module
from hardy_parcel.media import sound as sound_module
from hardy_parcel.media.boxes import read_boxes
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.loudness import measure_loudness
from hardy_parcel.media.pack import Progress, pack
from hardy_parcel.media.pictures import pictures_at
from hardy_parcel.media.verify import read_back, sha256

from .. import films
from ..builders import ORRERY, SPRIGG

LOW = Choices(video_bitrate_bps=400_000, rate_control=RateControl.TWO_PASSES)


def packed(source: Path, facts: MasterFacts, plan: Plan, target: Path):
    done: list[Progress] = []
    result = pack(source, facts, plan, target, report=done.append)
    return result, done


def test_what_was_planned_comes_out(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, ORRERY, LOW)
    result, done = packed(gale, gale_facts, plan, tmp_path / "x.mp4")
    found = read_back(tmp_path / "x.mp4")
    rows = {row.code: row for row in compare(plan, found)}
    assert [row.setting for row in rows.values() if row.match == "differs"] == []
    assert found.pictures == result.pictures == plan.video.frames == 100
    assert found.facts.video.frame_rate == 50
    assert found.longest_keyframe_distance <= 100
    assert found.index_first
    assert found.facts.video.colour == plan.video.colour.value
    assert found.video_bitrate_bps == pytest.approx(400_000, rel=0.1)
    assert found.facts.duration_s == 2
    assert abs(found.facts.audio.integrated_lufs - plan.audio.expected_lufs) < 0.6
    assert done[-1].done == done[-1].total == 200
    assert {p.done for p in done} == set(range(201)), "one by one as they come out, the last ones of a pass too"
    assert [p.done for p in done] == sorted(p.done for p in done)


def test_progress_rises_and_counts_both_passes(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    _, done = packed(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "x.mp4")
    assert [p.done for p in done] == sorted(p.done for p in done)
    assert {p.total for p in done} == {200}
    assert done[50].bytes == 0
    assert done[-1].bytes > 10_000


@pytest.mark.parametrize("control", [RateControl.ONE_PASS, RateControl.TWO_PASSES])
def test_both_ways_of_rate_control_land_near_the_target(gale, gale_facts, tmp_path: Path, control) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=600_000, rate_control=control))
    pack(gale, gale_facts, plan, tmp_path / "x.mp4")
    assert read_back(tmp_path / "x.mp4").video_bitrate_bps == pytest.approx(600_000, rel=0.2)


def test_the_upright_platform_gets_twenty_five_exact_pictures_a_second(gale, gale_facts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, SPRIGG, Choices(video_bitrate_bps=800_000, framing=FramingMode.FIT))
    pack(gale, gale_facts, plan, tmp_path / "x.mp4")
    facts = read_back(tmp_path / "x.mp4").facts
    framing = plan.video.framing.value
    assert (facts.video.display_width, facts.video.display_height) == (framing.width, framing.height)
    assert facts.video.frame_rate == 25
    with av.open(str(tmp_path / "x.mp4")) as container:
        times = [f.pts * f.time_base for f in container.decode(container.streams.video[0])]
    assert times == [Fraction(i, 25) for i in range(50)]


def test_film_rate_survives_in_every_time_stamp(tmp_path: Path) -> None:
    rate = Fraction(24000, 1001)
    source = films.film(tmp_path / "a.mp4", rate=rate, seconds=2)
    facts = inspect(source)
    pack(source, facts, make_plan(facts, ORRERY, LOW), tmp_path / "x.mp4")
    with av.open(str(tmp_path / "x.mp4")) as container:
        times = [f.pts * f.time_base for f in container.decode(container.streams.video[0])]
    assert times == [i / rate for i in range(48)]


def test_keyframes_are_closed_and_where_the_plan_wants_them(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", rate=10, seconds=7, grain=0)
    facts = inspect(source)
    plan = make_plan(facts, ORRERY, LOW)
    pack(source, facts, plan, tmp_path / "x.mp4")
    with av.open(str(tmp_path / "x.mp4")) as container:
        frames = list(container.decode(container.streams.video[0]))
    keys = [i for i, frame in enumerate(frames) if frame.key_frame]
    assert plan.video.keyframe_interval_frames.value == 20
    assert keys == [0, 20, 40, 60]


def test_the_sound_is_in_step_and_at_its_level(tmp_path: Path) -> None:
    """A click at 1.5 s of the master, with an in point of 0.7 s, is heard at 0.8 s."""
    click = np.zeros((2, 48000 * 3), np.float32)
    click[:, 72000:72480] = 0.5
    source = films.film(tmp_path / "a.mp4", seconds=3, sound=click)
    facts = inspect(source)
    plan = make_plan(facts, ORRERY, LOW, Excerpt(in_s="0.7", out_s="2.7"))
    pack(source, facts, plan, tmp_path / "x.mp4")
    with av.open(str(tmp_path / "x.mp4")) as container:
        stream = container.streams.audio[0]
        heard = [(f.pts * f.time_base, np.abs(f.to_ndarray()).max(axis=0)) for f in container.decode(stream)]
    loud = next(float(at) + int(np.argmax(level > 0.2)) / 48000 for at, level in heard if level.max() > 0.2)
    assert loud == pytest.approx(0.8, abs=0.002)
    length = sum(level.shape[0] for _, level in heard) / 48000
    assert length == pytest.approx(float(duration_s(plan)), abs=0.03)


def test_loudness_is_brought_to_the_target(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", width=180, height=320, seconds=4, sound=films.tone(4, hz=1000, peak=0.04))
    facts = inspect(source)
    plan = make_plan(facts, SPRIGG, LOW)
    pack(source, facts, plan, tmp_path / "x.mp4")
    assert facts.audio.integrated_lufs < -25
    assert measure_loudness(tmp_path / "x.mp4").integrated_lufs == pytest.approx(-13, abs=0.4)


def test_sound_that_starts_late_or_ends_early_is_filled_with_silence(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=3, sound=films.tone(1))
    facts = inspect(source)
    plan = make_plan(facts, ORRERY, LOW)
    pack(source, facts, plan, tmp_path / "x.mp4")
    with av.open(str(tmp_path / "x.mp4")) as container:
        samples = np.concatenate([f.to_ndarray() for f in container.decode(container.streams.audio[0])], axis=1)
    assert samples.shape[1] / 48000 == pytest.approx(3, abs=0.03)
    assert np.abs(samples[:, 48000 * 2 :]).max() < 1e-3
    assert np.abs(samples[:, 4800:43200]).max() > 0.05


def test_mono_and_many_channels(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=1, sound=films.tone(1, channels=1))
    facts = inspect(source)
    pack(source, facts, make_plan(facts, ORRERY, LOW), tmp_path / "x.mp4")
    assert inspect(tmp_path / "x.mp4").audio.channels == 1


def test_the_pictures_are_the_masters(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    pack(gale, gale_facts, make_plan(gale_facts, ORRERY, Choices(video_bitrate_bps=8_000_000)), tmp_path / "x.mp4")
    for at in (Fraction(1, 200), Fraction(205, 200), Fraction(397, 200)):
        before, after = (next(iter(pictures_at(p, [at], start_s=Fraction(0)))).to_ndarray() for p in (gale, tmp_path / "x.mp4"))
        error = np.mean((before.astype(float) - after) ** 2)
        assert 10 * np.log10(255**2 / error) > 36


def test_a_held_plan_is_not_packed(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    hdr = gale_facts.video.colour.model_copy(update={"transfer": "smpte2084"})
    facts = gale_facts.model_copy(update={"video": gale_facts.video.model_copy(update={"colour": hdr})})
    with pytest.raises(PlanHeld, match="HDR"):
        pack(gale, facts, make_plan(facts, ORRERY), tmp_path / "x.mp4")
    assert not (tmp_path / "x.mp4").exists()


def test_it_can_be_stopped_at_any_picture(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    def stop(progress: Progress) -> None:
        if progress.done == 130:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        pack(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "x.mp4", report=stop)


@pytest.mark.parametrize("control", [RateControl.ONE_PASS, RateControl.TWO_PASSES])
def test_a_long_film_is_tried_once_before_its_first_picture(gale, gale_facts, tmp_path: Path, monkeypatch, control) -> None:
    monkeypatch.setattr("hardy_parcel.core.plan.stages.PICTURES_A_TRIAL", 50)
    heard: list[Progress] = []
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", rate_control=control))
    pack(gale, gale_facts, plan, tmp_path / "tried.mp4", report=heard.append)
    [(place, tried)] = [(number, one.tried) for number, one in enumerate(heard) if one.tried]
    assert {one.done for one in heard[: place + 1]} == {0}
    assert (tried.first_pass is not None) == (control is RateControl.TWO_PASSES)
    assert all(0 < value < 20 for value in (tried.first_pass or 1.0, tried.reading_back))
    whole = [(one.done, one.total) for one in heard[place + 1 :]]
    heard.clear()
    monkeypatch.setattr("hardy_parcel.core.plan.stages.PICTURES_A_TRIAL", 151)
    pack(gale, gale_facts, plan, tmp_path / "untried.mp4", report=heard.append)
    assert [(one.done, one.total) for one in heard] == whole


def test_a_trial_can_be_stopped(gale, gale_facts, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr("hardy_parcel.core.plan.stages.PICTURES_A_TRIAL", 50)

    def stop(progress: Progress) -> None:
        assert progress.done == 0
        raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        pack(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "x.mp4", report=stop)
    assert list(tmp_path.iterdir()) == []


def test_a_folder_that_is_not_there(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    with pytest.raises(FolderUnusable, match="cannot be written to"):
        pack(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "nowhere" / "x.mp4")


def test_a_full_disk_is_a_clear_state(gale, gale_facts, tmp_path: Path, monkeypatch) -> None:
    """The muxer reports a full disk as the operating system does."""

    def full(*args):
        raise av.error.OSError(errno.ENOSPC, os.strerror(errno.ENOSPC))

    monkeypatch.setattr(pack_module, "add_sound", full)
    with pytest.raises(DiskFull, match="nothing half-written was kept"):
        pack(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "x.mp4")


def test_a_file_cut_short_does_not_pass(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    pack(gale, gale_facts, make_plan(gale_facts, ORRERY, LOW), tmp_path / "x.mp4")
    films.cut_short(tmp_path / "x.mp4", tmp_path / "cut.mp4", 0.7)
    with pytest.raises(PackedFileWrong):
        read_back(tmp_path / "cut.mp4")


def test_where_the_index_stands(gale: Path, tmp_path: Path) -> None:
    assert read_boxes(gale).index_first is True
    assert read_boxes(films.odd_film(tmp_path / "last.mp4")).index_first is False
    (tmp_path / "text").write_text("not a film at all")
    assert read_boxes(tmp_path / "text").index_first is None


def test_checksums_are_those_of_standard_tools(tmp_path: Path) -> None:
    (tmp_path / "abc").write_bytes(b"abc")
    assert sha256(tmp_path / "abc") == "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"


def test_sound_is_taken_block_by_block(tmp_path: Path, monkeypatch) -> None:
    """A long film's sound is never all in memory: the first block comes before the second second was decoded."""
    source = films.film(tmp_path / "a.mp4", seconds=6)
    facts = inspect(source)
    seen: list[int] = []
    real = sound_module._placed

    def counted(*args):
        for samples in real(*args):
            seen.append(samples.shape[1])
            yield samples

    monkeypatch.setattr(sound_module, "_placed", counted)
    next(sound_module.sound_blocks(source, facts, make_plan(facts, ORRERY, LOW)))
    assert sum(seen) < 48000
