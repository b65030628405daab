"""What an upload is worth to a kinder ladder, in words and figures."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.forecast import Forecast, ViewLine
from hardy_parcel.core.arrival.rehearsal import Evidence
from hardy_parcel.core.arrival.returned import expected_views
from hardy_parcel.core.arrival.screens import Screen, ViewerLine
from hardy_parcel.core.parcel.reserve import reserves
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan
from hardy_parcel.core.sheets.kinder import CEILING_TIMES, QUALITY_STEP, kinder
from hardy_parcel.core.sheets.ladder import renditions_for

from ...builders import HANDOVER, ORRERY, facts

PLAN = make_plan(facts(), ORRERY, Choices(video_bitrate_bps=8_000_000))
RATES = (2_000_000, 8_000_000, 32_000_000)


def known(arrived: tuple[float, ...], perfect: float) -> Forecast:
    views = tuple(
        ViewLine(screen=screen, line=line, rendition="1080p h264", scaled=100, packed=(90, 96, 99), arrived=arrived,
                 packed_db=(38, 42, 46), arrived_db=(36, 38, 39))
        for screen in Screen for line in ViewerLine
    )
    return Forecast(
        rates=RATES, achieved=RATES, evidence=(Evidence.PROBED,) * 3, bands=(6.0,) * 3, views=views, perfect=(perfect,) * len(views),
        perfect_band=6.0,
    )


def test_a_kinder_ladder_is_one_step_gentler_everywhere() -> None:
    rate = facts().video.frame_rate
    before, after = (renditions_for(place, width=1920, height=1080, frame_rate=rate) for place in (ORRERY, kinder(ORRERY)))
    assert [one.quality for one in after] == [one.quality - QUALITY_STEP for one in before]
    assert [one.ceiling_bps for one in after] == [round(one.ceiling_bps * CEILING_TIMES) for one in before]
    assert [one.name for one in after] == [one.name for one in before]
    assert kinder(HANDOVER) == HANDOVER


@pytest.mark.parametrize(("later", "said"), [
    (known((84, 91, 94), 95), "what you send today would look 91 instead of 83"),
    (known((80, 83.2, 83.5), 83.6), "would look no better. Your 8.0 Mbit/s would look as good as a perfect upload then too."),
])
def test_what_is_sent_today_is_told_under_both(later: Forecast, said: str) -> None:
    found = reserves(PLAN, known((80, 83, 83.5), 83.6), later)
    assert len(found) == len(Screen) * len(ViewerLine)
    one = next(one for one in found if (one.screen, one.line) == (Screen.LAPTOP, ViewerLine.GOOD))
    assert said in one.sentence
    assert one.now == pytest.approx(83, abs=0.1)


def test_more_may_be_needed_later_than_now() -> None:
    found = reserves(PLAN, known((80, 83, 83.5), 83.6), known((70, 85, 95), 95.5))
    [one] = {(each.as_good_bps, each.as_good_later_bps) for each in found}
    assert one[0] < 8_000_000 < one[1]
    sentence = found[0].sentence
    assert "To look as good as a perfect upload then, it takes" in sentence
    assert "instead of" in sentence


def test_nothing_is_said_without_guidance_or_a_picture() -> None:
    assert reserves(PLAN, Forecast(rates=(), achieved=(), evidence=(), bands=(), views=(), perfect_band=0.0), known((80, 83, 84), 84)) == ()


def test_what_was_not_tested_is_no_forecast_of_what_comes_back() -> None:
    tested = known((80, 83, 84), 84)
    assert {one.condition for one in expected_views(tested, 8_000_000, perfect=False)} == {83}
    assert {one.condition for one in expected_views(tested, 0, perfect=True)} == {84}
    supposed = tested.model_copy(update={"evidence": (Evidence.SHEET,) * 3, "perfect_evidence": Evidence.SHEET})
    assert expected_views(supposed, 8_000_000, perfect=False) == expected_views(supposed, 0, perfect=True) == ()
