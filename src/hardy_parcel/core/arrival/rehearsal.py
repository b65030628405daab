"""What a rehearsal measured: condition at each station of a parcel's way, on each screen."""

from __future__ import annotations

import math
from enum import StrEnum

from ..values import Model, Ratio
from .condition import YardstickMark, condition_by_yardstick
from .screens import Screen, ViewerLine


class Station(StrEnum):
    """Where on its way the picture was compared with the master."""

    SCALED = "scaled"
    PACKED = "packed"
    ARRIVED = "arrived"


class Evidence(StrEnum):
    SHEET = "sheet"
    PROBED = "probed"
    REHEARSED = "rehearsed"
    RETURNED = "returned"


class Arrival(Model):
    """The picture at one station, on one screen, against the master; `line` is who is served it, if anyone."""

    station: Station
    screen: Screen
    line: ViewerLine | None
    rendition: str | None
    raster: tuple[int, int]
    xpsnr_db: float
    ssim: float
    condition: float
    scale: str
    evidence: Evidence = Evidence.REHEARSED


class Moment(Model):
    """One measured picture: its place in the reel, its time in the master (s) and its XPSNR (dB) on a laptop."""

    reel_index: int
    master_s: Ratio
    packed_db: float
    arrived_db: float


class MadeRendition(Model):
    """A rendition as it came out on the reel."""

    name: str
    width: int
    height: int
    achieved_bps: int
    ceiling_bps: int


class Yardstick(Model):
    """Reference encodes of one reel at one raster."""

    raster: tuple[int, int]
    marks: tuple[YardstickMark, ...]


def between(narrow: Yardstick, wide: Yardstick, raster: tuple[int, int]) -> Yardstick:
    """The yardstick at a raster between two others: XPSNR interpolated in log(width), quality by quality.

    `make constants` measures how far this lies from encodes at the raster itself.
    """
    for known in (narrow, wide):
        if known.raster == raster:
            return known
    low, high = (math.log(y.raster[0]) for y in (narrow, wide))
    share = (math.log(raster[0]) - low) / (high - low)
    marks = (
        YardstickMark(quality=a.quality, xpsnr_db=a.xpsnr_db + share * (b.xpsnr_db - a.xpsnr_db))
        for a, b in zip(narrow.marks, wide.marks, strict=True)
    )
    return Yardstick(raster=raster, marks=tuple(marks))


class Rehearsal(Model):
    """Exactly these settings, measured. Rates in bit/s, speed in pictures/s over all passes."""

    picture_key: str
    target_bps: int
    achieved_bps: int
    whole: bool
    pictures_packed: int
    pictures_measured: int
    pack_pictures_per_s: float
    arrivals: tuple[Arrival, ...]
    renditions: tuple[MadeRendition, ...]
    moments: tuple[Moment, ...]


class Sufferer(Model):
    """A moment that arrives worse than others: which rehearsal (bit/s) and reel picture, master time (s), condition."""

    target_bps: int
    reel_index: int
    master_s: Ratio
    condition: float


class PerfectUpload(Model):
    """What arrives of a perfect upload: the highest any bit rate can reach, with its yardsticks."""

    picture_key: str
    whole: bool
    arrivals: tuple[Arrival, ...]
    yardsticks: tuple[Yardstick, ...]


def find(arrivals: tuple[Arrival, ...], station: Station, screen: Screen, line: ViewerLine) -> Arrival | None:
    """The arrival of one station, screen and line; packed and scaled ones hold for either line."""
    for arrival in arrivals:
        same_line = arrival.line is line or station is not Station.ARRIVED
        if arrival.station is station and arrival.screen is screen and same_line:
            return arrival
    return None


def suffers_most(rehearsal: Rehearsal, marks: list[YardstickMark], *, count: int = 5) -> tuple[Sufferer, ...]:
    """The worst measured moments on a laptop, in film order, apart by at least a twelfth of the measured span.

    `marks` is the yardstick at the laptop's raster; without moments or marks there are none.
    """
    if not rehearsal.moments or len(marks) < 2:
        return ()
    times = [moment.master_s for moment in rehearsal.moments]
    apart = (max(times) - min(times)) / 12
    found: list[Moment] = []
    for moment in sorted(rehearsal.moments, key=lambda m: m.arrived_db):
        if len(found) < count and all(abs(moment.master_s - other.master_s) >= apart for other in found):
            found.append(moment)
    return tuple(
        Sufferer(
            target_bps=rehearsal.target_bps, reel_index=moment.reel_index, master_s=moment.master_s,
            condition=round(condition_by_yardstick(moment.arrived_db, marks), 1),
        )
        for moment in sorted(found, key=lambda m: m.master_s)
    )
