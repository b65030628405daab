"""Guidance out of a pasted table: whatever spelling a help page has, rows come out, and nothing vanishes in silence.

A line is cut into cells; each cell tells sizes, frame rates, codecs, dynamic ranges, ends of a range, units or bit rates.
A line without bit rates sets the context of its columns, or of the lines below it; a line with them gives rows.
"""

from __future__ import annotations

import csv
import re
from collections.abc import Callable
from dataclasses import dataclass, field, replace
from html.parser import HTMLParser
from typing import Literal

from ..trade.names import SoundCodec
from ..values import Model
from .cell_words import LONGEST_CELL, CellWords, cell_words, in_column
from .sheet import Bitrate, FrameRateClass, GuidanceRow

LONGEST = 200_000
"""Characters of a paste that are looked at."""


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


class Pasted(Model):
    """Rows in the order they stood, those of the sound, and every line that was not, or not wholly, understood."""

    rows: tuple[GuidanceRow, ...]
    sound: tuple[SoundRow, ...] = ()
    not_understood: tuple[NotUnderstood, ...]


@dataclass(slots=True)
class _Reading:
    """What is known so far: by column from header lines, and for every line below a heading; `wide` counts the fullest line's cells."""

    wide: int = 0
    columns: list[CellWords] = field(default_factory=list)
    section: CellWords = field(default_factory=CellWords)
    fresh: bool = False  # the line before was a header too, so its columns are added to
    rows: dict[tuple[object, ...], GuidanceRow] = field(default_factory=dict)
    sound: dict[tuple[object, ...], SoundRow] = field(default_factory=dict)
    lost: list[NotUnderstood] = field(default_factory=list)


def paste(text: str) -> Pasted:
    """Rows of guidance from a table in plain text, CSV, Markdown or HTML. Empty text gives no rows and no complaint."""
    lines = _lines(text[:LONGEST])
    reading = _Reading(wide=max((len(cells) for _, _, cells in lines), default=0))
    for number, line, cells in lines:
        _read_line(reading, number, line, cells)
    return Pasted(rows=tuple(reading.rows.values()), sound=tuple(reading.sound.values()), not_understood=tuple(reading.lost))


def _read_line(reading: _Reading, number: int, line: str, cells: list[str]) -> None:
    if any(len(cell) > LONGEST_CELL for cell in cells):
        too_long = f"only the first {LONGEST_CELL} characters of a cell are read"
        reading.lost.append(NotUnderstood(number=number, text=line[:LONGEST_CELL], why=too_long))
    told = [cell_words(cell) for cell in cells]
    rates = [one for one in told if one.bit_rates]
    if not rates and not _plain_rates(reading, told):
        _context(reading, number, line, told)
        return
    reading.fresh = False
    why: list[str] = []
    told = [_without_sound(reading, one, index, told, why) for index, one in enumerate(told)]
    if not any(one.bit_rates for one in told) and not _plain_rates(reading, told):
        if why:
            reading.lost.append(NotUnderstood(number=number, text=line, why="; ".join(dict.fromkeys(why))))
        return
    row = CellWords()
    for index, one in enumerate(told):
        if not one.bit_rates:
            row = row.filled_by(in_column(one, _column(reading, index, told)))
    shared = next((one.size for one in told if one.size), None)
    found: dict[tuple[object, ...], list[tuple[str, int, int]]] = {}
    for index, one in enumerate(told):
        column = _column(reading, index, told)
        low_high = one.bit_rates or _plain(one, column, reading.section)
        if low_high is None:
            if one.odd and not one.anything:
                why.append(f"“{one.text}”")
            continue
        context = one.filled_by(replace(row, size=row.size or shared)).filled_by(column).filled_by(reading.section)
        if context.size is None:
            why.append("no frame size")
            continue
        if context.too_fast:
            why.append("above 60 frames/s the destination's own cap counts")
            continue
        for rate_class in context.classes or (FrameRateClass.STANDARD,):
            key = (context.size, rate_class, context.dynamic_range or "sdr", context.codec or "h264")
            found.setdefault(key, []).append((one.end or column.end or "", *low_high))
    for of, values in found.items():
        _keep(reading, of, values, why)
    if why:
        reading.lost.append(NotUnderstood(number=number, text=line, why="; ".join(dict.fromkeys(why))))


def _without_sound(reading: _Reading, one: CellWords, index: int, told: list[CellWords], why: list[str]) -> CellWords:
    """A cell without what it says of the sound, which is kept; a cell that names a size or a picture codec is the picture's."""
    column = _column(reading, index, told)
    sound_line = any(other.sound for other in told) and not any(other.size or other.classes or other.codec for other in told)
    if one.sound_rates:
        _keep_sound(reading, one.filled_by(column), one.sound_rates, why)
        return replace(one, sound_rates=None)
    of_sound = sound_line or ((one.sound or column.sound) and not (one.size or one.codec))
    if of_sound and (rates := one.bit_rates or _plain(one, column, reading.section)):
        words = one.filled_by(column)
        for other in told if sound_line else ():
            words = words.filled_by(other)
        _keep_sound(reading, words, rates, why)
        return replace(one, bit_rates=None, plain=None, odd=False)
    return one


