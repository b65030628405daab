"""Loudness against signals whose loudness is known."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from hardy_parcel.media.loudness import measure_loudness

from .. import films


def measured(tmp_path: Path, sound: np.ndarray | None, seconds: float = 4):
    return measure_loudness(films.film(tmp_path / "x.mp4", width=64, height=36, seconds=seconds, sound=sound))


@pytest.mark.parametrize("level_db", [-23.0, -33.0])
def test_the_reference_tone_of_the_standard(tmp_path: Path, level_db: float) -> None:
    """EBU Tech 3341, cases 1 and 2: a stereo sine of 1 kHz at this peak level measures so many LUFS, ±0.1."""
    tone = films.tone(20, hz=1000, peak=10 ** (level_db / 20))
    tone[:, :4800] *= np.linspace(0, 1, 4800)  # a lossy codec overshoots on a tone that starts at once
    found = measured(tmp_path, tone, seconds=20)
    assert found.integrated_lufs == pytest.approx(level_db, abs=0.15)
    assert found.true_peak_dbtp == pytest.approx(level_db, abs=0.3)
    assert found.range_lu == pytest.approx(0, abs=0.2)


def test_silence_has_no_level_and_no_infinity(tmp_path: Path) -> None:
    found = measured(tmp_path, np.zeros((2, 96000), np.float32), seconds=2)
    assert (found.integrated_lufs, found.range_lu, found.true_peak_dbtp) == (None, None, None)


def test_a_film_without_sound_has_none(tmp_path: Path) -> None:
    assert measured(tmp_path, None, seconds=1).integrated_lufs is None


def test_true_peak_lies_above_the_samples(tmp_path: Path) -> None:
    """A sine at a quarter of the sampling rate, between its samples, peaks 3 dB above every one of them."""
    count = 48000 * 4
    wave = 0.5 * np.sin(np.pi / 2 * np.arange(count) + np.pi / 4)
    found = measured(tmp_path, np.tile(wave.astype(np.float32), (2, 1)))
    samples = 20 * np.log10(0.5 * np.sin(np.pi / 4))
    assert found.true_peak_dbtp == pytest.approx(samples + 3, abs=0.6)


def test_mono_counts_as_one_channel(tmp_path: Path) -> None:
    stereo = measured(tmp_path, films.tone(4, hz=1000, peak=0.1))
    mono = measured(tmp_path, films.tone(4, hz=1000, peak=0.1, channels=1))
    assert stereo.integrated_lufs - mono.integrated_lufs == pytest.approx(3.0, abs=0.2)
