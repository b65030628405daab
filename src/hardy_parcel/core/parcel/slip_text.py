"""A receipt as plain text, and lists of checksums."""

from __future__ import annotations

from collections.abc import Sequence

from ..values import seconds_text, size_text
from .receipt import Match, Receipt

SUMS = "SHA256SUMS"
MARKS = {Match.AS_PLANNED: " ", Match.EXPLAINED: "~", Match.DIFFERS: "!"}


def slip_text(receipt: Receipt, master_name: str) -> str:
    """The receipt as lines of text, for whoever keeps paper; “!” stands before what differs, “~” before what is explained."""
    lines = [
        receipt.file_name, "=" * len(receipt.file_name), "", f"from     {master_name}", f"in       {receipt.folder}",
        f"size     {size_text(receipt.size_bytes)} ({receipt.size_bytes} bytes)",
        f"packed   {receipt.pictures} pictures in {seconds_text(receipt.encode_s)}", f"SHA-256  {receipt.sha256}", "",
    ]
    if receipt.serves:
        lines[3:3] = [f"for      {', '.join(receipt.serves)}"]
    wide = [max(map(len, column)) for column in zip(*((row.setting, row.planned) for row in receipt.rows), ("", "planned"), strict=True)]
    lines.append(f"  {'':{wide[0]}}  {'planned':{wide[1]}}  measured")
    lines += [
        f"{MARKS[row.match]} {row.setting:{wide[0]}}  {row.planned:{wide[1]}}  {row.measured}{f'  ({row.note})' if row.note else ''}"
        for row in receipt.rows
    ]
    return "\n".join(line.rstrip() for line in lines) + "\n"


def checksum_lines(receipts: Sequence[Receipt]) -> str:
    """What `sha256sum -c` takes: a checksum and a name a line, the newest of several of one name, in the order of their names."""
    newest: dict[str, str] = {}
    for receipt in receipts:
        newest.setdefault(receipt.file_name, receipt.sha256)
    return "".join(_line(name, digest) for name, digest in sorted(newest.items()))


def with_line(text: str, receipt: Receipt) -> str:
    """A list of checksums with a file's line, in place of the one that it may have had."""
    own = _line(receipt.file_name, receipt.sha256)
    return "".join([*(one for one in text.splitlines(keepends=True) if one.split("  ", 1)[1:] != own.split("  ", 1)[1:]), own])


def _line(name: str, digest: str) -> str:
    """GNU's form: a name with a backslash or a line feed is escaped, and its line begins with a backslash."""
    escaped = name.replace("\\", "\\\\").replace("\n", "\\n").replace("\r", "\\r")
    return f"{'' if escaped == name else chr(92)}{digest}  {escaped}\n"
