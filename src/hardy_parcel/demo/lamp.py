"""Lamp room, upright: 1080×1920, 30p, a turning lens with glints."""

from __future__ import annotations

import math
from collections.abc import Iterator
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw, ImageFilter

from . import paint, sounds

WIDTH, HEIGHT, RATE, SECONDS = 1080, 1920, Fraction(30), 5.0
CENTRE_X, CENTRE_Y, RADIUS, HALF_HEIGHT = 540, 930, 330, 470
PANELS = 6


def _room() -> Image.Image:
    """Night behind the panes, brass and floor in front of it; the lens itself is painted picture by picture."""
    rows = np.linspace(0, 1, HEIGHT)
    shades = [paint.rgb(c) for c in ("#101a2e", "#2b3a58", "#594a4c", "#2a2019")]
    bands = [np.interp(rows, (0, 0.55, 0.72, 1), [shade[i] for shade in shades]) for i in range(3)]
    picture = Image.fromarray(np.repeat(np.stack(bands, -1)[:, None, :], WIDTH, 1).astype(np.uint8))
    rng = np.random.default_rng(3)

    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        for _ in range(170):
            x, y, r = rng.uniform(0, WIDTH), rng.uniform(60, 1080), rng.uniform(0.6, 2.0)
            d.ellipse([(x - r) * k, (y - r) * k, (x + r) * k, (y + r) * k], fill=(226, 226, 214, int(rng.uniform(60, 200))))
        d.polygon([(0, 1210 * k), (260 * k, 1176 * k), (430 * k, 1198 * k), (700 * k, 1184 * k), (1080 * k, 1204 * k),
                   (1080 * k, 1330 * k), (0, 1330 * k)], fill=(22, 32, 44, 255))
        for x in (40, 392, 688, 1040):
            d.line([x * k, 0, (540 + (x - 540) * 1.06) * k, 1400 * k], fill=(30, 28, 30, 255), width=int(20 * k))
            d.line([(x + 5) * k, 0, (545 + (x - 540) * 1.06) * k, 1400 * k], fill=(96, 82, 66, 255), width=int(4 * k))
        for y in (300, 1040):
            d.line([0, y * k, 1080 * k, y * k], fill=(34, 32, 34, 255), width=int(14 * k))
        d.rectangle([0, 1392 * k, 1080 * k, 1432 * k], fill=(58, 44, 32, 255))
        d.rectangle([0, 1432 * k, 1080 * k, 1920 * k], fill=(38, 29, 23, 255))
        for x in range(-600, 1700, 116):
            d.line([(540 + (x - 540) * 0.66) * k, 1432 * k, x * k, 1920 * k], fill=(52, 40, 31, 255), width=int(4 * k))
        d.ellipse([250 * k, 1420 * k, 830 * k, 1560 * k], fill=(104, 78, 44, 255))
        d.ellipse([270 * k, 1424 * k, 810 * k, 1530 * k], fill=(148, 112, 62, 255))
        d.polygon([(400 * k, 1470 * k), (680 * k, 1470 * k), (620 * k, 1380 * k), (460 * k, 1380 * k)], fill=(120, 90, 50, 255))
        for top, bottom in ((400, 460), (1396, 1436)):
            d.rounded_rectangle([190 * k, top * k, 890 * k, bottom * k], radius=18 * k, fill=(156, 118, 64, 255))
            d.rectangle([190 * k, (top + 8) * k, 890 * k, (top + 16) * k], fill=(220, 186, 120, 255))
        d.polygon([(270 * k, 404 * k), (810 * k, 404 * k), (640 * k, 268 * k), (440 * k, 268 * k)], fill=(122, 92, 52, 255))
        d.ellipse([500 * k, 220 * k, 580 * k, 290 * k], fill=(156, 118, 64, 255))

    layer = paint.painted(WIDTH, HEIGHT, draw)
    picture.paste(layer, (0, 0), layer)
    return picture


