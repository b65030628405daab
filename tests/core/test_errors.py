"""The error tree: complete, with codes of its own, and mapped to HTTP statuses."""

from __future__ import annotations

import inspect

from hardy_parcel.core import errors
from hardy_parcel.web.problems import STATUS, status_of


def classes() -> list[type[errors.HardyParcelError]]:
    return [
        cls for _, cls in inspect.getmembers(errors, inspect.isclass) if issubclass(cls, errors.HardyParcelError)
    ]


def test_every_class_stands_in_the_drawn_tree() -> None:
    for cls in classes():
        assert cls.__name__ in errors.__doc__


def test_every_class_has_a_code_of_its_own_and_crosses_a_process_border() -> None:
    codes = [cls.code for cls in classes()]
    assert len(set(codes)) == len(codes)
    assert set(errors.error_classes().values()) == set(classes())


def test_every_class_has_a_status() -> None:
    assert set(STATUS) == set(classes())
    for cls in classes():
        wanted = 400 if issubclass(cls, errors.BadInput) or cls is errors.Cancelled else 500
        assert wanted <= status_of(cls("What happened.", "What to do.")) < wanted + 100


def test_an_error_reads_as_one_or_two_sentences() -> None:
    error = errors.NotFound("There is no file.", "Check the name.", code="missing")
    assert str(error) == "There is no file. Check the name."
    assert error.code == "missing"
    assert str(errors.NotFound("There is no file.")) == "There is no file."
