"""The rehearsal on real encoders: windows, the whole film, and what they say."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.rehearsal import Station, find
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.master.facts import MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.framing import FramingMode
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import HandlingTier, RenditionRule
from hardy_parcel.media.inspect import inspect
from hardy_parcel.work import rehearse as module
from hardy_parcel.work.rehearse import Parcel, perfect_upload, plan_reel, rehearse
from hardy_parcel.work.tasks import plan_at

from .. import films
from ..builders import HANDOVER, ORRERY, SPRIGG

QUIET = lambda doing, share: None  # noqa: E731


def parcel(path: Path, facts: MasterFacts, destination=ORRERY, kbps: int = 300, **choices) -> Parcel:
    plan = make_plan(facts, destination, Choices(video_bitrate_bps=kbps * 1000, **choices))
    return Parcel(master=path, facts=facts, plan=plan, destination=destination)


@pytest.fixture(scope="module", autouse=True)
def small_screens() -> Iterator[None]:
    """Screens of a fifth of the pixels: the same rules in a fraction of the time."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("hardy_parcel.core.arrival.screens.PIXELS_PER_DEGREE", 12)
        yield


@pytest.fixture(scope="module")
def small(shelf: Path) -> Path:
    return films.film(shelf / "small.mp4", width=192, height=108, rate=25, seconds=2)


@pytest.fixture(scope="module")
def rehearsed(small: Path, tmp_path_factory) -> dict[int, object]:
    """Two rates of one curve with the perfect upload, measured once for several tests."""
    facts, found = inspect(small), {}
    first = parcel(small, facts, kbps=60)
    reel = plan_reel(first, whole=False)
    found["perfect"] = perfect_upload(first, reel, QUIET)
    for kbps in (60, 900):
        folder = tmp_path_factory.mktemp("rehearsal")
        found[kbps] = rehearse(parcel(small, facts, kbps=kbps), reel, found["perfect"], folder, QUIET)
        found["folder"] = folder
    return found


def at(found, station: Station, screen: Screen = Screen.LAPTOP, line: ViewerLine = ViewerLine.GOOD):
    return find(found.arrivals, station, screen, line)


def test_every_screen_line_and_station_is_measured(rehearsed) -> None:
    for kbps in (60, 900):
        for screen in Screen:
            for line in ViewerLine:
                arrived = at(rehearsed[kbps], Station.ARRIVED, screen, line)
                assert arrived.rendition
                assert 0 <= arrived.condition <= 100
                assert arrived.scale == "yardstick"
                assert arrived.evidence == "rehearsed"
            assert at(rehearsed[kbps], Station.PACKED, screen).rendition is None
            assert at(rehearsed[kbps], Station.SCALED, screen).condition > 99


def test_more_bits_arrive_better_and_the_platform_always_costs(rehearsed) -> None:
    low, high, perfect = rehearsed[60], rehearsed[900], rehearsed["perfect"]
    assert at(high, Station.PACKED).condition > at(low, Station.PACKED).condition + 10
    assert at(high, Station.ARRIVED).condition > at(low, Station.ARRIVED).condition
    for found in (low, high):
        assert at(found, Station.ARRIVED).xpsnr_db < at(found, Station.PACKED).xpsnr_db
    assert at(low, Station.ARRIVED).condition < at(perfect, Station.ARRIVED).condition + 1


def test_the_yardstick_falls_with_its_quality_value(rehearsed) -> None:
    for yardstick in rehearsed["perfect"].yardsticks:
        values = [mark.xpsnr_db for mark in yardstick.marks]
        assert values == sorted(values, reverse=True)


def test_rates_and_moments_are_told(rehearsed) -> None:
    found = rehearsed[900]
    assert found.achieved_bps == pytest.approx(900_000, rel=0.2)
    assert (found.whole, found.pictures_packed, found.pictures_measured) == (True, 50, 50)
    assert [moment.reel_index for moment in found.moments] == list(range(50))
    assert found.renditions[0].achieved_bps > 0
    assert found.pack_pictures_per_s > 1


def test_files_stay_where_they_can_be_looked_at(rehearsed) -> None:
    assert sorted(p.suffix for p in rehearsed["folder"].iterdir()) == [".film", ".mp4"]


def test_windows_speak_for_the_film(shelf: Path, tmp_path: Path, monkeypatch) -> None:
    """On a film whose parts differ, the reel's answer lies near that of every frame. `make accuracy` measures how near."""
    monkeypatch.setattr("hardy_parcel.core.arrival.windows.REEL_PIXELS", 160 * 90 * 25 * 8)

    def pictures():
        for part, grain in enumerate((2.0, 10.0, 5.0)):
            yield from films.shimmer(160, 90, 200, grain=grain, seed=part)

    source = films.film(shelf / "long.mp4", width=160, height=90, seconds=24, sound=None, pictures=pictures())
    here = parcel(source, inspect(source), kbps=150)
    values = {}
    for whole in (False, True):
        reel = plan_reel(here, whole=whole)
        assert reel.whole is whole
        perfect = perfect_upload(here, reel, QUIET)
        folder = tmp_path / str(whole)
        folder.mkdir()
        found = rehearse(here, reel, perfect, folder, QUIET)
        assert found.pictures_measured == (600 if whole else found.pictures_measured)
        values[whole] = found
    windows, film = values[False], values[True]
    assert windows.pictures_packed < 0.6 * film.pictures_packed
    assert at(windows, Station.ARRIVED).condition == pytest.approx(at(film, Station.ARRIVED).condition, abs=6)
    assert windows.achieved_bps == pytest.approx(film.achieved_bps, rel=0.2)


