"""A parcel put together, and the sentence that stands first."""

from __future__ import annotations

import pytest

from hardy_parcel.core.carrying import Line
from hardy_parcel.core.parcel import Parcel, assemble
from hardy_parcel.core.plan import Choices
from hardy_parcel.core.planning import make_plan
from hardy_parcel.core.screens import Screen, ViewerLine

from ..builders import ORRERY, SPRIGG, facts, perfect, rehearsal

CURVE = [rehearsal(3, 60), rehearsal(6, 74), rehearsal(12, 79.5), rehearsal(20, 80)]


def parcel(mbps: float | None = 8, *, rehearsals=CURVE, top: float | None = 80.5, destination=ORRERY, master=None, fps=None) -> Parcel:
    master = master or facts()
    choices = Choices(video_bitrate_bps=None if mbps is None else round(mbps * 1e6))
    return assemble(
        facts=master, destination=destination, choices=choices, plan=make_plan(master, destination, choices), line=Line(),
        rehearsals=list(rehearsals), perfect=None if top is None else perfect(top), measured_fps=fps,
    )


def sentence(*args, **kwargs) -> str:
    seen = {(s.screen, s.line): s for s in parcel(*args, **kwargs).seen}
    return seen[Screen.LAPTOP, ViewerLine.GOOD].sentence


def test_the_first_sentence_says_what_a_friend_would() -> None:
    assert "is enough on a laptop" in sentence(19)
    assert "buy nothing Orrery passes on" in sentence(19)
    assert "would be enough" in sentence(6)
    assert "is just enough" in sentence(12)
    assert "still passes on more" in sentence(12, top=95)
    assert sentence(8, rehearsals=[rehearsal(3, 80), rehearsal(12, 80.2)], top=80.3).startswith("So far")
    assert "Even 3.0 Mbit/s is enough" in sentence(8, rehearsals=[rehearsal(3, 80), rehearsal(6, 80), rehearsal(12, 80.2)], top=80.3)
    assert "lies outside the 3.0 Mbit/s to 20.0 Mbit/s" in sentence(40)
    assert "Rehearse to see" in sentence(None, rehearsals=[], top=None)
    assert "top of Orrery's guidance" in sentence(None, rehearsals=[], top=None)
    assert sentence(8, destination=SPRIGG, master=facts(1080, 1920, seconds=400)).startswith("This cannot be packed yet:")


def test_the_saving_in_the_sentence_is_the_difference_of_sizes() -> None:
    """20 s at 19 Mbit/s over the enough mark near 12: about 17 MB."""
    found = parcel(19)
    curve = found.seen[2].curve
    saved = (19e6 - curve.enough_bps) * 20 / 8 / 1e6
    assert f"{saved:.1f} MB more" in sentence(19)


def test_one_more_point_is_singular() -> None:
    assert "would bring 1 more point." in sentence(7.5, rehearsals=[rehearsal(3, 60), rehearsal(7.5, 78), rehearsal(12, 80)], top=80)


def test_every_screen_and_line_is_seen() -> None:
    found = parcel()
    assert [(s.screen, s.line) for s in found.seen] == [(s, v) for s in Screen for v in ViewerLine]


def test_measured_speed_comes_before_history_and_history_before_the_prior() -> None:
    assert parcel(fps=30).figures.encode.seconds == pytest.approx(500 / 12)
    assert parcel(rehearsals=[], top=None, fps=30).figures.encode.seconds == pytest.approx(500 / 30)
    assert parcel(rehearsals=[], top=None).figures.encode.evidence == "sheet"


def test_the_handles_range_covers_what_was_rehearsed() -> None:
    found = parcel(rehearsals=[rehearsal(0.5, 40), rehearsal(90, 80)])
    assert found.lowest_bps == 500_000
    assert found.highest_bps == 90_000_000


def test_an_undershooting_picture_is_not_forecast_at_the_asked_size() -> None:
    shy = parcel(rehearsals=[rehearsal(3, 60, achieved=0.4), rehearsal(12, 80, achieved=0.2)])
    assert shy.figures.size.expected_bytes < 0.5 * parcel(rehearsals=CURVE).figures.size.expected_bytes
    assert shy.figures.size.worst_bytes == parcel().figures.size.worst_bytes
