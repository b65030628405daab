"""What was computed lately, kept for as long as there is room; several threads of the service ask at once."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

Value = TypeVar("Value")


class _Maker:
    """Who makes a value, and how many make it or wait for it."""

    def __init__(self) -> None:
        self.lock, self.users = threading.Lock(), 0


class Lately(Generic[Value]):
    """At most `most` values by their keys; the longest unused goes first."""

    def __init__(self, most: int) -> None:
        self._most, self._lock = most, threading.Lock()
        self._kept: OrderedDict[Hashable, Value] = OrderedDict()
        self._making: dict[Hashable, _Maker] = {}

    def get(self, key: Hashable) -> Value | None:
        """What is kept under a key; None where nothing is, or is not any more."""
        with self._lock:
            if key in self._kept:
                self._kept.move_to_end(key)
            return self._kept.get(key)

    def put(self, key: Hashable, value: Value) -> Value:
        """Keep a value, which is returned."""
        with self._lock:
            self._kept[key] = value
            self._kept.move_to_end(key)
            while len(self._kept) > self._most:
                self._kept.popitem(last=False)
        return value

    def of(self, key: Hashable, make: Callable[[], Value], *, still: Callable[[Value], bool] = lambda kept: True) -> Value:
        """What is kept under a key and `still` right, or else is made; those who ask meanwhile wait for it rather than make it too."""
        with self._lock:
            maker = self._making.setdefault(key, _Maker())
            maker.users += 1
        try:
            with maker.lock:
                found = self.get(key)
                return self.put(key, make()) if found is None or not still(found) else found
        finally:
            with self._lock:  # the last one out removes it: as long as anybody waits for it, all wait for the same
                maker.users -= 1
                if not maker.users:
                    del self._making[key]

    def clear(self) -> None:
        """Forget everything."""
        with self._lock:
            self._kept.clear()


class LatelyMade(Generic[Value]):
    """Values that are made of parts, kept by their keys for as long as the parts are the very same objects.

    Comparing large parts by what they hold would cost more than most of what is made of them.
    """

    def __init__(self, most: int) -> None:
        self._kept: Lately[tuple[tuple[object, ...], Value]] = Lately(most)

    def of(self, key: Hashable, parts: tuple[object, ...], make: Callable[[], Value]) -> Value:
        """What is kept of these parts under a key, or else is made."""
        kept = self._kept.get(key)
        if kept is None or len(kept[0]) != len(parts) or any(one is not other for one, other in zip(kept[0], parts, strict=True)):
            kept = self._kept.put(key, (parts, make()))
        return kept[1]

    def clear(self) -> None:
        """Forget everything."""
        self._kept.clear()
