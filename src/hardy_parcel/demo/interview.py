"""Keeper's interview: a phone's capture, stored turned, with a variable frame rate and sound that is far too loud."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw

from ..media.film import Traits
from . import paint, sounds

WIDTH, HEIGHT, RATE, PICTURES = 720, 1280, Fraction(30), 200


def _times() -> tuple[float, ...]:
    """When a busy phone took its pictures: thirty a second, slower in the dark corner, a gap now and then."""
    rng = np.random.default_rng(6)
    times, now = [], 0.0
    for number in range(PICTURES):
        times.append(now)
        pace = 1 / 30 if not 90 < number < 130 else 1 / 24
        now += pace * (1 + 0.06 * rng.uniform(-1, 1)) * (2 if number % 47 == 31 else 1)
    return tuple(times)


TRAITS = Traits(turned_deg=90, times_s=_times())


def _room() -> Image.Image:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.rectangle([0, 0, 760 * k, 1320 * k], fill=paint.rgb("#b9a98a"))
        for x in range(0, 760, 64):
            d.line([x * k, 0, x * k, 1320 * k], fill=paint.rgb("#a99878"), width=int(3 * k))
        d.rectangle([80 * k, 120 * k, 420 * k, 560 * k], fill=paint.rgb("#efe6d2"))
        d.rectangle([100 * k, 140 * k, 400 * k, 540 * k], fill=paint.rgb("#a9c3cf"))
        d.rectangle([100 * k, 400 * k, 400 * k, 540 * k], fill=paint.rgb("#5d8291"))
        d.line([250 * k, 140 * k, 250 * k, 540 * k], fill=paint.rgb("#efe6d2"), width=int(10 * k))
        d.rectangle([500 * k, 200 * k, 690 * k, 214 * k], fill=paint.rgb("#6d543a"))
        for number, colour in enumerate(("#7a2f28", "#2f5a6d", "#c79a4a", "#4b5a3c", "#2b2b33")):
            d.rectangle([(510 + 34 * number) * k, (120 + 10 * (number % 3)) * k, (538 + 34 * number) * k, 200 * k], fill=paint.rgb(colour))

    return paint.painted(760, 1320, draw)


def _keeper() -> paint.Layer:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.ellipse([20 * k, 430 * k, 540 * k, 1100 * k], fill=paint.rgb("#24384a"))
        d.rectangle([230 * k, 380 * k, 330 * k, 470 * k], fill=paint.rgb("#c08d6c"))
        d.ellipse([150 * k, 100 * k, 410 * k, 430 * k], fill=paint.rgb("#d3a07d"))
        d.pieslice([140 * k, 60 * k, 420 * k, 330 * k], 180, 360, fill=paint.rgb("#1b2733"))
        d.rectangle([130 * k, 180 * k, 430 * k, 206 * k], fill=paint.rgb("#101820"))
        d.chord([170 * k, 250 * k, 390 * k, 450 * k], 10, 170, fill=paint.rgb("#e9e4da"))
        for x in (226, 320):
            d.ellipse([x * k, 236 * k, (x + 18) * k, 256 * k], fill=paint.rgb("#2a2320"))

    return paint.Layer(paint.painted(560, 1000, draw))


def _mouth(opening: float) -> paint.Layer:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        reach = 4 + 20 * opening
        d.ellipse([4 * k, (28 - reach) * k, 84 * k, (28 + reach) * k], fill=paint.rgb("#7d3a34"))

    return paint.Layer(paint.painted(88, 56, draw))


def turned(plane: np.ndarray) -> np.ndarray:
    """A plane lying on its side."""
    return np.ascontiguousarray(np.rot90(plane, 3))


def pictures() -> Iterator[paint.Planes]:
    """Every picture, turned as the phone stores it."""
    luma, blue, red = paint.picture_planes(_room())
    keeper, mouths = _keeper(), [_mouth(n / 5) for n in range(6)]
    grain = paint.Grain(66, HEIGHT, WIDTH, 2.0)
    for number, moment in enumerate(TRAITS.times_s or ()):
        dx, dy = int(12 + 9 * math.sin(moment * 1.9)) // 2 * 2, int(14 + 8 * math.sin(moment * 1.3 + 1)) // 2 * 2
        y = luma[dy : dy + HEIGHT, dx : dx + WIDTH].copy()
        b, r = (plane[dy // 2 : dy // 2 + HEIGHT // 2, dx // 2 : dx // 2 + WIDTH // 2].copy() for plane in (blue, red))
        x, top = 100 + int(10 * math.sin(moment * 2.3)) // 2 * 2, 270 + int(6 * math.sin(moment * 3.1)) // 2 * 2
        keeper.over(y, b, r, x, top)
        mouths[int(2.5 + 2.49 * math.sin(moment * 13) * math.sin(moment * 2.2))].over(y, b, r, x + 236, top + 330)
        shown = paint.to_planes(y + grain(number), b, r)
        yield turned(shown[0]), turned(shown[1]), turned(shown[2])


def sound() -> np.ndarray:
    """The keeper's murmur, recorded far too hot: cut off at the limit."""
    seconds = (TRAITS.times_s or (0.0,))[-1] + 0.03
    voice = sounds.murmur(67, seconds, pitch_hz=104)
    hot = np.clip(voice / np.abs(voice).max() * 7 + 0.02 * sounds.sea(69, seconds), -0.98, 0.98)
    return np.stack([hot, hot]).astype(np.float32)
