"""What a cell of somebody's table says: sizes, frame rates, codecs, ranges, units and bit rates, in many spellings."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Any

from .paste_lines import LONGEST_CELL
from .sheet import FrameRateClass

NUMBER = r"\d{1,3}(?:[ \u00a0\u202f\u2009'’]\d{3})+(?:[.,]\d+)?|\d+(?:[.,]\d+)*"
UNIT = (
    r"(?P<unit{n}>(?:[gmk](?:ega|ilo|iga)?\s*-?)?bits?(?:\s*(?:/|per|pro|p)\s*(?:s|sec|second|sek)\b\.?|ps\b)?"
    r"|[gmk]b(?:/s(?:ec)?\b|ps\b|it\b)?|bps\b|[mk]b?\b)"
)
TO = r"\s*(?:–|—|−|-|~|…|\.{2,3}|\bto\b|\band\b|\bbis\b|\bthrough\b)\s*"
SIZE_NAMES = (
    (r"\b8k\b", 4320),
    (r"\b(?:4k|uhd|ultra\s*hd)\b", 2160),
    (r"\b(?:2k|qhd|wqhd|quad\s*hd)\b", 1440),
    (r"\b(?:full\s*hd|fhd)\b", 1080),
    (r"\bhd(?!r)\b", 720),
    (r"\bsd(?!r)\b", 480),
)
KNOWN_SIDES = {
    144,
    180,
    240,
    270,
    288,
    360,
    396,
    404,
    406,
    480,
    486,
    540,
    576,
    608,
    640,
    720,
    768,
    800,
    900,
    960,
    1024,
    1080,
    1200,
    1280,
    1440,
    1600,
    1620,
    2000,
    2160,
    2880,
    4320,
}
CODECS = (
    (r"\b(?:h\.?\s?265|hevc|x265)\b", "hevc"),
    (r"\b(?:h\.?\s?264|avc|x264|mpeg-?4 avc)\b", "h264"),
    (r"\bvp-?9\b", "vp9"),
    (r"\bav-?1\b", "av1"),
)
RANGES = ((r"\b(?:hdr(?:10\+?)?|hlg|pq)(?![a-z])", "hdr"), (r"\bsdr\b", "sdr"))
OTHER_CODECS = r"(?i)\b(?:mpeg-?[12]|mpeg-?4(?!\s*avc)|vp-?8|vc-?[13]|vvc|h\.?\s?266|theora|m-?jpeg|motion jpeg|mezzanine|lossless)\b"
RATIOS = r"\blevel\s*\d(?:\.\d)?|\b\d:\d:\d\b|\b\d{1,2}:\d{1,2}\b(?!\s*[kmg]?b)"
"""Levels, chroma and shapes, whose figures look like frame rates."""
CHANNELS = (
    (r"\bsurround\b|(?<![\d.])[57]\.1(?![\d.])|\b[68]\s*(?:ch|channels?)\b", 6),
    (r"\bmono\b|\b1\s*(?:ch|channels?)\b", 1),
    (r"\bstereo\b|\b2(?:\.0)?\s*(?:ch|channels?)\b", 2),
)
SOUND_CODECS = (
    (r"\baac\b", "aac"),
    (r"\bopus\b", "opus"),
    (r"\bmp-?3\b", "mp3"),
    (r"\bflac\b", "flac"),
    (r"\bpcm\b|\bwav\b", "pcm"),
)
SOUND = r"\b(?:audio|sound|stereo|mono|surround|channels?|ch|aac|opus|mp3|flac|pcm)\b|(?<![\d.])[57]\.1(?![\d.])"
FRAME_RATES = {23.976, 23.98, 24, 25, 29.97, 30, 48, 50, 59.94, 60}
SIZE_HEADINGS = (
    r"\b(?:resolution|frame size|size|height|lines|short side(?: px)?|dimensions?|format|quality|definition|type)\b"
)
SMALL_WORDS = (
    r"(?i)\b(?:video|bit\s*-?rates?|bitrates?|recommended|for|at|and|or|the|of|in|a|is|with|use|we|per|second|rate|rates?|uploads?|target"
    r"|approx|about|around|circa|ca|up|to|px|pixels?|p|i|from|between|codec|dynamic range|range|class|frame|than|bps|upright|portrait"
    r"|landscape|square|wide)\b"
)
"""Words that say nothing of a figure."""
STANDARD, HIGH = FrameRateClass.STANDARD, FrameRateClass.HIGH
MULTIPLES = {"g": 1e9, "m": 1e6, "k": 1e3, "": 1.0}


LEAST = r"min(?:imum|\.)?|low(?:er|est)?|at least|no less than|not below|more than|from|least"
MOST = r"max(?:imum|\.)?|high(?:er|est)?|upper|up to|at most|no more than|less than|not (?:to )?exceed|below|under|peaks?|ceiling|limit|cap"
AIMED = r"recommend(?:ed|s)?|target|ideal(?:ly)?|typical(?:ly)?|aim(?:ed)?|preferred|optimal|optimum|average|avg\.?"
ENDS = (("low", LEAST), ("high", MOST), ("aim", AIMED))
LINK = r"(?:\s*(?:of|is|are|be|:|=|bit\s*-?rates?|bitrates?|video|rates?|value|about|around)\s*)*"


@dataclass(frozen=True, slots=True)
class Figure:
    """A bit rate or a range of them in bit/s, which end it is said to be, and where it stands in its text."""

    low: int
    high: int
    end: str | None
    start: int
    stop: int


@dataclass(frozen=True, slots=True, kw_only=True)
class CellWords:
    """What one cell says. `bit_rates` in bit/s; `plain` a number or range without a unit; `unit` what one would be worth.

    `sound` marks a cell that names sound; `sound_rates` are bit rates of the sound in a cell that has another, the picture's, too.
    `odd` marks words that none of it explains, `numbers` figures. `others` are further sizes, codecs and ranges that it names,
    `pair` two figures that nothing in the cell tells apart. `doubts` say what of it is uncertain.
    """

    text: str = ""
    size: int | None = None
    others: tuple[int | str, ...] = ()
    pair: tuple[int, int] | None = None
    doubts: tuple[str, ...] = ()
    named: bool = False  # a size by a name that is used for several
    foreign: bool = False  # a codec that no guidance has
    classes: tuple[FrameRateClass, ...] = ()
    too_fast: bool = False
    codec: str | None = None
    dynamic_range: str | None = None
    bit_rates: tuple[int, int] | None = None
    plain: tuple[float, float] | None = None
    unit: float | None = None
    end: str | None = None
    weak_end: bool = False  # only “high” or “low”, which is said of frame rates too
    is_size: bool = False
    is_rate: bool = False
    sound: bool = False
    channels: int | None = None
    sound_codec: str | None = None
    sound_rates: tuple[int, int] | None = None
    odd: bool = False
    numbers: bool = False

    @property
    def anything(self) -> bool:
        return bool(self.size or self.classes or self.codec or self.dynamic_range or self.bit_rates or self.too_fast)

    @property
    def heads(self) -> bool:
        """Whether it can stand over other cells."""
        return self.anything or bool(self.unit or self.end or self.is_size or self.is_rate or self.foreign)

    def without_text(self) -> CellWords:
        return replace(self, text="", odd=False, plain=None)

    def filled_by(self, other: CellWords) -> CellWords:
        """This, with what it does not say taken from `other`."""
        return replace(
            self,
            size=self.size or other.size,
            classes=self.classes or other.classes,
            too_fast=self.too_fast or (not self.classes and other.too_fast),
            foreign=self.foreign or (other.foreign and not self.codec),
            weak_end=self.weak_end if self.end else other.weak_end,
            codec=self.codec or other.codec,
            dynamic_range=self.dynamic_range or other.dynamic_range,
            unit=self.unit or other.unit,
            end=self.end or other.end,
            is_size=self.is_size or other.is_size,
            is_rate=self.is_rate or other.is_rate,
            channels=self.channels or other.channels,
            sound_codec=self.sound_codec or other.sound_codec,
        )

    def over(self, other: CellWords) -> CellWords:
        """A new heading over an older one: what it names replaces, and a new range or codec ends the size before."""
        fresh = self.dynamic_range or self.codec or self.foreign
        return self.filled_by(replace(other, size=None, classes=()) if fresh and not self.size else other)


def _one_blank(text: str) -> str:
    """Blanks collapsed: what was taken out leaves runs of them, which the expressions below would try in every division."""
    return " ".join(text.split())


@lru_cache(maxsize=4096)
def cell_words(text: str) -> CellWords:
    """Everything a cell says; empty for one that says nothing, such as a dash. Only the first 400 characters are looked at."""
    text = text[:LONGEST_CELL]
    text = re.sub(r"(?<!\d)\*+|\*+(?!\d)", " ", text)  # emphasis and footnotes, but not 1080*1920
    clean = " ".join(text.replace("_", " ").replace("×", "x").replace("\u00a0", " ").split())
    if not re.search(r"\w", clean) or re.fullmatch(r"(?i)n/?a|none|-+", clean):
        return CellWords()
    codecs, rest = every_of(CODECS, clean)  # first of all, since their names have figures that look like others
    foreign = re.search(OTHER_CODECS, rest)
    rest = re.sub(rf"{OTHER_CODECS}|{RATIOS}", " ", rest)
    sound_rates, rest = _sound_rates(_one_blank(rest))
    figures, rest = figures_in(rest)
    sizes, named, size_doubts, rest = _sizes(_one_blank(rest))
    size, bare_size, rest = _size(_one_blank(rest))
    classes, fast, rest, is_rate = _classes(_one_blank(rest))
    ranges, rest = every_of(RANGES, _one_blank(rest))
    unit, rest = _unit(_one_blank(rest))
    end, weak_end, rest = _end(_one_blank(rest))
    is_size, rest = _word(SIZE_HEADINGS, rest)
    channels, sound_codec = _first(CHANNELS, clean)[0], _first(SOUND_CODECS, clean)[0]
    sound, rest = _word(SOUND, rest)
    plain = _plain(rest) if not figures else None
    left = re.sub(NUMBER, " ", rest) if plain or figures else rest
    left = re.sub(SMALL_WORDS, " ", left)
    rates, doubts = range_of(figures) if figures else (None, ())
    doubts += size_doubts + _doubts_of(clean, rest if figures else "")
    return CellWords(
        text=text.strip(),
        size=size,
        classes=classes,
        too_fast=fast,
        codec=codecs[0] if codecs else None,
        dynamic_range=ranges[0] if ranges else None,
        bit_rates=rates,
        foreign=bool(foreign),
        named=named,
        doubts=doubts,
        others=(*(figure for figure in sizes if figure != size), *codecs[1:], *ranges[1:]),
        pair=_pair(figures),
        plain=plain or ((float(bare_size),) * 2 if bare_size and not figures else None),
        unit=unit,
        end=end,
        weak_end=weak_end,
        is_size=is_size,
        is_rate=is_rate,
        sound=sound or bool(sound_rates),
        channels=channels,
        sound_codec=sound_codec,
        sound_rates=sound_rates,
        odd=bool(re.search(r"[^\W\d_]{2,}", left)),
        numbers=bool(re.search(r"\d", left)),
    )


def every_of(table: Iterable[tuple[str, Any]], text: str) -> tuple[list[Any], str]:
    """Every value of a table that a text names, in the order they stand, and the text without their names."""
    values = dict[int, Any]()
    for pattern, value in table:
        for match in re.finditer(pattern, text, re.IGNORECASE):
            values.setdefault(match.start(), value)
        text = re.sub(pattern, lambda match: " " * len(match[0]), text, flags=re.IGNORECASE)
    return list(dict.fromkeys(value for _, value in sorted(values.items()))), text


EXPLAINED = (
    r"(?i)\b\d+\s*-?\s*bits?\b|\[\d+\]|\(\d\)|^\s*\d{1,2}[.)]"
    r"|\b\d+(?:[.,]\d+)?\s*s(?:ec\w*)?\b|\b\d+(?:\.\d)?\s*(?:ch\b|channels?)"
    r"|\b\d+(?:[.,]\d+)?\s*k?hz\b"
)
"""Figures beside a bit rate that are none: depths, footnotes, a number before a line, seconds, channels and sample rates."""


def _doubts_of(text: str, rest: str) -> tuple[str, ...]:
    """What makes a cell's figures uncertain, from its words and from what is left of it once everything known is taken out."""
    doubts = list[str]()
    if re.search(r"\d\s*[GMK]Bps\b", text):
        doubts.append("“MBps” may mean bytes; are these bits?")
    if re.search(r"(?i)(?<![\d.,])\d{1,3}[.,]\d{3}\s*m(?:b|ega|\b)", text):
        doubts.append("three places after the mark: is it a decimal mark, or one of thousands?")
    if re.search(r"(?i)\b\d{3,4}i\b", text):
        doubts.append("these are interlaced pictures; does it hold for progressive ones?")
    if unexplained := re.search(NUMBER, re.sub(EXPLAINED, " ", rest)):
        doubts.append(f"nothing says what {unexplained[0]} is")
    return tuple(doubts)


