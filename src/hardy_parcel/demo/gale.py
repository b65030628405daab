"""Gale over the skerry: 1920×1080, 50p, rain and breaking water. Hard to code."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from . import paint, sounds

WIDTH, HEIGHT, RATE, SECONDS = 1920, 1080, Fraction(50), 5.0
HORIZON = 640
LAMP_X, LAMP_Y = 1236, 262


def _sky() -> Image.Image:
    stops = ((0.0, "#4a5c6b"), (0.45, "#7d8b92"), (0.8, "#b9b7ab"), (1.0, "#d9d0b8"))
    rows = np.linspace(0, 1, HORIZON + 40)
    marks = [s for s, _ in stops]
    bands = [np.interp(rows, marks, [paint.rgb(c)[i] for _, c in stops]) for i in range(3)]
    sky = np.repeat(np.stack(bands, axis=-1)[:, None, :], WIDTH, axis=1)
    picture = np.zeros((HEIGHT, WIDTH, 3), np.float32)
    picture[: HORIZON + 40] = sky
    picture[HORIZON + 40 :] = paint.rgb("#4d6470")
    return Image.fromarray(picture.astype(np.uint8))


def _skerry() -> paint.Layer:
    rng = np.random.default_rng(7)

    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        outline = [(820, 800), (870, 706), (930, 676), (985, 628), (1060, 606), (1150, 590), (1330, 588),
                   (1400, 610), (1470, 655), (1560, 690), (1620, 742), (1690, 800)]
        d.polygon([(x * k, y * k) for x, y in outline], fill=paint.rgb("#2c3238"))
        for _ in range(420):
            x, y = rng.uniform(850, 1660), rng.uniform(596, 800)
            length, tilt = rng.uniform(14, 70), rng.uniform(-7, 9)
            edges = np.interp((x, x + length), [p[0] for p in outline], [p[1] for p in outline])
            if y < edges.max() + 10:
                continue
            tone = ("#3d454b", "#222830", "#4b5357", "#343a3c")[int(rng.integers(4))]
            d.line([x * k, y * k, (x + length) * k, (y + tilt) * k], fill=paint.rgb(tone), width=int(rng.uniform(2, 6) * k))
        _tower(d, k)

    return paint.Layer(paint.painted(WIDTH, HEIGHT, draw))


def _tower(d: ImageDraw.ImageDraw, k: float) -> None:
    base, top, low_half, high_half = 598, 300, 56, 35

    def half(share: float) -> float:
        return low_half + (high_half - low_half) * share

    def ring(a: float, b: float, left: str, right: str) -> None:
        ya, yb = base + (top - base) * a, base + (top - base) * b
        x = LAMP_X
        d.polygon([(x * k - half(a) * k, ya * k), (x * k + half(a) * k, ya * k),
                   (x * k + half(b) * k, yb * k), (x * k - half(b) * k, yb * k)], fill=paint.rgb(left))
        d.polygon([(x * k + half(a) * 0.25 * k, ya * k), (x * k + half(a) * k, ya * k),
                   (x * k + half(b) * k, yb * k), (x * k + half(b) * 0.25 * k, yb * k)], fill=paint.rgb(right))

    for number in range(5):
        light, shade = ("#efe9da", "#cfc9bd") if number % 2 == 0 else ("#b13a2b", "#8c2c22")
        ring(number / 5, (number + 1) / 5, light, shade)
    for share in (0.18, 0.48, 0.78):
        y = base + (top - base) * share
        d.rectangle([(LAMP_X - 9) * k, (y - 13) * k, (LAMP_X + 5) * k, (y + 9) * k], fill=paint.rgb("#39424a"))
    d.rectangle([(LAMP_X - 50) * k, 290 * k, (LAMP_X + 50) * k, 302 * k], fill=paint.rgb("#2a2f36"))
    for x in range(-48, 49, 16):
        d.line([(LAMP_X + x) * k, 272 * k, (LAMP_X + x) * k, 292 * k], fill=paint.rgb("#2a2f36"), width=int(3 * k))
    d.line([(LAMP_X - 50) * k, 272 * k, (LAMP_X + 50) * k, 272 * k], fill=paint.rgb("#2a2f36"), width=int(3 * k))
    d.rectangle([(LAMP_X - 27) * k, 232 * k, (LAMP_X + 27) * k, 290 * k], fill=paint.rgb("#f7d98b"))
    for x in (-27, -9, 9, 27):
        d.line([(LAMP_X + x) * k, 232 * k, (LAMP_X + x) * k, 290 * k], fill=paint.rgb("#5a4a32"), width=int(3 * k))
    d.pieslice([(LAMP_X - 34) * k, 202 * k, (LAMP_X + 34) * k, 262 * k], 180, 360, fill=paint.rgb("#2a2f36"))
    d.line([LAMP_X * k, 204 * k, LAMP_X * k, 182 * k], fill=paint.rgb("#2a2f36"), width=int(4 * k))
    d.rectangle([1330 * k, 556 * k, 1420 * k, 612 * k], fill=paint.rgb("#ded7c8"))
    d.polygon([(1320 * k, 558 * k), (1430 * k, 558 * k), (1408 * k, 528 * k), (1342 * k, 528 * k)], fill=paint.rgb("#6d3b31"))
    d.rectangle([1356 * k, 574 * k, 1372 * k, 594 * k], fill=paint.rgb("#f3cf7d"))


def _rain(seed: int, *, count: int, length: float, light: float) -> np.ndarray:
    """A tileable field of slanting streaks, as luma to add."""
    height, width = 1200, 2048
    rng = np.random.default_rng(seed)
    image = Image.new("L", (width, height), 0)
    draw = ImageDraw.Draw(image)
    for _ in range(count):
        x, y, reach = rng.uniform(0, width), rng.uniform(0, height), rng.uniform(0.5, 1) * length
        for dx in (0, -width):
            for dy in (0, -height):
                a, b = x + dx, y + dy
                draw.line([a, b, a - reach * 0.36, b + reach], fill=int(rng.uniform(0.4, 1) * 255), width=1)
    soft = image.filter(ImageFilter.GaussianBlur(0.7))
    return np.asarray(soft, np.float32) / 255 * light


class _Sea:
    """Rows of waves from the horizon to the front, each with its own colour, swell and foam."""

    def __init__(self) -> None:
        self._x = np.arange(WIDTH, dtype=np.float32)
        self._texture = _Field(paint.cloud(31, 512, 2048, slope=1.15, stretch=4))
        self._foam = _Field(paint.cloud(32, 512, 2048, slope=1.0, stretch=2.2))
        colours = ("#8b9a9c", "#74888d", "#5b757d", "#46646e", "#35535f", "#274552")
        self._rows = [
            (HORIZON - 6 + 50 * i + 5 * i * i, 5 + 9 * i, 900 / (1 + 0.55 * i), 2.2 + 1.5 * i,
             paint.to_ycbcr(np.array([[paint.rgb(c)]]))[0, 0])
            for i, c in enumerate(colours)
        ]

    def crest(self, number: int, at_s: float) -> np.ndarray:
        """Upper edge of one row in px by column."""
        base, swell, wave, speed, _ = self._rows[number]
        phase = self._x / wave * 2 * math.pi
        high = np.sin(phase + at_s * speed * 0.9 + number) + 0.5 * np.sin(phase * 2.3 - at_s * speed * 1.3 + 2 * number)
        sharp = 1 - np.abs(np.sin(phase * 0.73 + at_s * speed * 0.6 + number * 1.7))
        return base - swell * (0.45 * high + 0.9 * sharp)

    def paint(self, luma: np.ndarray, blue: np.ndarray, red: np.ndarray, at_s: float, only: range) -> None:
        for number in only:
            crest = self.crest(number, at_s)
            colour = self._rows[number][4]
            top = max(0, int(crest.min()) - 1) // 2 * 2
            bottom = HEIGHT if number == 5 else min(HEIGHT, self._rows[number + 1][0] + 90) // 2 * 2
            depth = np.arange(top, bottom, dtype=np.float32)[:, None] - crest[None, :]
            cover = np.clip(depth + 0.5, 0, 1)
            shift_x, shift_y = int(at_s * (50 + 55 * number)), int(at_s * 9 * number) + 61 * number
            texture = self._texture.cut(shift_y, shift_x, bottom - top)
            foam = self._foam.cut(shift_y + 17, int(shift_x * 1.3) + 300, bottom - top)
            tone = colour[0] + texture * (4 + 2.2 * number) - np.minimum(depth, 90) * 0.14
            near = np.exp(-np.maximum(depth, 0) / (7 + 6.5 * number))
            white = np.clip((foam - 1.25 + 1.9 * near) * 1.8, 0, 1) * (0.55 + 0.08 * number)
            tone += (216 - tone) * white
            part = luma[top:bottom]
            part += (tone - part) * cover
            half, white_half = cover[::2, ::2], white[::2, ::2]
            for plane, value in ((blue, colour[1]), (red, colour[2])):
                own = plane[top // 2 : bottom // 2]
                own += (value + (128 - value) * white_half - own) * half


class _Field:
    """A tileable field that can be cut anywhere: it is laid out several times, so that a cut is only a view."""

    def __init__(self, tile: np.ndarray) -> None:
        self._size = tile.shape
        self._laid = np.tile(tile, (1 + -(-HEIGHT // tile.shape[0]), 2))

    def cut(self, y: int, x: int, rows: int) -> np.ndarray:
        """WIDTH columns and `rows` rows from a corner that wraps round."""
        y, x = y % self._size[0], x % self._size[1]
        return self._laid[y : y + rows, x : x + WIDTH]


class _Spray:
    """Water thrown up where the sea meets the rock."""

    def __init__(self) -> None:
        rng = np.random.default_rng(77)
        n = 2600
        self._born = rng.uniform(-2.0, SECONDS, n)
        self._x = np.where(rng.uniform(size=n) < 0.6, rng.normal(880, 46, n), rng.normal(1610, 60, n))
        burst = np.sin(self._born * 2.4) ** 2
        self._up = rng.uniform(120, 560, n) * (0.35 + 0.65 * burst)
        self._side = rng.normal(70, 85, n)
        self._size = rng.integers(1, 4, n)

    def paint(self, luma: np.ndarray, at_s: float) -> None:
        age = at_s - self._born
        alive = (age > 0) & (age < 1.6)
        x = (self._x + self._side * age)[alive].astype(int)
        y = (790 - self._up * age + 330 * age**2)[alive].astype(int)
        light, size = (165 * (1 - age[alive] / 1.6)), self._size[alive]
        for px, py, add, s in zip(x, y, light, size, strict=True):
            if 4 <= px < WIDTH - 6 and 4 <= py < HEIGHT - 6:
                spot = luma[py : py + s + 1, px : px + s + 1]
                spot += (232 - spot) * (add / 200)


def _beam(at_s: float, across: np.ndarray, down: np.ndarray) -> np.ndarray:
    """Light of the turning lamp at a quarter of the size: two opposite fans seen almost from the side."""
    turn = at_s * 1.15 + 0.6
    facing = math.cos(turn)
    dx, dy = across - LAMP_X, down - LAMP_Y
    reach = np.hypot(dx, dy) + 1
    glow = 46 * np.exp(-reach / 70)
    for side in (facing, -facing):
        along = dx * side / (abs(side) + 1e-6)
        spread = np.abs(dy - 0.03 * dx) / (10 + 0.055 * np.maximum(along, 0))
        glow = glow + np.where(along > 0, 58 * abs(side) ** 0.7 * np.exp(-(spread**2)) * np.exp(-along / 1400), 0)
    return glow


def pictures() -> Iterator[paint.Planes]:
    """Every picture of the film."""
    luma0, blue0, red0 = paint.picture_planes(_sky())
    clouds = _Field(paint.cloud(21, 1024, 2048, slope=1.75, stretch=2.4))
    scud = _Field(paint.cloud(22, 1024, 2048, slope=1.5, stretch=3))
    skerry, sea, spray, grain = _skerry(), _Sea(), _Spray(), paint.Grain(5, HEIGHT, WIDTH, 2.6)
    near = _Field(_rain(62, count=900, length=92, light=44))
    rain = ((_Field(_rain(61, count=2600, length=46, light=30)), 26, 71), (near, 44, 121))
    across, down = np.meshgrid(np.arange(0, WIDTH, 4, dtype=np.float32), np.arange(0, HEIGHT, 4, dtype=np.float32))
    fade = np.linspace(1, 0.25, HORIZON)[:, None]
    for number in range(int(SECONDS * RATE)):
        at_s = number / float(RATE)
        luma, blue, red = luma0.copy(), blue0.copy(), red0.copy()
        sky = 15 * clouds.cut(90, int(at_s * 46), HORIZON) + 8 * scud.cut(300, int(at_s * 118), HORIZON)
        luma[:HORIZON] += sky * fade
        sea.paint(luma, blue, red, at_s, range(2))
        luma += np.asarray(
            Image.fromarray(_beam(at_s, across, down).astype(np.float32)).resize((WIDTH, HEIGHT), Image.Resampling.BILINEAR)
        )
        skerry.over(luma, blue, red)
        sea.paint(luma, blue, red, at_s, range(2, 6))
        spray.paint(luma, at_s)
        for field, sideways, fall in rain:
            luma += field.cut(-number * fall, number * sideways, HEIGHT)
        luma += grain(number)
        yield paint.to_planes(luma, blue, red)


def sound() -> np.ndarray:
    """Wind and breakers with the foghorn once."""
    horn = sounds.foghorn(SECONDS, at_s=1.2, long_s=2.2) * 0.22
    left = sounds.wind(11, SECONDS) * 0.5 + sounds.sea(13, SECONDS) * 0.6 + horn
    right = sounds.wind(17, SECONDS) * 0.5 + sounds.sea(19, SECONDS) * 0.6 + horn * 0.8
    return sounds.stereo(left, right, peak=0.62)
