"""Whether a larger frame pays."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.screens import ViewerLine
from hardy_parcel.core.parcel.going_up import going_up
from hardy_parcel.core.parcel.lane import BesideRow, Lane

from .test_lane import row


def larger(**by_screen: float) -> Lane:
    """A lane like `row(80)` of a larger frame and file, with other conditions on some screens."""
    own = row(80)
    figures = own.figures.model_copy(update={
        "size": own.figures.size.model_copy(update={"expected_bytes": own.figures.size.expected_bytes * 2}),
    })
    seen = tuple(
        one.model_copy(update={"at": one.at.model_copy(update={"condition": by_screen.get(one.screen, one.at.condition)})})
        for one in own.seen
    )
    return own.model_copy(update={"seen": seen, "figures": figures, "beside": BesideRow.LARGER})


def told(up: Lane, own: Lane | None = None):
    return next(one for one in going_up(up, own or row(80)) if one.line is ViewerLine.GOOD)


def test_it_pays_where_a_screen_gains_what_is_noticed() -> None:
    found = told(larger(tv=90))
    assert found.pays is True
    assert found.words == "pays on a TV, 2.0 × the file"
    assert found.sentence == (
        "pays: 10 points better on a TV, ±3, nothing that is noticed on a phone and a laptop, for a file 2.0 times as large"
    )


@pytest.mark.parametrize(("conditions", "why"), [
    ({}, "no difference that can be told on any screen"), ({"tv": 81.5, "laptop": 81}, "no difference that can be told on any screen"),
    ({"tv": 85}, "no screen gains what anyone notices"), ({"tv": 95, "phone": 70}, "10 points worse on a phone, ±3"),
])
def test_it_does_not_pay_otherwise_and_says_why(conditions: dict[str, float], why: str) -> None:
    found = told(larger(**conditions))
    assert found.pays is False
    assert found.words.startswith("does not pay")
    assert found.words.endswith(", 2.0 × the file")
    assert found.sentence == f"does not pay: {why}, for a file 2.0 times as large"


def test_nothing_is_said_where_nothing_is_known_and_the_frame_is_its_name() -> None:
    assert going_up(larger(), row(None)) == ()
    up = larger()
    assert up.name == f"Orrery wide film, {up.framing.width}×{up.framing.height}"
