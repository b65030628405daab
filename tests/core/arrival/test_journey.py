"""Keys of what is measured on a parcel's way: everything that a measurement depends on, and nothing else."""

from __future__ import annotations

from fractions import Fraction

import pytest

from hardy_parcel.core.arrival.journey import Journey
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.master.facts import Excerpt, FramingMode
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.encoder_settings import packing_settings
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.sheet import Destination
from hardy_parcel.core.trade.rate_control import Effort, RateControl

from ...builders import HANDOVER, ORRERY, SPRIGG, facts

KEYS = ("reel_key", "treated_key", "encode_key", "handled_key", "perfect_key", "curve_key")


def journey(place: Destination = SPRIGG, excerpt: Excerpt | None = None, master=None, **choices) -> Journey:
    return Journey(make_plan(master or facts(), place, Choices(**choices), excerpt), place)


def same(one: Journey, other: Journey) -> set[str]:
    return {key for key in KEYS if getattr(one, key) == getattr(other, key)}


@pytest.mark.parametrize(
    ("choices", "kept"),
    [
        ({"video_bitrate_bps": 3_000_000}, {"reel_key", "treated_key", "perfect_key", "curve_key"}),
        ({"codec": "hevc"}, {"reel_key", "treated_key", "perfect_key"}),
        ({"effort": Effort.QUICK}, {"reel_key", "treated_key", "perfect_key"}),
        ({"rate_control": RateControl.TWO_PASSES}, {"reel_key", "treated_key", "perfect_key"}),
        ({"sound": False}, set(KEYS)),
        ({"fast_start": False}, set(KEYS)),
        ({"framing": FramingMode.FIT}, {"reel_key"}),
        ({"sharpen": True}, {"reel_key"}),
    ],
)
def test_a_choice_changes_the_keys_of_what_it_changes(choices: dict, kept: set[str]) -> None:
    assert same(journey(), journey(**choices)) == kept


def test_another_excerpt_or_film_shares_nothing() -> None:
    assert same(journey(), journey(excerpt=Excerpt(in_s=1, out_s=9))) == set()
    assert same(journey(), journey(master=facts(file={"content_id": "other"}))) == set()


def test_a_name_or_a_version_that_changes_no_pixel_changes_no_key() -> None:
    renamed = SPRIGG.model_copy(update={
        "id": "tern-upright", "sheet_id": "tern", "sheet_name": "Tern", "sheet_version": 9,
        "placement": SPRIGG.placement.model_copy(update={"name": "Standing", "max_bytes": SPRIGG.placement.max_bytes - 1}),
    })
    assert same(journey(), journey(renamed)) == set(KEYS)


def test_another_ladder_changes_only_what_was_handled() -> None:
    handling = SPRIGG.placement.handling
    tier = handling.tiers[0]
    poorer = tuple(rule.model_copy(update={"quality": rule.quality + 2}) for rule in tier.renditions)
    other = handling.model_copy(update={"tiers": (tier.model_copy(update={"renditions": poorer}),)})
    place = SPRIGG.model_copy(update={"placement": SPRIGG.placement.model_copy(update={"handling": other})})
    found = same(journey(), journey(place))
    assert {"reel_key", "treated_key", "encode_key"} <= found
    assert not {"handled_key", "perfect_key", "curve_key"} & found


def test_a_typed_ceiling_moves_along_with_its_rate() -> None:
    """So that the usual rates of a curve can all be rehearsed, above the ceiling too, and lie on one curve."""
    typed = Choices(video_bitrate_bps=8_000_000, ceiling_bps=10_000_000)
    plan = make_plan(facts(), ORRERY, typed)
    for bps in (1_200_000, 4_400_000, 17_600_000):
        other = make_plan(facts(), ORRERY, typed.at_rate(bps, 8_000_000))
        assert other.picture.ceiling_bps.value == bps * 1.25
        assert Journey(other, ORRERY).curve_key == Journey(plan, ORRERY).curve_key
    another = journey(ORRERY, video_bitrate_bps=8_000_000, ceiling_bps=14_000_000)
    assert another.curve_key != Journey(plan, ORRERY).curve_key


def test_only_renditions_that_a_viewer_gets_are_handled_for_them() -> None:
    found = journey(ORRERY)
    served = {found.served(screen, line) for screen in Screen for line in ViewerLine}
    assert {rendition.name for rendition in found.renditions_served} == served
    for name in served:
        assert found.screens_of(name)
    assert found.segment_s >= Fraction(1)

def test_rates_below_the_peak_that_a_client_plays_lie_on_one_curve() -> None:
    """The peak bounds the ceiling at some rates and not at others; a handle is dragged along one curve all the same."""
    peak = HANDOVER.placement.peak_bps
    assert peak
    rates = [round(peak * share) for share in (0.3, 0.6, 0.75, 0.9)]
    ways = [journey(HANDOVER, method="encoded", codec="h264", video_bitrate_bps=rate) for rate in rates]
    assert len({way.plan.picture.ceiling_bps.value / way.plan.picture.target_bps.value for way in ways}) > 1
    assert len({way.curve_key for way in ways}) == 1
    lower = HANDOVER.model_copy(update={"placement": HANDOVER.placement.model_copy(update={"peak_bps": peak - 1_000_000})})
    assert journey(lower, method="encoded", codec="h264", video_bitrate_bps=rates[0]).curve_key != ways[0].curve_key


def test_no_key_is_made_of_a_sentence() -> None:
    for codec in ("av1", "vp9", "h264", "hevc"):
        two = codec in ("h264", "hevc")
        plan = journey(ORRERY, codec=codec, rate_control=RateControl.TWO_PASSES).plan
        settings = packing_settings(plan, encode_pass=2 if two else 0, stats_path="stats" if two else None)
        assert not [value for value in (*settings.options.values(), *settings.params.values()) if " " in value]


def test_quick_probes_are_kept_apart_from_the_others_and_all_else_is_shared() -> None:
    usual = journey()
    quick = usual.quickly
    assert same(usual, quick) == set(KEYS)
    assert quick.probe_segment_s < usual.probe_segment_s
    for key in ("probe_reel_key", "probe_treated_key", "upload_probe_key", "effort_key", "handling_probe_key", "probes_key"):
        assert getattr(usual, key) != getattr(quick, key)
