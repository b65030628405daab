"""What a report says: the master, every lane with the heart of its plan, what arrives with evidence and band, and why."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import UTC, datetime

from .. import __version__
from ..core.arrival.screens import Screen, ViewerLine
from ..core.master.facts import MasterFacts
from ..core.parcel.lane import Apart, Lane
from ..core.parcel.lanes import lanes_sentences
from ..core.parcel.summary import Seen
from ..core.plan.packing_slip import SlipRow, packing_slip
from ..core.plan.plan import Plan, duration_s
from ..core.sheets.sheet import Destination
from ..core.trade.codecs import name_of
from ..core.values import Model, mbps_text, rate_text, seconds_text, size_text

PROGRAM = f"Hardy Parcel {__version__}"
HEART = ("Sent", "Frame size", "Framing", "Frame rate", "Codec", "Bit rate", "Rate control", "Sound", "Level", "Size limit")
"""Rows of the slip that a report shows first; the others follow in small print."""
MOST_PICTURES = 3


class ReportPicture(Model):
    """A picture of a lane as a data address, and what it shows."""

    source: str
    words: str


class ReportLane(Model):
    """A lane in a report: its row, its slip, its curves, how it differs from the first of its destination, and its sheet."""

    lane: Lane
    sheet_version: int
    sheet_checked_on: str
    handling_assumed: str | None
    slip: tuple[SlipRow, ...]
    seen: tuple[Seen, ...]
    apart: Apart | None = None
    pictures: tuple[ReportPicture, ...] = ()


class Report(Model):
    """A whole report. `sentences` are what a friend would say, by screen on a good line; `made_at` is in UTC."""

    program: str
    made_at: datetime
    master_name: str
    master_facts: tuple[tuple[str, str], ...]
    excerpt: str
    sentences: tuple[tuple[Screen, str], ...]
    poster: str | None
    lanes: tuple[ReportLane, ...]


def report_lane(
    lane: Lane, *, destination: Destination, plan: Plan, ours: Plan, seen: Sequence[Seen], apart: Apart | None = None,
    pictures: Sequence[ReportPicture] = (),
) -> ReportLane:
    """A lane with what a report says of it beyond its row; `ours` is the plan without choices."""
    return ReportLane(
        lane=lane, sheet_version=destination.sheet_version, sheet_checked_on=destination.checked_on.isoformat(),
        handling_assumed=destination.placement.handling.assumed, slip=packing_slip(plan, ours), seen=tuple(seen), apart=apart,
        pictures=tuple(pictures)[:MOST_PICTURES],
    )


def make_report(
    facts: MasterFacts, plan: Plan, lanes: Sequence[ReportLane], *, poster: str | None = None, now: datetime | None = None
) -> Report:
    """A report of lanes of one master; `plan` is any of theirs, for its excerpt."""
    own = [one.lane for one in lanes if not one.lane.beside]
    return Report(
        program=PROGRAM, made_at=now or datetime.now(UTC).replace(microsecond=0), master_name=facts.name, master_facts=_facts(facts),
        excerpt=f"{seconds_text(plan.excerpt.in_s)} to {seconds_text(plan.excerpt.out_s)}, {seconds_text(duration_s(plan))} packed",
        sentences=tuple((one.screen, one.sentence) for one in lanes_sentences(own) if one.line is ViewerLine.GOOD),
        poster=poster, lanes=tuple(lanes),
    )


def _facts(facts: MasterFacts) -> tuple[tuple[str, str], ...]:
    video, audio = facts.video, facts.audio
    heard = "none" if audio is None else f"{name_of(audio.codec)}, {'mono' if audio.channels == 1 else f'{audio.channels} channels'}"
    if audio and audio.integrated_lufs is not None:
        heard += f", {audio.integrated_lufs:.1f} LUFS".replace("-", "−")
    found: Mapping[str, str] = {
        "Picture": f"{video.display_width}×{video.display_height}, {rate_text(video.frame_rate)} frames/s",
        "Codec": f"{name_of(video.codec)} {video.profile or ''} {video.level or ''}".strip(),
        "Duration": seconds_text(facts.duration_s),
        "Size": f"{size_text(facts.size_bytes)}, {mbps_text(facts.bitrate_bps)}",
        "Sound": heard,
    }
    return tuple(found.items())
