"""Captions of a master: inside every container that holds them, in files beside, cut to the excerpt, said on the receipt."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.core.errors import NameTaken
from hardy_parcel.core.master.facts import CaptionTrack, Excerpt
from hardy_parcel.core.parcel.receipt import Match
from hardy_parcel.core.plan.choices import Captions, Choices, Method
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.captions import read_captions
from hardy_parcel.media.inspect import inspect
from hardy_parcel.work.packing import pack_parcel

from .. import films
from ..builders import ORRERY, SPRIGG

QUICK = {"effort": "quick", "video_bitrate_bps": 200_000}


@pytest.fixture(scope="module")
def spoken(shelf: Path, gale: Path) -> Path:
    return films.captioned(shelf / "Spoken.mkv", gale)


@pytest.fixture(scope="module")
def spoken_facts(spoken: Path):
    return inspect(spoken)


def packed(master: Path, facts, folder: Path, *, to=ORRERY, excerpt=None, name: str = "Out", **choices):
    plan = make_plan(facts, to, Choices(**choices), excerpt)
    receipt = pack_parcel(
        master, facts, plan, folder=folder, file_name=f"{name}.{plan.container.value}", job_id="job", report=lambda progress: None,
    )
    return plan, receipt


def test_captions_are_known_of_a_master(spoken_facts, gale_facts) -> None:
    assert spoken_facts.captions == (CaptionTrack(codec="srt", language="eng", text=True),)
    assert gale_facts.captions == ()
    earlier = spoken_facts.model_validate({**spoken_facts.model_dump(), "captions": 2})
    assert [track.text for track in earlier.captions] == [False, False], "an earlier version only counted them"


@pytest.mark.parametrize(
    ("choices", "codec"),
    [({"container": "mp4"}, "mov_text"), ({"container": "mov"}, "mov_text"), ({"container": "mkv"}, "srt"),
     ({"codec": "vp9", "container": "webm", "rate_control": "constant quality"}, "webvtt")],
)
def test_they_go_along_inside(spoken: Path, spoken_facts, tmp_path: Path, choices, codec: str) -> None:
    _, receipt = packed(spoken, spoken_facts, tmp_path, **{**QUICK, **choices})
    row = next(row for row in receipt.rows if row.code == "captions")
    timed = codec == "mov_text"  # one shows at a time, so that where two would there is one more, with both
    said = f"{4 if timed else 3} inside"
    assert (row.planned, row.measured, row.match) == (said, said, Match.AS_PLANNED)
    out = tmp_path / receipt.file_name
    assert inspect(out).captions == (CaptionTrack(codec=codec, language="eng"),)
    (cues,) = read_captions(out)
    starts = [0.2, 0.8, 0.9, 1.5] if timed else [0.2, 0.8, 1.5]
    assert [float(cue.start_s) for cue in cues] == pytest.approx(starts, abs=0.002)
    assert cues[0].text.replace("{\\i0}", "").replace("{\\r}", "") == "Gale warning, {\\i1}all areas"
    assert cues[-2].text == "Ebb & flow\\Nat the skerry"
    assert receipt.differing == ()


@pytest.mark.parametrize(("where", "first"), [(Captions.SRT, "1\n00:00:00,"), (Captions.WEBVTT, "WEBVTT\n\n")])
def test_or_in_a_file_beside(spoken: Path, spoken_facts, tmp_path: Path, where: Captions, first: str) -> None:
    _, receipt = packed(spoken, spoken_facts, tmp_path, captions=where, **QUICK)
    ending = "srt" if where is Captions.SRT else "vtt"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["Out.mp4", f"Out.{ending}"]
    assert receipt.beside == (f"Out.{ending}",)
    text = (tmp_path / f"Out.{ending}").read_text(encoding="utf-8")
    assert text.startswith(first)
    assert "<i>all areas</i>" in text
    assert ("Ebb & flow" if where is Captions.SRT else "Ebb &amp; flow") in text
    assert inspect(tmp_path / "Out.mp4").captions == ()
    assert next(row for row in receipt.rows if row.code == "captions").measured == f"3 {where}"


def test_they_are_cut_to_the_excerpt(spoken: Path, spoken_facts, tmp_path: Path) -> None:
    part = Excerpt(in_s=Fraction(1), out_s=Fraction(8, 5))
    packed(spoken, spoken_facts, tmp_path, excerpt=part, **QUICK)
    (cues,) = read_captions(tmp_path / "Out.mp4")
    times = [float(time) for cue in cues for time in (cue.start_s, cue.end_s)]
    assert times == pytest.approx([0.0, 0.3, 0.5, 0.6], abs=0.002)


def test_a_destination_that_shows_none_leaves_them_out_and_says_so(spoken: Path, spoken_facts, tmp_path: Path) -> None:
    upright = {"shape": Fraction(9, 16), "framing": "fill"}
    plan, receipt = packed(spoken, spoken_facts, tmp_path, to=SPRIGG, **upright, **QUICK)
    assert "captions_lost" in {stamp.code for stamp in plan.stamps}
    assert inspect(tmp_path / receipt.file_name).captions == ()
    known = make_plan(spoken_facts, SPRIGG, Choices(captions=Captions.LEFT_OUT, **upright))
    assert "captions_lost" not in {stamp.code for stamp in known.stamps}, "left out knowingly"


def test_moved_pictures_take_their_captions_along(spoken: Path, spoken_facts, tmp_path: Path) -> None:
    mov_only = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"containers": ("mp4",)})})
    plan, receipt = packed(spoken, spoken_facts, tmp_path, to=mov_only, method="re-wrapped")
    assert plan.method.value is Method.REWRAP
    assert len(read_captions(tmp_path / receipt.file_name)[0]) == 4
    assert receipt.differing == ()


def test_several_languages_have_files_of_their_own(gale: Path, tmp_path: Path) -> None:
    master = films.captioned(tmp_path / "Two.mkv", gale, languages=("eng", "deu"))
    out = tmp_path / "out"
    out.mkdir()
    _, receipt = packed(master, inspect(master), out, captions=Captions.SRT, **QUICK)
    assert receipt.beside == ("Out.eng.srt", "Out.deu.srt")
    assert {path.name for path in out.iterdir()} == {"Out.mp4", *receipt.beside}


def test_a_caption_file_that_is_there_is_never_overwritten(spoken: Path, spoken_facts, tmp_path: Path) -> None:
    (tmp_path / "Out.srt").write_text("mine")
    with pytest.raises(NameTaken, match=r"Out\.srt"):
        packed(spoken, spoken_facts, tmp_path, captions=Captions.SRT, **QUICK)
    assert [(path.name, path.read_text()) for path in tmp_path.iterdir()] == [("Out.srt", "mine")]


def test_as_it_is_keeps_them(spoken_facts) -> None:
    plan = make_plan(spoken_facts, destination("handover-client"), Choices())
    assert (plan.method.value, plan.captions.value) == (Method.UNTOUCHED, Captions.INSIDE)
