"""Masters, choices, results and settings survive a restart."""

from __future__ import annotations

from datetime import date
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.condition import Likeness
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import HandledUpload, MadeRendition, MeasuredRendition, ScaledPicture, TrialEncode
from hardy_parcel.core.arrival.windows import whole_reel
from hardy_parcel.core.errors import NameTaken, NotFound, Problem
from hardy_parcel.core.master.checks.evidence import SoundSurvey, Survey
from hardy_parcel.core.master.checks.sound_levels import MixLevels, SoundLevels, packed
from hardy_parcel.core.master.facts import Excerpt, Mending
from hardy_parcel.core.parcel.receipt import Receipt
from hardy_parcel.core.parcel.recipes import Recipe, part_of
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet_documents import blank_sheet
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.store import kept_recipes, kept_sheets, masters, parcels, results, settings
from hardy_parcel.store.database import Changed, Database, changed_since
from hardy_parcel.store.masters import MasterState
from hardy_parcel.store.results import CurvePlace
from hardy_parcel.store.settings import Settings

from ..builders import ORRERY, SPRIGG, facts


@pytest.fixture
def master(database: Database, places) -> str:
    path = places.inbox / "Gale.mp4"
    path.write_bytes(b"x")
    return masters.add(database, path)


def test_a_master_is_read_kept_and_read_again(database: Database, master: str, places) -> None:
    assert masters.get(database, master).state is MasterState.READING
    masters.set_ready(database, master, facts())
    masters.set_strip(database, master, 8)
    kept = masters.get(Database(database.path), master)
    assert (kept.state, kept.facts, len(kept.strip), kept.name) == (MasterState.READY, facts(), 8, "Gale.mp4")
    (places.inbox / "Gale.mp4").write_bytes(b"longer")
    assert masters.add(database, places.inbox / "Gale.mp4") == master
    assert masters.get(database, master).facts is None


def test_a_master_that_cannot_be_read_says_why(database, master) -> None:
    masters.set_unreadable(database, master, Problem(kind="unreadable", code="truncated", what="Cut short.", todo="Copy it again."))
    assert masters.get(database, master).problem.todo == "Copy it again."


def test_a_master_that_went_leaves_the_shelf(database, master) -> None:
    assert [m.id for m in masters.shelf(database)] == [master]
    masters.set_gone(database, master)
    assert masters.shelf(database) == []
    with pytest.raises(NotFound):
        masters.get(database, "nobody")


def test_several_excerpts_of_one_master(database, master) -> None:
    one, other = Excerpt(in_s=0, out_s=2), Excerpt(in_s=3, out_s=4)
    assert masters.keep_excerpt(database, master, one, number=None) == 1
    assert masters.keep_excerpt(database, master, other, number=None, title="The wave") == 2
    kept = masters.get(database, master)
    assert [(k.number, k.title) for k in kept.excerpts] == [(1, "Excerpt 1"), (2, "The wave")]
    assert (kept.excerpt, kept.excerpt_number) == (other, 2)
    masters.set_excerpt(database, master, Excerpt(in_s=3, out_s=5))
    assert masters.get(database, master).excerpts[1].excerpt.out_s == 5
    masters.choose_excerpt(database, master, 1)
    assert masters.get(database, master).excerpt == one
    masters.drop_excerpt(database, master, 1)
    left = masters.get(database, master)
    assert (left.excerpt, [k.number for k in left.excerpts]) == (None, [2])
    with pytest.raises(NotFound):
        masters.choose_excerpt(database, master, 9)


def test_what_was_measured_is_found_by_content(database, master, places) -> None:
    masters.set_ready(database, master, facts())
    content = facts().content_id
    heard = SoundSurvey(step_s=0.1, envelope_lufs=(-20.0, None), samples=96000)
    masters.keep_sound(database, content, heard.model_copy(update={"complete": False}), None)
    assert not masters.get(database, master).sound_checked
    masters.keep_sound(database, content, heard, {"integrated_lufs": -9.0, "loudness_range_lu": 1.0, "true_peak_dbtp": -1.0})
    masters.keep_picture(database, content, Survey(pictures_seen=3, pictures_in_film=3))
    kept = masters.get(database, master)
    assert (kept.sound_checked, kept.picture_checked, kept.facts.audio.integrated_lufs) == (True, True, -9.0)
    assert next(s for s in kept.stamps if s.code == "loud_audio").outcome is Outcome.CARE
    copy = places.inbox / "Copy.mp4"
    copy.write_bytes(b"x")
    twin = masters.add(database, copy)
    masters.set_ready(database, twin, facts())
    assert masters.get(database, twin).picture_checked


