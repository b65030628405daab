"""Whatever can be planned can be packed: every codec, container, rate control and way of sending, read back from the file."""

from __future__ import annotations

from dataclasses import dataclass
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from benchmarks.detector_clips import every_clip

from hardy_parcel.core.master.facts import Excerpt, MasterFacts, Mending, Scan
from hardy_parcel.core.parcel.receipt import Match, compare
from hardy_parcel.core.plan.carrying import file_size, worst_case
from hardy_parcel.core.plan.choices import Choices, Method
from hardy_parcel.core.plan.plan import Plan
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.trade.containers import WRAPPINGS
from hardy_parcel.core.trade.rate_control import RateControl
from hardy_parcel.demo import sounds
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.pack import pack
from hardy_parcel.media.verify import read_back

from .. import films
from ..builders import EARSHELF, HANDOVER, ORRERY

RATE = {"video_bitrate_bps": 700_000}
QUALITY, ONE, TWO, CONSTANT = (RateControl.QUALITY, RateControl.ONE_PASS, RateControl.TWO_PASSES, RateControl.CONSTANT)


def rain_of(path: Path, seconds: int) -> Path:
    """Pictures that are hard to encode, 50 frames/s, with wind and drops in stereo: a tone would leave most of its bits unused."""
    drops = np.random.default_rng(3).normal(0, 0.02, (2, seconds * 48_000))
    wind = (np.tile(sounds.wind(3, seconds)[None, :] * 0.3, (2, 1)) + drops).astype(np.float32)
    return films.film(path, width=320, height=180, rate=50, seconds=seconds, sound=wind)


@pytest.fixture(autouse=True)
def tried_however_short(monkeypatch: pytest.MonkeyPatch) -> None:
    """Long films are tried before they are packed: whatever can be packed can be tried."""
    monkeypatch.setattr("hardy_parcel.core.plan.stages.PICTURES_A_TRIAL", 1)


@pytest.fixture(scope="module")
def rain(tmp_path_factory) -> Path:
    return rain_of(tmp_path_factory.mktemp("rain") / "Rain.mp4", 3)


@pytest.fixture(scope="module")
def shower(tmp_path_factory) -> Path:
    """A second of it, for HEVC, which takes ten times as long, and for encoders that pack it many times over to find their quality."""
    return rain_of(tmp_path_factory.mktemp("rain") / "Shower.mp4", 1)


@pytest.fixture(scope="module")
def rain_facts(rain: Path) -> MasterFacts:
    return inspect(rain)


@dataclass(frozen=True)
class Read:
    """What a second reader finds: PyAV alone, nothing of ours."""

    format: str
    codec: str
    pixel_format: str
    size: tuple[int, int]
    pixel_shape: Fraction
    tags: tuple[int, int, int, int]
    pictures: int
    keyframes: list[int]
    bits: list[int]
    sound: tuple[str, int, int] | None
    sound_packets: int
    carried: int


def second_reader(path: Path) -> Read:
    with av.open(str(path)) as container:
        stream = container.streams.video[0]
        context = stream.codec_context
        every = [p for p in container.demux() if p.size]
        packets = [p for p in every if p.stream.type == "video"]
        sound = next(iter(container.streams.audio), None)
        told = (sound.codec_context.codec.canonical_name, sound.rate, sound.channels) if sound else None
        shape = stream.sample_aspect_ratio or context.sample_aspect_ratio or 1
        read = Read(
            format=container.format.name, codec=context.codec.canonical_name, pixel_format=context.pix_fmt,
            size=(context.width, context.height),
            pixel_shape=Fraction(shape) or Fraction(1), pictures=0,
            tags=tuple(int(v) for v in (context.color_primaries, context.color_trc, context.colorspace, context.color_range)),
            keyframes=sorted(round(p.pts * p.time_base * 50) for p in packets if p.is_keyframe),
            bits=[p.size * 8 for p in packets], sound=told, sound_packets=len(every) - len(packets), carried=sum(p.size for p in every),
        )
    with av.open(str(path)) as container:
        pictures = sum(1 for _ in container.decode(video=0))
    return Read(**{**read.__dict__, "pictures": pictures})


