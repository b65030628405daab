"""Aurora, north window: 3840×2160, 24000/1001p, slow gradients with grain. Bands easily."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction

import numpy as np
from PIL import Image, ImageDraw

from . import paint, sounds

WIDTH, HEIGHT, RATE, PICTURES = 3840, 2160, Fraction(24000, 1001), 60
SMALL = 8
"""The curtains are soft, so they are painted at an eighth and enlarged."""


def _curtains(time: float) -> np.ndarray:
    """Brightness of the aurora, 0 to 1, at an eighth of the size."""
    h, w = HEIGHT // SMALL, WIDTH // SMALL
    x, y = np.linspace(0, 1, w, dtype=np.float32)[None, :], np.linspace(0, 1, h, dtype=np.float32)[:, None]
    light = np.zeros((h, w), np.float32)
    for number, (place, reach, sway, speed) in enumerate(((0.26, 0.16, 0.09, 0.5), (0.52, 0.2, 0.12, 0.37), (0.8, 0.13, 0.07, 0.61))):
        foot = 0.62 - 0.1 * np.sin(3.1 * x + number + speed * time)
        fold = place + sway * np.sin(2.2 * y + 1.7 * number + speed * time) + 0.02 * np.sin(19 * y + 2 * time)
        across = np.exp(-(((x - fold) / reach) ** 2))
        ray = 0.75 + 0.25 * np.sin(60 * (x - fold) + 3 * number + 0.8 * time)
        up = np.where(y < foot, np.exp((y - foot) * 2.4), np.exp((foot - y) * 14))
        light += across * up * ray
    return light


def _window() -> paint.Layer:
    """The frame of the north window and the skerries below it, dark against the sky."""
    rng = np.random.default_rng(51)

    def draw(d: ImageDraw.ImageDraw, k: float) -> None:
        dark = paint.rgb("#0a0d12")
        shore = [(0, 1900)] + [(x, 1880 - 70 * abs(np.sin(x / 420)) - rng.uniform(0, 26)) for x in range(0, 3880, 60)] + [(3840, 1900)]
        d.polygon([(x * k, y * k) for x, y in [*shore, (3840, 2160), (0, 2160)]], fill=dark)
        for box in ((0, 0, 3840, 70), (0, 2080, 3840, 2160), (0, 0, 84, 2160), (3756, 0, 3840, 2160), (1890, 0, 1950, 2160)):
            d.rectangle([side * k for side in box], fill=paint.rgb("#1b1512"))

    return paint.Layer(_at_size(draw))


def _at_size(draw: Callable[[ImageDraw.ImageDraw, float], None]) -> Image.Image:
    """Painted at the size itself: at this size, edges need no more smoothing."""
    image = Image.new("RGBA", (WIDTH, HEIGHT), (0, 0, 0, 0))
    draw(ImageDraw.Draw(image), 1.0)
    return image


def pictures() -> Iterator[paint.Planes]:
    """Every picture of the film."""
    window = _window()
    grain = paint.Grain(57, HEIGHT, WIDTH, 1.6)
    rng = np.random.default_rng(53)
    stars = rng.integers(0, (1750, WIDTH - 8), (420, 2))
    shine = rng.uniform(20, 90, 420).astype(np.float32)
    down = np.linspace(0, 1, HEIGHT, dtype=np.float32)[:, None]
    for number in range(PICTURES):
        time = number / float(RATE)
        light = np.asarray(Image.fromarray(_curtains(time)).resize((WIDTH, HEIGHT), Image.Resampling.BILINEAR))
        luma = 24 + 16 * down + 92 * light
        for place in range(2):
            luma[stars[:, 0] + place, stars[:, 1]] += shine * (0.8 + 0.2 * np.sin(7 * time + shine))
        half = light[::2, ::2]
        blue = 128 + 9 - 3 * down[::2] - 12 * half
        red = 128 - 5 - 26 * half + 10 * half**2
        luma = luma + grain(number)
        window.over(luma, blue, red)
        yield paint.to_planes(luma, blue, red)


def sound() -> np.ndarray:
    """A quiet room, wind outside."""
    seconds = PICTURES / float(RATE)
    return sounds.stereo(sounds.wind(58, seconds), sounds.wind(61, seconds), peak=0.25)
