"""The comparison on a viewer's screen."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction

import av
import numpy as np
import pytest

from hardy_parcel.core.arrival.screens import Raster, Screen
from hardy_parcel.media.measure import Series, compare

from .. import films

SIZE = (320, 180)
RATE = Fraction(25)


def pictures(noise: float = 0.0, count: int = 12, size: tuple[int, int] = SIZE) -> Iterator[av.VideoFrame]:
    """The shimmer, with this much noise added on top of it."""
    random = np.random.default_rng(1)
    for number, (luma, blue, red) in enumerate(films.shimmer(*size, count)):
        spoilt = np.clip(luma + random.normal(0, noise, luma.shape), 0, 255).astype(np.uint8) if noise else luma
        yield films.frame((spoilt, blue, red), number, 1 / RATE)


def measured(noises: dict[str, float], *, flags: list[bool] | None = None, raster=SIZE, **changes) -> dict[tuple[str, Screen], Series]:
    values = {
        "rasters": {Screen.LAPTOP: Raster.whole(*raster)}, "reference_size": SIZE, "references": pictures(),
        "streams": dict.fromkeys(noises, SIZE),
        "pictures": {name: pictures(noise) for name, noise in noises.items()}, "measured": flags or [True] * 12, "rate": RATE,
    }
    return compare(**(values | changes))


def test_identical_pictures_are_perfect_without_an_infinity() -> None:
    series = measured({"same": 0.0})["same", Screen.LAPTOP]
    assert series.xpsnr_db == [70.0] * 12
    assert series.mean_db == 70.0
    assert series.mean_ssim == pytest.approx(1.0)


def test_more_noise_is_worse_and_streams_are_kept_apart() -> None:
    found = measured({"a little": 2.0, "much": 8.0, "more": 16.0})
    values = [found[name, Screen.LAPTOP].mean_db for name in ("a little", "much", "more")]
    assert values == sorted(values, reverse=True)
    assert values[0] - values[1] == pytest.approx(12, abs=3)
    ssims = [found[name, Screen.LAPTOP].mean_ssim for name in ("a little", "much", "more")]
    assert ssims == sorted(ssims, reverse=True)


def test_only_measured_pictures_count_and_skipping_the_rest_changes_nothing() -> None:
    flags = [False] * 6 + [True] * 3 + [False] * 3
    part = measured({"noisy": 6.0}, flags=flags)["noisy", Screen.LAPTOP]
    whole = measured({"noisy": 6.0})["noisy", Screen.LAPTOP]
    assert len(part.xpsnr_db) == 3
    assert part.xpsnr_db == pytest.approx(whole.xpsnr_db[6:9], abs=0.05)


def test_a_small_screen_forgives() -> None:
    found = measured({"noisy": 6.0}, raster=(160, 90))
    assert found["noisy", Screen.LAPTOP].mean_db > measured({"noisy": 6.0})["noisy", Screen.LAPTOP].mean_db + 1.5


def test_bars_are_cut_off_before_comparing() -> None:
    """A picture set between bars compares as the picture alone."""

    def framed() -> Iterator[av.VideoFrame]:
        for number, (luma, blue, red) in enumerate(films.shimmer(*SIZE, 12)):
            tall, bu, rd = np.full((300, 320), 16, np.uint8), np.full((150, 160), 128, np.uint8), np.full((150, 160), 128, np.uint8)
            tall[60:240], bu[30:120], rd[30:120] = luma, blue, red
            yield films.frame((tall, bu, rd), number, 1 / RATE)

    found = measured(
        {"framed": 0.0}, streams={"framed": (320, 300)}, pictures={"framed": framed()},
        rasters={Screen.LAPTOP: Raster(frame_width=320, frame_height=300, x=0, y=60, width=320, height=180)},
    )
    assert found["framed", Screen.LAPTOP].mean_db == 70.0


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
        found = measured({"x": 0.0}, references=reference, streams={"x": size}, pictures={"x": pictures}, rasters={Screen.TV: raster})
        return found["x", Screen.TV].mean_db

    between = value(framed(), (186, 174), Raster(frame_width=320, frame_height=300, x=0, y=50, width=320, height=180))
    assert between > value(plain(), (186, 104), Raster.whole(320, 180)) - 1


def test_every_screen_gets_its_own_series() -> None:
    found = measured({"noisy": 4.0}, rasters={Screen.PHONE: Raster.whole(160, 90), Screen.TV: Raster.whole(*SIZE)})
    assert set(found) == {("noisy", Screen.PHONE), ("noisy", Screen.TV)}


def test_streams_of_different_length_are_not_compared_in_silence() -> None:
    with pytest.raises(ValueError, match="shorter"):
        measured({"short": 0.0}, pictures={"short": pictures(count=9)})
