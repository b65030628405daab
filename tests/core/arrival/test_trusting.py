"""How far the figures of a sheet can be trusted, step by step."""

from __future__ import annotations

from datetime import date

import pytest

from hardy_parcel.core.arrival.learning import FileError
from hardy_parcel.core.arrival.trusting import StepKey, TrustPath, trust_path
from hardy_parcel.core.sheets.sheet import Assumed, Handling, Placement
from hardy_parcel.core.sheets.sheet_documents import assumed_handling, blank_sheet

from ...builders import ORRERY


def path(place: Placement, *, packed: int = 0, returned: int = 0, changes: int = 0, errors: tuple[float, ...] = ()) -> TrustPath:
    found = [FileError(file_name=f"{number}.mp4", before=9.0, after=error) for number, error in enumerate(errors)]
    return trust_path("Lantern", place, packed=packed, returned=returned, changes=changes, errors=found, ours=False)


BLANK = blank_sheet(sheet_id="lantern", name="Lantern", today=date(2026, 11, 28)).placements[0]
NOTHING = BLANK.model_copy(update={"handling": Handling()})
PASTED = NOTHING.model_copy(update={"guidance": ORRERY.placement.guidance})
ASSUMED = PASTED.model_copy(update={"handling": assumed_handling(Assumed.HARSH, PASTED)})
KNOWN = ASSUMED.model_copy(update={"handling": ASSUMED.handling.model_copy(update={"assumed": None})})


@pytest.mark.parametrize(("found", "after", "trust"), [
    (path(BLANK), StepKey.GUIDANCE, "Not yet"),
    (path(NOTHING), StepKey.GUIDANCE, "Not yet"),
    (path(PASTED), StepKey.HANDLING, "says that nothing is re-encoded"),
    (path(ASSUMED), StepKey.SENT, "± 12 points"),
    (path(ASSUMED, packed=1), StepKey.RETURNED, "± 12 points"),
    (path(KNOWN, packed=1), StepKey.RETURNED, "nothing has confirmed"),
    (path(ASSUMED, packed=1, returned=1, changes=3, errors=(1.0,)), StepKey.CORRECTED, "did not explain them"),
    (path(KNOWN, packed=1, returned=1, errors=(1.0,)), None, "bring back a second one"),
    (path(KNOWN, packed=2, returned=2, errors=(1.0, 2.0)), None, "2 films that came back, and would have been 1.5 points off"),
])
def test_each_step_leads_to_the_next_and_says_how_far_it_goes(found: TrustPath, after: StepKey | None, trust: str) -> None:
    assert found.next_step is after
    assert trust in found.trust
    assert [one.key for one in found.steps] == list(StepKey)
    assert all(one.told and one.trust for one in found.steps)


def test_bytes_that_are_served_as_they_were_sent_are_doubted() -> None:
    assert "Few platforms do that" in path(PASTED).steps[1].told


def test_a_stand_in_that_ships_is_known() -> None:
    known = trust_path("Orrery", ORRERY.placement, packed=0, returned=0, changes=0, errors=(), ours=True)
    assert known.trust.startswith("It is a stand-in that ships")


def test_a_file_that_was_left_out_counts_for_nothing() -> None:
    errors = [FileError(file_name="a", before=9.0, after=1.0), FileError(file_name="b", before=9.0, after=30.0, outlier=True)]
    found = trust_path("Lantern", KNOWN, packed=2, returned=2, changes=0, errors=errors, ours=False)
    assert "second one" in found.trust
