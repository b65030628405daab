"""The stages of packing a plan, and what they take beside one another."""

from __future__ import annotations

import math
from dataclasses import dataclass

from ..trade.names import Codec
from ..trade.rate_control import RateControl
from .carrying import passes
from .choices import Method
from .encoder_settings import searches_quality
from .plan import Plan, duration_s

FIRST_PASS: dict[Codec, float] = {"h264": 0.65, "hevc": 0.92}
"""What a first pass takes beside the second, by which the share of what is done is drawn. It was 0.45 to 1.03 on four films (H.264, effort
medium, two cores), so it tells no time. Where it is a search for a quality, it depends on the film's length."""
TRIAL_PICTURES, TRIAL_PLACES, PICTURES_A_TRIAL = 40, 3, 3_000
"""So many pictures in a row are tried before a film is packed, at one place for so many of its pictures, at so many at most: 1.3 hundredths
of the work. Of fewer in a row the encoder only fills, and a shorter film is not worth the wait."""
USUAL_FIRST_PASS = 0.7
READING_BACK_WORDS = "reading the file back"
AFTERWARDS = 0.01
"""The weight of reading back and judging, which are little beside encoding and hardly tied to how hard that was."""
READ_S, READ_PIXEL_S, HEARD_S = 3e-4, 4.5e-9, 0.016
"""Seconds that reading back takes for a picture, for a pixel of it, and for a second of sound, where it was not tried: within a tenth on
H.264 of 180 to 540 lines and on ten minutes of sound."""
JUDGED_RUNS, EVERY_PICTURES = 12, 50
"""Runs of neighbours that are judged of a packed film at most, and a run for so many pictures, so that a short one costs little."""
JUDGED_S, USUAL_GROUP, JUDGING_TRIED_FROM = 0.35, 50, 1_500
"""Comparing a run takes so many seconds on two cores, and reading it half a group of pictures and its own, where no run was tried: from so
many pictures on one is."""
READING_BACK_DRAWN, JUDGED_DRAWN = 0.08, 10
"""What reading back is drawn as beside the last pass, and as how many pictures of it a run that is judged."""
RUN_READS = 6
"""Pictures that are read for a run from its place on, those that lead in included."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Stage:
    """One stage in words, what it takes beside the others, whether what was hard in the one before is hard in it too, and whether it goes
    once through the pictures, each of which it encodes. `aside_s` seconds come to the weight. What a `tried` stage takes beside others is
    different for every film, and has to be tried before it can be told. `drawn` is what it takes of the bar that is shown."""

    words: str
    weight: float
    drawn: float = 1.0
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
    return min(1.0, runs * ((video.keyframe_interval_frames.value or 1) / 2 + RUN_READS) / max(1, video.frames))


def stages(plan: Plan) -> tuple[Stage, ...]:
    """All stages, in their order; last the file is read back, and judged where its picture is not the master's own."""
    if plan.method.value is Method.UNTOUCHED:
        return Stage(words="copying", weight=1.0), Stage(words=READING_BACK_WORDS, weight=1.0)
    if plan.video is None or plan.copied:
        return Stage(words="packing", weight=1.0), Stage(words=READING_BACK_WORDS, weight=0.5, drawn=0.5)
    frame, frames, crop = plan.video.framing.value, plan.video.frames, plan.video.framing.value.crop
    runs = judged_runs(frames)
    read_s = frames * _read_s(frame.width, frame.height) + (HEARD_S * duration_s(plan) if plan.audio else 0.0)
    back = Stage(words=READING_BACK_WORDS, weight=AFTERWARDS, drawn=READING_BACK_DRAWN, aside_s=read_s)
    look = Stage(
        words="judging the packed picture", weight=AFTERWARDS, drawn=runs * JUDGED_DRAWN / max(1, frames),
        aside_s=runs * (JUDGED_S + (RUN_READS + USUAL_GROUP / 2) * _read_s(crop.width, crop.height)),
    )
    searched, codec = searches_quality(plan.video), plan.video.codec.value
    if not searched and plan.video.rate_control.value is not RateControl.TWO_PASSES:
        return Stage(words="packing", weight=1.0, once=True), back, look
    weight = passes(plan.video) - 1 if searched else FIRST_PASS.get(codec, USUAL_FIRST_PASS)
    first = Stage(words="pass 1 of 2", weight=weight, drawn=weight, once=not searched, tried=not searched)
    return first, Stage(words="pass 2 of 2", weight=1.0, alike=not searched, once=True), back, look


def _read_s(width: int, height: int) -> float:
    """Seconds that decoding a picture takes."""
    return READ_S + READ_PIXEL_S * width * height