def lowest_fullness(pictures: list[int], rate: int, ceiling_bps: int, buffer_bits: int) -> float:
    """Least fullness, as a share of the buffer, of a decoder's buffer that fills at the ceiling (H.264 Annex C.1).

    `pictures` are bits in decoding order, taken out one by one at the frame rate.
    """
    full, least = float(buffer_bits), 1.0
    for bits in pictures:
        full = min(buffer_bits, full + ceiling_bps / rate) - bits
        least = min(least, full / buffer_bits)
    return least


EVERY = [
    (ORRERY, {"codec": "h264", "rate_control": TWO}), (ORRERY, {"codec": "h264", "rate_control": ONE, "container": "mov"}),
    (ORRERY, {"codec": "h264", "rate_control": CONSTANT}), (ORRERY, {"codec": "h264", "rate_control": QUALITY, "container": "mkv"}),
    (ORRERY, {"codec": "hevc", "rate_control": TWO}),
    (ORRERY, {"codec": "hevc", "rate_control": ONE, "container": "mkv", "effort": "quick"}),
    (ORRERY, {"codec": "hevc", "rate_control": QUALITY, "effort": "quick"}),
    (ORRERY, {"codec": "vp9", "rate_control": ONE}), (ORRERY, {"codec": "vp9", "rate_control": QUALITY, "container": "mkv"}),
    (ORRERY, {"codec": "vp9", "container": "mp4", "effort": "quick"}),
    (ORRERY, {"codec": "av1", "rate_control": ONE}), (ORRERY, {"codec": "av1", "rate_control": QUALITY, "container": "webm"}),
    (ORRERY, {"codec": "av1", "container": "mkv", "effort": "quick"}),
    (HANDOVER, {"codec": "vc3", "video_bitrate_bps": None}), (HANDOVER, {"codec": "hevc", "container": "mov", "effort": "quick"}),
]


@pytest.mark.parametrize(("place", "choices"), EVERY, ids=lambda v: "-".join(str(x) for x in v.values()) if isinstance(v, dict) else v.id)
def test_what_was_planned_comes_out_of_the_file(rain, shower, tmp_path: Path, place, choices) -> None:
    slow = choices.get("codec") == "hevc" or (choices.get("codec") in ("vp9", "av1") and "rate_control" not in choices)
    film, seconds = (shower, 1) if slow else (rain, 3)
    facts = inspect(film)
    plan = make_plan(facts, place, Choices(**(RATE | choices)))
    assert plan.held == ()
    path = tmp_path / "out"
    done = pack(film, facts, plan, path)
    rows = compare(plan, read_back(path))
    assert [(row.setting, row.planned, row.measured) for row in rows if row.match is Match.DIFFERS] == []
    read, video = second_reader(path), plan.picture
    if video.codec.value in ("h264", "hevc", "av1"):  # where a codec has a place for its level
        assert inspect(path).video.level == video.level.value
    assert {"mp4": "mov,mp4", "mov": "mov,mp4", "mkv": "matroska", "webm": "matroska"}[plan.container.value] in read.format
    assert read.codec == {"vc3": "dnxhd"}.get(video.codec.value, video.codec.value)
    assert (read.size, read.pixel_shape, read.pixel_format) == ((320, 180), 1, video.pixel_format.value)
    assert read.tags == (1, 1, 1, 1), "BT.709, limited"
    assert read.pictures == video.frames == done.pictures == 50 * seconds
    distances = np.diff([*read.keyframes, read.pictures])
    assert read.keyframes[0] == 0
    assert max(distances) <= video.keyframe_interval_frames.value
    total = sum(read.bits)
    achieved = total / seconds
    if video.rate_control.value is RateControl.FIXED:
        assert achieved == video.target_bps.value
    elif video.rate_control.value is not QUALITY:
        assert video.target_bps.value * 0.7 < achieved < video.target_bps.value * worst_case(video)
    if video.ceiling_bps.value and video.codec.value in ("h264", "hevc"):
        assert lowest_fullness(read.bits, 50, video.ceiling_bps.value, video.buffer_bits.value) >= -0.02
    elif video.ceiling_bps.value:  # VP9 and AV1 keep their ceiling on average only
        assert total <= (video.ceiling_bps.value * seconds + video.buffer_bits.value) * 1.05
    codecs = {"pcm": "pcm_s24le"}
    assert read.sound == (codecs.get(plan.audio.codec.value, plan.audio.codec.value), 48000, 2)
    wrapping = WRAPPINGS[plan.container.value]
    overhead = wrapping.fixed + wrapping.picture * 50 * seconds + wrapping.sound * read.sound_packets
    assert path.stat().st_size - read.carried == pytest.approx(overhead, rel=0.3, abs=3_000)
    assert path.stat().st_size <= file_size(plan).worst_bytes


