"""The comparison on a viewer's screen."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np
import pytest

from hardy_parcel.core.arrival.condition import Likeness, mean_likeness
from hardy_parcel.core.arrival.screens import Raster
from hardy_parcel.core.errors import EncoderTrouble
from hardy_parcel.media.measure import Stream, compare
from hardy_parcel.media.placed import cut_out

from .. import films

SIZE = (320, 180)
RATE = Fraction(25)


def pictures(noise: float = 0.0, count: int = 12, size: tuple[int, int] = SIZE) -> Iterator[av.VideoFrame]:
    """The shimmer, with this much noise added on top of it."""
    random = np.random.default_rng(1)
    for number, (luma, blue, red) in enumerate(films.shimmer(*size, count)):
        spoilt = np.clip(luma + random.normal(0, noise, luma.shape), 0, 255).astype(np.uint8) if noise else luma
        yield films.frame((spoilt, blue, red), number, 1 / RATE)


def measured(
    noises: dict[str, float], *, flags: list[bool] | None = None, rasters: list[Raster] | None = None, size: tuple[int, int] = SIZE,
    shown: dict[str, Iterator[av.VideoFrame]] | None = None, references: Iterator[av.VideoFrame] | None = None,
) -> dict[tuple[str, int], Likeness]:
    """The likeness of every stream on every raster."""
    rasters = rasters or [Raster.whole(*SIZE)]
    every = frozenset(range(len(rasters)))
    found = compare(
        rasters=rasters, reference_size=SIZE, references=references or pictures(), measured=flags or [True] * 12, rate=RATE,
        streams={
            name: Stream(pictures=(shown or {}).get(name) or pictures(noise), size=size, rasters=every) for name, noise in noises.items()
        },
    )
    return {key: mean_likeness(rasters[key[1]].size, [parts for _, parts in rows]) for key, rows in found.items()}


def test_identical_pictures_are_perfect_without_an_infinity() -> None:
    found = measured({"same": 0.0})["same", 0]
    assert (found.xpsnr_db, found.detail, found.information, found.condition, found.changed) == (70.0, 1.0, 1.0, 100.0, None)
    assert found.movement > 0


def test_more_noise_is_worse_and_streams_are_kept_apart() -> None:
    found = measured({"a little": 2.0, "much": 8.0, "more": 16.0})
    names = ("a little", "much", "more")
    values = [found[name, 0].xpsnr_db for name in names]
    assert values == sorted(values, reverse=True)
    assert values[0] - values[1] == pytest.approx(12, abs=3)
    conditions = [found[name, 0].condition for name in names]
    assert conditions == sorted(conditions, reverse=True)
    assert conditions[0] > conditions[-1] + 20


def test_only_measured_pictures_count_and_skipping_the_rest_changes_nothing() -> None:
    flags = [False] * 6 + [True] * 3 + [False] * 3
    rasters = [Raster.whole(*SIZE)]

    def rows(flags: list[bool]) -> list:
        stream = Stream(pictures=pictures(6.0), size=SIZE, rasters=frozenset({0}))
        return compare(
            rasters=rasters, reference_size=SIZE, references=pictures(), measured=flags, rate=RATE, streams={"noisy": stream}
        )["noisy", 0]

    part, whole = rows(flags), rows([True] * 12)
    assert [index for index, _ in part] == [6, 7, 8]
    for (_, one), (_, other) in zip(part, whole[6:9], strict=True):
        assert one.detail == pytest.approx(other.detail)
        assert one.movement == pytest.approx(other.movement)
        assert one.xpsnr_db == pytest.approx(other.xpsnr_db, abs=0.05)


def test_a_small_screen_forgives() -> None:
    found = measured({"noisy": 6.0}, rasters=[Raster.whole(160, 90), Raster.whole(*SIZE)])
    assert found["noisy", 0].xpsnr_db > found["noisy", 1].xpsnr_db + 1.5
    assert found["noisy", 0].condition > found["noisy", 1].condition


def test_a_brighter_picture_is_guarded_beside_the_scale() -> None:
    def brighter() -> Iterator[av.VideoFrame]:
        for number, (luma, blue, red) in enumerate(films.shimmer(*SIZE, 12)):
            yield films.frame((np.minimum(luma, 240) + 6, blue, red), number, 1 / RATE)

    found = measured({"brighter": 0.0}, shown={"brighter": brighter()})["brighter", 0]
    assert found.condition > 98
    assert found.changed == "brightness was changed"


def test_bars_are_cut_off_before_comparing() -> None:
    """A picture set between bars compares as the picture alone."""

    def framed() -> Iterator[av.VideoFrame]:
        for number, (luma, blue, red) in enumerate(films.shimmer(*SIZE, 12)):
            tall, bu, rd = np.full((300, 320), 16, np.uint8), np.full((150, 160), 128, np.uint8), np.full((150, 160), 128, np.uint8)
            tall[60:240], bu[30:120], rd[30:120] = luma, blue, red
            yield films.frame((tall, bu, rd), number, 1 / RATE)

    found = measured(
        {"framed": 0.0}, size=(320, 300), shown={"framed": framed()},
        rasters=[Raster(frame_width=320, frame_height=300, x=0, y=60, width=320, height=180)],
    )
    assert (found["framed", 0].xpsnr_db, found["framed", 0].condition) == (70.0, 100.0)


def test_a_rendition_whose_bars_end_between_its_pixels_is_compared_in_place() -> None:
    """Scaled to 58 %, the picture's edges fall between pixels; it compares as well as the same scaling without bars."""

    def framed() -> Iterator[av.VideoFrame]:
        for number, (luma, _, _) in enumerate(films.shimmer(*SIZE, 12, grain=0)):
            tall = np.full((300, 320), 16, np.uint8)
            tall[50:230] = luma
            chroma = np.full((150, 160), 128, np.uint8)
            yield films.frame((tall, chroma, chroma), number, 1 / RATE).reformat(width=186, height=174, interpolation="BICUBIC")

    def plain() -> Iterator[av.VideoFrame]:
        for picture in (films.frame(p, n, 1 / RATE) for n, p in enumerate(films.shimmer(*SIZE, 12, grain=0))):
            yield picture.reformat(width=186, height=104, interpolation="BICUBIC")

    def value(pictures: Iterator[av.VideoFrame], size: tuple[int, int], raster: Raster) -> float:
        reference = (films.frame(p, n, 1 / RATE) for n, p in enumerate(films.shimmer(*SIZE, 12, grain=0)))
        return measured({"x": 0.0}, references=reference, size=size, shown={"x": pictures}, rasters=[raster])["x", 0].xpsnr_db

    between = value(framed(), (186, 174), Raster(frame_width=320, frame_height=300, x=0, y=50, width=320, height=180))
    assert between > value(plain(), (186, 104), Raster.whole(320, 180)) - 1


