"""A file that a platform served, as it is kept: where it came from, and what was measured of it."""

from __future__ import annotations

from functools import cached_property

from ..arrival.learning import ReturnedFound
from ..arrival.rehearsal import Evidence
from ..arrival.returned import ExpectedView
from ..arrival.screens import Screen, ViewerLine
from ..errors import Problem
from ..values import Model

LARGEST = (Screen.LAPTOP, Screen.TV)
"""Screens that are served the largest file on a good line."""


class ReturnedRecord(Model):
    """A returned file of a packed parcel. `path` is where it lies; `own` says that it was brought here, so that it goes when it is
    forgotten. `best` says that nothing better is served; `expected` is what was forecast of the parcel. `found` is None until it was
    measured; `problem` says why it could not be."""

    id: str
    receipt_id: str
    destination_id: str
    destination_name: str
    file_name: str
    packed_name: str
    path: str
    own: bool
    best: bool
    added_at: float
    expected: tuple[ExpectedView, ...] = ()
    found: ReturnedFound | None = None
    problem: Problem | None = None

    @property
    def counting(self) -> dict[Screen, ExpectedView]:
        """What was forecast of those screens that would be served such a file: of the best that is served those that get the largest. What
        had come back before is no forecast."""
        if self.found is None or not self.found.observation.best:
            return {}
        return {
            view.screen: view for view in self.expected
            if view.screen in LARGEST and view.line is ViewerLine.GOOD and view.evidence is not Evidence.RETURNED
        }

    @cached_property
    def held_against(self) -> ReturnedFound | None:
        """What was found beside what was forecast of it."""
        told = {screen: view.condition for screen, view in self.counting.items()}
        return self.found.model_copy(update={"expected": told}) if self.found else None
