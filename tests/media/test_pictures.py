"""Which picture is shown when, and that the treated picture stands where the plan says, to the pixel."""

from __future__ import annotations

from collections.abc import Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.arrival.ticks import ticks
from hardy_parcel.core.arrival.windows import Reel, ReelSegment
from hardy_parcel.core.errors import UnreadableMaster
from hardy_parcel.core.master.facts import Excerpt, Focus, FramingMode
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media import pictures
from hardy_parcel.media.film import Planes, Traits, write_film
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.media.pictures import pictures_at, treated

from .. import films
from ..builders import ORRERY, SPRIGG
from ..builders import facts as made_up
from .test_inspect import turn


def numbered(width: int, height: int, count: int) -> Iterator[Planes]:
    """Each picture is a grey of its own, two steps apart, so that its number can be read back."""
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    for number in range(count):
        yield np.full((height, width), 20 + 2 * number, np.uint8), chroma, chroma


@pytest.fixture(scope="module")
def counted(shelf: Path) -> Path:
    return films.film(shelf / "counted.mp4", width=64, height=36, rate=50, seconds=2, sound=None, pictures=numbered(64, 36, 100))


def number(picture: av.VideoFrame) -> int:
    return round((float(picture.to_ndarray()[:36].mean()) - 20) / 2)


def shown(path: Path, times: list[Fraction]) -> list[int]:
    start = inspect(path, loudness=False).video.start_s
    return [number(picture) for picture in pictures_at(path, times, start_s=start)]


def test_the_picture_that_is_on_show(counted: Path) -> None:
    assert shown(counted, [Fraction(0), Fraction(1, 100), Fraction(2, 100), Fraction(3, 100), Fraction(99, 100)]) == [0, 0, 1, 1, 49]


def test_it_jumps_back_and_far_ahead(counted: Path) -> None:
    assert shown(counted, [Fraction(9, 5), Fraction(1, 10), Fraction(3, 2), Fraction(0)]) == [90, 5, 75, 0]


def test_the_last_picture_is_held_for_a_second_and_no_longer(counted: Path) -> None:
    assert shown(counted, [Fraction(199, 100), Fraction(5, 2)]) == [99, 99]
    with pytest.raises(UnreadableMaster, match=r"ends at 1\.98 s"):
        shown(counted, [Fraction(4)])


def test_every_second_picture_is_kept_exactly(counted: Path) -> None:
    facts = inspect(counted)
    plan = make_plan(facts, SPRIGG, excerpt=Excerpt(in_s="1/2", out_s="3/2"))
    pictures = treated(counted, facts.video, plan, ticks(plan), frame=False)
    assert [number_of(p) for p in pictures] == list(range(25, 75, 2))


def number_of(picture: av.VideoFrame) -> int:
    return round((float(picture.to_ndarray()[: picture.height].mean()) - 20) / 2)


def test_all_pictures_come_in_order_with_their_own_time_stamps(counted: Path) -> None:
    facts = inspect(counted)
    plan = make_plan(facts, ORRERY)
    pictures = list(treated(counted, facts.video, plan, ticks(plan)))
    assert [p.pts for p in pictures] == list(range(100))
    assert {p.time_base for p in pictures} == {Fraction(1, 50)}


def test_a_reel_shows_the_pictures_of_its_segments(counted: Path) -> None:
    facts = inspect(counted)
    plan = make_plan(facts, ORRERY)
    part = [ReelSegment(start_s=s, measure_from_s=m, end_s=e) for s, m, e in (("0", "1/5", "1/5"), ("1", "11/10", "6/5"))]
    wanted = ticks(plan, Reel(segments=tuple(part), whole=False))
    assert [number_of(p) for p in treated(counted, facts.video, plan, wanted)] == [*range(10), *range(50, 60)]
    assert [tick.measured for tick in wanted] == [False] * 15 + [True] * 5
    assert [tick.index for tick in wanted] == list(range(20))


