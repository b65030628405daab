"""Films that came back cropped, scaled, with borders, sped up, trimmed, with fewer pictures: found to the picture and to the pixel."""

from __future__ import annotations

import itertools
from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import cv2
import numpy as np
import pytest

from hardy_parcel.core.arrival.alignment import Alignment
from hardy_parcel.core.errors import BadInput
from hardy_parcel.media import aligning
from hardy_parcel.media.aligning import align
from hardy_parcel.media.film import Planes, write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pictures import own_picture
from hardy_parcel.media.placed import as_returned, cut_out, laid_back, picture_bits

WIDTH, HEIGHT, RATE, COUNT = 320, 180, 25, 40


def sea(width: int = WIDTH, height: int = HEIGHT, count: int = COUNT) -> Iterator[Planes]:
    """A skerry under drifting cloud: nothing repeats, and every picture differs from the next."""
    dice = np.random.default_rng(11)
    cloud = cv2.GaussianBlur(dice.normal(0, 1, (height, width + 8 * count)).astype(np.float32), (0, 0), 7)
    rock = cv2.GaussianBlur(dice.normal(0, 1, (height, width)).astype(np.float32), (0, 0), 2)
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    for number in range(count):
        sky = cloud[:, 5 * number : 5 * number + width] * 550
        luma = 110 + sky + rock * np.linspace(40, 200, height, dtype=np.float32)[:, None]
        yield np.clip(luma, 16, 235).astype(np.uint8), chroma, chroma


@pytest.fixture(scope="module")
def packed(tmp_path_factory: pytest.TempPathFactory) -> Path:
    path = tmp_path_factory.mktemp("aligned") / "Packed.mp4"
    write_film(path, width=WIDTH, height=HEIGHT, frame_rate=Fraction(RATE), pictures=sea(), sound=None, quality=18)
    return path


