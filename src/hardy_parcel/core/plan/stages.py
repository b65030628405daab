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
TRIAL_PICTURES, TRIAL_PLACES, PICTURES_A_TRIAL = 40, 3, 3_000
"""So many pictures in a row are tried before a film is packed, at one place for so many of its pictures, at so many at most: 1.3 hundredths
of the work. Of fewer in a row the encoder only fills, and a shorter film is not worth the wait."""
USUAL_FIRST_PASS = 0.7
READING_BACK_WORDS = "reading the file back"
READING_BACK = 0.15
"""What decoding the packed file and its checksum take beside the last pass where that was not tried: 0.04 to 0.5 on six films of 360 to
1080 lines."""
JUDGED_RUNS, EVERY_PICTURES = 12, 50
"""Runs of neighbours that are judged of a packed film at most, and a run for so many pictures, so that a short one costs little."""
JUDGED_AS, JUDGED_S, JUDGING_TRIED_FROM = 10, 0.45, 1_500
"""A run takes as long as so many pictures of the last pass, which is decoding, and so many seconds besides, which is comparing: 9 to 12
and 0.3 to 0.6 s on the same films. From so many pictures on one run is tried."""
RUN_READS = 6
"""Pictures that are read for a run from its place on, those that lead in included."""


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


def trial_places(frames: int) -> int:
    """At how many places a film of so many pictures is tried before it is packed; none of a short one."""
    return min(TRIAL_PLACES, frames // PICTURES_A_TRIAL)


def judging_weight(plan: Plan) -> float:
    """What finding the judged runs in the packed file takes beside reading all of it back: every run is reached from a keyframe."""
    video = plan.picture
    runs = judged_runs(video.frames) + 1  # the poorest picture is shown, which is one place more
    return min(1.0, runs * (video.keyframe_interval_frames.value / 2 + RUN_READS) / max(1, video.frames))


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
