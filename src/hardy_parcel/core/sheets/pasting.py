"""Guidance out of a pasted help page: what is certain is taken, what is not is asked, and nothing vanishes in silence.

A line is cut into cells; each cell tells sizes, frame rates, codecs, dynamic ranges, ends of a range, units or bit rates.
A line without bit rates sets the context of its columns, or of the lines below it, or states a limit; a line with them gives rows.
"""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from dataclasses import dataclass, field, replace
from typing import Literal

from ..trade.names import SoundCodec
from ..values import Model
from .cell_words import CODECS, CellWords, cell_words, every_of, figures_in, in_column, picture_figures
from .paste_lines import LONGEST_CELL, PastedLine, lines_of
from .sheet import Bitrate, FrameRateClass, GuidanceRow
from .stated_limits import StatedLimits, limits_in, merged

WATCHING = r"(?i)\b(?:viewers?|watch(?:ing|ed)?|play(?:back|ing)|stream(?:ing|ed|s)?|live|download\w*|connections?|internet|broadband)\b"
AGAINST = r"(?i)\b(?:not|never|avoid|don.?t|unless|except|instead|rather|previously|formerly|old)\b"
BITS_A_PIXEL = (0.008, 1.2)
"""Bits a pixel at 30 pictures a second that guidance for uploads lies between; what lies outside is asked."""
LONGEST_HEADING = 60
"""Characters of a line that may be a heading."""
KEY = tuple[int, FrameRateClass, str, str]


class NotUnderstood(Model):
    """A line that gave no row, or not all it says: its number from 1, its text and why."""

    number: int
    text: str
    why: str


class SoundRow(Model):
    """What is asked of the sound, in bit/s: with so many channels (None where that was not said), in a codec if one was named."""

    channels: Literal[1, 2] | None
    codec: SoundCodec | None
    low_bps: Bitrate
    high_bps: Bitrate


class AskedLine(Model):
    """What a line would give if the `question` is answered with yes; its number from 1 and its text stand beside it."""

    number: int
    text: str
    question: str
    rows: tuple[GuidanceRow, ...] = ()
    sound: tuple[SoundRow, ...] = ()
    limits: StatedLimits = StatedLimits()


class Pasted(Model):
    """What is certain, in the order it stood; what is asked before it is taken; and every line that was not, or not wholly, understood."""

    rows: tuple[GuidanceRow, ...]
    sound: tuple[SoundRow, ...] = ()
    limits: StatedLimits = StatedLimits()
    asked: tuple[AskedLine, ...] = ()
    not_understood: tuple[NotUnderstood, ...]


@dataclass(slots=True)
class _Found:
    """What one line gives, and what is uncertain about it."""

    number: int
    text: str
    rows: list[GuidanceRow] = field(default_factory=list)
    sound: list[SoundRow] = field(default_factory=list)
    limits: StatedLimits = field(default_factory=StatedLimits)
    doubts: list[str] = field(default_factory=list)


@dataclass(slots=True)
class _Reading:
    """What is known so far: by column from header lines, and for every line below a heading; `wide` counts the fullest line's cells."""

    wide: int = 0
    columns: list[CellWords] = field(default_factory=list)
    section: CellWords = field(default_factory=CellWords)
    fresh: bool = False  # the line before was a header too, so its columns are added to
    spread: bool = False  # headings over several columns were given to them evenly
    watching: bool = False  # the heading above tells of playing, not of uploads
    stale: str = ""  # a line after the heading that may be another heading, and was not understood
    before: tuple[int, CellWords] = (0, CellWords())  # line number and words of the last sentence of a paragraph
    full_hd: bool = False
    found: list[_Found] = field(default_factory=list)
    lost: list[NotUnderstood] = field(default_factory=list)


