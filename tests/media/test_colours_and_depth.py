"""Colours and sample depth through the treatment and through real encoders, read back from the file."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.arrival.ticks import ticks
from hardy_parcel.core.master.facts import ColourReading, ColourTags, MasterFacts, Mending
from hardy_parcel.core.parcel.receipt import compare
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Destination
from hardy_parcel.media.encode import tag_colours
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.media.pictures import treated
from hardy_parcel.media.verify import read_back

from ..builders import HANDOVER, ORRERY

SIZE = 128, 128
WEIGHTS = {"bt709": (0.2126, 0.0722), "smpte170m": (0.299, 0.114)}
PATCH = np.array([0.75, 0.35, 0.20])
"""R′, G′ and B′ of the patch, 0 to 1."""
P3_TO_709 = np.array([[1.2249, -0.2247, 0.0], [-0.0420, 1.0419, 0.0], [-0.0197, -0.0786, 1.0979]])
"""Linear light, D65, from the chromaticities of H.273 rows 12 and 1."""


def coded(rgb: np.ndarray, matrix: str, *, full: bool = False, bits: int = 8) -> tuple[int, int, int]:
    """Y′CbCr of R′G′B′ by H.273 equations 38 to 43."""
    kr, kb = WEIGHTS[matrix]
    luma = kr * rgb[0] + (1 - kr - kb) * rgb[1] + kb * rgb[2]
    blue, red = (rgb[2] - luma) / (2 * (1 - kb)), (rgb[0] - luma) / (2 * (1 - kr))
    scale = 2 ** (bits - 8)
    if full:
        return round(255 * luma), round(128 + 255 * blue), round(128 + 255 * red)
    return round(scale * (16 + 219 * luma)), round(scale * (128 + 224 * blue)), round(scale * (128 + 224 * red))


def planes(codes: tuple[int, int, int] | np.ndarray, pixel_format: str) -> av.VideoFrame:
    """A picture of one colour, or of a luma plane with grey."""
    frame = av.VideoFrame(*SIZE, pixel_format)
    kind = np.uint16 if "10" in pixel_format else np.uint8
    for number, plane in enumerate(frame.planes):
        wide = plane.line_size // np.dtype(kind).itemsize
        rows = np.zeros((plane.height, wide), kind)
        if isinstance(codes, np.ndarray):
            rows[:, : plane.width] = codes if number == 0 else 512 if kind is np.uint16 else 128
        else:
            rows[:, : plane.width] = codes[number]
        plane.update(rows.tobytes())
    return frame


def film(path: Path, picture: av.VideoFrame, tags: ColourTags | None, *, codec: str = "ffv1", count: int = 6) -> MasterFacts:
    """A lossless film of one picture; tags as they are given."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream(codec, rate=Fraction(25))
        stream.width, stream.height = SIZE
        stream.pix_fmt = picture.format.name
        tag_colours(stream.codec_context, tags or ColourTags())
        for number in range(count):
            picture.pts, picture.time_base = number, Fraction(1, 25)
            container.mux(stream.encode(picture))
        container.mux(stream.encode(None))
    return inspect(path, loudness=False)


def shown(path: Path, facts: MasterFacts, place: Destination = ORRERY, **choices: object) -> tuple[av.VideoFrame, object]:
    plan = make_plan(facts, place, Choices(**choices))
    return next(iter(treated(path, facts.video, plan, ticks(plan)[:1]))), plan


