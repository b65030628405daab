"""What was computed lately."""

from __future__ import annotations

import threading
import time
from concurrent.futures import ThreadPoolExecutor

import pytest

from hardy_parcel.core.lately import Lately, LatelyMade


def test_the_longest_unused_goes_first() -> None:
    kept: Lately[int] = Lately(2)
    kept.put("a", 1)
    kept.put("b", 2)
    assert kept.get("a") == 1
    assert kept.put("c", 3) == 3
    assert (kept.get("a"), kept.get("b"), kept.get("c")) == (1, None, 3)
    kept.clear()
    assert kept.get("a") is None


def test_what_is_made_of_parts_is_made_again_of_others() -> None:
    kept: LatelyMade[list[int]] = LatelyMade(4)
    made: list[int] = []

    def of(*parts: object) -> list[int]:
        return kept.of("a", parts, lambda: [made.append(1) or len(made)])

    one, other = [1], [1]
    assert of(one, other) is of(one, other)
    assert len(made) == 1
    assert of(one, one) == [2]
    assert of(one) == [3]
    kept.clear()
    assert of(one) == [4]


def test_what_many_ask_for_at_once_is_made_once() -> None:
    kept: Lately[int] = Lately(4)
    made: list[int] = []
    asked = threading.Barrier(6)

    def make() -> int:
        made.append(1)
        time.sleep(0.05)
        return len(made)

    def ask(_: int) -> int:
        asked.wait(timeout=10)
        return kept.of("a", make)

    with ThreadPoolExecutor(6) as pool:
        assert list(pool.map(ask, range(6))) == [1] * 6
    assert kept.of("a", make) == 1
    assert kept.of("b", make) == 2
    assert kept.of("a", make, still=lambda value: value == 1) == 1
    assert kept.of("a", make, still=lambda value: value != 1) == 3


def test_what_could_not_be_made_is_tried_anew() -> None:
    kept: Lately[int] = Lately(4)
    with pytest.raises(ZeroDivisionError):
        kept.of("a", lambda: 1 // 0)
    assert kept.of("a", lambda: 3) == 3


def test_many_may_ask_at_once() -> None:
    kept: Lately[int] = Lately(8)

    def work(start: int) -> None:
        for n in range(2000):
            kept.put((start + n) % 40, n)
            kept.get(n % 40)

    with ThreadPoolExecutor(8) as pool:
        list(pool.map(work, range(8)))
    assert sum(kept.get(n) is not None for n in range(40)) == 8


def test_who_comes_while_others_still_wait_waits_too() -> None:
    """The first maker is through, the second has just begun, and a third one asks: there is never more than one maker."""
    kept: Lately[int] = Lately(4)
    making, most, gates = [0], [0], [threading.Event(), threading.Event()]
    began, count = [threading.Event(), threading.Event()], iter(range(9))

    def make() -> int:
        number = next(count)
        making[0] += 1
        most[0] = max(most[0], making[0])
        if number < 2:
            began[number].set()
            assert gates[number].wait(10)
        making[0] -= 1
        return number

    def ask() -> int:
        return kept.of("a", make, still=lambda value: False)

    with ThreadPoolExecutor(3) as pool:
        first = pool.submit(ask)
        assert began[0].wait(10)
        second = pool.submit(ask)
        while kept._making["a"].users < 2:
            time.sleep(0.001)
        gates[0].set()
        assert began[1].wait(10)
        assert first.result(10) == 0
        third = pool.submit(ask)
        while kept._making["a"].users < 2:
            time.sleep(0.001)
        assert most[0] == 1
        gates[1].set()
        assert [second.result(10), third.result(10)] == [1, 2]
    assert (most[0], kept._making) == (1, {})