def paste(text: str) -> Pasted:
    """Rows of guidance and stated limits from a table or prose in plain text, CSV, Markdown or HTML. Empty text gives nothing."""
    lines, over = lines_of(text)
    reading = _Reading(wide=max((len(line.cells) for line in lines), default=0))
    reading.lost += [NotUnderstood(number=finding.number, text=finding.text, why=finding.why) for finding in over]
    reading.full_hd = bool(re.search(r"(?i)full\s*-?hd|\bfhd\b|1080", text[:200_000]))
    for line in lines:
        _read_line(reading, line)
    _ask_about_contradictions(reading.found)
    sure = [finding for finding in reading.found if not finding.doubts]
    asked = [
        AskedLine(
            number=finding.number,
            text=finding.text[:LONGEST_CELL],
            question=_question(finding.doubts),
            rows=tuple(finding.rows),
            sound=tuple(finding.sound),
            limits=finding.limits,
        )
        for finding in reading.found
        if finding.doubts
    ]
    return Pasted(
        rows=tuple(dict.fromkeys(row for finding in sure for row in finding.rows)),
        sound=tuple(dict.fromkeys(row for finding in sure for row in finding.sound)),
        limits=merged(finding.limits for finding in sure),
        asked=tuple(asked),
        not_understood=tuple(reading.lost),
    )


def _question(doubts: Iterable[str]) -> str:
    every = (doubt if doubt[-1] in ".?" else f"{doubt}." for doubt in dict.fromkeys(doubts))
    return " ".join(doubt[0].upper() + doubt[1:] for doubt in every)


def _read_line(reading: _Reading, line: PastedLine) -> None:
    before = CellWords()
    for n, cells in enumerate(_clauses(line.cells)):
        words = [cell_words(cell) for cell in cells]
        whole = _joined(words)
        finding = _Found(line.number, line.text)
        if n and not whole.classes and before.classes:
            finding.doubts.append("no frame rate is named beside one that has one; is it for 24 to 30 frames/s?")
        _read_part(reading, line, words, before, finding)
        classes = whole.classes if whole.size else before.classes or whole.classes
        before = replace(whole.filled_by(before), classes=classes)
    if line.sentence or before.size:
        reading.before = (line.number, before)


def _read_part(reading: _Reading, line: PastedLine, words: list[CellWords], before: CellWords, finding: _Found) -> None:
    """Rows of one line, or of one of its clauses, into the finding, which is kept where it says anything."""
    unitless = False
    if not any(cell.bit_rates for cell in words) and not _plain_rates(reading, words):
        if _of_no_unit(reading, words) is None:
            _context(reading, line, words)
            return
        unitless = True
    reading.fresh = False
    why = list[str]()
    words = [_without_sound(reading, finding, cell, index, words, why) for index, cell in enumerate(words)]
    if len(line.cells) == 1:
        limits, doubts = limits_in(line.text[:LONGEST_CELL])
        named = limits.given() if limits else {}
        if beside := {name: named[name] for name in ("max_bytes", "max_duration_s") if name in named}:
            finding.limits = StatedLimits.model_validate(beside)
            finding.doubts += doubts
    if unitless or any(cell.bit_rates for cell in words) or _plain_rates(reading, words):
        _rows_of(reading, finding, words, before, unitless, why)
    if finding.rows or finding.sound or finding.limits.given():
        _doubt_words(reading, finding, line, words)
        reading.found.append(finding)
    if why:
        reading.lost.append(NotUnderstood(number=line.number, text=line.text, why="; ".join(dict.fromkeys(why))))


def _joined(words: list[CellWords]) -> CellWords:
    whole = CellWords()
    for cell in words:
        whole = whole.filled_by(cell)
    return replace(whole, text="", sound_codec=None, channels=None)


def _doubt_words(reading: _Reading, finding: _Found, line: PastedLine, words: list[CellWords]) -> None:
    """Doubts that the words around the figures raise."""
    if finding.rows and (reading.watching or re.search(WATCHING, line.text)):
        finding.doubts.append("it may tell of watching or of live streams; is it for uploads?")
    if re.search(AGAINST, line.text) and not re.search(r"(?i)\bnot (?:to )?exceed|\bnot below", line.text):
        finding.doubts.append("it may say what not to do; does it hold?")
    if finding.rows and reading.spread:
        finding.doubts.append("headings that stand over several columns were given to them evenly; does it fit?")
    columns = [_column(reading, index, words) for index in range(len(words))]
    if any(cell.named and (cell.size != 720 or not reading.full_hd) for cell in (*words, *columns, reading.section)):
        finding.doubts.append("HD, SD and 2K are said of several sizes; is it this one?")


