"""The condition scale: from XPSNR to 0–100 and the words of ITU-R BT.500 (rules §5)."""

from __future__ import annotations

import json
import math
from functools import cache
from importlib import resources

from ..values import Model

PERFECT_DB = 70.0
"""XPSNR given to identical pictures, whose distortion is nothing; no encode here measures above it."""
NOTICEABLE_STEP = 6.0


class YardstickMark(Model):
    """One reference encode: its constant-quality value and the XPSNR (dB) it reached on the same windows."""

    quality: float
    xpsnr_db: float


@cache
def calibration() -> dict:
    """The constants of the scale with their provenance and error, as shipped."""
    return json.loads(resources.files(__package__).joinpath("calibration.json").read_text())


YARDSTICK_QUALITIES = (16, 22, 27, 32, 37)
"""Constant-quality values of the reference encodes, the ones the scale was fitted on."""


def mean_xpsnr_db(values_db: list[float]) -> float:
    """Mean of per-picture XPSNR in dB, averaged in the distortion domain; an empty list raises ValueError."""
    if not values_db:
        raise ValueError("no pictures were compared")
    distortion = sum(10 ** (-min(value, PERFECT_DB) / 10) for value in values_db) / len(values_db)
    return min(PERFECT_DB, -10 * math.log10(distortion))


def equivalent_quality(xpsnr_db: float, marks: list[YardstickMark]) -> float:
    """The reference quality value with this XPSNR: linear between marks, end slopes beyond them."""
    ladder = sorted(marks, key=lambda mark: mark.xpsnr_db)
    for low, high in zip(ladder, ladder[1:], strict=False):
        if xpsnr_db <= high.xpsnr_db or high is ladder[-1]:
            span = high.xpsnr_db - low.xpsnr_db
            if span <= 0:
                return high.quality
            return low.quality + (xpsnr_db - low.xpsnr_db) * (high.quality - low.quality) / span
    raise ValueError("a yardstick needs two marks or more")


def condition_by_yardstick(xpsnr_db: float, marks: list[YardstickMark]) -> float:
    """Condition 0–100 = 100 ÷ (1 + exp((q − q0) ÷ s)), q the equivalent reference quality."""
    constants = calibration()["yardstick"]
    exponent = (equivalent_quality(xpsnr_db, marks) - constants["q0"]) / constants["s"]
    return 100 / (1 + math.exp(max(-60.0, min(60.0, exponent))))


def condition_by_fixed_map(xpsnr_db: float, raster_width: int) -> float:
    """Condition 0–100 while no reference encodes exist; constants interpolated in log(raster width in px)."""
    rasters = sorted((int(width), row) for width, row in calibration()["plain"]["rasters"].items())
    width = min(max(raster_width, rasters[0][0]), rasters[-1][0])
    for (w0, low), (w1, high) in zip(rasters, rasters[1:], strict=False):
        if width <= w1:
            share = (math.log(width) - math.log(w0)) / (math.log(w1) - math.log(w0))
            m_db = low["m_db"] + share * (high["m_db"] - low["m_db"])
            s_db = low["s_db"] + share * (high["s_db"] - low["s_db"])
            return 100 / (1 + math.exp(max(-60.0, min(60.0, -(xpsnr_db - m_db) / s_db))))
    raise ValueError("the calibration has no rasters")


def impairment_words(condition: float) -> str:
    """The impairment scale of ITU-R BT.500-15, table 3, laid over condition (rules §5)."""
    if condition >= 90:
        return "imperceptible"
    if condition >= 75:
        return "perceptible, not annoying"
    if condition >= 60:
        return "slightly annoying"
    if condition >= 40:
        return "annoying"
    return "very annoying"
