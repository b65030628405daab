"""How long a first figure takes beside packing the film once, whatever its length.  python -m benchmarks.probing

Ten minutes of 1080p25 are made by repeating five seconds of a made-up scene. Quick probes and the forecast's own are timed, and a few
seconds of the film are packed at the plan's own effort, from which packing the whole follows. The bar of the forecast: a twentieth of it.
"""

from __future__ import annotations

import itertools
import sys
import tempfile
import time
from dataclasses import replace
from fractions import Fraction
from functools import partial
from pathlib import Path

import av
from tests.films import shimmer

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.master.facts import Excerpt, MasterFacts
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.codecs import name_of
from hardy_parcel.demo import gale
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.work.probing import effort_probe, handling_probe, plan_probe_reel, upload_probe
from hardy_parcel.work.rehearse import PlannedFilm, scaled_picture, treated_reel

from .films import SIZE
from .truth import quiet

TIMES = 120
BAR = 1 / 20
FIRST_S, FORECAST_S, LANE_S, CODEC_S = 30, 75, 25, 30


def repeated(path: Path, target: Path, times: int) -> None:
    """The same film so many times after itself, without encoding."""
    with av.open(str(path)) as source, av.open(str(target), "w") as made:
        pictures = source.streams.video[0]
        stream = made.add_stream_from_template(pictures)
        packets = [packet for packet in source.demux(pictures) if packet.size]
        length = sum(packet.duration or 0 for packet in packets)
        for number, packet in itertools.product(range(times), packets):
            copy = av.Packet(bytes(packet))
            copy.pts, copy.dts, copy.duration = (
                packet.pts + number * length,
                packet.dts + number * length,
                packet.duration,
            )
            copy.time_base, copy.is_keyframe, copy.stream = packet.time_base, packet.is_keyframe, stream
            made.mux(copy)


def main(*, small: bool = False) -> None:
    place = destination("orrery-wide")
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        short, film = Path(scratch) / "short.mp4", Path(scratch) / "ten minutes.mp4"
        width, height = SIZE if small else (1920, 1080)
        pictures = shimmer(*SIZE, 25) if small else itertools.islice(gale.pictures(), 0, 250, 2)
        write_film(
            short, width=width, height=height, frame_rate=Fraction(25), pictures=pictures, sound=None, quality=18
        )
        repeated(short, film, 2 if small else TIMES)
        facts = inspect(film, loudness=False)
        plan = make_plan(facts, place)
        first = first_figure(film, facts, Path(scratch))
        probing = further(film, facts, Path(scratch), codecs=("hevc",) if small else ("hevc", "vp9", "av1"))
        part = make_plan(facts, place, excerpt=Excerpt(in_s=0, out_s=1 if small else 4))
        packed = pack(film, facts, part, Path(scratch) / "packed.mp4")
        whole = plan.picture.frames / packed.pictures * packed.seconds
        ratio = probing / whole
        print(
            f"first figure {first:.1f} s, {first / FIRST_S:.2f} of its bar of {FIRST_S} s, {first / packed.seconds:.2f} of packing 4 s"
        )
        print(f"the forecast {probing:.1f} s, {probing / FORECAST_S:.2f} of its bar of {FORECAST_S} s")
        print(f"packing it once {whole:.0f} s: {ratio / BAR:.2f} of the bar of 1/20")


def planned_way(film: Path, facts: MasterFacts, destination_id: str, codec: str) -> PlannedFilm:
    place = destination(destination_id)
    plan = make_plan(facts, place, Choices(method="encoded", codec=codec, short_side_px=facts.video.display_height))
    return PlannedFilm(master=film, facts=facts, journey=Journey(plan, place))


def first_figure(film: Path, facts: MasterFacts, folder: Path) -> float:
    """Seconds that quick probes take."""
    began, usual = time.monotonic(), planned_way(film, facts, "orrery-wide", "h264")
    here = replace(usual, journey=usual.journey.quickly)
    reel = treated_reel(here, plan_probe_reel(here), folder / "quick", quiet)
    scaled = scaled_picture(here, reel, quiet)
    upload = upload_probe(here, reel, folder / "quick uploads", quiet)
    effort_probe(here, reel, scaled, upload, folder / "effort", quiet)
    handling_probe(here, reel, upload, folder / "quick uploads", folder / "quick handled", quiet)
    return time.monotonic() - began


def further(film: Path, facts: MasterFacts, folder: Path, *, codecs: tuple[str, ...]) -> float:
    """Seconds to the first forecast; what another lane of the same frame and other codecs take on top is printed."""
    began = time.monotonic()

    def seconds() -> float:
        nonlocal began
        before, began = began, time.monotonic()
        return began - before

    way = partial(planned_way, film, facts)
    here = way("orrery-wide", "h264")
    reel = treated_reel(here, plan_probe_reel(here), folder / "treated", quiet)
    scaled = scaled_picture(here, reel, quiet)
    upload = upload_probe(here, reel, folder / "uploads", quiet)
    effort_probe(here, reel, scaled, upload, folder / "effort", quiet)
    handling_probe(here, reel, upload, folder / "uploads", folder / "handled", quiet)
    first = seconds()
    handling_probe(way("fernpost-reel", "h264"), reel, upload, folder / "uploads", folder / "handled", quiet)
    taken = seconds()
    print(f"a further lane of the same frame {taken:.1f} s: {taken / LANE_S:.2f} of its bar of {LANE_S} s")
    for codec in codecs:
        effort_probe(way("orrery-wide", codec), reel, scaled, upload, folder / "effort", quiet)
        taken = seconds()
        print(f"a further codec, {name_of(codec)}, {taken:.1f} s: {taken / CODEC_S:.2f} of its bar of {CODEC_S} s")
    return first


if __name__ == "__main__":
    main(small="--small" in sys.argv)
