"""Stamps from facts and evidence: every code, held, care and cleared, with its remedy."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.errors import BadChoice
from hardy_parcel.core.master.checks.check_text import difficulty_bars, fact_rows, opening_sentence
from hardy_parcel.core.master.checks.evidence import Checked, Difficulty, Levels, SoundSurvey, Survey
from hardy_parcel.core.master.checks.stamping import CheckStamp, Remedy, check_stamps, display_rect, mended
from hardy_parcel.core.master.facts import CaptionTrack, ColourTags, Excerpt, FileFacts, Mending, Scan
from hardy_parcel.core.plan.plan import FieldOrder
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.stamps import Outcome
from hardy_parcel.core.values import Rect

from ....builders import ORRERY, REC_709, SPRIGG, audio, facts, video
from .pictures import moved, texture, window
from .test_motion_and_cadence import fields_of

CODES = {
    "blank_head", "blank_tail", "baked_bars", "interlaced", "repeated_frames", "blended_frames", "variable_rate", "non_square_pixels",
    "rotated", "no_audio", "silent_audio", "no_picture", "untagged_colour", "contradictory_colour", "range_mismatch", "hdr", "odd_size",
    "low_recorded_rate", "clipped_audio", "loud_audio", "very_short",
}
GROUND = texture()
EVEN = Survey(pictures_seen=60, pictures_in_film=500, windows=(window([moved(GROUND, 2 * i) for i in range(30)]),))
HEARD = SoundSurvey(step_s=0.1, envelope_lufs=(-20.0,) * 200, samples=1_920_000)


def stamps(master=None, *, picture: Survey | None = EVEN, sound: SoundSurvey | None = HEARD, excerpt=None) -> dict[str, CheckStamp]:
    master = master or facts(bitrate_bps=9_000_000)
    return {s.code: s for s in check_stamps(master, Checked(picture=picture, sound=sound), excerpt=excerpt)}


def careful(*args, **named) -> dict[str, Outcome]:
    return {code: s.outcome for code, s in stamps(*args, **named).items() if s.outcome is not Outcome.CLEARED}


def test_a_sound_master_clears_every_check() -> None:
    found = stamps()
    assert set(found) == CODES
    assert {s.outcome for s in found.values()} == {Outcome.CLEARED}
    assert opening_sentence(tuple(found.values()), picture_checked=True, sound_checked=True).startswith("No problems found")


def test_checks_that_were_not_made_give_no_stamp() -> None:
    found = stamps(picture=None, sound=None)
    assert "interlaced" not in found
    assert "clipped_audio" not in found
    assert "blank_tail" not in stamps(sound=None)
    assert "still running" in opening_sentence(tuple(found.values()), picture_checked=False, sound_checked=False)


@pytest.mark.parametrize(("changes", "code", "outcome"), [
    ({"colour": ColourTags()}, "untagged_colour", Outcome.CARE),
    ({"colour": REC_709.model_copy(update={"transfer": "smpte2084", "primaries": "bt2020", "matrix": "bt2020nc"})}, "hdr", Outcome.HELD),
    ({"colour": REC_709.model_copy(update={"primaries": "smpte432"})}, "hdr", Outcome.CARE),
    ({"colour": REC_709.model_copy(update={"matrix": "smpte170m"})}, "contradictory_colour", Outcome.CARE),
    ({"colour": REC_709.model_copy(update={"transfer": "arib-std-b67"})}, "contradictory_colour", Outcome.CARE),
    ({"container_colour": REC_709.model_copy(update={"primaries": "bt2020"})}, "contradictory_colour", Outcome.CARE),
    ({"colour": ColourTags(primaries="smpte170m", transfer="smpte170m", matrix="smpte170m")}, "contradictory_colour", Outcome.CARE),
    ({"sample_aspect_ratio": Fraction(16, 15)}, "non_square_pixels", Outcome.CARE),
    ({"rotation_deg": 90}, "rotated", Outcome.CARE),
    ({"width": 1919}, "odd_size", Outcome.CARE),
    ({"variable_rate": True, "lowest_rate": 12.0, "typical_rate": 29.8, "highest_rate": 31.0}, "variable_rate", Outcome.CARE),
    ({"seconds": Fraction(1, 2)}, "very_short", Outcome.CARE),
    ({"seconds": 5 * 3600}, "very_long", Outcome.CARE),
    ({"sound": None}, "no_audio", Outcome.CARE),
    ({"sound": audio(integrated_lufs=-7.0)}, "loud_audio", Outcome.CARE),
    ({"sound": audio(true_peak_dbtp=1.4)}, "loud_audio", Outcome.CARE),
])
def test_what_the_header_and_the_meter_say(changes: dict, code: str, outcome: Outcome) -> None:
    master = facts(**{"bitrate_bps": 9_000_000, **changes})
    found = stamps(master)
    assert found[code].outcome is outcome
    assert found[code].why


def test_tags_that_belong_together_do_not_clash() -> None:
    for tags in (
        ColourTags(primaries="bt470bg", transfer="smpte170m", matrix="bt470bg"),
        ColourTags(primaries="bt709", transfer="iec61966-2-1", matrix="bt709"),
        ColourTags(matrix="bt709"), ColourTags(primaries="smpte432", transfer="bt709", matrix="bt709"),
    ):
        assert stamps(facts(720, 576, colour=tags))["contradictory_colour"].outcome is Outcome.CLEARED


def test_a_blank_tail_wants_silence_and_offers_the_excerpt() -> None:
    blank = EVEN.model_copy(update={"blank_tail_s": 3.0})
    quiet = HEARD.model_copy(update={"envelope_lufs": (*HEARD.envelope_lufs[:170], *(None,) * 30)})
    found = stamps(picture=blank, sound=quiet)["blank_tail"]
    assert (found.outcome, found.at_s, found.remedy) == (Outcome.CARE, 17.0, Remedy.TRIM)
    assert found.excerpt == Excerpt(in_s=0, out_s=17)
    assert "blank_tail" not in careful(picture=blank)
    trimmed = stamps(picture=blank, sound=quiet, excerpt=found.excerpt)["blank_tail"]
    assert (trimmed.outcome, trimmed.done) == (Outcome.CLEARED, True)
    assert "blank_tail" not in careful(picture=EVEN.model_copy(update={"blank_tail_s": 0.4}), sound=quiet)


def test_a_blank_head_and_a_blank_film() -> None:
    silent_film = facts(sound=None)
    found = stamps(silent_film, picture=EVEN.model_copy(update={"blank_head_s": 1.2, "blank_tail_s": 2.0}), sound=None)
    assert found["blank_head"].excerpt == Excerpt(in_s="6/5", out_s=18)
    whole = stamps(silent_film, picture=EVEN.model_copy(update={"blank_head_s": 20.0, "blank_tail_s": 20.0}), sound=None)
    assert whole["blank_head"].matter == "blank throughout"


def test_bars_are_offered_in_display_pixels() -> None:
    active = Rect(x=0, y=66, width=720, height=444)
    master = facts(720, 576, sample_aspect_ratio=Fraction(16, 15))
    found = stamps(master, picture=EVEN.model_copy(update={"active": active}))["baked_bars"]
    assert "66 px above, 66 px below" in found.seen
    assert found.active == Rect(x=0, y=66, width=768, height=444)
    mending = mended(Mending(), found, on=True)
    assert mending.remove_bars == found.active
    plan = make_plan(master.model_copy(update={"mending": mending}), ORRERY)
    assert plan.video.framing.value.crop == found.active
    assert (plan.video.framing.value.width, plan.video.framing.value.height) == (768, 444)
    assert "bars removed" in plan.video.framing.because.sentence
    assert mended(mending, found, on=False) == Mending()


@pytest.mark.parametrize(("turn", "expected"), [
    (0, Rect(x=10, y=20, width=80, height=40)), (90, Rect(x=40, y=10, width=40, height=80)), (180, Rect(x=10, y=40, width=80, height=40)),
    (270, Rect(x=20, y=10, width=40, height=80)),
])
def test_a_turned_picture_turns_its_bars(turn: int, expected: Rect) -> None:
    assert display_rect(Rect(x=10, y=20, width=80, height=40), video(100, 100, rotation_deg=turn)) == expected


def scanned(mode: str) -> Survey:
    moving = window([GROUND, GROUND], fields=fields_of(mode, (4.0, 0.0)))
    return Survey(pictures_seen=9, pictures_in_film=9, windows=(moving,) * 3)


def test_interlacing_is_measured_and_the_disagreement_told() -> None:
    woven = scanned("top")
    found = stamps(facts(scan=Scan.PROGRESSIVE), picture=woven)["interlaced"]
    assert found.outcome is Outcome.CARE
    assert "flagged progressive, measured interlaced, top field first" in found.seen
    mending = mended(Mending(), found, on=True)
    plan = make_plan(facts(scan=Scan.TOP_FIRST).model_copy(update={"mending": mending}), ORRERY)
    assert plan.video.deinterlace.value is FieldOrder.TOP_FIRST
    assert "interlaced" not in {s.code for s in plan.stamps}
    combed = facts(scan=Scan.PROGRESSIVE).model_copy(update={"measured_scan": Scan.TOP_FIRST})
    assert make_plan(combed, ORRERY).video.deinterlace.value is FieldOrder.TOP_FIRST, "what was measured is mended unasked"
    left = combed.model_copy(update={"mending": mended(Mending(), found, on=False)})
    assert make_plan(left, ORRERY).video.deinterlace.value is FieldOrder.NONE
    assert "interlaced" in {s.code for s in make_plan(left, ORRERY).stamps}
    flagged = facts(scan=Scan.TOP_FIRST).model_copy(update={"measured_scan": Scan.PROGRESSIVE})
    assert "interlaced" not in {s.code for s in make_plan(flagged, ORRERY).stamps}
    straight = scanned("progressive")
    told = stamps(facts(scan=Scan.TOP_FIRST), picture=straight)["interlaced"]
    assert (told.outcome, told.seen) == (Outcome.CLEARED, "flagged interlaced, top field first, measured progressive")
    rows = {row.name: row for row in fact_rows(facts(scan=Scan.TOP_FIRST), straight)}
    assert rows["Scan"].measured == "measured progressive"


def test_a_flag_that_cannot_be_measured_stands() -> None:
    still = Survey(pictures_seen=9, pictures_in_film=9)
    assert careful(facts(scan=Scan.BOTTOM_FIRST), picture=still)["interlaced"] is Outcome.CARE
    assert "interlaced" not in careful(facts(scan=Scan.PROGRESSIVE), picture=still)


def test_held_on_twos_is_cleared_and_says_so() -> None:
    twos = Survey(pictures_seen=60, pictures_in_film=60, windows=(window([moved(GROUND, 3 * (i // 2)) for i in range(60)]),))
    found = stamps(facts(rate=24), picture=twos)["repeated_frames"]
    assert (found.outcome, found.seen) == (Outcome.CLEARED, "held on twos")
    assert careful(facts(rate=50), picture=twos)["repeated_frames"] is Outcome.CARE


@pytest.mark.parametrize(("tag", "levels", "wrong"), [
    ("tv", Levels(below_limited=0.02, pictures_below=0.8), True),
    ("tv", Levels(below_limited=0.02, pictures_below=0.05), False),
    ("tv", Levels(above_limited=0.2), False),
    ("pc", Levels(at_limited_black=0.02), True),
    ("pc", Levels(at_limited_black=0.02, below_limited=0.01), False),
    ("pc", Levels(), False),
])
def test_levels_against_the_stated_range(tag: str, levels: Levels, wrong: bool) -> None:
    found = careful(facts(colour=REC_709.model_copy(update={"range": tag})), picture=EVEN.model_copy(update={"levels": levels}))
    assert ("range_mismatch" in found) is wrong


def test_a_poor_recording_is_not_a_simple_picture() -> None:
    poor = facts(bitrate_bps=400_000)
    assert "low_recorded_rate" in careful(poor, picture=EVEN.model_copy(update={"quantiser": 38.0}))
    assert "low_recorded_rate" not in careful(poor, picture=EVEN.model_copy(update={"quantiser": 18.0}))
    second = Difficulty(at_s=0, spatial=30, temporal=0.2, grain=0)
    hevc = facts(bitrate_bps=200_000, codec="hevc")
    assert "low_recorded_rate" not in careful(hevc, picture=EVEN.model_copy(update={"difficulty": (second,)}))
    lively = second.model_copy(update={"temporal": 9})
    assert "low_recorded_rate" in careful(hevc, picture=EVEN.model_copy(update={"difficulty": (lively,)}))
    assert "low_recorded_rate" not in careful(facts(bitrate_bps=400_000, codec="prores"))


def test_clipping_and_silence() -> None:
    clipped = HEARD.model_copy(update={"flat_tops": 900, "first_clipped_s": 2.5})
    assert stamps(sound=clipped)["clipped_audio"].at_s == 2.5
    assert "clipped_audio" not in careful(sound=HEARD.model_copy(update={"flat_tops": 9}))
    mute = facts(sound=audio(integrated_lufs=None, true_peak_dbtp=None))
    assert "silent_audio" in careful(mute, sound=HEARD.model_copy(update={"envelope_lufs": (None,) * 200}))


def test_turning_down_where_a_place_states_no_level() -> None:
    loud = facts(sound=audio(integrated_lufs=-6.0, true_peak_dbtp=0.8))
    found = stamps(loud)["loud_audio"]
    mending = mended(Mending(), found, on=True)
    free = SPRIGG.model_copy(update={"placement": SPRIGG.placement.model_copy(update={
        "audio": SPRIGG.placement.audio.model_copy(update={"target_lufs": None, "true_peak_limit_dbtp": None}),
    })})
    assert make_plan(loud, free).audio.gain_db.value == 0
    assert make_plan(loud.model_copy(update={"mending": mending}), free).audio.gain_db.value == -8.0


def test_the_constant_rate_can_be_chosen() -> None:
    phone = facts(rate=30, variable_rate=True, lowest_rate=12.0, typical_rate=29.8, highest_rate=31.0)
    found = stamps(phone)["variable_rate"]
    assert {"30", "30000/1001"} <= set(found.rates)
    mending = mended(Mending(), found, on=True, rate=Fraction(25))
    assert make_plan(phone.model_copy(update={"mending": mending}), ORRERY).video.frame_rate.value == 25
    with pytest.raises(BadChoice):
        mended(Mending(), found, on=True, rate=Fraction(17))


def test_sound_alone_is_held() -> None:
    only = FileFacts(
        name="a.m4a", content_id="x", container="MP4/MOV", size_bytes=9, duration_s=Fraction(3), bitrate_bps=24, audio=audio()
    )
    found = {s.code: s.outcome for s in check_stamps(only, Checked())}
    assert found["no_picture"] is Outcome.HELD
    assert fact_rows(only, None)[0].name == "File"


def test_held_stands_first_and_the_sentence_names_what_is_left() -> None:
    dark = facts(colour=REC_709.model_copy(update={"transfer": "smpte2084", "primaries": "bt2020", "matrix": "bt2020nc"}), sound=None)
    found = check_stamps(dark, Checked(picture=EVEN))
    assert found[0].code == "hdr"
    assert "cannot be packed as it is: high dynamic range" in opening_sentence(found, picture_checked=True, sound_checked=True)
    turned = check_stamps(facts(rotation_deg=90, bitrate_bps=9_000_000), Checked(picture=EVEN, sound=HEARD))
    told = opening_sentence(turned, picture_checked=True, sound_checked=True)
    assert told == "Whatever was found is seen to when packing: stored turned."


def test_the_strips_bars_claim_nothing_between_sampled_seconds() -> None:
    def second(at_s: float, temporal: float) -> Difficulty:
        return Difficulty(at_s=at_s, spatial=0, temporal=temporal, grain=0)

    bars = difficulty_bars((second(60, 2), second(0, 8), second(1, 4)), 61.0)
    assert [(bar.at_s, bar.lasts_s, bar.height) for bar in bars] == [(0, 1, 1), (1, 1.4, 0.5), (60, 1, 0.25)]
    assert difficulty_bars((), 5.0) == ()
    assert difficulty_bars((second(0, 0),), 1.0)[0].height == 0


def test_what_else_the_file_carries_is_told() -> None:
    found = stamps(facts(bitrate_bps=9_000_000).model_copy(update={"chapters": 2}))
    assert (found["carries"].outcome, found["carries"].seen) == (Outcome.CLEARED, "2 chapters")


def test_facts_in_rows() -> None:
    master = facts(rate=Fraction(24000, 1001), pictures=480, scan=Scan.PROGRESSIVE).model_copy(update={
        "chapters": 3, "captions": (CaptionTrack(codec="srt"),), "timecode": "01:00:00:00",
        "edit_list": True, "fast_start": False, "sound_streams": 2,
    })
    rows = {row.name: row.value for row in fact_rows(master, None)}
    assert rows["Frame rate"] == "23.976 (24000/1001) frames/s, constant"
    assert rows["Carries"] == "3 chapters, 1 caption stream, time code from 01:00:00:00, an edit list that trims"
    assert rows["Index"] == "stands last, after the film"
    assert "2 sound streams" in rows["Sound"]