@pytest.mark.parametrize("codec", ["aac", "mp3", "opus", "flac", "pcm"])
def test_sound_alone(rain, rain_facts, tmp_path: Path, codec: str) -> None:
    plan = make_plan(rain_facts, EARSHELF, Choices(sound_codec=codec))
    pack(rain, rain_facts, plan, tmp_path / "out")
    read = read_back(tmp_path / "out")
    assert [row.setting for row in compare(plan, read) if row.match is Match.DIFFERS] == []
    assert read.facts.video is None
    assert float(read.facts.duration_s) == pytest.approx(3, abs=0.1)
    assert read.facts.audio.integrated_lufs == pytest.approx(plan.audio.expected_lufs, abs=0.6)
    if plan.audio.bitrate_bps.value:
        assert (tmp_path / "out").stat().st_size == pytest.approx(file_size(plan).expected_bytes, rel=0.25)


def test_untouched_is_the_masters_bytes(rain, rain_facts, tmp_path: Path) -> None:
    plan = make_plan(rain_facts, ORRERY, Choices(method=Method.UNTOUCHED))
    reports = []
    pack(rain, rain_facts, plan, tmp_path / "out.mp4", report=reports.append)
    assert (tmp_path / "out.mp4").read_bytes() == rain.read_bytes()
    assert reports[-1].done == reports[-1].total == rain.stat().st_size
    read = read_back(tmp_path / "out.mp4", master=rain)
    assert [row.setting for row in compare(plan, read) if row.match is Match.DIFFERS] == []
    other = read_back(tmp_path / "out.mp4", master=films.film(tmp_path / "other.mp4", seconds=1))
    assert "Content" in [row.setting for row in compare(plan, other) if row.match is Match.DIFFERS]


def test_rewrapped_packets_are_the_masters(rain, rain_facts, tmp_path: Path) -> None:
    place = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"containers": ("mkv",)})})
    plan = make_plan(rain_facts, place, Choices(method=Method.UNTOUCHED))
    assert (plan.method.value, plan.container.value) == (Method.REWRAP, "mkv")
    pack(rain, rain_facts, plan, tmp_path / "out.mkv")
    assert [row.setting for row in compare(plan, read_back(tmp_path / "out.mkv")) if row.match is Match.DIFFERS] == []

    def pictures(path: Path) -> list[np.ndarray]:
        with av.open(str(path)) as container:
            return [frame.to_ndarray() for frame in container.decode(video=0)]

    assert all(np.array_equal(a, b) for a, b in zip(pictures(rain), pictures(tmp_path / "out.mkv"), strict=True))


