"""How like the master a picture is: detail kept (D), information kept (V), and the master's own movement (M), on luma.

D after Li, Zhang, Ma, Ngan: Image Quality Assessment by Separately Evaluating Detail Losses and Additive Impairments, IEEE Trans.
Multimedia 13(5), 2011; V after Sheikh & Bovik, IEEE Trans. Image Processing 15(2), 2006, in the pixel domain at one scale.
Arrays are luma as float32 less 128, rows × columns, both of the same raster; borders are reflected without repeating the edge.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from ..core.arrival.condition import MOST_MOVEMENT

cv2.setNumThreads(1)  # comparisons of several screens run side by side already

ROOT3 = np.sqrt(3.0)
LOW = (np.array([1 + ROOT3, 3 + ROOT3, 3 - ROOT3, 1 - ROOT3]) / (4 * np.sqrt(2))).astype(np.float32)
HIGH = np.array([LOW[3], -LOW[2], LOW[1], -LOW[0]], np.float32)
"""Daubechies' wavelet of two vanishing moments: four taps for what is coarse and four for what is fine."""
WEIGHTS = ((0.017382, 0.005891), (0.031985, 0.014299), (0.043373, 0.024397), (0.045673, 0.031313))
"""Contrast sensitivity by level (Watson et al. 1997, at 56.5 px per degree): horizontal and vertical bands, diagonal band."""
CENTRE_SHARE = 0.8
MASK = np.full((3, 3), 1 / 30, np.float32)
MASK[1, 1] = 1 / 15
SIGMA, TAPS = 1.8, 9
NOISE, FLAT = 2.0, 2.0
MOVED_SIGMA, MOVED_TAPS = 1.0, 5


def levels(luma: np.ndarray) -> np.ndarray:
    """8-bit luma as the functions below want it."""
    return luma.astype(np.float32) - 128


@dataclass(frozen=True, slots=True, kw_only=True)
class ReferencePicture:
    """What is computed once of a reference picture, however many are judged against it."""

    bands: tuple[tuple[np.ndarray, np.ndarray, np.ndarray], ...]
    detail: float
    half: np.ndarray
    mean: np.ndarray
    variance: np.ndarray


def seen(luma: np.ndarray) -> ReferencePicture:
    """Prepare a reference picture (`levels`)."""
    half = _half_blurred(luma)
    mean, bands = _half_blurred(half), _bands(luma)
    detail = 0.0
    for (side, diagonal), band in zip(WEIGHTS, bands, strict=True):
        detail += sum(
            _pooled(o, weight, np.zeros_like(o)) for weight, o in zip((side, side, diagonal), band, strict=True)
        )
    variance = np.maximum(_half_blurred(half * half) - mean * mean, 0)
    return ReferencePicture(bands=bands, detail=detail, half=half, mean=mean, variance=variance)


def detail_kept(reference: ReferencePicture, judged: np.ndarray) -> float:
    """D: 1 for the same picture, less the more of its detail is gone or covered by what was added.

    Per band, what is really there is the judged value clipped to lie between nothing and the reference; the rest was added, and
    masks its surroundings by a threshold over all three bands.
    """
    over = 0.0
    for (side, diagonal), original, made in zip(WEIGHTS, reference.bands, _bands(judged), strict=True):
        kept, masking = [], np.zeros_like(original[0])
        for weight, o, t in zip((side, side, diagonal), original, made, strict=True):
            real = np.clip(t, np.minimum(o, 0), np.maximum(o, 0))
            added = np.subtract(t, real)
            masking = cv2.scaleAdd(np.abs(added, out=added), weight, masking)
            kept.append((weight, real))
        threshold = cv2.filter2D(masking, -1, MASK, borderType=cv2.BORDER_REFLECT_101)
        over += sum(_pooled(real, weight, threshold) for weight, real in kept)
    return over / reference.detail


def _pooled(band: np.ndarray, weight: float, threshold: np.ndarray) -> float:
    """What of a band's detail is seen, weighed and above a threshold: pooled by cubes, and a little to spare where there is none."""
    weighed = np.asarray(cv2.scaleAdd(np.abs(band), weight, -threshold))
    np.maximum(weighed, 0, out=weighed)
    total = cv2.sumElems(cv2.multiply(cv2.multiply(weighed, weighed), weighed))[0]
    return float(total ** (1 / 3) + (band.size / 32) ** (1 / 3))


