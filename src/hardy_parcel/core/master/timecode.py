"""Time code per SMPTE ST 12-1:2014: hours, minutes, seconds and frames of a picture."""

from __future__ import annotations

import re
from fractions import Fraction

DROPPING = {Fraction(30000, 1001): 2, Fraction(60000, 1001): 4}
"""Frame numbers that drop-frame counting leaves out at every minute but each tenth (clause 8.3)."""


def drops(frame_rate: Fraction) -> bool:
    """Whether time code of this rate (1/s) is usually counted with drop frames."""
    return frame_rate in DROPPING


def timecode(number: int, frame_rate: Fraction, *, start: str | None = None) -> str:
    """The time code of picture `number` (from 0); a semicolon before the frames says that frames are dropped.

    `start` is the time code of picture 0; one with a semicolon counts with drop frames and one with colons without. With none,
    00:00:00:00 is taken and frames are dropped where that is usual.
    """
    dropping = ";" in start if start else drops(frame_rate)
    count = max(0, number) + (_number(start, frame_rate, dropping) if start else 0)
    base = max(1, round(frame_rate))
    if dropping and frame_rate in DROPPING:
        count = _with_gaps(count, base, DROPPING[frame_rate])
    frames, seconds = count % base, count // base
    mark = ";" if dropping and frame_rate in DROPPING else ":"
    return f"{seconds // 3600 % 24:02d}:{seconds // 60 % 60:02d}:{seconds % 60:02d}{mark}{frames:02d}"


def _with_gaps(count: int, base: int, skipped: int) -> int:
    """The label of the `count`-th picture, in frames of the nominal rate, with the skipped labels put in."""
    minute = 60 * base - skipped
    ten = 10 * minute + skipped
    tens, rest = divmod(count, ten)
    minutes = 0 if rest < 60 * base else 1 + (rest - 60 * base) // minute
    return count + skipped * (9 * tens + minutes)


def _number(text: str, frame_rate: Fraction, dropping: bool) -> int:
    found = re.fullmatch(r"(\d{1,2})[:](\d{2})[:](\d{2})[:;.](\d{2,3})", text.strip())
    if not found:
        return 0
    hours, minutes, seconds, frames = map(int, found.groups())
    base = max(1, round(frame_rate))
    count = ((hours * 60 + minutes) * 60 + seconds) * base + frames
    if dropping and frame_rate in DROPPING:
        whole = hours * 60 + minutes
        count -= DROPPING[frame_rate] * (whole - whole // 10)
    return count
