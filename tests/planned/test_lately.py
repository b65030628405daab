"""What was computed lately."""

from __future__ import annotations

from concurrent.futures import ThreadPoolExecutor

from hardy_parcel.planned.lately import Lately


def test_the_longest_unused_goes_first() -> None:
    kept: Lately[int] = Lately(2)
    kept.put("a", 1)
    kept.put("b", 2)
    assert kept.get("a") == 1
    assert kept.put("c", 3) == 3
    assert (kept.get("a"), kept.get("b"), kept.get("c")) == (1, None, 3)
    kept.clear()
    assert kept.get("a") is None


def test_many_may_ask_at_once() -> None:
    kept: Lately[int] = Lately(8)

    def work(start: int) -> None:
        for n in range(2000):
            kept.put((start + n) % 40, n)
            kept.get(n % 40)

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(work, range(8)))
    assert sum(kept.get(n) is not None for n in range(40)) == 8
