"""What cannot be used is said in our words, whatever the validating library calls it."""

from __future__ import annotations

import datetime
from enum import StrEnum
from typing import Annotated, Any, Literal

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pydantic import Field, ValidationError

from hardy_parcel.core.faults import fault_words, faults_sentence
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.sheets.sheet import Sheet
from hardy_parcel.core.values import Model, Ratio

LIBRARY = ("Input", "should", "pydantic", "Value error", "ctx", "instance of", "type=")


class Light(StrEnum):
    RED = "red"
    GREEN = "green"


class Lamp(Model):
    name: Annotated[str, Field(min_length=2, max_length=5, pattern="^[a-z]+$")] = "lamp"
    height: Annotated[float, Field(gt=0, lt=100)] = 1.0
    watts: Annotated[int, Field(ge=1, le=9)] = 1
    light: Light = Light.RED
    side: Literal["port", "starboard"] = "port"
    on: bool = True
    seen: Annotated[tuple[int, ...], Field(max_length=2)] = ()
    built: datetime.date = datetime.date(1987, 1, 1)
    turns: Ratio = Field(default="1")
    parts: dict[str, int] = {}
    nothing: None = None


@pytest.mark.parametrize(
    ("given_", "said"),
    [
        ({"name": "x"}, "name must have at least 2 characters"),
        ({"name": "lanterns"}, "name must have at most 5 characters"),
        ({"name": "A!"}, "name is not written as it must be"),
        ({"name": 7}, "name must be text"),
        ({"height": 0}, "height must be more than 0.0"),
        ({"height": 100}, "height must be less than 100.0"),
        ({"height": "tall"}, "height must be a number"),
        ({"height": float("inf")}, "height must be a number"),
        ({"watts": 0}, "watts must be at least 1"),
        ({"watts": 10}, "watts must be at most 9"),
        ({"watts": 1.5}, "watts must be a whole number"),
        ({"watts": "many"}, "watts must be a whole number"),
        ({"light": "blue"}, "light must be one of 'red' or 'green'"),
        ({"side": "lee"}, "side must be one of 'port' or 'starboard'"),
        ({"on": "maybe"}, "on must be true or false"),
        ({"seen": (1, 2, 3)}, "seen must have at most 2 entries"),
        ({"seen": 1}, "seen must be a list"),
        ({"built": "long ago"}, "built must be a date such as 2026-12-01"),
        ({"parts": []}, "parts must be an object"),
        ({"turns": "x"}, "turns 'x' is not a ratio such as 25 or 24000/1001"),
        ({"colour": 1}, "colour there is no such field"),
        ({"nothing": 1}, "nothing must be left empty"),
    ],
)
def test_each_kind_of_fault_has_words(given_: dict[str, Any], said: str) -> None:
    with pytest.raises(ValidationError) as refused:
        Lamp.model_validate(given_)
    assert faults_sentence(refused.value) == said


JUNK = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=6),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.text(max_size=4), inner, max_size=3),
    max_leaves=5,
)


@given(st.dictionaries(st.sampled_from([*Choices.model_fields, "elsewhere"]), JUNK, max_size=6))
def test_no_choice_is_refused_in_the_librarys_words(values: dict[str, Any]) -> None:
    try:
        Choices.model_validate(values)
    except ValidationError as error:
        for fault in error.errors():
            assert not [word for word in LIBRARY if word in fault_words(fault)], fault


@given(st.dictionaries(st.sampled_from(list(Sheet.model_fields)), JUNK, max_size=6))
def test_no_sheet_is_refused_in_the_librarys_words(values: dict[str, Any]) -> None:
    try:
        Sheet.model_validate(values)
    except ValidationError as error:
        for fault in error.errors():
            assert not [word for word in LIBRARY if word in fault_words(fault)], fault


def test_only_the_first_faults_are_told() -> None:
    with pytest.raises(ValidationError) as refused:
        Lamp.model_validate({f"field {number}": 1 for number in range(9)})
    assert faults_sentence(refused.value, most=2).count(";") == 1
