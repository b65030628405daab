"""Where returned pictures lie in the packed film: fitted lines, snapped edges, and the words for what was done."""

from __future__ import annotations

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.alignment import Alignment, Pair, Placing, Timing, fit_time, placing_of
from hardy_parcel.core.errors import BadInput

SHARP = 0.01


def pairs(speed: float, offset_s: float, count: int = 9) -> list[Pair]:
    return [Pair(returned_s=n, packed_s=round((speed * n + offset_s) * 25) / 25, sharp=SHARP) for n in range(count)]


@given(speed=st.sampled_from([1.0, 25 / 24, 24 / 25, 1.001, 2.0, 0.5]), offset_s=st.floats(-20, 20))
def test_usual_speeds_are_found_to_the_picture(speed: float, offset_s: float) -> None:
    found = fit_time(pairs(speed, offset_s, 60), packed_rate=25, sharp_from=0.002)
    assert found.told
    assert max(abs(found.packed_s(n) - speed * n - offset_s) for n in range(60)) <= 0.06


def test_an_unusual_speed_is_found_too_and_wrong_moments_do_not_move_it() -> None:
    every = pairs(1.137, 3.0, 30)
    every[4] = Pair(returned_s=4, packed_s=25.0, sharp=SHARP)
    every[20] = Pair(returned_s=20, packed_s=1.0, sharp=SHARP)
    found = fit_time(every, packed_rate=25, sharp_from=0.002)
    assert found.speed == pytest.approx(1.137, abs=0.002)
    assert found.packed_s(10) == pytest.approx(14.37, abs=0.05)


def test_a_picture_that_stands_still_tells_no_place() -> None:
    found = fit_time([Pair(returned_s=1, packed_s=7, sharp=0.0)], packed_rate=25, sharp_from=0.002, fallback_offset_s=0.5)
    assert (found.told, found.speed, found.offset_s) == (False, 1.0, 0.5)
    with pytest.raises(BadInput):
        fit_time([], packed_rate=25, sharp_from=0.002)


def test_edges_near_the_frame_are_the_frames_own() -> None:
    found = placing_of([Placing(scale_x=1.4985, scale_y=1.501, left=0.6, top=-0.4)], packed=(1920, 1080), returned=(1280, 720))
    assert found.rect(1280, 720) == (0.0, 0.0, 1920.0, 1080.0)
    cut = placing_of([Placing(scale_x=1.2, scale_y=1.2, left=192, top=108)], packed=(1920, 1080), returned=(1280, 720))
    assert cut.rect(1280, 720) == (192.0, 108.0, 1728.0, 972.0)


def test_too_small_a_part_is_refused() -> None:
    with pytest.raises(BadInput, match="Too little"):
        placing_of([Placing(scale_x=0.2, scale_y=0.2, left=0, top=0)], packed=(1920, 1080), returned=(1280, 720))


def aligned(**changes: object) -> Alignment:
    told = {
        "timing": Timing(speed=1.0, offset_s=0.0, off_frames=0.0, told=True), "placing": Placing(scale_x=1.5, scale_y=1.5, left=0, top=0),
        "alike": 0.99, "packed_width": 1920, "packed_height": 1080, "packed_s": 10.0, "packed_rate": 25.0, "returned_width": 1280,
        "returned_height": 720, "returned_s": 10.0, "returned_rate": 25.0,
    }
    return Alignment.model_validate(told | changes)


def timing(speed: float, offset_s: float) -> Timing:
    return Timing(speed=speed, offset_s=offset_s, off_frames=0.0, told=True)


@pytest.mark.parametrize(("found", "said"), [
    (aligned(), ()),
    (aligned(timing=timing(1.0, 2.0), returned_s=8.0), ("2.00 s are missing at its beginning.",)),
    (aligned(returned_s=7.0), ("3.00 s are missing at its end.",)),
    (aligned(timing=timing(1.0, -1.0), returned_s=11.0), ("1.00 s that were not packed stand at its beginning.",)),
    (aligned(timing=timing(25 / 24, 0.0), returned_s=9.6, returned_rate=25 * 25 / 24), ("It runs 4.2 % quicker than it was packed.",)),
    (aligned(returned_rate=12.5), ("Only every second picture came back.",)),
    (aligned(returned_rate=24.0), ("Pictures were left out: 24 a second for 25.",)),
    (aligned(returned_rate=50.0), ("Pictures are shown more than once: 50 a second for 25.",)),
    (aligned(placing=Placing(scale_x=1.2, scale_y=1.5, left=192, top=0)), (
        "It was cut: 10 % at the left, 10 % at the right.", "It was stretched by 25 % across.")),
    (aligned(placing=Placing(scale_x=1.5, scale_y=1.8, left=0, top=-108)), (
        "A border was added at the top and bottom.", "It was stretched by 20 % across.")),
])
def test_what_was_done_on_the_way_is_said(found: Alignment, said: tuple[str, ...]) -> None:
    assert found.words() == said


def test_how_sure_it_is() -> None:
    assert aligned().sure == "surely"
    assert aligned(alike=0.93).sure == "very likely"
    assert aligned(alike=0.8).sure == "likely"
    assert "moves too little" in aligned(timing=Timing(speed=1, offset_s=0, off_frames=0, told=False)).sure
