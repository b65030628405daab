"""The rehearsal on real encoders: windows, the whole film, and what they say."""

from __future__ import annotations

from pathlib import Path

import pytest

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import PerfectUpload, Rehearsal, Station, find, perfect_upload, rehearsal_of
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.master.facts import FramingMode, MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import HandlingTier, RenditionRule
from hardy_parcel.media.inspect import inspect
from hardy_parcel.processes.messages import UPLOAD_NAME, RehearseTask
from hardy_parcel.work.rehearse import PlannedFilm, TreatedReel, handled_upload, plan_reel, scaled_picture, treated_reel, trial_encode

from .. import films
from ..builders import HANDOVER, ORRERY, SPRIGG

QUIET = lambda doing, share: None  # noqa: E731


def film(path: Path, facts: MasterFacts, destination=ORRERY, kbps: int = 300, **choices) -> PlannedFilm:
    plan = make_plan(facts, destination, Choices(video_bitrate_bps=kbps * 1000, **choices))
    return PlannedFilm(master=path, facts=facts, journey=Journey(plan, destination))


def reel_of(here: PlannedFilm, folder: Path, *, whole: bool = False, say=QUIET) -> TreatedReel:
    return treated_reel(here, plan_reel(here, whole=whole), folder / "treated", say)


def rehearsed(here: PlannedFilm, folder: Path, *, whole: bool = False, all_renditions: bool = False, say=QUIET) -> Rehearsal:
    """The whole way, measured."""
    reel, journey = reel_of(here, folder, whole=whole, say=say), here.journey
    scaled = scaled_picture(here, reel, say)
    encode = trial_encode(here, reel, folder / UPLOAD_NAME, say)
    handled = None
    if journey.renditions:
        place = folder / "handled"
        place.mkdir()
        upload = folder / UPLOAD_NAME
        handled = handled_upload(here, reel, upload, place, journey.handled_key, say, all_renditions=all_renditions)
    return rehearsal_of(journey, scaled, encode, handled, target_bps=encode.target_bps, whole=whole)


def perfected(here: PlannedFilm, folder: Path) -> PerfectUpload:
    reel, journey = reel_of(here, folder), here.journey
    folder.mkdir(exist_ok=True)
    handled = handled_upload(here, reel, None, folder, journey.perfect_key, QUIET) if journey.renditions else None
    return perfect_upload(journey, scaled_picture(here, reel, QUIET), handled, whole=True)


@pytest.fixture(scope="module")
def small(shelf: Path) -> Path:
    return films.film(shelf / "small.mp4", width=192, height=108, rate=25, seconds=2)


@pytest.fixture(scope="module")
def curve(small: Path, tmp_path_factory) -> dict[int | str, object]:
    """Two rates of one curve with the perfect upload, measured once for several tests."""
    facts, folder = inspect(small), tmp_path_factory.mktemp("curve")
    found: dict[int | str, object] = {"perfect": perfected(film(small, facts), folder / "perfect")}
    for kbps in (60, 900):
        found[kbps] = rehearsed(film(small, facts, kbps=kbps), tmp_path_factory.mktemp("rate"))
    return found


def at(found, station: Station, screen: Screen = Screen.LAPTOP, line: ViewerLine = ViewerLine.GOOD):
    return find(found.arrivals, station, screen, line)


def test_every_screen_line_and_station_is_measured(curve) -> None:
    for kbps in (60, 900):
        for screen in Screen:
            for line in ViewerLine:
                arrived = at(curve[kbps], Station.ARRIVED, screen, line)
                assert arrived.rendition
                assert 0 <= arrived.condition <= 100
                assert 0 < arrived.information <= 1.01
                assert arrived.evidence == "rehearsed"
            assert at(curve[kbps], Station.PACKED, screen).rendition is None
            assert at(curve[kbps], Station.SCALED, screen).condition > 99


