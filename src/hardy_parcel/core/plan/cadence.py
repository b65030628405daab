"""Frame rate: match the master, or keep every n-th picture; pictures are never blended."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from ..values import rate_text


@dataclass(frozen=True, slots=True, kw_only=True)
class Cadence:
    """Packed rate in 1/s; `keep_every` is the master's rate over it. `even` is False where motion will not be even.

    With `of_fields` each field of the master gives a picture, and `keep_every` counts those.
    """

    frame_rate: Fraction
    keep_every: Fraction
    code: str
    sentence: str
    even: bool = True
    of_fields: bool = False


def choose_rate(
    *, master_rate: Fraction, variable: bool, cap: Fraction, wanted: Fraction | None = None, fields: bool = False
) -> Cadence:
    """The packed frame rate for a master at `master_rate` under a cap, both in 1/s.

    Above the cap every second picture is kept, or every third and so on, until the rate fits: an exact
    division keeps motion even. A cap such as 30 also admits rates a hair above through rounding (30000/1001 is
    below it anyway). With `wanted` that rate is made by leaving out or repeating whole pictures; with `fields`
    each picture came as two fields and may give two pictures.
    """
    if fields and master_rate * 2 <= cap:
        found = _choose(master_rate * 2, variable, cap, wanted)
        if found.code != "rate_as_master":
            return replace(found, of_fields=True)
        words = f"one picture for each field of {rate_text(master_rate)}, so that motion stays as smooth as it was taken"
        return replace(found, of_fields=True, code="rate_of_fields", sentence=words)
    return _choose(master_rate, variable, cap, wanted)


def _choose(own: Fraction, variable: bool, cap: Fraction, wanted: Fraction | None) -> Cadence:
    if wanted is not None and wanted != own:
        return _wanted(own, wanted)
    keep = 1
    while own / keep > cap:
        keep += 1
    rate = own / keep
    if keep > 1:
        words = {2: "every second", 3: "every third"}.get(keep, f"every {keep}th")
        return Cadence(
            frame_rate=rate,
            keep_every=Fraction(keep),
            code="rate_divided",
            sentence=f"{words} picture of {rate_text(own)}, as {rate_text(cap)} is the most taken; none is blended",
        )
    if variable:
        return Cadence(
            frame_rate=rate,
            keep_every=Fraction(1),
            code="rate_made_constant",
            sentence="the constant rate that fits the master's variable one best",
        )
    return Cadence(frame_rate=rate, keep_every=Fraction(1), code="rate_as_master", sentence="as the master, exact")


def _wanted(own: Fraction, wanted: Fraction) -> Cadence:
    """The creator's rate, with what it does to the cadence."""
    keep = own / wanted
    if keep.denominator == 1:
        return Cadence(
            frame_rate=wanted, keep_every=keep, code="creator_rate_divided",
            sentence=f"your choice; one picture in {keep} of {rate_text(own)} is kept, motion stays even",
        )
    if keep.numerator == 1:
        return Cadence(
            frame_rate=wanted, keep_every=keep, code="creator_rate_repeated",
            sentence=f"your choice; every picture of {rate_text(own)} is shown {keep.denominator} times",
        )
    what = f"every {_nth(1 / (1 - keep))} shown twice" if Fraction(1, 2) < keep < 1 else (
        f"every {_nth(keep / (keep - 1))} left out" if 1 < keep < 2 else "pictures left out or repeated unevenly"
    )
    return Cadence(
        frame_rate=wanted, keep_every=keep, code="creator_rate_uneven", even=False,
        sentence=f"your choice; {rate_text(own)} in {rate_text(wanted)}, about {what}, so motion will stutter; none is blended",
    )


EVEN_CODES = (
    "rate_as_master", "rate_divided", "rate_of_fields", "rate_made_constant", "creator_rate_divided", "creator_rate_repeated", "as_it_is",
)
"""Codes of a frame rate that leaves motion as even as it was."""


def _nth(number: Fraction) -> str:
    whole = round(number)
    return {2: "second", 3: "third"}.get(whole, f"{whole}th")


def source_time_s(*, index: int, in_s: Fraction, frame_rate: Fraction, keep_every: Fraction) -> Fraction:
    """Master time in s up to which a picture must have started to be shown as packed picture `index`.

    A quarter of a master picture is added, so that time stamps rounded to a coarse time base (whole
    milliseconds, say) still fall on the right side.
    """
    return in_s + index / frame_rate + Fraction(1, 4) / (frame_rate * keep_every)