def test_chapters_are_cut_to_the_excerpt(tmp_path: Path, rain: Path) -> None:
    marked = tmp_path / "Chapters.mp4"
    with av.open(str(rain)) as source, av.open(str(marked), "w") as target:
        copies = {s.index: target.add_stream_from_template(s) for s in (source.streams.video[0], source.streams.audio[0])}
        second = Fraction(1, 1000)
        target.set_chapters([
            {"id": i, "start": i * 1000, "end": (i + 1) * 1000, "time_base": second, "metadata": {"title": f"Watch {i}"}} for i in range(3)
        ])
        for packet in source.demux():
            if packet.dts is not None:
                packet.stream = copies[packet.stream.index]
                target.mux(packet)
    facts = inspect(marked)
    assert facts.chapters == 3
    plan = make_plan(facts, ORRERY, Choices(effort="quick", **RATE), Excerpt(in_s="1/2", out_s=2))
    pack(marked, facts, plan, tmp_path / "out.mp4")
    with av.open(str(tmp_path / "out.mp4")) as container:
        kept = [
            (c["metadata"]["title"], float(c["start"] * c["time_base"]), float(c["end"] * c["time_base"])) for c in container.chapters()
        ]
    assert kept == [("Watch 0", 0.0, 0.5), ("Watch 1", 0.5, 1.5)]
    lost = make_plan(facts, destination("sprigg-upright"), Choices())
    assert "chapters_lost" in {stamp.code for stamp in lost.stamps}


def test_fields_become_twice_the_pictures(tmp_path: Path) -> None:
    clip = next(clip for clip in every_clip() if clip.name == "interlaced-yes-00")
    source = tmp_path / "reel.mp4"
    clip.make(source)
    facts = inspect(source).model_copy(update={"mending": Mending(deinterlace=Scan.TOP_FIRST)})
    plan: Plan = make_plan(facts, ORRERY, Choices(effort="quick"))
    assert plan.picture.frame_rate.value == 2 * facts.video.frame_rate
    pack(source, facts, plan, tmp_path / "out.mp4")
    read = read_back(tmp_path / "out.mp4")
    assert read.pictures == plan.picture.frames
    with av.open(str(tmp_path / "out.mp4")) as container:
        frames = [f.to_ndarray()[: f.height].astype(float) for f in container.decode(video=0)][4:24]
    moves = [np.abs(b - a).mean() for a, b in zip(frames, frames[1:], strict=False)]
    assert min(moves) > 0.25 * float(np.median(moves)), "every field gives a picture of its own"


def test_an_uneven_rate_repeats_whole_pictures(rain, rain_facts, tmp_path: Path) -> None:
    plan = make_plan(rain_facts, ORRERY, Choices(frame_rate=60, effort="quick", rate_control=ONE, **RATE))
    pack(rain, rain_facts, plan, tmp_path / "out.mp4")
    read = read_back(tmp_path / "out.mp4")
    assert (read.facts.video.frame_rate, read.pictures) == (60, 180)


ODD = {
    "scope": {"width": 574, "height": 240}, "five to four": {"width": 360, "height": 288}, "fast": {"rate": 120},
    "ntsc": {"rate": Fraction(60000, 1001)},
    "odd and mute": {"width": 322, "height": 182, "rate": Fraction(37, 3), "sound": None},
}


@pytest.mark.parametrize("name", ODD)
def test_odd_masters_come_out_as_planned_however_short(tmp_path: Path, name: str) -> None:
    source = films.film(tmp_path / "odd.mp4", seconds=1, **ODD[name])
    facts = inspect(source)
    if "rate" in ODD[name]:
        assert facts.video.frame_rate == ODD[name]["rate"]
    for place in ("kitewall-square", "fernpost-reel"):
        plan = make_plan(facts, destination(place), Choices(effort="quick", short_side_px=144))
        assert plan.held == ()
        pack(source, facts, plan, tmp_path / "out")
        rows = compare(plan, read_back(tmp_path / "out"))
        assert [(row.setting, row.planned, row.measured) for row in rows if row.match is Match.DIFFERS] == []
        assert (tmp_path / "out").stat().st_size <= file_size(plan).worst_bytes
