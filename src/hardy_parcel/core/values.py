"""Base model and exact ratios shared by every value that travels."""

from __future__ import annotations

import re
import unicodedata
from fractions import Fraction
from typing import Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, BeforeValidator, ConfigDict, PlainSerializer, WithJsonSchema


class Model(BaseModel):
    """A frozen value with a closed set of fields; its JSON form is what is stored and sent."""

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)

    def __copy__(self) -> Self:
        """Without what was computed from the fields and kept beside them, since a copy may be given others."""
        copied = super().__copy__()
        for name in copied.__dict__.keys() - type(self).model_fields.keys():
            del copied.__dict__[name]
        return copied


class Rect(Model):
    """A rectangle in pixels; all four are even."""

    x: int
    y: int
    width: int
    height: int

    @property
    def shape(self) -> Fraction:
        return Fraction(self.width, self.height)


_RATIO = re.compile(r"\s*-?\d{1,40}(?:\s*[/:]\s*0*[1-9]\d{0,39}|\.\d{1,40})?\s*", re.ASCII)
"""Bounded and without an exponent: a dozen characters such as 1e999999999 would otherwise ask for all memory there is."""
_LARGEST = 10**12


def _to_fraction(value: Any) -> Any:
    if isinstance(value, str):
        if not _RATIO.fullmatch(value):
            told = value[:40].encode("utf-8", "replace").decode()  # half a letter would break the message of the refusal itself
            raise ValueError(f"'{told}' is not a ratio such as 25 or 24000/1001")
        return Fraction("".join(value.replace(":", "/").split()))
    if isinstance(value, bool):
        raise ValueError("a ratio is a number, not yes or no")
    if isinstance(value, (int, float)):
        if not -_LARGEST <= value <= _LARGEST:  # not a number fails this too
            raise ValueError("this number is too large for a ratio")
        return Fraction(value).limit_denominator(1_000_000)
    return value


def _in_one_line(text: str) -> str:
    return "".join(" " if unicodedata.category(one) == "Cc" else one for one in text)


OneLine = AfterValidator(_in_one_line)
"""Of a name: control characters, which a terminal would obey, become spaces."""

Ratio = Annotated[
    Fraction,
    BeforeValidator(_to_fraction),
    PlainSerializer(str, return_type=str),
    WithJsonSchema({"type": "string", "description": "an exact ratio, such as 25 or 24000/1001"}),
]
"""An exact rational: a frame rate in 1/s, a time in s or a shape. JSON form: '24000/1001'."""


def even(value: float | Fraction) -> int:
    """The nearest even number, at least 2: 4:2:0 chroma needs pairs of pixels."""
    return max(2, 2 * round(value / 2))


def frame_of_shape(shape: Fraction, short_side: int | Fraction) -> tuple[Fraction, Fraction]:
    """Exact width and height in px of a frame with this shape and short side."""
    side = Fraction(short_side)
    return (side * shape, side) if shape >= 1 else (side, side / shape)


def seconds_text(seconds: Fraction | float) -> str:
    """Minutes, seconds and hundredths, such as '1:02.40'; hours only when there are any."""
    hundredths = round(float(seconds) * 100)
    minutes, rest = divmod(hundredths, 6000)
    hours, minutes = divmod(minutes, 60)
    tail = f"{rest // 100:02d}.{rest % 100:02d}"
    return f"{hours}:{minutes:02d}:{tail}" if hours else f"{minutes}:{tail}"


def minutes_text(seconds: Fraction | float) -> str:
    """A place in a film to the second, with tenths where they matter: '0:12', '1:02.5'."""
    tenths = round(float(seconds) * 10)
    minutes, rest = divmod(tenths, 600)
    return f"{minutes}:{rest // 10:02d}" + (f".{rest % 10}" if rest % 10 else "")


def rate_text(rate: Fraction) -> str:
    """A frame rate for reading: '25', '29.97', '23.976'; the exact ratio stays in the value."""
    if rate.denominator == 1:
        return str(rate.numerator)
    return f"{float(rate):.3f}".rstrip("0").rstrip(".")


def shape_text(shape: Fraction) -> str:
    """A shape for reading: '16:9', '9:16', or against 1 where the numbers would say little, '2.39:1'."""
    if max(shape.numerator, shape.denominator) <= 16:
        return f"{shape.numerator}:{shape.denominator}"
    if shape >= 1:
        return f"{float(shape):.3f}".rstrip("0").rstrip(".") + ":1"
    return "1:" + f"{float(1 / shape):.3f}".rstrip("0").rstrip(".")


def mbps_text(bits_per_second: float) -> str:
    """A bit rate in decimal Mbit/s with the digits a reader needs, such as '13.8 Mbit/s'."""
    mbps = bits_per_second / 1e6
    return f"{mbps:.2f} Mbit/s" if mbps < 2 else f"{mbps:.1f} Mbit/s"


_BITRATE = re.compile(r"(\d+(?:[.,]\d+)?)\s*([km]?)(?:bit/?s?|bps|b/s)?(?:/s|ps)?", re.IGNORECASE)
MOST_TYPED_MBPS, LEAST_TYPED_BPS = 400.0, 50_000.0


def read_bitrate(text: str) -> int:
    """A typed bit rate in bit/s: “2.3” and “2,3” are Mbit/s, “2300k” and “2300” kbit/s, “9 Mbit/s” says it, from 50,000 on a bare number
    is bit/s. Raises ValueError for what is none."""
    found = _BITRATE.fullmatch(text.strip())
    if found is None:
        raise ValueError("is no bit rate; type it as 2.3, 2,3 Mbit/s or 2300k")
    number, unit = float(found[1].replace(",", ".")), found[2].lower()
    if not unit:
        unit = "m" if number <= MOST_TYPED_MBPS else "k" if number < LEAST_TYPED_BPS else ""
    return round(number * {"m": 1e6, "k": 1e3, "": 1.0}[unit])


def size_text(size_bytes: float) -> str:
    """A file size in decimal units, such as '13.9 MB'."""
    for unit, scale in (("GB", 1e9), ("MB", 1e6), ("kB", 1e3)):
        if size_bytes >= scale:
            amount = size_bytes / scale
            return f"{amount:.1f} {unit}" if amount < 100 else f"{amount:.0f} {unit}"
    return f"{int(size_bytes)} bytes"


def level_text(level: float) -> str:
    """A level in LUFS or dB with a real minus sign, such as '−13' or '−1.5'."""
    return f"{level:g}".replace("-", "−")