def _pair(figures: Sequence[Figure]) -> tuple[int, int] | None:
    """Two single figures, the lower first, that could belong to two columns in one."""
    if (
        len(figures) != 2
        or any(figure.end or figure.low != figure.high for figure in figures)
        or figures[0].low >= figures[1].low
    ):
        return None
    return figures[0].low, figures[1].low


def range_of(figures: Sequence[Figure]) -> tuple[tuple[int, int], tuple[str, ...]]:
    """Lowest and highest bit rate of a cell's figures, by what they are said to be, and what is uncertain about it."""
    by_end: dict[str | None, list[Figure]] = {}
    for figure in figures:
        by_end.setdefault(figure.end, []).append(figure)
    lows, highs, bare = by_end.get("low", []), by_end.get("high", []), by_end.get(None, [])
    aims = by_end.get("aim") or (bare if lows or highs else [])
    if len(aims) == 1:
        aim = aims[0]
        low, high = min([figure.low for figure in lows] + [aim.low]), aim.high
        above = max((figure.high for figure in highs), default=0)
        if above > high:
            return (low, high), (f"{above / 1e6:g} Mbit/s is said to be the most; is {high / 1e6:g} what to aim at?",)
        return (low, high), ()
    whole = min(figure.low for figure in figures), max(figure.high for figure in figures)
    if lows and highs and not bare and not aims:
        return whole, ()
    if len(figures) == 1 and (lows or highs):
        bound = "the most that is taken" if highs else "the least"
        return whole, (f"{(highs or lows)[0].high / 1e6:g} Mbit/s is said to be {bound}; shall it be aimed at?",)
    if len(figures) > 1:
        return whole, ("several figures stand together, and nothing says which is which; are they a range?",)
    if whole[1] > 4 * whole[0]:
        return whole, ("the ends of this range lie far apart; is it one?",)
    return whole, ()


