"""Rule sheets as documents, read by people and by programs."""

from __future__ import annotations

import json
from datetime import date
from importlib import resources

import pytest

from hardy_parcel.core.errors import BadInput
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.parcel.offers import offers
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt
from hardy_parcel.core.sheets.sheet import Assumed, Sheet, SoundRate, destinations
from hardy_parcel.core.sheets.sheet_documents import (
    age_days,
    assumed_handling,
    blank_sheet,
    changes,
    faults_of,
    read_sheet,
    reminder,
    schema,
    write_sheet,
)
from hardy_parcel.core.sheets.sheet_text import grids, sheet_rows
from hardy_parcel.docks.shipped import shipped_sheets

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, facts

SHEETS = {sheet.id: sheet for sheet in shipped_sheets()}


def document(name: str = "sprigg") -> dict:
    return json.loads((resources.files("hardy_parcel.docks") / "sheets" / f"{name}.json").read_text())


@pytest.mark.parametrize("name", sorted(SHEETS))
def test_every_shipped_sheet_goes_out_and_comes_back(name: str) -> None:
    assert read_sheet(write_sheet(SHEETS[name]), name="x") == SHEETS[name]
    assert faults_of(document(name)) == ()


@pytest.mark.parametrize(
    ("spoil", "path", "why"),
    [
        (lambda d: d.update(colour="blue"), "colour", "no such field"),
        (lambda d: d["placements"][0].pop("max_bytes"), "placements.0.max_bytes", "is missing"),
        (
            lambda d: d["placements"][0]["guidance"][1].update(low_bps=9e9),
            "placements.0.guidance.1.low_bps",
            "must be at most",
        ),
        (
            lambda d: d["placements"][0]["guidance"][1].update(low_bps=4_500_000),
            "placements.0.guidance.1",
            "above the high",
        ),
        (
            lambda d: d["placements"][0]["guidance"].append(dict(d["placements"][0]["guidance"][0])),
            "placements.0",
            "two guidance rows",
        ),
        (lambda d: d["placements"][0].update(codecs=[]), "placements.0", "at least one codec"),
        (lambda d: d["placements"][0].update(picture=False), "placements.0", "audio feed"),
        (lambda d: d["placements"][0].update(usual_shape="16/9"), "placements.0", "usual shape"),
        (lambda d: d["placements"].append(dict(d["placements"][0])), "document", "same id"),
        (lambda d: d.update(schema_version=2), "schema_version", "use a newer program"),
        (lambda d: d["placements"][0].update(narrowest="0/1"), "placements.0.narrowest", "must be"),
        (lambda d: d["placements"][0]["handling"].update(tiers="all"), "placements.0.handling.tiers", "a list"),
    ],
)
def test_every_error_has_its_path_and_reason(spoil, path: str, why: str) -> None:
    spoiled = document()
    spoil(spoiled)
    found = {fault.path: fault.why for fault in faults_of(spoiled)}
    assert why in found[path]
    with pytest.raises(BadInput, match=path.replace(".", r"\.")) as caught:
        read_sheet(json.dumps(spoiled), name="mine.json")
    assert "mine.json" in str(caught.value)


def test_several_errors_are_all_named() -> None:
    spoiled = document()
    spoiled.update(id="Not An Id", extra=1)
    spoiled["placements"][0]["max_bytes"] = -1
    assert {fault.path for fault in faults_of(spoiled)} == {"id", "extra", "placements.0.max_bytes"}
    assert faults_of([])[0].path == "document"
    for text in ("{", "[" * 5000, "sheet: yes"):
        with pytest.raises(BadInput, match="not JSON"):
            read_sheet(text, name="mine.json")


def test_the_schema_names_every_field_and_forbids_others() -> None:
    found = schema()
    assert found["properties"].keys() == Sheet.model_fields.keys()
    assert found["additionalProperties"] is False
    assert set(found["$defs"]) >= {"Placement", "GuidanceRow", "Handling", "AudioRule"}


def test_what_differs_between_two_versions() -> None:
    one = SHEETS["sprigg"]
    place = one.placements[0]
    rows = (place.guidance[0].model_copy(update={"low_bps": 6_000_000}),)
    two = one.model_copy(
        update={"version": 2, "placements": (place.model_copy(update={"guidance": rows, "max_duration_s": 180}),)}
    )
    found = {change.path: (change.before, change.after) for change in changes(one, two)}
    assert found["placements.upright.max_duration_s"] == ("150", "180")
    assert found["placements.upright.guidance.1080 standard sdr h264.low_bps"] == ("5500000", "6000000")
    assert found["placements.upright.guidance.720 standard sdr h264.low_bps"] == ("3000000", None)
    assert "version" not in found
    assert changes(one, one.model_copy(update={"version": 9})) == ()


def test_age_and_reminder() -> None:
    sheet = SHEETS["orrery"]
    assert age_days(sheet, date(2026, 11, 25)) == 23
    assert age_days(sheet, date(2026, 1, 1)) == 0
    assert reminder(sheet, date(2026, 11, 25)) is None
    assert "210 days ago" in reminder(sheet, date(2027, 5, 31))


@pytest.mark.parametrize("place", [ORRERY.placement, SPRIGG.placement, HANDOVER.placement])
def test_an_assumed_ladder_is_marked_and_grows_harsher(place) -> None:
    ceilings = []
    for kind in Assumed:
        handling = assumed_handling(kind, place)
        rules = handling.tiers[0].renditions
        assert handling.assumed is kind
        assert [rule.short_side_px for rule in rules] == sorted((rule.short_side_px for rule in rules), reverse=True)
        ceilings.append(rules[0].ceiling_standard_bps)
    assert ceilings == sorted(ceilings, reverse=True)
    assert len(set(ceilings)) == 3