def _rows_of(
    reading: _Reading,
    finding: _Found,
    words: list[CellWords],
    before: CellWords,
    unitless: bool,
    why: list[str],
) -> None:
    row = CellWords()
    for index, cell in enumerate(words):
        if not cell.bit_rates:
            row = row.filled_by(in_column(cell, _column(reading, index, words)))
            finding.doubts += cell.doubts
    shared = next((cell.size for cell in words if cell.size), None)
    values: dict[KEY, list[tuple[str, int, int]]] = {}
    rate_at = _of_no_unit(reading, words) if unitless else None
    for index, cell in enumerate(words):
        column = _column(reading, index, words)
        low_high = cell.bit_rates or _plain(cell, column, reading.section)
        if low_high is None and rate_at is not None and index in rate_at and cell.plain:
            low_high = _supposed_unit(cell.plain)
            finding.doubts.append(
                f"no unit is named; is it {'Mbit/s' if low_high[1] > cell.plain[1] * 1e5 else 'kbit/s'}?"
            )
        if low_high is None:
            if cell.odd and not cell.anything:
                why.append(f"“{cell.text}”")
            continue
        inherited = replace(before, classes=()) if before.size else before
        context = cell.filled_by(replace(row, size=row.size or shared)).filled_by(column).filled_by(inherited)
        if (
            context.size is None
            and reading.section.size is None
            and reading.before[0] == finding.number
            and reading.before[1].size
        ):
            context = context.filled_by(reading.before[1])
            finding.doubts.append("the size is taken from the sentence before; is it for that?")
        alone, context = context, context.filled_by(reading.section)
        if context.size is None:
            why.append("no frame size")
            continue
        if reading.stale and _kind_of(alone) != _kind_of(context):
            finding.doubts.append(
                f"a heading above it (“{reading.stale}”) was not understood; does the one before still hold?"
            )
        others = (*cell.others, *row.others, *column.others, *_others_of(reading.section, alone))
        if context.too_fast:
            why.append("above 60 frames/s the destination's own cap counts")
            continue
        if context.foreign:
            why.append("a codec that guidance has no rows for")
            continue
        if cell.pair and len(column.classes) == 2 and not cell.classes:
            for rate_class, bps in zip(column.classes, cell.pair, strict=True):
                values.setdefault(_key(context, context.size, rate_class), []).append(("", bps, bps))
            continue
        finding.doubts += (*cell.doubts, *column.doubts, *reading.section.doubts)
        for size, codec, dynamic_range in _every_kind(context, others, finding):
            for rate_class in context.classes or (FrameRateClass.STANDARD,):
                key = (size, rate_class, dynamic_range, codec)
                values.setdefault(key, []).append((column.end or "", *low_high))
    for of, figures in values.items():
        _row(finding, of, figures, why)


def _kind_of(words: CellWords) -> tuple[object, ...]:
    return words.size, words.classes, words.codec, words.dynamic_range, words.foreign


def _others_of(section: CellWords, alone: CellWords) -> tuple[int | str, ...]:
    """What a heading names besides its first, as far as the line itself does not say which of it holds."""

    def is_open(value: int | str) -> bool:
        if isinstance(value, int):
            return alone.size is None
        return (alone.dynamic_range if value in ("sdr", "hdr") else alone.codec) is None

    return tuple(value for value in section.others if is_open(value))


def _key(context: CellWords, size: int, rate_class: FrameRateClass) -> KEY:
    return size, rate_class, context.dynamic_range or "sdr", context.codec or "h264"


def _every_kind(context: CellWords, others: tuple[int | str, ...], finding: _Found) -> list[tuple[int, str, str]]:
    """Sizes, codecs and ranges that a figure is for: usually one, each where a cell names several."""
    sizes = [context.size or 0, *(value for value in others if isinstance(value, int))]
    codecs = [context.codec or "h264", *(value for value in others if value in ("h264", "hevc", "vp9", "av1"))]
    ranges = [context.dynamic_range or "sdr", *(value for value in others if value in ("sdr", "hdr"))]
    if len(set(codecs)) > 1 or len(set(ranges)) > 1:
        finding.doubts.append("it names several codecs or ranges; does it hold for each?")
    return list(dict.fromkeys((size, str(codec), str(kind)) for size in sizes for codec in codecs for kind in ranges))