def _keep_sound(reading: _Reading, words: CellWords, rates: tuple[int, int], why: list[str]) -> None:
    if words.channels not in (None, 1, 2):
        why.append("sound of more than two channels, which is mixed down here")
        return
    try:
        row = SoundRow(channels=words.channels, codec=words.sound_codec, low_bps=rates[0], high_bps=rates[1])
    except ValueError:
        why.append("a figure that no guidance has")
        return
    key = (row.channels, row.codec)
    if reading.sound.setdefault(key, row) != row:
        why.append("sound with other figures was there already")


def _keep(reading: _Reading, key: tuple[object, ...], values: list[tuple[str, int, int]], why: list[str]) -> None:
    lows = [low for end, low, _ in values if end != "high"] or [low for _, low, _ in values]
    highs = [high for end, _, high in values if end != "low"] or [high for _, _, high in values]
    low, high = min(lows), max(highs)
    if len(values) > 1 and len({end for end, _, _ in values}) < 2 and len({value[1:] for value in values}) > 1:
        why.append(f"two figures for {key[0]} at {key[1]} rates, and nothing says which is which")
        return
    try:
        row = GuidanceRow(
            short_side_px=key[0], frame_rate_class=key[1], dynamic_range=key[2], codec=key[3], low_bps=min(low, high),
            high_bps=max(low, high),
        )
    except ValueError:
        why.append("a figure that no guidance has")
        return
    known = reading.rows.get(key)
    if known is not None and known != row:
        why.append(f"{key[0]} at {key[1]} rates was there already with other figures")
        return
    reading.rows[key] = row


def _context(reading: _Reading, number: int, line: str, told: list[CellWords]) -> None:
    """A line without bit rates: a header over columns, or a heading over the lines below it."""
    several = [one for one in told if one.text]
    sized = [one for one in several if one.size]
    failed = len(sized) == 1 and not any(one.heads for one in several if one is not sized[0])
    if len(several) > 1 and any(one.heads for one in several) and not failed:
        if len(told) < reading.wide and not any(one.is_size or one.size for one in told):
            if len(told) < reading.wide - 1 or not all(one.heads for one in told):
                reading.lost.append(NotUnderstood(number=number, text=line, why="it has fewer cells than the table has columns"))
                return
            told = [CellWords(), *told]  # a heading of the figures alone, with nothing over the sizes
        if not reading.fresh:
            reading.columns = []
        width = max(len(reading.columns), len(told))
        columns = [*reading.columns, *[CellWords()] * (width - len(reading.columns))]
        for index, one in enumerate(told):
            columns[index] = one.without_text().filled_by(columns[index])
        reading.columns, reading.fresh = columns, True
        return
    if len(several) == 1 and several[0].heads and not several[0].odd and not several[0].numbers:
        reading.section = several[0].without_text().over(reading.section)
        return
    reading.lost.append(NotUnderstood(number=number, text=line, why="no bit rate in it"))


def _column(reading: _Reading, index: int, told: list[CellWords]) -> CellWords:
    return reading.columns[index] if index < len(reading.columns) and len(told) > 1 else CellWords()


def _plain_rates(reading: _Reading, told: list[CellWords]) -> bool:
    """Whether a line of bare numbers gives rates, since its columns or its heading name the unit."""
    return any(
        _plain(one, reading.columns[i] if i < len(reading.columns) else CellWords(), reading.section) is not None
        for i, one in enumerate(told)
    )


def _plain(one: CellWords, column: CellWords, section: CellWords) -> tuple[int, int] | None:
    """A bare number or range as bit/s, by the unit over it."""
    unit = column.unit or section.unit
    if not one.plain or unit is None or column.is_size or column.is_rate:
        return None
    low, high = one.plain
    return round(low * unit), round(high * unit)


def _lines(text: str) -> list[tuple[int, str, list[str]]]:
    """Lines that say something, with their number and cells."""
    if re.search(r"<\s*(table|tr|td|th)\b", text, re.IGNORECASE):
        return _html_lines(text)
    lines = list(enumerate(text.replace("\r\n", "\n").replace("\r", "\n").split("\n"), 1))
    kept = [(number, line.rstrip()) for number, line in lines if re.search(r"[^\s|:+=_\-–—]", line)]
    cut = _cutter([line for _, line in kept])
    return [(number, line.strip(), cut(line)) for number, line in kept]


def _cutter(lines: list[str]) -> Callable[[str], list[str]]:
    """How lines are cut into cells: by the mark that most of them share, else by wide gaps, else not at all."""
    def by(mark: str) -> Callable[[str], list[str]]:
        framed = r"^\s*\||\|\s*$" if mark == "|" else r"^ +"
        return lambda line: [cell.strip() for cell in re.sub(framed, "", line).split(mark)]

    for mark in ("\t", "|", ";"):
        if sum(mark in line for line in lines) * 2 > len(lines):
            return by(mark)
    decimal = all(re.fullmatch(r"[^,]*\d,\d{1,2}\s*[kKmMgG][^,]*", line) for line in lines)  # 6,5 Mbit/s
    counts = [len(_comma_cells(line)) for line in lines]
    if lines and not decimal and min(counts) > 1 and len(set(counts)) == 1:
        return _comma_cells
    if sum(bool(re.search(r"\S\s{2,}\S", line)) for line in lines) * 2 > len(lines):
        return _gap_cutter(lines)
    return lambda line: [line.strip()]


