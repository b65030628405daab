"""Single pictures of an open film are those that are packed of it, in whatever order they are asked for."""

from __future__ import annotations

from collections.abc import Callable
from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from hardy_parcel.core.arrival.ticks import ticks
from hardy_parcel.core.master.facts import Excerpt, Mending, Scan
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.plan import FieldOrder
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pictures import treated
from hardy_parcel.media.stepper import Stepper

from .. import films
from ..builders import ORRERY

UNEVEN = [20 * n if n < 15 else 300 + 80 * (n - 15) for n in range(30)]


@pytest.mark.parametrize(("make", "choices"), [
    (lambda path: films.film(path, rate=50, seconds=1), {}),
    (lambda path: films.film(path, rate=50, seconds=1), {"frame_rate": Fraction(25), "short_side_px": 90}),
    (lambda path: films.odd_film(path, stamps_ms=UNEVEN), {}),
    (lambda path: films.odd_film(path, interlaced=True), {}),
    (lambda path: films.odd_film(path, interlaced=True), {"frame_rate": Fraction(25)}),
    (lambda path: films.odd_film(path, sample_aspect_ratio=Fraction(4, 3)), {}),
], ids=["plain", "every second", "varying rate", "of fields", "one of two fields", "pixels that are not square"])
def test_a_kept_picture_is_the_one_that_is_packed(make: Callable[[Path], Path], choices: dict, tmp_path: Path) -> None:
    film = make(tmp_path / "film.mp4")
    facts = inspect(film)
    if facts.video.scan is not Scan.PROGRESSIVE:
        facts = facts.model_copy(update={"mending": Mending(deinterlace=Scan.TOP_FIRST)})
    plan = make_plan(facts, ORRERY, Choices(method="encoded", **choices), Excerpt(in_s=Fraction(1, 5), out_s=Fraction(4, 5)))
    assert (plan.picture.deinterlace.value is FieldOrder.NONE) == (facts.video.scan is Scan.PROGRESSIVE)
    wanted = ticks(plan)
    packed = [picture.to_ndarray() for picture in treated(film, facts.video, plan, wanted, frame=False)]
    stepper = Stepper(film, facts)
    for number in (0, len(wanted) - 1, 3, 2, len(wanted) // 2):
        own = stepper.kept(wanted[number].master_s, plan.picture).to_ndarray()
        off = [np.abs(own.astype(int) - other.astype(int)).mean() for other in packed]
        assert off[number] == min(off), "it may be shown twice"
        assert off[number] < 1, "fields beside a seek may be joined otherwise"
