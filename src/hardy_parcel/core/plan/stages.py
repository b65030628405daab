"""The stages of packing a plan, and what they take beside one another."""

from __future__ import annotations

from dataclasses import dataclass

from ..trade.names import Codec
from ..trade.rate_control import RateControl
from .carrying import passes
from .choices import Method
from .encoder_settings import searches_quality
from .plan import Plan

FIRST_PASS: dict[Codec, float] = {"h264": 0.65, "hevc": 0.92}
"""What a first pass takes beside the second: 0.53 to 0.70 and 0.87 to 0.95 on three made films at effort medium on two cores. Where it is
a search for a quality, that depends on the film's length."""
USUAL_FIRST_PASS = 0.7
READING_BACK = 0.05
"""What decoding the packed file and its checksum take beside the last pass; 0.03 to 0.16 on the same films at 360 lines."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage in words, what it takes beside the others, and whether what was hard in the one before is hard in it too."""

    words: str
    weight: float
    alike: bool = False


def stages(plan: Plan) -> tuple[Stage, ...]:
    """All stages, in their order; the last is that the file is read back."""
    back = Stage(words="reading the file back", weight=READING_BACK)
    if plan.method.value is Method.UNTOUCHED:
        return Stage(words="copying", weight=1.0), Stage(words=back.words, weight=1.0)
    if plan.video is None or plan.copied:
        return Stage(words="packing", weight=1.0), Stage(words=back.words, weight=0.5)
    searched, codec = searches_quality(plan.video), plan.video.codec.value
    if not searched and plan.video.rate_control.value is not RateControl.TWO_PASSES:
        return Stage(words="packing", weight=1.0), back
    weight = passes(plan.video) - 1 if searched else FIRST_PASS.get(codec, USUAL_FIRST_PASS)
    first = Stage(words="pass 1 of 2", weight=weight)
    return first, Stage(words="pass 2 of 2", weight=1.0, alike=not searched), back
