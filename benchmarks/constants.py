"""The constants that the core takes as measured, measured again: container overhead, overshoot, first pass.

Prints what `core.plan.carrying` assumes beside what is found, on films of the program's own.
"""

from __future__ import annotations

import itertools
import tempfile
import time
from fractions import Fraction
from pathlib import Path

import av
import numpy as np

from hardy_parcel.core.arrival.ticks import ticks
from hardy_parcel.core.plan.carrying import FIRST_PASS_SHARE, PRIOR_PIXELS_PER_S, SEARCH_SHARE, worst_case
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import packing_settings, searches_quality
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.codecs import CODECS
from hardy_parcel.core.trade.containers import WRAPPINGS
from hardy_parcel.core.trade.rate_control import Effort, RateControl
from hardy_parcel.demo import gale, sounds, tide
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.encode import encoded, encoder
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.media.pictures import treated

from .films import SIZE, grainy, scene, there_and_back

PLACE = destination("orrery-wide")


def films(folder: Path) -> list[Path]:
    made = []
    sea, table = scene(gale), scene(tide)
    for name, pictures, seconds, rate in (
        ("sea", there_and_back(sea, 250), 10, 25), ("table", there_and_back(table, 250), 10, 25),
        ("half", itertools.chain(there_and_back(table, 200), there_and_back(sea, 200)), 16, 25),
        ("grain", grainy(there_and_back(table, 300), 6, 1), 6, 50),
    ):
        path = folder / f"{name}.mp4"
        sound = np.tile(sounds.wind(3, seconds)[None, :] * 0.05, (2, 1)).astype(np.float32)
        write_film(path, width=SIZE[0], height=SIZE[1], frame_rate=Fraction(rate), pictures=pictures, sound=sound, quality=14)
        made.append(path)
    return made


def overhead(path: Path) -> tuple[int, int, int]:
    """Container bytes, pictures and sound packets of a file."""
    with av.open(str(path)) as container:
        sizes, counts = 0, {"video": 0, "audio": 0}
        for packet in container.demux():
            if packet.size:
                sizes += packet.size
                counts[packet.stream.type] += 1
    return path.stat().st_size - sizes, counts["video"], counts["audio"]


def rates_and_wrappings(made: list[Path], folder: Path) -> None:
    """Every codec with every rate control it has, in every container: bits against the plan, and what wrapping adds."""
    rows: dict[str, list] = {}
    shares: dict[tuple, list[tuple[float, float]]] = {}
    every = [(codec, control) for codec, traits in CODECS.items() if codec != "vc3" for control in traits.controls]
    for path, (codec, control), times in itertools.product(made, every, (0.3, 1.0, 2.5)):
        facts = inspect(path)
        rate = round(make_plan(facts, PLACE, Choices(codec=codec)).guidance.low_bps * times)
        containers = CODECS[codec].containers
        wrapped = containers[len(shares.get((codec, control), ())) % len(containers)]
        choices = Choices(codec=codec, container=wrapped, video_bitrate_bps=rate, rate_control=control, effort=Effort.QUICK)
        plan = make_plan(facts, PLACE, choices)
        done = pack(path, facts, plan, folder / "packed")
        video = plan.picture
        share = done.video_bytes * 8 * float(video.frame_rate.value) / done.pictures / rate
        shares.setdefault((codec, control), []).append((share, worst_case(video)))
        rows.setdefault(wrapped, []).append(overhead(folder / "packed"))
    for (codec, control), values in shares.items():
        asked = [share for share, _ in values]
        print(f"achieved ÷ asked, {codec}, {control}: {min(asked):.2f} to {max(asked):.2f} on {len(values)} files; "
              f"above the worst case assumed on {sum(share > worst for share, worst in values)}")
    for name, measured in rows.items():
        found, wrapping = np.array(measured, float), WRAPPINGS[name]
        fit, *_ = np.linalg.lstsq(np.column_stack([np.ones(len(found)), found[:, 1], found[:, 2]]), found[:, 0], rcond=None)
        assumed = wrapping.fixed + wrapping.picture * found[:, 1] + wrapping.sound * found[:, 2]
        print(f"{name}: {fit[0]:.0f} B + {fit[1]:.1f} B a picture + {fit[2]:.1f} B a sound packet fits {len(found)} files; "
              f"assumed is off by {np.abs(assumed - found[:, 0]).max() / 1000:.1f} kB at most")


def speeds(path: Path, folder: Path) -> None:
    """Pixels/s of every codec and effort in one pass, beside what is assumed before anything was measured here.

    On a large, hard picture: on a small one starting an encoder weighs as much as encoding.
    """
    facts = inspect(path)
    for codec, traits in CODECS.items():
        place = destination("handover-client") if codec == "vc3" else PLACE
        control = traits.controls[0] if codec == "vc3" else RateControl.ONE_PASS
        for effort in Effort if codec != "vc3" else (Effort.MEDIUM,):
            plan = make_plan(facts, place, Choices(codec=codec, effort=effort, rate_control=control))
            done = pack(path, facts, plan, folder / "packed")
            framing = plan.picture.framing.value
            found = done.pictures * framing.width * framing.height / done.seconds
            print(f"{codec}, {effort}: {found / 1e6:.1f} Mpixels/s; assumed {PRIOR_PIXELS_PER_S[codec][effort] / 1e6:g}")


def main() -> None:
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        folder = Path(scratch)
        made = films(folder)
        large = folder / "large.mp4"
        write_film(large, width=gale.WIDTH, height=gale.HEIGHT, frame_rate=gale.RATE, sound=None, quality=14,
                   pictures=itertools.islice(gale.pictures(), 50))
        speeds(large, folder)
        rates_and_wrappings(made, folder)
        for codec, effort in itertools.product(("h264", "av1"), Effort):
            path = made[0]
            facts = inspect(path)
            plan = make_plan(facts, PLACE, Choices(codec=codec, effort=effort))
            wanted, stats = ticks(plan), str(folder / "stats")
            took = []
            for number in (1, 2):
                quality = 32 if searches_quality(plan.picture) else None
                settings = packing_settings(plan, encode_pass=number, stats_path=stats, quality=quality)
                began = time.perf_counter()
                for _ in encoded(encoder(settings), treated(path, facts.video, plan, wanted)):
                    pass
                took.append(time.perf_counter() - began)
            assumed = (FIRST_PASS_SHARE if codec == "h264" else SEARCH_SHARE)[effort]
            print(f"{codec}, first pass over second in time, {effort}: {took[0] / took[1]:.2f}; assumed {assumed}")


if __name__ == "__main__":
    main()
