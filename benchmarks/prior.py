"""The prior of the sheet gear, fitted on probes of made films.  python -m benchmarks.prior [--kept FOLDER]

Probes take minutes, so those of each film and way are kept in FOLDER. Written is `core/arrival/prior.json`.
"""

from __future__ import annotations

import argparse
import itertools
import json
import math
import tempfile
import time
from collections.abc import Callable, Iterator, Sequence
from fractions import Fraction
from pathlib import Path

import numpy as np

from hardy_parcel.core.arrival import prior as module
from hardy_parcel.core.arrival.condition import PERFECT_DB, Likeness
from hardy_parcel.core.arrival.forecast import Probes, losses
from hardy_parcel.core.arrival.prior import CodecPrior, Prior, features, handled_features, missing, shown
from hardy_parcel.core.arrival.probe import EffortShift
from hardy_parcel.core.arrival.rehearsal import ScaledPicture
from hardy_parcel.core.arrival.windows import Reel
from hardy_parcel.core.master.checks.evidence import Difficulty
from hardy_parcel.core.trade.codecs import BASE_CODEC, PROBED_QUALITIES
from hardy_parcel.core.values import Model
from hardy_parcel.demo import aurora, gale, tide
from hardy_parcel.media.film import Planes, write_film
from hardy_parcel.media.survey import survey
from hardy_parcel.work.probing import plan_probe_reel
from hardy_parcel.work.rehearse import scaled_picture, treated_reel

from .films import SIZE, grainy, make, scene, soft, there_and_back
from .truth import planned, probes_of, quiet

WRITTEN = Path(module.__file__).with_name("prior.json")
RIDGE, FRAME = 0.2, 4
"""How strongly weights are held near nothing, and the place of a frame's pixels among the features."""
WAYS = (
    ("orrery-wide", "h264"), ("fernpost-reel", "av1"), ("orrery-wide", "hevc"), ("orrery-wide", "vp9"),
)
FEWER = WAYS[:2]
"""For the larger films, which take long."""


class Observed(Model):
    """One film on one way: its probes, the difficulty of each probed window, and what the journey was."""

    film: str
    destination_id: str
    codec: str
    smaller: int
    seen: tuple[Difficulty, ...]
    probes: Probes


def more_films(folder: Path) -> Iterator[tuple[Path, int]]:
    """Films beside those of `make`, with how many times smaller than 1080p each is."""
    yield from ((path, 6) for path in make(folder))
    rooms = {"gale": gale, "table": tide, "sky": aurora}
    kinds: dict[str, Callable[[Iterator[Planes]], Iterator[Planes]]] = {
        "soft": soft, "grainy": lambda pictures: grainy(pictures, 4, 5), "plain": lambda pictures: pictures,
    }
    for (name, room), (kind, treat), smaller in itertools.product(rooms.items(), kinds.items(), (6, 3, 1)):
        if (kind == "plain" and smaller == 6 and name != "sky") or (kind == "grainy" and smaller < 6) or (kind == "soft" and smaller == 1):
            continue
        size = SIZE[0] * 6 // smaller, SIZE[1] * 6 // smaller
        path = folder / f"{name}, {kind}, {size[1]}.mp4"
        if not path.exists():
            pictures = treat(there_and_back(scene(room, 4 if smaller > 1 else 2, size), 250 if smaller > 1 else 90))
            write_film(path, width=size[0], height=size[1], frame_rate=Fraction(25), pictures=pictures, sound=None, quality=12)
        yield path, smaller


def nearest(reel: Reel, difficulty: tuple[Difficulty, ...]) -> tuple[Difficulty, ...]:
    """For each measured window of a reel the second of film that lies nearest."""
    windows = [part for part in reel.segments if part.measure_from_s < part.end_s]
    return tuple(min(difficulty, key=lambda one: abs(one.at_s - float(part.start_s + part.end_s) / 2)) for part in windows)


def observed(path: Path, smaller: int, destination_id: str, codec: str, kept: Path) -> Observed:
    place = kept / f"{path.stem}, {destination_id}, {codec}.json"
    if place.is_file():
        return Observed.model_validate_json(place.read_text())
    film = planned(path, destination_id, codec, smaller=smaller)
    difficulty = survey(path, film.facts.video, film.facts.duration_s).difficulty
    found = Observed(
        film=path.stem, destination_id=destination_id, codec=codec, smaller=smaller, probes=probes_of(film),
        seen=nearest(plan_probe_reel(film), difficulty),
    )
    kept.mkdir(parents=True, exist_ok=True)
    place.write_text(found.model_dump_json())
    return found


