"""Makes the Skerry Point masters, one after the other, the quickest first."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import numpy as np

from ..media.film import Planes, Traits, write_film
from . import aurora, gale, interview, lamp, reel, tide


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
    traits: Traits | None = None

    def make(self, folder: Path) -> Path:
        """Write the master into `folder` under its name; it appears there only when it is whole."""
        path = folder / self.name
        write_film(
            path, width=self.width, height=self.height, frame_rate=self.frame_rate, pictures=self.pictures(),
            sound=self.sound(), quality=self.quality, traits=self.traits,
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
        name="The 1987 reel.mp4", width=reel.WIDTH, height=reel.HEIGHT, frame_rate=reel.RATE, quality=15,
        pictures=reel.pictures, sound=reel.sound, traits=reel.TRAITS,
    ),
    Film(
        name="Keeper's interview.mp4", width=interview.HEIGHT, height=interview.WIDTH, frame_rate=interview.RATE, quality=17,
        pictures=interview.pictures, sound=interview.sound, traits=interview.TRAITS,
    ),
    Film(
        name="Gale over the skerry.mp4", width=gale.WIDTH, height=gale.HEIGHT, frame_rate=gale.RATE, quality=17,
        pictures=gale.pictures, sound=gale.sound,
    ),
    Film(
        name="Aurora, north window.mp4", width=aurora.WIDTH, height=aurora.HEIGHT, frame_rate=aurora.RATE, quality=18,
        pictures=aurora.pictures, sound=aurora.sound,
    ),
)


def make_missing(folder: Path, say: Callable[[str], None] = print) -> None:
    """Make every film that is not in `folder` yet."""
    folder.mkdir(parents=True, exist_ok=True)
    for film in FILMS:
        if not (folder / film.name).exists():
            film.make(folder)
            say(f"Made {film.name}")
