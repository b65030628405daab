"""What is told of a sending, and which file of those that came back a viewer is served."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.condition import Likeness
from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.rehearsal import Evidence, MomentMeasure, Station, find
from hardy_parcel.core.arrival.returned import (
    ExpectedView,
    PackedMeasure,
    ReturnedFile,
    ReturnedSound,
    against_expected,
    best_expected,
    returned_rehearsal,
    seen_views,
    served,
)
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.parcel.sending import Sending, SendingState, evidence_key, evidence_place, sending_sentence
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.kinder import kinder

from ...builders import HANDOVER, ORRERY, facts

PLAN = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=8_000_000))
WAY = Journey(PLAN, ORRERY)
MOMENTS = tuple(MomentMeasure(reel_index=n, master_s=Fraction(n, 25), condition=80 - n) for n in range(3))


def likenesses(detail: float) -> tuple[Likeness, ...]:
    sizes = {raster.size for raster in WAY.rasters().values()}
    return tuple(Likeness(raster=size, xpsnr_db=40, detail=detail, information=detail, movement=1.0) for size in sizes)


def file(side: int, detail: float, **more: object) -> ReturnedFile:
    told = {
        "name": f"{side}p h264",
        "file": f"{side}p-h264.mp4",
        "size_bytes": 1000,
        "duration_s": 10,
        "width": side * 16 // 9,
        "height": side,
        "codec": "h264",
        "frame_rate": 25,
        "video_bps": 500_000,
        "likenesses": likenesses(detail),
        "moments": MOMENTS,
    }
    return ReturnedFile.model_validate(told | more)


FILES = (file(480, 0.6), file(720, 0.8), file(1080, 0.95))


def sending(state: SendingState, **more: object) -> Sending:
    told = {
        "id": "a",
        "receipt_id": "b",
        "destination_id": ORRERY.id,
        "destination_name": ORRERY.full_name,
        "file_name": "Gale.mp4",
        "size_bytes": 1000,
        "sent_at": 0.0,
        "state": state,
    }
    return Sending.model_validate(told | more)


def expected(condition: float, band: float = 6.0, evidence: Evidence = Evidence.PROBED) -> ExpectedView:
    return ExpectedView(screen=Screen.LAPTOP, line=ViewerLine.GOOD, condition=condition, band=band, evidence=evidence)


@pytest.mark.parametrize(
    ("was", "said"),
    [
        (None, "was not tested before"),
        (expected(80.2), "as the forecast said"),
        (expected(83.0), "3 points below the forecast, within its band"),
        (expected(70.0), "10 points above the forecast, outside its band of 6"),
        (expected(81.0), "1.0 point below the forecast, within its band"),
        (expected(78.0, 2.0, Evidence.REHEARSED), "2 points above the rehearsal, within its band"),
        (expected(80.0, 2.0, Evidence.RETURNED), "as what came back before"),
    ],
)
def test_what_came_back_is_set_beside_what_was_expected(was: ExpectedView | None, said: str) -> None:
    assert against_expected(80.0, was) == said


def test_viewers_get_the_file_that_their_screen_and_line_ask_for() -> None:
    """Ceilings of the sheet tell what is light enough for a slow line; a file without a measured picture is served to nobody here."""
    assert served(WAY, FILES, Screen.LAPTOP, ViewerLine.GOOD).name == "1080p h264"
    assert served(WAY, FILES, Screen.LAPTOP, ViewerLine.SLOW).name == WAY.served(Screen.LAPTOP, ViewerLine.SLOW)
    assert served(WAY, (FILES[0], file(1080, 0.9, likenesses=())), Screen.TV, ViewerLine.GOOD).name == "480p h264"
    assert served(WAY, (), Screen.TV, ViewerLine.GOOD) is None


def test_it_stands_as_one_measured_point_once_every_viewer_has_a_file() -> None:
    packed = PackedMeasure(pictures=3, likenesses=likenesses(0.98), moments=MOMENTS)
    point = returned_rehearsal(WAY, packed, FILES, target_bps=8_000_000, achieved_bps=7_900_000)
    assert (point.evidence, point.target_bps, len(point.moments)) == (Evidence.RETURNED, 8_000_000, 3)
    laptop = find(point.arrivals, Station.ARRIVED, Screen.LAPTOP, ViewerLine.GOOD)
    assert laptop.condition < find(point.arrivals, Station.PACKED, Screen.LAPTOP, ViewerLine.GOOD).condition
    assert laptop.rendition == "1080p h264"
    assert returned_rehearsal(WAY, packed, (), target_bps=8_000_000, achieved_bps=1) is None


def test_evidence_outlives_a_sheet_and_belongs_to_one_destination() -> None:
    assert evidence_key(PLAN, ORRERY) == evidence_key(PLAN, kinder(ORRERY))
    assert evidence_key(PLAN, ORRERY) != evidence_key(PLAN, HANDOVER)
    other = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=9_000_000))
    assert evidence_key(PLAN, ORRERY) != evidence_key(other, ORRERY)


def test_what_came_back_belongs_to_every_rate_of_its_curve_and_to_no_other() -> None:
    own = evidence_place(PLAN, ORRERY)
    assert own.target_bps == 8_000_000
    slower = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=3_000_000))
    assert evidence_place(slower, ORRERY) == (own.curve_key, 3_000_000)
    assert evidence_place(PLAN, kinder(ORRERY)) == own, "whatever the sheet says that becomes of it"
    assert evidence_place(PLAN, HANDOVER).curve_key != own.curve_key
    for choices in (Choices(effort="quick"), Choices(sharpen=True), Choices(codec="hevc")):
        assert evidence_place(make_plan(facts(), ORRERY, choices), ORRERY).curve_key != own.curve_key
    assert evidence_place(make_plan(facts(), ORRERY, Choices(method="untouched")), ORRERY) is None


def test_a_sending_is_told_in_a_sentence() -> None:
    seen = seen_views(WAY, FILES, [expected(60.0)])
    assert sending_sentence(sending(SendingState.WAITING), ()) == "It goes to Orrery · wide film."
    assert (
        sending_sentence(sending(SendingState.REFUSED, refused=("Too long.",)), ())
        == "Orrery · wide film refused it. Too long."
    )
    assert "makes what viewers get" in sending_sentence(sending(SendingState.SENT), ())
    so_far = sending_sentence(sending(SendingState.SENT, files=FILES[:1]), seen_views(WAY, FILES[:1], (), every=False))
    assert so_far.startswith("So far Orrery · wide film serves 480p h264")
    assert "outside its band" in sending_sentence(sending(SendingState.ARRIVED, files=FILES), seen)
    sound = ReturnedSound(codec="aac", channels=2, bitrate_bps=96_000, integrated_lufs=-16.0)
    alone = file(480, 0.5, width=0, height=0, likenesses=(), sound=sound)
    told = sending_sentence(sending(SendingState.ARRIVED, files=(alone,)), ())
    assert told == "Orrery · wide film serves it with 96 kbit/s at −16.0 LUFS."


def test_what_nobody_is_shown_stays_here() -> None:
    packed = PackedMeasure(pictures=3, likenesses=likenesses(0.98), moments=MOMENTS)
    told = sending(SendingState.ARRIVED, files=FILES, packed=packed).told
    assert told.packed is None
    assert all(not one.moments and not one.likenesses for one in told.files)
    assert [one.name for one in told.files] == [one.name for one in FILES]


def test_the_surer_of_two_forecasts_is_the_one_that_counts_and_both_are_told() -> None:
    early, late = expected(70.0, 6.0), expected(78.0, 2.5, Evidence.REHEARSED)
    (seen,) = [
        one
        for one in seen_views(WAY, FILES, [early], tested=[late])
        if (one.screen, one.line) == (Screen.LAPTOP, ViewerLine.GOOD)
    ]
    assert (seen.expected, seen.first) == (late, early)
    assert "the rehearsal" in seen.words
    assert best_expected([early], []) == (early,)
    assert best_expected([], [late]) == (late,)
    assert best_expected([late], [early]) == (late,), "what is less sure does not stand in for it later"
    back = expected(80.0, 9.0, Evidence.RETURNED)
    assert best_expected([back], [late]) == (back,)
    alike = seen_views(WAY, FILES, [late], tested=[late])
    assert all(one.first is None for one in alike)
