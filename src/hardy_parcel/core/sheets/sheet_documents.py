"""Rule sheets as documents: JSON with a published schema, guidance as CSV, what differs between two, and how old one is."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Iterator
from datetime import date
from fractions import Fraction
from typing import Any

from pydantic import ValidationError

from ..errors import BadInput
from ..faults import fault_words
from ..values import Model
from .guidance import look_up
from .sheet import (
    OLD_AFTER_DAYS,
    SCHEMA_VERSION,
    Assumed,
    AudioRule,
    FrameRateClass,
    GuidanceRow,
    Handling,
    HandlingTier,
    Placement,
    RenditionRule,
    Sheet,
)

LARGEST = 2_000_000
"""Characters of a document."""
MOST_FAULTS = 50
"""So many are told; whoever has more begins with these."""
CSV_COLUMNS = ("short_side_px", "frame_rate_class", "dynamic_range", "codec", "low_bps", "high_bps")


class Fault(Model):
    """One error of a document: where, and why."""

    path: str
    why: str


def faults_of(document: Any) -> tuple[Fault, ...]:
    """Every error of a sheet as parsed JSON; empty for a good one. A newer schema version is the only error then."""
    if not isinstance(document, dict):
        return (Fault(path="document", why="a rule sheet is an object with an id, a name and placements"),)
    version = document.get("schema_version", SCHEMA_VERSION)
    if isinstance(version, int) and not isinstance(version, bool) and version > SCHEMA_VERSION:
        return (
            Fault(
                path="schema_version",
                why=f"this sheet is of version {version} and this program reads up to {SCHEMA_VERSION}; use a newer program",
            ),
        )
    try:
        Sheet.model_validate_json(json.dumps(document))
    except ValidationError as error:
        result = error.errors(include_url=False, include_input=False)
        outer = {fault["loc"][:length] for fault in result for length in range(len(fault["loc"]))}
        inner = [
            fault for fault in result if fault["loc"] not in outer
        ]  # a list is too short only where faulty members were left out
        words = tuple(
            Fault(path=".".join(map(str, fault["loc"])) or "document", why=fault_words(fault))
            for fault in inner[:MOST_FAULTS]
        )
        more = len(inner) - len(words)
        return (*words, Fault(path="document", why=f"and {more} more of the kind")) if more > 0 else words
    return ()


def read_sheet(text: str, *, name: str) -> Sheet:
    """A sheet from its JSON text; raises BadInput naming the path and the reason of every error."""
    if len(text) > LARGEST:
        raise BadInput(f"{name} is too large for a rule sheet.", "Choose another file.", code="bad_sheet")
    try:
        document = json.loads(text)
    except (ValueError, RecursionError) as error:
        where = f" (line {error.lineno}, column {error.colno})" if isinstance(error, json.JSONDecodeError) else ""
        raise BadInput(f"{name} is not JSON{where}.", "Correct it and try again.", code="bad_sheet") from error
    if faults := faults_of(document):
        texts = "; ".join(f"{fault.path}: {fault.why}" for fault in faults)
        raise BadInput(f"The rule sheet {name} cannot be used: {texts}.", "Correct it and try again.", code="bad_sheet")
    return Sheet.model_validate_json(json.dumps(document))


def write_sheet(sheet: Sheet) -> str:
    """A sheet as the JSON document that `read_sheet` reads."""
    return json.dumps(sheet.model_dump(mode="json"), indent=1, ensure_ascii=False) + "\n"


def schema() -> dict[str, Any]:
    """The JSON Schema of a rule sheet."""
    result = Sheet.model_json_schema()
    return {"$schema": "https://json-schema.org/draft/2020-12/schema", **result, "title": "Hardy Parcel rule sheet"}


def guidance_csv(placement: Placement) -> str:
    """A placement's guidance as CSV, one row a line, rates in bit/s; `pasting.paste` reads it back."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(CSV_COLUMNS)
    for row in placement.guidance:
        writer.writerow([getattr(row, column) for column in CSV_COLUMNS])
    return out.getvalue()


class Change(Model):
    """One difference between two sheets; None where a value is in one of them only."""

    path: str
    before: str | None
    after: str | None


def changes(before: Sheet, after: Sheet) -> tuple[Change, ...]:
    """What differs between two sheets, in the order of the later one; version numbers are left out."""
    old, new = dict(_flat(before.model_dump(mode="json"))), dict(_flat(after.model_dump(mode="json")))
    paths = [*new, *(path for path in old if path not in new)]
    return tuple(
        Change(path=path, before=old.get(path), after=new.get(path))
        for path in paths
        if path != "version" and old.get(path) != new.get(path)
    )


