"""What the streams of a file have of its rate."""

from __future__ import annotations

from pathlib import Path

import av

from .trouble import open_film, reading


def stream_rates(path: Path, duration_s: float) -> dict[str, int]:
    """Bit/s of all pictures and of all sound over a duration, by “video” and “audio”; a kind that is not there is left out."""
    sizes: dict[str, int] = {}
    with reading(path), open_film(path) as film:
        streams: list[av.stream.Stream] = [one for one in film.streams if one.type in ("video", "audio")]
        for packet in film.demux(*streams):
            sizes[packet.stream.type] = sizes.get(packet.stream.type, 0) + packet.size
    return {kind: round(size * 8 / max(0.001, duration_s)) for kind, size in sizes.items()}