def _without_sound(
    reading: _Reading, finding: _Found, cell: CellWords, index: int, parsed: list[CellWords], why: list[str]
) -> CellWords:
    """A cell without what it says of the sound, which is kept; a cell that names a size or a picture codec is the picture's."""
    column = _column(reading, index, parsed)
    sound_line = any(other.sound for other in parsed) and not any(
        other.size or other.classes or other.codec for other in parsed
    )
    if cell.sound_rates:
        _keep_sound(finding, cell.filled_by(column), cell.sound_rates, why)
        return replace(cell, sound_rates=None, sound=False)
    of_sound = sound_line or ((cell.sound or column.sound) and not (cell.size or cell.codec))
    if of_sound and (rates := cell.bit_rates or _plain(cell, column, reading.section)):
        words = cell.filled_by(column)
        for other in parsed if sound_line else ():
            words = words.filled_by(other)
        if re.search(r"(?i)\b(?:per|a|each)\s+channel", finding.text):
            finding.doubts.append("this is for each channel; twice as much for stereo?")
        finding.doubts += cell.doubts
        _keep_sound(finding, words, rates, why)
        return replace(cell, bit_rates=None, plain=None, odd=False)
    if cell.sound and cell.bit_rates and _rates_are_low(cell.bit_rates):
        finding.doubts.append("is this figure the picture's, not the sound's?")
    return cell


def _rates_are_low(rates: tuple[int, int]) -> bool:
    """Whether bit rates in bit/s could be those of sound."""
    return rates[1] < 700_000


def _keep_sound(finding: _Found, words: CellWords, rates: tuple[int, int], why: list[str]) -> None:
    if words.channels not in (None, 1, 2):
        why.append("sound of more than two channels, which is mixed down here")
        return
    try:
        row = SoundRow(channels=words.channels, codec=words.sound_codec, low_bps=rates[0], high_bps=rates[1])
    except ValueError:
        why.append("a figure that no guidance has")
        return
    if not 24_000 <= row.high_bps <= 10_000_000:
        finding.doubts.append("it is unusual for sound; is it so?")
    finding.sound.append(row)


def _row(finding: _Found, key: KEY, values: list[tuple[str, int, int]], why: list[str]) -> None:
    ends = {end for end, _, _ in values}
    lows = [low for end, low, _ in values if end == "low"]
    aims = [value for value in values if value[0] in ("aim", "")]
    highs = [high for end, _, high in values if end == "high"]
    if len({value[1:] for value in aims}) > 1:
        why.append(f"two figures for {key[0]} at {key[1]} rates, and nothing says which is which")
        return
    if aims:
        low, high = min([*lows, aims[0][1]]), aims[0][2]
        if highs and max(highs) > high:
            finding.doubts.append(
                f"{max(highs) / 1e6:g} Mbit/s is said to be the most; is {high / 1e6:g} what to aim at?"
            )
    else:
        low, high = min(lows or highs), max(highs or lows)
        if len(ends) == 1:
            bound = "the most that is taken" if highs else "the least"
            finding.doubts.append(f"{high / 1e6:g} Mbit/s is said to be {bound}; shall it be aimed at?")
    try:
        row = GuidanceRow(
            short_side_px=key[0],
            frame_rate_class=key[1],
            dynamic_range=key[2],
            codec=key[3],
            low_bps=min(low, high),
            high_bps=max(low, high),
        )
    except ValueError:
        why.append("a figure that no guidance has")
        return
    pixels = key[0] * key[0] * 16 / 9 * (30 if key[1] is FrameRateClass.STANDARD else 60)
    if not BITS_A_PIXEL[0] * pixels <= row.high_bps <= BITS_A_PIXEL[1] * pixels:
        much = "little" if row.high_bps < BITS_A_PIXEL[0] * pixels else "much"
        finding.doubts.append(f"{row.high_bps / 1e6:g} Mbit/s is unusually {much} for {key[0]}; is it so?")
    finding.rows.append(row)


