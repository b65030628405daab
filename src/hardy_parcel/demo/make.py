"""Makes the Skerry Point masters, one after the other, the quickest first."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from ..media.film import Planes, write_film
from . import gale, lamp, tide


@dataclass(frozen=True, slots=True, kw_only=True)
class Film:
    """A made-up master: its file name and how it is painted and heard."""

    name: str
    width: int
    height: int
    frame_rate: Fraction
    quality: int
    pictures: Callable[[], Iterator[Planes]]
    sound: Callable[[], np.ndarray]

    def make(self, folder: Path) -> Path:
        """Write the master into `folder` under its name; it appears there only when it is whole."""
        path = folder / self.name
        write_film(
            path, width=self.width, height=self.height, frame_rate=self.frame_rate, pictures=self.pictures(),
            sound=self.sound(), quality=self.quality,
        )
        return path


FILMS = (
    Film(
        name="Tide table explained.mp4", width=tide.WIDTH, height=tide.HEIGHT, frame_rate=tide.RATE, quality=14,
        pictures=tide.pictures, sound=tide.sound,
    ),
    Film(
        name="Lamp room, upright.mp4", width=lamp.WIDTH, height=lamp.HEIGHT, frame_rate=lamp.RATE, quality=16,
        pictures=lamp.pictures, sound=lamp.sound,
    ),
    Film(
        name="Gale over the skerry.mp4", width=gale.WIDTH, height=gale.HEIGHT, frame_rate=gale.RATE, quality=17,
        pictures=gale.pictures, sound=gale.sound,
    ),
)


def make_missing(folder: Path, say: Callable[[str], None] = print) -> None:
    """Make every film that is not in `folder` yet."""
    folder.mkdir(parents=True, exist_ok=True)
    for film in FILMS:
        if not (folder / film.name).exists():
            film.make(folder)
            say(f"Made {film.name}")
