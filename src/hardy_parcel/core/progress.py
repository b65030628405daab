"""How far a long work is, and how long it will take."""

from __future__ import annotations

import math
from bisect import bisect_left
from collections.abc import Iterator, Sequence

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
HALF_MOVEMENT = 1.2
"""Temporal information at which a picture takes half of what the most lively take, on eight made films of 360 lines packed in H.264 at
effort medium: 7 ms a picture where hardly anything moves, 26 at 0.8, 41 at 2.4, 50 at 13."""
STILL, KINDS_EACH_DOUBLING = 0.05, 2
"""Parts of a film are of one kind whose movement is that near; what moves less than the first stands still."""
SHRINK = 0.01
"""So much of the whole work at the usual pace is counted with every kind, whose own pace is then not taken from a few pictures."""
SEEN, MOST_UNSEEN = 0.01, 0.25
"""A kind has a pace once so much of the film was of it; time is told where no more than a quarter of what is left is of kinds without."""


class TimeLeft:
    """Seconds that are left of a work in stages, None until they can be right.

    `weights` are what the stages are expected to take beside one another, and `aside_s` what each takes besides whatever the others
    do. A stage's own pace counts as soon as there is one. Where stages go through the same pictures in the same order, what was hard in
    the one before is hard again: `alike` says so of each. Of a stage that goes `once` through the pictures, `movement` tells before what
    will be hard: the temporal information of parts of equal length. Each kind of part gets the pace at which such parts went so far, and
    nothing is told while too much is left of other kinds. What a stage that has to be `tried` takes tells nothing of the others before
    it was `weighed`. `drawn` is what each takes of the share that is done, where that is not its weight.
    """

    def __init__(
        self, weights: Sequence[float], *, alike: Sequence[bool], aside_s: Sequence[float] = (), once: Sequence[bool] = (),
        movement: Sequence[float] = (), tried: Sequence[bool] = (), drawn: Sequence[float] = (),
    ) -> None:
        self._drawn = list(drawn) or list(weights)
        self._weighed = set[int]()
        self._guessed = list(tried) or [False] * len(weights)
        self._weights, self._alike = list(weights), list(alike)
        self._once = list(once) or [False] * len(self._weights)
        self._aside_s = list(aside_s) or [0.0] * len(self._weights)
        self._movement = list(movement)
        self._kinds: _Kinds | None = None
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
            self._stage, self._began, self._head, self._kinds = self._stage + 1, now_s, None, None
        if self._kinds is None and self._movement and self._once[stage] and not self._alike[stage]:
            self._kinds = _Kinds(self._movement)
        gone = now_s - self._began
        if self._kinds:
            self._kinds.at(part, gone)
        worked = self._worked(part)
        if part >= self._profile[-1][0] + 1 / PROFILE_STEPS:
            self._profile.append((part, gone))
        if self._head is None and part >= HEAD_PART:
            self._head = worked, gone
        share = (sum(self._drawn[:stage]) + self._drawn[stage] * worked) / sum(self._drawn)
        whole = self._whole(worked, gone)
        if whole is None or self._guessed[stage]:
            return share, None
        pace = max(0.0, whole - self._aside_s[stage]) / self._weights[stage]
        return share, max(0.0, whole - gone) + sum(self._weights[stage + 1 :]) * pace + sum(self._aside_s[stage + 1 :])

    def weighed(self, stage: int, weight: float) -> None:
        """What a stage takes beside the others on this very film, as was tried."""
        self._weights[stage], self._guessed[stage] = weight, False
        self._weighed.add(stage)

    def takes(self, stage: int, aside_s: float) -> None:
        """So many seconds a stage takes besides whatever the others do, as was tried."""
        self._aside_s[stage] = aside_s

    def _whole(self, worked: float, gone: float) -> float | None:
        """What the stage under way will have taken in all (s)."""
        if self._head and gone >= QUIET_S and worked >= self._head[0] + QUIET_PART:
            if self._kinds:
                left = self._kinds.left_s()
                return None if left is None else gone + left
            own = gone + (1 - worked) * (gone - self._head[1]) / (worked - self._head[0])
            before = self._by_the_stage_before() if self._weighed & {self._stage, self._stage - 1} else None
            return own if before is None else max(gone, worked * own + (1 - worked) * before)
        return self._by_the_stage_before()  # until it has a pace of its own

    def _by_the_stage_before(self) -> float | None:
        if not self._took or self._guessed[self._stage - 1]:
            return None
        before = max(0.0, self._took - self._aside_s[self._stage - 1])
        return self._aside_s[self._stage] + before * self._weights[self._stage] / self._weights[self._stage - 1]

    def _worked(self, part: float) -> float:
        """The share of the work that a part of the pictures is, by what they took in the stage before or how they move."""
        if self._kinds:
            return self._kinds.share
        if not self._before or not self._alike[self._stage] or not self._took:
            return part
        after = bisect_left(self._before, (part,))
        if not after or after == len(self._before):
            return part
        (low, early), (high, late) = self._before[after - 1], self._before[after]
        return (early + (part - low) / max(1e-9, high - low) * (late - early)) / self._took


class _Kinds:
    """How the parts of a stage go by the kind that they are of."""

    def __init__(self, movement: Sequence[float]) -> None:
        self._kind = [round(KINDS_EACH_DOUBLING * math.log2(max(STILL, one) / STILL)) for one in movement]
        self._work = [max(STILL, one) / (max(STILL, one) + HALF_MOVEMENT) for one in movement]
        self._all = sum(self._work)
        self._seen = dict.fromkeys(self._kind, 0.0)
        self._took = dict.fromkeys(self._kind, 0.0)
        self._done = dict.fromkeys(self._kind, 0.0)
        self._part, self._gone = 0.0, 0.0

    def at(self, part: float, gone_s: float) -> None:
        """So much of the pictures is done after so many seconds."""
        pieces = list(self._between(self._part, part))
        work = sum(piece * self._work[number] for number, piece in pieces)
        for number, piece in pieces if self._part >= HEAD_PART else []:
            kind, own = self._kind[number], piece * self._work[number]
            self._seen[kind] += piece / len(self._work)
            self._done[kind] += own
            self._took[kind] += (gone_s - self._gone) * own / work
        if part > self._part:
            self._part, self._gone = part, gone_s

    def _between(self, low: float, high: float) -> Iterator[tuple[int, float]]:
        """Numbers of parts that lie between two shares of the pictures, with how much of each does."""
        first, last = low * len(self._work), high * len(self._work)
        for number in range(int(first), min(len(self._work), math.ceil(last))):
            if (piece := min(last, number + 1) - max(first, number)) > 0:
                yield number, piece

    @property
    def share(self) -> float:
        """The share of the work that is done, as far as movement tells."""
        return sum(piece * self._work[number] for number, piece in self._between(0.0, self._part)) / self._all

    def left_s(self) -> float | None:
        """Seconds that the rest takes; None where too much of it is of kinds that have no pace yet."""
        rest = dict.fromkeys(self._kind, 0.0)
        for number, piece in self._between(self._part, 1.0):
            rest[self._kind[number]] += piece * self._work[number]
        unseen = sum(work for kind, work in rest.items() if self._seen[kind] < SEEN)
        done = sum(self._done.values())
        if unseen > MOST_UNSEEN * sum(rest.values()) or not done:
            return None
        usual, shrink = sum(self._took.values()) / done, SHRINK * self._all
        return sum(
            work * (self._took[kind] + shrink * usual) / (self._done[kind] + shrink) for kind, work in rest.items()
        )
