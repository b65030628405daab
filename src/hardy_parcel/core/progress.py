"""How far a long work is."""

from __future__ import annotations

from .values import Model


class JobProgress(Model):
    """What is being done and how far it is: share 0–1, pictures, pictures/s, seconds left, bytes so far."""

    doing: str = ""
    share: float = 0.0
    pictures: int | None = None
    of_pictures: int | None = None
    pictures_per_s: float | None = None
    left_s: float | None = None
    bytes: int | None = None
