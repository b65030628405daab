"""The master beside its parcel: what changes is told, and only that."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.master.facts import ColourTags, Excerpt, MasterFacts
from hardy_parcel.core.parcel.last_look import last_look
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.docks.catalogue import destination

from ..builders import facts


def changes(master: MasterFacts, place: str, choices: Choices, excerpt: Excerpt | None = None) -> dict[str, tuple[str, str]]:
    plan = make_plan(master, destination(place), choices, excerpt)
    return {row.matter: (row.master, row.parcel) for row in last_look(master, plan, expected_bytes=8_700_000) if row.changes}


def test_what_stays_is_no_change() -> None:
    found = changes(facts(), "orrery-wide", Choices(method="encoded"))
    assert set(found) <= {"Loudness"}


def test_every_other_thing_is_told() -> None:
    found = changes(
        facts(), "sprigg-upright", Choices(method="encoded", codec="hevc", framing="fill", sound=False),
        Excerpt(in_s=Fraction(1), out_s=Fraction(2)),
    )
    assert found["Frame"][1].endswith("9:16")
    assert "Frame rate" not in found
    assert found["Codec"] == ("H.264", "HEVC")
    assert found["Sound"][1] == "none"
    assert found["Length"][1] == "0:01"


@pytest.mark.parametrize("method", ["untouched", "re-wrapped"])
def test_a_master_sent_as_it_is_does_not_change(method: str) -> None:
    assert set(changes(facts(), "handover-client", Choices(method=method))) <= {"Container"}


def test_an_untagged_picture_gets_its_tags() -> None:
    plain = facts()
    untagged = plain.model_copy(update={"video": plain.video.model_copy(update={"colour": ColourTags()})})
    assert changes(untagged, "orrery-wide", Choices(method="encoded"))["Colour"] == ("untagged", "BT.709, limited")
