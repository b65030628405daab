"""Sounds of Skerry Point: wind, sea, a foghorn, clockwork and a murmur like a voice. 48 kHz, stereo float32."""

from __future__ import annotations

import numpy as np

RATE = 48000


def coloured(seed: int, samples: int, *, low_hz: float, high_hz: float, slope: float = 1.0) -> np.ndarray:
    """Noise between two frequencies falling with `slope`; deviation 1."""
    rng = np.random.default_rng(seed)
    spectrum = np.fft.rfft(rng.standard_normal(samples))
    hz = np.fft.rfftfreq(samples, 1 / RATE)
    weight = np.where((hz >= low_hz) & (hz <= high_hz), np.maximum(hz, 1.0) ** -slope, 0.0)
    shaped = np.fft.irfft(spectrum * weight, samples)
    return shaped / shaped.std()


def wander(seed: int, samples: int, *, per_s: float) -> np.ndarray:
    """A slow course between 0 and 1."""
    rng = np.random.default_rng(seed)
    count = max(4, int(samples / RATE * per_s) + 3)
    marks = rng.uniform(0, 1, count)
    at = np.linspace(0, count - 1, samples)
    low = np.floor(at).astype(int).clip(0, count - 2)
    share = (1 - np.cos(np.pi * (at - low))) / 2
    return marks[low] * (1 - share) + marks[low + 1] * share


def wind(seed: int, seconds: float) -> np.ndarray:
    """Gusts with a whistle in them."""
    n = int(seconds * RATE)
    gust = 0.35 + 0.65 * wander(seed, n, per_s=1.1)
    body = coloured(seed + 1, n, low_hz=60, high_hz=2200, slope=0.9) * gust
    whistle = coloured(seed + 2, n, low_hz=640, high_hz=760, slope=0) * gust**3 * 0.3
    return body + whistle


def sea(seed: int, seconds: float) -> np.ndarray:
    """Breakers: wide noise in slow swells."""
    n = int(seconds * RATE)
    swell = wander(seed, n, per_s=0.7) ** 2
    return coloured(seed + 1, n, low_hz=120, high_hz=9000, slope=0.45) * (0.2 + swell)


def foghorn(seconds: float, *, at_s: float, long_s: float) -> np.ndarray:
    """A low two-note horn."""
    t = np.arange(int(seconds * RATE)) / RATE
    rise = np.clip((t - at_s) / 0.25, 0, 1) * np.clip((at_s + long_s - t) / 0.5, 0, 1)
    tone = sum(np.sin(2 * np.pi * 98 * k * t + 0.4 * k) / k**1.3 for k in range(1, 9))
    tone += 0.6 * sum(np.sin(2 * np.pi * 123.5 * k * t) / k**1.4 for k in range(1, 7))
    return tone * rise


def clockwork(seconds: float, *, per_s: float) -> np.ndarray:
    """The lens drive: ticks over a hum."""
    t = np.arange(int(seconds * RATE)) / RATE
    phase = (t * per_s) % 1
    tick = np.exp(-phase * 90) * np.sin(2 * np.pi * 2300 * t) + 0.5 * np.exp(-phase * 45) * np.sin(2 * np.pi * 870 * t)
    return tick + 0.15 * np.sin(2 * np.pi * 60 * t) + 0.08 * np.sin(2 * np.pi * 180 * t)


def murmur(seed: int, seconds: float, *, pitch_hz: float = 118) -> np.ndarray:
    """Voice-like: pulses through three wandering formants, in syllables and phrases; no words."""
    n = int(seconds * RATE)
    pitch = pitch_hz * (0.9 + 0.25 * wander(seed, n, per_s=2.5))
    phase = np.cumsum(pitch) / RATE
    out = np.zeros(n)
    openness = wander(seed + 1, n, per_s=4.5)
    for base, span, weight in ((480, 350, 1.0), (1250, 700, 0.5), (2500, 300, 0.22)):
        centre = base + span * (openness - 0.5)
        for k in range(1, 26):
            hz = pitch * k
            out += weight * np.exp(-(((hz - centre) / (90 + 0.06 * base)) ** 2)) * np.sin(2 * np.pi * k * phase)
    syllables = np.clip(wander(seed + 2, n, per_s=5.2) * 1.7 - 0.4, 0, 1)
    phrases = np.clip(wander(seed + 3, n, per_s=0.9) * 3 - 0.5, 0, 1)
    return out * syllables * phrases


def stereo(left: np.ndarray, right: np.ndarray, *, peak: float) -> np.ndarray:
    """Two channels with the loudest sample at `peak`, faded in and out over 30 ms."""
    both = np.stack([left, right])
    fade = np.minimum(1, np.minimum(np.arange(both.shape[1]), np.arange(both.shape[1])[::-1]) / (0.03 * RATE))
    return (both / np.abs(both).max() * peak * fade).astype(np.float32)
