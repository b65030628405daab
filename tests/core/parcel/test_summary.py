"""A parcel put together, and the sentence that stands first."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.curve import ASSUMED_BAND
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.parcel.suggestions import step_up_suggestion
from hardy_parcel.core.parcel.summary import ParcelSummary, summarize
from hardy_parcel.core.plan.carrying import Line, speed_from_history
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Assumed
from hardy_parcel.core.sheets.sheet_documents import assumed_handling

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, facts, perfect, rehearsal
from ...builders import parcel as kept

CURVE = [rehearsal(3, 60), rehearsal(6, 74), rehearsal(12, 79.5), rehearsal(20, 80)]


def parcel(
    mbps: float | None = 8, *, rehearsals=CURVE, top: float | None = 80.5, destination=ORRERY, master=None, fps=None,
    max_bytes: int | None = None,
) -> ParcelSummary:
    master = master or facts()
    choices = Choices(video_bitrate_bps=None if mbps is None else round(mbps * 1e6), max_bytes=max_bytes)
    return summarize(
        parcel=kept(destination, choices=choices), facts=master, destination=destination,
        plan=make_plan(master, destination, choices), line=Line(),
        rehearsals=list(rehearsals), known=outlook(rehearsals, None if top is None else perfect(top)),
        speed=speed_from_history([fps] if fps else []),
    )


def sentence(*args, **kwargs) -> str:
    seen = {(s.screen, s.line): s for s in parcel(*args, **kwargs).seen}
    return seen[Screen.LAPTOP, ViewerLine.GOOD].sentence


def test_the_first_sentence_says_what_a_friend_would() -> None:
    assert "19.0 Mbit/s arrives at 80 on a laptop, perceptible, not annoying: it can’t be told from a perfect upload." in sentence(19)
    assert "not visibly worse than a perfect upload, 80." in sentence(9)
    assert "visibly worse than a perfect upload, 80. More bits still arrive." in sentence(3)
    assert "whether anybody would see the difference is not sure yet" in sentence(6)
    assert "visibly worse than a perfect upload, 95." in sentence(12, top=95)
    assert sentence(8, rehearsals=[rehearsal(3, 80), rehearsal(12, 80.2)], top=80.3).startswith("So far")
    assert "lies outside the 3.0 Mbit/s to 20.0 Mbit/s" in sentence(40)
    assert "Not tested yet: test clips of your own video show" in sentence(None, rehearsals=[], top=None)
    assert "top of Orrery’s guidance" in sentence(None, rehearsals=[], top=None)
    assert sentence(8, destination=SPRIGG, master=facts(1080, 1920, seconds=400)).startswith("This cannot be packed yet:")


def test_every_screen_and_line_is_seen() -> None:
    found = parcel()
    assert [(s.screen, s.line) for s in found.seen] == [(s, v) for s in Screen for v in ViewerLine]


def test_measured_speed_comes_before_history_and_history_before_the_prior() -> None:
    assert parcel(fps=30).figures.encode.seconds == pytest.approx(500 / 12)
    assert parcel(rehearsals=[], top=None, fps=30).figures.encode.seconds == pytest.approx(500 / 30)
    assert parcel(rehearsals=[], top=None).figures.encode.evidence == "sheet"


def test_the_handles_range_covers_what_was_rehearsed() -> None:
    found = parcel(rehearsals=[rehearsal(0.5, 40), rehearsal(90, 80)])
    assert found.lowest_bps == 500_000
    assert found.highest_bps == 90_000_000


def test_an_undershooting_picture_is_not_forecast_at_the_asked_size() -> None:
    shy = parcel(rehearsals=[rehearsal(3, 60, achieved=0.4), rehearsal(12, 80, achieved=0.2)])
    assert shy.figures.size.expected_bytes < 0.5 * parcel(rehearsals=CURVE).figures.size.expected_bytes
    assert shy.figures.size.worst_bytes == parcel().figures.size.worst_bytes


def with_choices(place=ORRERY, rehearsals=(), top: float | None = None, **choices) -> ParcelSummary:
    master, chosen = facts(), Choices(**choices)
    return summarize(
        parcel=kept(place, choices=chosen), facts=master, destination=place, plan=make_plan(master, place, chosen), line=Line(),
        rehearsals=list(rehearsals),
        known=outlook(rehearsals, None if top is None else perfect(top)), speed=None, ours=make_plan(master, place),
    )


def test_as_it_is_arrives_as_a_perfect_upload_does() -> None:
    found = with_choices(method="untouched", top=83.0)
    assert (found.lowest_bps, found.highest_bps) == (None, None)
    at = found.seen[0].at
    assert (at.condition, at.lost_packing, at.lost_platform) == (83.0, 0.0, 17.0)
    assert found.seen[0].sentence.startswith("Sent untouched: nothing is lost on our side. It arrives at 83 on a phone")
    unknown = with_choices(method="untouched")
    assert unknown.seen[0].at is None
    assert "Not tested yet" in unknown.seen[0].sentence


def test_sound_alone_has_a_sentence_and_no_curve() -> None:
    found = with_choices(EARSHELF)
    assert found.seen == ()
    assert found.times_guidance is None
    assert found.packed_phrase == "AAC sound"
    assert found.sentence == "Sound alone, AAC at 160 kbit/s, turned up 3.0 dB: to Earshelf's −17 LUFS, below −2 dBTP."
    assert with_choices(EARSHELF, sound_codec="flac").sentence.startswith("Sound alone, FLAC, nothing lost")
    silent = make_plan(facts(sound=None), EARSHELF)
    assert silent.held


def test_a_codec_of_fixed_size_leaves_nothing_to_drag() -> None:
    found = with_choices(HANDOVER, codec="vc3")
    assert "gives every picture the same size, 183.5 Mbit/s" in found.seen[0].sentence
    assert found.lowest_bps <= found.plan.video.target_bps.value <= found.highest_bps


def test_an_assumed_handling_is_said_and_carries_the_widest_band() -> None:
    handling = assumed_handling(Assumed.HARSH, ORRERY.placement)
    place = ORRERY.model_copy(update={"placement": ORRERY.placement.model_copy(update={"handling": handling})})
    found = with_choices(place, CURVE, 80.5, video_bitrate_bps=8_000_000)
    at = found.seen[2].at
    assert (at.assumed, at.band) == ("harsh", ASSUMED_BAND)
    assert found.seen[2].curve.band >= ASSUMED_BAND
    assert "assumed, harsh; a file that it served back would tell" in found.seen[2].sentence
    known = with_choices(ORRERY, CURVE, 80.5, video_bitrate_bps=8_000_000)
    assert known.seen[2].at.assumed is None


def test_the_handles_range_holds_the_choice() -> None:
    found = with_choices(video_bitrate_bps=90_000_000)
    assert found.highest_bps == 90_000_000
    assert with_choices(video_bitrate_bps=60_000).lowest_bps == 60_000


def test_below_guidance_is_no_matter_for_care_where_it_is_enough() -> None:
    low = [rehearsal(1, 79), rehearsal(2, 80), rehearsal(4, 80.2), rehearsal(8, 80.3)]
    found = {stamp.code: stamp for stamp in parcel(3, rehearsals=low, top=80.4).stamps}["below_guidance"]
    assert (found.outcome, found.matter) == ("cleared", "below guidance, and not visibly worse")
    assert {stamp.code: stamp.outcome for stamp in parcel(3).stamps}["below_guidance"] == "handle with care"


def test_a_step_up_is_suggested_where_it_is_treated_better() -> None:
    def suggested(found: ParcelSummary) -> dict[str, dict]:
        return {one.code: one.part for one in found.suggestions}

    reel = parcel(None, rehearsals=[], top=None, master=facts(768, 576))
    assert suggested(reel)["step_up"] == {"short_side_px": 720}
    assert "arrives as 720 lines instead of 480" in reel.suggestions[0].sentence
    tier = parcel(None, rehearsals=[], top=None)
    assert suggested(tier)["step_up"] == {"short_side_px": 1440}
    assert "by the ladder “above 1200 lines”" in tier.suggestions[0].sentence
    capped = make_plan(facts(), ORRERY, Choices(max_bytes=2_000_000))
    assert step_up_suggestion(facts(), ORRERY, Choices(max_bytes=2_000_000), capped) is None, "a limit has the last word"
    assert suggested(parcel(None, rehearsals=[], top=None, destination=SPRIGG, master=facts(1080, 1920))) == {}, "the largest it takes"


def test_a_master_that_nobody_encodes_again_arrives_whole() -> None:
    master = facts(bitrate_bps=15_000_000, file={"size_bytes": 38_000_000})
    plan = make_plan(master, HANDOVER, Choices(method="untouched"))
    found = summarize(
        parcel=kept(HANDOVER, choices=Choices(method="untouched")), facts=master, destination=HANDOVER, plan=plan, line=Line(),
        rehearsals=[], known=outlook([], None), speed=None,
    )
    at = found.at(Screen.LAPTOP, ViewerLine.GOOD)
    assert at is not None
    assert (at.condition, at.band, at.words) == (100.0, 0.0, "imperceptible")
    assert found.seen[0].sentence.endswith("encodes nothing again: the master's own picture arrives.")
