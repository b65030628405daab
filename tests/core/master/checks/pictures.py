"""Scenes as arrays, for checks that need no media."""

from __future__ import annotations

import numpy as np

from hardy_parcel.core.master.checks import motion
from hardy_parcel.core.master.checks.evidence import FieldEvidence, Window


def texture(seed: int = 1, height: int = 180, width: int = 320, slope: float = 1.4) -> np.ndarray:
    rng = np.random.default_rng(seed)
    down, across = np.fft.fftfreq(height)[:, None] * height, np.fft.rfftfreq(width)[None] * width
    weight = (1 + np.hypot(down, across)) ** -slope
    weight[0, 0] = 0
    noise = np.fft.irfft2(np.fft.rfft2(rng.standard_normal((height, width))) * weight, (height, width))
    return (noise / noise.std() * 34 + 118).astype(np.float32)


def moved(picture: np.ndarray, dx: float, dy: float = 0.0) -> np.ndarray:
    """Shifted round by parts of a pixel."""
    ky, kx = np.fft.fftfreq(picture.shape[0])[:, None], np.fft.rfftfreq(picture.shape[1])[None]
    turned = np.fft.rfft2(picture) * np.exp(-2j * np.pi * (ky * dy + kx * dx))
    return np.fft.irfft2(turned, picture.shape).astype(np.float32)


def window(pictures: list[np.ndarray], *, rate: float = 25.0, first: int = 0, fields: FieldEvidence | None = None) -> Window:
    """The numbers that the survey would keep of these pictures."""
    change: list[float | None] = [None]
    between: list[float | None] = [None]
    detail: list[float | None] = [None]
    for i in range(1, len(pictures)):
        change.append(motion.picture_change(pictures[i - 1], pictures[i]))
        last = i == len(pictures) - 1
        between.append(None if last else motion.between_ratio(*pictures[i - 1 : i + 2]))
        detail.append(None if last else motion.detail_ratio(*pictures[i - 1 : i + 2]))
    return Window(
        first_picture=first, at_s=tuple((first + i) / rate for i in range(len(pictures))), change=tuple(change),
        between=tuple(between), detail=tuple(detail), both_ways=(False,) * len(pictures), fields=fields or FieldEvidence(),
    )