def _gap_cutter(lines: list[str]) -> Callable[[str], list[str]]:
    """Cells between wide gaps. A line with fewer cells than the fullest stands under it by its places, as the eye reads it: a
    heading broken over two lines has nothing over the first column the second time."""
    def pieces(line: str) -> list[re.Match[str]]:
        return list(re.finditer(r"\S+(?:\s(?!\s)\S+|\s+(?:to|-|–|—)\s+\S+)*", line.expandtabs(8)))

    full = max((pieces(line) for line in lines), key=len, default=[])

    def cut(line: str) -> list[str]:
        found = pieces(line)
        if len(found) == len(full) or not line[:1].isspace():
            return [piece[0] for piece in found]
        cells, taken = [""] * len(full), -1
        for piece in found:
            middle = (piece.start() + piece.end()) / 2
            place = min(range(len(full)), key=lambda i: abs((full[i].start() + full[i].end()) / 2 - middle))
            if place <= taken:  # two in one place: by the eye there is nothing to go by
                return [piece[0] for piece in found]
            cells[place], taken = piece[0], place
        return cells

    return cut


def _comma_cells(line: str) -> list[str]:
    """Cells between commas, but for those that stand in numbers such as 7,500 kbit/s."""
    guarded = re.sub(r"(?<=\d),(?=\d{3}\s*(?:[kKmM]|bit|bps))", "\x00", line)
    return [cell.strip().replace("\x00", ",") for cell in next(csv.reader([guarded], skipinitialspace=True), [line])]


MOST_COLUMNS = 60
"""No help page has a wider table; what lies beyond is left out."""


class _Tables(HTMLParser):
    """Cells of HTML tables, spans repeated; text outside of tables as lines of one cell."""

    def __init__(self) -> None:
        super().__init__(convert_charrefs=True)
        self.lines: list[list[str]] = []
        self._row: list[str] | None = None
        self._cell: list[str] | None = None
        self._span = (1, 1)
        self._hanging: dict[int, tuple[int, str]] = {}
        self._loose = ""

    def handle_starttag(self, tag: str, attrs: list[tuple[str, str | None]]) -> None:
        if tag in ("tr", "table"):
            self._flush()
        if tag == "tr":
            self._row = []
        elif tag in ("td", "th") and self._row is not None:
            self._close_cell()
            self._hang()
            told = dict(attrs)
            self._span = (_span(told.get("colspan")), _span(told.get("rowspan")))
            self._cell = []
        elif tag == "br":
            self.handle_data(" ")

    def handle_endtag(self, tag: str) -> None:
        if tag in ("td", "th"):
            self._close_cell()
        elif tag in ("tr", "table"):
            self._flush()
        elif tag in ("p", "h1", "h2", "h3", "h4", "div", "caption") and self._row is None:
            self._flush_loose()

    def handle_data(self, data: str) -> None:
        if self._cell is not None:
            self._cell.append(data)
        elif self._row is None:
            self._loose += data

    def _close_cell(self) -> None:
        if self._cell is None or self._row is None:
            return
        text = " ".join("".join(self._cell).split())
        across, down = self._span
        for _ in range(min(across, MOST_COLUMNS - len(self._row))):
            if down > 1:
                self._hanging[len(self._row)] = (down, text)
            self._row.append(text)
        self._cell = None

    def _hang(self) -> None:
        """Cells that reach down from the lines above."""
        while self._row is not None and len(self._row) < MOST_COLUMNS and self._hanging.get(len(self._row), (0, ""))[0] > 0:
            left, text = self._hanging[len(self._row)]
            self._hanging[len(self._row)] = (left - 1, text)
            self._row.append(text)

    def _flush_loose(self) -> None:
        text = " ".join(self._loose.split())
        if text:
            self.lines.append([text])
        self._loose = ""

    def _flush(self) -> None:
        self._flush_loose()
        self._close_cell()
        if self._row:
            self._hang()
            self.lines.append(self._row)
            self._hanging = {i: (left - 1, text) if i < len(self._row) and text == self._row[i] and left > 0 else (left, text)
                             for i, (left, text) in self._hanging.items()}
        self._row = None

    def close(self) -> None:
        super().close()
        self._flush()


def _span(value: str | None) -> int:
    return min(20, int(value)) if value and value.isdigit() and int(value) > 0 else 1


def _html_lines(text: str) -> list[tuple[int, str, list[str]]]:
    tables = _Tables()
    tables.feed(text)
    tables.close()
    return [(number, " | ".join(cells), cells) for number, cells in enumerate(tables.lines, 1) if any(cells)]


