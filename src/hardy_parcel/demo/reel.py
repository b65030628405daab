"""The 1987 reel: 720×576 interlaced, top field first, 4:3 by non-square pixels, BT.601, with baked-in bars."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw

from ..core.master.facts import ColourTags
from ..media.film import Traits
from . import paint, sounds

WIDTH, HEIGHT, RATE, SECONDS = 720, 576, Fraction(25), 7.0
BAR = 66
TRAITS = Traits(
    sample_aspect_ratio=Fraction(16, 15), top_field_first=True,
    colour=ColourTags(primaries="bt470bg", transfer="smpte170m", matrix="bt470bg", range="tv"),
)


def _shore() -> Image.Image:
    """A wider painting that the camera pans over: the skerry, the tower, the boathouse."""
    rng = np.random.default_rng(87)

    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.rectangle([0, 0, 1300 * k, 250 * k], fill=paint.rgb("#93a7b4"))
        for _ in range(14):
            x, y, r = rng.uniform(0, 1300), rng.uniform(20, 150), rng.uniform(30, 90)
            d.ellipse([(x - r * 2) * k, (y - r / 3) * k, (x + r * 2) * k, (y + r / 3) * k], fill=paint.rgb("#b4c0c4"))
        d.rectangle([0, 250 * k, 1300 * k, 444 * k], fill=paint.rgb("#4f6b74"))
        land = ((0, 330), (240, 262), (520, 250), (820, 282), (1000, 258), (1300, 318), (1300, 444), (0, 444))
        d.polygon([(x * k, y * k) for x, y in land], fill=paint.rgb("#5b5a44"))
        d.polygon([(470 * k, 262 * k), (540 * k, 262 * k), (526 * k, 74 * k), (484 * k, 74 * k)], fill=paint.rgb("#e8e2d2"))
        for top in (106, 170, 234):
            d.rectangle([476 * k, top * k, 534 * k, (top + 24) * k], fill=paint.rgb("#9a3b2e"))
        d.rectangle([490 * k, 48 * k, 520 * k, 74 * k], fill=paint.rgb("#f0d480"))
        d.polygon([(480 * k, 48 * k), (530 * k, 48 * k), (505 * k, 28 * k)], fill=paint.rgb("#2d3136"))
        house = ((900, 300), (1040, 300), (1040, 238), (970, 206), (900, 238))
        d.polygon([(x * k, y * k) for x, y in house], fill=paint.rgb("#7c4a32"))
        d.rectangle([950 * k, 256 * k, 986 * k, 300 * k], fill=paint.rgb("#2b2420"))
        for x in range(40, 1280, 37):
            foot = 330 + 20 * math.sin(x / 70)
            d.line([x * k, foot * k, x * k, (foot - 20) * k], fill=paint.rgb("#3d3a2c"), width=int(3 * k))

    return paint.painted(1300, 444, draw, ground="#93a7b4")


def _gull() -> paint.Layer:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.line([2 * k, 12 * k, 24 * k, 22 * k, 46 * k, 12 * k], fill=paint.rgb("#f7f7f2"), width=int(6 * k), joint="curve")

    return paint.Layer(paint.painted(48, 32, draw))


def pictures() -> Iterator[paint.Planes]:
    """Every picture, woven from two fields that were taken a fiftieth of a second apart; tape noise on both."""
    luma, blue, red = paint.picture_planes(_shore())
    gull, grain = _gull(), paint.Grain(89, HEIGHT, WIDTH, 2.2)
    inner = HEIGHT - 2 * BAR

    def field(moment: float) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
        place = 60 + 74 * moment + 3 * math.sin(moment * 5)
        left = int(place)
        y = _slid(luma, place)[:, :WIDTH].copy()
        b, r = (plane[:, left // 2 : left // 2 + WIDTH // 2].copy() for plane in (blue, red))
        for turn in (0.0, 1.3, 2.1):
            x = int((moment * 190 + turn * 260) % (WIDTH - 60)) // 2 * 2
            gull.over(y, b, r, x, int(60 + 34 * math.sin(moment * 2 + turn) + 22 * turn) // 2 * 2)
        return y, b, r

    for number in range(int(SECONDS * RATE)):
        first, second = field(number / 25), field(number / 25 + 0.02)
        woven = first[0]
        woven[1::2] = second[0][1::2]
        whole = np.full((HEIGHT, WIDTH), 16.0, np.float32)
        whole[BAR : BAR + inner] = woven + grain(number)[BAR : BAR + inner]
        chroma = []
        for plane in first[1:]:
            full = np.full((HEIGHT // 2, WIDTH // 2), 128.0, np.float32)
            full[BAR // 2 : BAR // 2 + inner // 2] = (plane - 128) * 0.7 + 128
            chroma.append(full)
        yield paint.to_planes(whole, *chroma)


def _slid(plane: np.ndarray, place: float) -> np.ndarray:
    """The plane from a place between two columns on."""
    left = int(place)
    share = place - left
    return plane[:, left : left + WIDTH] * (1 - share) + plane[:, left + 1 : left + 1 + WIDTH] * share


def sound() -> np.ndarray:
    """Surf and gulls' distance through an old microphone: one channel."""
    surf = sounds.sea(88, SECONDS) + 0.2 * sounds.coloured(90, int(SECONDS * sounds.RATE), low_hz=50, high_hz=5000)
    return sounds.stereo(surf, surf, peak=0.3)[:1]
