"""Time of the header and of the whole check against the running time of films; prints ratios.

    python -m benchmarks.checking [hours of the long film]

Made: ten seconds of 1920×1080 at 25 frames/s, a grainy texture that drifts, with sea sound; coded finely (about 75 Mbit/s)
and as films are delivered (about 5). The longer ones are the same ten seconds again and again, copied without decoding.
"""

from __future__ import annotations

import sys
import tempfile
import time
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from hardy_parcel.demo import paint, sounds
from hardy_parcel.media.film import Planes, write_film
from hardy_parcel.media.inspect import read_file
from hardy_parcel.work.reading import read_checked

SECONDS, RATE = 10, 25


def pictures(grain: float, lines: int) -> Iterator[Planes]:
    across = lines * 16 // 9
    ground = paint.cloud(5, lines + 20, across + 320, slope=1.4) * 30 + 110
    noise = paint.Grain(6, lines, across, grain)
    chroma = np.full((lines // 2, across // 2), 128, np.uint8)
    for number in range(SECONDS * RATE):
        luma = ground[10 : lines + 10, number : number + across] + noise(number)
        yield np.clip(luma, 16, 235).astype(np.uint8), chroma, chroma


def make(path: Path, *, grain: float, quality: int, lines: int = 1080) -> Path:
    sound = sounds.stereo(sounds.sea(1, SECONDS), sounds.sea(4, SECONDS), peak=0.3)
    write_film(
        path, width=lines * 16 // 9, height=lines, frame_rate=Fraction(RATE), pictures=pictures(grain, lines), sound=sound, quality=quality,
    )
    return path


def again_and_again(source: Path, target: Path, times: int) -> Path:
    """The same film `times` over, its packets copied."""
    with av.open(str(source)) as film, av.open(str(target), "w", options={"movflags": "+faststart"}) as output:
        video, audio = film.streams.video[0], film.streams.audio[0]
        out_video, out_audio = output.add_stream_from_template(video), output.add_stream_from_template(audio)
        kept = [(p.stream.type, bytes(p), p.pts, p.dts, p.duration, p.is_keyframe, p.time_base) for p in film.demux(video, audio) if p.size]
        heard = 0
        for turn in range(times):
            for kind, data, pts, dts, duration, key, base in kept:
                packet = av.Packet(data)
                packet.time_base, packet.duration, packet.is_keyframe = base, duration, key
                if kind == "video":
                    offset = int(SECONDS * turn / base)
                    packet.pts, packet.dts, packet.stream = pts + offset, dts + offset, out_video
                else:
                    packet.pts = packet.dts = heard * 1024
                    packet.stream, heard = out_audio, heard + 1
                output.mux(packet)
    return target


def tell(name: str, path: Path) -> None:
    began = time.monotonic()
    facts = read_file(path, loudness=False)
    header = time.monotonic() - began
    began = time.monotonic()
    read_checked(path)
    spent = time.monotonic() - began
    length = float(facts.duration_s)
    print(f"{name}: {path.stat().st_size * 8 / length / 1e6:.1f} Mbit/s, {length:.0f} s; header {header:.2f} s, "
          f"whole check {spent:.1f} s = {length / spent:.1f} × running time", flush=True)


def main(*, small: bool = False) -> None:
    hours = float(next((word for word in sys.argv[1:] if not word.startswith("-")), 2))
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        if small:
            brief = make(folder / "small.mp4", grain=2.0, quality=22, lines=144)
            tell("ten seconds, small", brief)
            tell("twenty seconds, small", again_and_again(brief, folder / "twice.mp4", 2))
            return
        fine = make(folder / "fine.mp4", grain=6.0, quality=16)
        usual = make(folder / "usual.mp4", grain=2.0, quality=22)
        tell("ten seconds as delivered", usual)
        tell("a minute as delivered", again_and_again(usual, folder / "minute.mp4", 6))
        tell("ten seconds, fine", fine)
        tell("a minute, fine", again_and_again(fine, folder / "fine minute.mp4", 6))
        tell(f"{hours:g} hours as delivered", again_and_again(usual, folder / "long.mp4", round(hours * 360)))


if __name__ == "__main__":
    main(small="--small" in sys.argv)
