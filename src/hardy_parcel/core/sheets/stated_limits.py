"""What a line of a help page says of the fields beside the guidance: the largest file, the longest film, codecs, the largest frame."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fractions import Fraction
from typing import Annotated

from pydantic import Field

from ..trade.names import Codec, Container, SoundCodec
from ..values import Model
from .cell_words import CODECS, NUMBER, SIZE_NAMES, SOUND, SOUND_CODECS, every_of, number_in
from .sheet import Rate, Side

CONTAINERS = (
    (r"\bmp4\b", "mp4"),
    (r"\bmov\b", "mov"),
    (r"\b(?:mkv|matroska)\b", "mkv"),
    (r"\bweb-?m\b", "webm"),
    (r"\bm4a\b", "m4a"),
)
BYTES = {"k": 10**3, "m": 10**6, "g": 10**9, "t": 10**12}
SECONDS = {"h": 3600, "m": 60, "s": 1}
SIZE = re.compile(
    rf"(?P<number>{NUMBER})\s*(?:(?P<letter>[kmgt])i?b(?!it|ps|/s|\w)|(?P<word>kilo|mega|giga|tera)bytes?\b)",
    re.IGNORECASE,
)
DURATION = re.compile(
    rf"(?P<number>{NUMBER})[\s-]*(?P<unit>h(?:ours?|rs?)?|m(?:in(?:ute)?s?)|s(?:ec(?:ond)?s?)?)\b",
    re.IGNORECASE,
)
MOST = (
    r"\b(?:max(?:imum|\.)?|up to|at most|no more than|no longer than|no larger than|not exceed|limit(?:ed)?|under|below|longest|largest)\b"
    r"|[≤<]"
)
TAKES = r"\b(?:codecs?|compression|accept(?:s|ed)?|supports?|supported|formats?|encod(?:e|ed|ing)|containers?|file types?|use|take)\b"
ONLY_BELOW = r"\b(?:under|below)\b|<"
"""What bounds a figure without saying that nothing more is taken."""
OF_ELSE = (
    r"\b(?:process\w*|wait\w*|review\w*|deliver\w*|expire\w*|stor(?:e[ds]?|ing|age)|delet\w*|remov\w*|available|resum\w*|look\w*|"
    r"speeds?|faster|slow\w*|days?|plays?|viewers?)\b"
)
"""Words of a figure that is no limit of what is taken: how long something is processed or kept, how it looks."""
FRAME_RATE = r"(?i)\b(\d{2,3}(?:[.,]\d+)?)\s*(?:fps|frames?\s*(?:/|a|per)\s*s(?:ec(?:ond)?)?|hz)\b"
AGAINST = r"\b(?:not|never|no longer|avoid|except|unless|don.?t|cannot|can.?t|least|minimum)\b|(?<!\d)(?<!\d )\bmin\b"


Bytes = Annotated[int, Field(gt=0, le=10**15)]
Seconds = Annotated[int, Field(gt=0, le=10**7)]


class StatedLimits(Model):
    """Fields of a placement that a paste names, None where it does not: bytes, s, px, frames/s, and codecs in the order named."""

    max_bytes: Bytes | None = None
    max_duration_s: Seconds | None = None
    max_long_side_px: Side | None = None
    max_short_side_px: Side | None = None
    max_frame_rate: Rate | None = None
    codecs: tuple[Codec, ...] | None = None
    containers: tuple[Container, ...] | None = None
    sound_codecs: tuple[SoundCodec, ...] | None = None

    def given(self) -> dict[str, object]:
        """The fields that are named."""
        return {name: getattr(self, name) for name in type(self).model_fields if getattr(self, name) is not None}


def limits_in(text: str) -> tuple[StatedLimits | None, tuple[str, ...]]:
    """What a sentence without bit rates states of those fields, and what is uncertain about it; None where it states nothing."""
    fields: dict[str, object] = {}
    doubts = list[str]()
    said_most = bool(re.search(MOST, text, re.IGNORECASE))
    if sizes := _bytes(text):
        fields["max_bytes"] = max(sizes)
        if len(set(sizes)) > 1:
            doubts.append("two sizes of file are named; does the larger hold for you?")
        if not said_most and not re.search(r"(?i)\b(?:file|upload)s?\s+sizes?\b", text):
            doubts.append("is this the largest file that is taken?")
    if lengths := _durations(text):
        fields["max_duration_s"] = max(lengths)
        if len(set(lengths)) > 1:
            doubts.append("two lengths are named; is the longer the longest that is taken?")
        if not said_most and not re.search(r"(?i)\b(?:length|duration|running time)\b", text):
            doubts.append("is this the longest film that is taken?")
    if said_most:
        fields |= _frame(text, doubts)
    if re.search(TAKES, text, re.IGNORECASE) or re.search(r"(?i)^\W*(?:video|audio|sound)\b", text):
        for name, table in (("codecs", CODECS), ("containers", CONTAINERS), ("sound_codecs", SOUND_CODECS)):
            if names := every_of(table, text)[0]:
                fields[name] = tuple(names)
        if "containers" in fields and re.search(SOUND, text, re.IGNORECASE) and "codecs" not in fields:
            del fields["containers"]
    if not fields:
        return None, ()
    if re.search(AGAINST, text, re.IGNORECASE) and not re.search(
        r"(?i)\b(?:not exceed|no more than|no longer than)\b", text
    ):
        doubts.append("it says what is not taken, or the least; does this still hold?")
    bound = re.sub(ONLY_BELOW, " ", text, flags=re.IGNORECASE)
    weak = said_most and not re.search(MOST, bound, re.IGNORECASE)
    if weak or re.search(OF_ELSE, text, re.IGNORECASE):
        doubts.append("is this a limit of what is taken?")
    try:
        return StatedLimits.model_validate(fields), tuple(doubts)
    except ValueError:
        return None, ()


def merged(limits: Iterable[StatedLimits]) -> StatedLimits:
    """The fields of several statements that do not contradict each other, as one."""
    fields: dict[str, object] = {}
    for stated in limits:
        fields |= stated.given()
    return StatedLimits.model_validate(fields)


def _bytes(text: str) -> list[int]:
    """Sizes in bytes; decimal prefixes, the smaller reading, so that no file is too large for the other. Not a rate nor a memory."""
    if re.search(
        r"(?i)\b(?:storage|memory|ram|disk|per (?:hour|minute|month|day)|an hour|a month|a minute|quota)\b", text
    ):
        return []
    return [
        round(number_in(match["number"], "") * BYTES[(match["letter"] or match["word"])[0].lower()])
        for match in SIZE.finditer(text)
    ]


def _durations(text: str) -> list[int]:
    """Lengths in s; hours, minutes and seconds that follow each other are one length."""
    if not re.search(rf"(?i)\b(?:length|duration|long|longer|running time|minutes|hours)\b|{MOST}", text):
        return []
    if re.search(r"(?i)\b(?:key\s*-?frames?|gop|interval|every|closed|loudness|within|wait|takes?)\b", text):
        return []
    fields, stop = list[float](), -1
    for match in DURATION.finditer(text):
        seconds = number_in(match["number"], "") * SECONDS[match["unit"][0].lower()]
        if (
            stop >= 0
            and re.fullmatch(r"\s*(?:,|and)?\s*", text[stop : match.start()])
            and fields
            and seconds < fields[-1]
        ):
            fields[-1] += seconds
        else:
            fields.append(seconds)
        stop = match.end()
    return [round(match) for match in fields if match >= 1]


def _frame(text: str, doubts: list[str]) -> dict[str, object]:
    """The largest frame and the highest frame rate that a text gives as the most."""
    fields: dict[str, object] = {}
    frames = [
        sorted((int(one), int(other))) for one, other in re.findall(r"(\d{3,5})\s*(?:px)?\s*[xX×*]\s*(\d{3,5})", text)
    ]
    sides = [int(side) for side in re.findall(r"(?i)\b(\d{3,4})p\b", text)]
    sides += [side for side in every_of(SIZE_NAMES, text)[0] if side >= 2160 or not sides]
    frames = frames or [[side, -(-side * 16 // 9)] for side in sides]
    if frames:
        fields |= dict(zip(("max_short_side_px", "max_long_side_px"), max(frames), strict=True))
        if len({tuple(frame) for frame in frames}) > 1:
            doubts.append("several frames are named; is the largest the most that is taken?")
    if rates := {Fraction(rate.replace(",", ".")) for rate in re.findall(FRAME_RATE, text)}:
        fields["max_frame_rate"] = max(rates)
        if len(rates) > 1:
            doubts.append("several frame rates are named; is the highest the most that is taken?")
    return fields