def served(path: Path, change: Callable[[np.ndarray], np.ndarray], *, keep: slice = slice(None), rate: Fraction = Fraction(RATE)) -> Path:
    """What a platform might have made of it."""
    def planes() -> Iterator[Planes]:
        for luma, _, _ in list(sea())[keep]:
            made = change(luma)
            chroma = np.full((made.shape[0] // 2, made.shape[1] // 2), 128, np.uint8)
            yield made, chroma, chroma

    pictures = list(planes())
    height, width = pictures[0][0].shape
    write_film(path, width=width, height=height, frame_rate=rate, pictures=iter(pictures), sound=None, quality=30)
    return path


def scaled(width: int, height: int) -> Callable[[np.ndarray], np.ndarray]:
    return lambda luma: cv2.resize(luma, (width, height), interpolation=cv2.INTER_AREA)


def cropped(x: int, y: int, width: int, height: int) -> Callable[[np.ndarray], np.ndarray]:
    return lambda luma: np.ascontiguousarray(luma[y : y + height, x : x + width])


def bordered(luma: np.ndarray) -> np.ndarray:
    made = np.full((220, 360), 16, np.uint8)
    made[20:200, 20:340] = luma
    return made


def found(packed: Path, returned: Path) -> Alignment:
    return align(packed, inspect(packed), returned, inspect(returned))


@pytest.mark.parametrize(("change", "rect"), [
    (scaled(240, 136), (0, 0, 320, 180)),
    (scaled(480, 270), (0, 0, 320, 180)),
    (cropped(32, 18, 256, 144), (32, 18, 288, 162)),
    (cropped(0, 20, 200, 160), (0, 20, 200, 180)),
    (bordered, (-20, -20, 340, 200)),
])
def test_crop_scale_and_borders_are_found_to_the_pixel(
    packed: Path, tmp_path: Path, change: Callable[[np.ndarray], np.ndarray], rect: tuple[int, ...]
) -> None:
    one = found(packed, served(tmp_path / "Back.mp4", change))
    assert one.placing.rect(one.returned_width, one.returned_height) == pytest.approx(rect, abs=1.0)
    assert one.timing.told
    assert one.trimmed_s == pytest.approx((0, 0), abs=0.05)


@pytest.mark.parametrize(("keep", "rate", "speed", "offset_s", "kept_every"), [
    (slice(9, None), Fraction(25), 1.0, 0.36, 1.0),
    (slice(None, None, 2), Fraction(25, 2), 1.0, 0.0, 2.0),
    (slice(None), Fraction(24), 24 / 25, 0.0, 1.0),
])
def test_time_is_found_to_the_picture(
    packed: Path, tmp_path: Path, keep: slice, rate: Fraction, speed: float, offset_s: float, kept_every: float
) -> None:
    one = found(packed, served(tmp_path / "Back.mp4", scaled(240, 136), keep=keep, rate=rate))
    assert one.timing.speed == pytest.approx(speed, abs=0.001)
    assert one.timing.offset_s == pytest.approx(offset_s, abs=0.021)
    assert one.kept_every == pytest.approx(kept_every, abs=0.01)
    assert one.whole_frame


@pytest.mark.parametrize("enough", [120, 2])
def test_a_long_film_is_searched_by_its_keyframes_alone_and_by_enough_of_them(tmp_path: Path, monkeypatch, enough: int) -> None:
    """As if these were long ones: what the keyframes say is off by up to their distance, and is then found to the picture."""
    monkeypatch.setattr(aligning, "EVERY_PICTURE", 10)
    monkeypatch.setattr(aligning, "ENOUGH_KEYS", enough)
    packed = tmp_path / "Packed.mp4"
    write_film(packed, width=WIDTH, height=HEIGHT, frame_rate=Fraction(RATE), pictures=sea(count=150), sound=None, quality=18)
    back = tmp_path / "Back.mp4"
    rest = itertools.islice(sea(count=150), 31, None)
    write_film(back, width=WIDTH, height=HEIGHT, frame_rate=Fraction(RATE), pictures=rest, sound=None, quality=30)
    facts = inspect(back, loudness=False)
    every = [len(aligning._track(back, facts, enough=most).times_s) for most in (None, enough)]
    assert every[0] == len(facts.video.keyframes) > 4
    assert every[1] == every[0] // max(1, every[0] // enough)
    one = found(packed, back)
    assert one.timing.offset_s == pytest.approx(31 / 25, abs=0.021)
    assert one.whole_frame


def test_a_mirrored_one_and_another_film_are_refused(packed: Path, tmp_path: Path) -> None:
    with pytest.raises(BadInput, match="mirrored"):
        found(packed, served(tmp_path / "Mirrored.mp4", lambda luma: np.ascontiguousarray(luma[:, ::-1])))
    with pytest.raises(BadInput, match="another film"):
        found(packed, served(tmp_path / "Other.mp4", lambda luma: np.ascontiguousarray(luma[::-1])))


def test_a_cut_lies_between_pixels_and_a_border_is_black(packed: Path, tmp_path: Path) -> None:
    one = found(packed, served(tmp_path / "Back.mp4", bordered))
    again = as_returned(own_picture(packed, 3, Fraction(RATE)), one)
    luma = again.to_ndarray(format="gray")
    assert luma.shape == (220, 360)
    assert luma[:16].max() < 4
    assert luma[100, 60:300].std() > 5
    ramp = np.tile(np.arange(0, 200, 2, dtype=np.uint8), (64, 1))
    picture = own_picture(packed, 0, Fraction(RATE)).from_ndarray(np.vstack([ramp, np.full((32, 100), 128, np.uint8)]), format="yuv420p")
    half = cut_out(picture, (10.5, 0, 42.5, 32), (32, 32)).to_ndarray(format="yuv420p")[:32]
    assert half[16, 4:28] == pytest.approx(2 * (np.arange(4, 28) + 10.5), abs=1)


def test_what_each_picture_costs_is_counted(packed: Path) -> None:
    cost = picture_bits(packed, Fraction(RATE), inspect(packed).video.start_s)
    assert len(cost.bits) == COUNT
    assert cost.keys[0]
    assert cost.over_other > 1
    assert cost.bits.sum() / 8 == pytest.approx(packed.stat().st_size, rel=0.1)


def test_a_returned_picture_is_laid_back_where_it_lies_in_the_packed_frame(packed: Path, tmp_path: Path) -> None:
    cropped = served(tmp_path / "Cropped.mp4", lambda luma: cv2.resize(luma[20:160, 40:280], (480, 280), interpolation=cv2.INTER_CUBIC))
    alignment = align(packed, inspect(packed), cropped, inspect(cropped))
    own, back = own_picture(packed, 12, Fraction(RATE)), laid_back(own_picture(cropped, 12, Fraction(RATE)), alignment)
    assert (back.width, back.height) == (WIDTH, HEIGHT)
    was, now = (picture.to_ndarray(format="gray").astype(int) for picture in (own, back))
    assert np.abs(now[24:156, 44:276] - was[24:156, 44:276]).mean() < 6, "the same pictures, coded twice"
    assert np.abs(now[24:156, 44:276] - np.roll(was, 3, axis=1)[24:156, 44:276]).mean() > 12, "three px beside"
    assert len(np.unique(now[:16])) == 1, "grey where nothing came back"
