"""Neighbouring pictures: how much changed, whether one is a blend of the others, and what their fields say.

Pictures are 2-D luma arrays in 8-bit code values (rows × columns), float32 or uint8, of equal size.
"""

from __future__ import annotations

import numpy as np

from .evidence import FieldEvidence

TILE = 8
MOVES = 8.0
"""Code values by which a place must change to count as moving: well above grain on averaged pictures."""
MOVING_SHARE = 0.002


def picture_change(before: np.ndarray, here: np.ndarray) -> float:
    """The change of the liveliest places: the 98th percentile of mean absolute differences of 8 × 8 tiles.

    A small thing that moves in a still picture counts as motion, one noisy pixel does not.
    """
    difference = np.abs(here.astype(np.float32) - before.astype(np.float32))
    rows, columns = (max(1, side // TILE) for side in difference.shape)
    trimmed = difference[: rows * TILE, : columns * TILE]
    if trimmed.shape[0] < TILE or trimmed.shape[1] < TILE:
        return float(difference.mean())
    tiles = trimmed.reshape(rows, TILE, columns, TILE).mean(axis=(1, 3))
    return float(np.percentile(tiles, 98))


def between_ratio(before: np.ndarray, here: np.ndarray, after: np.ndarray) -> float | None:
    """Distance from the mean of the neighbours over the distance between them, on moving places; None without any.

    0 is a perfect half-and-half blend, 0.5 the mean of a hard edge that moves on or of a repeated picture.
    """
    apart = np.abs(after.astype(np.float32) - before.astype(np.float32))
    moving = apart > MOVES
    if moving.mean() < MOVING_SHARE:
        return None
    mean = (before.astype(np.float32) + after.astype(np.float32)) / 2
    return float(np.abs(here.astype(np.float32) - mean)[moving].sum() / apart[moving].sum())


def detail_ratio(before: np.ndarray, here: np.ndarray, after: np.ndarray) -> float | None:
    """Energy of fine detail against that of the neighbours, on moving places; None where nothing moves.

    Two pictures laid over one another have every edge twice at half its strength: half the energy. A moving picture
    keeps its own, near 1.
    """
    moving = np.abs(after.astype(np.float32) - before.astype(np.float32)) > MOVES
    if moving.mean() < MOVING_SHARE:
        return None
    energies = []
    for picture in (before, here, after):
        y = picture.astype(np.float32)
        fine = np.zeros_like(y)
        fine[1:-1, 1:-1] = 4 * y[1:-1, 1:-1] - y[:-2, 1:-1] - y[2:, 1:-1] - y[1:-1, :-2] - y[1:-1, 2:]
        energies.append(float((fine[moving] ** 2).mean()))
    return energies[1] / max(1e-3, (energies[0] + energies[2]) / 2)


def field_difference(here: np.ndarray, after: np.ndarray) -> FieldEvidence:
    """How far fields lie apart in time, from two neighbouring pictures at their full number of lines.

    With `t`, `b` the top and bottom fields of a picture and the top ones interpolated to the bottom lines:
    `within` = Σ|b − t|, `top_later` = Σ|b − t of the next|, `bottom_later` = Σ|b of the next − t|, over moving
    places. In a progressive film both later ones are a whole picture apart and equal; with the top field first
    `top_later` is half a picture and `bottom_later` one and a half. Fine patterns add to both alike.
    """
    tops, bottoms = [], []
    for picture in (here, after):
        whole = picture.astype(np.float32)
        count = min((whole.shape[0] - 1) // 2, whole.shape[0] // 2)
        top = whole[0::2]
        tops.append((top[:count] + top[1 : count + 1]) / 2 if top.shape[0] > count else top[:count])
        bottoms.append(whole[1::2][:count])
    moving = np.abs(tops[1] - tops[0]) + np.abs(bottoms[1] - bottoms[0]) > MOVES
    return FieldEvidence(
        within=float(np.abs(bottoms[0] - tops[0])[moving].sum()),
        top_later=float(np.abs(bottoms[0] - tops[1])[moving].sum()),
        bottom_later=float(np.abs(bottoms[1] - tops[0])[moving].sum()),
        moving=float(moving.mean()) if moving.size else 0.0,
    )


def temporal_information(before: np.ndarray, here: np.ndarray) -> float:
    """TI of ITU-T P.910 (07/2022) clause 7.8: the deviation of the difference of two luma pictures."""
    return float((here.astype(np.float32) - before.astype(np.float32)).std())
