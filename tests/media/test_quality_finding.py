"""An AV1 film has the size that was asked, which its encoder alone misses by far."""

from __future__ import annotations

from pathlib import Path

import pytest

from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import Progress, pack

from ..builders import ORRERY
from ..films import film


def packed_rate(gale: Path, facts, target: Path, bps: int, **choices) -> float:
    plan = make_plan(facts, ORRERY, Choices(method="encoded", codec="av1", effort="quick", sound=False, video_bitrate_bps=bps, **choices))
    seen: list[Progress] = []
    made = pack(gale, facts, plan, target, report=seen.append)
    assert [one.done for one in seen] == sorted(one.done for one in seen)
    assert seen[-1].done == seen[-1].total
    return made.video_bytes * 8 / float(plan.picture.frames / plan.picture.frame_rate.value)


@pytest.fixture(scope="module")
def noisy(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """Grain that a coarse quality loses all at once, so that its curve has a cliff."""
    return film(tmp_path_factory.mktemp("noisy") / "Noisy.mp4", seconds=4, grain=14)


@pytest.mark.parametrize("bps", [100_000, 900_000])
def test_the_film_has_its_size(bps: int, noisy: Path, tmp_path: Path) -> None:
    assert packed_rate(noisy, inspect(noisy), tmp_path / "found.mp4", bps) == pytest.approx(bps, rel=0.06)


def test_what_a_film_cannot_use_is_not_made_up(tmp_path: Path) -> None:
    flat = film(tmp_path / "Flat.mp4", seconds=1, grain=0)
    assert packed_rate(flat, inspect(flat), tmp_path / "found.mp4", 9_000_000) < 4_000_000


def test_two_passes_are_what_av1_begins_with(gale_facts) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", codec="av1"))
    assert plan.picture.rate_control.value is RateControl.TWO_PASSES
    assert "the quality at which the film has its size" in plan.picture.rate_control.because.sentence


def test_a_search_stops_at_once(gale: Path, gale_facts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(method="encoded", codec="av1", effort="quick", sound=False))

    def stop(progress: Progress) -> None:
        if progress.done > plan.picture.frames * 0.6:
            raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        pack(gale, gale_facts, plan, tmp_path / "stopped.mp4", report=stop)
