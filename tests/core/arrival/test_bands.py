"""Bands of single conditions and of differences."""

from __future__ import annotations

import numpy as np
import pytest

from hardy_parcel.core.arrival.bands import PROBED_FIT, QUICK_FIT, paired_band
from hardy_parcel.core.arrival.rehearsal import Evidence


def test_steep_curves_and_windows_that_differ_are_told_less_surely() -> None:
    flat, steep, uneven = (PROBED_FIT.half_widths(np.array([s]), np.array([w]))[0] for s, w in ((0, 0), (10, 0), (0, 10)))
    assert flat == PROBED_FIT.least
    assert steep > flat
    assert uneven > flat
    assert PROBED_FIT.half_widths(np.array([-5.0]), 0.0)[0] == flat, "what is measured as a fall is flat"
    assert QUICK_FIT.half_widths(np.array([10]), 5)[0] > PROBED_FIT.half_widths(np.array([10]), 5)[0]


def test_what_two_have_in_common_falls_out_only_where_they_are_known_alike() -> None:
    probed, rehearsed = (Evidence.PROBED, 6.0), (Evidence.REHEARSED, 4.0)
    assert paired_band(probed, probed, 3) < 6
    assert paired_band(probed, rehearsed, 3) == paired_band(rehearsed, probed, 3) == pytest.approx(7.2, abs=0.05)
    wide = (Evidence.PROBED, 9.0)
    assert paired_band(probed, wide, 3) == paired_band(wide, probed, 3) > paired_band(probed, probed, 3), "the less sure one counts"


def test_the_more_alike_two_are_the_surer_their_difference_is() -> None:
    one = (Evidence.REHEARSED, 4.0)
    bands = [paired_band(one, one, points) for points in (0, 6, -6, 60)]
    assert bands[0] < bands[1] == bands[2] < bands[3]
    assert paired_band(one, one, 1000) == pytest.approx(4 * 2**0.5), "never less sure than if nothing fell out"
