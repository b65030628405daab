"""Poster strips, stills, and how hard each part is to code."""

from __future__ import annotations

import base64
import io
from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from PIL import Image

from hardy_parcel.core.arrival.screens import Raster
from hardy_parcel.core.master.facts import Excerpt
from hardy_parcel.core.master.strip import STRIP_PICTURES
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media.difficulty import stored_stretches, stretches
from hardy_parcel.media.film import Planes
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pictures import own_picture
from hardy_parcel.media.stepper import Stepper
from hardy_parcel.media.stills import STRIP_HEIGHT, encoded, poster_strip, save

from .. import films
from ..builders import ORRERY


def test_a_strip_of_evenly_spread_pictures(gale: Path, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hardy_parcel.media.stills.EXACT_FOR_S", 100)  # however slow the machine
    facts = inspect(gale)
    told = list(poster_strip(gale, facts, make_plan(facts, ORRERY).video, tmp_path / "strip"))
    assert told == list(range(1, STRIP_PICTURES + 1))
    pictures = [tmp_path / "strip" / f"{i}.jpg" for i in range(STRIP_PICTURES)]
    assert Image.open(pictures[0]).size == (256, STRIP_HEIGHT)
    squares = [np.asarray(Image.open(p).convert("L")).max(axis=0).argmax() for p in pictures]
    assert len(set(squares)) > 4


def test_a_very_short_master_still_has_a_strip(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=Fraction(1, 25), sound=None)
    facts = inspect(source)
    strip = poster_strip(source, facts, make_plan(facts, ORRERY).video, tmp_path / "strip")
    assert len(list(strip)) == STRIP_PICTURES


def test_a_still_is_cut_and_scaled_with_the_right_colours(tmp_path: Path) -> None:
    """A BT.709 red of luma 63, Cb 102, Cr 240 comes out as red, and the bars are cut off."""
    luma = np.full((180, 320), 16, np.uint8)
    blue, red = np.full((90, 160), 128, np.uint8), np.full((90, 160), 128, np.uint8)
    luma[40:140], blue[20:70], red[20:70] = 63, 102, 240
    source = films.film(tmp_path / "a.mp4", seconds=Fraction(3, 25), sound=None, pictures=iter([(luma, blue, red)] * 3))
    save(
        own_picture(source, 1, Fraction(25)), tmp_path / "x.png",
        raster=Raster(frame_width=160, frame_height=90, x=0, y=20, width=160, height=50),
    )
    picture = np.asarray(Image.open(tmp_path / "x.png")).astype(int)
    assert picture.shape == (50, 160, 3)
    assert picture[25, 80, 0] > 240
    assert picture[25, 80, 1:].max() < 16
    assert not (tmp_path / "partial-x.png").exists()


PATCHES = [(61, 139, 147), (200, 60, 40), (30, 60, 180), (128, 128, 128), (16, 16, 16), (235, 235, 235), (180, 200, 60)]


def as_bt709(rgb: tuple[int, int, int]) -> tuple[int, int, int]:
    """Limited-range Y, Cb, Cr by Rec. ITU-R BT.709-6 item 3, written out here a second time."""
    r, g, b = (value / 255 for value in rgb)
    y = 0.2126 * r + 0.7152 * g + 0.0722 * b
    return round(16 + 219 * y), round(128 + 224 * (b - y) / 1.8556), round(128 + 224 * (r - y) / 1.5748)


def back(ycbcr: tuple[int, int, int]) -> np.ndarray:
    y, b, r = (ycbcr[0] - 16) / 219, (ycbcr[1] - 128) / 224, (ycbcr[2] - 128) / 224
    return np.clip(np.rint(255 * np.array([y + 1.5748 * r, y - 0.187324 * b - 0.468124 * r, y + 1.8556 * b])), 0, 255)


def patch(colour: tuple[int, int, int]) -> av.VideoFrame:
    frame = av.VideoFrame(320, 180, "yuv420p")
    for plane, value in zip(frame.planes, as_bt709(colour), strict=True):
        plane.update(bytes([value]) * plane.buffer_size)
    return frame


@pytest.mark.parametrize("colour", PATCHES)
@pytest.mark.parametrize("size", [(320, 180), (256, 144), (960, 540)])
@pytest.mark.parametrize(("ending", "near"), [("png", 0), ("bmp", 0), ("jpg", 2)])
def test_a_known_patch_comes_out_in_its_colour(colour, size: tuple[int, int], ending: str, near: int) -> None:
    """Exactly in a PNG and a BMP, within two code values in a JPEG, and nothing in the file that a browser would change it by."""
    image = Image.open(io.BytesIO(encoded(patch(colour), ending, Raster.whole(*size))))
    assert image.size == size
    assert not {"gamma", "chromaticity", "icc_profile", "srgb"} & set(image.info)
    off = np.abs(np.asarray(image).astype(int) - back(as_bt709(colour)))
    assert off.max() <= near


def test_fine_colour_is_kept_where_pictures_are_judged() -> None:
    """Single red and blue columns do not run into one another: chroma of a JPEG is not subsampled."""
    frame = av.VideoFrame(64, 32, "yuv444p")
    for plane, (a, b) in zip(frame.planes, zip(as_bt709((200, 60, 40)), as_bt709((30, 60, 180)), strict=True), strict=True):
        plane.update(bytes([a, b]) * (plane.buffer_size // 2))
    image = np.asarray(Image.open(io.BytesIO(encoded(frame, "jpg", Raster.whole(64, 32))))).astype(int)
    assert abs(image[16, 30, 0] - image[16, 31, 0]) > 120


def test_the_strip_and_the_stepper_show_the_film_s_colour(tmp_path: Path) -> None:
    """Whole files: a film of one colour, its strip, its stepped pictures and the framed preview."""
    y, b, r = as_bt709((61, 139, 147))
    planes = np.full((180, 320), y, np.uint8), np.full((90, 160), b, np.uint8), np.full((90, 160), r, np.uint8)
    source = films.film(tmp_path / "a.mp4", seconds=Fraction(5, 25), sound=None, pictures=iter([planes] * 5))
    facts = inspect(source)
    plan = make_plan(facts, ORRERY).video
    list(poster_strip(source, facts, plan, tmp_path / "strip"))
    stepper = Stepper(source, facts)
    stills = [(tmp_path / "strip" / "3.jpg").read_bytes()]
    stills += [base64.b64decode(told["jpeg"]) for told in (stepper.show(2, exact=True), stepper.packed_picture(2, plan))]
    save(own_picture(source, 1, Fraction(25)), tmp_path / "look.png", raster=Raster.whole(160, 90))
    stills.append((tmp_path / "look.png").read_bytes())
    for data in stills:  # one code value more, since the film itself was coded
        middle = np.asarray(Image.open(io.BytesIO(data)))[40:50, 60:80].astype(int)
        assert np.abs(middle - np.array([61, 139, 147])).max() <= 3


def uneven(width: int, height: int, count: int) -> Iterator[Planes]:
    """A still first half, a noisy second."""
    quiet = next(iter(films.shimmer(width, height, 1, grain=0)))
    yield from (quiet for _ in range(count // 2))
    yield from films.shimmer(width, height, count - count // 2, grain=30)


def test_the_noisy_half_is_the_hard_one(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", seconds=8, sound=None, pictures=uneven(320, 180, 200))
    facts = inspect(source)
    found = stretches(source, facts.video, make_plan(facts, ORRERY), Fraction(1))
    assert [s.start_s for s in found] == [Fraction(i) for i in range(8)]
    assert [s.end_s for s in found] == [Fraction(i + 1) for i in range(8)]
    assert max(s.difficulty for s in found[:4]) < 0.5 * min(s.difficulty for s in found[4:])


def test_a_long_film_is_sampled(tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr("hardy_parcel.media.difficulty.DECODE_PIXELS", 0)
    monkeypatch.setattr("hardy_parcel.media.difficulty.SAMPLED_STRETCHES", 4)
    source = films.film(tmp_path / "a.mp4", seconds=8, sound=None, pictures=uneven(320, 180, 200))
    facts = inspect(source)
    found = stretches(source, facts.video, make_plan(facts, ORRERY), Fraction(1))
    assert len(found) == 4
    assert found[0].difficulty < found[-1].difficulty


@pytest.mark.parametrize(("interval", "evenly"), [(10, False), (1000, True)])
def test_what_a_file_spends_is_read_from_its_index(tmp_path: Path, interval: int, evenly: bool) -> None:
    path = tmp_path / "Half noisy.mp4"
    with av.open(str(path), "w") as output:
        stream = output.add_stream("libx264", rate=25, options={"crf": "20", "preset": "ultrafast", "g": str(interval)})
        stream.width, stream.height, stream.pix_fmt = 320, 180, "yuv420p"
        for number, planes in enumerate(uneven(320, 180, 100)):
            output.mux(stream.encode(films.frame(planes, number, Fraction(1, 25))))
        output.mux(stream.encode(None))
    facts = inspect(path)
    plan = make_plan(facts, ORRERY, excerpt=Excerpt(in_s="0.5", out_s=4))
    found = stored_stretches(path, plan, Fraction(6, 25), least=6)
    assert len(found) >= 6
    assert all(plan.excerpt.in_s <= one.start_s and one.end_s <= plan.excerpt.out_s for one in found)
    if evenly:
        assert len({one.difficulty for one in found}) == 1, "one keyframe tells nothing of where the file spends"
        assert found[0].start_s - plan.excerpt.in_s == plan.excerpt.out_s - found[-1].end_s > 0, "ends are often blank"
        return
    assert all(one.start_s * 25 % 10 == 0 for one in found), "nothing has to be decoded before them"
    easy, hard = ([one.difficulty for one in found if (one.start_s < 2) is early] for early in (True, False))
    assert max(easy) < min(hard)
