"""What became of a packed file on its way, with real files and real couriers."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.errors import BadInput
from hardy_parcel.core.parcel.handoff import ALIKE, PackedFile, Sameness, likeness
from hardy_parcel.media import couriers
from hardy_parcel.media.couriers import Courier, carry
from hardy_parcel.media.film import Planes
from hardy_parcel.media.fingerprint import fingerprint
from hardy_parcel.work.handing import handed_over

from .. import films


@pytest.fixture(scope="module")
def packed(shelf: Path) -> Path:
    return films.film(shelf / "packed.mp4", width=320, height=180, rate=25, seconds=2)


def stripes(width: int, height: int, count: int) -> Iterator[Planes]:
    """Broad stripes that wander."""
    chroma = np.full((height // 2, width // 2), 128, np.uint8)
    for number in range(count):
        row = np.where((np.arange(height) + 3 * number) // 40 % 2, 190, 50).astype(np.uint8)
        yield np.repeat(row[:, None], width, axis=1), chroma, chroma


@pytest.fixture(scope="module")
def other(shelf: Path) -> Path:
    """Another film of the same length and shape."""
    return films.film(shelf / "other.mp4", width=320, height=180, rate=25, seconds=2, pictures=stripes(320, 180, 50))


def wrapped(source: Path, target: Path, *, title: str = "", sound: str | None = "copy", form: str | None = None) -> Path:
    """The same packets in another file; `sound` may be left out or made anew."""
    with av.open(str(source)) as film, av.open(str(target), "w", format=form) as made:
        if title:
            made.metadata["title"] = title
        copies = {film.streams.video[0].index: made.add_stream_from_template(film.streams.video[0])}
        if sound == "copy":
            copies[film.streams.audio[0].index] = made.add_stream_from_template(film.streams.audio[0])
        anew = made.add_stream("aac", rate=48000) if sound == "anew" else None
        if anew:
            anew.layout, anew.bit_rate = "stereo", 32_000
        for packet in film.demux():
            if packet.dts is None:
                continue
            if packet.stream.index in copies:
                packet.stream = copies[packet.stream.index]
                made.mux(packet)
            elif anew:
                for frame in packet.decode():
                    frame.pts = None
                    made.mux(anew.encode(frame))
        if anew:
            made.mux(anew.encode(None))
    return target


def anew(source: Path, target: Path, codec: str) -> Path:
    """The same film with its picture in another codec."""
    with av.open(str(source)) as film, av.open(str(target), "w") as made:
        picture = made.add_stream({"h264": "libx264", "hevc": "libx265"}[codec], rate=25, options={"preset": "ultrafast"})
        picture.width, picture.height, picture.pix_fmt = 320, 180, "yuv420p"
        sound = made.add_stream_from_template(film.streams.audio[0])
        for packet in film.demux():
            if packet.stream.type == "audio" and packet.dts is not None:
                packet.stream = sound
                made.mux(packet)
            for frame in packet.decode() if packet.stream.type == "video" else []:
                frame.pict_type = 0
                made.mux(picture.encode(frame))
        made.mux(picture.encode(None))
    return target


WAYS: dict[str, tuple[Sameness, Callable[[Path, Path], Path], str]] = {
    "copied": (Sameness.SAME_BYTES, lambda source, to: Path(to / "a.mp4").write_bytes(source.read_bytes()) and to / "a.mp4", "bit for bit"),
    "in Matroska": (Sameness.RE_WRAPPED, lambda source, to: wrapped(source, to / "a.mkv"), "nothing was lost"),
    "in a transport stream": (Sameness.RE_WRAPPED, lambda source, to: wrapped(source, to / "a.ts"), "nothing was lost"),
    "with a title": (Sameness.TAGS_CHANGED, lambda source, to: wrapped(source, to / "a.mp4", title="Keepers"), "changed: title"),
    "with other sound": (Sameness.SOUND_CHANGED, lambda source, to: wrapped(source, to / "a.mp4", sound="anew"), "made anew"),
    "without sound": (Sameness.SOUND_CHANGED, lambda source, to: wrapped(source, to / "a.mp4", sound=None), "none any more"),
}


@pytest.mark.parametrize("way", WAYS)
def test_what_was_not_recompressed_is_told_apart(way: str, packed: Path, tmp_path: Path) -> None:
    outcome, make, said = WAYS[way]
    found = handed_over(make(packed, tmp_path), [PackedFile(name="packed.mp4", path=packed)])
    assert found.outcome is outcome, found.sentence
    assert said in found.sentence
    assert found.judged == ()


@pytest.mark.parametrize("codec", ["h264", "hevc"])
@pytest.mark.parametrize("ending", ["mkv", "ts", "mov"])
def test_a_file_that_was_wrapped_anew_is_known_by_its_receipt_alone(
    codec: str, ending: str, packed: Path, shelf: Path, tmp_path: Path
) -> None:
    source = anew(packed, shelf / f"packed {codec}.mp4", codec)
    known = [PackedFile(name="packed.mp4", fingerprint=fingerprint(source))]
    found = handed_over(wrapped(source, tmp_path / f"a.{ending}"), known)
    assert found.outcome is Sameness.RE_WRAPPED, found.sentence
    changed = handed_over(wrapped(source, tmp_path / f"b.{ending}", sound="anew"), known)
    assert changed.outcome is Sameness.SOUND_CHANGED, changed.sentence


def test_natterline_recompresses_what_is_large_and_lockbox_nothing(packed: Path, tmp_path: Path, monkeypatch) -> None:
    known = [PackedFile(name="packed.mp4", path=packed)]
    assert carry(packed, Courier.NATTERLINE, tmp_path / "small.mp4"), "it is below what it takes as it is"
    assert carry(packed, Courier.LOCKBOX, tmp_path / "box.mp4")
    assert handed_over(tmp_path / "box.mp4", known).outcome is Sameness.SAME_BYTES
    monkeypatch.setattr(couriers, "NATTERLINE_BYTES", 1000)
    monkeypatch.setattr(couriers, "NATTERLINE_WIDTH", 160)
    assert not carry(packed, Courier.NATTERLINE, tmp_path / "back.mp4")
    assert carry(packed, Courier.LOCKBOX, tmp_path / "box again.mp4")
    found = handed_over(tmp_path / "back.mp4", known)
    assert found.outcome is Sameness.RECOMPRESSED
    assert (found.back.width, found.back.height) == (160, 90)
    assert {one.screen for one in found.judged} == {"phone", "laptop", "tv"}
    assert all(one.condition < 97 for one in found.judged), [one.condition for one in found.judged]
    assert "recompressed on the way: 320×180 H.264" in found.sentence
    assert "points worse" in found.sentence


def test_another_film_is_another_film(packed: Path, other: Path) -> None:
    found = handed_over(other, [PackedFile(name="packed.mp4", path=packed)])
    assert found.outcome is Sameness.ANOTHER_FILM
    assert "another film" in found.sentence


def test_the_right_one_is_found_by_its_fingerprint_alone(packed: Path, other: Path, tmp_path: Path, monkeypatch) -> None:
    known = [
        PackedFile(name=path.name, fingerprint=fingerprint(path), job_id=job) for path, job in ((other, "one"), (packed, "two"))
    ]
    assert handed_over(wrapped(packed, tmp_path / "a.mkv"), known).job_id == "two"
    monkeypatch.setattr(couriers, "NATTERLINE_BYTES", 1000)
    carry(packed, Courier.NATTERLINE, tmp_path / "back.mp4")
    found = handed_over(tmp_path / "back.mp4", known)
    assert (found.outcome, found.job_id) == (Sameness.RECOMPRESSED, "two")
    assert found.judged == (), "the packed file is gone, so nothing is judged"
    stranger = films.film(tmp_path / "stranger.mp4", width=320, height=180, rate=25, seconds=5)
    with pytest.raises(BadInput, match="none of the files"):
        handed_over(stranger, known)
    with pytest.raises(BadInput, match="Nothing is known"):
        handed_over(packed, [PackedFile(name="gone.mp4", path=tmp_path / "gone.mp4")])


def test_films_are_alike_with_themselves_only(packed: Path, other: Path, tmp_path: Path, monkeypatch) -> None:
    monkeypatch.setattr(couriers, "NATTERLINE_BYTES", 1000)
    carry(packed, Courier.NATTERLINE, tmp_path / "back.mp4")
    mine, back, strange = (fingerprint(path) for path in (packed, tmp_path / "back.mp4", other))
    assert likeness(mine, back) > 0.97
    assert likeness(mine, strange) < 0.7 < ALIKE
    assert likeness(mine, mine.model_copy(update={"duration_s": 9.0})) == 0
    assert Fraction(mine.duration_s).limit_denominator(100) == 2
