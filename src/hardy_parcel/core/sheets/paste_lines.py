"""A pasted text as lines of cells: plain text, CSV, Markdown or HTML; a paragraph as its sentences."""

from __future__ import annotations

import csv
import re
from collections.abc import Callable
from dataclasses import dataclass

from lxml import etree

LONGEST = 200_000
"""Characters of a paste that are read."""
MOST_LINES = 600
MOST_COLUMNS = 60
"""No help page has a wider table; what lies beyond is left out, and said."""
LONGEST_CELL = 400
LONGEST_LINE = MOST_COLUMNS * LONGEST_CELL
ABBREVIATED = re.compile(r"(?i)\b(?:min|max|approx|ca|e\.g|i\.e|vs|incl|resp|rec|h)\.$")


@dataclass(frozen=True, slots=True)
class PastedLine:
    """A line that says something: its number from 1, its text and its cells; `sentence` counts those of a paragraph from 0."""

    number: int
    text: str
    cells: list[str]
    sentence: int = 0


@dataclass(frozen=True, slots=True)
class TooMuch:
    """A line of which not all is read, and why."""

    number: int
    text: str
    why: str


def lines_of(text: str) -> tuple[list[PastedLine], list[TooMuch]]:
    """The lines of a paste that say something, and what lies beyond the limits of what is read."""
    over = list[TooMuch]()
    if len(text) > LONGEST:
        over.append(TooMuch(text.count("\n", 0, LONGEST) + 1, "…", f"only the first {LONGEST:,} characters are read"))
    text = text[:LONGEST].encode("utf-8", "replace").decode()
    html = re.search(r"<\s*(table|tr|td|th)\b", text, re.IGNORECASE)
    lines = _html_lines(text) if html else _text_lines(text, over)
    if len(lines) > MOST_LINES:
        over.append(TooMuch(lines[MOST_LINES].number, "…", f"only the first {MOST_LINES} lines are read"))
    read_lines = list[PastedLine]()
    for line in lines[:MOST_LINES]:
        if len(line.cells) > MOST_COLUMNS:
            over.append(
                TooMuch(
                    line.number, line.text[:LONGEST_CELL], f"only the first {MOST_COLUMNS} cells of a line are read"
                )
            )
        if any(len(cell) > LONGEST_CELL for cell in line.cells):
            too_long = f"only the first {LONGEST_CELL} characters of a cell are read"
            over.append(TooMuch(line.number, line.text[:LONGEST_CELL], too_long))
        read_lines += _sentences(PastedLine(line.number, line.text, line.cells[:MOST_COLUMNS]))
    return read_lines, over


def _sentences(line: PastedLine) -> list[PastedLine]:
    """A paragraph cut into its sentences, so that a figure stands beside what it is for."""
    if len(line.cells) != 1:
        return [line]
    pieces = list[str]()
    for piece in re.split(r"(?<=[.!?;•])\s+(?=[\w“\"(])", line.cells[0][: 4 * LONGEST_CELL]):
        if pieces and ABBREVIATED.search(pieces[-1]):
            pieces[-1] += f" {piece}"
        else:
            pieces.append(piece)
    if len(pieces) == 1:
        return [line]
    return [PastedLine(line.number, piece, [piece], n) for n, piece in enumerate(pieces)]


def _text_lines(text: str, over: list[TooMuch]) -> list[PastedLine]:
    every = enumerate(text.replace("\r\n", "\n").replace("\r", "\n").split("\n"), 1)
    read_lines = [(number, line.rstrip()) for number, line in every if re.search(r"[^\s|:+=_\-–—]", line)][
        : MOST_LINES + 1
    ]
    for number, line in read_lines:
        if len(line) > LONGEST_LINE:
            over.append(
                TooMuch(number, line[:LONGEST_CELL], f"only the first {LONGEST_LINE:,} characters of a line are read")
            )
    read_lines = [(number, line[:LONGEST_LINE]) for number, line in read_lines]
    cut = _cutter([line for _, line in read_lines])
    return [PastedLine(number, line.strip(), cut(line)) for number, line in read_lines]


