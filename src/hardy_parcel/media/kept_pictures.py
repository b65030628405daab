"""Treated pictures on disk: made once, read as often as they are encoded or compared."""

from __future__ import annotations

import json
import os
from collections.abc import Iterable, Iterator
from dataclasses import dataclass, replace
from fractions import Fraction
from pathlib import Path
from typing import BinaryIO

import av
import numpy as np

from .luma import rows_of
from .trouble import writing


@dataclass(frozen=True, slots=True, kw_only=True)
class KeptPictures:
    """A file of plain pictures of one size (px) and format: `count` of them from the `first` on, at `frame_rate` (1/s)."""

    path: Path
    width: int
    height: int
    pixel_format: str
    frame_rate: Fraction
    count: int
    first: int = 0

    def part(self, first: int, count: int) -> KeptPictures:
        """`count` of these pictures from the `first` on, read from the same file."""
        return replace(self, first=self.first + first, count=count)

    @classmethod
    def keep(cls, pictures: Iterable[av.VideoFrame], path: Path, *, frame_rate: Fraction) -> KeptPictures:
        """Write pictures to `path`, which has its name only when all are written. Raises DiskFull, or what `pictures` raises."""
        partial, size, count = path.with_name(f"partial-{path.name}"), (0, 0, "yuv420p"), 0
        path.parent.mkdir(parents=True, exist_ok=True)
        try:
            with writing(path), open(partial, "wb") as file:
                for picture in pictures:
                    size, count = (picture.width, picture.height, picture.format.name), count + 1
                    file.write(_packed(picture))
            _about(path).write_text(json.dumps([*size, count]))
            partial.replace(path)
        finally:
            partial.unlink(missing_ok=True)
        return cls(path=path, width=size[0], height=size[1], pixel_format=size[2], frame_rate=frame_rate, count=count)

    @classmethod
    def find(cls, path: Path, *, frame_rate: Fraction) -> KeptPictures | None:
        """Pictures that were kept at `path` before, noted as used now; None where they are not there whole."""
        if not path.is_file():
            return None
        try:
            os.utime(path)
            width, height, pixel_format, count = json.loads(_about(path).read_text())
        except (OSError, ValueError):
            return None
        found = cls(path=path, width=width, height=height, pixel_format=pixel_format, frame_rate=frame_rate, count=count)
        return found if path.stat().st_size == count * len(_packed(av.VideoFrame(width, height, pixel_format))) else None

    def __iter__(self) -> Iterator[av.VideoFrame]:
        """Every picture, with time stamps that count from 0."""
        with open(self.path, "rb") as file:
            if self.first:
                file.seek(self.first * len(_packed(av.VideoFrame(self.width, self.height, self.pixel_format))))
            for number in range(self.count):
                picture = av.VideoFrame(self.width, self.height, self.pixel_format)
                for plane in picture.planes:
                    _fill(plane, file, self.pixel_format)
                picture.pts, picture.time_base = number, 1 / self.frame_rate
                yield picture


def _about(path: Path) -> Path:
    """What stands beside the pictures to tell of them."""
    return path.with_suffix(".json")


def _row_bytes(plane: av.video.plane.VideoPlane, picture_format: str) -> int:
    return plane.width * (2 if "10" in picture_format or "12" in picture_format else 1)


def _packed(picture: av.VideoFrame) -> bytes:
    """The planes without the padding at the end of their lines."""
    parts = []
    for plane in picture.planes:
        rows = rows_of(plane)
        parts.append(rows[: plane.height, : _row_bytes(plane, picture.format.name)].tobytes())
    return b"".join(parts)


def _fill(plane: av.video.plane.VideoPlane, file: BinaryIO, picture_format: str) -> None:
    wide = _row_bytes(plane, picture_format)
    rows = rows_of(plane)
    data = np.frombuffer(file.read(wide * plane.height), np.uint8).reshape(plane.height, wide)
    if rows.flags.writeable:
        rows[: plane.height, :wide] = data
        return
    padded = np.zeros(rows.shape, np.uint8)
    padded[: plane.height, :wide] = data
    plane.update(padded.tobytes())
