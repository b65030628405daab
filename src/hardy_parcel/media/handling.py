"""A platform's handling, run for real: an upload goes in, the ladder's renditions come out."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av

from ..core.arrival.rehearsal import MadeRendition
from ..core.plan.encoder_settings import rendition_settings
from ..core.sheets.ladder import Rendition
from .encode import add_video
from .trouble import open_film, reading, writing

EXTENSIONS = {"h264": "mp4", "vp9": "webm", "av1": "mp4"}


def rendition_path(folder: Path, rendition: Rendition) -> Path:
    """Where a rendition is written."""
    return folder / f"{rendition.name.replace(' ', '-')}.{EXTENSIONS[rendition.codec]}"


def upload_pictures(path: Path) -> Iterator[av.VideoFrame]:
    """Every picture of an upload, decoded."""
    with reading(path), open_film(path) as container:
        stream = container.streams.video[0]
        stream.thread_type = "AUTO"
        yield from container.decode(stream)


class _Step:
    """One rendition being made: its scaler, encoder and file."""

    def __init__(self, rendition: Rendition, path: Path, size: tuple[int, int], frame_rate: Fraction) -> None:
        self.rendition, self._path = rendition, path
        self._count, self._sent, self._bytes = 0, 0, 0
        self._container = av.open(str(path), "w", format=EXTENSIONS[rendition.codec])
        self._stream = add_video(self._container, rendition_settings(rendition))
        self._scaled = size != (rendition.width, rendition.height)

    def take(self, picture: av.VideoFrame) -> None:
        """Scale and encode one upload picture, unless the rate cap leaves it out."""
        count, self._count = self._count, self._count + 1
        if count % self.rendition.keep_every:
            return
        if self._scaled:
            picture = picture.reformat(width=self.rendition.width, height=self.rendition.height, interpolation="BICUBIC")
        picture.pts, picture.time_base = self._sent, 1 / self.rendition.frame_rate
        picture.pict_type = 0
        self._sent += 1
        self._mux(self._stream.encode(picture))

    def _mux(self, packets: list[av.Packet[Any]]) -> None:
        for packet in packets:
            self._bytes += packet.size
            self._container.mux(packet)

    def finish(self) -> MadeRendition:
        """Flush and close; the rate is bits over the pictures' duration."""
        self._mux(self._stream.encode(None))
        self._container.close()
        seconds = max(1, self._sent) / self.rendition.frame_rate
        return MadeRendition(
            name=self.rendition.name,
            width=self.rendition.width,
            height=self.rendition.height,
            achieved_bps=round(self._bytes * 8 / float(seconds)),
            ceiling_bps=self.rendition.ceiling_bps,
        )

    def abandon(self) -> None:
        """Close without caring; the half-written file is removed."""
        self._container.close()
        self._path.unlink(missing_ok=True)


def handle(
    pictures: Iterator[av.VideoFrame],
    renditions: list[Rendition],
    folder: Path,
    *,
    size: tuple[int, int],
    frame_rate: Fraction,
    progress: Callable[[int], None] = lambda done: None,
) -> list[MadeRendition]:
    """Re-encode an upload of `size` px at `frame_rate` 1/s into all `renditions`, decoding it once."""
    steps: list[_Step] = []
    with writing(folder / "rendition"):
        try:
            for rendition in renditions:
                steps.append(_Step(rendition, rendition_path(folder, rendition), size, frame_rate))
            for count, picture in enumerate(pictures, 1):
                for step in steps:
                    step.take(picture)
                progress(count)
            return [step.finish() for step in steps]
        except BaseException:
            for step in steps:
                step.abandon()
            raise