def marked(width: int, height: int) -> Iterator[Planes]:
    """Black but for white edges of four pixels: whatever is cut or shifted shows at once."""
    luma = np.full((height, width), 60, np.uint8)
    luma[:4], luma[-4:], luma[:, :4], luma[:, -4:] = 235, 235, 235, 235
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    for _ in range(3):
        yield luma, chroma, chroma


def one_frame(path: Path, mode: FramingMode, destination) -> tuple[np.ndarray, object]:
    facts = inspect(path)
    plan = make_plan(facts, destination, Choices(framing=mode))
    picture = next(iter(treated(path, facts.video, plan, ticks(plan)[:1])))
    framing = plan.video.framing.value
    assert (picture.width, picture.height, picture.format.name) == (framing.width, framing.height, "yuv420p")
    return picture.to_ndarray()[: picture.height], framing


@pytest.fixture(scope="module")
def edged(shelf: Path) -> Path:
    return films.film(shelf / "edged.mp4", width=640, height=360, rate=25, seconds=Fraction(3, 25), sound=None, pictures=marked(640, 360))


def test_fit_sets_the_whole_picture_between_black_bars(edged: Path) -> None:
    luma, framing = one_frame(edged, FramingMode.FIT, SPRIGG)
    picture = framing.picture
    inside = luma[picture.y : picture.y + picture.height, picture.x : picture.x + picture.width]
    assert inside[1].mean() > 200
    assert inside[-2].mean() > 200
    assert inside[:, 1].mean() > 200
    assert inside[:, -2].mean() > 200
    assert np.abs(luma[: picture.y - 1].astype(int) - 16).max() <= 1
    assert np.abs(luma[picture.y + picture.height + 1 :].astype(int) - 16).max() <= 1


