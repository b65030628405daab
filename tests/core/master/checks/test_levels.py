"""Loudness of any part from the gating blocks kept along it, against figures that follow from the standard by hand."""

from __future__ import annotations

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.master.checks.sound_levels import HOP_S, MixLevels, SoundLevels, heard, heard_in, integrated, packed, unpacked
from hardy_parcel.core.master.facts import Excerpt

from ....builders import audio, facts


def levels(momentary: list[float | None], peaks: list[float | None], *, channels: int = 2, late_s: float = 0.0) -> SoundLevels:
    return SoundLevels(late_s=late_s, mixes=(MixLevels(channels=channels, momentary=packed(momentary), peaks=packed(peaks)),))


@given(st.lists(st.one_of(st.none(), st.floats(-100, 20)), max_size=50))
def test_levels_are_kept_to_the_hundredth(found: list[float | None]) -> None:
    back = unpacked(packed(found))
    assert len(back) == len(found)
    for level, kept in zip(found, back, strict=True):
        assert math.isnan(kept) if level is None else abs(kept - level) <= 0.0051


def test_a_steady_sound_is_as_loud_as_its_blocks() -> None:
    assert integrated(np.full(100, -23.0)) == pytest.approx(-23.0)


def test_silence_is_gated_away_and_has_no_loudness() -> None:
    assert integrated(np.array([-23.0] * 50 + [-80.0] * 200 + [np.nan] * 9)) == pytest.approx(-23.0)
    assert integrated(np.array([-80.0, np.nan])) is None
    assert integrated(np.array([])) is None


def test_the_relative_gate_leaves_out_what_is_ten_units_below() -> None:
    """Half at −20 and half at −36: the mean power is −23.0, so the gate is −33.0 and only the loud half counts."""
    assert integrated(np.array([-20.0] * 50 + [-36.0] * 50)) == pytest.approx(-20.0)
    both = integrated(np.array([-20.0] * 50 + [-28.0] * 50))
    assert both == pytest.approx(-0.691 + 10 * math.log10((10 ** ((-20 + 0.691) / 10) + 10 ** ((-28 + 0.691) / 10)) / 2))


def test_a_part_has_its_own_loudness_and_peak() -> None:
    """Ten quiet seconds, then ten loud ones."""
    found = levels([-30.0] * 100 + [-14.0] * 100, [-20.0] * 20 + [-2.0] * 20)
    quiet, loud, whole = (heard(found, *part)[0] for part in ((0, 10), (10.4, 20), (0, math.inf)))
    assert (quiet.integrated_lufs, quiet.true_peak_dbtp) == (-30.0, -20.0)
    assert (loud.integrated_lufs, loud.true_peak_dbtp) == (-14.0, -2.0)
    assert whole.integrated_lufs == -14.0


def test_only_blocks_that_lie_inside_count() -> None:
    """A block that ends 0.3 s after the in point still hears what is before it."""
    found = levels([-10.0] * 10 + [-30.0] * 90, [-3.0] * 20)
    assert heard(found, 1.0, 10.0)[0].integrated_lufs == -30.0
    assert heard(found, 0.9, 10.0)[0].integrated_lufs != -10.0


def test_a_late_sound_is_found_on_the_pictures_clock() -> None:
    found = levels([-20.0] * 20 + [-30.0] * 20, [-9.0, -9.0, -9.0, -9.0, -19.0, -19.0, -19.0, -19.0], late_s=1.0)
    assert heard(found, 0.0, 3.0)[0].integrated_lufs == -20.0
    assert heard(found, 3.0, 5.0)[0] == heard(found, 3.0, 99.0)[0]
    assert heard(found, 3.0, 5.0)[0].true_peak_dbtp == -19.0
    assert heard(found, 0.0, 0.9)[0].integrated_lufs is None


def test_a_part_too_short_for_a_block_is_silent() -> None:
    assert heard(levels([-20.0] * 50, [-9.0] * 10), 1.0, 1.0 + 3 * HOP_S)[0].integrated_lufs is None


def test_facts_carry_the_levels_of_their_excerpt() -> None:
    found = levels([-30.0] * 100 + [-14.0] * 100, [-20.0] * 20 + [-2.0] * 20, channels=2)
    there = heard_in(facts(), found, Excerpt(in_s=0, out_s=10))
    assert there.audio.heard_as(2).integrated_lufs == -30.0
    assert there.audio.heard_as(1).integrated_lufs == audio().integrated_lufs, "a mix that nobody heard is taken as the whole"
    assert heard_in(facts(), None, None) == facts()
    assert heard_in(facts(sound=None), found, None).audio is None
