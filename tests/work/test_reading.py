"""The reading of files for the command line."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from hardy_parcel.core.errors import UnreadableMaster
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.work.reading import read_checked, read_facts

from .. import films


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


@pytest.mark.parametrize(("right", "alike"), [("same", True), ("quieter", False), ("later", False)])
def test_two_channels_that_carry_the_same_are_known(right: str, alike: bool, tmp_path: Path) -> None:
    left = films.tone(2, hz=330.0, channels=1)[0] + films.tone(2, hz=523.0, channels=1)[0]
    other = {"same": left, "quieter": 0.8 * left, "later": np.roll(left, 200)}[right]
    path = films.film(tmp_path / "x.mp4", width=64, height=36, sound=np.stack([left, other]))
    assert read_facts(path).audio.alike is alike
