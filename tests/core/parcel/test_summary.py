"""A parcel put together, and the sentence that stands first."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.curve import ASSUMED_BAND
from hardy_parcel.core.arrival.outlook import outlook
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.parcel.lanes import lanes_sentence
from hardy_parcel.core.parcel.suggestions import step_up_suggestion
from hardy_parcel.core.parcel.summary import ParcelSummary, summarize
from hardy_parcel.core.plan.carrying import Line, speed_from_history
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Assumed
from hardy_parcel.core.sheets.sheet_documents import assumed_handling

from ...builders import EARSHELF, HANDOVER, ORRERY, SPRIGG, as_lane, facts, perfect, rehearsal
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
    assert "is enough on a laptop" in sentence(19)
    assert "buy nothing Orrery passes on" in sentence(19)
    assert "would be enough" in sentence(6)
    assert "is just enough" in sentence(12)
    assert "still passes on more" in sentence(12, top=95)
    assert sentence(8, rehearsals=[rehearsal(3, 80), rehearsal(12, 80.2)], top=80.3).startswith("So far")
    assert "Even 3.0 Mbit/s is enough" in sentence(8, rehearsals=[rehearsal(3, 80), rehearsal(6, 80), rehearsal(12, 80.2)], top=80.3)
    assert "lies outside the 3.0 Mbit/s to 20.0 Mbit/s" in sentence(40)
    assert "A few moments of your own pictures tell" in sentence(None, rehearsals=[], top=None)
    assert "top of Orrery's guidance" in sentence(None, rehearsals=[], top=None)
    assert sentence(8, destination=SPRIGG, master=facts(1080, 1920, seconds=400)).startswith("This cannot be packed yet:")


def test_the_saving_in_the_sentence_is_the_difference_of_sizes() -> None:
    """20 s at 19 Mbit/s over the enough mark near 12: about 17 MB."""
    found = parcel(19)
    curve = found.seen[2].curve
    saved = (19e6 - curve.enough_bps) * 20 / 8 / 1e6
    assert f"{saved:.1f} MB more" in sentence(19)


def test_one_more_point_is_singular() -> None:
    assert "would bring 1 more point." in sentence(7.5, rehearsals=[rehearsal(3, 60), rehearsal(7.5, 78), rehearsal(12, 80)], top=80)


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
    assert found.seen[0].sentence.startswith("Sent untouched: no generation is lost on our side. It arrives at 83 on a phone")
    unknown = with_choices(method="untouched")
    assert unknown.seen[0].at is None
    assert "Rehearse the lane above it" in unknown.seen[0].sentence


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


def suggested(found: ParcelSummary) -> dict[str, dict]:
    offered = found.suggestions_for(Screen.LAPTOP, ViewerLine.GOOD)
    return {one.code: one.part for one in (*offered, *found.suggestions)}


def test_what_is_enough_is_one_click_and_a_reserve_beside_it() -> None:
    found = suggested(parcel(19))
    enough = found["enough"]["video_bitrate_bps"]
    assert 11_000_000 < enough < 13_000_000
    assert found["enough"] == {"video_bitrate_bps": enough, "times_enough": 1}
    assert found["reserve"] == {"video_bitrate_bps": 2 * enough, "times_enough": 2}
    assert "enough" in suggested(parcel(6)), "going up is one click as well"
    assert "enough" not in suggested(parcel(enough / 1e6)), "it stands there already"
    assert not {"enough", "reserve"} & set(suggested(parcel(8, rehearsals=[]))), "not known"
    saving = next(one for one in parcel(19).suggestions_for(Screen.LAPTOP, ViewerLine.GOOD) if one.code == "enough")
    assert "as it is handled today" in saving.sentence
    assert saving.spares_bytes > 0


def test_under_a_size_limit_nothing_is_offered_that_it_would_lower_again() -> None:
    tight = parcel(None, max_bytes=15_000_000)
    assert tight.plan.picture.under_cap
    assert not {"enough", "reserve"} & set(suggested(tight))
    said = lanes_sentence([as_lane(tight)], Screen.LAPTOP, ViewerLine.GOOD)
    assert said.startswith("Pack it: the size limit of Orrery leaves no more bits.")
    ample = parcel(None, max_bytes=15_000_000, rehearsals=[rehearsal(1, 79), rehearsal(2, 80), rehearsal(8, 80.3)], top=80.4)
    assert "enough" in suggested(ample), "going down is still one click"


def test_below_guidance_is_no_matter_for_care_where_it_is_enough() -> None:
    low = [rehearsal(1, 79), rehearsal(2, 80), rehearsal(4, 80.2), rehearsal(8, 80.3)]
    found = {stamp.code: stamp for stamp in parcel(3, rehearsals=low, top=80.4).stamps}["below_guidance"]
    assert (found.outcome, found.matter) == ("cleared", "below guidance, and enough by your own footage")
    assert {stamp.code: stamp.outcome for stamp in parcel(3).stamps}["below_guidance"] == "handle with care"


def test_the_master_as_it_is_and_a_step_up_are_suggested_where_they_pay() -> None:
    small = facts(bitrate_bps=3_000_000, file={"size_bytes": 8_000_000})
    assert suggested(parcel(19, master=small, top=81))["as_it_is"] == {"method": "untouched"}
    assert "as_it_is" not in suggested(parcel(19, master=small, top=70)), "it would arrive worse"
    assert "as_it_is" not in suggested(parcel(1, rehearsals=[], master=facts(file={"size_bytes": 80_000_000}), top=81)), "it is larger"
    reel = parcel(None, rehearsals=[], top=None, master=facts(768, 576))
    assert suggested(reel)["step_up"] == {"short_side_px": 720}
    assert "arrives as 720 lines instead of 480" in reel.suggestions[0].sentence
    tier = parcel(None, rehearsals=[], top=None)
    assert suggested(tier)["step_up"] == {"short_side_px": 1440}
    assert "by the ladder “above 1200 lines”" in tier.suggestions[0].sentence
    capped = make_plan(facts(), ORRERY, Choices(max_bytes=2_000_000))
    assert step_up_suggestion(facts(), ORRERY, Choices(max_bytes=2_000_000), capped) is None, "a limit has the last word"
    assert suggested(parcel(None, rehearsals=[], top=None, destination=SPRIGG, master=facts(1080, 1920))) == {}, "the largest it takes"


def test_the_lanes_say_what_to_do() -> None:
    def say(*lanes: ParcelSummary) -> str:
        return lanes_sentence([as_lane(one) for one in lanes], Screen.LAPTOP, ViewerLine.GOOD)

    assert say(parcel(19)).startswith("Take what is enough for Orrery: it saves ")
    assert say(parcel(6)).startswith("Give Orrery more: its platform still passes on what you add.")
    enough = suggested(parcel(19))["enough"]["video_bitrate_bps"] / 1e6
    assert say(parcel(enough)).startswith("Pack it: more bits would not arrive.")
    assert say(parcel(12, top=95)).startswith("Give Orrery more: its platform still passes on what you add."), "beyond what was rehearsed"
    large = facts(bitrate_bps=15_000_000, file={"size_bytes": 38_000_000})
    both = parcel(19, master=large)
    assert {"as_it_is", "enough"} <= set(suggested(both))
    assert say(both).startswith("Take what is enough for Orrery"), "it arrives as well and its file is the smaller one"
    small = facts(bitrate_bps=3_000_000, file={"size_bytes": 8_000_000})
    assert say(parcel(19, master=small, top=81)).startswith("Send it to Orrery as it is: it arrives as well and is smaller.")


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
