"""One file judged beside another of the same pictures."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

from ..core.arrival.condition import mean_likeness
from ..core.arrival.judged import Judged, against_belonging, judged
from ..core.arrival.screens import Raster, Screen, frame_raster
from ..core.errors import UnreadableMaster
from ..core.master.facts import MasterFacts
from ..core.plan.as_it_is import whole_picture
from ..media.inspect import read_file
from ..media.measure import Stream, compare
from ..media.pictures import Picture, Treatment, pictures_at

MOST_MEASURED = 240


def compare_files(
    reference: Path, file: Path, say: Callable[[float], None], *, most: int = MOST_MEASURED
) -> tuple[int, tuple[Judged, ...]]:
    """How many pictures were measured, at most so many evenly over the film, and how the file looks beside the reference on every screen.

    Both are read as they are shown: upright, without stretched pixels, at their own size. Raises BadInput for files that do not show
    the same pictures, and what reading raises.
    """
    original, other = _facts(reference), _facts(file)
    against_belonging(original, other)
    rate, length = original.video.frame_rate, min(original.duration_s, other.duration_s)
    pictures = max(1, math.floor(length * rate))
    measured = [False] * pictures
    for number in range(min(pictures, most)):
        measured[number * pictures // min(pictures, most)] = True
    sizes = {screen: frame_raster(screen, *_size(original)) for screen in Screen}
    rasters = [Raster.whole(*size) for size in dict.fromkeys(sizes.values())]
    every = frozenset(range(len(rasters)))
    found = compare(
        rasters=rasters, reference_size=_size(original), references=_shown(reference, original, rate, pictures), measured=measured,
        streams={"file": Stream(pictures=_shown(file, other, rate, pictures), size=_size(other), rasters=every)}, rate=rate,
        progress=lambda done: say(done / pictures),
    )
    by_size = {
        raster.size: mean_likeness(raster.size, [parts for _, parts in found["file", number]]) for number, raster in enumerate(rasters)
    }
    return sum(measured), tuple(judged(screen, by_size[size]) for screen, size in sizes.items())


def _facts(path: Path) -> MasterFacts:
    facts = read_file(path, loudness=False)
    if not isinstance(facts, MasterFacts):
        raise UnreadableMaster(f"{path.name} has sound but no picture.", "Choose a file with a film in it.", code="no_picture")
    return facts


def _size(facts: MasterFacts) -> tuple[int, int]:
    framing = whole_picture(facts).framing.value
    return framing.width, framing.height


def _shown(path: Path, facts: MasterFacts, rate: Fraction, pictures: int) -> Iterator[Picture]:
    """So many pictures at the reference's rate, each the one that is shown in the middle of its time."""
    treatment = Treatment(facts.video, whole_picture(facts), frame=False)
    times = ((number + Fraction(1, 2)) / rate for number in range(pictures))
    for number, picture in enumerate(pictures_at(path, times, start_s=facts.video.start_s)):
        yield treatment(picture, number)
