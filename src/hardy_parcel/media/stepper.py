"""Single pictures of one open file, for stepping through it: the nearest keyframe at once, the exact picture after."""

from __future__ import annotations

import base64
from bisect import bisect_right
from collections import OrderedDict
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any, cast

import av
import numpy as np

from ..core.arrival.screens import Raster
from ..core.errors import UnreadableMaster
from ..core.master.facts import MasterFacts
from ..core.plan.as_it_is import whole_picture
from ..core.plan.plan import FieldOrder, VideoPlan
from .inspect import picture_stream
from .pictures import Treatment, deinterlaced
from .stills import encoded
from .trouble import open_film, reading

LONG_SIDE = 960
EFFECT_PX = (320, 240)
HELD_BYTES = 240_000_000
"""Decoded pictures that are kept, so that stepping back does not decode from the keyframe every time."""


class Stepper:
    """One open file, the pictures decoded last, and how they are brought to the screen."""

    def __init__(self, path: Path, facts: MasterFacts) -> None:
        self._path, self._facts = path, facts
        with reading(path):
            self._container = open_film(path)
        self._stream = picture_stream(self._container, path)
        self._stream.thread_type = "AUTO"
        self._base = cast(Fraction, self._stream.time_base)
        self._treatment = Treatment(facts.video, whole_picture(facts), frame=False)
        video = facts.video
        scale = min(1.0, LONG_SIDE / max(video.display_width, video.display_height))
        self._raster = Raster.whole(max(2, round(video.display_width * scale)), max(2, round(video.display_height * scale)))
        self._times = self._all_times() if video.variable_rate else None
        self._held: OrderedDict[int, av.VideoFrame] = OrderedDict()
        pixels = max(1, video.coded_width * video.coded_height * 3 // 2 * (2 if video.bit_depth > 8 else 1))
        self._most = max(4, HELD_BYTES // pixels)
        self._frames: Iterator[av.VideoFrame] | None = None
        self._next = 0

    def read_as(self, facts: MasterFacts) -> None:
        """Show the colours as these facts of the same file say that they are meant."""
        if facts.mending.colour is not self._facts.mending.colour:
            self._facts, self._treatment = facts, Treatment(facts.video, whole_picture(facts), frame=False)

    def _all_times(self) -> list[Fraction]:
        """When every picture of a variable rate starts, in s from the first; read from the packets."""
        stamps = sorted({p.pts for p in self._container.demux(self._stream) if p.pts is not None})
        return [s * self._base - self._facts.video.start_s for s in stamps]

    @property
    def last(self) -> int:
        if self._times:
            return len(self._times) - 1
        return max(0, round(self._facts.duration_s * self._facts.video.frame_rate) - 1)

    def at(self, number: int) -> Fraction:
        return self._times[number] if self._times else Fraction(number) / self._facts.video.frame_rate

    def number_at(self, at_s: Fraction) -> int:
        """The picture that is shown at a time (s from the first): the last that starts at or before it."""
        if self._times:
            return max(0, bisect_right(self._times, at_s) - 1)
        return min(self.last, max(0, int(at_s * self._facts.video.frame_rate)))

    def _number(self, frame: av.VideoFrame) -> int:
        stamp = frame.pts if frame.pts is not None else frame.dts or 0
        at = stamp * (frame.time_base or self._base) - self._facts.video.start_s
        if self._times:
            return max(0, bisect_right(self._times, at) - 1)
        return max(0, round(at * self._facts.video.frame_rate))

    def show(self, number: int, *, exact: bool) -> dict[str, Any]:
        """The picture of that number; unless `exact`, the keyframe before it when that is quicker."""
        number = min(max(0, number), self.last)
        if number not in self._held:
            with reading(self._path):
                self._decode(number, exact)
        shown = number if number in self._held else self._nearest(number)
        frame = self._held[shown]
        data = _in_text(encoded(self._treatment(frame, 0), "jpg", self._raster))
        return {"number": shown, "at_s": float(self.at(shown)), "exact": shown == number, "jpeg": data}

    def near(self, number: int) -> av.VideoFrame:
        """The decoded picture nearest before a number that is to be had at once: the very one where it is held, else its keyframe."""
        number = min(max(0, number), self.last)
        if number not in self._held:
            with reading(self._path):
                self._decode(number, exact=False)
        return self._held[number if number in self._held else self._nearest(number)]

    def picture(self, number: int) -> av.VideoFrame:
        """The decoded picture of that number."""
        with reading(self._path):
            return self._exact(number)

    def framed(self, number: int, plan: VideoPlan) -> av.VideoFrame:
        """One picture as it goes into the encoder: cropped, scaled, sharpened, between its bars."""
        return Treatment(self._facts.video, plan, frame=True)(self._whole(number, plan, second=False), 0)

    def kept(self, at_s: Fraction, plan: VideoPlan) -> av.VideoFrame:
        """The master's kept picture that a plan shows at a time (s from the first), at the master's own size."""
        number = self.number_at(at_s)
        second = plan.field_rate and at_s - self.at(number) >= 1 / (2 * self._facts.video.frame_rate)
        return Treatment(self._facts.video, plan, frame=False)(self._whole(number, plan, second=second), 0)

    def _whole(self, number: int, plan: VideoPlan, *, second: bool) -> av.VideoFrame:
        """A picture that is no longer of two fields: the first of them, or where each gives a picture the `second`."""
        number = min(max(0, number), self.last)
        with reading(self._path):
            if plan.deinterlace.value is FieldOrder.NONE:
                return self._exact(number)
            around = [self._exact(near) for near in (number - 1, number, number + 1)]  # fields need the pictures beside
            made = list(deinterlaced(iter(around), plan.deinterlace.value, each_field=plan.field_rate))
            return made[2 + second] if plan.field_rate else made[1]

    def _exact(self, number: int) -> av.VideoFrame:
        number = min(max(0, number), self.last)
        if number not in self._held:
            self._decode(number, True)
        if number not in self._held:
            raise UnreadableMaster(f"{self._path.name} has no picture here.", "Choose another place.", code="truncated")
        return self._held[number]

    def packed_picture(self, number: int, plan: VideoPlan) -> dict[str, Any]:
        """The treated picture as a JPEG, not scaled any further."""
        framed = self.framed(number, plan)
        return {"number": number, "jpeg": _in_text(encoded(framed, "jpg", Raster.whole(framed.width, framed.height)))}

    def effect(self, number: int, plan: VideoPlan) -> dict[str, Any]:
        """The same place of one picture with and without sharpening, pixel for pixel: where it has most fine detail."""
        plain, sharp = (self.framed(number, one) for one in (_sharpened(plan, 0.0), plan))
        luma = plain.reformat(format="gray").to_ndarray().astype(np.int32)
        width, height = min(EFFECT_PX[0], plain.width), min(EFFECT_PX[1], plain.height)
        x, y = busiest(luma, width, height)
        return {
            "number": number, "x": x, "y": y, "width": width, "height": height,
            "off": _in_text(encoded(plain, "png", _part(plain, x, y, width, height))),
            "on": _in_text(encoded(sharp, "png", _part(sharp, x, y, width, height))),
        }

    def _nearest(self, number: int) -> int:
        before = [held for held in self._held if held <= number]
        if not before and not self._held:
            raise UnreadableMaster(f"{self._path.name} has no picture here.", "Choose another place.", code="truncated")
        return max(before) if before else min(self._held)

    def _decode(self, number: int, exact: bool) -> None:
        near = self._frames is not None and self._next <= number < self._next + 2 * self._most
        if not near or not exact:
            place = (self.at(number) + Fraction(1, 4) / self._facts.video.frame_rate + self._facts.video.start_s)
            self._container.seek(int(max(Fraction(0), place) / self._base), stream=self._stream, backward=True)
            self._frames = self._container.decode(self._stream)
        for frame in self._frames or ():
            found = self._number(frame)
            self._held[found] = frame
            self._held.move_to_end(found)
            while len(self._held) > self._most:
                self._held.popitem(last=False)
            self._next = found + 1
            if found >= number or not exact:
                return
        self._frames = None


def _sharpened(plan: VideoPlan, amount: float) -> VideoPlan:
    return plan.model_copy(update={"sharpen": plan.sharpen.model_copy(update={"value": amount})})


def busiest(luma: np.ndarray, width: int, height: int) -> tuple[int, int]:
    """Upper left corner, even, of the window of this size with most change from pixel to pixel; luma is rows × columns."""
    change = np.abs(np.diff(luma, axis=1))[:-1] + np.abs(np.diff(luma, axis=0))[:, :-1]
    sums = np.pad(change.cumsum(0).cumsum(1), ((1, 0), (1, 0)))
    high, wide = min(height - 1, change.shape[0]), min(width - 1, change.shape[1])
    rows, columns = change.shape[0] - high + 1, change.shape[1] - wide + 1
    found = sums[high:, wide:][:rows, :columns] - sums[:rows, wide:][:, :columns] - sums[high:, :columns][:rows] + sums[:rows, :columns]
    y, x = np.unravel_index(int(found.argmax()), found.shape)
    return int(x) // 2 * 2, int(y) // 2 * 2


def _in_text(data: bytes) -> str:
    return base64.b64encode(data).decode()


def _part(picture: av.VideoFrame, x: int, y: int, width: int, height: int) -> Raster:
    """A raster that cuts a part out of a picture, pixel for pixel."""
    return Raster(frame_width=picture.width, frame_height=picture.height, x=x, y=y, width=width, height=height)
