"""Where a parcel's bit rate meets a limit: the size that may not be passed, the data left this month, the time for an upload."""

from __future__ import annotations

from collections.abc import Iterator

from ..arrival.curve import rate_span
from ..plan.carrying import Line, bytes_in, file_size
from ..plan.plan import CapOf, Plan, duration_s
from ..values import Model

CAP_NAMES = {CapOf.CREATOR: "your size limit", CapOf.SHEET: "size cap", CapOf.QUOTA: "quota"}


class Edge(Model):
    """A bit rate (bit/s) at which a file as long as this one is as large as a limit allows, and whose limit that is."""

    code: str
    name: str
    bitrate_bps: int


def edges(plan: Plan, line: Line) -> tuple[Edge, ...]:
    """The limits that lie within the curve's span, by rising rate; none where there is no rate to choose."""
    span = rate_span(plan, [])
    if span is None or plan.video is None:
        return ()
    seconds = float(duration_s(plan))
    beside = file_size(plan).expected_bytes - plan.video.target_bps.value * seconds / 8

    def limits() -> Iterator[tuple[str, str, float]]:
        yield "size_cap", CAP_NAMES[plan.cap_of], plan.size_cap.value
        if line.allowance_gb:
            yield "allowance", "your data", line.allowance_gb * 1e9
        if line.upload_minutes:
            yield "upload_time", f"{line.upload_minutes:g} min of upload", bytes_in(line, line.upload_minutes * 60)

    found = [Edge(code=code, name=name, bitrate_bps=round((most - beside) * 8 / seconds)) for code, name, most in limits() if most > beside]
    return tuple(sorted((edge for edge in found if span[0] < edge.bitrate_bps < span[1]), key=lambda edge: edge.bitrate_bps))
