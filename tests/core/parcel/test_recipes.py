"""Recipes: the same intent on another master, with that master's numbers, and every difference said with its reason."""

from __future__ import annotations

import json
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadInput
from hardy_parcel.core.master.facts import Focus, FramingMode
from hardy_parcel.core.parcel.recipe_documents import id_from, read_recipe, schema, write_recipe
from hardy_parcel.core.parcel.recipes import Intent, Recipe, changes_here, choices_for, differences, intent_of, intent_rows, part_of
from hardy_parcel.core.plan.carrying import file_size
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.planning import at_same_multiple, changed, make_plan
from hardy_parcel.core.trade.rate_control import Effort, RateControl

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, facts

LAMP = facts(1080, 1920, 30, seconds=20)
SCOPE = facts(1920, 804, Fraction(24000, 1001), seconds=30)
PLACES = {place.id: place for place in (ORRERY, SPRIGG, FERNPOST, HANDOVER, EARSHELF)}


def on(master, place, choices: Choices):
    """The part of a recipe made on a master."""
    return part_of(place.id, choices, make_plan(master, place, choices))


def brought(part, master):
    """What becomes of a part on another master: choices, plan, and changes by their setting."""
    place = PLACES[part.destination_id]
    choices, left = choices_for(part.intent, master, place)
    plan = make_plan(master, place, choices)
    return choices, plan, {change.setting: change for change in changes_here(part, plan, left)}


def test_a_bit_rate_is_kept_as_a_multiple_of_the_guidance() -> None:
    part = on(LAMP, SPRIGG, Choices(video_bitrate_bps=9_000_000))
    choices, plan, _ = brought(part, SCOPE)
    assert part.intent.times_guidance == pytest.approx(9.0 / 7.5, abs=0.001)
    assert plan.times_guidance == pytest.approx(part.intent.times_guidance, rel=0.01)
    assert choices.video_bitrate_bps == plan.picture.target_bps.value


def test_what_is_enough_is_found_anew_for_every_film() -> None:
    """Neither the number nor its multiple of the guidance is meant, but what this film's own pictures need."""
    part = on(LAMP, SPRIGG, Choices(video_bitrate_bps=2_000_000, times_enough=1.2))
    assert (part.intent.times_enough, part.intent.times_guidance) == (1.2, None)
    assert [row.says for row in intent_rows(part.intent)] == ["what is enough, and 20% more"]
    choices, plan, _ = brought(part, SCOPE)
    assert (choices.times_enough, choices.video_bitrate_bps) == (1.2, None)
    assert plan.picture.target_bps.value == plan.guidance.high_bps
    assert plan.picture.target_bps.because.sentence.endswith("until it is known what is enough")
    known = make_plan(SCOPE, SPRIGG, choices.model_copy(update={"video_bitrate_bps": 3_000_000}))
    assert known.picture.target_bps.because.code == "enough"
    assert known.picture.target_bps.because.sentence.startswith("what is enough, and 20% more by your own footage, ")


def test_what_was_enough_of_one_frame_is_not_of_another() -> None:
    chosen = Choices(video_bitrate_bps=2_000_000, times_enough=1)
    before = make_plan(LAMP, SPRIGG, chosen)
    assert at_same_multiple(LAMP, SPRIGG, chosen, before) == chosen
    smaller = at_same_multiple(LAMP, SPRIGG, chosen.model_copy(update={"short_side_px": 720}), before)
    assert (smaller.video_bitrate_bps, smaller.times_enough) == (None, 1)
    assert changed(LAMP, SPRIGG, chosen, {"video_bitrate_bps": 4_000_000}).times_enough is None
    assert changed(LAMP, SPRIGG, chosen, {"short_side_px": 720}) == smaller


def test_an_upright_30p_recipe_on_a_wide_24p_film() -> None:
    """Same intent, new numbers: the framing comes into play, the rate stays the film's own, and all of it is said."""
    part = on(LAMP, SPRIGG, Choices(framing=FramingMode.FILL, zoom=1.2, effort=Effort.CAREFUL, video_bitrate_bps=6_000_000))
    _, plan, changes = brought(part, SCOPE)
    video = plan.picture
    assert video.frame_rate.value == Fraction(24000, 1001)
    assert video.framing.value.mode is FramingMode.FILL
    assert (video.framing.value.width, video.framing.value.height) == (1080, 1920)
    assert video.effort.value is Effort.CAREFUL
    assert changes["Frame rate"].before == "30"
    assert changes["Frame rate"].after == "23.976"
    assert changes["Frame rate"].because
    assert plan.held == ()


