"""A platform's ladder run for real."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest

from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.sheets.ladder import renditions_for
from hardy_parcel.media.handling import handle, rendition_path, upload_pictures
from hardy_parcel.media.inspect import inspect

from ..builders import ORRERY, SPRIGG


def handled(gale: Path, folder: Path, destination=ORRERY, **scale):
    ladder = renditions_for(destination, width=320, height=180, frame_rate=Fraction(50))
    ladder = [r.model_copy(update=scale) for r in ladder]
    return ladder, handle(upload_pictures(gale), ladder, folder, size=(320, 180), frame_rate=Fraction(50))


def test_renditions_come_out_as_the_ladder_says(gale: Path, tmp_path: Path) -> None:
    ladder = [
        renditions_for(ORRERY, width=320, height=180, frame_rate=Fraction(50))[0],
        *(r.model_copy(update={"name": "90p vp9", "codec": "vp9", "width": 160, "height": 90, "quality": 34})
          for r in renditions_for(ORRERY, width=320, height=180, frame_rate=Fraction(50))),
    ]
    seen: list[int] = []
    made = handle(upload_pictures(gale), ladder, tmp_path, size=(320, 180), frame_rate=Fraction(50), progress=seen.append)
    assert seen == list(range(1, 101))
    assert [(m.width, m.height) for m in made] == [(320, 180), (160, 90)]
    for rendition, result in zip(ladder, made, strict=True):
        facts = inspect(rendition_path(tmp_path, rendition))
        assert facts.video.codec == rendition.codec
        assert (facts.video.display_width, facts.video.display_height) == (rendition.width, rendition.height)
        assert facts.video.frame_rate == 50
        assert result.achieved_bps > 0


def test_a_ceiling_binds(gale: Path, tmp_path: Path) -> None:
    (tmp_path / "free").mkdir()
    (tmp_path / "tight").mkdir()
    _, free = handled(gale, tmp_path / "free", ceiling_bps=9_000_000, buffer_bits=9_000_000)
    _, tight = handled(gale, tmp_path / "tight", ceiling_bps=50_000, buffer_bits=10_000)
    assert tight[0].achieved_bps < 0.6 * free[0].achieved_bps
    assert tight[0].achieved_bps < 60_000


def test_a_rate_cap_keeps_every_second_picture(gale: Path, tmp_path: Path) -> None:
    ladder, _ = handled(gale, tmp_path, SPRIGG)
    facts = inspect(rendition_path(tmp_path, ladder[0]))
    assert facts.video.frame_rate == 25
    assert facts.duration_s == 2


def test_stopping_leaves_no_half_written_rendition(gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    ladder = renditions_for(ORRERY, width=320, height=180, frame_rate=Fraction(50))

    def stop(done: int) -> None:
        if done == 20:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        handle(upload_pictures(gale), ladder, tmp_path, size=(320, 180), frame_rate=Fraction(50), progress=stop)
    assert list(tmp_path.iterdir()) == []