def in_column(cell: CellWords, column: CellWords) -> CellWords:
    """A cell whose bare number only its column explains: a size, or a frame rate."""
    usual = cell.plain is not None and cell.plain[0] in FRAME_RATES and not (column.is_size or column.unit)
    rate = (column.is_rate and not column.classes) or usual
    if cell.anything and not (rate and cell.plain):
        return cell
    if rate and cell.plain:
        numbers = [float(n) for n in re.findall(r"\d+(?:\.\d+)?", cell.text)]
        classes = tuple(
            kind for kind in (STANDARD, HIGH) if any((round(n) <= 30) == (kind is STANDARD) for n in numbers)
        )
        return replace(cell, size=None, classes=classes, too_fast=min(numbers) > 60)
    if column.is_size and cell.plain and cell.plain[0] >= 100:
        return replace(cell, size=round(cell.plain[0]))
    return cell


LONGEST_NUMBER, MOST_NUMBER = 15, 1e15
"""Digits and marks of a number that is meant as one, and what stands for every longer one: more than anything allows."""


def number_in(text: str, unit: str) -> float:
    """A number with either decimal mark and any thousands mark; three digits after a single mark are thousands below Mbit."""
    text = re.sub(r"[ \u00a0\u202f\u2009'’]", "", text)
    marks = re.findall(r"[.,]", text)
    if len(text) > LONGEST_NUMBER:
        return MOST_NUMBER
    if not marks:
        return float(text)
    last = re.split(r"[.,]", text)[-1]
    several, mixed = len(marks) > 1, len(set(marks)) > 1
    if several and not mixed and any(len(group) != 3 for group in re.split(r"[.,]", text)[1:]):
        return MOST_NUMBER  # “5.1.2” is no number
    thousands = (several and not mixed) or (not several and len(last) == 3 and unit in ("k", ""))
    if thousands:
        return float(re.sub(r"[.,]", "", text))
    whole, decimal = re.sub(r"[.,]", "", text[: len(text) - len(last) - 1]), last
    return float(f"{whole or '0'}.{decimal}")


