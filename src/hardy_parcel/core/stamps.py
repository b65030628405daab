"""Reasons and stamps: why a value is what it is, and what a check says of it."""

from __future__ import annotations

from enum import StrEnum
from typing import Generic, TypeVar

from .values import Model

T = TypeVar("T")


class Source(StrEnum):
    """Where a reason comes from."""

    SHEET = "sheet"
    MEASURED = "measurement"
    STANDARD = "standard"
    MASTER = "master"
    CREATOR = "creator"
    PROGRAM = "program"


class Because(Model):
    """Why a value is what it is: a code for programs, a sentence for people, and the source."""

    code: str
    sentence: str
    source: Source


class Chosen(Model, Generic[T]):
    """A value and its reason."""

    value: T
    because: Because


def chosen(value: T, code: str, sentence: str, source: Source) -> Chosen[T]:
    """A value with its reason, in one line."""
    return Chosen(value=value, because=Because(code=code, sentence=sentence, source=source))


class Outcome(StrEnum):
    CLEARED = "cleared"
    CARE = "handle with care"
    HELD = "held"


class Stamp(Model):
    """A check's outcome with what was seen."""

    code: str
    outcome: Outcome
    matter: str
    sentence: str
