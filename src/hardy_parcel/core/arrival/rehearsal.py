"""What a rehearsal measured: the picture at each station of a parcel's way, on each screen.

Measurements are kept by what they depend on: the scaled picture by how it is treated, a test encode by that and the encoder's
settings, a handled upload by either and the ladder. A `Rehearsal` is put together from them on reading, where condition is judged.
"""

from __future__ import annotations

from enum import StrEnum

from ..values import Model, Ratio
from .condition import Likeness
from .journey import Journey
from .screens import Screen, ViewerLine

Raster = tuple[int, int]


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


class MomentMeasure(Model):
    """One measured picture on a laptop: its place in the reel, its time in the master (s), its condition."""

    reel_index: int
    master_s: Ratio
    condition: float


class ScaledPicture(Model):
    """The treated picture before any encoder, against the master."""

    key: str
    likenesses: tuple[Likeness, ...]
    evidence: Evidence = Evidence.REHEARSED


class TrialEncode(Model):
    """A reel packed with exactly some settings. Rates in bit/s, speed in pictures/s over all passes; `alone` if nothing else ran."""

    key: str
    target_bps: int
    achieved_bps: int
    pictures_packed: int
    pictures_measured: int
    pictures_per_s: float
    alone: bool
    likenesses: tuple[Likeness, ...]
    moments: tuple[MomentMeasure, ...]
    evidence: Evidence = Evidence.REHEARSED


class MadeRendition(Model):
    """A rendition as it came out on the reel."""

    name: str
    width: int
    height: int
    achieved_bps: int
    ceiling_bps: int


class MeasuredRendition(Model):
    """A rendition against the master on the rasters of those screens that get it, and of a probe so by windows."""

    made: MadeRendition
    likenesses: tuple[Likeness, ...]
    moments: tuple[MomentMeasure, ...] = ()
    windows: tuple[tuple[Likeness, ...], ...] = ()


class HandledUpload(Model):
    """An upload, or a perfect one, through a platform's ladder."""

    key: str
    renditions: tuple[MeasuredRendition, ...]
    evidence: Evidence = Evidence.REHEARSED


class Arrival(Model):
    """The picture at one station, on one screen, against the master; `line` is who is served it, if anyone.

    `changed` says what was changed that condition does not see, such as brightness.
    """

    station: Station
    screen: Screen
    line: ViewerLine | None
    rendition: str | None
    raster: Raster
    condition: float
    detail: float
    information: float
    movement: float
    xpsnr_db: float
    changed: str | None = None
    evidence: Evidence = Evidence.REHEARSED


class Moment(Model):
    """One measured picture: its place in the reel, its time in the master (s), its condition as packed and on arrival on a laptop."""

    reel_index: int
    master_s: Ratio
    packed: float
    arrived: float


class Rehearsal(Model):
    """Exactly these settings, measured. Rates in bit/s, speed in pictures/s over all passes, `alone` when nothing else ran meanwhile. Its
    `evidence` tells whether a reel was rehearsed or what a platform served came back. `pictures_key` names everything that its pictures
    depend on, so that addresses with it never show older ones; empty where there are none to look at."""

    encode_key: str
    target_bps: int
    achieved_bps: int
    whole: bool
    pictures_packed: int
    pictures_measured: int
    pack_pictures_per_s: float
    alone: bool = True
    arrivals: tuple[Arrival, ...]
    renditions: tuple[MadeRendition, ...]
    moments: tuple[Moment, ...]
    pictures_key: str = ""
    evidence: Evidence = Evidence.REHEARSED


class PerfectUpload(Model):
    """What arrives of a perfect upload: the highest that any bit rate can reach."""

    whole: bool
    arrivals: tuple[Arrival, ...]
    evidence: Evidence = Evidence.REHEARSED


def find(arrivals: tuple[Arrival, ...], station: Station, screen: Screen, line: ViewerLine) -> Arrival | None:
    """The arrival of one station, screen and line; packed and scaled ones hold for either line."""
    for arrival in arrivals:
        same_line = arrival.line is line or station is not Station.ARRIVED
        if arrival.station is station and arrival.screen is screen and same_line:
            return arrival
    return None


