"""A file that came back, against what was packed: whether it is the same, re-wrapped, changed, recompressed or another film."""

from __future__ import annotations

import base64
from collections.abc import Sequence
from enum import StrEnum
from pathlib import Path

import numpy as np

from ..arrival.judged import Judged
from ..arrival.screens import Screen
from ..trade.codecs import name_of
from ..values import Model, mbps_text, size_text


class Sameness(StrEnum):
    """What became of a file on its way."""

    SAME_BYTES = "same_bytes"
    RE_WRAPPED = "re_wrapped"
    TAGS_CHANGED = "tags_changed"
    SOUND_CHANGED = "sound_changed"
    RECOMPRESSED = "recompressed"
    ANOTHER_FILM = "another_film"


THUMBS, THUMB_SIZE = 8, (16, 9)
"""Small grey pictures by which a film is known again, evenly over it."""
ALIKE, FLAT, NEAR_LEVELS = 0.9, 2.0, 12.0
"""Mean correlation of two films' small pictures from which on they are one film: 0.97 and more for what was recompressed, below 0.7
for other films (tests). Pictures whose levels differ by less than `FLAT` among themselves are alike where their means lie near."""
LENGTH_NEAR_S, LENGTH_NEAR = 0.5, 0.02


class Fingerprint(Model):
    """By what a file is known again. Digests are SHA-256 of the packets' payload in order, empty where there is no such stream; those of
    units leave out what containers put before coded pictures and sound, and are empty where that is unknown. `thumbs` is base64 of grey
    pictures; rates in bit/s, duration in s."""

    sha256: str
    size_bytes: int
    container: str
    duration_s: float
    width: int = 0
    height: int = 0
    codec: str = ""
    video_bitrate_bps: int = 0
    picture_digest: str = ""
    sound_codec: str = ""
    sound_digest: str = ""
    picture_units: str = ""
    sound_units: str = ""
    tags: dict[str, str] = {}
    thumbs: str = ""

    @property
    def picture_words(self) -> str:
        """Size, codec and rate of the picture, as it is read."""
        return f"{self.width}×{self.height} {name_of(self.codec)} at {mbps_text(self.video_bitrate_bps)}"


def likeness(one: Fingerprint, other: Fingerprint) -> float:
    """How alike two films' small pictures are, −1 to 1: the mean of their correlations; 0 where their lengths differ or one has none."""
    longest = max(one.duration_s, other.duration_s)
    if abs(one.duration_s - other.duration_s) > max(LENGTH_NEAR_S, LENGTH_NEAR * longest) or not one.thumbs or not other.thumbs:
        return 0.0
    mine, its = (np.frombuffer(base64.b64decode(each.thumbs), np.uint8).astype(float).reshape(THUMBS, -1) for each in (one, other))
    return float(np.mean([_alike(a, b) for a, b in zip(mine, its, strict=True)]))


def _alike(one: np.ndarray, other: np.ndarray) -> float:
    if one.std() < FLAT or other.std() < FLAT:
        return float(abs(one.mean() - other.mean()) < NEAR_LEVELS)
    return float(np.corrcoef(one, other)[0, 1])


def has_picture_of(packed: Fingerprint, back: Fingerprint) -> bool:
    """Whether what is coded of the picture is the same, whatever wraps it."""
    return back.picture_digest == packed.picture_digest or (back.picture_units != "" and back.picture_units == packed.picture_units)


def has_sound_of(packed: Fingerprint, back: Fingerprint) -> bool:
    """Whether what is coded of the sound is the same, whatever wraps it."""
    return back.sound_digest == packed.sound_digest or (back.sound_units != "" and back.sound_units == packed.sound_units)