def _bands(luma: np.ndarray) -> tuple[tuple[np.ndarray, np.ndarray, np.ndarray], ...]:
    """Horizontal, vertical and diagonal detail of the picture's central part at four levels, finest first."""
    (top, bottom), (left, right) = (_cut(side) for side in luma.shape)
    coarse, (high, wide), (up, aside) = luma[top:bottom, left:right], luma.shape, (top, left)
    found = []
    for _ in WEIGHTS:
        rows_low, rows_high = _split(coarse, 0)
        coarse, vertical = _split(rows_low, 1)
        horizontal, diagonal = _split(rows_high, 1)
        high, wide, up, aside = (high + 1) // 2, (wide + 1) // 2, up // 2, aside // 2
        rows, columns = _centre(high, up), _centre(wide, aside)
        wide_band, high_band, cross = (
            np.ascontiguousarray(band[rows, columns]) for band in (horizontal, vertical, diagonal)
        )
        found.append((wide_band, high_band, cross))
    return tuple(found)


def _cut(side: int) -> tuple[int, int]:
    """What of a side is looked at: the centre and so much around it that the coarsest level meets the picture's own, in whole 16s."""
    margin = round(side * (1 - CENTRE_SHARE) / 2) - 48
    return (0, side) if margin < 16 else (margin // 16 * 16, side - margin // 16 * 16)


def _centre(side: int, cut: int) -> slice:
    """The central part of a band of `side` positions of which `cut` are cut off before it."""
    margin = max(0, int(side * (1 - CENTRE_SHARE) / 2 - 0.5))
    return slice(margin - cut, side - margin - cut)


def _split(values: np.ndarray, axis: int) -> tuple[np.ndarray, np.ndarray]:
    """Coarse and fine half of every line along an axis, borders reflected."""
    # so that there are as many even as odd ones
    half, after = (values.shape[axis] + 1) // 2, 1 + values.shape[axis] % 2
    before, down, across = 1, after * (1 - axis), after * axis
    padded = cv2.copyMakeBorder(values, before * (1 - axis), down, before * axis, across, cv2.BORDER_REFLECT_101)
    if axis == 0:
        even, odd = padded[::2], padded[1::2]
        taps = even[:half], odd[:half], even[1 : half + 1], odd[1 : half + 1]
    else:
        even, odd = cv2.split(padded.reshape(len(padded), -1, 2))
        taps = even[:, :half], odd[:, :half], even[:, 1 : half + 1], odd[:, 1 : half + 1]
    return _weighted(taps, LOW), _weighted(taps, HIGH)


def _weighted(taps: Sequence[np.ndarray], weights: np.ndarray) -> np.ndarray:
    first = np.asarray(cv2.addWeighted(taps[0], float(weights[0]), taps[1], float(weights[1]), 0))
    first += np.asarray(cv2.addWeighted(taps[2], float(weights[2]), taps[3], float(weights[3]), 0))
    return first


def _half_blurred(values: np.ndarray) -> np.ndarray:
    """Blurred by the window of V, every second position each way."""
    kernel = cv2.getGaussianKernel(TAPS, SIGMA, cv2.CV_32F)
    return cv2.sepFilter2D(values, -1, kernel, kernel, borderType=cv2.BORDER_REFLECT_101)[::2, ::2]


def information_kept(reference: ReferencePicture, judged: np.ndarray) -> float:
    """V: the information about the reference that the judged picture still gives, 1 for the same picture.

    Where the reference is flat (variance below 2) there is none to keep, and structure that was added counts against it. Contrast
    that was added earns nothing.
    """
    half = _half_blurred(judged)
    mean = _half_blurred(half)
    variance = np.maximum(_half_blurred(half * half) - mean * mean, 0)
    together = _half_blurred(reference.half * half) - reference.mean * mean
    gain = np.maximum(together, 0) / (reference.variance + 1e-10)
    rest = np.maximum(variance - gain * together, 0)
    gain = np.minimum(gain, 1)
    structured = reference.variance >= FLAT
    over = np.where(
        structured, np.log2(1 + gain * gain * reference.variance / (rest + NOISE)), 1 - 4 * variance / 255**2
    )
    under = np.where(structured, np.log2(1 + reference.variance / NOISE), 1.0)
    return float(over.sum(dtype=np.float64) / under.sum(dtype=np.float64))


def stilled(luma: np.ndarray) -> np.ndarray:
    """Luma as movement is measured on: blurred so that grain alone does not move."""
    kernel = cv2.getGaussianKernel(MOVED_TAPS, MOVED_SIGMA, cv2.CV_32F)
    return cv2.sepFilter2D(luma, -1, kernel, kernel, borderType=cv2.BORDER_REFLECT_101)


def moved(before: np.ndarray, after: np.ndarray) -> float:
    """Mean absolute change between two `stilled` pictures, in code values."""
    return float(np.abs(after - before).mean())


def movement(into: float | None, out_of: float | None) -> float:
    """M of a picture from the changes into it and out of it, the smaller so that a cut is no movement; 0 with neither."""
    known = [change for change in (into, out_of) if change is not None]
    return min(*known, MOST_MOVEMENT) if known else 0.0
