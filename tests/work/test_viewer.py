"""The viewer's process and the reading of files for the command line."""

from __future__ import annotations

import base64
import json
import subprocess
import sys
from pathlib import Path

import pytest

from hardy_parcel.core.errors import UnreadableMaster
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.work.reading import read_checked, read_facts

from .. import films
from ..builders import ORRERY


@pytest.fixture
def viewer(gale: Path, gale_facts: MasterFacts):
    process = subprocess.Popen(
        [sys.executable, "-m", "hardy_parcel.work.stepping"], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
    )
    task = {"path": str(gale), "facts": gale_facts.model_dump(mode="json"), "destination": ORRERY.model_dump(mode="json")}

    def ask(wish: dict, task: dict | None = None) -> dict:
        process.stdin.write("".join(json.dumps(line) + "\n" for line in ([task] if task else []) + [wish]))
        process.stdin.flush()
        return json.loads(process.stdout.readline())

    yield process, task, ask
    process.stdin.close()
    assert process.wait(timeout=20) == 0


def test_a_viewer_answers_wish_after_wish(viewer) -> None:
    _, task, ask = viewer
    first = ask({"number": 0, "exact": False}, task)
    assert base64.b64decode(first["jpeg"])[:2] == b"\xff\xd8"
    assert ask({"number": 42, "exact": True})["number"] == 42
    assert ask({"number": 41, "exact": True})["at_s"] == pytest.approx(41 / 50)


def test_a_nonsense_wish_is_answered_and_the_viewer_goes_on(viewer) -> None:
    _, task, ask = viewer
    assert ask({"nothing": 1}, task)["problem"]["code"] == "trouble"
    assert ask({"number": 3, "exact": True})["number"] == 3


def test_a_file_that_went_away_is_said(viewer, tmp_path: Path) -> None:
    _, task, ask = viewer
    assert ask({"number": 0, "exact": True}, {**task, "path": str(tmp_path / "gone.mp4")})["problem"]["code"] == "not_found"


def test_facts_and_checks_are_read_in_children(tmp_path: Path, gale: Path) -> None:
    said: list[str] = []
    facts, checked, stamps = read_checked(gale, lambda doing, share: said.append(doing))
    assert isinstance(facts, MasterFacts)
    assert facts.audio.integrated_lufs is not None
    assert checked.picture.pictures_seen == 100
    assert checked.sound.complete
    assert {stamp.outcome for stamp in stamps} == {Outcome.CLEARED}
    silent = films.odd_film(tmp_path / "silent.mp4")
    assert read_checked(silent)[1].sound is None
    voice, evidence, _ = read_checked(films.sound_only(tmp_path / "voice.m4a"))
    assert voice.video is None
    assert evidence.picture is None
    (tmp_path / "letter.mp4").write_text("Dear keeper")
    with pytest.raises(UnreadableMaster):
        read_facts(tmp_path / "letter.mp4")