def test_a_master_taken_off_stays_off_until_it_is_added_again(database, master, places) -> None:
    masters.remove(database, master)
    assert masters.shelf(database) == []
    with pytest.raises(NotFound):
        masters.get(database, master)
    assert masters.add(database, places.inbox / "Gale.mp4") == master
    assert len(masters.shelf(database)) == 1


def test_mending_goes_with_the_facts(database, master) -> None:
    masters.set_ready(database, master, facts())
    masters.mend(database, master, Mending(turn_down=True))
    assert masters.get(database, master).facts.mending.turn_down


def test_an_excerpt_is_kept_exactly(database, master) -> None:
    masters.set_excerpt(database, master, Excerpt(in_s="1/3", out_s=5))
    assert masters.get(database, master).excerpt == Excerpt(in_s="1/3", out_s=5)
    masters.set_excerpt(database, master, None)
    assert masters.get(database, master).excerpt is None


def measured(journey: Journey) -> tuple[ScaledPicture, TrialEncode, HandledUpload]:
    """Made-up measurements of one way, on every raster that it has."""
    def likenesses(detail: float) -> tuple[Likeness, ...]:
        sizes = {raster.size for raster in journey.rasters().values()}
        return tuple(Likeness(raster=size, detail=detail, information=detail, movement=2, xpsnr_db=40) for size in sizes)

    made = MadeRendition(name="", width=16, height=9, achieved_bps=1, ceiling_bps=1)
    return (
        ScaledPicture(key=journey.treated_key, likenesses=likenesses(1.0)),
        TrialEncode(
            key=journey.encode_key, target_bps=8_000_000, achieved_bps=7_900_000, pictures_packed=50, pictures_measured=40,
            pictures_per_s=12, alone=True, likenesses=likenesses(0.9), moments=(),
        ),
        HandledUpload(key=journey.handled_key, renditions=tuple(
            MeasuredRendition(made=made.model_copy(update={"name": one.name}), likenesses=likenesses(0.8))
            for one in journey.renditions_served
        )),
    )


def test_a_rehearsal_is_put_together_from_its_measurements(database, tmp_path: Path) -> None:
    journey = Journey(make_plan(facts(), ORRERY), ORRERY)
    scaled, encode, handled = measured(journey)
    assert (results.rehearsals(database, journey), results.perfect(database, journey)) == ([], None)
    results.keep_measurement(database, "film", journey.reel_key, whole_reel(0, 4))
    results.keep_measurement(database, "film", scaled.key, scaled)
    results.keep_measurement(database, "film", encode.key, encode, tmp_path)
    results.keep_measurement(database, "film", handled.key, handled, tmp_path / "gone")
    place = CurvePlace(target_bps=8_000_000, encode_key=encode.key, handled_key=handled.key)
    results.keep_point(database, "film", journey.curve_key, place)
    (found,) = results.rehearsals(database, journey)
    assert (found.target_bps, found.achieved_bps, found.whole) == (8_000_000, 7_900_000, True)
    by_station = {arrival.station: arrival.condition for arrival in found.arrivals}
    assert by_station["scaled"] == 100 > by_station["packed"] > by_station["arrived"]
    assert results.folder_of(database, TrialEncode, encode.key) == tmp_path
    assert results.folder_of(database, HandledUpload, handled.key) is None, "files may be cleared away; what was measured stays"
    results.keep_measurement(database, "film", journey.perfect_key, handled.model_copy(update={"key": journey.perfect_key}))
    assert results.perfect(database, journey).whole
    other = Journey(make_plan(facts(), ORRERY, Choices(codec="hevc")), ORRERY)
    assert results.rehearsals(database, other) == []
    assert results.perfect(database, other) is not None, "what arrives of a perfect upload does not depend on our codec"


def test_speed_of_this_machine_is_the_median_of_the_last_jobs(database) -> None:
    plan = make_plan(facts(), ORRERY)
    assert results.packing_speed(database, plan) is None
    for fps in (10, 12, 50):
        results.keep_speed(database, plan, fps)
    found = results.packing_speed(database, plan)
    assert (found.pictures_per_s, found.evidence) == (pytest.approx(12), "earlier jobs")
    assert results.packing_speed(database, make_plan(facts(1600, 900), ORRERY)).pictures_per_s == pytest.approx(12 * 1.44)
    assert results.packing_speed(database, make_plan(facts(480, 270), ORRERY)) is None, "a size far from what was learned"
    assert results.packing_speed(database, make_plan(facts(), ORRERY, Choices(effort="careful"))) is None


