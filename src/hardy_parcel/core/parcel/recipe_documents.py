"""Recipes as documents: JSON with a published schema."""

from __future__ import annotations

import json
import math
import re
import unicodedata
from collections.abc import Callable, Iterator
from typing import Any

from pydantic import ValidationError

from ..errors import BadInput
from ..faults import faults_sentence
from ..sheets.sheet_documents import LARGEST
from .recipes import Recipe

VERSION = 3
USUAL_SPAN = 1.3
"""Top of a guidance over its lowest, for a destination of which nothing is known any more."""
Span = Callable[[str], float]
"""Top over lowest of a destination's guidance, by its id."""


def read_recipe(text: str, *, name: str, span: Span = lambda destination_id: USUAL_SPAN) -> Recipe:
    """A recipe from its JSON text; raises BadInput naming the path and the reason of every error.

    Version 1 counted multiples of guidance from its middle, the geometric mean; they are turned into multiples of its top. Up to version 2
    a frame of another shape had bars where nothing else was said.
    """
    def refuse(said: str, todo: str = "Correct it and try again.") -> BadInput:
        return BadInput(said, todo, code="bad_recipe")

    if len(text) > LARGEST:
        raise refuse(f"{name} is too large for a recipe.", "Choose another file.")
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        raise refuse(f"{name} is not JSON.") from error
    if not isinstance(document, dict):
        raise refuse(f"{name} is not a recipe: it has no name and no parts.", "Choose another file.")
    version = document.get("schema_version", 1)
    if isinstance(version, int) and version > VERSION:
        raise refuse(f"{name} is a recipe of version {version}, and this program reads up to {VERSION}.", "Use a newer program.")
    if version == 1:
        document = _from_the_top(document, span)
    if version in (1, 2):
        document = _with_bars(document)
    try:
        return Recipe.model_validate_json(json.dumps(document))
    except ValidationError as error:
        raise refuse(f"{name} cannot be used: {faults_sentence(error)}.") from error


def _intents(document: dict[str, Any]) -> Iterator[tuple[str, dict[str, Any]]]:
    """Every intent with its destination's id; what is odd in a document is left for the checks to find."""
    parts = document.get("parts")
    for part in parts if isinstance(parts, list) else ():
        intent = part.get("intent") if isinstance(part, dict) else None
        if isinstance(intent, dict):
            yield str(part.get("destination_id")), intent


def _with_bars(document: dict[str, Any]) -> dict[str, Any]:
    """A version 2 document as version 3."""
    for _, intent in _intents(document):
        intent.setdefault("framing", "fit")
    return document | {"schema_version": VERSION}


def _from_the_top(document: dict[str, Any], span: Span) -> dict[str, Any]:
    """A version 1 document as version 2."""
    for destination_id, intent in _intents(document):
        times = intent.get("times_guidance")
        if isinstance(times, (int, float)) and not isinstance(times, bool):
            intent["times_guidance"] = round(times / math.sqrt(span(destination_id)), 3)
    return document


def write_recipe(recipe: Recipe) -> str:
    """A recipe as JSON text; what is left to the plan is left out."""
    return json.dumps(recipe.model_dump(mode="json", exclude_defaults=True) | {"schema_version": VERSION}, indent=1, ensure_ascii=False)


def schema() -> dict[str, Any]:
    """The JSON Schema of a recipe."""
    return Recipe.model_json_schema()


def id_from(name: str, taken: set[str]) -> str:
    """An id in plain letters made of a name, numbered when it is taken."""
    plain = unicodedata.normalize("NFKD", name).encode("ascii", "ignore").decode().lower()
    stem = re.sub(r"[^a-z0-9]+", "-", plain).strip("-")[:32] or "recipe"
    return next(one for number in range(1, 10_000) if (one := stem if number == 1 else f"{stem}-{number}") not in taken)