def _ask_about_contradictions(findings: list[_Found]) -> None:
    """Where lines give one kind of upload different figures, or the larger frame less, none of them is taken unasked."""
    by_key: dict[KEY, list[tuple[_Found, GuidanceRow]]] = {}
    sound: dict[tuple[object, ...], list[tuple[_Found, SoundRow]]] = {}
    limits: dict[str, list[tuple[_Found, object]]] = {}
    for finding in findings:
        for row in finding.rows:
            by_key.setdefault((row.short_side_px, row.frame_rate_class, row.dynamic_range, row.codec), []).append(
                (finding, row)
            )
        for heard in finding.sound:
            sound.setdefault((heard.channels, heard.codec), []).append((finding, heard))
        for name, value in finding.limits.given().items():
            limits.setdefault(name, []).append((finding, value))
    every: list[tuple[object, Sequence[tuple[_Found, object]]]] = [*by_key.items(), *sound.items(), *limits.items()]
    for key, rows in every:
        if len({row for _, row in rows}) > 1:
            numbers = sorted({finding.number for finding, _ in rows})
            shapes = " Guidance here goes by the short side, whatever the shape." if key in by_key else ""
            where = f"lines {', '.join(map(str, numbers[:6]))} give" if len(numbers) > 1 else "this line gives"
            for finding, _ in rows:
                finding.doubts.append(f"{where} different figures for the same; which one holds?{shapes}")
    _ask_where_order_breaks(by_key)


def _ask_where_order_breaks(by_key: dict[KEY, list[tuple[_Found, GuidanceRow]]]) -> None:
    """A larger frame or a higher frame rate never needs less than a smaller one of the same codec and range."""
    highest = {key: max(row.high_bps for _, row in pairs) for key, pairs in by_key.items()}
    for (side, rate_class, *kind), pairs in by_key.items():
        for (other_side, other_class, *other_kind), other_bps in highest.items():
            larger = side > other_side and rate_class == other_class
            faster = side == other_side and rate_class is FrameRateClass.HIGH and other_class is FrameRateClass.STANDARD
            if kind != other_kind or not (larger or faster):
                continue
            for finding, row in pairs:
                if row.high_bps < other_bps:
                    finding.doubts.append(f"it is less than for {other_side} at {other_class} rates; is it so?")


def _context(reading: _Reading, line: PastedLine, words: list[CellWords]) -> None:
    """A line without bit rates: a stated limit, a header over columns, or a heading over the lines below it."""
    several = [cell for cell in words if cell.text]
    if len(several) <= 2 and not reading.fresh and _states_limit(reading, line):
        return
    sized = [cell for cell in several if cell.size]
    failed = len(sized) == 1 and not any(cell.heads for cell in several if cell is not sized[0])
    if len(several) > 1 and any(cell.heads or cell.foreign for cell in several) and not failed:
        _header(reading, line, words)
        return
    watching = bool(re.search(WATCHING, line.text))
    if len(several) == 1:
        reading.watching = watching
    if (
        len(several) == 1
        and several[0].heads
        and not several[0].numbers
        and (not several[0].odd or watching)
        and line.sentence == 0
    ):
        reading.section, reading.stale = several[0].without_text().over(reading.section), ""
        return
    if len(several) == 1 and line.sentence == 0 and not several[0].numbers and len(line.text) <= LONGEST_HEADING:
        reading.stale = line.text
    reading.lost.append(NotUnderstood(number=line.number, text=line.text, why="no bit rate in it"))


def _states_limit(reading: _Reading, line: PastedLine) -> bool:
    limits, doubts = limits_in(": ".join(cell[:LONGEST_CELL] for cell in line.cells if cell))
    if limits is None:
        return False
    reading.found.append(_Found(line.number, line.text, limits=limits, doubts=list(doubts)))
    return True


def _header(reading: _Reading, line: PastedLine, words: list[CellWords]) -> None:
    if not reading.fresh:
        reading.columns, reading.spread = [], False
    sides = any(cell.is_size or cell.size for cell in words[:1])
    if len(words) < reading.wide and not any(cell.is_size or cell.size for cell in words):
        if len(words) < reading.wide - 1 or not all(cell.heads for cell in words):
            reading.lost.append(
                NotUnderstood(number=line.number, text=line.text, why="it has fewer cells than the table has columns")
            )
            return
        words = [CellWords(), *words]  # a heading of the figures alone, with nothing over the sizes
    elif sides and len(words) < reading.wide and len(words) > 1 and (reading.wide - 1) % (len(words) - 1) == 0:
        times = (reading.wide - 1) // (len(words) - 1)
        words = [words[0], *(cell for cell in words[1:] for _ in range(times))]
        reading.spread = True
    elif any(not cell.text for cell in words[2:]) and words[1].heads:
        filled = [words[0]]
        for cell in words[1:]:
            filled.append(cell if cell.text else filled[-1])
        words, reading.spread = filled, True
    width = max(len(reading.columns), len(words))
    columns = [*reading.columns, *[CellWords()] * (width - len(reading.columns))]
    for index, cell in enumerate(words):
        columns[index] = cell.without_text().filled_by(columns[index])
    reading.columns, reading.fresh = columns, True