def test_without_any_job_the_benchmark_tells_the_speed(database) -> None:
    plan = make_plan(facts(), ORRERY)
    results.keep_benchmark(database, "h264", 10e6)
    results.keep_benchmark(database, "h264", 12e6)
    assert {codec: one.pixels_per_s for codec, one in results.benchmark(database).items()} == {"h264": 12e6}, "the last one counts"
    assert results.packing_speed(database, plan).evidence == "benchmark"
    results.keep_speed(database, plan, 12)
    assert results.packing_speed(database, plan).evidence == "earlier jobs"


def test_receipts_are_listed_latest_first(database) -> None:
    plan = make_plan(facts(), ORRERY)
    for number in (1, 2):
        receipt = Receipt(
            file_name=f"{number}.mp4", folder="/out", size_bytes=1, sha256="0", encode_s=1, pictures=1, rows=()
        )
        results.keep_receipt(
            database, job_id=str(number), master_id="m", master_name="Gale.mp4", parcel_id=None, plan=plan, receipt=receipt
        )
    assert [kept.receipt.file_name for kept in results.receipts(database)] == ["2.mp4", "1.mp4"]


def test_settings(database) -> None:
    assert settings.load(database) == Settings()
    wanted = Settings(line=Line(uplink_mbps=3, currency="£", price_per_gb=2), output_folder="/out")
    settings.save(database, wanted)
    assert settings.load(Database(database.path)) == wanted
    settings.save(database, Settings())
    assert settings.load(database) == Settings()


def test_sheets_keep_every_version_and_removed_ones_come_back(database) -> None:
    first = blank_sheet(sheet_id="tern", name="Tern", today=date(2026, 11, 1))
    kept_sheets.keep(database, first)
    second = kept_sheets.keep(database, first.model_copy(update={"version": 2, "name": "Tern two"}))
    with pytest.raises(NameTaken, match="already has a version 2"):
        kept_sheets.keep(database, second)
    assert [one.name for one in kept_sheets.versions(database, "tern")] == ["Tern", "Tern two"]
    assert kept_sheets.newest(database) == [second]
    kept_sheets.remove(database, "tern")
    assert (kept_sheets.newest(database), kept_sheets.removed(database)) == ([], {"tern"})
    third = kept_sheets.keep(database, second.model_copy(update={"version": 3}))
    assert (kept_sheets.newest(database), kept_sheets.removed(database)) == ([third], set())


def test_parcels_are_kept_in_the_order_of_their_lanes(database, master) -> None:
    parcels.make_first_lanes(database, master, ["orrery-wide", "sprigg-upright"], None)
    parcels.make_first_lanes(database, master, ["kitewall-square"], None)
    first, second = parcels.of_master(database, master)
    assert [first.destination_id, second.destination_id] == ["orrery-wide", "sprigg-upright"]
    wave = Excerpt(in_s="1/3", out_s=5)
    sibling = first.model_copy(update={
        "id": parcels.new_id(), "sibling_of": first.id, "choices": Choices(codec="hevc"), "excerpt": wave, "name": "The wave", "place": 1,
    })
    parcels.keep_all(database, master, [first, sibling, second.model_copy(update={"place": 2})])
    assert [one.id for one in parcels.of_master(Database(database.path), master)] == [first.id, sibling.id, second.id]
    kept = parcels.get(database, sibling.id)
    assert kept == sibling.model_copy(update={"revision": kept.revision})
    parcels.keep(database, first.model_copy(update={"shown": False}))
    assert [one.id for one in parcels.of_master(database, master)] == [sibling.id, second.id]
    assert len(parcels.of_master(database, master, put_away=True)) == 3
    parcels.keep_all(database, master, [], removed=[sibling.id])
    with pytest.raises(NotFound):
        parcels.get(database, sibling.id)
    parcels.keep_all(database, master, [], removed=[first.id, second.id])
    parcels.make_first_lanes(database, master, ["orrery-wide"], None)
    assert parcels.of_master(database, master) == [], "a creator's own lanes stay as they were left, none included"


def test_parcels_follow_the_excerpt_that_they_were_planned_with(database, master) -> None:
    parcels.make_first_lanes(database, master, ["orrery-wide", "sprigg-upright"], None)
    own = Excerpt(in_s=1, out_s=2)
    parcels.keep(database, parcels.of_master(database, master)[1].model_copy(update={"excerpt": own}))
    masters.set_excerpt(database, master, Excerpt(in_s=3, out_s=9))
    assert [one.excerpt for one in parcels.of_master(database, master)] == [Excerpt(in_s=3, out_s=9), own]


