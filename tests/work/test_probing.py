"""Probes for real: a few moments of a tiny film, kept, taken up again, and near to what a rehearsal measures."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from hardy_parcel.core.arrival.curve import condition_at
from hardy_parcel.core.arrival.forecast import COARSER_QUALITY, FINEST_QUALITY, Probes, probed_forecast
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.arrival.windows import MOST_PROBE_WINDOWS, Stretch
from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.master.checks.evidence import Difficulty
from hardy_parcel.core.master.facts import Excerpt, MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.codecs import PROBED_QUALITIES
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.inspect import inspect
from hardy_parcel.processes.measured import Measured
from hardy_parcel.processes.messages import (
    EffortProbed,
    HandlingProbed,
    ProbeTask,
    ReelChosen,
    RehearseTask,
    ScaledMeasured,
    UploadProbed,
)
from hardy_parcel.work import probing
from hardy_parcel.work.probing import plan_probe_reel
from hardy_parcel.work.rehearse import PlannedFilm
from hardy_parcel.work.tasks import probe, rehearse

from .. import films

FERNPOST = destination("fernpost-reel")
RATES = (200_000,)


class Voice:
    """Keeps what a task says; may break it off when it says what `until` names."""

    def __init__(self, until: type | None = None) -> None:
        self.said, self.doing, self.heard, self._until = [], [], Measured(), until

    def say(self, message) -> None:
        self.said.append(message)
        self.heard.hear(message)
        if self._until and isinstance(message, self._until):
            raise Cancelled("Stopped.")

    def due(self) -> bool:
        return True

    def progress(self, progress) -> None:
        self.doing.append((progress.doing, progress.share))


@pytest.fixture(scope="module")
def master(shelf: Path) -> Path:
    return films.film(shelf / "Tried.mp4", seconds=3, sound=None)


@pytest.fixture(scope="module")
def facts(master: Path) -> MasterFacts:
    return inspect(master)


def task(
    master: Path, facts: MasterFacts, folder: Path, *, place=FERNPOST, excerpt: Excerpt | None = None, **known
) -> ProbeTask:
    plan = make_plan(facts, place, Choices(method="encoded", effort="quick"), excerpt)
    return ProbeTask(path=master, facts=facts, plan=plan, destination=place, folder=folder, **known)


@pytest.mark.parametrize("known", [0, 8, 20])
@pytest.mark.parametrize("seconds", [1, 9, 13, 30, 300])
def test_a_probe_reel_has_windows_whatever_is_known(
    facts, seconds: int, known: int, monkeypatch: pytest.MonkeyPatch, master: Path
) -> None:
    """One long window of all of it would tell nothing of how windows differ."""
    long = facts.model_copy(
        update={
            "duration_s": Fraction(seconds),
            "video": facts.video.model_copy(update={"duration_s": Fraction(seconds), "frames": seconds * 25}),
        }
    )
    journey = Journey(make_plan(long, FERNPOST, Choices(method="encoded")), FERNPOST)

    def sampled(*_: object, most: int, **__: object) -> list[Stretch]:
        every = range(min(most, seconds * 25 // 20))
        starts = [Fraction(n * seconds, len(every)) for n in every]
        return [Stretch(start_s=start, end_s=start + 1, difficulty=float(start)) for start in starts]

    monkeypatch.setattr(probing, "stretches", sampled)
    seen = tuple(
        Difficulty(at_s=n * seconds / max(known, 1), spatial=20, temporal=1 + n % 7, grain=1) for n in range(known)
    )
    reel = plan_probe_reel(PlannedFilm(master=master, facts=long, journey=journey, difficulty=seen))
    windows = [part for part in reel.segments if part.measure_from_s < part.end_s]
    assert len(windows) >= min(3, seconds)
    assert len(windows) <= MOST_PROBE_WINDOWS * 5 / 4 + 1
    assert max(float(part.end_s - part.measure_from_s) for part in windows) < 2


def test_a_forecast_is_near_what_a_rehearsal_measures(master, facts, tmp_path: Path) -> None:
    voice, asked = Voice(), task(master, facts, tmp_path, excerpt=Excerpt(in_s=0, out_s=1))
    probe(asked, voice)
    probes = voice.heard.probes()
    assert probes.upload.key == asked.journey.upload_probe_key
    assert probes.scaled.key == asked.journey.probe_treated_key
    shares = [share for _, share in voice.doing]
    assert shares == sorted(shares)
    assert voice.doing[-1][0].endswith("(4 of 4)")
    known = probed_forecast(asked.journey, probes, RATES)
    measured = Voice()
    rehearse(
        RehearseTask(
            path=master,
            facts=facts,
            plan=asked.plan,
            destination=FERNPOST,
            choices=Choices(method="encoded", effort="quick"),
            rates=RATES,
            folder=tmp_path,
        ),
        measured,
    )
    true = outlook(measured.heard.rehearsals(asked.journey), measured.heard.perfect(asked.journey))
    for rate, got in zip(RATES, known.achieved, strict=True):
        assert got == pytest.approx(true.achieved[RATES.index(rate)], rel=0.4), (
            "one second leaves two passes little to even out"
        )
        for screen in Screen:
            told, found = (condition_at(rate, one, screen=screen, line=ViewerLine.GOOD) for one in (known, true))
            assert told.condition == pytest.approx(found.condition, abs=told.band), (rate, screen)
            assert told.evidence == "probed"


def test_quick_probes_tell_a_figure_of_few_pictures_and_less_surely(shelf: Path, tmp_path: Path) -> None:
    long = films.film(shelf / "Long.mp4", seconds=6, sound=None)
    facts = inspect(long)
    bands, counted = {}, {}
    for quick in (False, True):
        voice, asked = Voice(), task(long, facts, tmp_path / str(quick), quick=quick)
        probe(asked, voice)
        (reel,) = (one.reel for one in voice.said if isinstance(one, ReelChosen))
        counted[quick] = sum(round((part.end_s - part.start_s) * 25) for part in reel.segments)
        known = probed_forecast(asked.journey, voice.heard.probes(), [100_000, *RATES, 400_000])
        bands[quick] = condition_at(RATES[0], known, screen=Screen.LAPTOP, line=ViewerLine.GOOD).band
        assert known.perfect_band < bands[quick] + 1
    assert counted[True] <= 30 < counted[False]
    assert bands[True] > bands[False]


def test_what_is_known_is_not_tried_again(master, facts, tmp_path: Path) -> None:
    first, asked = Voice(), task(master, facts, tmp_path, excerpt=Excerpt(in_s=0, out_s="1.2"))
    probe(asked, first)
    probes: Probes = first.heard.probes()
    again = Voice()
    probe(asked.model_copy(update={"scaled": probes.scaled, "upload": probes.upload, "effort": probes.effort}), again)
    assert {type(message) for message in again.said if not hasattr(message, "reel")} == {HandlingProbed}
    assert again.said[-1].probe.uploads[0].quality is None


def test_a_stop_keeps_what_was_measured(master, facts, tmp_path: Path) -> None:
    voice = Voice(until=UploadProbed)
    with pytest.raises(Cancelled):
        probe(task(master, facts, tmp_path, excerpt=Excerpt(in_s=0, out_s="1.2")), voice)
    assert [type(message) for message in voice.said][-2:] == [ScaledMeasured, UploadProbed]
    assert not list(tmp_path.rglob("partial-*"))


def test_where_nothing_is_re_encoded_no_ladder_is_tried(master, facts, tmp_path: Path) -> None:
    voice = Voice()
    probe(
        task(master, facts, tmp_path, place=destination("handover-client"), excerpt=Excerpt(in_s=0, out_s="1.2")), voice
    )
    assert voice.heard.probes().handling is None
    assert isinstance(voice.said[-1], EffortProbed)
    assert (voice.doing[-1][0], voice.doing[-1][1]) == ("trying the effort (3 of 3)", pytest.approx(1.0))


def test_another_codec_is_told_from_the_first_by_one_window(master, facts, tmp_path: Path) -> None:
    """What depends on the pictures and the ladder alone is not tried again for it, and its curve is its own."""
    own = task(master, facts, tmp_path, excerpt=Excerpt(in_s=0, out_s="1.2"))
    heard = Voice()
    probe(own, heard)
    plan = make_plan(facts, FERNPOST, Choices(method="encoded", effort="quick", codec="av1"), own.plan.excerpt)
    other = own.model_copy(update={"plan": plan})
    assert set(heard.heard.fitting(other.journey)) == {"scaled", "upload", "handling"}
    again = Voice()
    probe(other.model_copy(update=heard.heard.fitting(other.journey)), again)
    assert {type(message) for message in again.said if not hasattr(message, "reel")} == {EffortProbed}
    shifts = again.said[-1].probe.shifts
    assert [one.quality for one in shifts] == list(PROBED_QUALITIES["av1"])
    curves = [
        probed_forecast(
            one.journey, Probes(**{**dict(heard.heard.probes()), "effort": effort}), [60_000, 200_000, 800_000]
        )
        for one, effort in ((own, heard.heard.probes().effort), (other, again.said[-1].probe))
    ]
    (first, second) = (curve.view(Screen.LAPTOP, ViewerLine.GOOD).packed for curve in curves)
    assert first != second
    assert list(second) == sorted(second)
    assert heard.heard.fitting(task(master, facts, tmp_path).journey) == {}, "another excerpt has other pictures"


def test_rates_beyond_the_probed_qualities_are_tried_where_the_curve_reaches_them(tmp_path: Path) -> None:
    """Flat pictures use less than guidance even at the finest quality; noise needs more than its lowest rate at the coarsest."""
    flat = [tuple(np.full((180 // n, 320 // n), 120, np.uint8) for n in (1, 2, 2))] * 25
    noisy = films.shimmer(320, 180, 25, grain=40)
    for name, pictures, easy in (("flat", flat, True), ("noisy", noisy, False)):
        path = films.film(tmp_path / f"{name}.mp4", rate=25, seconds=1, sound=None, pictures=iter(pictures))
        voice = Voice()
        probe(task(path, inspect(path), tmp_path / name), voice)
        effort = voice.heard.probes().effort
        assert (effort.finest is not None, effort.coarsest is not None) == (easy, not easy), name
        beyond = effort.finest or effort.coarsest
        assert beyond.quality in (FINEST_QUALITY["h264"], COARSER_QUALITY["h264"])
        assert (beyond.other_bits > 1) is easy


@pytest.mark.parametrize("quick", [False, True])
def test_no_buffer_of_a_ladder_lasts_longer_than_the_reel_that_is_tried(
    master, facts, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, quick: bool
) -> None:
    """It is full at first: hard pictures would pass every ceiling, as they do not on the film."""
    seen, real = [], probing.handle

    def handle(pictures, renditions, *args, **named):
        seen.extend(renditions)
        return real(pictures, renditions, *args, **named)

    monkeypatch.setattr(probing, "handle", handle)
    voice = Voice()
    asked = task(master, facts, tmp_path, quick=quick, excerpt=Excerpt(in_s=0, out_s=1))
    assert any(one.buffer_bits > one.ceiling_bps for one in asked.journey.renditions_served), "more than a second of it"
    probe(asked, voice)
    (reel,) = (one.reel for one in voice.said if isinstance(one, ReelChosen))
    reel_s = sum(float(part.end_s - part.start_s) for part in reel.segments)
    assert seen
    assert all(one.buffer_bits <= one.ceiling_bps * reel_s * 1.01 for one in seen)
