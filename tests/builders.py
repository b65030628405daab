"""Facts, destinations and rehearsals made by hand, for tests that need no media."""

from __future__ import annotations

from fractions import Fraction

from hardy_parcel.core.arrival.rehearsal import Arrival, PerfectUpload, Rehearsal, Station
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.master.facts import AudioFacts, ColourTags, MasterFacts, VideoFacts, display_size
from hardy_parcel.core.parcel.lane import Lane, lane
from hardy_parcel.core.parcel.parcel import Parcel
from hardy_parcel.core.parcel.summary import ParcelSummary
from hardy_parcel.core.sheets.sheet import Destination
from hardy_parcel.docks.catalogue import destination

REC_709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
ORRERY = destination("orrery-wide")
SPRIGG = destination("sprigg-upright")
EARSHELF = destination("earshelf-audio")
HANDOVER = destination("handover-client")
FERNPOST = destination("fernpost-reel")


def video(width: int = 1920, height: int = 1080, rate: Fraction | int = 25, **changes) -> VideoFacts:
    """Picture facts; display size follows from pixel shape and rotation."""
    sar, rotation = changes.get("sample_aspect_ratio", Fraction(1)), changes.get("rotation_deg", 0)
    shown = display_size(width=width, height=height, sample_aspect_ratio=sar, rotation_deg=rotation)
    values = {
        "codec": "h264", "coded_width": width, "coded_height": height, "display_width": shown[0],
        "display_height": shown[1], "frame_rate": Fraction(rate), "pixel_format": "yuv420p", "colour": REC_709,
    }
    return VideoFacts(**(values | changes))


def audio(**changes) -> AudioFacts:
    values = {
        "codec": "aac", "sample_rate_hz": 48000, "channels": 2, "layout": "stereo", "integrated_lufs": -20.0,
        "loudness_range_lu": 6.0, "true_peak_dbtp": -8.0,
    }
    return AudioFacts(**(values | changes))


def facts(
    width: int = 1920, height: int = 1080, rate: Fraction | int = 25, *, seconds: Fraction | int = 20,
    sound: AudioFacts | str | None = "usual", file: dict | None = None, **changes,
) -> MasterFacts:
    values = {
        "name": "Gale over the skerry.mp4", "content_id": "c0ffee", "container": "MP4/MOV", "size_bytes": 50_000_000,
        "duration_s": Fraction(seconds), "bitrate_bps": 20_000_000, "video": video(width, height, rate, **changes),
        "audio": audio() if sound == "usual" else sound,
    }
    return MasterFacts(**(values | (file or {})))


def arrivals(condition: float, packed: float = 97.0, scaled: float = 100.0) -> tuple[Arrival, ...]:
    """The same condition on every screen and line."""
    found = []
    for screen in Screen:
        common = {"screen": screen, "raster": (960, 540), "xpsnr_db": 36.0, "detail": 0.9, "information": 0.8, "movement": 2.0}
        found.append(Arrival(station=Station.SCALED, line=None, rendition=None, condition=scaled, **common))
        found.append(Arrival(station=Station.PACKED, line=None, rendition=None, condition=packed, **common))
        found += [
            Arrival(station=Station.ARRIVED, line=line, rendition="1080p h264", condition=condition, **common)
            for line in ViewerLine
        ]
    return tuple(found)


def rehearsal(mbps: float, condition: float, *, packed: float = 97.0, achieved: float = 1.0, **changes) -> Rehearsal:
    bps = round(mbps * 1e6)
    values = {
        "encode_key": "key", "target_bps": bps, "achieved_bps": round(bps * achieved), "whole": False,
        "pictures_packed": 300, "pictures_measured": 80, "pack_pictures_per_s": 12.0,
        "arrivals": arrivals(condition, packed), "renditions": (), "moments": (),
    }
    return Rehearsal(**(values | changes))


def perfect(condition: float) -> PerfectUpload:
    return PerfectUpload(whole=False, arrivals=arrivals(condition))


def parcel(destination: Destination = ORRERY, **changes) -> Parcel:
    return Parcel(**({"id": "one", "master_id": "gale", "destination_id": destination.id} | changes))


def as_lane(summary: ParcelSummary, *, active: tuple[int, int] = (1920, 1080)) -> Lane:
    """A lane of what was put together for a parcel."""
    return lane(
        parcel=summary.parcel, destination=summary.destination, plan=summary.plan, figures=summary.figures, seen=summary.seen,
        stamps=summary.stamps, difference=summary.difference, active_size=active,
    )
