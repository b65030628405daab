"""File names: from a pattern to a portable, bounded name that collides with nothing."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable
from pathlib import PurePath

from ..trade.codecs import name_of
from ..values import rate_text
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


def file_stem(master_name: str, plan: Plan) -> str:
    """The default pattern: master, destination, size and rate, such as 'Gale - Orrery wide - 1080p50'.

    Another codec than H.264 is named, what goes as it is says so, and sound alone has no size.
    """
    place = plan.destination_id.replace("-", " ").capitalize()
    parts = [PurePath(master_name).stem, place]
    if plan.video:
        framing, codec = plan.video.framing.value, plan.video.codec.value
        parts.append(f"{min(framing.width, framing.height)}p{rate_text(plan.video.frame_rate.value)}")
        if plan.copied:
            parts.append("as it is")
        elif codec != "h264":
            parts.append(name_of(codec))
    return portable_stem(" - ".join(parts))


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