def _scale(unit: str) -> str:
    return next((letter for letter in "gmk" if unit.lower().startswith(letter)), "")


BELIEVABLE = 12.0
"""A range whose ends lie further apart is two figures that happen to stand beside each other."""
RATE = re.compile(
    rf"(?<![\w.,])(?P<low>{NUMBER})\s*(?:{UNIT.format(n=1)})?(?P<to>{TO})(?P<high>{NUMBER})\s*{UNIT.format(n=2)}"
    rf"|(?<![\w.,])(?P<left>{NUMBER})\s*(?:{UNIT.format(n=0)})?\s*(?:/|\bor\b)\s*(?P<right>{NUMBER})\s*{UNIT.format(n=4)}"
    rf"|(?<![\w.,])(?P<one>{NUMBER})\s*\+?\s*{UNIT.format(n=3)}",
    re.IGNORECASE,
)


OF_SOMETHING_ELSE = r"\s*(?:/|per|an?|each|every)\s*(?:min(?:ute)?s?|h(?:ours?)?|files?|videos?|uploads?|frames?|days?|months?|pixels?)\b"


def figures_in(text: str) -> tuple[list[Figure], str]:
    """The bit rates of a text in bit/s, and the text without them. Bytes a second, and bits an hour, are not bit rates."""
    text = _with_units(text)
    figures = list[Figure]()
    rest, at = "", 0
    for match in RATE.finditer(text):
        unit = match["unit2"] or match["unit3"] or match["unit4"]
        after = text[match.end() :]
        if re.match(r"[GMK]B/s|[GMK]B\b", unit) or (unit.lower() in ("m", "k", "mb", "kb") and re.match(r"\w", after)):
            continue
        if unit.lower() == "k" and match["one"] in ("2", "4", "8"):
            continue
        if unit.lower() in ("bit", "bits") or re.match(
            OF_SOMETHING_ELSE, after, re.IGNORECASE
        ):  # a depth, such as 10 bit
            continue
        scale, end = _scale(unit), _said_end(text, match)
        start = match.start()
        if match["one"]:
            value = round(number_in(match["one"], scale) * MULTIPLES[scale])
            figures.append(Figure(value, value, end, start, match.end()))
        else:
            first, second, local = (
                (match["low"], match["high"], match["unit1"])
                if match["low"]
                else (match["left"], match["right"], match["unit0"])
            )
            low_scale = _scale(local) if local else scale
            low, high = number_in(first, low_scale) * MULTIPLES[low_scale], number_in(second, scale) * MULTIPLES[scale]
            low, high = round(low), round(high)
            if (
                not local and not 1 / BELIEVABLE <= low / max(high, 1e-9) <= BELIEVABLE
            ):  # “1080 – 8 Mbit/s”, “59.94 - 7500k”
                stop = match.end("low") if match["low"] else match.end("left")
                figures.append(Figure(high, high, end, stop, match.end()))
                rest, at = f"{rest}{text[at:stop]} ", match.end()
                continue
            joined = (
                match["to"]
                and match["to"].strip().lower() == "and"
                and not re.search(r"(?i)\b(?:between|from)\W*$", text[:start])
            )
            if match["left"] or joined:  # “8 / 12 Mbit/s”: two figures, not the ends of a range
                figures += [Figure(low, low, None, start, match.end()), Figure(high, high, None, start, match.end())]
            else:
                end = None if re.search(r"(?i)\bfrom\W*$", text[:start]) else end
                figures.append(Figure(min(low, high), max(low, high), end, start, match.end()))
        rest, at = f"{rest}{text[at:start]} ", match.end()
    return (figures, rest + text[at:]) if figures else ([], text)


