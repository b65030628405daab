"""What a platform really served of a packed file, measured against the master: no forecast, but what viewers get."""

from __future__ import annotations

from collections.abc import Sequence
from fractions import Fraction
from functools import partial

from ..master.facts import AudioFacts
from ..sheets.ladder import Rendition
from ..values import Model, Ratio
from .condition import Likeness
from .forecast import Forecast
from .journey import Journey
from .rehearsal import (
    Evidence,
    MadeRendition,
    Moment,
    MomentMeasure,
    PerfectUpload,
    Rehearsal,
    Station,
    arrival_of,
)
from .screens import Screen, ViewerLine, rendition_for

MOST_MEASURED = 1500
"""Pictures that are measured of a film; of one that has no more every picture, of a longer one as many, spread over the whole."""


class ReturnedSound(Model):
    """The sound of a file that is served: rate in bit/s, levels in LUFS and dBTP where it is not silent."""

    codec: str
    channels: int
    bitrate_bps: int
    integrated_lufs: float | None = None
    true_peak_dbtp: float | None = None

    @classmethod
    def of(cls, audio: AudioFacts | None, bitrate_bps: int) -> ReturnedSound | None:
        """What is to be known of a file's sound; None where it has none."""
        if audio is None:
            return None
        return cls(
            codec=audio.codec,
            channels=audio.channels,
            bitrate_bps=bitrate_bps,
            integrated_lufs=audio.integrated_lufs,
            true_peak_dbtp=audio.true_peak_dbtp,
        )


class ReturnedFile(Model):
    """A file that is served, as it came: size in px (0 for sound), bytes, rate of its picture in bit/s and in 1/s. Its likenesses to the
    master are on every screen's raster, its moments on a laptop; both are empty where its picture was not measured, and `unmeasured`
    says why."""

    name: str
    file: str
    size_bytes: int
    duration_s: Ratio
    width: int = 0
    height: int = 0
    codec: str = ""
    frame_rate: Ratio = Fraction(0)
    video_bps: int = 0
    sound: ReturnedSound | None = None
    likenesses: tuple[Likeness, ...] = ()
    moments: tuple[MomentMeasure, ...] = ()
    unmeasured: str = ""

    @property
    def short_side_px(self) -> int:
        return min(self.width, self.height)


class PackedMeasure(Model):
    """The packed file itself against the master, on as many pictures as every file of it that came back."""

    pictures: int
    likenesses: tuple[Likeness, ...]
    moments: tuple[MomentMeasure, ...]


class ExpectedView(Model):
    """What was expected of one screen on one line when a parcel was sent: condition, half width of its band, where from."""

    screen: Screen
    line: ViewerLine
    condition: float
    band: float
    evidence: Evidence


class SeenView(Model):
    """What one screen on one line gets: the file that it is served, its condition there, and the best that was forecast, if anything.

    `words` say how the two stand to one another; `first` is what was forecast when it was sent, where that was another.
    """

    screen: Screen
    line: ViewerLine
    file: str
    condition: float
    xpsnr_db: float
    expected: ExpectedView | None = None
    first: ExpectedView | None = None
    words: str = ""


def expected_views(forecast: Forecast, bitrate_bps: int, *, perfect: bool) -> tuple[ExpectedView, ...]:
    """What a forecast says of every view at a rate (bit/s), or of a `perfect` upload; empty where nothing was tested."""
    result = []
    for placement, view in enumerate(forecast.views):
        if perfect and forecast.perfect:
            condition, band, evidence = forecast.perfect[placement], forecast.perfect_band, forecast.perfect_evidence
        elif not perfect and forecast.rates and forecast.rates[0] <= bitrate_bps <= forecast.rates[-1]:
            near = min(range(len(forecast.rates)), key=lambda n: abs(forecast.rates[n] - bitrate_bps))
            exact = forecast.rates[near] == bitrate_bps
            condition = forecast.read(bitrate_bps)[placement][0]
            band = forecast.bands[near] + (0.0 if exact else forecast.between_band)
            evidence = forecast.evidence[near] if exact else forecast.between
        else:
            continue
        if evidence is Evidence.SHEET:
            continue  # what was not tested is no forecast
        result.append(
            ExpectedView(
                screen=view.screen,
                line=view.line,
                condition=round(condition, 2),
                band=round(band, 1),
                evidence=evidence,
            )
        )
    return tuple(result)


def served(journey: Journey, files: Sequence[ReturnedFile], screen: Screen, line: ViewerLine) -> ReturnedFile | None:
    """The file that a viewer is served out of those that came back; None where none has a measured picture.

    A platform's own ceilings tell which are light enough for a slow line; of files that its sheet does not know, their own rate.
    """
    seen = [item for item in files if item.likenesses]
    if not seen:
        return None
    ceilings = {item.name: item.ceiling_bps for item in journey.renditions}
    ladder = sorted(
        (_rung(item, ceilings.get(item.name, item.video_bps)) for item in seen), key=lambda item: -item.short_side_px
    )
    name = rendition_for(screen, line, ladder).name
    return next(item for item in seen if item.name == name)


def _rung(file: ReturnedFile, ceiling_bps: int) -> Rendition:
    """A file as one rung of a ladder."""
    return Rendition(
        name=file.name,
        width=file.width,
        height=file.height,
        short_side_px=file.short_side_px,
        frame_rate=file.frame_rate,
        keep_every=1,
        codec=file.codec,
        quality=0,
        ceiling_bps=ceiling_bps,
        buffer_bits=0,
        keyframe_interval_frames=1,
    )


