"""The band of a difference."""

from __future__ import annotations

import pytest

from hardy_parcel.core.arrival.forecast import PROBED_BAND
from hardy_parcel.core.arrival.paired import PAIRED_BANDS, paired_band
from hardy_parcel.core.arrival.rehearsal import Evidence


def test_what_two_have_in_common_falls_out_only_where_they_are_known_alike() -> None:
    probed, rehearsed = (Evidence.PROBED, PROBED_BAND), (Evidence.REHEARSED, 4.0)
    assert paired_band(probed, probed) == PAIRED_BANDS[Evidence.PROBED] < PROBED_BAND
    assert paired_band(probed, rehearsed) == paired_band(rehearsed, probed) == pytest.approx(7.2, abs=0.05)
    assert paired_band((Evidence.RETURNED, 2.0), (Evidence.RETURNED, 2.0)) > 2, "nothing is measured of such pairs"


def test_better_gears_tell_smaller_differences() -> None:
    assert PAIRED_BANDS[Evidence.REHEARSED] < PAIRED_BANDS[Evidence.PROBED] < PAIRED_BANDS[Evidence.SHEET]