def _with_units(text: str) -> str:
    """“minimum 8, recommended 12, maximum 20 Mbit/s” with the unit at every one of them."""
    units = re.findall(rf"(?i)\d\s*({UNIT.format(n=9)})", text)
    if not units or not re.search(rf"(?i)\b(?:{LEAST}|{MOST}|{AIMED})(?!\w)", text):
        return text
    bare = rf"(?i)(\b(?:{LEAST}|{MOST}|{AIMED})(?!\w){LINK}\s*)({NUMBER})(?=\s*(?:[,;/(]|$|and\b|or\b|to\b(?=\s*(?:{MOST}))))(?![.,]\d)"
    return re.sub(bare, lambda match: f"{match[1]}{match[2]} {units[-1][0]}", text)


def _said_end(text: str, match: re.Match[str]) -> str | None:
    """What is said of a figure right before it, or in the words behind it: the least, the most, or what is aimed at."""
    before = text[: match.start()]
    for name, words in ENDS:
        if re.search(rf"(?i)(?<!\w)(?:{words}){LINK}\s*$", before[-60:]):
            return name
    after = text[match.end() : match.end() + 40]
    for name, words in (("low", "higher|more|above|up|better"), ("high", "lower|less|below|under")):
        if re.match(rf"(?i)\s*(?:or|and)\s+(?:{words})(?!\w)", after):
            return name
    for name, words in ENDS:
        if name != "low" or not re.match(r"(?i)\s*(?:from|more than)", after):
            spoken = words.replace("|from|", "|").replace("|more than|", "|")
            if re.match(rf"(?i)\s*\(?\s*(?:is |as |or |at |\(?the )*(?:{spoken})(?!\w|\s*\d|\s*:)", after):
                return name
    return None


