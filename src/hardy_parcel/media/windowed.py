"""Test encodes of windows that follow one another in one film, each from a keyframe on, with the bits of each."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence
from pathlib import Path
from typing import Any

import av
from av.video.frame import PictureType

from ..core.arrival.probe import ProbedWindow
from ..core.plan.encoder_settings import EncoderSettings
from .encode import add_video
from .trouble import writing


def encode_windows(
    settings: EncoderSettings, pictures: Iterable[av.VideoFrame], windows: Sequence[int], target: Path, say: Callable[[float], None]
) -> dict[int, ProbedWindow]:
    """Encode pictures into `target`, `windows` naming the window of each, and count the bits by window; `say` hears the share done.

    Raises EncoderTrouble, DiskFull, or what `say` raises.
    """
    starts = {n for n, window in enumerate(windows) if not n or windows[n - 1] != window}
    bits: dict[int, list[int]] = {window: [0, 0, 0, 0] for window in windows}
    target.parent.mkdir(parents=True, exist_ok=True)
    with writing(target), av.open(str(target), "w", format="matroska") as container:
        stream = add_video(container, settings)

        def take(packets: list[av.Packet[Any]]) -> None:
            for packet in packets:
                place = round((packet.pts or 0) * packet.time_base * settings.frame_rate)
                counts = bits[windows[place]]
                at = 0 if packet.is_keyframe or place in starts else 2
                counts[at] += packet.size * 8
                counts[at + 1] += 1
                container.mux(packet)

        for number, picture in enumerate(pictures):
            picture.pts, picture.time_base = number, 1 / settings.frame_rate
            picture.pict_type = PictureType.I if number in starts else PictureType.NONE
            take(stream.encode(picture))
            say((number + 1) / len(windows))
        take(stream.encode(None))
    return {
        window: ProbedWindow(key_bits=counts[0], keys=counts[1], other_bits=counts[2], others=counts[3]) for window, counts in bits.items()
    }