def test_what_changes_is_told_by_its_kind(database, master) -> None:
    seen = database.revision()
    parcels.make_first_lanes(database, master, ["orrery-wide"], None)
    settings.save(database, Settings())
    assert changed_since(database, seen) == {Changed("lanes", master), Changed("settings", "")}
    assert changed_since(database, database.revision()) == set()


def test_speeds_are_told_apart_by_codec(database) -> None:
    slow, quick = make_plan(facts(), ORRERY, Choices(codec="hevc")), make_plan(facts(), ORRERY)
    results.keep_speed(database, slow, 2.0)
    assert results.packing_speed(database, quick) is None
    assert results.packing_speed(database, slow).pictures_per_s == pytest.approx(2.0)
    assert results.packing_speed(database, make_plan(facts(), ORRERY, Choices(method="untouched"))) is None


def recipe(name: str = "Weekly lamp", **changes) -> Recipe:
    part = part_of("sprigg-upright", Choices(effort="careful"), make_plan(facts(1080, 1920, 30), SPRIGG, Choices(effort="careful")))
    return Recipe(**({"id": "weekly-lamp", "name": name, "parts": (part,)} | changes))


def test_a_recipe_is_kept_renamed_and_starred_first(database: Database) -> None:
    kept_recipes.keep(database, recipe(), "gone")
    kept_recipes.keep(database, recipe("Another", id="another"), "gone")
    kept_recipes.keep(database, recipe("Weekly lamp, new", starred=True), "renamed back")
    assert [kept.recipe.name for kept in kept_recipes.every(database)] == ["Weekly lamp, new", "Another"]
    assert kept_recipes.named(database, "weekly LAMP, new").id == kept_recipes.named(database, "weekly-lamp").id == "weekly-lamp"
    with pytest.raises(NotFound, match="Another"):
        kept_recipes.named(database, "nothing like it")
    with pytest.raises(NameTaken):
        kept_recipes.keep(database, recipe("ANOTHER"), "x")
    assert kept_recipes.get(database, "weekly-lamp").recipe.name == "Weekly lamp, new", "a refused change changes nothing"


def test_every_change_of_recipes_can_be_undone_one_after_the_other(database: Database) -> None:
    first, second = recipe(), recipe("Weekly lamp, new")
    kept_recipes.keep(database, first, "the recipe is gone again")
    kept_recipes.keep(database, second, "it has its old name")
    kept_recipes.remove(database, "weekly-lamp")
    assert kept_recipes.every(database) == []
    assert kept_recipes.last_change(database) == "“Weekly lamp, new” is back"
    assert [kept_recipes.undo(database).said for _ in range(2)] == ["“Weekly lamp, new” is back", "it has its old name"]
    assert kept_recipes.get(database, "weekly-lamp").recipe == first
    kept_recipes.undo(database)
    assert kept_recipes.every(database) == []
    assert kept_recipes.last_change(database) is None
    with pytest.raises(NotFound):
        kept_recipes.undo(database)


def test_undoing_does_not_take_a_name_that_is_used_by_now(database: Database) -> None:
    kept_recipes.keep(database, recipe(), "gone")
    kept_recipes.keep(database, recipe("Renamed"), "old name")
    kept_recipes.keep(database, recipe("Weekly lamp", id="other"), "gone")
    kept_recipes.undo(database)
    kept_recipes.keep(database, recipe("Weekly lamp", id="other"), "gone")
    with database.writing() as connection:
        connection.execute("DELETE FROM recipe_changes WHERE recipe_id = 'other'")
    with pytest.raises(NameTaken):
        kept_recipes.undo(database)


def test_levels_of_an_excerpt_come_with_its_master(database: Database, tmp_path: Path) -> None:
    """Quiet, then loud: the master's facts follow the excerpt that is chosen."""
    (tmp_path / "a.mp4").write_bytes(b"x")
    master = masters.add(database, tmp_path / "a.mp4")
    masters.set_ready(database, master, facts(seconds=20))
    levels = SoundLevels(late_s=0, mixes=(MixLevels(
        channels=2, momentary=packed([-30.0] * 100 + [-14.0] * 100), peaks=packed([-20.0] * 20 + [-2.0] * 20),
    ),))
    masters.keep_sound(database, "c0ffee", SoundSurvey(step_s=0.1), {"integrated_lufs": -15.0, "true_peak_dbtp": -2.0}, levels)
    assert masters.get(database, master).facts.audio.heard_as(2).integrated_lufs == -14.0
    masters.set_excerpt(database, master, Excerpt(in_s=0, out_s=10))
    found = masters.get(database, master).facts.audio
    assert (found.heard_as(2).integrated_lufs, found.heard_as(2).true_peak_dbtp) == (-30.0, -20.0)
    assert found.integrated_lufs == -15.0
