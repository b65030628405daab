"""What a platform makes of a file, by its sheet and the file alone."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.arrival.receiving import Received, ReceivedSound, receive, refusals
from hardy_parcel.core.master.facts import FileFacts
from hardy_parcel.docks.catalogue import destination
from hardy_parcel.docks.shipped import shipped_destinations

from ...builders import EARSHELF, FERNPOST, HANDOVER, ORRERY, SPRIGG, audio, facts

SQUARE = destination("kitewall-square")
SONG = FileFacts(
    name="Interview.m4a", content_id="c0ffee", container="MP4/MOV", size_bytes=2_000_000, duration_s=Fraction(60), bitrate_bps=160_000,
    audio=audio(integrated_lufs=-23.0, true_peak_dbtp=-3.0),
)


def test_what_a_sheet_takes_is_not_refused() -> None:
    assert refusals(facts(sound=audio()), ORRERY) == ()
    assert refusals(SONG, EARSHELF) == ()


@pytest.mark.parametrize(("sent", "place", "said"), [
    (facts(codec="vp9"), SPRIGG, "Sprigg does not take VP9."),
    (facts(sound=audio(codec="opus")), SPRIGG, "Sprigg does not take Opus sound."),
    (facts(file={"name": "Gale.mkv", "container": "MKV/WebM"}), SPRIGG, "Sprigg takes MP4, MOV, not MKV."),
    (facts(file={"container": "MPEG-TS"}), SPRIGG, "Sprigg takes MP4, MOV, not MPEG-TS."),
    (facts(file={"size_bytes": 400_000_000}), SPRIGG, "400 MB is more than the 380 MB that Sprigg takes."),
    (facts(seconds=151), SPRIGG, "2:31.00 is longer than the 2:30.00 that Sprigg takes."),
    (facts(7680, 4320), ORRERY, "7680×4320 is more than the 3840 px along the long side"),
    (facts(rate=120), HANDOVER, "120 frames/s is more than the 60 that Handover takes."),
    (SONG, ORRERY, "Orrery takes films, and this file has no picture."),
    (facts(), EARSHELF, "Earshelf takes sound alone, and this file has a picture."),
    (SONG.model_copy(update={"container": "WAV", "audio": audio(codec="wmav2")}), EARSHELF, "Earshelf does not take"),
])
def test_what_it_does_not_take_is_refused_with_every_reason(sent: FileFacts, place, said: str) -> None:
    [reason] = refusals(sent, place)
    assert reason.startswith(said)


def test_a_quota_counts_what_was_sent_before() -> None:
    assert refusals(facts(), FERNPOST, used_bytes=600_000_000) == ()
    [reason] = refusals(facts(), FERNPOST, used_bytes=620_000_000)
    assert reason == "30.0 MB are left of the 650 MB that Fernpost takes in 7 days."


def test_where_rates_are_capped_pictures_are_left_out_instead_of_a_refusal() -> None:
    assert refusals(facts(rate=50), SPRIGG) == ()
    assert {(one.frame_rate, one.keep_every) for one in receive(facts(rate=50), SPRIGG).renditions} == {(Fraction(25), 2)}
    assert {one.frame_rate for one in receive(facts(rate=60), SPRIGG).renditions} == {Fraction(30)}


def test_several_reasons_are_told_together() -> None:
    assert len(refusals(facts(codec="vp9", seconds=1000, rate=50), SPRIGG)) >= 2


def test_a_shape_that_is_taken_stays_and_the_smallest_rendition_comes_first() -> None:
    found = receive(facts(), ORRERY)
    assert (found.width, found.height, found.crop, found.picture) == (1920, 1080, found.picture, found.crop)
    assert [one.short_side_px for one in found.renditions] == [480, 720, 1080]
    assert not found.as_it_is


def test_what_is_cut_off_need_not_fit() -> None:
    assert refusals(facts(1080, 1920), SQUARE) == refusals(facts(1920, 1080), SQUARE) == ()
    [reason] = refusals(facts(1440, 2560), SQUARE)
    assert reason.startswith("1440×2560 is more than the 1080 px")


def test_a_wrong_shape_gets_bars_or_is_cut() -> None:
    barred, cut = receive(facts(), SPRIGG), receive(facts(), SQUARE)
    assert (barred.width, barred.height) == (1920, 3414)
    assert (barred.crop.height, barred.picture.y, barred.picture.height) == (1080, 1166, 1080)
    assert (cut.width, cut.height, cut.crop.x, cut.crop.width) == (1080, 1080, 420, 1080)
    assert all(one.width == one.height for one in cut.renditions)
    upright = receive(facts(1080, 1920), SQUARE)
    assert (upright.crop.y, upright.crop.height, upright.crop.width) == (420, 1080, 1080)


@given(width=st.integers(16, 4000), height=st.integers(16, 4000), place=st.sampled_from(sorted(shipped_destinations())))
def test_every_picture_lies_within_its_frame_on_even_pixels(width: int, height: int, place: str) -> None:
    where = shipped_destinations()[place]
    found: Received = receive(facts(width, height), where)
    for inner, outer in ((found.crop, (width + 1, height + 1)), (found.picture, (found.width, found.height))):
        assert inner.x >= 0 <= inner.y
        assert inner.x + inner.width <= outer[0]
        assert inner.y + inner.height <= outer[1]
        assert not any(value % 2 for value in (inner.x, inner.y, inner.width, inner.height))
    assert not any(one.width % 2 or one.height % 2 for one in found.renditions)


def test_a_client_gets_the_very_file() -> None:
    assert receive(facts(), HANDOVER).as_it_is
    turned = SPRIGG.placement.handling.model_copy(update={"tiers": ()})
    kept = SPRIGG.model_copy(update={"placement": SPRIGG.placement.model_copy(update={"handling": turned})})
    assert receive(facts(1080, 1920), kept).as_it_is, "without a ladder nothing is made anew, whatever is said of its sound"


@pytest.mark.parametrize(("place", "heard", "made"), [
    (ORRERY, audio(integrated_lufs=-9.0), ReceivedSound(bitrate_bps=240_000, gain_db=-6.0)),
    (ORRERY, audio(integrated_lufs=-20.0), None),
    (SPRIGG, audio(integrated_lufs=-20.0, true_peak_dbtp=-12.0), ReceivedSound(bitrate_bps=176_000, gain_db=7.0)),
    (SPRIGG, audio(integrated_lufs=-20.0, true_peak_dbtp=-6.0), ReceivedSound(bitrate_bps=176_000, gain_db=4.0)),
    (SPRIGG, audio(integrated_lufs=-20.0, true_peak_dbtp=-1.0), None),
    (SPRIGG, audio(integrated_lufs=-13.05), None),
    (SPRIGG, audio(integrated_lufs=None), None),
    (FERNPOST, audio(integrated_lufs=-5.0), None),
])
def test_sound_is_turned_as_the_sheet_says(place, heard, made) -> None:
    assert receive(facts(sound=heard), place).sound == made


def test_an_audio_feed_makes_its_sound_anew() -> None:
    found = receive(SONG, EARSHELF)
    assert found.sound == ReceivedSound(bitrate_bps=96_000, gain_db=1.0)
    assert (found.renditions, found.crop) == ((), None)
    assert receive(facts(sound=None), SPRIGG).sound is None