def _clauses(cells: list[str]) -> list[list[str]]:
    """A line whose one cell has figures for several things, as a line for each of them."""
    several = [n for n, cell in enumerate(cells) if len(picture_figures(cell)) > 1]
    if len(several) != 1:
        return [cells]
    at = several[0]
    return [[*cells[:at], piece, *cells[at + 1 :]] for piece in _cut_clauses(cells[at][:LONGEST_CELL])]


def _cut_clauses(cell: str) -> list[str]:
    """“1080p: 8 Mbit/s, 720p: 5” at what stands between, if every piece says itself what its figure is for; else the cell whole."""
    figures, _ = figures_in(cell)
    if any(figure.end for figure in figures) or any(
        figure.start < other.stop for figure, other in zip(figures[1:], figures, strict=False)
    ):
        return [cell]
    trailing = _tells(cell[figures[-1].stop :])
    cuts = [0]
    for figure, other in zip(figures, figures[1:], strict=False):
        between = cell[figure.stop : other.start]
        marks = list(re.finditer(r"[,;(\[/]|\)\s*,?|(?<!\w)(?:and|while|but|whereas|plus)(?!\w)|[–—-]\s", between))
        if not marks:
            return [cell]
        mark = marks[-1] if trailing else marks[0]
        cuts.append(figure.stop + mark.end())
    pieces = [cell[start:stop].strip(" ,;([") for start, stop in zip(cuts, [*cuts[1:], len(cell)], strict=True)]
    return pieces if all(len(figures_in(piece)[0]) == 1 and _tells(piece) for piece in pieces) else [cell]


def _tells(text: str) -> bool:
    words = cell_words(text)
    return bool(words.size or words.classes or words.dynamic_range or words.sound or every_of(CODECS, text)[0])


def _column(reading: _Reading, index: int, words: list[CellWords]) -> CellWords:
    if index >= len(reading.columns) or len(words) < 2:
        return CellWords()
    column = reading.columns[index]
    opposite = any(other.end and other.end != column.end for other in reading.columns)
    return replace(column, end=None) if column.weak_end and column.classes and not opposite else column


def _plain_rates(reading: _Reading, words: list[CellWords]) -> bool:
    """Whether a line of bare numbers gives rates, since its columns or its heading name the unit."""
    return any(
        _plain(cell, _column(reading, index, words), reading.section) is not None for index, cell in enumerate(words)
    )


def _plain(cell: CellWords, column: CellWords, section: CellWords) -> tuple[int, int] | None:
    """A bare number or range as bit/s, by the unit over it."""
    unit = column.unit or section.unit
    if not cell.plain or unit is None or column.is_size or (column.is_rate and not column.classes):
        return None
    low, high = cell.plain
    return round(low * unit), round(high * unit)


def _of_no_unit(reading: _Reading, words: list[CellWords]) -> set[int] | None:
    """Cells with bare numbers that could be bit rates in a line that names a size, though no unit is said anywhere; None without any."""
    sized = [n for n, cell in enumerate(words) if cell.size and (not cell.plain or n == 0)]
    indexes = set[int]()
    for n, cell in enumerate(words):
        column = _column(reading, n, words)
        if not cell.plain or cell.sound or cell.odd or column.is_size or (column.is_rate and not column.classes):
            continue
        size_itself = n in sized and cell.plain == (float(cell.size or 0),) * 2
        if not size_itself and (column.classes or cell.plain[0] not in (24, 25, 30, 48, 50, 60)):
            indexes.add(n)
    return indexes if sized and indexes else None


def _supposed_unit(plain: tuple[float, float]) -> tuple[int, int]:
    unit = 1e6 if plain[1] < 400 else 1e3
    return round(plain[0] * unit), round(plain[1] * unit)
