"""A file beside another of the same pictures: whether they belong together, and how it was judged."""

from __future__ import annotations

from fractions import Fraction

from ..errors import BadInput
from ..master.facts import MasterFacts
from ..values import Model, rate_text, seconds_text, shape_text
from .condition import Likeness, impairment_words
from .screens import Screen

SHAPES_APART, RATES_APART, LENGTHS_APART_S = Fraction(2, 100), Fraction(1, 1000), Fraction(1, 2)


class Judged(Model):
    """How a file looks beside its reference on one screen: condition 0–100 with its parts, XPSNR in dB.

    `changed` says what was changed that condition does not see, such as brightness.
    """

    screen: Screen
    raster: tuple[int, int]
    condition: float
    words: str
    detail: float
    information: float
    movement: float
    xpsnr_db: float
    changed: str | None = None


def judged(screen: Screen, likeness: Likeness) -> Judged:
    """How it looks on a screen by its likeness on that screen's raster."""
    return Judged(
        screen=screen, raster=likeness.raster, condition=round(likeness.condition, 2), words=impairment_words(likeness.condition),
        detail=likeness.detail, information=likeness.information, movement=likeness.movement, xpsnr_db=likeness.xpsnr_db,
        changed=likeness.changed,
    )


def against_belonging(reference: MasterFacts, file: MasterFacts) -> None:
    """Raise BadInput where two films cannot show the same pictures: by their shapes, rates or lengths."""
    one, other = reference.video, file.video
    shapes = Fraction(one.display_width, one.display_height), Fraction(other.display_width, other.display_height)
    if abs(shapes[0] / shapes[1] - 1) > SHAPES_APART:
        raise _apart(f"{reference.name} is {shape_text(shapes[0])} and {file.name} is {shape_text(shapes[1])}")
    if abs(one.frame_rate / other.frame_rate - 1) > RATES_APART:
        raise _apart(f"{reference.name} has {rate_text(one.frame_rate)} frames/s and {file.name} {rate_text(other.frame_rate)}")
    if abs(reference.duration_s - file.duration_s) > LENGTHS_APART_S:
        lengths = seconds_text(reference.duration_s), seconds_text(file.duration_s)
        raise _apart(f"{reference.name} is {lengths[0]} long and {file.name} {lengths[1]}")


def _apart(what: str) -> BadInput:
    return BadInput(f"These files do not belong together: {what}.", "Give two files of the same pictures.", code="not_together")
