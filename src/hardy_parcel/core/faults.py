"""What is wrong with a value that cannot be used, in plain words. Nobody reads the validating library's own."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from typing import Any

from pydantic import ValidationError

_PLAIN = {
    "missing": "is missing",
    "extra_forbidden": "there is no such field",
    "json_invalid": "is not valid JSON",
    "finite_number": "must be a number",
    "enum": "must be one of {expected}",
    "literal_error": "must be one of {expected}",
    "greater_than": "must be more than {gt}",
    "greater_than_equal": "must be at least {ge}",
    "less_than": "must be less than {lt}",
    "less_than_equal": "must be at most {le}",
    "string_too_short": "must have at least {min_length} characters",
    "string_too_long": "must have at most {max_length} characters",
    "too_short": "must have at least {min_length} entries",
    "too_long": "must have at most {max_length} entries",
    "string_pattern_mismatch": "is not written as it must be",
    "none_required": "must be left empty",
    "model_attributes_type": "must be an object",
}
"""By the library's name of a fault; what stands in braces is its context."""
_KINDS = {
    "int": "must be a whole number",
    "float": "must be a number",
    "decimal": "must be a number",
    "bool": "must be true or false",
    "string": "must be text",
    "list": "must be a list",
    "tuple": "must be a list",
    "set": "must be a list",
    "frozen": "must be a list",
    "dict": "must be an object",
    "mapping": "must be an object",
    "model": "must be an object",
    "date": "must be a date such as 2026-12-01",
    "datetime": "must be a date and a time",
    "union": "is of no kind that is known here",
}
"""By the first word of the library's name, such as `int_parsing` or `bool_type`."""


def fault_words(fault: Mapping[str, Any]) -> str:
    """Why one value cannot be used, in a few words that follow its name: “must be at most 60”. `fault` is one of a ValidationError's
    errors, with its context."""
    kind, context = str(fault["type"]), fault.get("ctx") or {}
    if kind == "value_error":  # raised by a rule of our own, in our own words
        local = str(context.get("error") or fault["msg"]).removeprefix("Value error, ")
        return local[:1].lower() + local[1:]
    if kind in _PLAIN:
        return _PLAIN[kind].format_map(_Context(context))
    return _KINDS.get(kind.split("_", 1)[0], "cannot be used here")


class _Context(dict[str, Any]):
    def __missing__(self, key: str) -> str:
        return "what is allowed"


def faults_sentence(
    error: ValidationError,
    *,
    most: int = 6,
    name_of: Callable[[tuple[Any, ...]], str] = lambda placement: ".".join(map(str, placement)),
) -> str:
    """The first faults of a value in a line, such as “zoom must be at most 8; codec must be one of 'h264' or 'hevc'”."""
    return "; ".join(
        f"{name_of(fault['loc']) or 'this'} {fault_words(fault)}"
        for fault in error.errors(include_url=False, include_input=False)[:most]
    )
