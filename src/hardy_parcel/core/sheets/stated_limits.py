"""What a line of a help page says of the fields beside the guidance: the largest file, the longest film, codecs, the largest frame."""

from __future__ import annotations

import re
from collections.abc import Iterable
from fractions import Fraction

from ..trade.names import Codec, Container, SoundCodec
from ..values import Model
from .cell_words import CODECS, NUMBER, SIZE_NAMES, SOUND, SOUND_CODECS, every_of
from .sheet import PositiveInt, Rate, Side

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
AGAINST = r"\b(?:not|never|no longer|avoid|except|unless|don.?t|cannot|can.?t|least|minimum)\b|(?<!\d)(?<!\d )\bmin\b"


class StatedLimits(Model):
    """Fields of a placement that a paste names, None where it does not: bytes, s, px, frames/s, and codecs in the order named."""

    max_bytes: PositiveInt | None = None
    max_duration_s: PositiveInt | None = None
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
    fields |= _frame(text, said_most)
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


def _value(text: str) -> float:
    plain = re.sub(r"[ \u00a0\u202f\u2009'’]", "", text)
    return float(re.sub(r"[.,](?=\d{3}(?:\D|$))", "", plain).replace(",", "."))


def _bytes(text: str) -> list[int]:
    """Sizes in bytes; decimal prefixes, the smaller reading, so that no file is too large for the other. Not a rate nor a memory."""
    if re.search(
        r"(?i)\b(?:storage|memory|ram|disk|per (?:hour|minute|month|day)|an hour|a month|a minute|quota)\b", text
    ):
        return []
    return [
        round(_value(match["number"]) * BYTES[(match["letter"] or match["word"])[0].lower()])
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
        seconds = _value(match["number"]) * SECONDS[match["unit"][0].lower()]
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


def _frame(text: str, said_most: bool) -> dict[str, object]:
    """The largest frame and the highest frame rate that a text names."""
    fields: dict[str, object] = {}
    if not said_most:
        return fields
    if match := re.search(r"(\d{3,5})\s*(?:px|pixels?)?\s*[xX×*]\s*(\d{3,5})", text):
        sides = sorted((int(match[1]), int(match[2])))
        fields |= {"max_short_side_px": sides[0], "max_long_side_px": sides[1]}
    elif match := re.search(r"(?i)\b(\d{3,4})p\b", text):
        fields |= _sixteen_to_nine(int(match[1]))
    elif names := [side for pattern, side in SIZE_NAMES if re.search(pattern, text, re.IGNORECASE)]:
        fields |= _sixteen_to_nine(names[0])
    if match := re.search(r"(?i)\b(\d{2,3}(?:[.,]\d+)?)\s*(?:fps|frames?\s*(?:/|a|per)\s*s(?:ec(?:ond)?)?|hz)\b", text):
        fields["max_frame_rate"] = Fraction(match[1].replace(",", "."))
    return fields


def _sixteen_to_nine(side: int) -> dict[str, object]:
    return {"max_short_side_px": side, "max_long_side_px": -(-side * 16 // 9)}