def _sound_rates(text: str) -> tuple[tuple[int, int] | None, str]:
    """The sound's bit rates out of a cell that has the picture's too, such as “8 Mbps, AAC 192 kbps”, and the cell without them."""
    parts = re.split(r"(?i)\s*(?:[,;+/&]\s|\s[–—-]\s(?!\d)|\bplus\b|\bwith\b|\band\b)\s*", text)
    words = [(part, bool(re.search(SOUND, part, re.IGNORECASE)), figures_in(part)[0]) for part in parts]
    of_sound = [rates for _, sound, rates in words if sound and rates]
    if len(of_sound) != 1 or not any(rates and not sound for _, sound, rates in words):
        return None, text
    return range_of(of_sound[0])[0], ", ".join(part for part, sound, rates in words if not (sound and rates))


def picture_figures(cell: str) -> list[Figure]:
    """The bit rates in a cell that are not the sound's."""
    return figures_in(_sound_rates(cell[:LONGEST_CELL])[1])[0]


def _sizes(text: str) -> tuple[list[int], bool, tuple[str, ...], str]:
    """Every short side a text names, whether only by a name that is used for several sizes, what is uncertain about them, and the text
    without words that bound a size, which would be taken for those of a bit rate."""
    sides = [
        min(int(wide), int(high))
        for wide, high in re.findall(r"\b(\d{3,4})\s*(?:px|pixels?)?\s*[xX*]\s*(\d{3,4})", text)
    ]
    sides += [int(side) for side in re.findall(r"(?i)\b(\d{3,4})\s*[pi](?=\D|\d{2,3}(?!\d)|$)", text)]
    names = every_of(SIZE_NAMES, text)[0]
    named = not sides and names in ([720], [480], [1440])
    sides += [name for name in names if name >= 2160 or (not sides and len(names) > 1)]
    doubts: tuple[str, ...] = ("it names several sizes; does it hold for each?",) if len(set(sides)) > 1 else ()
    shown = r"(?:\d{3,4}\s*[pi]|\d{3,4}\s*x\s*\d{3,4}|[248]k|(?:ultra|full)?\s*hd)"
    before = "up to|below|above|under|over|beyond|smaller than|larger than"
    after = "above|higher|up|below|lower|less|more|smaller|larger|over"
    bound = rf"(?i)\b(?:{before})\s+(?={shown}\b)|(?<=[pikd0-9])\s*(?:(?:and|or)\s+(?:{after})\b|\+(?=\s|$|:))"
    if re.search(rf"(?i)\b(?:{before})\s+{shown}\b|\b{shown}\s*(?:(?:and|or)\s+(?:{after})\b|\+)", text):
        doubts += ("it says “and above” or “up to”; this is for the one size it names.",)
        text = re.sub(bound, " ", text, count=1)
    return list(dict.fromkeys(sides)), named, doubts, text