def test_fill_cuts_the_sides_and_keeps_top_and_bottom(edged: Path) -> None:
    luma, framing = one_frame(edged, FramingMode.FILL, SPRIGG)
    assert not framing.bars
    assert luma[2].mean() > 180
    assert luma[-3].mean() > 180
    middle = luma[framing.height // 4 : -framing.height // 4]
    assert middle[:, :8].max() < 80
    assert middle[:, -8:].max() < 80


def test_a_turned_film_comes_out_upright(tmp_path: Path) -> None:
    """The bright left edge of a film turned by 90° becomes the top or the bottom edge."""
    luma = np.full((180, 320), 60, np.uint8)
    luma[:, :40] = 220
    chroma = np.full((90, 160), 128, np.uint8)
    source = films.film(tmp_path / "x.mp4", seconds=Fraction(2, 25), sound=None, pictures=iter([(luma, chroma, chroma)] * 2))
    turn(source, tmp_path / "turned.mp4")
    facts = inspect(tmp_path / "turned.mp4")
    plan = make_plan(facts, SPRIGG)
    picture = next(iter(treated(tmp_path / "turned.mp4", facts.video, plan, ticks(plan)[:1])))
    shown = picture.to_ndarray()[: picture.height]
    assert (picture.width, picture.height) == (180, 320)
    bright, dark = (shown[:20], shown[-20:]) if facts.video.rotation_deg == 90 else (shown[-20:], shown[:20])
    assert bright.mean() > 200
    assert dark.mean() < 80


def test_pixel_shape_is_squared(tmp_path: Path) -> None:
    path = films.odd_film(tmp_path / "reel.mkv", width=360, height=288, sample_aspect_ratio=Fraction(16, 15))
    facts = inspect(path)
    plan = make_plan(facts, ORRERY)
    picture = next(iter(treated(path, facts.video, plan, ticks(plan)[:1])))
    assert (picture.width, picture.height) == (384, 288)


def test_full_range_is_brought_to_limited(tmp_path: Path) -> None:
    """White 255 of a full-range master becomes 235, black 0 becomes 16."""
    luma = np.zeros((180, 320), np.uint8)
    luma[:, 160:] = 255
    chroma = np.full((90, 160), 128, np.uint8)
    source = films.film(tmp_path / "x.mp4", seconds=Fraction(2, 25), sound=None, pictures=iter([(luma, chroma, chroma)] * 2))
    facts = inspect(source)
    full = facts.video.colour.model_copy(update={"range": "pc"})
    facts = facts.model_copy(update={"video": facts.video.model_copy(update={"colour": full})})
    plan = make_plan(facts, ORRERY)
    shown = next(iter(treated(source, facts.video, plan, ticks(plan)[:1]))).to_ndarray()[:180]
    assert shown[:, :140].mean() == pytest.approx(16, abs=1)
    assert shown[:, 180:].mean() == pytest.approx(235, abs=1)


def row_marks(width: int, height: int) -> Iterator[Planes]:
    """Every row and every column has a grey that says where it is: position in steps of four pixels."""
    luma = np.empty((height, width), np.uint8)
    luma[:] = (40 + (np.arange(height) // 4) % 45 * 4)[:, None]
    luma[:, ::2] = (40 + (np.arange(0, width, 2) // 4) % 45 * 4)[None, :]
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    for _ in range(3):
        yield luma, chroma, chroma


ODD_MASTERS = [(642, 354, Fraction(1)), (362, 642, Fraction(1)), (500, 500, Fraction(1)), (720, 576, Fraction(16, 15))]


@pytest.mark.parametrize(("width", "height", "pixel"), ODD_MASTERS)
@pytest.mark.parametrize("mode", FramingMode)
def test_the_packed_picture_stands_where_the_framing_says_to_the_row(tmp_path: Path, width, height, pixel, mode) -> None:
    """White lines at the kept part's edges, on black: they come out on the first and the last row and column of the picture."""
    facts = made_up(width, height, sample_aspect_ratio=pixel)
    choices = Choices(framing=mode, focus=Focus(x=0.2, y=0.7), zoom=1.25)
    framing = make_plan(facts, SPRIGG, choices).picture.framing.value
    crop, luma = framing.crop, np.full((height, width), 30, np.uint8)
    across = width / facts.video.display_width
    left, right = round(crop.x * across), round((crop.x + crop.width) * across)
    luma[crop.y : crop.y + 8, left:right] = luma[crop.y + crop.height - 8 : crop.y + crop.height, left:right] = 235
    luma[crop.y : crop.y + crop.height, left : left + 8] = luma[crop.y : crop.y + crop.height, right - 8 : right] = 235
    chroma = np.full(((height + 1) // 2, (width + 1) // 2), 128, np.uint8)
    path = tmp_path / "lined.mp4"
    write_film(
        path, width=width, height=height, frame_rate=Fraction(25), sound=None, quality=4, traits=Traits(sample_aspect_ratio=pixel),
        pictures=iter([(luma, chroma, chroma)] * 3),
    )
    known = inspect(path, loudness=False)
    plan = make_plan(known, SPRIGG, choices)
    assert plan.picture.framing.value == framing
    packed = tmp_path / "packed.mp4"
    pack(path, known, make_plan(known, SPRIGG, choices.model_copy(update={"video_bitrate_bps": 8_000_000})), packed)
    with av.open(str(packed)) as container:
        read = next(container.decode(video=0))
    picture, found = framing.picture, read.to_ndarray()[: read.height, : read.width].astype(int)
    assert (read.width, read.height) == (framing.width, framing.height)
    inside = found[picture.y : picture.y + picture.height, picture.x : picture.x + picture.width]
    for edge in (inside[1], inside[-2], inside[:, 1], inside[:, -2]):
        assert np.median(edge) > 200
    preview = next(iter(treated(path, known.video, plan, ticks(plan)[:1]))).to_ndarray()[: read.height, : read.width].astype(int)
    bright_rows = [np.flatnonzero(np.median(one[:, picture.x : picture.x + picture.width], axis=1) > 130) for one in (found, preview)]
    assert np.abs(found - preview).mean() < 2
    if not framing.blurred:  # whose own edges shine through the blur
        assert bright_rows[0][[0, -1]].tolist() == bright_rows[1][[0, -1]].tolist() == [picture.y, picture.y + picture.height - 1]
    if mode is FramingMode.FIT and framing.bars:
        outside = np.concatenate([found[: picture.y - 2].ravel(), found[:, : max(0, picture.x - 2)].ravel()])
        assert outside.max() <= 22


def test_blur_fills_the_frame_with_the_picture_itself_and_leaves_the_picture_alone(edged: Path) -> None:
    blurred, framing = one_frame(edged, FramingMode.BLUR, SPRIGG)
    barred, same = one_frame(edged, FramingMode.FIT, SPRIGG)
    picture = framing.picture
    assert picture == same.picture
    assert framing.blurred
    inside = slice(picture.y, picture.y + picture.height)
    assert np.array_equal(blurred[inside], barred[inside])
    above, below = blurred[: picture.y - 2], blurred[picture.y + picture.height + 2 :]
    for part in (above, below):
        assert 55 < part.mean() < 120
        steps = np.abs(np.diff(part.astype(int), axis=0))
        assert steps.max() <= 12


def test_sharpening_is_light_scaled_or_not(tmp_path: Path) -> None:
    path = films.film(
        tmp_path / "fine.mp4", width=640, height=360, rate=25, seconds=Fraction(3, 25), sound=None, pictures=row_marks(640, 360)
    )
    facts = inspect(path, loudness=False)

    def luma(**choices) -> np.ndarray:
        plan = make_plan(facts, ORRERY, Choices(**choices))
        return next(iter(treated(path, facts.video, plan, ticks(plan)[:1]))).to_ndarray()[: plan.picture.framing.value.height].astype(int)

    for size in ({"short_side_px": 240}, {}):
        plain, sharp = luma(**size), luma(**size, sharpen=True)
        assert np.abs(np.diff(sharp, axis=1)).mean() > 1.1 * np.abs(np.diff(plain, axis=1)).mean()
        assert abs(sharp.mean() - plain.mean()) < 1


@pytest.mark.parametrize(("codec", "params", "ending"), [
    ("libx264", {"x264-params": "keyint=20:min-keyint=20:scenecut=0:bframes=3:open-gop=1"}, "mp4"),
    ("libx264", {"x264-params": "keyint=20:min-keyint=20:scenecut=0:bframes=3"}, "mkv"),
    ("libx264", {"x264-params": "keyint=20:min-keyint=20:scenecut=0:bframes=3"}, "ts"),
    ("libx265", {"x265-params": "keyint=20:min-keyint=20:scenecut=0:bframes=4:open-gop=1:log-level=error"}, "mp4"),
])
def test_what_lies_between_is_skipped_and_every_picture_is_still_its_own(tmp_path: Path, monkeypatch, codec, params, ending) -> None:
    path = films.odd_film(tmp_path / f"skipped.{ending}", codec=codec, seconds=8, width=128, height=72, options=params)
    start, dice = inspect(path, loudness=False).video.start_s, np.random.default_rng(5)
    a_little = Fraction(1, 100)
    all_of_them = [one.to_ndarray() for one in pictures_at(path, (n * Fraction(1, 25) + a_little for n in range(200)), start_s=start)]
    decoded = []
    read = pictures._Reader._next
    monkeypatch.setattr(pictures._Reader, "_next", lambda reader: decoded.append(1) or read(reader))
    places = sorted(dice.choice(200, 14, replace=False).tolist()) + dice.choice(200, 10).tolist()
    found = pictures_at(path, (n * Fraction(1, 25) + a_little for n in places), start_s=start)
    for place, one in zip(places, found, strict=True):
        assert np.array_equal(one.to_ndarray(), all_of_them[place]), place
    rising = [5, 65, 125, 185]
    decoded.clear()
    list(pictures_at(path, (n * Fraction(1, 25) + a_little for n in rising), start_s=start))
    assert len(decoded) <= (60 if ending == "mp4" else 200), "an index that is read at once says where keyframes are"
