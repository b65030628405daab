"""How an encoder spends its bits, and how hard it tries."""

from __future__ import annotations

from enum import StrEnum


class RateControl(StrEnum):
    """How an encoder spends its bits; the last two leave it nothing to choose."""

    CONSTANT = "constant"
    ONE_PASS = "one pass"
    TWO_PASSES = "two passes"
    QUALITY = "constant quality"
    FIXED = "fixed by the codec"
    RECORDED = "as recorded"


class Effort(StrEnum):
    """Named encoder efforts; the encoder's own preset names stay inside `encoder_settings`."""

    QUICK = "quick"
    MEDIUM = "medium"
    CAREFUL = "careful"