def _size(text: str) -> tuple[int | None, int | None, str]:
    """Short side in px; a bare number that is a usual height is given apart, since only its column can say what it is."""
    if match := re.search(r"\b(\d{3,4})\s*(?:px|pixels?)?\s*[xX*]\s*(\d{3,4})\s*(?:px|pixels?)?(?:\s*p\b)?", text):
        rest = text[: match.start()] + " " + text[match.end() :]
        return min(int(match[1]), int(match[2])), None, _without_names(re.sub(r"(?i)\b\d{3,4}\s*[pi]\b", " ", rest))
    if match := re.search(r"(?i)\b(\d{3,4})\s*([pi])(?=\D|\d{2,3}(?!\d)|$)", text):
        rest = f"{text[: match.start()]} {text[match.end() :]}"
        fps = re.match(r"(?i)^\s*@?\s*(\d{2,3}(?:\.\d+)?)\s*(?:fps)?(?![\d.]|\s*[,/&–—-]\s*\d)", text[match.end() :])
        if fps and float(fps[1]) <= 300:
            rest = f"{text[: match.start()]} {fps[1]} fps {text[match.end() + fps.end() :]}"
        return int(match[1]), None, _without_names(rest)
    if match := re.search(r"(?i)\b(\d{3,4})\s*(?:px|pixels?|lines)\b(?:\s*(?:high|tall|wide))?", text):
        return int(match[1]), None, _without_names(f"{text[: match.start()]} {text[match.end() :]}")
    for pattern, side in SIZE_NAMES:
        if match := re.search(pattern, text, re.IGNORECASE):
            return side, None, f"{text[: match.start()]} {text[match.end() :]}"
    bare = text.strip(" :=-–—")
    if re.fullmatch(r"\d{3,4}", bare) and int(bare) in KNOWN_SIDES:
        return int(bare), int(bare), ""
    return None, None, text


def _without_names(text: str) -> str:
    for pattern, _ in SIZE_NAMES:
        text = re.sub(pattern, " ", text, flags=re.IGNORECASE)
    return text


FPS = r"(?:fps|(?:frames?|pictures?|images?)\s*(?:/|\ban?\b|\bper\b|\beach\b|\bevery\b)\s*s(?:ec(?:ond)?)?\b|f/s|hz\b)"
FRAME_LIST = re.compile(
    rf"(?P<at>@|\bat\b)?\s*(?P<above>above|over|more than|greater than|>\s*=?|≥|from)?\s*(?P<below>up to|under|below|at most|≤|<\s*=?)?\s*"
    rf"(?P<list>\d{{2,3}}(?:\.\d+)?p?(?:\s*(?:[,/&–—-]|\band\b|\bor\b|\bto\b|\s)\s*\d{{2,3}}(?:\.\d+)?p?)*)\s*"
    rf"(?P<plus>\+|and (?:up|above|higher)|or (?:more|higher|above))?\s*"
    rf"(?P<less>or (?:less|lower|below|fewer)|and (?:below|under|lower))?\s*(?P<unit>{FPS})?",
    re.IGNORECASE,
)


