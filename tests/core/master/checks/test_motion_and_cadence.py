"""Cadence and fields on scenes whose truth is known."""

from __future__ import annotations

from fractions import Fraction

import numpy as np
import pytest

from hardy_parcel.core.master.checks.combing import measured_scan
from hardy_parcel.core.master.checks.evidence import FieldEvidence
from hardy_parcel.core.master.checks.measured_cadence import MeasuredCadence, found_cadence, repeats
from hardy_parcel.core.master.checks.motion import between_ratio, detail_ratio, field_difference, picture_change, temporal_information
from hardy_parcel.core.master.facts import Scan

from .pictures import moved, texture, window

GROUND = texture()


def at(moment: float, speed: float = 2.5) -> np.ndarray:
    return moved(GROUND, speed * moment)


def test_change_is_nothing_for_a_repeat_and_something_for_a_small_thing_that_moves() -> None:
    assert picture_change(GROUND, GROUND) == 0
    other = GROUND.copy()
    other[40:90, 60:110] += 60
    assert picture_change(GROUND, other) > 40
    speck = GROUND.copy()
    speck[3, 3] = 255
    assert picture_change(GROUND, speck) < 1


def test_a_blend_lies_between_its_neighbours_and_has_less_detail() -> None:
    before, here, after = at(0), at(1), at(2)
    blend = (before + after) / 2
    assert between_ratio(before, blend, after) == pytest.approx(0, abs=1e-4)
    assert between_ratio(before, here, after) > 0.2
    assert between_ratio(before, before, after) == pytest.approx(0.5)
    assert detail_ratio(before, blend, after) < 0.7
    assert detail_ratio(before, here, after) == pytest.approx(1, abs=0.1)
    assert between_ratio(before, before, before) is None
    assert detail_ratio(before, before, before) is None


def test_temporal_information_is_the_deviation_of_the_difference() -> None:
    assert temporal_information(GROUND, GROUND + 7) == pytest.approx(0, abs=1e-4)
    assert temporal_information(GROUND, GROUND + np.where(np.arange(320) % 2, 4, -4)) == pytest.approx(4, abs=1e-4)