def test_a_sheet_from_nothing_invents_no_rates_and_can_be_planned_with_once_it_has_some() -> None:
    sheet = blank_sheet(sheet_id="tern", name="Tern Post", today=date(2026, 11, 25))
    assert faults_of(json.loads(write_sheet(sheet))) == ()
    place = sheet.placements[0]
    assert place.guidance == ()
    assert destinations([sheet]) == {}, "nothing can be planned for it yet"
    pasted = place.model_copy(update={"guidance": ORRERY.placement.guidance})
    plan = make_plan(facts(), destinations([sheet.model_copy(update={"placements": (pasted,)})])["tern-main"])
    assert plan.held == ()
    assert plan.video.target_bps.value == 9_100_000


def test_sound_is_asked_for_by_codec_and_channels() -> None:
    rule = ORRERY.placement.audio.model_copy(
        update={
            "by_codec": (
                SoundRate(codec="opus", channels=2, low_bps=128_000, high_bps=160_000),
                SoundRate(codec="opus", channels=1, high_bps=80_000),
            )
        }
    )
    place = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"audio": rule})})
    opus = make_plan(facts(), place, Choices(sound_codec="opus")).sound.bitrate_bps
    assert (opus.value, opus.because.sentence) == (160_000, "Orrery's stereo rate, top of 128 to 160 kbit/s")
    assert make_plan(facts(), place, Choices(sound_codec="opus", channels=1)).sound.bitrate_bps.value == 80_000
    assert make_plan(facts(), place).sound.bitrate_bps.value == 240_000, "AAC has no rate of its own"
    assert "Opus stereo 128 to 160 kbit/s" in {row.about: row.says for row in sheet_rows(place.placement)}["Sound"]


def test_a_sheet_reads_as_a_person_would_say_it() -> None:
    told = {row.about: row.says for row in sheet_rows(ORRERY.placement)}
    assert (
        told["Takes"]
        == "Any shape from 4:3 to 21:9, up to 3840×2160, 60 frames/s; H.264, HEVC, VP9 and AV1 in MP4, MOV, WebM and MKV."
    )
    assert told["Limits"] == "24.0 GB and 6 hours a film"
    assert told["Sound"].endswith("−15 LUFS, −1.5 dBTP, turns down only")
    assert told["Handling"].startswith("up to 1200 lines: 1080 H.264 ≤ 3.2 Mbit/s")
    client = {row.about: row.says for row in sheet_rows(HANDOVER.placement)}
    assert client["Handling"] == "bit for bit; nothing is re-encoded"
    assert client["Plays"] == "H.264 level 5.2, HEVC level 5.1 and 130.0 Mbit/s at the peak at most"
    feed = {row.about: row.says for row in sheet_rows(EARSHELF.placement)}
    assert "stereo 112 to 160 and mono 64 to 80 kbit/s" in feed["Sound"]
    (grid,) = grids(SPRIGG.placement)
    assert [(row.short_side_px, row.standard, row.high) for row in grid.rows] == [
        (1080, "5.5–7.5", None),
        (720, "3–4", None),
    ]
    assert grids(EARSHELF.placement) == ()


def offered(master=None, place=ORRERY, excerpt=None, **choices):
    master = master or facts()
    chosen = Choices(**choices)
    excerpt = excerpt or whole_excerpt(master)
    found = offers(master, place, chosen, make_plan(master, place, chosen, excerpt), excerpt)
    return {one.key: one for one in found}


def words(found, key: str) -> list[str]:
    return [one.words for one in found[key].offers]


def values(found, key: str) -> list[str]:
    return [one.value for one in found[key].offers]


def test_what_may_be_chosen_is_said_with_what_it_means() -> None:
    found = offered()
    assert words(found, "codec") == ["H.264", "HEVC", "VP9", "AV1"]
    assert found["codec"].offers[1].because == "guidance 4.5 Mbit/s to 5.9 Mbit/s"
    assert (found["codec"].name, found["codec"].value, found["short_side_px"].number) == ("Codec", "h264", True)
    assert words(found, "short_side_px") == ["1920×1080", "2560×1440", "1280×720", "854×480", "640×360"]
    assert (
        "enlarged 1.33 ×, arrives as 1440 lines by the ladder “above 1200 lines”"
        in found["short_side_px"].offers[1].because
    )
    assert values(found, "method") == ["", "untouched", "picture kept, sound anew"]
    assert words(offered(facts(rate=50)), "frame_rate") == ["50", "25"]
    assert values(offered(codec="vp9"), "container") == ["webm", "mkv", "mp4"]
    assert values(offered(codec="vp9"), "rate_control") == ["two passes", "constant quality", "one pass"]
    assert offered(codec="vp9")["codec"].value == "vp9"


def test_nothing_is_offered_that_cannot_be_planned() -> None:
    master = facts(1080, 1920, 30)
    for place in (ORRERY, SPRIGG, HANDOVER, EARSHELF):
        for key, one in offered(master, place).items():
            for value in one.offers:
                make_plan(master, place, Choices(**{key: value.value or None}))
    assert values(offered(place=EARSHELF), "sound_codec") == ["aac", "mp3", "opus", "flac", "pcm"]
    assert "method" not in offered(excerpt=Excerpt(in_s=1, out_s=9))
    assert "codec" not in offered(method="untouched")


def test_a_limit_that_was_typed_is_offered_too() -> None:
    found = offered(max_bytes=33_000_000)["max_bytes"]
    assert (found.value, found.offers[-1].words) == ("33000000", "33.0 MB")