def test_more_bits_arrive_better_and_the_platform_always_costs(curve) -> None:
    low, high, perfect = curve[60], curve[900], curve["perfect"]
    assert at(high, Station.PACKED).condition > at(low, Station.PACKED).condition + 10
    assert at(high, Station.ARRIVED).condition > at(low, Station.ARRIVED).condition
    for found in (low, high):
        assert at(found, Station.ARRIVED).xpsnr_db < at(found, Station.PACKED).xpsnr_db
    assert at(low, Station.ARRIVED).condition < at(perfect, Station.ARRIVED).condition + 1


def test_rates_and_moments_are_told(curve) -> None:
    found = curve[900]
    assert found.achieved_bps == pytest.approx(900_000, rel=0.2)
    assert (found.whole, found.pictures_packed, found.pictures_measured) == (False, 50, 50)
    assert len(found.moments) == 50
    assert found.renditions[0].achieved_bps > 0
    assert found.pack_pictures_per_s > 1


def test_windows_speak_for_the_film(shelf: Path, tmp_path: Path, monkeypatch) -> None:
    """On a film whose parts differ, the reel's answer lies near that of every frame. `make accuracy` measures how near."""
    monkeypatch.setattr("hardy_parcel.core.arrival.windows.REEL_PIXELS", 160 * 90 * 25 * 4)

    def pictures():
        for part, grain in enumerate((2.0, 10.0, 5.0)):
            yield from films.shimmer(160, 90, 100, grain=grain, seed=part)

    source = films.film(shelf / "long.mp4", width=160, height=90, seconds=12, sound=None, pictures=pictures())
    here = film(source, inspect(source), kbps=150)
    values = {}
    for whole in (False, True):
        folder = tmp_path / str(whole)
        folder.mkdir()
        values[whole] = rehearsed(here, folder, whole=whole)
    windows, every = values[False], values[True]
    assert every.pictures_measured == 300
    assert windows.pictures_packed < 0.7 * every.pictures_packed
    assert at(windows, Station.ARRIVED).condition == pytest.approx(at(every, Station.ARRIVED).condition, abs=6)
    assert windows.achieved_bps == pytest.approx(every.achieved_bps, rel=0.2)


def test_bars_and_a_rate_cap_are_followed_through(small: Path, tmp_path: Path) -> None:
    here = film(small, inspect(small), SPRIGG, kbps=400, framing=FramingMode.FIT)
    found = rehearsed(here, tmp_path, all_renditions=True)
    assert at(found, Station.ARRIVED).raster[0] > at(found, Station.ARRIVED).raster[1]
    assert {made.name for made in found.renditions} == {r.name for r in here.journey.renditions}


def test_only_what_a_viewer_gets_is_made(curve) -> None:
    assert {made.name for made in curve[900].renditions} == {
        at(curve[900], Station.ARRIVED, screen, line).rendition for screen in Screen for line in ViewerLine
    }


def test_the_treated_reel_is_made_once_and_taken_as_it_is(small: Path, tmp_path: Path, monkeypatch) -> None:
    here = film(small, inspect(small), SPRIGG, framing=FramingMode.FIT)
    first = reel_of(here, tmp_path)
    pictures = [picture.to_ndarray() for picture in first.frames]
    monkeypatch.setattr("hardy_parcel.work.rehearse.treated", None)
    again = reel_of(here, tmp_path)
    assert (again.frames, again.references) == (first.frames, first.references)
    assert all((one == other.to_ndarray()).all() for one, other in zip(pictures, again.frames, strict=True))
    (tmp_path / "treated" / "frames.pictures").write_bytes(b"half")
    with pytest.raises(TypeError):
        reel_of(here, tmp_path)


def test_it_can_be_stopped(small: Path, tmp_path: Path) -> None:
    def stop(doing: str, share: float) -> None:
        if share > 0.3:
            raise Cancelled("Stopped.")

    here = film(small, inspect(small))
    with pytest.raises(Cancelled):
        reel_of(here, tmp_path, say=stop)
    assert [path for path in tmp_path.rglob("*") if path.is_file()] == []
    reel = reel_of(here, tmp_path)
    with pytest.raises(Cancelled):
        trial_encode(here, reel, tmp_path / UPLOAD_NAME, stop)


