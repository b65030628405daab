"""Frame rate: match the master, or keep every n-th picture; pictures are never blended."""

from __future__ import annotations

from dataclasses import dataclass, replace
from fractions import Fraction

from ..values import rate_text

ROUNDING = Fraction(1, 2000)
"""A rate above a cap by less than this share is above it by rounding: half of what 30000/1001 lies below 30."""


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
    division keeps motion even. A rate that is above only by rounding, such as a measured 30.001 under 30, is packed
    at the cap itself, where one picture in thousands is left out. With `wanted` that rate is made by leaving out or
    repeating whole pictures; with `fields` each picture came as two fields and may give two pictures.
    """
    if fields and master_rate * 2 <= cap:
        found = _choose(master_rate * 2, variable, cap, wanted)
        if found.keep_every != 1 or variable:
            return replace(found, of_fields=True)
        words = f"one picture for each field of {rate_text(master_rate)}, so that motion stays as smooth as it was taken"
        return replace(found, of_fields=True, code="rate_of_fields", sentence=words)
    return _choose(master_rate, variable, cap, wanted)


def _choose(own: Fraction, variable: bool, cap: Fraction, wanted: Fraction | None) -> Cadence:
    if wanted is not None and wanted != own:
        return _wanted(own, wanted)
    keep = 1
    while own / keep > cap * (1 + ROUNDING):
        keep += 1
    rate = own / keep
    if rate > cap:
        return Cadence(
            frame_rate=cap, keep_every=own / cap, code="rate_rounded",
            sentence=f"{rate_text(cap)}, the most taken; the master's {float(own):.4g} is above it by rounding only",
        )
    if keep > 1:
        return Cadence(
            frame_rate=rate,
            keep_every=Fraction(keep),
            code="rate_divided",
            sentence=f"every {_nth(keep)} picture of {rate_text(own)}, as {rate_text(cap)} is the most taken; none is blended",
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
            sentence=f"your choice; every {_nth(keep)} picture of {rate_text(own)} is kept, motion stays even",
        )
    if keep.numerator == 1:
        return Cadence(
            frame_rate=wanted, keep_every=keep, code="creator_rate_repeated",
            sentence=f"your choice; every picture of {rate_text(own)} is shown {_times(keep.denominator)}",
        )
    return Cadence(
        frame_rate=wanted, keep_every=keep, code="creator_rate_uneven", even=False,
        sentence=f"your choice; of {rate_text(own)} a second {uneven_words(keep)}, so motion will stutter; none is blended",
    )


NUMBERS = ("none", "one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
MOST_EXACT = 12
"""Of more pictures than this a rhythm is not told exactly: nobody counts it."""


def uneven_words(keep: Fraction) -> str:
    """What becomes of the master's pictures where `keep` of them, not a whole number, go into one: “two of five pictures are kept”."""
    near = keep if max(keep.numerator, keep.denominator) <= MOST_EXACT else _near(keep)
    about = "" if near == keep else "about "
    of, shown = near.numerator, near.denominator
    if keep > 1 and of - shown == 1:
        return f"{about}every {_nth(of)} is left out"
    if keep > 1:
        return f"{about}{_number(shown)} of {_number(of)} pictures are kept"
    often, more = divmod(shown, of)
    if more == 1:
        return f"{about}every {_nth(of)} is shown {_times(often + 1)}" + (f", the others {_times(often)}" if often > 1 else "")
    return f"{about}{_number(more)} of {_number(of)} are shown {_times(often + 1)}, the others {_times(often)}"


def _near(keep: Fraction) -> Fraction:
    """The simplest rhythm near to one that is too long to tell; one in so many where it is that rare."""
    rare = 1 / abs(1 - keep)
    if rare >= MOST_EXACT:
        every = round(rare if keep > 1 else keep / (1 - keep))
        return Fraction(every + 1, every) if keep > 1 else Fraction(every, every + 1)
    return keep.limit_denominator(5)


def _number(whole: int) -> str:
    return NUMBERS[whole] if whole < len(NUMBERS) else str(whole)


def _times(often: int) -> str:
    return {1: "once", 2: "twice"}.get(often, f"{_number(often)} times")


def _nth(number: Fraction | int) -> str:
    whole = round(number)
    named = {2: "second", 3: "third", 4: "fourth", 5: "fifth", 6: "sixth", 7: "seventh", 8: "eighth", 9: "ninth", 10: "tenth"}
    ending = "th" if 10 <= whole % 100 <= 20 else {1: "st", 2: "nd", 3: "rd"}.get(whole % 10, "th")
    return named.get(whole, f"{whole}{ending}")


def source_time_s(*, index: int, in_s: Fraction, frame_rate: Fraction, keep_every: Fraction) -> Fraction:
    """Master time in s up to which a picture must have started to be shown as packed picture `index`.

    A quarter of a master picture is added, so that time stamps rounded to a coarse time base (whole
    milliseconds, say) still fall on the right side.
    """
    return in_s + index / frame_rate + Fraction(1, 4) / (frame_rate * keep_every)
