"""Frame rate: match the master, or keep every n-th picture; pictures are never blended."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction

from .values import rate_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Cadence:
    """Packed rate in 1/s, of which every `keep_every`-th master picture is one."""

    frame_rate: Fraction
    keep_every: int
    code: str
    sentence: str


def choose_rate(*, master_rate: Fraction, variable: bool, cap: Fraction) -> Cadence:
    """The packed frame rate for a master at `master_rate` under a cap, both in 1/s.

    Above the cap every second picture is kept, or every third and so on, until the rate fits: an exact
    division keeps motion even. A cap such as 30 also admits rates a hair above through rounding (30000/1001 is
    below it anyway).
    """
    keep = 1
    while master_rate / keep > cap:
        keep += 1
    rate = master_rate / keep
    if keep > 1:
        words = {2: "every second", 3: "every third"}.get(keep, f"every {keep}th")
        return Cadence(
            frame_rate=rate,
            keep_every=keep,
            code="rate_divided",
            sentence=f"{words} picture of {rate_text(master_rate)}, as {rate_text(cap)} is the most taken; none is blended",
        )
    if variable:
        return Cadence(
            frame_rate=rate,
            keep_every=1,
            code="rate_made_constant",
            sentence="the constant rate that fits the master's variable one best",
        )
    return Cadence(frame_rate=rate, keep_every=1, code="rate_as_master", sentence="as the master, exact")


def source_time_s(*, index: int, in_s: Fraction, frame_rate: Fraction, keep_every: int) -> Fraction:
    """Master time in s up to which a picture must have started to be shown as packed picture `index`.

    A quarter of a master picture is added, so that time stamps rounded to a coarse time base (whole
    milliseconds, say) still fall on the right side.
    """
    return in_s + index / frame_rate + Fraction(1, 4) / (frame_rate * keep_every)