def seen_views(
    journey: Journey,
    files: Sequence[ReturnedFile],
    expected: Sequence[ExpectedView],
    *,
    tested: Sequence[ExpectedView] = (),
    every: bool = True,
) -> tuple[SeenView, ...]:
    """What every viewer gets of the files that came back, beside the best that was `expected` when it was sent or is by all that was
    `tested`; unless `every` file is there nothing is said of the difference, since a better one may come."""
    sent, best = (
        {(item.screen, item.line): item for item in some} for some in (expected, best_expected(expected, tested))
    )
    result = []
    for screen, raster in journey.rasters().items():
        for line in ViewerLine:
            file = served(journey, files, screen, line)
            likeness = next((item for item in file.likenesses if item.raster == raster.size), None) if file else None
            if file is None or likeness is None:
                continue
            was, condition = best.get((screen, line)), round(likeness.condition, 2)
            first = sent.get((screen, line))
            result.append(
                SeenView(
                    screen=screen,
                    line=line,
                    file=file.name,
                    condition=condition,
                    xpsnr_db=likeness.xpsnr_db,
                    expected=was,
                    first=first if first != was else None,
                    words=against_expected(condition, was) if every else "a better one may come",
                )
            )
    return tuple(result)


def best_expected(expected: Sequence[ExpectedView], tested: Sequence[ExpectedView]) -> tuple[ExpectedView, ...]:
    """Of every view the surer of what was `expected` and what all tests say; what had come back before is the surest."""
    result = {(item.screen, item.line): item for item in tested}
    for item in expected:
        other = result.get((item.screen, item.line))
        if other is None or item.evidence is Evidence.RETURNED or item.band <= other.band:
            result[item.screen, item.line] = item
    return tuple(result.values())


LIKE_EXPECTED = 0.5
"""Points below which nothing is said of a difference."""


def against_expected(condition: float, expected: ExpectedView | None) -> str:
    """How what came back stands to what was expected, such as “3 points below the forecast, within its band”."""
    if expected is None:
        return "was not tested before"
    off = condition - expected.condition
    what = "the rehearsal" if expected.evidence is Evidence.REHEARSED else "the forecast"
    if expected.evidence is Evidence.RETURNED:
        what = "what came back before"
    if abs(off) < LIKE_EXPECTED:
        return f"as {what} said" if expected.evidence is not Evidence.RETURNED else f"as {what}"
    size = f"{abs(off):.0f}" if abs(off) >= 1.5 else f"{abs(off):.1f}"
    side = "above" if off > 0 else "below"
    within = "within its band" if abs(off) <= expected.band else f"outside its band of {expected.band:.0f}"
    return f"{size} {'point' if size == '1.0' else 'points'} {side} {what}, {within}"


returned_arrival = partial(arrival_of, evidence=Evidence.RETURNED)


def returned_rehearsal(
    journey: Journey, packed: PackedMeasure, files: Sequence[ReturnedFile], *, target_bps: int, achieved_bps: int
) -> Rehearsal | None:
    """What came back as one point of the plan's curve; None while some viewer's file is not there yet."""
    views = {(item.screen, item.line): item for item in seen_views(journey, files, ())}
    if len(views) < len(Screen) * len(ViewerLine):
        return None
    laptop = served(journey, files, Screen.LAPTOP, ViewerLine.GOOD)
    arrived = {moment.reel_index: moment.condition for moment in laptop.moments} if laptop else {}
    by_raster = {likeness.raster: likeness for likeness in packed.likenesses}
    arrivals = []
    for screen, raster in journey.rasters().items():
        if raster.size not in by_raster:
            return None
        arrivals.append(returned_arrival(Station.PACKED, screen, None, None, by_raster[raster.size]))
        for line in ViewerLine:
            view = views[screen, line]
            file = next(item for item in files if item.name == view.file)
            likeness = next(item for item in file.likenesses if item.raster == raster.size)
            arrivals.append(
                returned_arrival(Station.ARRIVED, screen, line, file.name if journey.renditions else None, likeness)
            )
    return Rehearsal(
        encode_key=journey.encode_key,
        target_bps=target_bps,
        achieved_bps=achieved_bps,
        whole=True,
        pictures_packed=packed.pictures,
        pictures_measured=packed.pictures,
        pack_pictures_per_s=0.0,
        arrivals=tuple(arrivals),
        evidence=Evidence.RETURNED,
        renditions=tuple(
            MadeRendition(
                name=item.name,
                width=item.width,
                height=item.height,
                achieved_bps=item.video_bps,
                ceiling_bps=item.video_bps,
            )
            for item in files
            if item.likenesses
        ),
        moments=tuple(
            Moment(reel_index=m.reel_index, master_s=m.master_s, packed=m.condition, arrived=arrived[m.reel_index])
            for m in packed.moments
            if m.reel_index in arrived
        ),
    )


def returned_perfect(journey: Journey, files: Sequence[ReturnedFile]) -> PerfectUpload | None:
    """What came back of a master that was sent as it is; None while some viewer's file is not there yet."""
    views = seen_views(journey, files, ())
    if len(views) < len(Screen) * len(ViewerLine):
        return None
    arrivals = []
    for view in views:
        raster = journey.rasters()[view.screen]
        file = next(item for item in files if item.name == view.file)
        likeness = next(item for item in file.likenesses if item.raster == raster.size)
        arrivals.append(
            returned_arrival(
                Station.ARRIVED, view.screen, view.line, file.name if journey.renditions else None, likeness
            )
        )
    return PerfectUpload(whole=True, arrivals=tuple(arrivals), evidence=Evidence.RETURNED)