@pytest.mark.parametrize(("source", "rate", "words"), [
    (24, 30, "24 in 30"), (25, 50, "doubled: 25 in 50"), (25, 30, "25 in 30"), (30, 60, "doubled: 30 in 60"), (24, 25, "24 in 25"),
])
def test_repeated_pictures_are_named_by_their_rates(source: int, rate: int, words: str) -> None:
    pictures = [at(i * source // rate) for i in range(5 * rate)]
    found = found_cadence((window(pictures, rate=rate),), Fraction(rate))
    assert (found.kind, found.words) == (MeasuredCadence.REPEATED, words)
    assert found.share == pytest.approx(1 - source / rate, abs=0.02)


@pytest.mark.parametrize(("hold", "words"), [(2, "held on twos"), (3, "held on threes")])
def test_drawings_on_twos_are_on_purpose_at_low_rates_only(hold: int, words: str) -> None:
    pictures = [at(i // hold * hold) for i in range(60)]
    assert found_cadence((window(pictures),), Fraction(25)).words == words
    assert found_cadence((window(pictures),), Fraction(50)).kind is MeasuredCadence.REPEATED


def test_a_movement_that_slows_down_repeats_nothing() -> None:
    pictures = [at(20 * np.tanh(i / 15)) for i in range(75)]
    assert found_cadence((window(pictures),), Fraction(25)).kind is MeasuredCadence.EVEN


def test_a_slow_movement_that_jumps_now_and_then_repeats_nothing() -> None:
    change = (None, 0.5, 2.0, 1.1, 1.4, 1.9, 1.0, 1.2, 5.0, 0.9, 1.0, 0.9, 4.2, 0.7, 0.9, 0.6, 0.7, 0.7, 0.5, 0.9, 0.5, 0.5, 0.6, 1.3, 1.9)
    assert not repeats(change).any()


def test_cuts_are_no_movement() -> None:
    assert not repeats((None, 2.0, 2.1, 90.0, 1.9, 88.0, 2.0, 2.2, 2.0, 1.9, 2.1)).any()


def test_nothing_moves() -> None:
    assert found_cadence((window([GROUND] * 30),), Fraction(25)).kind is MeasuredCadence.STILL
    assert found_cadence((), Fraction(25)).kind is MeasuredCadence.STILL


@pytest.mark.parametrize(("source", "rate", "words"), [
    (25, 30, "blended 25→30"), (24, 30, "blended 24→30"), (50, 60, "blended 50→60"), (30, 25, "blended 30→25"),
])
def test_blended_conversions_are_named_by_their_rates(source: int, rate: int, words: str) -> None:
    pictures = []
    for i in range(90):
        place = i * source / rate
        share = place - int(place)
        pictures.append((1 - share) * at(int(place)) + share * at(int(place) + 1))
    halves = (window(pictures[:45], rate=rate), window(pictures[45:], rate=rate, first=45))
    assert found_cadence(halves, Fraction(rate)).words == words
    assert found_cadence(halves, Fraction(rate), interlaced=True).kind is MeasuredCadence.EVEN


def test_single_blends_without_a_rhythm() -> None:
    spots = {7, 12, 20, 23, 31, 40, 44}
    pictures = [(at(i - 1) + at(i + 1)) / 2 if i in spots else at(i) for i in range(50)]
    found = found_cadence((window(pictures),), Fraction(25))
    assert found.kind is MeasuredCadence.BLENDED
    assert found.at_s == pytest.approx(7 / 25)


def test_a_dissolve_is_no_conversion() -> None:
    other = texture(9)
    shares = np.clip((np.arange(75) - 20) / 30, 0, 1)
    pictures = [(1 - share) * at(i) + share * moved(other, 2 * i) for i, share in enumerate(shares)]
    assert found_cadence((window(pictures),), Fraction(25)).kind is MeasuredCadence.EVEN


def test_keyframes_and_picture_types_of_the_encoder_are_no_beat() -> None:
    rng = np.random.default_rng(2)
    base = window([at(i) for i in range(75)])
    shaken = [None if r is None else r * (1.8 if i % 25 == 0 else 0.6 if i % 4 else 1.0) * rng.uniform(0.95, 1.05)
              for i, r in enumerate(base.between)]
    types = tuple(i % 4 != 0 for i in range(75))
    coded = base.model_copy(update={"between": tuple(shaken), "both_ways": types})
    assert found_cadence((coded,), Fraction(25)).kind is MeasuredCadence.EVEN


def fields_of(mode: str, speed: tuple[float, float], noise: float = 2.0) -> FieldEvidence:
    rng = np.random.default_rng(3)
    pictures = []
    for i in range(2):
        first = moved(GROUND, speed[0] * i, speed[1] * i)
        if mode != "progressive":
            second = moved(GROUND, speed[0] * (i + 0.5), speed[1] * (i + 0.5))
            first[(1 if mode == "top" else 0) :: 2] = second[(1 if mode == "top" else 0) :: 2]
        pictures.append(first + rng.normal(0, noise, first.shape))
    return field_difference(*pictures)


@pytest.mark.parametrize("speed", [(1.0, 0.0), (4.0, 0.0), (9.0, 2.0), (0.0, 3.0)])
@pytest.mark.parametrize(("mode", "scan"), [("progressive", Scan.PROGRESSIVE), ("top", Scan.TOP_FIRST), ("bottom", Scan.BOTTOM_FIRST)])
def test_fields_tell_how_a_picture_was_scanned(mode: str, scan: Scan, speed: tuple[float, float]) -> None:
    found = measured_scan(tuple(window([GROUND, GROUND], fields=fields_of(mode, speed)) for _ in range(3)))
    assert (found.scan, found.windows) == (scan, 3)


@pytest.mark.parametrize("period", [2.0, 2.5, 3.0, 5.0])
@pytest.mark.parametrize("speed", [0.3, 1.0, 1.7])
def test_fine_stripes_are_no_combs(period: float, speed: float) -> None:
    lines = np.arange(180)[:, None] * np.ones((1, 320))
    pair = [128 + 80 * np.sin(2 * np.pi * (lines - speed * i) / period) for i in range(2)]
    found = measured_scan((window([GROUND, GROUND], fields=field_difference(*pair)),) * 2)
    assert found.scan in (Scan.PROGRESSIVE, Scan.UNKNOWN)


def test_a_still_picture_says_nothing_of_its_fields() -> None:
    assert measured_scan((window([GROUND, GROUND], fields=field_difference(GROUND, GROUND)),)).scan is Scan.UNKNOWN