class _Lens:
    """A drum of glass rings: each column looks through one panel, each row through one prism."""

    def __init__(self) -> None:
        self.top, self.left = CENTRE_Y - HALF_HEIGHT, CENTRE_X - RADIUS
        y = np.arange(2 * HALF_HEIGHT, dtype=np.float32)[:, None] - HALF_HEIGHT
        x = np.arange(2 * RADIUS, dtype=np.float32)[None, :] - RADIUS
        bulge = np.sqrt(np.clip(1 - (y / (HALF_HEIGHT * 1.04)) ** 2, 0, 1)) ** 0.45
        self._inside = np.clip((RADIUS * bulge - np.abs(x)) * 0.5, 0, 1)
        share = np.clip(x / np.maximum(RADIUS * bulge, 1), -1, 1)
        self._angle = np.arcsin(share)
        self._facing = np.cos(self._angle)
        self._y, self._x = y, x
        pitch = np.where(np.abs(y) < 90, 180, 26 + np.abs(y) * 0.03)
        self._prism = (np.abs(y) % pitch) / pitch
        self._seam = np.exp(-(((self._prism - 0.02) / 0.05) ** 2)) * (np.abs(y) >= 88)

    def paint(self, luma: np.ndarray, blue: np.ndarray, red: np.ndarray, at_s: float) -> None:
        turn = self._angle + at_s * 0.85
        panel = (turn * PANELS / (2 * math.pi)) % 1 - 0.5
        bull = np.hypot(panel * 2.1, self._y / 260)
        ring = np.cos(bull * 21) * np.exp(-bull * 1.6)
        glint = np.exp(-((panel - 0.13 * (self._prism - 0.5) * np.sign(self._y)) ** 2) / 0.0035) * (0.35 + 0.65 * self._prism)
        core = np.exp(-(self._x**2 + (self._y * 0.7) ** 2) / 30000)
        warm = 56 + 76 * self._facing * (0.35 + 0.65 * self._prism) + 34 * ring + 104 * glint * self._facing
        warm = warm + 120 * core * (0.8 + 0.2 * np.sin(at_s * 9)) - 34 * self._seam
        edge = np.exp(-((np.abs(panel) - 0.5) ** 2) / 0.0007)
        warm = warm * (1 - 0.62 * edge)
        lit = np.clip((warm - 60) / 150, 0, 1)
        part = luma[self.top : self.top + 2 * HALF_HEIGHT, self.left : self.left + 2 * RADIUS]
        part += (16 + 0.86 * warm - part) * self._inside
        half = self._inside[::2, ::2]
        for plane, cold, hot in ((blue, 128, 102), (red, 122, 146)):
            own = plane[self.top // 2 : self.top // 2 + HALF_HEIGHT, self.left // 2 : self.left // 2 + RADIUS]
            own += (cold + (hot - cold) * lit[::2, ::2] - own) * half


def _sweep(at_s: float, across: np.ndarray, down: np.ndarray) -> np.ndarray:
    """Light thrown on the room by the panels, at a quarter of the size."""
    dx, dy = across - CENTRE_X, (down - CENTRE_Y) * 0.8
    reach = np.hypot(dx, dy)
    angle = np.arctan2(dy, dx)
    spokes = np.clip(np.cos((angle - at_s * 0.85) * PANELS / 2), 0, 1) ** 24
    return (34 * spokes + 16) * np.exp(-reach / 620) * np.clip(reach / 260, 0, 1)


def pictures() -> Iterator[paint.Planes]:
    """Every picture of the film."""
    room = _room().filter(ImageFilter.GaussianBlur(0.6))
    luma0, blue0, red0 = paint.picture_planes(room)
    lens, grain = _Lens(), paint.Grain(9, HEIGHT, WIDTH, 1.7)
    across, down = np.meshgrid(np.arange(0, WIDTH, 4, dtype=np.float32), np.arange(0, HEIGHT, 4, dtype=np.float32))
    rng = np.random.default_rng(12)
    dust = rng.uniform((0, 300), (WIDTH, 1500), (140, 2))
    drift = rng.normal(0, 14, (140, 2))
    for number in range(int(SECONDS * RATE)):
        at_s = number / float(RATE)
        luma, blue, red = luma0.copy(), blue0.copy(), red0.copy()
        light = Image.fromarray(_sweep(at_s, across, down).astype(np.float32))
        luma += np.asarray(light.resize((WIDTH, HEIGHT), Image.Resampling.BILINEAR))
        lens.paint(luma, blue, red, at_s)
        for x, y in (dust + drift * at_s + 6 * np.sin(at_s + dust / 90)).astype(int):
            if 2 < x < WIDTH - 4 and 2 < y < HEIGHT - 4:
                spot = luma[y : y + 2, x : x + 2]
                spot += (210 - spot) * 0.3
        luma += grain(number)
        yield paint.to_planes(luma, blue, red)


def sound() -> np.ndarray:
    """The clockwork, the wind outside, and the horn far away."""
    drive = sounds.clockwork(SECONDS, per_s=4)
    horn = sounds.foghorn(SECONDS, at_s=2.6, long_s=1.6) * 0.02
    left, right = (0.05 * sounds.wind(seed, SECONDS) + horn for seed in (51, 53))
    return sounds.stereo(drive + left, drive * 0.9 + right, peak=0.33)