def perfect_upload(
    journey: Journey, scaled: ScaledPicture, handled: HandledUpload | None, *, whole: bool
) -> PerfectUpload:
    """A perfect upload on its way; `handled` is None where nothing is re-encoded."""
    first = _station(Station.SCALED, journey, scaled.likenesses)
    return PerfectUpload(whole=whole, arrivals=(*first, *_arrived(journey, handled, scaled.likenesses)))


def rehearsal_of(
    journey: Journey,
    scaled: ScaledPicture,
    encode: TrialEncode,
    handled: HandledUpload | None,
    *,
    target_bps: int,
    whole: bool,
) -> Rehearsal:
    """A rehearsal from its measurements; `handled` is None where nothing is re-encoded."""
    served = journey.served(Screen.LAPTOP, ViewerLine.GOOD)
    of_laptop = next((r for r in handled.renditions if r.made.name == served), None) if handled else None
    arrived = {moment.reel_index: moment.condition for moment in (of_laptop.moments if of_laptop else encode.moments)}
    return Rehearsal(
        encode_key=encode.key,
        target_bps=target_bps,
        achieved_bps=encode.achieved_bps,
        whole=whole,
        pictures_packed=encode.pictures_packed,
        pictures_measured=encode.pictures_measured,
        pack_pictures_per_s=encode.pictures_per_s,
        alone=encode.alone,
        pictures_key=handled.key if handled else encode.key,
        arrivals=(
            *_station(Station.SCALED, journey, scaled.likenesses),
            *_station(Station.PACKED, journey, encode.likenesses),
            *_arrived(journey, handled, encode.likenesses),
        ),
        renditions=tuple(r.made for r in handled.renditions) if handled else (),
        moments=tuple(
            Moment(reel_index=m.reel_index, master_s=m.master_s, packed=m.condition, arrived=arrived[m.reel_index])
            for m in encode.moments
            if m.reel_index in arrived
        ),
    )


def _station(station: Station, journey: Journey, likenesses: tuple[Likeness, ...]) -> list[Arrival]:
    by_raster = {likeness.raster: likeness for likeness in likenesses}
    return [
        arrival_of(station, screen, None, None, by_raster[raster.size]) for screen, raster in journey.rasters().items()
    ]


def _arrived(journey: Journey, handled: HandledUpload | None, untouched: tuple[Likeness, ...]) -> list[Arrival]:
    """What each screen gets on each line, then renditions that were measured though no screen asks for them."""
    result, rasters = [], journey.rasters()
    by_name = (
        {r.made.name: {likeness.raster: likeness for likeness in r.likenesses} for r in handled.renditions}
        if handled
        else {}
    )
    plain = {likeness.raster: likeness for likeness in untouched}
    for screen, raster in rasters.items():
        taken = set()
        for line in ViewerLine:
            name = journey.served(screen, line) if handled else None
            taken.add(name)
            likeness = by_name[name][raster.size] if name else plain[raster.size]
            result.append(arrival_of(Station.ARRIVED, screen, line, name, likeness))
        result += [
            arrival_of(Station.ARRIVED, screen, None, name, on[raster.size])
            for name, on in by_name.items()
            if name not in taken and raster.size in on
        ]
    return result


def arrival_of(
    station: Station,
    screen: Screen,
    line: ViewerLine | None,
    rendition: str | None,
    likeness: Likeness,
    evidence: Evidence = Evidence.REHEARSED,
) -> Arrival:
    """The picture at a station as a likeness has it."""
    return Arrival(
        station=station,
        screen=screen,
        line=line,
        rendition=rendition,
        raster=likeness.raster,
        condition=round(likeness.condition, 2),
        detail=likeness.detail,
        information=likeness.information,
        movement=likeness.movement,
        xpsnr_db=likeness.xpsnr_db,
        changed=likeness.changed,
        evidence=evidence,
    )
