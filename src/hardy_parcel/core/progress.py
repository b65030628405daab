"""How far a long work is, and how long it will take."""

from __future__ import annotations

from bisect import bisect_left
from collections.abc import Sequence

from .values import Model


class JobProgress(Model):
    """What is being done and how far it is: share 0–1, pictures of the pass, pictures/s, seconds left, bytes so far of how many that are
    expected. `at_s` is the time in the master (s) of what is under way."""

    doing: str = ""
    share: float = 0.0
    pictures: int | None = None
    of_pictures: int | None = None
    pictures_per_s: float | None = None
    left_s: float | None = None
    bytes: int | None = None
    of_bytes: int | None = None
    at_s: float | None = None


QUIET_S, QUIET_PART = 3.0, 0.03
"""So long into a stage, and so much of it, before its pace says anything."""
HEAD_PART = 0.01
"""What an encoder takes in at once before it gives anything out; left out of the pace."""
PROFILE_STEPS = 100
"""Into so many parts the time that a stage took is kept."""


class TimeLeft:
    """Seconds that are left of a work in stages, None until they can be right.

    `weights` are what the stages are expected to take beside one another. A stage's own pace counts as soon as there is one. Where
    stages go through the same pictures in the same order, what was hard in the one before is hard again: `alike` says so of each.
    """

    def __init__(self, weights: Sequence[float], *, alike: Sequence[bool]) -> None:
        self._weights, self._alike = list(weights), list(alike)
        self._stage, self._took = 0, 0.0
        self._began: float | None = None
        self._head: tuple[float, float] | None = None
        self._before: list[tuple[float, float]] = []
        self._profile: list[tuple[float, float]] = [(0.0, 0.0)]

    def at(self, stage: int, part: float, now_s: float) -> tuple[float, float | None]:
        """The share of everything that is done, 0 to 1, and seconds left, at `part` of a stage; `now_s` is a clock that only rises."""
        if self._began is None:
            self._began = now_s
        while self._stage < stage:
            self._took = now_s - self._began
            self._before, self._profile = [*self._profile, (1.0, self._took)], [(0.0, 0.0)]
            self._stage, self._began, self._head = self._stage + 1, now_s, None
        gone, worked = now_s - self._began, self._worked(part)
        if part >= self._profile[-1][0] + 1 / PROFILE_STEPS:
            self._profile.append((part, gone))
        if self._head is None and part >= HEAD_PART:
            self._head = worked, gone
        share = (sum(self._weights[:stage]) + self._weights[stage] * worked) / sum(self._weights)
        whole = self._whole(worked, gone)
        if whole is None:
            return share, None
        return share, max(0.0, whole - gone) + sum(self._weights[stage + 1 :]) * whole / self._weights[stage]

    def _whole(self, worked: float, gone: float) -> float | None:
        """What the stage under way will have taken in all (s)."""
        if self._head and gone >= QUIET_S and worked >= self._head[0] + QUIET_PART:
            return gone + (1 - worked) * (gone - self._head[1]) / (worked - self._head[0])
        if self._took:  # by the stage before it, until it has a pace of its own
            return self._took * self._weights[self._stage] / self._weights[self._stage - 1]
        return None

    def _worked(self, part: float) -> float:
        """The share of the work that a part of the pictures is, by what they took in the stage before."""
        if not self._before or not self._alike[self._stage] or not self._took:
            return part
        after = bisect_left(self._before, (part,))
        if not after or after == len(self._before):
            return part
        (low, early), (high, late) = self._before[after - 1], self._before[after]
        return (early + (part - low) / max(1e-9, high - low) * (late - early)) / self._took
