"""Films for measuring: cut from the made-up scenes at a size that two cores can encode whole."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np

from hardy_parcel.demo import aurora, gale, tide
from hardy_parcel.media.film import Planes, write_film

SIZE = (320, 180)


def smaller(pictures: Iterator[Planes], width: int, height: int) -> Iterator[Planes]:
    """Each plane averaged over blocks, after a centred cut to the wanted shape."""

    def shrink(plane: np.ndarray, wide: int, high: int) -> np.ndarray:
        factor = min(plane.shape[1] // wide, plane.shape[0] // high)
        top, left = (plane.shape[0] - high * factor) // 2, (plane.shape[1] - wide * factor) // 2
        part = plane[top : top + high * factor, left : left + wide * factor]
        return np.round(part.reshape(high, factor, wide, factor).mean(axis=(1, 3))).astype(np.uint8)

    for luma, blue, red in pictures:
        yield shrink(luma, width, height), shrink(blue, width // 2, height // 2), shrink(red, width // 2, height // 2)


def there_and_back(pictures: list[Planes], count: int) -> Iterator[Planes]:
    """A longer film out of a short scene: forwards, backwards, and again."""
    order = itertools.cycle([*range(len(pictures)), *range(len(pictures) - 2, 0, -1)])
    return (pictures[i] for i in itertools.islice(order, count))


def grainy(pictures: Iterator[Planes], strength: float, seed: int) -> Iterator[Planes]:
    """Fresh grain on every picture."""
    random = np.random.default_rng(seed)
    for luma, blue, red in pictures:
        yield np.clip(luma + random.normal(0, strength, luma.shape), 16, 235).astype(np.uint8), blue, red


def scene(room, seconds: float = 4, size: tuple[int, int] = SIZE) -> list[Planes]:
    """The opening seconds of a made-up master, small."""
    rate = float(room.RATE)
    keep = 2 if rate == 50 else 1
    taken = itertools.islice(room.pictures(), 0, round(seconds * rate), keep)
    return list(smaller(taken, *size))


def soft(pictures: Iterator[Planes]) -> Iterator[Planes]:
    """As a poor lens draws: each sample averaged with its neighbours."""
    for luma, blue, red in pictures:
        wide = np.pad(luma.astype(float), 1, mode="edge")
        mean = sum(wide[y : y + luma.shape[0], x : x + luma.shape[1]] for y in range(3) for x in range(3)) / 9
        yield mean.round().astype(np.uint8), blue, red


def dark(count: int) -> Iterator[Planes]:
    """A night with a slow lamp and sensor noise that is stronger than what it shows."""
    random = np.random.default_rng(11)
    wide, high = SIZE
    x, y = np.meshgrid(np.arange(wide), np.arange(high))
    for i in range(count):
        glow = 38 * np.exp(-(((x - wide * (0.5 + 0.3 * np.sin(i / 90))) / 60) ** 2 + ((y - 90) / 35) ** 2))
        luma = 22 + glow + random.normal(0, 3.5, (high, wide))
        chroma = 128 + random.normal(0, 1.5, (2, high // 2, wide // 2))
        yield np.clip(luma, 16, 235).astype(np.uint8), chroma[0].astype(np.uint8), chroma[1].astype(np.uint8)


def screen_text(count: int) -> Iterator[Planes]:
    """Small glyph-like marks in lines on white that stand still and scroll by turns."""
    random = np.random.default_rng(12)
    wide, high = SIZE
    page = np.full((high * 6, wide), 235, np.uint8)
    for top in range(6, page.shape[0] - 8, 9):
        for left in range(8, int(wide * random.uniform(0.5, 0.95)), 5):
            glyph = random.random((6, 4)) < 0.45
            page[top : top + 6, left : left + 4][glyph] = 40
    grey = np.full((high // 2, wide // 2), 128, np.uint8)
    at = 0.0
    for i in range(count):
        at += 1.5 if (i // 75) % 2 else 0.0
        top = int(at) % (page.shape[0] - high)
        yield page[top : top + high], grey, grey


def detailed_still() -> np.ndarray:
    """A large picture of every spatial frequency, as a rock face has."""
    random = np.random.default_rng(13)
    large = np.zeros((360, 900))
    for step in (60, 30, 12, 6, 3, 1):
        rough = random.normal(0, 1, (360 // step + 2, 900 // step + 2))
        grown = np.kron(rough, np.ones((step, step)))[:360, :900]
        large += grown * step**0.55
    return np.clip(125 + 9 * large, 16, 235)


def slow_pan(count: int) -> Iterator[Planes]:
    """A slow pan over a detailed still, between whole pixels too."""
    still = detailed_still()
    wide, high = SIZE
    grey = np.full((high // 2, wide // 2), 128, np.uint8)
    for i in range(count):
        at = i * 0.6
        whole, part = int(at), at % 1
        row = still[60 : 60 + high]
        luma = row[:, whole : whole + wide] * (1 - part) + row[:, whole + 1 : whole + 1 + wide] * part
        yield luma.astype(np.uint8), grey, grey


def confetti(count: int) -> Iterator[Planes]:
    """Hundreds of small bright pieces that fall, each its own way."""
    random = np.random.default_rng(14)
    wide, high = SIZE
    x, y = random.uniform(0, wide, 500), random.uniform(0, high, 500)
    speed, sway, tone = random.uniform(0.8, 3, 500), random.uniform(0, 6, 500), random.integers(60, 230, 500)
    tint = random.integers(80, 180, (2, 500))
    for i in range(count):
        chroma = np.full((2, high // 2, wide // 2), 128, np.uint8)
        planes = np.full((high, wide), 90, np.uint8), chroma[0], chroma[1]
        left = ((x + 4 * np.sin(i / 9 + sway)) % (wide - 4)).astype(int)
        top = ((y + i * speed) % (high - 4)).astype(int)
        for n in range(500):
            planes[0][top[n] : top[n] + 3, left[n] : left[n] + 3] = tone[n]
            for plane, tints in zip(planes[1:], tint, strict=True):
                plane[top[n] // 2 : top[n] // 2 + 2, left[n] // 2 : left[n] // 2 + 2] = tints[n]
        yield planes


def cuts(scenes: list[list[Planes]], count: int) -> Iterator[Planes]:
    """A cut every 20 to 60 pictures between unlike scenes."""
    random = np.random.default_rng(15)
    left, scene_now, at = 0, scenes[0], 0
    for _ in range(count):
        if not left:
            scene_now, left = scenes[int(random.integers(len(scenes)))], int(random.integers(20, 60))
            at = int(random.integers(len(scene_now)))
        yield scene_now[at % len(scene_now)]
        at, left = at + 1, left - 1


def fades(scenes: list[list[Planes]], count: int) -> Iterator[Planes]:
    """Dissolves of a second and a half every three seconds, and one fade through black."""
    for i in range(count):
        number, part = divmod(i, 75)
        one, two = scenes[number % len(scenes)], scenes[(number + 1) % len(scenes)]
        mix = max(0.0, (part - 37) / 38)
        first, second = one[i % len(one)], two[i % len(two)]
        if number % 3 == 2:
            level = abs(1 - 2 * mix) if mix else 1.0
            shown = second if mix > 0.5 else first
            yield (16 + (shown[0].astype(float) - 16) * level).astype(np.uint8), shown[1], shown[2]
        else:
            yield tuple((a * (1 - mix) + b * mix).astype(np.uint8) for a, b in zip(first, second, strict=True))


FITTED_ON = ("confetti", "cuts")
"""Films that the constants of forecasts were fitted on; the others are for testing."""


def make(folder: Path, seconds: int = 32, *, only: tuple[str, ...] = ()) -> list[Path]:
    """Films of at least half a minute and of different natures; `only` those of these names."""
    count, rate = seconds * 25, Fraction(25)
    half = count // 2
    sea, table, sky = scene(gale), scene(tide), scene(aurora)
    films = {
        "gale": lambda: there_and_back(sea, count),
        "table": lambda: there_and_back(table, count),
        "half and half": lambda: itertools.chain(there_and_back(table, half), there_and_back(sea, count - half)),
        "grain rising": lambda: itertools.chain(*(
            grainy(there_and_back(table, count // 4), strength, i) for i, strength in enumerate((0.5, 2, 5, 9))
        )),
        "dark": lambda: dark(count),
        "screen text": lambda: screen_text(count),
        "cuts": lambda: cuts([sea, table, sky, list(slow_pan(100))], count),
        "fades": lambda: fades([sea, sky, table], count),
        "slow pan": lambda: slow_pan(count),
        "confetti": lambda: confetti(count),
    }
    made = []
    for name, pictures in films.items():
        path = folder / f"{name}.mp4"
        if only and name not in only:
            continue
        if not path.exists():
            write_film(path, width=SIZE[0], height=SIZE[1], frame_rate=rate, pictures=pictures(), sound=None, quality=12)
        made.append(path)
    return made
