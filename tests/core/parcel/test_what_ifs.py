"""Other ways beside a parcel: those that its destination takes, each a plan of its own."""

from __future__ import annotations

from hardy_parcel.core.parcel.what_ifs import what_ifs
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan, whole_excerpt

from ...builders import EARSHELF, ORRERY, facts

MASTER = facts()


def ways(place=ORRERY, master=MASTER, **choices):
    chosen = Choices(**choices)
    plan = make_plan(master, place, chosen)
    return what_ifs(master, place, chosen, plan, whole_excerpt(master)), plan


def test_other_codecs_and_the_next_sizes_lie_beside() -> None:
    found, plan = ways()
    assert plan.picture.codec.value == "h264"
    assert [one.words for one in found] == ["HEVC", "VP9", "AV1", "1440 lines", "720 lines"]
    assert {tuple(one.part) for one in found} == {("codec", "video_bitrate_bps"), ("short_side_px",)}
    for one in found:
        there = make_plan(MASTER, ORRERY, one.choices)
        framing = there.picture.framing.value
        assert one.words in ("HEVC", "VP9", "AV1", f"{min(framing.width, framing.height)} lines")


def test_what_was_chosen_for_this_way_is_not_carried_to_another() -> None:
    """A bit rate typed for H.264 says nothing of HEVC's."""
    found, _ = ways(video_bitrate_bps=3_000_000, sharpen=True)
    assert {one.choices.video_bitrate_bps for one in found} == {None}
    assert all(one.choices.sharpen for one in found)


def test_what_is_not_encoded_has_no_other_ways() -> None:
    assert ways(method="untouched")[0] == ()
    assert ways(EARSHELF)[0] == ()