def _flat(value: Any, path: str = "") -> Iterator[tuple[str, str]]:
    if isinstance(value, dict):
        for key, item in value.items():
            yield from _flat(item, f"{path}.{key}" if path else str(key))
    elif isinstance(value, list) and value and isinstance(value[0], dict):
        for number, item in enumerate(value):
            yield from _flat(item, f"{path}.{_name_of(item, number)}")
    elif value is not None:
        yield path, ", ".join(map(str, value)) if isinstance(value, list) else str(value)


def _name_of(item: dict[str, Any], number: int) -> str:
    """A row by what it is for, so that one row more does not shift all others."""
    if "id" in item:
        return str(item["id"])
    if "frame_rate_class" in item:
        return f"{item['short_side_px']} {item['frame_rate_class']} {item['dynamic_range']} {item['codec']}"
    return str(item.get("name") or (f"{item['short_side_px']} {item['codec']}" if "short_side_px" in item else number))


def age_days(sheet: Sheet, today: date) -> int:
    """Days since the sheet was checked; never negative."""
    return max(0, (today - sheet.checked_on).days)


def reminder(sheet: Sheet, today: date) -> str | None:
    """A sentence when the sheet was checked long ago."""
    days = age_days(sheet, today)
    return f"Last checked {days} days ago; look at the platform's help page again." if days > OLD_AFTER_DAYS else None


ASSUMED_SHARES: dict[Assumed, tuple[int, float]] = {
    Assumed.GENTLE: (21, 0.55),
    Assumed.MIDDLING: (25, 0.35),
    Assumed.HARSH: (28, 0.22),
}
"""H.264 quality value, and ceiling as a share of the guidance's low end: what lies among the ladders that ship."""


USUAL_ROWS = tuple(
    GuidanceRow(short_side_px=side, frame_rate_class=FrameRateClass.STANDARD, low_bps=low, high_bps=round(low * 1.3))
    for side, low in ((1080, 7_000_000), (720, 3_500_000), (480, 1_800_000))
)
"""The power law of rules §2."""


def assumed_handling(kind: Assumed, placement: Placement) -> Handling:
    """A ladder for a platform whose re-encoding is not known: its largest guided size and two steps below.

    Before it has guidance, the ceilings follow from the rates that are usual.
    """
    if not placement.guidance:
        placement = placement.model_copy(update={"guidance": USUAL_ROWS})
    quality, share = ASSUMED_SHARES[kind]
    sides = sorted({row.short_side_px for row in placement.guidance}, reverse=True) or [1080]
    steps = [
        sides[0],
        *(side for side in (round(sides[0] * 2 / 3 / 2) * 2, round(sides[0] / 2 / 2) * 2) if side >= 240),
    ]

    def ceiling(side: int, rate_class: FrameRateClass) -> int:
        rate = (
            placement.max_frame_rate
            if rate_class is FrameRateClass.HIGH
            else min(placement.max_frame_rate, Fraction(25))
        )
        result = look_up(placement, width=round(side * 16 / 9), height=side, frame_rate=rate)
        return max(50_000, round(result.low_bps * share / 10_000) * 10_000)

    rules = tuple(
        RenditionRule(
            short_side_px=side,
            codec="h264",
            quality=quality,
            ceiling_standard_bps=ceiling(side, FrameRateClass.STANDARD),
            ceiling_high_bps=ceiling(side, FrameRateClass.HIGH),
        )
        for side in steps
    )
    return placement.handling.model_copy(
        update={
            "assumed": kind,
            "tiers": (HandlingTier(name="assumed", renditions=rules),),
            "frame_rate_cap": placement.max_frame_rate,
        }
    )


def blank_sheet(*, sheet_id: str, name: str, today: date) -> Sheet:
    """A sheet to start from: one placement for wide films without guidance, its handling assumed middling."""
    placement = Placement(
        id="main",
        name="main placement",
        codecs=("h264",),
        containers=("mp4",),
        max_long_side_px=1920,
        max_short_side_px=1080,
        max_bytes=1_000_000_000,
        max_duration_s=3600,
        guidance=(),
        audio=AudioRule(stereo_bps=192_000, mono_bps=96_000),
        handling=Handling(),
    )
    placement = placement.model_copy(update={"handling": assumed_handling(Assumed.MIDDLING, placement)})
    return Sheet(id=sheet_id, name=name, kind="films", version=1, checked_on=today, source="", placements=(placement,))