def middle(picture: av.VideoFrame) -> tuple[float, ...]:
    found = []
    for plane in picture.planes:
        kind = np.uint16 if "10" in picture.format.name else np.uint8
        rows = np.frombuffer(plane, kind).reshape(plane.height, -1)
        found.append(float(rows[plane.height // 4 : -plane.height // 4, plane.width // 4 : plane.width * 3 // 4].mean()))
    return tuple(found)


@pytest.mark.parametrize("reading", list(ColourReading))
def test_an_untagged_master_is_read_as_its_creator_says(reading: ColourReading, tmp_path: Path) -> None:
    """One patch, coded in each of the four ways, comes out as the same colour when it is read that way."""
    tags = reading.tags
    facts = film(tmp_path / "patch.mkv", planes(coded(PATCH, tags.matrix, full=tags.range == "pc"), "yuv420p"), None)
    assert facts.video.colour.matrix is None
    told = facts.model_copy(update={"mending": Mending(colour=reading)})
    picture, plan = shown(tmp_path / "patch.mkv", told)
    assert middle(picture) == pytest.approx(coded(PATCH, "bt709"), abs=1)
    assert plan.video.colour.because.sentence.startswith(f"your reading, BT.{reading.value[:3]}")
    assert "untagged_colour" not in {stamp.code for stamp in plan.stamps}


def test_wide_primaries_are_converted_and_said_so(tmp_path: Path) -> None:
    tags = ColourTags(primaries="smpte432", transfer="bt709", matrix="bt709", range="tv")
    facts = film(tmp_path / "wide.mkv", planes(coded(PATCH, "bt709"), "yuv420p"), tags)
    picture, plan = shown(tmp_path / "wide.mkv", facts)
    light = np.where(PATCH < 0.081, PATCH / 4.5, ((PATCH + 0.099) / 1.099) ** (1 / 0.45))
    there = P3_TO_709 @ light
    wanted = np.where(there < 0.018, 4.5 * there, 1.099 * np.maximum(there, 0) ** 0.45 - 0.099)
    assert middle(picture) == pytest.approx(coded(wanted, "bt709"), abs=1)
    assert plan.video.colour.because.sentence == "primaries (P3) converted to BT.709"
    assert "colour_differs" not in {stamp.code for stamp in plan.stamps}


def test_a_curve_that_is_only_labelled_is_a_matter_for_care(tmp_path: Path) -> None:
    tags = ColourTags(primaries="bt709", transfer="iec61966-2-1", matrix="bt709", range="tv")
    facts = film(tmp_path / "screen.mkv", planes(coded(PATCH, "bt709"), "yuv420p"), tags)
    picture, plan = shown(tmp_path / "screen.mkv", facts)
    assert middle(picture) == pytest.approx(coded(PATCH, "bt709"), abs=1), "not converted"
    assert "curve (sRGB) only labelled BT.709" in plan.video.colour.because.sentence
    assert {stamp.code: stamp.outcome for stamp in plan.stamps}["colour_differs"] == "handle with care"


def test_eight_bit_from_ten_is_dithered(tmp_path: Path) -> None:
    """A level between two codes comes out as a mixture of both that has its mean."""
    rec709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
    facts = film(tmp_path / "deep.mkv", planes(np.full((SIZE[1], SIZE[0]), 402), "yuv420p10le"), rec709)
    picture, plan = shown(tmp_path / "deep.mkv", facts)
    assert plan.video.pixel_format.value == "yuv420p"
    assert "dithered from the master's 10 bit" in plan.video.pixel_format.because.sentence
    plane = picture.planes[0]
    luma = np.frombuffer(plane, np.uint8).reshape(plane.height, -1)[:, plane.width // 3 : plane.width * 2 // 3]  # beside the bars
    assert set(np.unique(luma)) == {100, 101}
    assert luma.mean() == pytest.approx(402 / 4, abs=0.1)


@pytest.mark.parametrize(
    ("place", "choices", "profile", "pixel_format"),
    [
        (ORRERY, {"codec": "hevc"}, "Main 10", "yuv420p10le"), (ORRERY, {"codec": "av1"}, "Main", "yuv420p10le"),
        (HANDOVER, {"codec": "vc3", "short_side_px": 120}, "HQX", "yuv422p10le"), (ORRERY, {"codec": "h264"}, "High", "yuv420p"),
        (ORRERY, {"codec": "vp9"}, "Profile 0", "yuv420p"),
    ],
)
def test_ten_bit_goes_through_where_it_is_taken(place, choices, profile: str, pixel_format: str, tmp_path: Path) -> None:
    slope = np.tile(np.linspace(300, 700, SIZE[0]), (SIZE[1], 1)).astype(int)
    rec709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
    master = tmp_path / "slope.mkv"
    facts = film(master, planes(slope, "yuv420p10le"), rec709)
    if choices["codec"] == "vc3":
        choices = {**choices, "short_side_px": 256}
    plan = make_plan(facts, place, Choices(**choices))
    target = tmp_path / f"packed.{plan.container.value}"
    pack(master, facts, plan, target)
    found = read_back(target)
    assert [row.setting for row in compare(plan, found) if row.match == "differs"] == []
    assert found.facts.video.pixel_format == pixel_format
    assert (found.facts.video.profile or "").endswith(profile)


def test_a_sheet_may_take_ten_bit_of_h264(tmp_path: Path) -> None:
    deep = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"ten_bit": ("h264",)})})
    rec709 = ColourTags(primaries="bt709", transfer="bt709", matrix="bt709", range="tv")
    facts = film(tmp_path / "deep.mkv", planes(np.full((SIZE[1], SIZE[0]), 402), "yuv420p10le"), rec709)
    plan = make_plan(facts, deep)
    pack(tmp_path / "deep.mkv", facts, plan, tmp_path / "packed.mp4")
    found = inspect(tmp_path / "packed.mp4").video
    assert (found.profile, found.bit_depth) == ("High 10", 10)


@pytest.mark.parametrize("container", ["mp4", "mov"])
def test_hevc_stands_as_hvc1(container: str, gale: Path, gale_facts: MasterFacts, tmp_path: Path) -> None:
    plan = make_plan(gale_facts, ORRERY, Choices(codec="hevc", container=container, effort="quick", video_bitrate_bps=300_000))
    pack(gale, gale_facts, plan, tmp_path / f"x.{container}")
    found = read_back(tmp_path / f"x.{container}")
    rows = {row.code: row for row in compare(plan, found)}
    assert (rows["sample_entry"].planned, rows["sample_entry"].measured) == ("hvc1", "hvc1")
    assert b"hev1" not in (tmp_path / f"x.{container}").read_bytes()
