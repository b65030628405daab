"""Sound of known loudness, packed and measured again: of an excerpt, mixed down, turned to the target, kept below the limit."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest

from hardy_parcel.core.master.checks.sound_levels import heard_in
from hardy_parcel.core.master.facts import Excerpt, MasterFacts
from hardy_parcel.core.parcel.receipt import Match
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.media.inspect import inspect
from hardy_parcel.media.loudness import measure_loudness, measure_sound
from hardy_parcel.work import packing
from hardy_parcel.work.packing import pack_parcel

from .. import films
from ..builders import EARSHELF, HANDOVER, SPRIGG

RATE = 48000
SMALL = {"width": 72, "height": 128, "rate": 25}
SLOW = Choices(video_bitrate_bps=100_000, effort="quick")


def heard(path: Path, excerpt: Excerpt | None = None) -> MasterFacts:
    """Facts as the checks leave them."""
    facts = inspect(path, loudness=False)
    loudness, _, levels = measure_sound(path, start_s=facts.video.start_s)
    facts = facts.model_copy(update={"audio": facts.audio.model_copy(update=loudness.as_facts())})
    return heard_in(facts, levels, excerpt)


def sent(path: Path, folder: Path, place, choices: Choices = SLOW, excerpt: Excerpt | None = None):
    """The plan and the receipt of a packed parcel, and the loudness of the packed file."""
    facts = heard(path, excerpt)
    plan = make_plan(facts, place, choices, excerpt)
    name = f"packed.{plan.container.value}"
    _, along, _ = measure_sound(path, start_s=facts.video.start_s)
    receipt = pack_parcel(path, facts, plan, folder=folder, file_name=name, job_id="job", report=lambda progress: None, heard=along)
    return plan, receipt, measure_loudness(folder / name)


def quiet_then_loud() -> np.ndarray:
    """Stereo 1 kHz: three seconds at −30 LUFS, then three at −14 (a tone's level in dBFS is its loudness in LUFS)."""
    return np.concatenate([films.tone(3, hz=1000, peak=10 ** (-30 / 20)), films.tone(3, hz=1000, peak=10 ** (-14 / 20))], axis=1)


@pytest.fixture(scope="module")
def stepped(shelf: Path) -> Path:
    return films.film(shelf / "stepped.mp4", seconds=6, sound=quiet_then_loud(), **SMALL)


@pytest.mark.parametrize(("start", "end", "before"), [(0, 3, -30.0), (Fraction(7, 2), 6, -14.0)])
def test_an_excerpt_is_turned_by_its_own_loudness(stepped: Path, tmp_path: Path, start, end, before: float) -> None:
    plan, receipt, packed = sent(stepped, tmp_path, SPRIGG, excerpt=Excerpt(in_s=start, out_s=end))
    assert plan.audio.master_lufs == pytest.approx(before, abs=0.3)
    assert packed.integrated_lufs == pytest.approx(-13.0, abs=0.4)
    assert receipt.differing == ()
    assert receipt.sound.before_lufs == plan.audio.master_lufs
    assert receipt.sound.after_lufs == packed.integrated_lufs
    assert receipt.sound.target_lufs == -13.0


def test_both_envelopes_lie_one_gain_apart(stepped: Path, tmp_path: Path) -> None:
    plan, receipt, _ = sent(stepped, tmp_path, SPRIGG)
    story = receipt.sound
    assert len(story.before) == len(story.after)
    assert len(story.before) * story.step_s == pytest.approx(6, abs=0.05)
    gains = [b - a for a, b in zip(story.before, story.after, strict=True) if a is not None and b is not None and a > -40]
    assert np.median(gains) == pytest.approx(plan.audio.gain_db.value, abs=0.5)


def surround(path: Path, channel: int, peak: float) -> Path:
    """Two seconds of film with six channels of PCM (L R C LFE Ls Rs), one of which has a tone."""
    sound = np.zeros((6, 2 * RATE), np.float32)
    sound[channel] = films.tone(2, hz=1000, peak=peak)[0]
    with av.open(str(path), "w", format="matroska") as output:
        pictures = output.add_stream("libx264", rate=25)
        pictures.width, pictures.height, pictures.pix_fmt = 72, 128, "yuv420p"
        audio = output.add_stream("pcm_s16le", rate=RATE, layout="5.1")
        for number, planes in enumerate(films.shimmer(72, 128, 50)):
            output.mux(pictures.encode(films.frame(planes, number, Fraction(1, 25))))
        for at in range(0, sound.shape[1], 1024):
            part = np.ascontiguousarray((sound[:, at : at + 1024] * 32767).astype(np.int16).T.reshape(1, -1))
            block = av.AudioFrame.from_ndarray(part, format="s16", layout="5.1")
            block.sample_rate, block.pts, block.time_base = RATE, at, Fraction(1, RATE)
            output.mux(audio.encode(block))
        output.mux(pictures.encode(None))
        output.mux(audio.encode(None))
    return path


@pytest.mark.parametrize(("channel", "name", "mixed_db"), [(0, "left", -3.01), (2, "centre", -3.01), (4, "surround", -6.02)])
def test_a_downmix_is_weighed_by_bt775_and_turned_by_what_it_comes_to(tmp_path: Path, channel, name, mixed_db: float) -> None:
    """A surround alone counts 1.5 dB more as it is and 3 dB less mixed; its gain must come from the mix."""
    master = surround(tmp_path / f"{name}.mkv", channel, 0.1)
    plan, receipt, packed = sent(master, tmp_path, SPRIGG)
    assert plan.audio.channels.because.code == "mixed_down"
    assert plan.audio.master_lufs == pytest.approx(-20 + mixed_db, abs=0.25)
    assert packed.integrated_lufs == pytest.approx(min(-13.0, plan.audio.expected_lufs), abs=0.4)
    assert receipt.differing == ()


def test_a_mono_wish_and_sound_alone_are_turned_by_the_mono_mix(tmp_path: Path) -> None:
    """By BT.775 both sides go in with 0.707: the same tone left and right is as loud in one channel, its peak 3 dB higher."""
    master = films.film(tmp_path / "tone.mp4", seconds=3, sound=films.tone(3, hz=1000, peak=0.05), **SMALL)
    plan, receipt, packed = sent(master, tmp_path, EARSHELF, Choices(channels=1))
    assert plan.audio.master_lufs == pytest.approx(-26.0, abs=0.3)
    assert plan.audio.master_peak_dbtp == pytest.approx(-23.0, abs=0.3)
    assert packed.integrated_lufs == pytest.approx(-17.0, abs=0.4)
    assert receipt.differing == ()
    assert plan.video is None


def test_pcm_for_the_client_is_left_at_its_level(tmp_path: Path) -> None:
    master = films.film(tmp_path / "tone.mp4", seconds=2, sound=films.tone(2, hz=1000, peak=0.05), **SMALL)
    plan, receipt, packed = sent(master, tmp_path, HANDOVER, Choices(sound_codec="pcm", effort="quick"))
    assert plan.audio.codec.value == "pcm"
    assert packed.integrated_lufs == pytest.approx(plan.audio.master_lufs, abs=0.1)
    assert receipt.differing == ()


def ringing(seconds: int) -> np.ndarray:
    """Short clipped chords over a quiet tone: the peak limits the gain, and coding with few bits lifts it."""
    time = np.arange(seconds * RATE) / RATE
    chord = sum(np.sin(2 * np.pi * hz * time) for hz in (700, 1900, 4300, 9100, 12000))
    struck = (0.5 * np.clip(chord * (time % 0.5 < 0.02), -1, 1)).astype(np.float32)
    return films.tone(seconds, hz=500, peak=0.02) + struck


def pictures(path: Path) -> list[bytes]:
    with av.open(str(path), format="mp4") as container:
        return [bytes(packet) for packet in container.demux(video=0) if packet.size]


def test_what_coding_lifts_over_the_limit_is_brought_below_it_without_touching_the_picture(tmp_path: Path, monkeypatch) -> None:
    master = films.film(tmp_path / "ringing.mp4", seconds=3, sound=ringing(3), **SMALL)
    starved = SLOW.model_copy(update={"sound_bitrate_bps": 64_000})
    with monkeypatch.context() as blind:
        blind.setattr(packing, "below_the_limit", lambda plan, peak, tries: None)
        (tmp_path / "blind").mkdir()
        _, lifted, packed = sent(master, tmp_path / "blind", SPRIGG, starved)
    assert packed.true_peak_dbtp > -2.0, "this sound shows nothing"
    assert "peak" in [row.code for row in lifted.differing]
    before: list[bytes] = []
    again = packing.make_sound_again

    def seen(packed: Path, *rest) -> None:
        before.extend(pictures(packed))
        again(packed, *rest)

    monkeypatch.setattr(packing, "make_sound_again", seen)
    plan, receipt, mended = sent(master, tmp_path, SPRIGG, starved)
    assert mended.true_peak_dbtp <= -2.0
    assert "peak" not in [row.code for row in receipt.differing]
    assert receipt.sound.gain_db < plan.audio.gain_db.value
    assert pictures(tmp_path / "packed.mp4") == before != []
    assert [p.name for p in tmp_path.iterdir() if p.name.startswith(".")] == []
    assert next(row for row in receipt.rows if row.code == "peak").match is Match.AS_PLANNED


@pytest.mark.parametrize("gain", [0.0, -0.3, -0.7, -1.5])
def test_the_sound_encoder_keeps_peaks_where_they_are(tmp_path: Path, gain: float) -> None:
    """At a usual rate a packed peak lies within half a decibel of the planned one, whatever the gain."""
    master = films.film(tmp_path / "ringing.mp4", seconds=2, sound=ringing(2), **SMALL)
    plan, _, packed = sent(master, tmp_path, EARSHELF, Choices(gain_db=gain, sound_codec="aac", sound_bitrate_bps=240_000))
    assert packed.true_peak_dbtp == pytest.approx(plan.audio.expected_peak_dbtp, abs=0.5)


def tape(path: Path, seconds: int = 6) -> Path:
    """A program stream, whose sound packets do not begin where its index leads to."""
    sound = films.tone(seconds)
    with av.open(str(path), "w", format="mpeg") as made:
        pictures, heard = made.add_stream("mpeg2video", rate=25, options={"b": "2000000"}), made.add_stream("mp2", rate=RATE)
        pictures.width, pictures.height, pictures.pix_fmt = 192, 144, "yuv420p"
        heard.codec_context.layout, heard.codec_context.format = "stereo", "s16"
        samples = (sound * 32767).astype(np.int16).T.reshape(1, -1)
        for number, planes in enumerate(films.shimmer(192, 144, seconds * 25)):
            made.mux(pictures.encode(films.frame(planes, number, Fraction(1, 25))))
            for at in range(number * RATE // 25 // 1152, (number + 1) * RATE // 25 // 1152):
                block = av.AudioFrame.from_ndarray(samples[:, at * 2304 : (at + 1) * 2304].copy(), format="s16", layout="stereo")
                block.sample_rate, block.pts, block.time_base = RATE, at * 1152, Fraction(1, RATE)
                made.mux(heard.encode(block))
        for stream in (pictures, heard):
            made.mux(stream.encode(None))
    return path


@pytest.mark.parametrize("start", [2, 3, 4])
def test_an_excerpt_of_a_program_stream_may_begin_inside_a_sound_packet(tmp_path: Path, start: int) -> None:
    plan, receipt, packed = sent(tape(tmp_path / "tape.mpg"), tmp_path, SPRIGG, excerpt=Excerpt(in_s=start, out_s=start + 1))
    assert receipt.pictures == plan.picture.frames
    assert packed.integrated_lufs is not None
