"""Films for measuring: cut from the made-up scenes at a size that two cores can encode whole."""

from __future__ import annotations

import itertools
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import numpy as np

from hardy_parcel.demo import gale, tide
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


def scene(room, seconds: float = 4) -> list[Planes]:
    """The opening seconds of a made-up master, small."""
    rate = float(room.RATE)
    keep = 2 if rate == 50 else 1
    taken = itertools.islice(room.pictures(), 0, round(seconds * rate), keep)
    return list(smaller(taken, *SIZE))


def make(folder: Path, seconds: int = 40) -> list[Path]:
    """Films of at least half a minute: hard all through, easy all through, and half and half."""
    rate = Fraction(25)
    count = seconds * 25
    sea, table = scene(gale), scene(tide)
    half = count // 2
    films = {
        "gale.mp4": there_and_back(sea, count),
        "table.mp4": there_and_back(table, count),
        "half and half.mp4": itertools.chain(there_and_back(table, half), there_and_back(sea, count - half)),
        "grain rising.mp4": itertools.chain(*(
            grainy(there_and_back(table, count // 4), strength, i) for i, strength in enumerate((0.5, 2, 5, 9))
        )),
    }
    made = []
    for name, pictures in films.items():
        path = folder / name
        write_film(path, width=SIZE[0], height=SIZE[1], frame_rate=rate, pictures=pictures, sound=None, quality=14)
        made.append(path)
    return made
