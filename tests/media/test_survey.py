"""Looking through real files: what the survey finds, how much it decodes, and what it makes of damage."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import av
import numpy as np
import pytest
from benchmarks.detector_clips import every_clip
from benchmarks.detectors import judge

from hardy_parcel.core.errors import Cancelled
from hardy_parcel.core.master.checks.combing import measured_scan
from hardy_parcel.core.master.facts import MasterFacts, Scan
from hardy_parcel.core.plan.plan import FieldOrder
from hardy_parcel.media.film import write_film
from hardy_parcel.media.inspect import inspect, read_file
from hardy_parcel.media.loudness import measure_sound
from hardy_parcel.media.luma import small_luma, whole_luma
from hardy_parcel.media.pictures import pictures_at
from hardy_parcel.media.stepper import Stepper
from hardy_parcel.media.survey import sampling, scan_windows, survey

from .. import films
from ..builders import video

CLIPS = {clip.name: clip for clip in every_clip()}
TRIED = [
    "blank_head-yes-00", "blank_tail-yes-01", "blank_tail-no-credits00", "blank_tail-no-night00", "baked_bars-yes-00", "baked_bars-yes-04",
    "baked_bars-no-sky01", "baked_bars-no-planet00", "baked_bars-no-lamp01", "interlaced-yes-00",
    "interlaced-yes-04", "interlaced-no-blinds00",
    "repeated_frames-yes-00",
    "repeated_frames-no-held00", "blended_frames-yes-00", "range_mismatch-yes-full00", "range_mismatch-yes-limited00",
    "range_mismatch-no-whites00", "clipped_audio-yes-00", "clipped_audio-yes-pcm00", "clipped_audio-no-crest01", "silent_audio-yes-01",
    "low_recorded_rate-yes-00", "low_recorded_rate-no-slides00", "variable_rate-yes-00", "variable_rate-no-rounded00", "rotated-yes-00",
    "non_square_pixels-yes-00", "untagged_colour-yes-00", "contradictory_colour-yes-00", "contradictory_colour-yes-04", "hdr-yes-00",
    "odd_size-yes-00", "very_short-yes-00", "very_long-yes-00", "no_picture-yes-00", "no_audio-yes-00",
]


@pytest.mark.parametrize("name", TRIED)
def test_made_films_with_known_trouble(name: str) -> None:
    """The small form of `make detectors`."""
    clip = CLIPS[name]
    found = set(judge(clip))
    assert found - clip.doubtful == clip.codes - clip.doubtful


def test_every_code_has_twenty_films_with_and_without_it() -> None:
    codes = {code for clip in CLIPS.values() for code in clip.codes}
    for code in codes:
        assert sum(code in clip.codes for clip in CLIPS.values()) >= 20, code
        assert sum(code not in clip.codes and code not in clip.doubtful for clip in CLIPS.values()) >= 20, code


@pytest.mark.parametrize(("size", "seconds", "whole"), [((320, 180), 20, True), ((1920, 1080), 2, True), ((1920, 1080), 60, False)])
def test_small_and_short_films_are_looked_at_whole(size: tuple[int, int], seconds: int, whole: bool) -> None:
    assert sampling(video(*size), Fraction(seconds)).whole is whole


@pytest.mark.parametrize("hours", [0.1, 0.5, 2, 9])
@pytest.mark.parametrize("rate", [24, 50])
def test_a_long_film_is_sampled_from_end_to_end(hours: float, rate: int) -> None:
    seconds = Fraction(int(hours * 3600))
    plan = sampling(video(rate=rate), seconds)
    assert plan.starts_s[0] == 0
    assert plan.starts_s[-1] + Fraction(plan.pictures) / rate == seconds
    assert plan.pictures * len(plan.starts_s) <= 2500
    gaps = np.diff([float(s) for s in plan.starts_s])
    assert gaps.max() - gaps.min() < 1e-6


def test_windows_start_at_keyframes_and_tell_their_place(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    source = films.film(tmp_path / "a.mp4", width=160, height=90, rate=25, seconds=30, sound=None)
    monkeypatch.setattr("hardy_parcel.media.survey.AT_LEAST_PICTURES", 60)
    facts = inspect(source)
    shares: list[float] = []
    found = survey(source, facts.video, facts.duration_s, shares.append)
    assert found.pictures_seen < 0.5 * found.pictures_in_film
    assert shares == sorted(shares)
    assert shares[-1] == 1
    with av.open(str(source)) as container:
        keys = {round(p.pts * p.time_base * 25) for p in container.demux(video=0) if p.is_keyframe and p.pts is not None}
    for window in found.windows[:-1]:
        assert window.first_picture in keys
        assert window.at_s[0] == pytest.approx(window.first_picture / 25)
    assert found.windows[-1].at_s[-1] == pytest.approx(749 / 25, abs=0.05)
    assert all(second.temporal >= 0 for second in found.difficulty)
    assert found.quantiser == pytest.approx(18, abs=6)


def test_a_short_film_that_is_nearly_all_tail_is_searched_from_its_beginning(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """The search leaps back to the very first picture of a film whose end was read before."""
    rate = Fraction(25)
    monkeypatch.setattr("hardy_parcel.media.survey.AT_LEAST_PICTURES", 26)
    pictures = ((lit, grey, grey) for lit, grey in (
        (np.full((90, 160), 16 if n >= 10 else 120, np.uint8), np.full((45, 80), 128, np.uint8)) for n in range(90)
    ))
    path = tmp_path / "short.mp4"
    write_film(path, width=160, height=90, frame_rate=rate, pictures=pictures, sound=None, quality=18)
    facts = inspect(path, loudness=False)
    found = survey(path, facts.video, facts.duration_s)
    assert found.blank_tail_s == pytest.approx(80 / 25, abs=0.021)


def test_blank_ends_longer_than_a_window_are_found_to_the_picture(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("hardy_parcel.media.survey.AT_LEAST_PICTURES", 60)
    chroma = np.full((90, 160), 128, np.uint8)
    black = (np.full((180, 320), 16, np.uint8), chroma, chroma)
    pictures = [*[black] * 93, *films.shimmer(320, 180, 300), *[black] * 161]
    source = films.film(tmp_path / "a.mp4", rate=25, seconds=Fraction(len(pictures), 25), sound=None, pictures=iter(pictures))
    facts = inspect(source)
    found = survey(source, facts.video, facts.duration_s)
    assert found.blank_head_s == pytest.approx(93 / 25, abs=0.021)
    assert found.blank_tail_s == pytest.approx(161 / 25, abs=0.021)


def test_a_damaged_stretch_is_passed_over(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", rate=25, seconds=4, sound=None)
    facts = inspect(source)
    data = bytearray(source.read_bytes())
    middle = len(data) // 2
    data[middle : middle + 4000] = bytes(4000)
    source.write_bytes(data)
    found = survey(source, facts.video, facts.duration_s)
    assert 20 < found.pictures_seen <= 100


def test_a_survey_can_be_stopped(gale: Path, gale_facts: MasterFacts) -> None:
    def stop(share: float) -> None:
        raise Cancelled("Stopped.")

    with pytest.raises(Cancelled):
        survey(gale, gale_facts.video, gale_facts.duration_s, stop)


@pytest.mark.parametrize("form", ["yuv420p", "yuv422p10le", "nv12", "rgb24", "gray"])
def test_luma_keeps_its_levels_in_every_format(form: str) -> None:
    grey = av.VideoFrame.from_ndarray(np.full((64, 96, 3), 128, np.uint8), format="rgb24").reformat(format=form)
    luma = whole_luma(grey)
    assert luma.shape == (64, 96)
    assert small_luma(grey, 24, 16).shape == (16, 24)
    assert abs(int(luma[30, 40]) - int(small_luma(grey, 24, 16)[8, 12])) <= 1
    plane = av.VideoFrame(64, 64, "yuv420p")
    plane.planes[0].update(bytes([2]) * plane.planes[0].buffer_size)
    assert (whole_luma(plane) == 2).all()
    assert (small_luma(plane, 16, 16) == 2).all()


def test_the_envelope_starts_where_the_picture_does(tmp_path: Path) -> None:
    tone = films.tone(4)
    tone[:, : 2 * 48000] = 0
    source = films.film(tmp_path / "a.mp4", rate=25, seconds=4, sound=tone)
    told: list[float] = []
    loudness, heard, _ = measure_sound(source, say=lambda survey, done: told.append(done))
    assert loudness.integrated_lufs is not None
    assert heard.complete
    levels = [-99 if level is None else level for level in heard.envelope_lufs]
    first = next(i for i, level in enumerate(levels) if level > -60)
    assert first * heard.step_s == pytest.approx(2.0, abs=0.15)


@pytest.mark.parametrize(
    ("name", "interlaced"), [("interlaced-yes-00", True), ("interlaced-yes-01", True), ("interlaced-no-stripes01", False)]
)
def test_a_few_windows_tell_interlaced_from_progressive(name: str, interlaced: bool, tmp_path: Path) -> None:
    CLIPS[name].make(source := tmp_path / "a.mp4")
    facts = inspect(source)
    scan = measured_scan(scan_windows(source, facts.video, facts.duration_s)).scan
    assert (scan in (Scan.TOP_FIRST, Scan.BOTTOM_FIRST)) is interlaced


def test_deinterlacing_takes_the_combs_out(tmp_path: Path) -> None:
    clip = CLIPS["interlaced-yes-00"]
    source = tmp_path / "a.mp4"
    clip.make(source)
    facts = inspect(source)
    times = [Fraction(i, 25) + Fraction(1, 100) for i in range(4, 12)]

    def combs(fields: FieldOrder) -> float:
        total = 0.0
        for picture in pictures_at(source, times, start_s=facts.video.start_s, fields=fields):
            y = whole_luma(picture).astype(float)
            total += float(np.abs(2 * y[1:-1] - y[:-2] - y[2:]).mean())
        return total

    assert combs(FieldOrder.TOP_FIRST) < 0.75 * combs(FieldOrder.NONE)


def test_a_stepper_shows_the_keyframe_at_once_and_every_exact_picture(tmp_path: Path) -> None:
    source = films.film(tmp_path / "a.mp4", rate=25, seconds=4, sound=None)
    facts = inspect(source)
    stepper = Stepper(source, facts)
    near = stepper.show(63, exact=False)
    assert 38 <= near["number"] < 63
    assert not near["exact"]
    for number in (63, 64, 63, 62, 40, 99, 0, 5000):
        shown = stepper.show(number, exact=True)
        assert (shown["number"], shown["exact"]) == (min(number, 99), True)
        assert shown["at_s"] == pytest.approx(min(number, 99) / 25)


def test_a_stepper_counts_uneven_pictures(tmp_path: Path) -> None:
    stamps = [0, 33, 67, 140, 173, 240, 273, 300, 333, 400]
    source = films.odd_film(tmp_path / "a.mp4", stamps_ms=stamps)
    facts = inspect(source)
    assert facts.video.variable_rate
    stepper = Stepper(source, facts)
    assert [round(stepper.show(i, exact=True)["at_s"] * 1000) for i in range(len(stamps))] == pytest.approx(stamps, abs=2)


def test_what_the_boxes_say(tmp_path: Path, gale: Path) -> None:
    facts = read_file(gale, loudness=False)
    assert (facts.fast_start, facts.edit_list, facts.chapters, facts.captions) == (True, False, 0, ())
    assert facts.video.container_colour.primaries == "bt709"
    assert facts.video.pictures == 100
    assert facts.video.scan is Scan.PROGRESSIVE
    assert read_file(films.odd_film(tmp_path / "a.mkv"), loudness=False).fast_start is None
    assert read_file(films.odd_film(tmp_path / "a.mp4"), loudness=False).fast_start is False


def test_a_file_whose_index_is_missing_is_not_finished(tmp_path: Path) -> None:
    from hardy_parcel.core.errors import UnreadableMaster

    whole = films.odd_film(tmp_path / "a.mp4").read_bytes()
    part = tmp_path / "part.mp4"
    part.write_bytes(whole[: whole.rindex(b"moov") - 4])
    with pytest.raises(UnreadableMaster, match="not finished") as error:
        read_file(part)
    assert error.value.code == "unfinished"
