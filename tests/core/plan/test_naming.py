"""File names: portable, bounded, and never one that is there."""

from __future__ import annotations

import unicodedata
from datetime import date

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.errors import BadInput
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.naming import (
    LONGEST_STEM_BYTES,
    USUAL_PATTERN,
    check_pattern,
    example_name,
    file_stem,
    free_name,
    portable_stem,
)
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, ORRERY, SPRIGG, facts


@given(st.text(max_size=400))
def test_any_text_becomes_a_portable_name(text: str) -> None:
    stem = portable_stem(text)
    assert stem
    assert len(stem.encode()) <= LONGEST_STEM_BYTES + len("parcel ")
    assert not set(stem) & set('<>:"/\\|?*\0')
    assert stem == stem.strip(" .")
    assert all(unicodedata.category(c)[0] != "C" for c in stem)
    assert portable_stem(stem) == stem


@pytest.mark.parametrize(
    ("text", "stem"),
    [
        ("Gale / over: the skerry?", "Gale over the skerry"), ("Fyrlykt på skjæret", "Fyrlykt på skjæret"),
        ("灯台の夜", "灯台の夜"), ("con", "parcel con"), ("COM1.tide", "parcel COM1.tide"), ("...", "parcel"), ("", "parcel"),
        ("cafe\u0301", "café"), ("a\u202eb", "a b"),
    ],
)
def test_names_people_give(text: str, stem: str) -> None:
    assert portable_stem(text) == stem


def test_the_pattern_says_master_destination_size_and_rate() -> None:
    assert file_stem("Gale over the skerry.mp4", make_plan(facts(rate=50), ORRERY)) == "Gale over the skerry - Orrery wide - 1080p50"
    assert file_stem("Lamp room.mov", make_plan(facts(1080, 1920, 60), SPRIGG)) == "Lamp room - Sprigg upright - 1080p30"


@given(st.integers(0, 30))
def test_a_taken_name_is_numbered(taken: int) -> None:
    there = {"Gale.mp4", *(f"Gale ({n}).mp4" for n in range(2, taken + 1))} if taken else set()
    name = free_name("Gale", "mp4", there.__contains__)
    assert name not in there
    assert name == ("Gale.mp4" if not taken else f"Gale ({max(2, taken + 1)}).mp4")


def test_names_tell_codec_way_and_sound_apart() -> None:
    def name(place=ORRERY, **choices) -> str:
        return file_stem("Gale.mov", make_plan(facts(rate=50), place, Choices(**choices)))

    assert name() == "Gale - Orrery wide - 1080p50"
    assert name(codec="av1") == "Gale - Orrery wide - 1080p50 - AV1"
    assert name(method="untouched") == "Gale - Orrery wide - 1080p50 - as it is"
    assert name(EARSHELF) == "Gale - Earshelf audio"


def test_a_pattern_puts_its_fields_and_leaves_out_what_says_nothing() -> None:
    plan = make_plan(facts(rate=50), ORRERY, Choices(codec="hevc"))
    cut = Excerpt(in_s=12, out_s=65)
    named = file_stem("Gale.mov", plan, "{number} {master} ({shape}, {size}) {date} {codec}", number=3, today=date(1987, 2, 14))
    assert named == "03 Gale (16x9, 1080p) 1987-02-14 HEVC"
    assert file_stem("Gale.mov", plan, "{master} - {excerpt} - {way}") == "Gale - HEVC"
    assert file_stem("Gale.mov", plan, "{master} - {excerpt} - {way}", excerpt=cut) == "Gale - 0m12-1m05 - HEVC"
    assert file_stem("Gale.mov", plan, excerpt=cut) == "Gale - 0m12-1m05 - Orrery wide - 1080p50 - HEVC"
    sound = make_plan(facts(), EARSHELF)
    assert file_stem("Gale.mov", sound, "{master}_{size}_{rate}_{destination}_{codec}") == "Gale_Earshelf audio_AAC"
    assert file_stem("Gale.mov", sound, "{size}") == "parcel"


@given(st.text(alphabet="{}abmaster destinationsize-_ /\\:é\0", max_size=60))
def test_a_pattern_is_refused_or_makes_a_portable_name(text: str) -> None:
    try:
        pattern = check_pattern(text)
    except BadInput as error:
        assert "Choose of" in error.todo
        return
    stem = file_stem("Gale.mov", make_plan(facts(), ORRERY), pattern)
    assert stem == portable_stem(stem)
    assert example_name(pattern).endswith(".mp4")


@pytest.mark.parametrize(("pattern", "said"), [("{film}", "{film} is no field"), ("{master", "A brace"), ("a" * 300, "too long")])
def test_what_is_no_pattern_is_told(pattern: str, said: str) -> None:
    with pytest.raises(BadInput, match=said):
        check_pattern(pattern)
    assert check_pattern("  ") == USUAL_PATTERN