def _cutter(lines: list[str]) -> Callable[[str], list[str]]:
    """How lines are cut into cells: by the mark that most of them share, else by wide gaps, else not at all."""

    def by(mark: str) -> Callable[[str], list[str]]:
        framed = r"^\s*\||\|\s*$" if mark == "|" else r"^ +"
        return lambda line: [cell.strip() for cell in re.sub(framed, "", line).split(mark)]

    for mark in ("\t", "|", ";"):
        has = sum(mark in line for line in lines)
        if has * 2 > len(lines) or (has > 1 and mark != ";"):  # text around a table has none
            return by(mark)
    decimal = all(re.fullmatch(r"[^,]*\d,\d{1,2}\s*[kKmMgG][^,]*", line) for line in lines)  # 6,5 Mbit/s
    counts = [len(_comma_cells(line)) for line in lines]
    prose = sum(line.count(", ") for line in lines) * 2 > sum(line.count(",") for line in lines)
    if len(lines) > 1 and not decimal and not prose and min(counts) > 1 and len(set(counts)) == 1:
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
        result = pieces(line)
        if len(result) == len(full) or not line[:1].isspace():
            return [piece[0] for piece in result]
        cells, taken = [""] * len(full), -1
        for piece in result:
            middle = (piece.start() + piece.end()) / 2
            placement = min(range(len(full)), key=lambda i: abs((full[i].start() + full[i].end()) / 2 - middle))
            if placement <= taken:  # two in one place: by the eye there is nothing to go by
                return [piece[0] for piece in result]
            cells[placement], taken = piece[0], placement
        return cells

    return cut


def _comma_cells(line: str) -> list[str]:
    """Cells between commas, but for those that stand in numbers such as 7,500 kbit/s."""
    guarded = re.sub(r"(?<=\d),(?=\d{3}\s*(?:[kKmM]|bit|bps))", "\x00", line)
    try:
        cells = next(csv.reader([guarded], skipinitialspace=True), [line])
    except csv.Error:
        return [line]
    return [cell.strip().replace("\x00", ",") for cell in cells]


class _Tables:
    """What lxml's parser is told to call: cells of HTML tables, spans repeated; text outside of tables as lines of one cell."""

    def __init__(self) -> None:
        self.lines: list[list[str]] = []
        self._row: list[str] | None = None
        self._cell: list[str] | None = None
        self._span = (1, 1)
        self._hanging: dict[int, tuple[int, str]] = {}
        self._loose: list[str] = []
        self._silent = 0

    def start(self, tag: str, attributes: dict[str, str]) -> None:
        if tag in ("script", "style"):
            self._silent += 1
        elif tag in ("tr", "table"):
            self._flush()
            self._row = [] if tag == "tr" else None
            if tag == "table":
                self._hanging = {}
        elif tag in ("td", "th") and self._row is not None:
            self._close_cell()
            self._hang()
            self._span = (_span(attributes.get("colspan")), _span(attributes.get("rowspan")))
            self._cell = []
        elif tag in ("br", "p", "li", "div"):
            self.data(" ")

    def end(self, tag: str) -> None:
        if tag in ("script", "style"):
            self._silent -= 1
        elif tag in ("td", "th"):
            self._close_cell()
        elif tag in ("tr", "table"):
            self._flush()
        elif tag in ("p", "h1", "h2", "h3", "h4", "div", "caption", "li") and self._row is None:
            self._flush_loose()

    def data(self, text: str) -> None:
        if self._silent:
            return
        if self._cell is not None:
            self._cell.append(text)
        elif self._row is None:
            self._loose.append(text)

    def close(self) -> list[list[str]]:
        self._flush()
        return self.lines

    def _close_cell(self) -> None:
        if self._cell is None or self._row is None:
            return
        text = " ".join("".join(self._cell).split())
        across, down = self._span
        for _ in range(min(across, MOST_COLUMNS + 1 - len(self._row))):
            if down > 1:
                self._hanging[len(self._row)] = (down, text)
            self._row.append(text)
        self._cell = None

    def _hang(self) -> None:
        """Cells that reach down from the lines above."""
        while (
            self._row is not None
            and len(self._row) <= MOST_COLUMNS
            and self._hanging.get(len(self._row), (0, ""))[0] > 0
        ):
            left, text = self._hanging[len(self._row)]
            self._hanging[len(self._row)] = (left - 1, text)
            self._row.append(text)

    def _flush_loose(self) -> None:
        text = " ".join("".join(self._loose).split())
        if text:
            self.lines.append([text])
        self._loose = []

    def _flush(self) -> None:
        self._flush_loose()
        self._close_cell()
        if self._row:
            self._hang()
            self.lines.append(self._row)
            self._hanging = {
                at: (left - 1, text) if at < len(self._row) and text == self._row[at] and left > 0 else (left, text)
                for at, (left, text) in self._hanging.items()
            }
        self._row = None


def _span(value: str | None) -> int:
    return min(20, int(value)) if value and len(value) < 9 and value.isdecimal() and int(value) > 0 else 1


def _html_lines(text: str) -> list[PastedLine]:
    parser = etree.HTMLParser(target=_Tables(), huge_tree=True)
    try:
        parser.feed(text)
        lines = parser.close()
    except etree.XMLSyntaxError:  # nothing of it is HTML after all
        lines = [[text[:LONGEST_CELL]]]
    filled = [(number, cells) for number, cells in enumerate(lines, 1) if any(cells)]
    return [PastedLine(number, " | ".join(cells[: MOST_COLUMNS + 1]), cells) for number, cells in filled]
