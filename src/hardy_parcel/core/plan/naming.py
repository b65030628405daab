"""File names: from a pattern to a portable, bounded name that collides with nothing."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from datetime import date
from fractions import Fraction
from pathlib import PurePath
from typing import Annotated

from pydantic import AfterValidator, Field

from ..errors import BadInput
from ..master.facts import Excerpt
from ..trade.codecs import name_of
from ..values import OneLine, rate_text, shape_text
from .choices import BESIDE
from .plan import Plan

LONGEST_STEM_BYTES = 180
"""Room for a number and a partial suffix within the 255 bytes that common file systems allow."""
_FORBIDDEN = re.compile(r'[\x00-\x1f\x7f<>:"/\\|?*]+')
_RESERVED = {"con", "prn", "aux", "nul", *(f"com{i}" for i in range(1, 10)), *(f"lpt{i}" for i in range(1, 10))}


def portable_stem(text: str) -> str:
    """`text` as a file name without extension that every common system takes; Unicode letters are kept."""
    clean = unicodedata.normalize("NFC", text)
    clean = "".join(c if unicodedata.category(c) not in ("Cc", "Cf", "Cs", "Co", "Cn") else " " for c in clean)
    clean = re.sub(r"\s+", " ", _FORBIDDEN.sub(" ", clean)).strip(" .")
    while len(clean.encode()) > LONGEST_STEM_BYTES:
        clean = clean[:-1].rstrip(" .")
    if not clean or clean.split(".")[0].lower() in _RESERVED:
        clean = f"parcel {clean}".strip()
    return clean


FIELDS = {
    "master": "the master's name", "excerpt": "its in and out point, where not all of it is packed", "destination": "where it goes",
    "shape": "width and height of the frame, such as 16x9", "size": "lines of the frame, such as 1080p", "rate": "frames per second",
    "codec": "the picture's codec", "way": "the codec where it is not H.264, or “as it is”", "date": "the day it is packed",
    "number": "the place of its lane, such as 03",
}
"""What a pattern of file names may hold in braces, each with what it stands for."""
USUAL_PATTERN = "{master} - {excerpt} - {destination} - {size}{rate} - {way}"
LONGEST_PATTERN = 200
_FIELD = re.compile(r"\{([^{}]*)\}")


def check_pattern(pattern: str) -> str:
    """A pattern as it is kept; raises BadInput for a field that there is not, or where nothing is left of it."""
    wanted = pattern.strip() or USUAL_PATTERN
    unknown = [name for name in _FIELD.findall(wanted) if name not in FIELDS]
    if unknown or set(_FIELD.sub("", wanted)) & set("{}"):
        what = f"{{{unknown[0]}}} is no field of a file name." if unknown else "A brace stands alone in the file name's pattern."
        raise BadInput(what, f"Choose of: {', '.join(f'{{{name}}}' for name in FIELDS)}.", code="bad_pattern")
    if len(wanted) > LONGEST_PATTERN:
        raise BadInput("The pattern of file names is too long.", f"Keep it below {LONGEST_PATTERN} characters.", code="bad_pattern")
    return wanted


def _pattern_or_none(pattern: str) -> str:
    return check_pattern(pattern) if pattern.strip() else ""


FilePattern = Annotated[str, Field(max_length=LONGEST_PATTERN), OneLine, AfterValidator(_pattern_or_none)]
FolderName = Annotated[str, Field(max_length=4096), OneLine]


def file_stem(
    master_name: str, plan: Plan, pattern: str = USUAL_PATTERN, *, excerpt: Excerpt | None = None, number: int = 1,
    today: date | None = None,
) -> str:
    """A parcel's file name without its extension, such as 'Gale - Orrery wide - 1080p50'; `excerpt` is None where all of the master is
    packed, and `number` counts lanes from 1.

    A field that says nothing goes with what separates it from the one before: sound alone has no size.
    """
    return _filled(pattern, _values(master_name, plan, excerpt, number, today))


def _filled(pattern: str, values: dict[str, str]) -> str:
    made: list[str] = []
    for part in re.split(r"(\{[^{}]*\})", pattern):
        field = _FIELD.fullmatch(part)
        if field is None:
            made.append(part)
        elif value := values.get(field[1], ""):
            made.append(value)
        elif made and not any(one.isalnum() for one in made[-1]):
            made.pop()
    return portable_stem("".join(made).strip(" -_.,"))


EXAMPLE = {
    "master": "Gale over the skerry", "excerpt": "0m12-0m40", "destination": "Orrery wide", "shape": "16x9", "size": "1080p", "rate": "50",
    "codec": "HEVC", "way": "HEVC", "date": "1987-02-14", "number": "03",
}


def example_name(pattern: str) -> str:
    """What a pattern makes of a made-up parcel."""
    return f"{_filled(pattern, EXAMPLE)}.mp4"


def _values(master_name: str, plan: Plan, excerpt: Excerpt | None, number: int, today: date | None) -> dict[str, str]:
    found = {
        "master": PurePath(master_name).stem, "destination": plan.destination_id.replace("-", " ").capitalize(), "number": f"{number:02d}",
        "date": today.isoformat() if today else "",
        "excerpt": f"{_clock(excerpt.in_s)}-{_clock(excerpt.out_s)}" if excerpt else "",
    }
    if plan.video:
        framing, codec = plan.video.framing.value, plan.video.codec.value
        ratio = framing.shape or Fraction(framing.width, framing.height)
        found |= {
            "size": f"{min(framing.width, framing.height)}p", "rate": rate_text(plan.video.frame_rate.value), "codec": name_of(codec),
            "shape": shape_text(ratio).replace(":", "x"), "way": "as it is" if plan.copied else "" if codec == "h264" else name_of(codec),
        }
    elif plan.audio:
        found["codec"] = name_of(plan.audio.codec.value)
    return found


def _clock(seconds: Fraction) -> str:
    """A place in a film that every file system takes, such as 1m05."""
    whole = int(seconds)
    return f"{whole // 60}m{whole % 60:02d}"


def captions_beside(plan: Plan) -> tuple[str, ...]:
    """What follows the stem in the names of the caption files beside a film: 'srt', or 'en.srt' and 'de.srt' of several."""
    extension, tracks = BESIDE.get(plan.captions.value) if plan.captions.value else None, plan.caption_tracks
    if extension is None:
        return ()
    if len(tracks) == 1:
        return (extension,)
    named = [portable_stem(track.language) if track.language else str(number) for number, track in enumerate(tracks, 1)]
    return tuple(f"{name if named.count(name) == 1 else f'{name} {number}'}.{extension}" for number, name in enumerate(named, 1))


def free_name(stem: str, extension: str, taken: Callable[[str], bool]) -> str:
    """`stem.extension`, or the first numbered one that is not taken: 'stem (2).mp4'."""
    name, number = f"{stem}.{extension}", 1
    while taken(name):
        number += 1
        name = f"{stem} ({number}).{extension}"
    return name