def _classes(text: str) -> tuple[tuple[FrameRateClass, ...], bool, str, bool]:
    """Classes of the frame rates named, whether one lies above 60, the text without them, and whether it is a heading."""
    rest, heading = text, bool(re.search(rf"(?i)\bframe\s*-?\s*rates?\b|\b{FPS}|\bframe rate class\b", text))
    if match := re.search(
        r"(?i)\b(standard|normal|low|regular|high(?:er)?)\s*(?:-?\s*frame\s*-?\s*rates?|\s*rates?\b|\s*fps)", text
    ):
        values = HIGH if match[1].lower().startswith("high") else STANDARD
        rest = re.sub(rf"(?i){FPS}|\bframe\s*-?\s*rates?\b", " ", rest[: match.start()] + " " + rest[match.end() :])
        return (values,), False, re.sub(r"[\d.,/()\s–-]+(?:and|or)?", " ", rest), True
    if re.fullmatch(r"(?i)\s*rate\s*", text):
        return (), False, "", True
    if re.fullmatch(r"(?i)\s*(standard|high)\s*", text):
        return (HIGH if "high" in text.lower() else STANDARD,), False, "", True
    if re.search(r"(?i)\bhfr\b", text):
        return (HIGH,), False, re.sub(r"(?i)\bhfr\b", " ", text), True
    for match in sorted(
        FRAME_LIST.finditer(text), key=lambda match: match["unit"] is None
    ):  # those with a unit are surest
        numbers = [float(n) for n in re.findall(r"\d+(?:\.\d+)?", match["list"])]
        many, p_form = len(numbers) > 1, re.fullmatch(r"\d{2,3}p", match["list"])
        believable = all(10 <= n <= 300 for n in numbers)
        bounded = any(match[name] for name in ("at", "above", "below", "plus", "less")) and numbers[0] in FRAME_RATES
        if not believable or not (
            bounded or match["unit"] or heading or p_form or (many and set(numbers) <= FRAME_RATES)
        ):
            continue
        rest = f"{text[: match.start()]} {text[match.end() :]}"
        rest = re.sub(rf"(?i){FPS}|\bframe\s*-?\s*rates?\b", " ", rest)
        return (*_classes_of(numbers, match),), min(numbers) > 60, rest, bool(heading)
    return (), False, re.sub(rf"(?i){FPS}|\bframe\s*-?\s*rates?\b(?: class)?", " ", rest) if heading else rest, heading


def _classes_of(numbers: list[float], match: re.Match[str]) -> list[FrameRateClass]:
    if match["above"] and match["above"].lower() != "from" and min(numbers) >= 30:
        return [HIGH]
    values = [
        kind
        for kind, held in (
            (STANDARD, any(round(n) <= 30 for n in numbers)),
            (HIGH, any(round(n) > 30 for n in numbers)),
        )
        if held
    ]
    if (match["below"] or match["less"]) and max(numbers) > 30:
        return [STANDARD, HIGH]
    if match["plus"] and min(numbers) >= 48:
        return [HIGH]
    return values


def _first(table: Iterable[tuple[str, Any]], text: str) -> tuple[Any, str]:
    for pattern, value in table:
        if match := re.search(pattern, text, re.IGNORECASE):
            return value, f"{text[: match.start()]} {text[match.end() :]}"
    return None, text


def _unit(text: str) -> tuple[float | None, str]:
    if re.search(r"\b[GMK]B(?:ps|/s)?(?![A-Za-z])", text):  # bytes, which no guidance is in
        return None, text
    pattern = (
        r"(?i)\b(?:([gmk])(?:ega|ilo|iga)?\s*-?bits?(?:\s*(?:/|per|p)\s*s(?:ec(?:ond)?)?\b)?|([gmk])b(?:ps|/s|it/s)\b"
        r"|(bps|bits?/s|bits? per second)\b)"
    )
    if match := re.search(pattern, text):
        letter = (match[1] or match[2] or "").lower()
        return MULTIPLES[letter], f"{text[: match.start()]} {text[match.end() :]}"
    return None, text


def _end(text: str) -> tuple[str | None, bool, str]:
    for name, words in ENDS:
        if match := re.search(rf"(?i)\b(?:{words})(?!\w)", text):
            weak = match[0].lower() in ("high", "higher", "low", "lower")
            return name, weak, f"{text[: match.start()]} {text[match.end() :]}"
    return None, False, text


def _word(pattern: str, text: str) -> tuple[bool, str]:
    values = re.sub(rf"(?i){pattern}", " ", text)
    return values != text, values


def _plain(text: str) -> tuple[float, float] | None:
    """A cell of nothing but a number or a range."""
    if match := re.fullmatch(rf"\s*(?P<low>{NUMBER})(?:{TO}(?P<high>{NUMBER}))?\s*", text, re.IGNORECASE):
        low = number_in(match["low"], "k")
        return low, number_in(match["high"], "k") if match["high"] else low
    return None