def sameness(packed: Fingerprint, back: Fingerprint, *, same_pictures: bool = False, same_sound: bool = False) -> Sameness:
    """What became of a packed file; `same_pictures` and `same_sound` say that they decode to the same, whatever their packets."""
    if back.sha256 == packed.sha256:
        return Sameness.SAME_BYTES
    if same_pictures or has_picture_of(packed, back):
        if not same_sound and not has_sound_of(packed, back):
            if packed.picture_digest or likeness(packed, back) >= ALIKE:
                return Sameness.SOUND_CHANGED
            near = abs(packed.duration_s - back.duration_s) <= max(LENGTH_NEAR_S, LENGTH_NEAR * packed.duration_s)
            return Sameness.SOUND_CHANGED if near else Sameness.ANOTHER_FILM
        return Sameness.TAGS_CHANGED if back.container == packed.container and back.tags != packed.tags else Sameness.RE_WRAPPED
    return Sameness.RECOMPRESSED if likeness(packed, back) >= ALIKE else Sameness.ANOTHER_FILM


def nearest(back: Fingerprint, known: Sequence[Fingerprint]) -> int | None:
    """Which of the packed files one that came back is: by its bytes, its packets, or else its pictures, and of siblings that whose
    shape is nearest; None where it is none of them."""
    for part in ("sha256", "picture_digest", "picture_units", "sound_digest"):
        wanted = getattr(back, part)
        same = [place for place, one in enumerate(known) if wanted and getattr(one, part) == wanted]
        if same and (part != "sound_digest" or not back.picture_digest):
            return same[0]

    def apart(place: int) -> tuple[float, float]:
        one = known[place]
        shape = abs(np.log((one.width / one.height) / (back.width / back.height))) if one.height and back.height else 0.0
        return round(float(shape), 2), -likeness(one, back)

    alike = [place for place, one in enumerate(known) if likeness(one, back) >= ALIKE]
    return min(alike, key=apart) if alike else None


class PackedFile(Model):
    """A packed file as it is known: where it is, if it still is there, and its fingerprint, if one was kept."""

    name: str
    path: Path | None = None
    fingerprint: Fingerprint | None = None
    job_id: str | None = None


class HandoffFound(Model):
    """What became of a file: the outcome, in a sentence, beside which packed file it was held and by which job that was made, and how it
    looks beside it where it was recompressed."""

    outcome: Sameness
    sentence: str
    packed_name: str
    job_id: str | None = None
    judged: tuple[Judged, ...] = ()
    packed: Fingerprint
    back: Fingerprint


def sentence(outcome: Sameness, name: str, packed: Fingerprint, back: Fingerprint, judged: Sequence[Judged] = ()) -> str:
    """What became of it, as a knowledgeable friend would say it; `name` is the packed file's."""
    match outcome:
        case Sameness.SAME_BYTES:
            return f"This is {name}, bit for bit."
        case Sameness.RE_WRAPPED:
            where = f" in {back.container} instead of {packed.container}" if back.container != packed.container else ", wrapped anew"
            return f"Picture and sound are those of {name}{where}; nothing was lost."
        case Sameness.TAGS_CHANGED:
            keys = sorted(key for key in {*packed.tags, *back.tags} if packed.tags.get(key) != back.tags.get(key))
            return f"Picture and sound are those of {name}; only what the file says about itself changed: {', '.join(keys)}."
        case Sameness.SOUND_CHANGED:
            now = f"{name_of(back.sound_codec)} instead of {name_of(packed.sound_codec)}" if back.sound_codec and packed.sound_codec else (
                "it has none any more" if packed.sound_codec else "it has some now"
            )
            changed = "it was made anew" if back.sound_codec == packed.sound_codec else now
            if not packed.codec:
                return f"It has not the sound of {name}."
            return f"The picture is that of {name}, but the sound is not: {changed}."
        case Sameness.RECOMPRESSED:
            at = next((one for one in judged if one.screen is Screen.LAPTOP), None)
            worse = f" On a laptop it looks {100 - at.condition:.0f} points worse, {at.words}." if at else ""
            return (
                f"It was recompressed on the way: {packed.picture_words}, {size_text(packed.size_bytes)}, became {back.picture_words}, "
                f"{size_text(back.size_bytes)}.{worse} Send {name} another way."
            )
        case _:
            return f"This is another film than {name}."