class Shrunk(Model):
    """What is left of a film that was made smaller, on every raster."""

    film: str
    smaller: int
    side: int
    scaled: ScaledPicture


def shrunk(path: Path, smaller: int, side: int, kept: Path) -> Shrunk:
    place = kept / f"{path.stem}, {side} lines.json"
    if place.is_file():
        return Shrunk.model_validate_json(place.read_text())
    film = planned(path, "orrery-wide", "h264", smaller=smaller, side=side)
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        reel = treated_reel(film, plan_probe_reel(film), Path(scratch), quiet)
        found = Shrunk(film=path.stem, smaller=smaller, side=side, scaled=scaled_picture(film, reel, quiet))
    kept.mkdir(parents=True, exist_ok=True)
    place.write_text(found.model_dump_json())
    return found


class Rows:
    """Rows of a linear fit."""

    def __init__(self) -> None:
        self.x: list[Sequence[float]] = []
        self.y: list[Sequence[float]] = []

    def add(self, x: Sequence[float], y: Sequence[float]) -> None:
        self.x.append(list(x))
        self.y.append(list(y))

    def fit(self, *, offsets: int = 0, like: np.ndarray | None = None) -> np.ndarray:
        """Weights by ridge regression, outputs × inputs; the first input is constant and free, as are the last `offsets`.

        With `like` only what differs from those weights is fitted, and nothing differs by the size of the frame, which not every
        codec was tried at.
        """
        x, y = np.array(self.x), np.array(self.y).reshape(len(self.y), -1)
        if like is not None:
            y = y - x @ like.T
            x[:, FRAME] = 0
        hold = np.full(x.shape[1], RIDGE * len(x))
        hold[0] = 1e-6
        if offsets:
            hold[-offsets:] = 0.02 * len(x) * RIDGE
        found: np.ndarray = np.linalg.solve(x.T @ x + np.diag(hold), x.T @ y).T
        return found if like is None else found + like


def fitted(seen: Sequence[Observed], small: Sequence[Shrunk], films: dict[str, Path]) -> Prior:
    """The prior that fits what was observed."""
    every = [one for found in seen for one in found.seen]
    usual = Difficulty(at_s=0, **{
        name: float(np.median([getattr(one, name) for one in every])) for name in ("spatial", "temporal", "grain")
    })
    codecs, movement, scaled = {}, Rows(), Rows()
    journeys = {
        (one.film, one.destination_id, one.codec): planned(films[one.film], one.destination_id, one.codec, smaller=one.smaller).journey
        for one in seen
    }
    plain: tuple[list, list] = [None] * 3, [None] * 3  # H.264's, which comes first
    for codec, qualities in PROBED_QUALITIES.items():
        some = list({one.film: one for one in seen if one.codec == codec}.values())
        bits, lost = [Rows() for _ in qualities], [Rows() for _ in qualities]
        for one in some:
            width, height = journeys[one.film, one.destination_id, codec].frame_size
            for number, (quality, shift) in enumerate(zip(one.probes.upload.qualities, shifts_of(one), strict=True)):
                for window, there in zip(quality.windows, one.seen, strict=True):
                    x = features(there, width * height)
                    keys = [
                        shift.key_bits * window.key_bits / window.keys, shift.other_bits * window.other_bits / max(1, window.others),
                    ]
                    bits[number].add(x, np.log(np.maximum(keys, 8)) - math.log(width * height))
                    for base, likeness in zip(one.probes.scaled.likenesses, window.likenesses, strict=True):
                        worse = np.array(losses(likeness, base)) * (shift.detail, shift.information, shift.distortion)
                        lost[number].add([*x, shown(width, base.raster[0])], np.log(worse))
                        if not number and codec == "h264":
                            movement.add(x[:-1], [math.log(max(0.05, likeness.movement))])
        weights = [one.fit(like=like) for one, like in zip(bits, plain[0], strict=True)]
        losing = [one.fit(like=like) for one, like in zip(lost, plain[1], strict=True)]
        plain = plain if plain[0][0] is not None else (weights, losing)
        codecs[codec] = CodecPrior(
            key_bits=[tuple(w[0]) for w in weights], other_bits=[tuple(w[1]) for w in weights],
            lost=[tuple(map(tuple, one)) for one in losing],
            effort=_mean_shifts([one.probes.effort.shifts for one in some]) if codec == BASE_CODEC else unshifted(qualities),
        )
    means = {one.film: np.mean([features(there, 1e6) for there in one.seen], axis=0) for one in seen}
    for one in small:
        journey = planned(films[one.film], "orrery-wide", "h264", smaller=one.smaller, side=one.side).journey
        for likeness in one.scaled.likenesses:
            less = missing(journey, journey.frame_size[0], likeness.raster[0])
            if less > 0.02 and one.film in means:
                whole = Likeness(raster=likeness.raster, detail=1, information=1, movement=0, xpsnr_db=PERFECT_DB)
                scaled.add([*means[one.film][:-1], math.log(less)], np.log(losses(likeness, whole)))
    part = Prior(
        usual=usual, codecs=codecs, movement=tuple(movement.fit()[0]), scaled=tuple(map(tuple, scaled.fit())),
        handled=((), (), ()), handled_codec={},
    )
    return part.model_copy(update=_handled(part, seen, journeys, means))


