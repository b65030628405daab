"""Clipping, silence, and true peak."""

from __future__ import annotations

import numpy as np
import pytest

from hardy_parcel.core.master.checks.evidence import SoundSurvey
from hardy_parcel.core.master.checks.peak import PeakMeter
from hardy_parcel.core.master.checks.silence import flat_tops, over_full_scale, silent

TIME = np.arange(48000) / 48000


@pytest.mark.parametrize("hz", [50, 110, 440, 997, 6000])
def test_a_pure_tone_at_full_scale_is_not_clipped(hz: float) -> None:
    assert flat_tops(np.sin(2 * np.pi * hz * TIME)) <= 12
    assert over_full_scale(np.sin(2 * np.pi * hz * TIME)) == 0


@pytest.mark.parametrize("limit", [1.0, 0.98, 0.8])
def test_what_was_cut_off_is_flat(limit: float) -> None:
    wave = np.clip(1.6 * np.sin(2 * np.pi * 220 * TIME), -limit, limit)
    assert flat_tops(np.stack([wave, wave])) > 20_000
    assert flat_tops(wave * 0.3) == 0


def test_over_full_scale() -> None:
    assert over_full_scale(np.array([[0.5, 1.01, -1.3, 1.2]])) == 2
    assert flat_tops(np.zeros((2, 100))) == flat_tops(np.zeros((1, 0))) == 0


def test_silence_between_two_times() -> None:
    levels = (-20.0, -25.0, -40.0, None, -75.0, -80.0, None, None, -22.0, -20.0)
    heard = SoundSurvey(step_s=0.5, envelope_lufs=levels)
    assert silent(heard, 1.0, 4.0)
    assert not silent(heard, 0.0, 2.0)
    assert not silent(heard, 2.0, 5.0)
    assert silent(None, 0.0, 9.0)
    assert silent(SoundSurvey(step_s=1.0), 0.0, 9.0)


@pytest.mark.parametrize(("hz", "phase", "peak_db"), [(997, 0.3, -6.0), (12000, np.pi / 4, -6.0), (6000, 0.0, -12.0)])
def test_true_peak_lies_between_the_samples(hz: float, phase: float, peak_db: float) -> None:
    """BS.1770-5, Annex 2: a tone at a quarter of the sample rate whose samples miss its crest by 3 dB."""
    meter = PeakMeter(1)
    wave = 10 ** (peak_db / 20) * np.sin(2 * np.pi * hz * TIME + phase)
    for block in np.split(wave, 8):
        meter.hear(block[None])
    assert 20 * np.log10(meter.peak) == pytest.approx(peak_db, abs=0.4)


def test_true_peak_of_nothing() -> None:
    meter = PeakMeter(2)
    meter.hear(np.zeros((2, 1000)))
    assert meter.peak == 0
