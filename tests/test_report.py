"""A comparison as a page that prints, as a table, and as JSON."""

from __future__ import annotations

import csv
import io
import json
import re
from datetime import UTC, datetime
from html.parser import HTMLParser
from pathlib import Path

import pytest

from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.parcel.lane import apart
from hardy_parcel.core.parcel.summary import seen_of, summarize
from hardy_parcel.core.plan.carrying import Line
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.report.drawing import HEIGHT, WIDTH, drawn
from hardy_parcel.report.report import Report, ReportLane, ReportPicture, make_report, report_lane
from hardy_parcel.report.writing import as_csv, as_html, as_json, page_policy, write_report

from .builders import EARSHELF, ORRERY, SPRIGG, as_lane, facts, parcel, perfect, rehearsal

CURVE = [rehearsal(2, 60), rehearsal(6, 74), rehearsal(12, 79.5), rehearsal(24, 80)]
NASTY = "=HYPERLINK(1) <script>alert(1)</script>"


def lane(place=ORRERY, *, known=CURVE, name: str = "", of: str | None = None, **choices) -> ReportLane:
    master, wanted = facts(), Choices(**choices)
    plan = make_plan(master, place, wanted)
    forecast = outlook(known, perfect(80.5) if known else None)
    row = as_lane(summarize(
        parcel=parcel(place, id=f"{place.id}{name}", name=name, sibling_of=of, choices=wanted), facts=master, destination=place, plan=plan,
        line=Line(), rehearsals=list(known), known=forecast, speed=None,
    ))
    return report_lane(
        row, destination=place, plan=plan, ours=make_plan(master, place), seen=seen_of(plan, place, forecast),
        pictures=[ReportPicture(source="data:image/png;base64,AAAA", words="arrived, 0:01.00")] if known else [],
    )


@pytest.fixture
def report() -> Report:
    first, other = lane(), lane(name=NASTY, of="first", video_bitrate_bps=3_000_000)
    other = other.model_copy(update={"apart": apart(other.lane, first.lane)})
    lanes = [first, other, lane(SPRIGG, known=[]), lane(EARSHELF, known=[])]
    return make_report(facts(), make_plan(facts(), ORRERY), lanes, now=datetime(2026, 11, 27, 9, 30, tzinfo=UTC))


class Page(HTMLParser):
    """What a page asks for, and whether its elements are closed."""

    VOID = {"meta", "img", "br", "line", "polyline", "polygon", "circle", "rect", "link"}

    def __init__(self, text: str) -> None:
        super().__init__()
        self.asks: list[str] = []
        self.open: list[str] = []
        self.seen: list[str] = []
        self.feed(text)

    def handle_starttag(self, tag: str, attrs) -> None:
        self.seen.append(tag)
        self.asks += [value for key, value in attrs if key in ("src", "href") and value and not value.startswith("data:")]
        if tag not in self.VOID:
            self.open.append(tag)

    def handle_endtag(self, tag: str) -> None:
        if tag not in self.VOID:
            assert self.open.pop() == tag


def test_the_page_asks_for_nothing_and_runs_nothing(report: Report) -> None:
    text = as_html(report)
    page = Page(text)
    assert page.asks == []
    assert page.open == []
    assert "script" not in page.seen
    assert page_policy() in text
    assert "unsafe-inline" not in text
    assert " style=" not in text, "the policy knows one style by its hash"
    assert "http" not in re.sub(r"http-equiv", "", text)
    assert "&lt;script&gt;" in text


def test_the_page_says_what_arrives_how_sure_that_is_and_why(report: Report) -> None:
    text = as_html(report)
    for one in report.lanes:
        assert one.lane.sheet_name in text
        assert f"rule sheet version {one.sheet_version}, checked {one.sheet_checked_on}" in text
    assert report.sentences[1][1].replace("'", "&#39;") in text
    assert "● rehearsed" in text
    assert "±" in text
    assert "the top of" in text or "top of Orrery" in text
    assert "two passes" in text
    assert text.count('<svg class="curve"') == 2, "two lanes have a curve"
    assert "noticeable step" in text
    assert "6 points are just visible" in text
    assert "2026-11-27 09:30 UTC by Hardy Parcel" in text
    assert "no difference that can be told" in text or "points worse on a laptop" in text


def test_the_table_has_every_screen_and_no_formula(report: Report) -> None:
    rows = list(csv.DictReader(io.StringIO(as_csv(report))))
    assert len(rows) == 6 + 6 + 6 + 1
    assert not any(cell.startswith(("=", "+", "-", "@", "\t")) for row in rows for cell in row.values())
    assert rows[6]["way"] == f"'{NASTY}"
    first = next(row for row in rows if (row["screen"], row["line"]) == ("laptop", "good"))
    at = report.lanes[0].lane.seen[2].at
    assert (float(first["condition"]), first["evidence"], float(first["band"])) == (at.condition, at.evidence, at.band)
    assert rows[-1]["destination"] == "Earshelf"
    assert rows[-1]["condition"] == ""


def test_json_has_everything_but_pictures(report: Report) -> None:
    told = json.loads(as_json(report))
    assert [one["lane"]["destination_id"] for one in told["lanes"]] == [ORRERY.id, ORRERY.id, SPRIGG.id, EARSHELF.id]
    assert "pictures" not in told["lanes"][0]
    assert told["lanes"][0]["slip"][0]["because"]
    assert Report.model_validate(told | {"poster": None}).lanes[0].lane == report.lanes[0].lane


def test_three_files_are_written_whole(report: Report, tmp_path: Path) -> None:
    paths = write_report(report, tmp_path / "new", "Gale")
    assert sorted(path.name for path in (tmp_path / "new").iterdir()) == ["Gale.csv", "Gale.html", "Gale.json"]
    assert [path.suffix for path in paths] == [".html", ".csv", ".json"]


def test_a_curve_keeps_inside_its_drawing() -> None:
    curve = next(seen.curve for seen in lane().seen if seen.screen == "laptop")
    found = drawn(curve, target_bps=500_000_000, condition=12.0, guidance_bps=(1, 10**9))
    assert found is not None
    points = [tuple(map(float, pair.split(","))) for pair in (found.line + " " + found.band).split()]
    assert all(0 <= x <= WIDTH and 0 <= y <= HEIGHT for x, y in [*points, found.here])
    assert [mark.words for mark in found.marks] == ["noticeable step", "can’t be told"]
    assert all(0 <= mark.low <= mark.high <= WIDTH for mark in found.marks)
    assert 2 <= len(found.rates) <= 6
    assert drawn(curve.model_copy(update={"line": ()}), target_bps=1, condition=1, guidance_bps=None) is None