def test_bars_and_a_rate_cap_are_followed_through(small: Path, tmp_path: Path) -> None:
    here = parcel(small, inspect(small), SPRIGG, kbps=400, framing=FramingMode.FIT)
    reel = plan_reel(here, whole=True)
    perfect = perfect_upload(here, reel, QUIET)
    found = rehearse(here, reel, perfect, tmp_path, QUIET, all_renditions=True)
    assert at(found, Station.ARRIVED).raster[0] > at(found, Station.ARRIVED).raster[1]
    assert {made.name for made in found.renditions} == {r.name for r in here.renditions()}


def test_it_can_be_stopped(small: Path) -> None:
    def stop(doing: str, share: float) -> None:
        if share > 0.3:
            raise Cancelled("Stopped.")

    here = parcel(small, inspect(small))
    with pytest.raises(Cancelled):
        perfect_upload(here, plan_reel(here, whole=False), stop)


def test_progress_only_rises(small: Path, tmp_path: Path) -> None:
    here = parcel(small, inspect(small))
    reel, seen = plan_reel(here, whole=False), []
    perfect = perfect_upload(here, reel, lambda doing, share: seen.append(share))
    assert seen == sorted(seen)
    assert 0 <= min(seen) < 0.05
    assert 0.95 < max(seen) <= 1
    seen.clear()
    rehearse(here, reel, perfect, tmp_path, lambda doing, share: seen.append(share))
    assert seen == sorted(seen)
    assert max(seen) <= 1


def test_bars_cost_nothing(gale: Path, gale_facts: MasterFacts, monkeypatch) -> None:
    """The whole picture between bars, not encoded at all, meets its reference on every screen."""
    monkeypatch.setattr("hardy_parcel.core.arrival.screens.PIXELS_PER_DEGREE", 30)
    here = parcel(gale, gale_facts, SPRIGG, framing=FramingMode.FIT)
    series = module._measure(here, plan_reel(here, whole=False), upload=None, renditions=[], folder=gale, progress=lambda share: None)
    for screen in Screen:
        assert series["scaled", screen].mean_db > 38


def laddered(*codecs: str):
    """Orrery with one ladder whose steps are all 108 lines, one for each codec."""
    ceilings = {"ceiling_standard_bps": 200_000, "ceiling_high_bps": 200_000}
    rules = [RenditionRule(short_side_px=108, codec=codec, quality=34, **ceilings) for codec in codecs]
    handling = ORRERY.placement.handling.model_copy(update={"tiers": (HandlingTier(name="all", renditions=tuple(rules)),)})
    return ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"handling": handling})})


@pytest.mark.parametrize("codec", ["hevc", "vp9", "av1"])
def test_every_codec_is_rehearsed_through_every_handling_on_one_perfect_upload(small, tmp_path: Path, rehearsed, codec: str) -> None:
    place = laddered("h264", "vp9", "av1")
    here = parcel(small, inspect(small), place, kbps=200, codec=codec, effort="quick")
    assert here.plan.way_key() == parcel(small, inspect(small), place).plan.way_key()
    reel = plan_reel(here, whole=False)
    found = rehearse(here, reel, rehearsed["perfect"], tmp_path, QUIET, all_renditions=True)
    assert [made.name for made in found.renditions] == ["108p h264", "108p vp9", "108p av1"]
    assert all(made.achieved_bps > 1000 for made in found.renditions)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["108p-av1.mp4", "108p-h264.mp4", "108p-vp9.webm", "upload.film"]
    served = at(found, Station.ARRIVED)
    assert served.rendition == "108p h264"
    assert 0 < served.condition <= at(found, Station.PACKED).condition + 3


def test_an_intra_frame_master_arrives_bit_for_bit(shelf: Path, tmp_path: Path) -> None:
    source = films.film(shelf / "for the client.mp4", width=320, height=180, rate=25, seconds=1, sound=None)
    here = parcel(source, inspect(source), HANDOVER, codec="vc3")
    reel = plan_reel(here, whole=False)
    found = rehearse(here, reel, perfect_upload(here, reel, QUIET), tmp_path, QUIET)
    assert found.renditions == ()
    assert at(found, Station.ARRIVED).condition == at(found, Station.PACKED).condition > 85
    assert found.achieved_bps == here.plan.picture.target_bps.value


@pytest.mark.parametrize("choices", [Choices(max_bytes=20_000), Choices(max_bytes=20_000, framing=FramingMode.FILL), Choices()])
def test_a_cap_neither_lowers_nor_holds_what_is_only_rehearsed(small: Path, choices: Choices) -> None:
    """The curve goes beyond what fits, since that is what shows whether the cap matters; a sheet's own cap holds nothing either."""
    tiny = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"max_bytes": 30_000})})
    plan = plan_at(parcel(small, inspect(small), destination=tiny, kbps=100), choices, 900_000)
    assert plan.picture.target_bps.value == 900_000
    assert "over_cap" not in [stamp.code for stamp in plan.stamps]
