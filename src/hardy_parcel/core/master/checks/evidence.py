"""The evidence of the checks: numbers measured on sampled pictures and on the whole sound, kept as JSON."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence

from ...values import Model, Rect


class FieldEvidence(Model):
    """Sums over moving places of a window, per picture pair (see `motion.field_difference`)."""

    within: float = 0.0
    top_later: float = 0.0
    bottom_later: float = 0.0
    moving: float = 0.0


class Window(Model):
    """A run of neighbouring pictures. Lists are as long as `at_s`; None where there is nothing to measure.

    `change` is the largest local change from the picture before, in code values of 8 bits; `between` is how far a
    picture is from the mean of its neighbours, as a share of the change between them; `detail` how much fine detail
    it has against them. `both_ways` marks pictures that the recording's own encoder predicted from both neighbours,
    which draws them towards that mean.
    """

    first_picture: int
    at_s: tuple[float, ...]
    change: tuple[float | None, ...]
    between: tuple[float | None, ...]
    detail: tuple[float | None, ...] = ()
    both_ways: tuple[bool, ...] = ()
    fields: FieldEvidence = FieldEvidence()


class Edges(Model):
    """Luma of one picture's rows and columns (see `picture.edges`): code values, and shares of each line that are lit, 0 to 1."""

    at_s: float
    row_high: tuple[float, ...]
    row_spread: tuple[float, ...]
    column_high: tuple[float, ...]
    column_spread: tuple[float, ...]
    row_lit: tuple[float, ...]
    column_lit: tuple[float, ...]
    high: float


class Levels(Model):
    """Shares of sampled luma over all pictures, and in how many pictures the darkest are darker than limited black."""

    below_limited: float = 0.0
    at_limited_black: float = 0.0
    at_limited_white: float = 0.0
    above_limited: float = 0.0
    pictures_below: float = 0.0


class Difficulty(Model):
    """One second of film: spatial and temporal information per ITU-T P.910, grain as its deviation, code values."""

    at_s: float
    spatial: float
    temporal: float
    grain: float

    @property
    def level(self) -> float:
        """One figure for how hard this second is to code. Movement costs an encoder several times what detail does."""
        return self.temporal + self.spatial / 4


MOST_PARTS = 600


def movement(known: Sequence[Difficulty], start_s: float, end_s: float) -> list[float]:
    """Temporal information of parts of equal length, about a second each, of the film between two times (s): that of the nearest second
    that is known, which are in their order; none where no second is."""
    if not known or end_s <= start_s:
        return []
    parts = max(1, min(MOST_PARTS, round(end_s - start_s)))
    middles = [start_s + (number + 0.5) * (end_s - start_s) / parts for number in range(parts)]
    times = [one.at_s + 0.5 for one in known]

    def nearest(middle: float) -> Difficulty:
        after = bisect_left(times, middle)
        return min(known[max(0, after - 1) : after + 1], key=lambda one: abs(one.at_s + 0.5 - middle))

    return [nearest(middle).temporal for middle in middles]


class Survey(Model):
    """What was measured on the picture. `active` is in coded pixels; None when no bars were found.

    `quantiser` is the recording's own, in the scale of its codec, averaged over blocks and typical of its pictures;
    None for a codec whose decoder does not tell.
    """

    pictures_seen: int
    pictures_in_film: int
    windows: tuple[Window, ...] = ()
    levels: Levels = Levels()
    blank_head_s: float = 0.0
    blank_tail_s: float = 0.0
    active: Rect | None = None
    difficulty: tuple[Difficulty, ...] = ()
    quantiser: float | None = None


class SoundSurvey(Model):
    """What was measured on the sound. The envelope is the loudest momentary loudness (LUFS) of every step.

    `clipped` counts flat tops and samples over full scale; `first_clipped_s` is where they begin to crowd.
    """

    step_s: float
    envelope_lufs: tuple[float | None, ...] = ()
    samples: int = 0
    flat_tops: int = 0
    over_full_scale: int = 0
    first_clipped_s: float | None = None
    complete: bool = True


class Checked(Model):
    """Picture and sound together, as far as they are known."""

    picture: Survey | None = None
    sound: SoundSurvey | None = None
