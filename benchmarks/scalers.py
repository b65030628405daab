"""Scalers both ways on made-up masters: condition after scaling, and how far an edge overshoots.  python -m benchmarks.scalers FOLDER

Down: a master at two thirds and at half its size, seen enlarged to its own size again, against the master. Up: a master that was
averaged to half its size, enlarged by each scaler, against the master. The edge goes from 60 to 190. FOLDER holds films.
"""

from __future__ import annotations

import itertools
import sys
from collections import defaultdict
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from hardy_parcel.core.arrival.condition import condition
from hardy_parcel.media.likeness import detail_kept, information_kept, levels, seen
from hardy_parcel.media.luma import rows_of

SCALERS = ("BILINEAR", "BICUBIC", "LANCZOS", "SPLINE", "AREA")
VIEWED = "BICUBIC"
EVERY, MOST = 24, 6


def pictures(path: Path) -> Iterator[av.VideoFrame]:
    with av.open(str(path)) as container:
        for picture in itertools.islice(container.decode(video=0), 0, EVERY * MOST, EVERY):
            yield picture.reformat(format="yuv420p")


def scaled(picture: av.VideoFrame, width: int, height: int, scaler: str) -> av.VideoFrame:
    return picture.reformat(width=width, height=height, interpolation=scaler)


def luma(picture: av.VideoFrame) -> np.ndarray:
    return rows_of(picture.planes[0])[: picture.height, : picture.width]


def like(master: av.VideoFrame, judged: av.VideoFrame) -> float:
    """Condition without what movement hides."""
    reference, other = seen(levels(luma(master))), levels(luma(judged))
    return condition(detail_kept(reference, other), information_kept(reference, other), 0.0)


def step() -> av.VideoFrame:
    plane = np.full((256, 256), 60, np.uint8)
    plane[:, 128:] = 190
    frame = av.VideoFrame(256, 256, "yuv420p")
    for place, rows in zip(frame.planes, (plane, np.full((128, 128), 128, np.uint8), np.full((128, 128), 128, np.uint8)), strict=True):
        padded = np.zeros((place.height, place.line_size), np.uint8)
        padded[:, : place.width] = rows
        place.update(padded.tobytes())
    return frame


def main() -> None:
    found: dict[tuple[str, str], list[float]] = defaultdict(list)
    for path in sorted(Path(sys.argv[1]).glob("*.mp4")):
        for picture in pictures(path):
            width, height = picture.width, picture.height
            if max(width, height) > 1920:  # as it is seen on a screen
                width, height = width // 2, height // 2
                picture = scaled(picture, width, height, "AREA")
            half = scaled(picture, width // 4 * 2, height // 4 * 2, "AREA")
            for scaler in SCALERS:
                for name, share in (("down to 2/3", Fraction(2, 3)), ("down to 1/2", Fraction(1, 2))):
                    small = scaled(picture, int(width * share) // 2 * 2, int(height * share) // 2 * 2, scaler)
                    found[name, scaler].append(like(picture, scaled(small, width, height, VIEWED)))
                found["up 2 ×", scaler].append(like(picture, scaled(half, width, height, scaler)))
        print(path.name, flush=True)
    edge = step()
    print(f"{'':12}" + "".join(f"{scaler.lower():>14}" for scaler in SCALERS))
    for name in ("down to 2/3", "down to 1/2", "up 2 ×"):
        print(f"{name:12}" + "".join(f"{np.mean(found[name, scaler]):14.2f}" for scaler in SCALERS))
    for name, size in (("edge, 2/3", 170), ("edge, 1/2", 128), ("edge, 2 ×", 512)):
        rows = [luma(scaled(edge, size, size, scaler))[:, size // 8 : -size // 8] for scaler in SCALERS]
        print(f"{name:12}" + "".join(f"{f'{row.min()}/{row.max()}':>14}" for row in rows))


if __name__ == "__main__":
    main()