def test_progress_only_rises(small: Path, tmp_path: Path) -> None:
    here, seen = film(small, inspect(small), SPRIGG), []
    reel = reel_of(here, tmp_path, say=lambda doing, share: seen.append(share))
    for step in (
        lambda: scaled_picture(here, reel, lambda doing, share: seen.append(share)),
        lambda: trial_encode(here, reel, tmp_path / UPLOAD_NAME, lambda doing, share: seen.append(share)),
        lambda: handled_upload(here, reel, None, tmp_path, "key", lambda doing, share: seen.append(share)),
    ):
        assert seen == sorted(seen)
        assert 0 <= min(seen) < 0.1
        assert 0.95 < max(seen) <= 1
        seen.clear()
        step()
    assert seen == sorted(seen)


def test_bars_cost_nothing(gale: Path, gale_facts: MasterFacts, tmp_path: Path, monkeypatch) -> None:
    """The whole picture between bars, not encoded at all, meets its reference on every screen."""
    monkeypatch.setattr("hardy_parcel.core.arrival.screens.PIXELS_PER_DEGREE", 30)
    here = film(gale, gale_facts, SPRIGG, framing=FramingMode.FIT)
    found = scaled_picture(here, reel_of(here, tmp_path), QUIET)
    for likeness in found.likenesses:
        assert likeness.condition > 97
        assert likeness.xpsnr_db > 38


def laddered(*codecs: str):
    """Orrery with one ladder whose steps are all 108 lines, one for each codec."""
    ceilings = {"ceiling_standard_bps": 200_000, "ceiling_high_bps": 200_000}
    rules = [RenditionRule(short_side_px=108, codec=codec, quality=34, **ceilings) for codec in codecs]
    handling = ORRERY.placement.handling.model_copy(update={"tiers": (HandlingTier(name="all", renditions=tuple(rules)),)})
    return ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"handling": handling})})


@pytest.mark.parametrize("codec", ["hevc", "vp9", "av1"])
def test_every_codec_is_rehearsed_through_every_handling(small, tmp_path: Path, codec: str) -> None:
    place = laddered("h264", "vp9", "av1")
    here = film(small, inspect(small), place, kbps=200, codec=codec, effort="quick")
    assert here.journey.perfect_key == film(small, inspect(small), place).journey.perfect_key
    found = rehearsed(here, tmp_path, all_renditions=True)
    assert [made.name for made in found.renditions] == ["108p h264", "108p vp9", "108p av1"]
    assert all(made.achieved_bps > 1000 for made in found.renditions)
    assert sorted(path.name for path in (tmp_path / "handled").iterdir()) == ["108p-av1.mp4", "108p-h264.mp4", "108p-vp9.webm"]
    served = at(found, Station.ARRIVED)
    assert served.rendition == "108p h264"
    assert 0 < served.condition <= at(found, Station.PACKED).condition + 3


def test_an_intra_frame_master_arrives_bit_for_bit(shelf: Path, tmp_path: Path) -> None:
    source = films.film(shelf / "for the client.mp4", width=320, height=180, rate=25, seconds=1, sound=None)
    here = film(source, inspect(source), HANDOVER, codec="vc3")
    found = rehearsed(here, tmp_path)
    assert found.renditions == ()
    assert at(found, Station.ARRIVED).condition == at(found, Station.PACKED).condition > 85
    assert found.achieved_bps == here.journey.plan.picture.target_bps.value


@pytest.mark.parametrize("choices", [Choices(max_bytes=20_000), Choices(max_bytes=20_000, framing=FramingMode.FILL), Choices()])
def test_a_cap_neither_lowers_nor_holds_what_is_only_rehearsed(small: Path, choices: Choices) -> None:
    """The curve goes beyond what fits, since that is what shows whether the cap matters; a sheet's own cap holds nothing either."""
    tiny = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"max_bytes": 30_000})})
    facts = inspect(small)
    task = RehearseTask(
        path=small, facts=facts, plan=make_plan(facts, tiny, choices), destination=tiny, choices=choices, rates=(900_000,), folder=Path()
    )
    plan = task.plan_at(900_000)
    assert plan.picture.target_bps.value == 900_000
    assert "over_cap" not in [stamp.code for stamp in plan.stamps]
