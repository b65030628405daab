"""The stages of packing a plan, and what they take beside one another."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..trade.names import Codec
from ..trade.rate_control import RateControl
from .carrying import passes
from .choices import Method
from .encoder_settings import searches_quality
from .plan import Plan

FIRST_PASS: dict[Codec, float] = {"h264": 0.65, "hevc": 0.92}
"""What a first pass takes beside the second, by which the share of what is done is drawn. It was 0.45 to 1.03 on four films (H.264, effort
medium, two cores), so it tells no time. Where it is a search for a quality, it depends on the film's length."""
TRIAL_PICTURES, TRIAL_PLACES, TRIED_FROM = 40, 3, 12_000
"""So many pictures in a row are tried at so many places before a film of that many pictures or more is packed: a hundredth of the work.
Of fewer in a row the encoder only fills, and a shorter film is not worth the wait."""
USUAL_FIRST_PASS = 0.7
READING_BACK_WORDS = "reading the file back"
READING_BACK = 0.15
"""What decoding the packed file and its checksum take beside the last pass where that was not tried: 0.04 to 0.5 on six films of 360 to
1080 lines."""
JUDGED_RUNS, EVERY_PICTURES = 12, 50
"""Runs of neighbours that are judged of a packed film at most, and a run for so many pictures, so that a short one costs little."""
JUDGED_AS, JUDGED_S = 10, 0.45
"""A run takes as long as so many pictures of the last pass, which is decoding, and so many seconds besides, which is comparing: 9 to 12
and 0.3 to 0.6 s on the same films."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage in words, what it takes beside the others, whether what was hard in the one before is hard in it too, and whether it goes
    once through the pictures, each of which it encodes. `aside_s` seconds come to the weight. What a `tried` stage takes beside others is
    different for every film, and has to be tried before it can be told."""

    words: str
    weight: float
    aside_s: float = 0.0
    alike: bool = False
    once: bool = False
    tried: bool = False


def judged_runs(frames: int) -> int:
    """How many runs are judged of a film of so many pictures; two at least."""
    return max(2, min(JUDGED_RUNS, math.ceil(frames / EVERY_PICTURES)))


def stages(plan: Plan) -> tuple[Stage, ...]:
    """All stages, in their order; last the file is read back, and judged where its picture is not the master's own."""
    back = Stage(words=READING_BACK_WORDS, weight=READING_BACK)
    if plan.method.value is Method.UNTOUCHED:
        return Stage(words="copying", weight=1.0), Stage(words=back.words, weight=1.0)
    if plan.video is None or plan.copied:
        return Stage(words="packing", weight=1.0), Stage(words=back.words, weight=0.5)
    runs = judged_runs(plan.video.frames)
    look = Stage(words="judging the packed picture", weight=runs * JUDGED_AS / max(1, plan.video.frames), aside_s=runs * JUDGED_S)
    searched, codec = searches_quality(plan.video), plan.video.codec.value
    if not searched and plan.video.rate_control.value is not RateControl.TWO_PASSES:
        return Stage(words="packing", weight=1.0, once=True), back, look
    weight = passes(plan.video) - 1 if searched else FIRST_PASS.get(codec, USUAL_FIRST_PASS)
    first = Stage(words="pass 1 of 2", weight=weight, once=not searched, tried=not searched)
    return first, Stage(words="pass 2 of 2", weight=1.0, alike=not searched, once=True), back, look
