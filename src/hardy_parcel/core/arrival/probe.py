"""What test encodes of a few moments tell: bits and likeness of each, at three qualities, and what a platform makes of them.

A probe reel is a miniature of the excerpt (`windows`), each of its windows beginning with a keyframe, so that its bits are its own.
Everything between the measured qualities is computed in `forecast`.
"""

from __future__ import annotations

from ..values import Model
from .condition import Likeness
from .rehearsal import MeasuredRendition


class ProbedWindow(Model):
    """One window at one quality: bits of its keyframes and of its other pictures, how many of each, and its likenesses by raster."""

    key_bits: int
    keys: int
    other_bits: int
    others: int
    likenesses: tuple[Likeness, ...] = ()

    @property
    def pictures(self) -> int:
        return self.keys + self.others

    def bits_per_picture(self, keyframe_interval: int, shift: EffortShift | None = None) -> float:
        """Bits a picture has on average where keyframes stand so many pictures apart, or nearer where the film itself is cut."""
        keys, others = (shift.key_bits, shift.other_bits) if shift else (1.0, 1.0)
        if not self.others or not self.keys:
            return (self.key_bits * keys + self.other_bits * others) / max(1, self.pictures)
        cuts = (self.keys - 1) / max(1, self.pictures - 1)
        share = min(1.0, max(1 / keyframe_interval, cuts))
        return self.key_bits * keys / self.keys * share + self.other_bits * others / self.others * (1 - share)


class ProbedQuality(Model):
    """The reel at one quality value of the codec's own scale."""

    quality: int
    windows: tuple[ProbedWindow, ...]


class UploadProbe(Model):
    """The probe reel in the base codec at a quick effort, at several qualities, best first; a run-in is not among the windows."""

    key: str
    qualities: tuple[ProbedQuality, ...]


class EffortShift(Model):
    """What the plan's codec and effort make at a quality value of theirs, as shares of what the probe's made at its own: bits, and what
    is lost."""

    quality: int
    key_bits: float
    other_bits: float
    detail: float
    information: float
    distortion: float


class EffortProbe(Model):
    """The plan's codec and effort against the probe's, tried on one window at each quality.

    `finest` has the bits of the finest quality there is, against the best of the probe's: where an easy film can use no more.
    `coarsest` is a quality beyond the poorest of the probe's, against that one. None where no rate of interest reaches so far.
    """

    key: str
    shifts: tuple[EffortShift, ...]
    finest: EffortShift | None = None
    coarsest: EffortShift | None = None


class HandledQuality(Model):
    """An upload of one quality through a ladder; None is a perfect upload."""

    quality: int | None
    renditions: tuple[MeasuredRendition, ...]


class HandlingProbe(Model):
    """A ladder tried on the probe reel: a perfect upload and worse ones."""

    key: str
    uploads: tuple[HandledQuality, ...]


def ceiling_factor(windows: tuple[ProbedWindow, ...], keyframe_interval: int) -> float:
    """By how much a ceiling has to be raised on a reel of short windows to bind as it does on the film.

    Each window begins with a keyframe of its own, so the reel needs more bits than the film at the same quality.
    """
    reel = sum(w.key_bits + w.other_bits for w in windows) / max(1, sum(w.pictures for w in windows))
    film = sum(w.bits_per_picture(keyframe_interval) for w in windows) / max(1, len(windows))
    return min(4.0, max(1.0, reel / film)) if film else 1.0
