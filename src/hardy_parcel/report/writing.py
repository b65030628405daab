"""A report as HTML that asks nobody for anything, as CSV, and as JSON."""

from __future__ import annotations

import base64
import csv
import hashlib
import io
from functools import cache
from importlib import resources
from pathlib import Path

from jinja2 import Environment, StrictUndefined, select_autoescape
from markupsafe import Markup

from ..core.arrival.marks import RateMark
from ..core.arrival.screens import Screen, ViewerLine
from ..core.values import mbps_text, seconds_text, size_text
from .drawing import HEIGHT, WIDTH, Drawing, drawn
from .report import HEART, Report, ReportLane

FORMULA_STARTS = ("=", "+", "-", "@", "\t", "\r")
"""A table program takes a cell that begins so for a formula."""
EVIDENCE_MARKS = {"sheet": "○", "probed": "◐", "rehearsed": "●", "returned": "◆"}
COLUMNS = (
    "destination",
    "placement",
    "way",
    "shape",
    "method",
    "picture",
    "video_kbps",
    "guidance",
    "size_bytes",
    "upload_s",
    "encode_s",
    "screen",
    "line",
    "condition",
    "words",
    "band",
    "evidence",
    "lost_scaling",
    "lost_packing",
    "lost_platform",
    "rendition",
    "picture_kept",
    "picture_height",
    "cannot_be_told_low_kbps",
    "cannot_be_told_high_kbps",
    "noticeable_step_low_kbps",
    "noticeable_step_high_kbps",
    "recommended",
    "recommended_kbps",
)


def template_text(name: str) -> str:
    """A page's template by its file name."""
    return resources.files(__package__).joinpath(name).read_text()


@cache
def page_policy(name: str = "report.html") -> str:
    """What a page may do, for its head and for whoever serves it: nothing but its own pictures and its one style, known by its hash."""
    style = template_text(name).split("<style>", 1)[1].split("</style>", 1)[0]
    known = base64.b64encode(hashlib.sha256(style.encode()).digest()).decode()
    return f"default-src 'none'; img-src data:; style-src 'sha256-{known}'"


def page_environment() -> Environment:
    """Templates that escape everything and fail for what is not defined, with filters for sizes, rates and times."""
    environment = Environment(
        autoescape=select_autoescape(default=True), undefined=StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    environment.filters |= {"size": size_text, "mbps": mbps_text, "place": seconds_text, "points": _points}
    return environment


def as_html(report: Report) -> str:
    """The report as one page without outside requests, which prints on A4."""
    return (
        page_environment()
        .from_string(template_text("report.html"))
        .render(
            report=report,
            policy=Markup(page_policy()),
            screens=list(Screen),
            good=ViewerLine.GOOD,
            marks=EVIDENCE_MARKS,
            heart=HEART,
            drawing=_drawing,
            width=WIDTH,
            height=HEIGHT,
        )
    )


def as_csv(report: Report) -> str:
    """One row for each lane, screen and viewer's line; a lane without a picture has one row. No cell begins a formula."""
    text = io.StringIO()
    rows = csv.writer(text)
    rows.writerow(COLUMNS)
    for one in report.lanes:
        for row in _rows(one):
            rows.writerow([safe_cell(cell) for cell in row])
    return text.getvalue()


def as_json(report: Report) -> str:
    """Everything the report says, without its pictures."""
    return report.model_dump_json(indent=2, exclude={"poster": True, "lanes": {"__all__": {"pictures"}}})


def write_report(report: Report, folder: Path, stem: str) -> tuple[Path, Path, Path]:
    """The three files under one name in a folder, which is made; raises OSError."""
    folder.mkdir(parents=True, exist_ok=True)
    found = []
    for ending, text in (("html", as_html(report)), ("csv", as_csv(report)), ("json", as_json(report))):
        path, partial = folder / f"{stem}.{ending}", folder / f".{stem}.{ending}.partial"
        partial.write_text(text, encoding="utf-8")
        partial.replace(path)
        found.append(path)
    return found[0], found[1], found[2]


def _rows(one: ReportLane) -> list[list[object]]:
    lane, figures = one.lane, one.lane.figures
    first: list[object] = [
        lane.sheet_name,
        lane.placement_name,
        lane.way,
        lane.shape,
        lane.method,
        lane.packed_phrase,
        round(lane.target_bps / 1000, 1) if lane.target_bps else "",
        lane.guidance_words,
        figures.size.expected_bytes,
        round(figures.carriage.upload_s, 1),
        round(figures.encode.seconds, 1),
    ]
    rows, advice = [], lane.recommended
    for seen in lane.seen:
        at = seen.at
        arrives: list[object] = (
            [""] * 8
            if at is None
            else [
                at.condition,
                at.words,
                at.band,
                at.evidence,
                at.lost_scaling,
                at.lost_packing,
                at.lost_platform,
                at.rendition or "",
            ]
        )
        rows.append(
            [
                *first,
                seen.screen,
                seen.line,
                *arrives,
                round(lane.kept_area or 0, 3),
                seen.picture_height,
                *_mark_cells(seen.cannot_be_told),
                *_mark_cells(seen.noticeable_step),
                advice.option if advice else "",
                round(advice.video_bps / 1000, 1) if advice and advice.video_bps else "",
            ]
        )
    return rows or [[*first, *[""] * (len(COLUMNS) - len(first))]]


def _mark_cells(mark: RateMark | None) -> list[object]:
    """Its low and high end in kbit/s; an open end is empty."""
    ends = (mark.low_bps, mark.high_bps) if mark else (None, None)
    return ["" if bps is None else round(bps / 1000, 1) for bps in ends]


def safe_cell(cell: object) -> object:
    """A table's cell that no table program takes for a formula."""
    return f"'{cell}" if isinstance(cell, str) and cell.startswith(FORMULA_STARTS) else cell


def _points(value: float) -> str:
    return f"{value:.0f}".replace("-", "−")


def _drawing(one: ReportLane) -> Drawing | None:
    """The curve on a laptop with a good line."""
    seen = next((seen for seen in one.seen if (seen.screen, seen.line) == (Screen.LAPTOP, ViewerLine.GOOD)), None)
    lane = one.lane
    if seen is None or lane.copied:
        return None
    guidance = (
        (lane.guidance_low_bps, lane.guidance_high_bps) if lane.guidance_low_bps and lane.guidance_high_bps else None
    )
    return drawn(
        seen.curve, target_bps=lane.target_bps, condition=seen.at.condition if seen.at else None, guidance_bps=guidance
    )
