"""A stand-in makes what viewers get of whole files, with real encoders."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.arrival.receiving import ReceivedSound, receive
from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.sheets.ladder import renditions_for
from hardy_parcel.media.docking import render
from hardy_parcel.media.handling import handle, upload_pictures
from hardy_parcel.media.inspect import read_file

from .. import films
from ..builders import EARSHELF, HANDOVER, ORRERY, SPRIGG


@pytest.fixture(scope="module")
def upload(shelf: Path) -> Path:
    """Large enough for two steps of the ladder."""
    return films.film(shelf / "Upload.mp4", width=1280, height=720, rate=25, seconds=Fraction(12, 25))


def seen(path: Path) -> tuple[list[np.ndarray], float, int]:
    """The pictures of a file as luma, the seconds of its sound, and its width."""
    with av.open(str(path)) as film:
        pictures = [frame.to_ndarray(format="gray") for frame in film.decode(video=0)]
    with av.open(str(path)) as film:
        blocks = list(film.decode(audio=0)) if film.streams.audio else []
    return pictures, sum(block.samples / block.sample_rate for block in blocks), pictures[0].shape[1]


def test_renditions_come_smallest_first_with_their_sound(upload: Path, tmp_path: Path) -> None:
    facts, told = read_file(upload), []
    came = []
    for one in render(upload, facts, receive(facts, ORRERY), tmp_path, say=lambda doing, share: told.append(share)):
        came.append(one)
        assert one.path.stat().st_size == one.size_bytes
    assert [(one.name, one.width) for one in came] == [("480p h264", 854), ("720p h264", 1280)]
    assert told == sorted(told)
    assert told[-1] == pytest.approx(1.0, abs=0.05)
    for one in came:
        pictures, sound_s, width = seen(one.path)
        assert (len(pictures), width) == (12, one.width)
        assert sound_s == pytest.approx(0.48, abs=0.06)
    assert sorted(path.name for path in tmp_path.iterdir()) == ["480p-h264.mp4", "720p-h264.mp4"]


def test_its_pictures_are_as_good_as_those_of_a_rehearsal(upload: Path, tmp_path: Path) -> None:
    """As good, not the same: under a ceiling and on several threads the encoder decides now and then otherwise (docs/decisions.md)."""
    facts = read_file(upload)
    [*_, largest] = render(upload, facts, receive(facts, ORRERY), tmp_path)
    rehearsed = tmp_path / "rehearsed"
    rehearsed.mkdir()
    made = renditions_for(ORRERY, width=1280, height=720, frame_rate=Fraction(25))
    handle(upload_pictures(upload), made, rehearsed, size=(1280, 720), frame_rate=Fraction(25))
    sent = [frame.to_ndarray(format="gray").astype(int) for frame in upload_pictures(upload)]

    def lost(path: Path) -> float:
        return float(np.mean([np.abs(one - other).mean() for one, other in zip(sent, seen(path)[0], strict=True)]))

    assert lost(largest.path) == pytest.approx(lost(rehearsed / "720p-h264.mp4"), rel=0.05)


def test_a_wrong_shape_stands_between_bars(upload: Path, tmp_path: Path) -> None:
    facts = read_file(upload)
    first = next(render(upload, facts, receive(facts, SPRIGG), tmp_path))
    pictures, _, width = seen(first.path)
    height = pictures[0].shape[0]
    assert width / height == pytest.approx(9 / 16, abs=0.01)
    assert pictures[0][: height // 4].mean() < 20 > pictures[0][-height // 4 :].mean()
    assert pictures[0][height // 2 - 20 : height // 2 + 20].std() > 5


def test_sound_is_turned(shelf: Path, tmp_path: Path) -> None:
    quiet = films.film(shelf / "Quiet.mp4", width=160, height=90, seconds=2, sound=films.tone(2) * 0.1)
    facts = read_file(quiet)
    received = receive(facts, SPRIGG)
    assert isinstance(received.sound, ReceivedSound)
    assert received.sound.gain_db > 3
    [made] = render(quiet, facts, received, tmp_path)
    after = read_file(made.path)
    assert after.audio.integrated_lufs == pytest.approx(facts.audio.integrated_lufs + received.sound.gain_db, abs=0.7)


def test_a_client_gets_the_very_file_and_a_feed_its_sound(upload: Path, tmp_path: Path) -> None:
    facts = read_file(upload)
    [made] = render(upload, facts, receive(facts, HANDOVER), tmp_path)
    assert made.path.read_bytes() == upload.read_bytes()
    song = tmp_path / "song.m4a"
    with av.open(str(upload)) as film, av.open(str(song), "w", format="mp4") as out:
        copy = out.add_stream_from_template(film.streams.audio[0])
        for packet in film.demux(audio=0):
            if packet.dts is not None:
                packet.stream = copy
                out.mux(packet)
    heard, folder = read_file(song), tmp_path / "feed"
    folder.mkdir()
    [sound] = render(song, heard, receive(heard, EARSHELF), folder)
    assert (sound.name, sound.width) == ("sound", 0)
    assert read_file(sound.path).audio.codec == "aac"


def test_what_is_stopped_leaves_nothing_but_what_was_whole(upload: Path, tmp_path: Path) -> None:
    facts = read_file(upload)
    received = receive(facts, ORRERY).model_copy(update={"sound": ReceivedSound(bitrate_bps=96_000, gain_db=-3.0)})

    def say(doing: str, share: float) -> None:
        if doing == "making 720p h264" and share > 0.6:
            raise Cancelled("Stopped.", "")

    with pytest.raises(Cancelled):
        list(render(upload, facts, received, tmp_path, say=say))
    assert [path.name for path in tmp_path.iterdir()] == ["480p-h264.mp4"]


def test_a_varying_rate_is_made_constant_and_keeps_to_its_time(tmp_path: Path) -> None:
    stamps = [20 * n if n < 15 else 300 + 80 * (n - 15) for n in range(30)]
    phone = films.odd_film(tmp_path / "phone.mp4", stamps_ms=stamps)
    facts = read_file(phone)
    assert facts.video.variable_rate
    folder = tmp_path / "made"
    folder.mkdir()
    first = next(render(phone, facts, receive(facts, ORRERY), folder))
    made = read_file(first.path)
    assert not made.video.variable_rate
    assert made.duration_s == pytest.approx(facts.duration_s, abs=0.06)
    own, sent = ([frame.to_ndarray(format="gray").astype(int) for frame in upload_pictures(path)] for path in (first.path, phone))
    rate, scale = facts.video.frame_rate, (own[0].shape[0] // sent[0].shape[0])
    for number in (3, 8, 14, 20):
        at_ms = (number + 0.25) / rate * 1000
        shown = max(place for place, stamp in enumerate(stamps) if stamp <= at_ms)
        off = [np.abs(own[number][::scale, ::scale][: one.shape[0], : one.shape[1]] - one).mean() for one in sent]
        assert abs(int(np.argmin(off)) - shown) <= 1
