"""Other options of a parcel that may stand beside it, each with the time until a test would bring its first figure."""

from __future__ import annotations

from fractions import Fraction
from typing import Any

from ..core.errors import HardyParcelError
from ..core.master.facts import Excerpt
from ..core.parcel.what_ifs import what_ifs
from ..core.plan.choices import Method
from ..core.plan.planning import changed
from ..core.values import Model
from ..store.database import Database
from .now import PlannedParcel, planned_on
from .probes import seconds_to_test

EXCERPT_S = Fraction(60)


class OtherOption(Model):
    """What a parcel beside this one would do otherwise, in words, and as choices or an excerpt. `test_s` is how long its first figure takes
    once its test begins (s): 0 where it is known, None where nothing is to be tested."""

    words: str
    part: dict[str, Any] = {}
    excerpt: Excerpt | None = None
    test_s: float | None


def other_options(database: Database, now: PlannedParcel) -> tuple[OtherOption, ...]:
    """Codecs and frame sizes, half the bit rate, the minute in the middle, and the original file; what no plan can follow is left out."""
    wanted: list[tuple[str, dict[str, Any], Excerpt | None]] = [
        (item.words, item.part, None) for item in what_ifs(now.facts, now.place, now.choices, now.plan, now.excerpt)
    ]
    video = now.plan.video
    if video and not now.plan.copied and now.plan.guidance:
        wanted.append(("half the bit rate", {"video_bitrate_bps": video.target_bps.value // 2}, None))
    excerpt = now.excerpt
    if excerpt.duration_s > 2 * EXCERPT_S:
        start = excerpt.in_s + Fraction(int(excerpt.duration_s - EXCERPT_S) // 2)
        wanted.append(("the minute in the middle", {}, Excerpt(in_s=start, out_s=start + EXCERPT_S)))
    if not now.plan.copied:
        wanted.append(("the original file", {"method": Method.UNTOUCHED}, None))
    return tuple(result for words, part, cut in wanted if (result := _option(database, now, words, part, cut)))


def _option(
    database: Database, current: PlannedParcel, words: str, part: dict[str, Any], excerpt: Excerpt | None
) -> OtherOption | None:
    try:
        choices = (
            changed(current.facts, current.place, current.choices, part, excerpt or current.excerpt)
            if part
            else current.choices
        )
        parcel = current.parcel.model_copy(
            update={"choices": choices, "excerpt": excerpt or current.parcel.excerpt, "served_by": None}
        )
        other = planned_on(database, parcel, current.master, current.facts)
    except HardyParcelError:
        return None
    return (
        None
        if other.plan.held
        else OtherOption(words=words, part=part, excerpt=excerpt, test_s=seconds_to_test(database, other))
    )
