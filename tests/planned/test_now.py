"""A parcel as it is planned now, from what is kept."""

from __future__ import annotations

from collections.abc import Iterator

import pytest

from hardy_parcel.core.errors import BadInput
from hardy_parcel.core.master.checks.evidence import SoundSurvey
from hardy_parcel.core.master.checks.sound_levels import MixLevels, SoundLevels, packed
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.parcel.parcel import Parcel
from hardy_parcel.core.plan import planning
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.planned import now as module
from hardy_parcel.planned.now import planned, planned_lanes, readable
from hardy_parcel.store import masters, parcels
from hardy_parcel.store.database import Database
from hardy_parcel.store.places import Places
from hardy_parcel.web import parcel_routes
from hardy_parcel.web.context import Context
from hardy_parcel.web.happenings import Happenings

from ..builders import facts


@pytest.fixture
def master(database: Database, places: Places) -> str:
    path = places.inbox / "Gale.mp4"
    path.write_bytes(b"x")
    found = masters.add(database, path)
    masters.set_ready(database, found, facts())
    return found


@pytest.fixture
def lanes(database: Database, master: str) -> list[Parcel]:
    return [now.parcel for now in planned_lanes(database, master)]


@pytest.fixture
def made(monkeypatch: pytest.MonkeyPatch) -> Iterator[list[Choices]]:
    """The choices of every plan that is made."""
    found, real = [], planning.make_plan

    def counted(master, place, choices=planning.Choices(), excerpt=None):
        found.append(choices)
        return real(master, place, choices, excerpt)

    monkeypatch.setattr(planning, "make_plan", counted)
    monkeypatch.setattr(module, "make_plan", counted)
    return found


def test_the_usual_lanes_are_made_once(database: Database, master: str, lanes: list[Parcel]) -> None:
    assert [one.destination_id for one in lanes] == ["orrery-wide", "sprigg-upright", "kitewall-square", "fernpost-reel"]
    assert [now.parcel.id for now in planned_lanes(database, master)] == [one.id for one in lanes]


@pytest.mark.parametrize("choices", [Choices(), Choices(codec="hevc", effort="quick"), Choices(method="untouched")])
def test_a_bench_makes_at_most_three_plans(database: Database, places: Places, lanes: list[Parcel], made: list, choices: Choices) -> None:
    """A sibling's too, which is told apart from the parcel that it was made from."""
    sibling = lanes[0].model_copy(update={"id": "other", "sibling_of": lanes[0].id, "choices": choices})
    parcels.keep(database, sibling)
    ctx = Context(database=database, places=places, happenings=Happenings(database))
    made.clear()
    view = parcel_routes.parcel("other", ctx)
    assert view.summary.choices == choices
    assert 1 <= len(made) <= 3
    made.clear()
    if choices.method is None:
        parcel_routes.at("other", ctx, video_bitrate_bps=5_000_000)
        assert len(made) <= 2


def test_a_parcel_has_the_levels_of_its_own_excerpt(database: Database, master: str, lanes: list[Parcel]) -> None:
    """Quiet, then loud: two parcels of one master are turned up differently."""
    levels = SoundLevels(late_s=0, mixes=(MixLevels(
        channels=2, momentary=packed([-30.0] * 100 + [-14.0] * 100), peaks=packed([-20.0] * 20 + [-2.0] * 20),
    ),))
    masters.keep_sound(database, "c0ffee", SoundSurvey(step_s=0.1), {"integrated_lufs": -15.0, "true_peak_dbtp": -2.0}, levels)
    quiet, loud = (
        lanes[1].model_copy(update={"id": name, "excerpt": Excerpt(in_s=start, out_s=start + 10)})
        for name, start in (("quiet", 0), ("loud", 10))
    )
    parcels.keep_all(database, master, [quiet, loud])
    assert planned(database, "quiet").plan.audio.gain_db.value > planned(database, "loud").plan.audio.gain_db.value


def test_choices_that_a_sheet_does_not_take_any_more_are_left_to_the_plan(database: Database, lanes: list[Parcel]) -> None:
    parcels.keep(database, lanes[1].model_copy(update={"choices": Choices(codec="av1", effort="quick")}))
    now = planned(database, lanes[1].id)
    assert (now.choices.codec, now.choices.effort) == (None, "quick")
    assert parcels.get(database, lanes[1].id).choices.codec == "av1", "what is kept is changed by the creator alone"


def test_what_is_enough_is_planned_once_it_is_known(database: Database, lanes: list[Parcel], monkeypatch: pytest.MonkeyPatch) -> None:
    wanted = Choices(times_enough=1.5)
    parcels.keep(database, lanes[0].model_copy(update={"choices": wanted}))
    before = planned(database, lanes[0].id)
    assert before.plan.picture.target_bps.value == before.plan.guidance.high_bps, "nothing was tried yet"
    monkeypatch.setattr(module, "enough_bps", lambda *_: 2_000_000)
    after = planned(database, lanes[0].id)
    assert (after.plan.picture.target_bps.value, after.choices) == (3_000_000, wanted), "it stays what is meant"
    settled = after.choosing(database, wanted.model_copy(update={"video_bitrate_bps": 2_500_000}))
    assert settled.plan.picture.target_bps.value == 2_500_000
    assert after.choosing(database, Choices(method="untouched")).plan.copied


def test_what_cannot_be_planned_yet_says_why(database: Database, master: str, places: Places) -> None:
    (places.inbox / "Gale.mp4").unlink()
    with pytest.raises(BadInput, match="not there any more"):
        readable(database, master)
    late = places.inbox / "Late.mp4"
    late.write_bytes(b"x")
    with pytest.raises(BadInput, match="still being read"):
        readable(database, masters.add(database, late))
