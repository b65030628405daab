"""How long a test of sample clips takes: by how many pixels are encoded and compared, at a usual speed; machines differ by a factor."""

from __future__ import annotations

import math
from collections.abc import Collection
from enum import StrEnum

from ..trade.names import Codec
from .journey import Journey
from .windows import QUICK_WINDOWS, probe_segments


class ProbePart(StrEnum):
    """What a test is made of, each kept for itself."""

    CLIPS = "clips"
    UPLOADS = "uploads"
    EFFORT = "effort"
    HANDLING = "handling"


SECONDS_PER_MEGAPIXEL = {
    ProbePart.CLIPS: 0.07,
    ProbePart.UPLOADS: 0.20,
    ProbePart.EFFORT: 0.10,
    ProbePart.HANDLING: 0.16,
}
"""On two cores at 2.5 GHz, on the hardest made film; see docs/decisions.md."""
EFFORT_TIMES: dict[Codec, float] = {"hevc": 2.3, "vp9": 3.4, "av1": 1.6}
"""Other codecs than the probe's take so many times the processor to try."""


def lacking(journey: Journey, *, scaled: object, upload: object, effort: object, handling: object) -> set[ProbePart]:
    """Parts of a test that are not known yet (None)."""
    parts = {ProbePart.CLIPS: scaled, ProbePart.UPLOADS: upload, ProbePart.EFFORT: effort, ProbePart.HANDLING: handling}
    return {
        part
        for part, measurement in parts.items()
        if measurement is None and (journey.renditions or part is not ProbePart.HANDLING)
    }


def probing_seconds(journey: Journey, parts: Collection[ProbePart]) -> float:
    """Seconds that these parts of a test take at the usual speed."""
    width, height = journey.frame_size
    windows = QUICK_WINDOWS if journey.quick else probe_segments(width=width, height=height, smaller=journey.smaller)
    pictures = min(journey.plan.picture.frames, math.ceil((windows + 1) * journey.probe_segment_s * journey.rate))
    megapixels = width * height * pictures / 1e6
    effort = EFFORT_TIMES.get(journey.plan.picture.codec.value, 1.0)
    times = {part: effort if part is ProbePart.EFFORT else 1.0 for part in parts}
    return megapixels * sum(SECONDS_PER_MEGAPIXEL[part] * times[part] for part in parts)