def _handled(part: Prior, seen: Sequence[Observed], journeys: dict, means: dict[str, np.ndarray]) -> dict:
    """What platforms take of perfect uploads: weights, and by how much each of their codecs differs."""
    rows, names = Rows(), sorted({r.codec for journey in journeys.values() for r in journey.renditions})
    for one in seen:
        journey = journeys[one.film, one.destination_id, one.codec]
        by_name = {rendition.name: rendition for rendition in journey.renditions}
        bases = {base.raster: base for base in one.probes.scaled.likenesses}
        for measured in one.probes.handling.uploads[0].renditions:
            for likeness in measured.likenesses:
                x = handled_features(part, means[one.film], journey, by_name[measured.made.name], likeness.raster[0])
                of = [float(by_name[measured.made.name].codec == name) for name in names]
                rows.add([*x, *of], np.log(losses(likeness, bases[likeness.raster])))
    found = rows.fit(offsets=len(names))
    count = len(names)
    return {
        "handled": tuple(map(tuple, found[:, :-count])),
        "handled_codec": {name: tuple(found[:, n - count]) for n, name in enumerate(names)},
    }


def unshifted(qualities: Sequence[int]) -> tuple[EffortShift, ...]:
    """Shifts that change nothing."""
    return tuple(EffortShift(quality=one, key_bits=1, other_bits=1, detail=1, information=1, distortion=1) for one in qualities)


def shifts_of(one: Observed) -> tuple[EffortShift, ...]:
    """What a film's probes are multiplied by: another codec's are those of the base codec until then."""
    shifts = one.probes.effort.shifts
    return unshifted([shift.quality for shift in shifts]) if one.codec == BASE_CODEC else shifts


def _mean_shifts(every: Sequence[Sequence[EffortShift]]) -> tuple[EffortShift, ...]:
    return tuple(
        EffortShift(quality=group[0].quality, **{
            name: float(np.exp(np.mean([math.log(max(1e-3, getattr(one, name))) for one in group])))
            for name in ("key_bits", "other_bits", "detail", "information", "distortion")
        })
        for group in zip(*every, strict=True)
    )


def family(film: str) -> str:
    """Films of one scene, however treated."""
    return film.split(",")[0]


def without(film: str, seen: Sequence[Observed], small: Sequence[Shrunk], films: dict[str, Path]) -> Prior:
    """The prior of all other films: what this one is tried with."""
    return fitted(
        [one for one in seen if family(one.film) != family(film)], [one for one in small if family(one.film) != family(film)], films,
    )


def gathered(kept: Path) -> tuple[list[Observed], list[Shrunk], dict[str, Path]]:
    """Everything that is observed of every film."""
    (kept / "films").mkdir(parents=True, exist_ok=True)
    seen, small, films, began = [], [], {}, time.monotonic()
    for path, smaller in more_films(kept / "films"):
        films[path.stem] = path
        for destination_id, codec in WAYS if smaller == 6 else FEWER:
            seen.append(observed(path, smaller, destination_id, codec, kept / "probes"))
        for side in (1080 // smaller * 2 // 3 // 2 * 2, 1080 // smaller // 2 // 2 * 2):
            small.append(shrunk(path, smaller, side, kept / "probes"))
        print(f"{path.stem}: {len(seen[-1].seen)} windows, {time.monotonic() - began:.0f} s", flush=True)
    return seen, small, films


def main() -> None:
    words = argparse.ArgumentParser()
    words.add_argument("--kept", type=Path)
    asked = words.parse_args()
    with tempfile.TemporaryDirectory(prefix="hardy-parcel-") as scratch:
        found = fitted(*gathered(asked.kept or Path(scratch)))
    document = json.loads(found.model_dump_json(), parse_float=lambda text: float(f"{float(text):.5g}"))
    WRITTEN.write_text(json.dumps(document, indent=1) + "\n")
    print(f"{WRITTEN}: written")


if __name__ == "__main__":
    main()
