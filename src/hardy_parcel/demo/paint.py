"""Brushes: colours, noise, grain, shapes and text as planes for the demo masters."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PIL import Image, ImageDraw, ImageFont

Planes = tuple[np.ndarray, np.ndarray, np.ndarray]


def rgb(text: str) -> tuple[int, int, int]:
    """'#14233b' as three numbers."""
    return int(text[1:3], 16), int(text[3:5], 16), int(text[5:7], 16)


def to_ycbcr(picture: np.ndarray) -> np.ndarray:
    """RGB (h × w × 3, 0–255) to BT.709 limited-range Y, Cb, Cr (float32, same shape), per ITU-R BT.709-6 item 3."""
    r, g, b = (picture[..., i].astype(np.float32) / 255 for i in range(3))
    luma = 0.2126 * r + 0.7152 * g + 0.0722 * b
    return np.stack(
        [16 + 219 * luma, 128 + 224 * (b - luma) / 1.8556, 128 + 224 * (r - luma) / 1.5748], axis=-1
    ).astype(np.float32)


def halved(plane: np.ndarray) -> np.ndarray:
    """Mean of 2 × 2 blocks."""
    return (plane[::2, ::2] + plane[1::2, ::2] + plane[::2, 1::2] + plane[1::2, 1::2]) / 4


def to_planes(luma: np.ndarray, blue: np.ndarray, red: np.ndarray) -> Planes:
    """Float planes clipped to the legal range as uint8."""
    return (
        np.clip(luma + 0.5, 16, 235).astype(np.uint8),
        np.clip(blue + 0.5, 16, 240).astype(np.uint8),
        np.clip(red + 0.5, 16, 240).astype(np.uint8),
    )


def picture_planes(image: Image.Image) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A painted image as float planes, chroma halved."""
    whole = to_ycbcr(np.asarray(image.convert("RGB")))
    return whole[..., 0], halved(whole[..., 1]), halved(whole[..., 2])


def cloud(seed: int, height: int, width: int, *, slope: float = 1.7, stretch: float = 1.0) -> np.ndarray:
    """Tileable fractal noise, mean 0 and deviation 1; `stretch` above 1 draws it out sideways."""
    rng = np.random.default_rng(seed)
    down = np.fft.fftfreq(height)[:, None] * height
    across = np.fft.rfftfreq(width)[None, :] * width * stretch * height / width
    weight = (1 + np.hypot(down, across)) ** -slope
    weight[0, 0] = 0
    noise = np.fft.irfft2(np.fft.rfft2(rng.standard_normal((height, width))) * weight, (height, width))
    return ((noise - noise.mean()) / noise.std()).astype(np.float32)


class Grain:
    """Film grain: one larger noise field, cut at a new place for every picture."""

    def __init__(self, seed: int, height: int, width: int, amount: float) -> None:
        rng = np.random.default_rng(seed)
        raw = rng.standard_normal((height + 128, width + 128)).astype(np.float32)
        soft = (raw + np.roll(raw, 1, 0) + np.roll(raw, 1, 1) + np.roll(raw, (1, 1), (0, 1))) / 2
        self._field = soft * amount
        self._size = height, width
        self._places = rng.integers(0, 128, (997, 2))

    def __call__(self, number: int) -> np.ndarray:
        y, x = self._places[number % len(self._places)]
        return self._field[y : y + self._size[0], x : x + self._size[1]]


def painted(
    width: int, height: int, draw: Callable[[ImageDraw.ImageDraw, float], None], *, ground: str | None = None
) -> Image.Image:
    """An antialiased drawing: `draw` works at twice the size, with that factor given."""
    image = Image.new("RGBA", (width * 2, height * 2), (*rgb(ground), 255) if ground else (0, 0, 0, 0))
    draw(ImageDraw.Draw(image), 2.0)
    return image.resize((width, height), Image.Resampling.LANCZOS)


def font(size: float) -> ImageFont.FreeTypeFont | ImageFont.ImageFont:
    """The drawing library's own scalable face."""
    return ImageFont.load_default(size)


class Layer:
    """An image with transparency, ready to be laid over planes."""

    def __init__(self, image: Image.Image) -> None:
        pixels = np.asarray(image.convert("RGBA"))
        whole = to_ycbcr(pixels[..., :3])
        self._alpha = pixels[..., 3].astype(np.float32) / 255
        self._half_alpha = halved(self._alpha)
        self._luma, self._blue, self._red = whole[..., 0], halved(whole[..., 1]), halved(whole[..., 2])

    @property
    def alpha(self) -> np.ndarray:
        return self._alpha

    def over(self, luma: np.ndarray, blue: np.ndarray, red: np.ndarray, x: int = 0, y: int = 0) -> None:
        """Lay it over the planes in place, its corner at even `x`, `y`, all of it inside."""
        h, w = self._alpha.shape
        for plane, own, alpha, f in (
            (luma, self._luma, self._alpha, 1), (blue, self._blue, self._half_alpha, 2), (red, self._red, self._half_alpha, 2),
        ):
            part = plane[y // f : y // f + h // f, x // f : x // f + w // f]
            part += (own - part) * alpha
