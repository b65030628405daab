"""How long a first forecast takes beside packing the film once, whatever its length.  python -m benchmarks.probing

Ten minutes of 1080p25 are made by repeating five seconds of a made-up scene. The forecast's probes are timed, and a few seconds of the
film are packed at the plan's own effort, from which packing the whole follows. The bar: a twentieth of it.
"""

from __future__ import annotations

import itertools
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.demo import gale
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.work.rehearse import PlannedFilm

from .truth import probes_of

TIMES = 120
BAR = 1 / 20


def repeated(path: Path, target: Path, times: int) -> None:
    """The same film so many times after itself, without encoding."""
    with av.open(str(path)) as source, av.open(str(target), "w") as made:
        pictures = source.streams.video[0]
        stream = made.add_stream_from_template(pictures)
        packets = [packet for packet in source.demux(pictures) if packet.size]
        length = sum(packet.duration or 0 for packet in packets)
        for number, packet in itertools.product(range(times), packets):
            copy = av.Packet(bytes(packet))
            copy.pts, copy.dts, copy.duration = packet.pts + number * length, packet.dts + number * length, packet.duration
            copy.time_base, copy.is_keyframe, copy.stream = packet.time_base, packet.is_keyframe, stream
            made.mux(copy)


def main() -> None:
    place = destination("orrery-wide")
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        short, film = Path(scratch) / "short.mp4", Path(scratch) / "ten minutes.mp4"
        pictures = itertools.islice(gale.pictures(), 0, 250, 2)
        write_film(short, width=1920, height=1080, frame_rate=Fraction(25), pictures=pictures, sound=None, quality=18)
        repeated(short, film, TIMES)
        facts = inspect(film, loudness=False)
        plan = make_plan(facts, place)
        began = time.monotonic()
        probes_of(PlannedFilm(master=film, facts=facts, journey=Journey(plan, place)))
        probing = time.monotonic() - began
        part = make_plan(facts, place, excerpt=Excerpt(in_s=0, out_s=4))
        packed = pack(film, facts, part, Path(scratch) / "packed.mp4")
        whole = plan.picture.frames / packed.pictures * packed.seconds
        ratio = probing / whole
        print(f"first forecast {probing:.1f} s, packing it once {whole:.0f} s: {ratio / BAR:.2f} of the bar of 1/20")


if __name__ == "__main__":
    main()