def test_what_it_leaves_to_the_master() -> None:
    part = on(LAMP, SPRIGG, Choices(focus=Focus(x=0.1, y=0.2), gain_db=-3.0))
    choices, _, _ = brought(part, SCOPE)
    assert (choices.focus, choices.gain_db) == (None, None)
    assert "focus" not in Intent.model_fields
    assert "gain_db" not in Intent.model_fields


def test_a_size_to_go_down_to_never_enlarges_and_one_to_go_up_to_never_shrinks() -> None:
    down = on(facts(1920, 1080), ORRERY, Choices(short_side_px=720))
    small, large = facts(640, 360), facts(3840, 2160)
    choices, plan, changes = brought(down, small)
    assert choices.short_side_px is None
    assert plan.picture.framing.value.height == 360
    assert changes["Frame size"].because == "this master is smaller already and is not enlarged"
    assert brought(down, large)[1].picture.framing.value.height == 720
    up = on(facts(1920, 1080), ORRERY, Choices(short_side_px=1440))
    assert up.intent.enlarges
    assert brought(up, large)[0].short_side_px is None
    assert brought(up, facts(1280, 720))[1].picture.framing.value.height == 1440


def test_halving_is_meant_for_fast_films_only() -> None:
    part = on(facts(rate=50), ORRERY, Choices(frame_rate=25))
    assert part.intent.halves_rate
    assert brought(part, facts(rate=60))[1].picture.frame_rate.value == 30
    choices, _, changes = brought(part, SCOPE)
    assert choices.frame_rate is None
    assert "halving" in changes["Frame rate"].because


def test_a_rate_that_does_not_divide_is_left_to_the_master() -> None:
    part = on(facts(rate=60), ORRERY, Choices(frame_rate=20))
    assert brought(part, facts(rate=Fraction(24000, 1001)))[1].picture.frame_rate.value == Fraction(24000, 1001)
    assert brought(part, facts(rate=40))[1].picture.frame_rate.value == 20


def test_what_the_destination_does_not_take_is_left_and_said() -> None:
    part = on(facts(), ORRERY, Choices(codec="av1", container="webm", shape=Fraction(2)))
    moved = part.model_copy(update={"destination_id": SPRIGG.id})
    choices, plan, changes = brought(moved, LAMP)
    assert (choices.codec, choices.container, choices.shape) == (None, None, None)
    assert plan.picture.codec.value == "h264"
    assert "Sprigg does not take AV1" in changes["Codec"].because
    assert "not taken" in changes["Shape"].because
    assert changes["Shape"].before == "2:1"
    assert changes["Container"].after == "left to the plan"


def test_a_cap_is_an_intent_and_gives_another_rate() -> None:
    part = on(facts(seconds=20), ORRERY, Choices(max_bytes=12_000_000))
    _, plan, changes = brought(part, facts(seconds=60))
    assert file_size(plan).worst_bytes <= 12_000_000
    assert changes["Bit rate"].before != changes["Bit rate"].after
    assert "surely fits" in changes["Bit rate"].because


def test_sound_alone_and_as_it_is_are_kept() -> None:
    mono = on(facts(), EARSHELF, Choices(sound_codec="opus", channels=1))
    assert brought(mono, SCOPE)[1].audio.channels.value == 1
    mute = on(facts(), HANDOVER, Choices(sound=False))
    assert brought(mute, SCOPE)[1].audio is None
    whole = on(facts(), HANDOVER, Choices(method=Method.UNTOUCHED))
    assert brought(whole, SCOPE)[0].method is Method.UNTOUCHED


def test_on_the_master_it_was_made_on_nothing_changes() -> None:
    choices = Choices(codec="hevc", video_bitrate_bps=5_000_000, rate_control=RateControl.ONE_PASS, sharpen=True, short_side_px=720)
    part = on(facts(), ORRERY, choices)
    again, _, changes = brought(part, facts())
    assert again == choices
    assert changes == {}


