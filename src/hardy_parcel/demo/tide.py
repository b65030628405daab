"""Tide table explained: 1280×720, 25p, flat graphics and small text, three blank seconds left at the end."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction
from typing import Any

import numpy as np
from PIL import Image, ImageDraw

from . import paint, sounds

WIDTH, HEIGHT, RATE = 1280, 720, Fraction(25)
TABLE_S, CURVE_S, BLANK_S = 5.0, 5.0, 3.0
SECONDS = TABLE_S + CURVE_S + BLANK_S
CREAM, INK, DEEP, SEA, RED, SAND, MUTED = "#f3eee2", "#1b2f3f", "#15505f", "#3f8d95", "#b8432f", "#dcc9a0", "#6a7680"

DAYS = (
    ("Mon 2", "04:12", "1.2", "10:31", "4.6", "16:40", "1.4", "22:54", "4.4"),
    ("Tue 3", "04:55", "1.0", "11:14", "4.8", "17:22", "1.2", "23:36", "4.6"),
    ("Wed 4", "05:37", "0.8", "11:56", "5.0", "18:04", "1.0", "", ""),
    ("Thu 5", "00:18", "4.7", "06:19", "0.7", "12:38", "5.1", "18:46", "0.9"),
    ("Fri 6", "01:01", "4.8", "07:02", "0.7", "13:21", "5.0", "19:30", "0.9"),
    ("Sat 7", "01:46", "4.7", "07:48", "0.8", "14:07", "4.8", "20:16", "1.1"),
    ("Sun 8", "02:33", "4.5", "08:36", "1.0", "14:56", "4.5", "21:06", "1.3"),
)


def _lighthouse(draw: ImageDraw.ImageDraw, x: float, y: float, s: float) -> None:
    tower = [(x - 26 * s, y), (x + 26 * s, y), (x + 17 * s, y - 150 * s), (x - 17 * s, y - 150 * s)]
    draw.polygon(tower, fill=paint.rgb("#fbf8f0"))
    for k in (0, 2):
        low, high = k / 4, (k + 1) / 4
        def half(share: float) -> float:
            return (26 - 9 * share) * s
        draw.polygon(
            [(x - half(low), y - 150 * s * low), (x + half(low), y - 150 * s * low),
             (x + half(high), y - 150 * s * high), (x - half(high), y - 150 * s * high)], fill=paint.rgb(RED),
        )
    draw.rectangle([x - 24 * s, y - 158 * s, x + 24 * s, y - 150 * s], fill=paint.rgb(INK))
    draw.rectangle([x - 12 * s, y - 186 * s, x + 12 * s, y - 158 * s], fill=paint.rgb("#f4cf7a"))
    draw.polygon([(x - 17 * s, y - 186 * s), (x + 17 * s, y - 186 * s), (x, y - 208 * s)], fill=paint.rgb(INK))


def _table() -> Image.Image:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.text((70 * k, 44 * k), "Tide table explained", font=paint.font(46 * k), fill=paint.rgb(INK))
        d.text((72 * k, 104 * k), "Skerry Point harbour wall · heights in metres above chart datum",
               font=paint.font(17 * k), fill=paint.rgb(MUTED))
        d.line([70 * k, 152 * k, 900 * k, 152 * k], fill=paint.rgb(INK), width=int(2 * k))
        heads = ("", "time", "m", "time", "m", "time", "m", "time", "m")
        for column, head in enumerate(heads):
            d.text((_column(column) * k, 160 * k), head, font=paint.font(14 * k), fill=paint.rgb(MUTED))
        for row, day in enumerate(DAYS):
            y = _row(row)
            d.line([70 * k, (y - 17) * k, 900 * k, (y - 17) * k], fill=paint.rgb("#d8cfba"), width=int(k))
            for column, text in enumerate(day):
                d.text((_column(column) * k, y * k), text, font=paint.font((21 if column == 0 else 19) * k),
                       fill=paint.rgb(INK if column % 2 == 0 else DEEP))
        d.text((72 * k, 640 * k), "Times are local. Wind from the north-west adds up to 0.3 m; add one hour in summer.",
               font=paint.font(13 * k), fill=paint.rgb(MUTED))
        d.ellipse([930 * k, 430 * k, 1330 * k, 830 * k], fill=paint.rgb(SEA))
        skerry = [(985 * k, 560 * k), (1030 * k, 500 * k), (1180 * k, 492 * k), (1250 * k, 560 * k)]
        d.polygon(skerry, fill=paint.rgb("#47525a"))
        _lighthouse(d, 1110 * k, 500 * k, 1.5 * k)

    return paint.painted(WIDTH, HEIGHT, draw, ground=CREAM)


def _column(number: int) -> int:
    return 72 if number == 0 else (200 + (number - 1) // 2 * 175 + (number - 1) % 2 * 82)


def _row(number: int) -> int:
    return 206 + number * 58


def _graph() -> Image.Image:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.text((70 * k, 44 * k), "Thursday: when is there water at the wall?", font=paint.font(38 * k), fill=paint.rgb(INK))
        for metre in range(7):
            y = _level(metre)
            d.line([110 * k, y * k, 1210 * k, y * k], fill=paint.rgb("#ddd4c0"), width=int(k))
            d.text((72 * k, (y - 9) * k), f"{metre} m", font=paint.font(14 * k), fill=paint.rgb(MUTED))
        for hour in range(0, 25, 3):
            x = 110 + 1100 * hour / 24
            d.line([x * k, 598 * k, x * k, 606 * k], fill=paint.rgb(INK), width=int(2 * k))
            d.text(((x - 18) * k, 612 * k), f"{hour:02d}:00", font=paint.font(14 * k), fill=paint.rgb(MUTED))
        y = _level(2.4)
        for x in range(110, 1210, 14):
            d.line([x * k, y * k, (x + 7) * k, y * k], fill=paint.rgb(RED), width=int(2 * k))
        d.text((118 * k, (y + 6) * k), "the slip dries below 2.4 m", font=paint.font(15 * k), fill=paint.rgb(RED))

    return paint.painted(WIDTH, HEIGHT, draw, ground=CREAM)


def _level(metres: Any) -> Any:
    return 598 - metres * 74


def _tide(hour: Any) -> Any:
    return 2.85 - 2.2 * np.cos((hour - 0.3) / 12.42 * 2 * math.pi + math.pi) + 0.12 * np.sin(hour)


def _boat() -> paint.Layer:
    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        d.polygon([(4 * k, 50 * k), (76 * k, 50 * k), (64 * k, 70 * k), (14 * k, 70 * k)], fill=paint.rgb(RED))
        d.line([36 * k, 50 * k, 36 * k, 6 * k], fill=paint.rgb(INK), width=int(3 * k))
        d.polygon([(39 * k, 8 * k), (39 * k, 44 * k), (68 * k, 44 * k)], fill=paint.rgb("#fbf8f0"))
        d.polygon([(33 * k, 16 * k), (33 * k, 44 * k), (12 * k, 44 * k)], fill=paint.rgb(SAND))

    return paint.Layer(paint.painted(80, 76, draw))


def _table_scene(count: int) -> Iterator[paint.Planes]:
    luma, blue, red = paint.picture_planes(_table())
    mark = paint.to_ycbcr(np.array([[paint.rgb("#f6dd9a")]]))[0, 0]
    for number in range(count):
        y, b, r = luma.copy(), blue.copy(), red.copy()
        place = _row(0) - 17 + 58 * 6 * (0.5 - 0.5 * math.cos(math.pi * min(1, max(0, number / count * 1.15 - 0.05))))
        top = int(place) // 2 * 2
        band = y[top : top + 58, 64:904]
        paper = band > 200
        band[paper] = mark[0]
        for plane, value in ((b, mark[1]), (r, mark[2])):
            half = plane[top // 2 : top // 2 + 29, 32:452]
            half[paper[::2, ::2]] = value
        yield paint.to_planes(y, b, r)


def _curve_scene(count: int) -> Iterator[paint.Planes]:
    luma, blue, red = paint.picture_planes(_graph())
    boat = _boat()
    water = paint.to_ycbcr(np.array([[paint.rgb(SEA)]]))[0, 0]
    line = paint.to_ycbcr(np.array([[paint.rgb(DEEP)]]))[0, 0]
    columns = np.arange(110, 1210)
    heights = _level(_tide((columns - 110) / 1100 * 24))
    rows = np.arange(HEIGHT)[:, None]
    for number in range(count):
        y, b, r = luma.copy(), blue.copy(), red.copy()
        reach = min(1099, int(1100 * (0.02 + 0.98 * number / (count - 1))))
        ripple = 1.6 * np.sin(columns[:reach] / 17 + number / 4)
        under = (rows > heights[None, :reach] + ripple[None, :]) & (rows < 598)
        part = y[:, 110 : 110 + reach]
        part[under] = part[under] * 0.45 + water[0] * 0.55
        half_under = under[::2, ::2]
        for plane, value in ((b, water[1]), (r, water[2])):
            half = plane[:, 55 : 55 + half_under.shape[1]]
            half[half_under] = half[half_under] * 0.45 + value * 0.55
        edge = np.abs(rows - heights[None, :reach] - ripple[None, :]) < 1.8
        part[edge] = line[0]
        x = int(min(1200, 110 + reach) - 40) // 2 * 2
        top = int(heights[reach - 1] - 66 + 3 * math.sin(number / 5)) // 2 * 2
        boat.over(y, b, r, max(0, x), max(0, top))
        yield paint.to_planes(y, b, r)


def pictures() -> Iterator[paint.Planes]:
    """Every picture of the film."""
    yield from _table_scene(int(TABLE_S * RATE))
    yield from _curve_scene(int(CURVE_S * RATE))
    blank = (
        np.full((HEIGHT, WIDTH), 16, np.uint8),
        np.full((HEIGHT // 2, WIDTH // 2), 128, np.uint8),
        np.full((HEIGHT // 2, WIDTH // 2), 128, np.uint8),
    )
    for _ in range(int(BLANK_S * RATE)):
        yield blank


def sound() -> np.ndarray:
    """A murmur that explains, over quiet sea; silence at the end."""
    talking = TABLE_S + CURVE_S
    voice = sounds.murmur(41, talking, pitch_hz=132)
    waves = sounds.sea(44, talking)
    told = sounds.stereo(
        voice / np.abs(voice).max() + 0.03 * waves, voice / np.abs(voice).max() + 0.03 * sounds.sea(47, talking), peak=0.5
    )
    return np.concatenate([told, np.zeros((2, int(BLANK_S * sounds.RATE)), np.float32)], axis=1)
