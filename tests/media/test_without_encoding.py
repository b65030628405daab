"""What is sent without encoding: cut, with its sound or another, and always with the master's own packets."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import pytest

from hardy_parcel.core.master.facts import Excerpt, MasterFacts
from hardy_parcel.core.parcel.receipt import compare
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import make_sound_again, pack
from hardy_parcel.media.verify import read_back

from .. import films
from ..builders import HANDOVER, ORRERY


@pytest.fixture(scope="module")
def master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Four seconds with pictures that lean on later ones, and a keyframe every second."""
    return films.film(tmp_path_factory.mktemp("kept") / "Table.mp4", seconds=4)


@pytest.fixture(scope="module")
def facts(master: Path) -> MasterFacts:
    return inspect(master)


def packets(path: Path, kind: str) -> list[bytes]:
    with av.open(str(path)) as container:
        return [bytes(packet) for packet in container.demux(**{kind: 0}) if packet.size]


def pictures(path: Path) -> Iterator[bytes]:
    with av.open(str(path)) as container:
        for frame in container.decode(video=0):
            yield frame.to_ndarray().tobytes()


def packed(master: Path, facts: MasterFacts, plan: Plan, target: Path) -> dict:
    assert plan.copied
    pack(master, facts, plan, target)
    rows = {row.code: row for row in compare(plan, read_back(target))}
    assert [row.setting for row in rows.values() if row.match == "differs"] == []
    return rows


def test_keyframes_are_known_and_the_nearest_are_offered(facts: MasterFacts) -> None:
    assert facts.video.keyframes[0] == 0
    assert len(facts.video.keyframes) >= 3
    first = Fraction(facts.video.keyframes[1]) / facts.video.frame_rate
    between = make_plan(facts, ORRERY, Choices(method=Method.REWRAP), Excerpt(in_s=first / 2, out_s=3))
    assert "can only begin at a keyframe; the nearest are at 0:00.00 and" in between.held[0].sentence
    assert not make_plan(facts, ORRERY, Choices(method=Method.REWRAP), Excerpt(in_s=first, out_s=3)).held


@pytest.mark.parametrize("out_at", range(53, 59))
def test_the_end_is_cut_at_any_picture(master: Path, facts: MasterFacts, out_at: int, tmp_path: Path) -> None:
    """Whatever the pictures there lean on, as many are shown as were asked for, each the master's."""
    plan = make_plan(facts, HANDOVER, excerpt=Excerpt(in_s=0, out_s=Fraction(out_at, 25)))
    assert plan.method.value is Method.REWRAP, "unasked, since nothing re-encodes it there"
    packed(master, facts, plan, tmp_path / "cut.mp4")
    own, shown = packets(master, "video"), packets(tmp_path / "cut.mp4", "video")
    assert shown == own[: len(shown)], "bit for bit, from the first on"
    assert list(pictures(tmp_path / "cut.mp4")) == list(pictures(master))[:out_at]


def test_the_head_is_cut_at_a_keyframe(master: Path, facts: MasterFacts, tmp_path: Path) -> None:
    number = facts.video.keyframes[1]
    start = number / facts.video.frame_rate
    plan = make_plan(facts, HANDOVER, excerpt=Excerpt(in_s=start, out_s=facts.duration_s))
    packed(master, facts, plan, tmp_path / "cut.mp4")
    assert list(pictures(tmp_path / "cut.mp4")) == list(pictures(master))[number:]
    assert set(packets(tmp_path / "cut.mp4", "video")) <= set(packets(master, "video"))
    assert set(packets(tmp_path / "cut.mp4", "audio")) <= set(packets(master, "audio"))


def test_only_the_sound_is_made_anew(master: Path, facts: MasterFacts, tmp_path: Path) -> None:
    plan = make_plan(facts, ORRERY, Choices(method=Method.SOUND_ANEW, gain_db=-3))
    assert not plan.sound.copied
    rows = packed(master, facts, plan, tmp_path / "louder.mp4")
    assert rows["loudness"].match == "as planned"
    assert packets(tmp_path / "louder.mp4", "video") == packets(master, "video")
    assert packets(tmp_path / "louder.mp4", "audio") != packets(master, "audio")


def test_what_is_not_cut_is_moved_whole(master: Path, facts: MasterFacts, tmp_path: Path) -> None:
    """The priming of the sound too, which stands before the first picture."""
    plan = make_plan(facts, ORRERY, Choices(method=Method.REWRAP))
    packed(master, facts, plan, tmp_path / "moved.mp4")
    for kind in ("video", "audio"):
        assert packets(tmp_path / "moved.mp4", kind) == packets(master, kind)


def test_the_sound_of_a_packed_matroska_is_made_again_without_losing_a_picture(master: Path, facts: MasterFacts, tmp_path: Path) -> None:
    """Its first pictures have no decode time."""
    plan = make_plan(facts, ORRERY, Choices(container="mkv", effort="quick", video_bitrate_bps=300_000))
    pack(master, facts, plan, tmp_path / "first.mkv")
    make_sound_again(tmp_path / "first.mkv", master, facts, plan, tmp_path / "again.mkv")
    assert packets(tmp_path / "again.mkv", "video") == packets(tmp_path / "first.mkv", "video")


def test_the_sound_is_left_out(master: Path, facts: MasterFacts, tmp_path: Path) -> None:
    plan = make_plan(facts, ORRERY, Choices(method=Method.REWRAP, sound=False))
    packed(master, facts, plan, tmp_path / "silent.mp4")
    assert inspect(tmp_path / "silent.mp4").audio is None
    assert packets(tmp_path / "silent.mp4", "video") == packets(master, "video")


def test_a_container_that_cannot_hide_pictures_is_not_cut(facts: MasterFacts) -> None:
    mkv = facts.model_copy(update={"name": "Table.mkv", "container": "MKV/WebM"})
    plan = make_plan(mkv, HANDOVER, Choices(method=Method.REWRAP), Excerpt(in_s=0, out_s=2))
    assert "MKV cannot end before the master does" in plan.held[0].sentence


def test_hevc_that_is_moved_stands_as_hvc1(tmp_path: Path) -> None:
    """From Matroska, which has no such names, into MP4."""
    source = films.odd_film(tmp_path / "Table.mkv", codec="libx265", options={"preset": "ultrafast", "x265-params": "log-level=error"})
    facts = inspect(source)
    place = ORRERY.placement.model_copy(update={"containers": ("mp4",)})
    plan = make_plan(facts, ORRERY.model_copy(update={"placement": place}), Choices(method=Method.REWRAP))
    assert not plan.held
    rows = packed(source, facts, plan, tmp_path / "moved.mp4")
    assert rows["sample_entry"].measured == "hvc1"
    assert packets(tmp_path / "moved.mp4", "video") == packets(source, "video")


def test_a_film_of_keyframes_alone_is_cut_anywhere(tmp_path: Path) -> None:
    source = films.odd_film(tmp_path / "Table.mp4", options={"g": "1"})
    facts = inspect(source)
    assert (facts.video.intra, facts.video.keyframes) == (True, ())
    plan = make_plan(facts, HANDOVER, excerpt=Excerpt(in_s=Fraction(7, 25), out_s=Fraction(19, 25)))
    packed(source, facts, plan, tmp_path / "cut.mp4")
    assert list(pictures(tmp_path / "cut.mp4")) == list(pictures(source))[7:19]