CHOICES = st.builds(
    Choices, framing=st.sampled_from(FramingMode), zoom=st.sampled_from([1.0, 1.5, 3.0]), sharpen=st.booleans(),
    codec=st.sampled_from([None, "h264", "hevc", "av1", "vp9"]), short_side_px=st.sampled_from([None, 360, 720, 1440]),
    video_bitrate_bps=st.one_of(st.none(), st.integers(60_000, 50_000_000)), effort=st.sampled_from([None, *Effort]),
    sound=st.booleans(), max_bytes=st.one_of(st.none(), st.integers(100_000, 10**9)), channels=st.sampled_from([None, 1, 2]),
)
TAPE = facts(720, 576, 25, sample_aspect_ratio=Fraction(16, 15))
MASTERS = st.sampled_from([LAMP, SCOPE, facts(), facts(3840, 2160, 60), facts(640, 480, 15, sound=None), TAPE])
ANY_PLACE = st.sampled_from(list(PLACES.values()))


@given(CHOICES, MASTERS, MASTERS, ANY_PLACE, ANY_PLACE)
def test_any_recipe_can_be_brought_to_any_master_and_destination(choices: Choices, made_on, master, there, here) -> None:
    try:
        part = on(made_on, there, choices)
    except BadInput:
        return
    _, plan, changes = brought(part.model_copy(update={"destination_id": here.id}), master)
    assert plan.destination_id == here.id
    assert all(change.because and change.before != change.after for change in changes.values())


def test_differences_are_told_in_words() -> None:
    saved = Intent(codec="av1", times_guidance=1.4, framing=FramingMode.FILL)
    now = Intent(times_guidance=2.0, max_bytes=25_000_000)
    found = {change.setting: (change.before, change.after) for change in differences(saved, now)}
    assert found == {
        "Codec": ("AV1", "left to the plan"), "Bit rate": ("1.4 × guidance", "2 × guidance"),
        "Framing": ("fill, cropped", "left to the plan"), "Size limit": ("left to the plan", "25.0 MB"),
    }
    assert differences(saved, saved) == ()
    assert intent_rows(Intent()) == ()


def recipe(**changes) -> Recipe:
    parts = (on(LAMP, SPRIGG, Choices(framing=FramingMode.BLUR, effort=Effort.CAREFUL)),)
    return Recipe(**({"id": "weekly-lamp", "name": "Weekly lamp", "made_on": "Lamp room.mp4", "parts": parts} | changes))


def test_a_document_goes_out_and_comes_back() -> None:
    kept = recipe(starred=True, note="for the series")
    assert read_recipe(write_recipe(kept), name="it") == kept
    assert "parts" in schema()["properties"]


def document(intent: dict | None = None, **more) -> str:
    return json.dumps({"id": "x", "name": "x", "parts": [{"destination_id": "a-b", "intent": intent or {}}]} | more)


@pytest.mark.parametrize(("spoilt", "says"), [
    ("{", "is not JSON"), ("[]", "not a recipe"), ('{"schema_version": 9}', "newer program"), ('{"name": "x"}', "parts is missing"),
    (document(colour=1), "colour there is no such field"), (document(intent={"zoom": 99}), "parts.0.intent.zoom"),
])
def test_a_bad_document_says_where_and_why(spoilt: str, says: str) -> None:
    with pytest.raises(BadInput, match=says) as refused:
        read_recipe(spoilt, name="recipe.json")
    assert refused.value.code == "bad_recipe"


def test_intent_of_a_parcel_as_it_is_holds_no_rates() -> None:
    choices = Choices(method=Method.UNTOUCHED, video_bitrate_bps=5_000_000)
    assert intent_of(choices, make_plan(facts(), HANDOVER, choices)).times_guidance is None


def test_ids_are_plain_and_never_taken_twice() -> None:
    assert id_from("Über die Klippe!", set()) == "uber-die-klippe"
    assert id_from("Lamp", {"lamp", "lamp-2"}) == "lamp-3"
    assert id_from("…", set()) == "recipe"


def test_a_multiple_of_an_earlier_version_is_turned_into_one_of_the_top() -> None:
    """Version 1 counted from the middle of the guidance."""
    intent = {"times_guidance": 1.2, "effort": "quick"}
    document = {"schema_version": 1, "id": "x", "name": "Old", "parts": [{"destination_id": "sprigg-upright", "intent": intent}]}
    found = read_recipe(json.dumps(document), name="old.json", span=lambda destination_id: 7.5 / 5.5)
    assert found.schema_version == 3
    assert found.parts[0].intent.times_guidance == pytest.approx(1.2 * (5.5 * 7.5) ** 0.5 / 7.5, abs=0.001)
    assert read_recipe(write_recipe(found), name="new.json") == found
    with pytest.raises(BadInput, match="version 4"):
        read_recipe(json.dumps(document | {"schema_version": 4}), name="newer.json")
