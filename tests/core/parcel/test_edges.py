"""Limits as bit rates."""

from __future__ import annotations

import pytest

from hardy_parcel.core.parcel.edges import edges
from hardy_parcel.core.plan.carrying import Line, carriage, file_size
from hardy_parcel.core.plan.choices import Choices
from hardy_parcel.core.plan.planning import make_plan

from ...builders import EARSHELF, ORRERY, facts


def test_at_an_edge_the_file_is_as_large_as_the_limit() -> None:
    plan = make_plan(facts(seconds=60), ORRERY, Choices(video_bitrate_bps=4_000_000))
    (data,) = edges(plan, Line(allowance_gb=0.06))
    assert (data.code, data.name) == ("allowance", "your data")
    there = make_plan(facts(seconds=60), ORRERY, Choices(video_bitrate_bps=data.bitrate_bps))
    assert file_size(there).expected_bytes == pytest.approx(60e6, rel=1e-3)


def test_an_upload_takes_as_long_as_it_may_at_its_edge() -> None:
    plan, line = make_plan(facts(seconds=60), ORRERY), Line(uplink_mbps=8, steadiness=0.5, upload_minutes=2)
    (time,) = edges(plan, line)
    assert (time.code, time.name) == ("upload_time", "2 min of upload")
    there = make_plan(facts(seconds=60), ORRERY, Choices(video_bitrate_bps=time.bitrate_bps))
    assert carriage(file_size(there).expected_bytes, line).upload_slow_s == pytest.approx(120, rel=0.01)


def test_whose_limit_it_is_and_only_what_lies_on_the_curve() -> None:
    own = make_plan(facts(seconds=60), ORRERY, Choices(max_bytes=40_000_000))
    assert [(edge.code, edge.name) for edge in edges(own, Line())] == [("size_cap", "your size limit")]
    assert edges(make_plan(facts(seconds=60), ORRERY), Line()) == (), "24 GB is far beyond it"
    assert [edge.code for edge in edges(own, Line(allowance_gb=0.03))] == ["allowance", "size_cap"], "by rising rate"
    assert edges(own, Line(allowance_gb=0.001)) == edges(own, Line()), "less than its sound alone"
    assert edges(make_plan(facts(seconds=60), EARSHELF), Line(allowance_gb=1)) == ()
