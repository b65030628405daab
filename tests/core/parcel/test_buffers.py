"""Peaks and buffers of a stream."""

from __future__ import annotations

from hypothesis import given
from hypothesis import strategies as st

from hardy_parcel.core.parcel.buffers import buffer_needed, peak_bps

STEADY = [(n / 25, 40_000) for n in range(100)]
STREAMS = st.lists(st.integers(0, 400_000), min_size=1, max_size=60).map(lambda bits: [(n / 25, one) for n, one in enumerate(bits)])


def test_a_steady_stream_needs_room_for_one_picture_at_its_own_rate() -> None:
    assert peak_bps(STEADY) == 1_000_000
    assert buffer_needed(STEADY, 1_000_000) == 40_000
    assert buffer_needed(STEADY, 500_000) == 40_000 + 99 * 20_000, "at half the rate all that is missing adds up"


def test_a_burst_shows() -> None:
    burst = [(at, bits * (5 if 50 <= n < 55 else 1)) for n, (at, bits) in enumerate(STEADY)]
    assert peak_bps(burst) == 1_000_000 + 5 * 160_000
    assert buffer_needed(burst, 1_000_000) == 40_000 + 5 * 160_000


@given(STREAMS, st.integers(10_000, 5_000_000))
def test_a_bucket_of_that_size_never_runs_dry_and_a_smaller_one_does(stream, rate: int) -> None:
    def runs_dry(size: float) -> bool:
        full, before = size, stream[0][0]
        for at, bits in stream:
            full, before = min(size, full + rate * (at - before)), at
            full -= bits
            if full < -1:
                return True
        return False

    needed = buffer_needed(stream, rate)
    assert not runs_dry(needed)
    assert needed < 10 or runs_dry(needed - 10)
