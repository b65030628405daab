"""Facts of masters, read from real files."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import pytest

from hardy_parcel.core.errors import NotFound, UnreadableMaster
from hardy_parcel.core.master.facts import Scan
from hardy_parcel.media.inspect import content_id, inspect

from .. import films


def test_facts_of_an_ordinary_film(gale: Path) -> None:
    facts = inspect(gale)
    video, audio = facts.video, facts.audio
    assert (facts.name, facts.container, facts.size_bytes) == ("Gale.mp4", "MP4/MOV", gale.stat().st_size)
    assert facts.duration_s == 2
    assert facts.bitrate_bps == round(facts.size_bytes * 4)
    assert (video.codec, video.profile, video.level) == ("h264", "High", "2.1")
    assert (video.coded_width, video.coded_height, video.display_width, video.display_height) == (320, 180, 320, 180)
    assert (video.frame_rate, video.variable_rate, video.scan) == (50, False, Scan.PROGRESSIVE)
    assert (video.pixel_format, video.bit_depth, video.chroma) == ("yuv420p", 8, "4:2:0")
    assert (video.colour.primaries, video.colour.transfer, video.colour.matrix, video.colour.range) == ("bt709", "bt709", "bt709", "tv")
    assert video.bitrate_bps > 100_000
    assert (audio.codec, audio.sample_rate_hz, audio.channels, audio.layout) == ("aac", 48000, 2, "stereo")


@pytest.mark.parametrize("rate", [Fraction(24000, 1001), Fraction(30000, 1001), Fraction(60000, 1001), Fraction(25), Fraction(18)])
@pytest.mark.parametrize("ending", ["mp4", "mkv"])
def test_the_frame_rate_is_an_exact_ratio(tmp_path: Path, rate: Fraction, ending: str) -> None:
    """Matroska stamps in whole milliseconds; the ratio is found all the same."""
    made = films.film(tmp_path / "x.mp4", rate=rate, seconds=2, sound=None)
    path = made if ending == "mp4" else rewrap(made, tmp_path / "x.mkv")
    facts = inspect(path, loudness=False)
    assert facts.video.frame_rate == rate
    assert not facts.video.variable_rate
    assert facts.video.start_s == 0


def rewrap(source: Path, target: Path) -> Path:
    with av.open(str(source)) as container, av.open(str(target), "w") as output:
        stream = container.streams.video[0]
        copy = output.add_stream_from_template(stream)
        for packet in container.demux(stream):
            if packet.size:
                packet.stream = copy
                output.mux(packet)
    return target


def test_a_variable_rate_is_told_with_its_range(tmp_path: Path) -> None:
    stamps = [sum([33, 33, 67, 33, 50][i % 5] for i in range(n)) for n in range(40)]
    video = inspect(films.odd_film(tmp_path / "phone.mp4", stamps_ms=stamps)).video
    assert video.variable_rate
    assert video.lowest_rate == pytest.approx(1000 / 67, rel=0.01)
    assert video.highest_rate == pytest.approx(1000 / 33, rel=0.01)
    assert video.typical_rate == pytest.approx(1000 / 33, rel=0.01)
    assert video.frame_rate == 30


def test_pixel_shape_and_interlacing(tmp_path: Path) -> None:
    path = films.odd_film(
        tmp_path / "reel.mkv", width=360, height=288, sample_aspect_ratio=Fraction(16, 15), interlaced=True
    )
    video = inspect(path).video
    assert (video.display_width, video.display_height) == (384, 288)
    assert video.scan is Scan.TOP_FIRST
    assert video.colour.untagged


def test_rotation_is_applied_to_the_display_size(tmp_path: Path, gale: Path) -> None:
    path = tmp_path / "turned.mp4"
    turn(gale, path)
    video = inspect(path).video
    assert video.rotation_deg in (90, 270)
    assert (video.coded_width, video.display_width, video.display_height) == (320, 180, 320)


def turn(source: Path, target: Path) -> None:
    """Turn a film by 90° in its track header's matrix (ISO/IEC 14496-12, 8.3.2), as a phone does."""
    data = bytearray(source.read_bytes())
    at = data.index(b"tkhd") + 4 + 4 + 4 * 5 + 16
    matrix = [0, 0x10000, 0, -0x10000, 0, 0, 180 << 16, 0, 0x40000000]
    data[at : at + 36] = b"".join(value.to_bytes(4, "big", signed=True) for value in matrix)
    target.write_bytes(data)


def test_a_film_without_sound(tmp_path: Path) -> None:
    assert inspect(films.odd_film(tmp_path / "mute.webm", codec="libvpx-vp9", options={"deadline": "realtime"})).audio is None


def test_odd_sizes_and_other_codecs(tmp_path: Path) -> None:
    video = inspect(films.odd_film(tmp_path / "x.avi", codec="mpeg4", width=322, height=182)).video
    assert (video.codec, video.display_width, video.display_height) == ("mpeg4", 322, 182)


def unreadable(path: Path) -> UnreadableMaster:
    with pytest.raises(UnreadableMaster) as caught:
        inspect(path)
    error = caught.value
    assert error.todo
    assert "Error" not in str(error)
    assert "Invalid data" not in str(error)
    return error


def test_bad_files_get_a_sentence(tmp_path: Path, gale: Path) -> None:
    text = tmp_path / "letter.mp4"
    text.write_text("Dear keeper, the lamp is out again.\n" * 400)
    empty = tmp_path / "empty.mp4"
    empty.touch()
    assert "letter.mp4 cannot be read as a film" in str(unreadable(text))
    assert "is empty" in str(unreadable(empty))
    assert "is a folder" in str(unreadable(tmp_path))
    assert unreadable(films.sound_only(tmp_path / "voice.m4a")).code == "no_picture"
    assert unreadable(films.cut_short(gale, tmp_path / "cut.mp4", 0.6)).code == "truncated"
    with pytest.raises(NotFound, match="no file lost.mp4"):
        inspect(tmp_path / "lost.mp4")


def test_a_truncated_file_whose_index_stands_last(tmp_path: Path) -> None:
    path = films.odd_film(tmp_path / "last.mp4")
    unreadable(films.cut_short(path, tmp_path / "short.mp4", 0.5))


def test_content_id_follows_the_content_not_the_name(tmp_path: Path, gale: Path) -> None:
    copy = tmp_path / "another name.mp4"
    copy.write_bytes(gale.read_bytes())
    assert content_id(copy) == content_id(gale)
    data = bytearray(gale.read_bytes())
    data[-10] ^= 1
    copy.write_bytes(data)
    assert content_id(copy) != content_id(gale)


def test_a_long_film_without_an_index_is_timed_at_several_places(tmp_path: Path) -> None:
    """The phone kept its pace at first and lost it later; the container indexes keyframes at most."""
    steady = [40 * i for i in range(1000)]
    late = [steady[-1] + sum([40, 80, 40, 40, 120][k % 5] for k in range(n)) for n in range(1, 500)]
    video = inspect(films.odd_film(tmp_path / "a.mkv", width=64, height=36, stamps_ms=steady + late)).video
    assert video.variable_rate
    assert video.frame_rate == 25
    even = inspect(films.odd_film(tmp_path / "b.mkv", width=64, height=36, stamps_ms=[round(1001 * i / 24) for i in range(1200)])).video
    assert (even.variable_rate, even.frame_rate) == (False, Fraction(24000, 1001))
    assert even.bitrate_bps > 1000