def test_streams_of_different_length_are_not_compared_in_silence() -> None:
    with pytest.raises(EncoderTrouble, match="ends after 9 of 12"):
        measured({"short": 0.0}, shown={"short": pictures(count=9)})


def test_each_raster_may_have_its_own_part_of_the_reference() -> None:
    width, height = SIZE
    half = Raster(frame_width=width, frame_height=height, x=0, y=0, width=width // 2, height=height)
    rasters, boxes = [Raster.whole(*SIZE), half], [(0.0, 0.0, width, height), (0.0, 0.0, width / 2, height)]

    def likenesses(boxes: list) -> list[Likeness]:
        found = compare(
            rasters=rasters, reference_size=SIZE, references=pictures(), measured=[True] * 12, rate=RATE,
            streams={"same": Stream(pictures=pictures(), size=SIZE, rasters=frozenset({0, 1}))},
            own_reference=lambda picture, number: cut_out(picture, boxes[number], rasters[number].size),
        )
        return [mean_likeness(raster.size, [parts for _, parts in found["same", number]]) for number, raster in enumerate(rasters)]

    assert [one.condition for one in likenesses(boxes)] == [100.0, 100.0]
    wrong = likenesses([boxes[0], (width / 2, 0.0, float(width), height)])
    assert wrong[0].condition == 100.0
    assert wrong[1].condition < 60
